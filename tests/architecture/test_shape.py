"""The house rules that can be checked: documents are true, files are small, nothing leaves the machine."""

import ast
import re
from pathlib import Path

import pytest

from backsquat.core.progression.parameters import lines as parameter_lines
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.rules import Rules, lines

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src/backsquat"


def test_every_default_has_its_line_in_the_rules_document() -> None:
    document = (ROOT / "docs/RULES.md").read_text("utf-8")
    for line in lines(Rules()):
        assert re.search(
            rf"^\| `{line.name}` \|.*\| {re.escape(str(line.default))} \|.*{re.escape(line.source)}", document, re.M
        ), line.name
    for progression in PROGRESSIONS.values():
        for line in parameter_lines(progression.kind):
            row = rf"^\| `{progression.code}.{line.name}` \|.*\| {re.escape(line.source)} \|"
            assert re.search(row, document, re.M), (progression.code, line.name)


def test_every_screen_work_and_core_word_is_on_the_map() -> None:
    document = (ROOT / "docs/MAP.md").read_text("utf-8")
    for folder in ("pages", "work", "core"):
        for word in (SOURCE / folder).iterdir():
            if word.is_dir() and word.name != "__pycache__":
                assert f"`{folder}/{word.name}`" in document, word


def test_every_path_the_documents_name_is_there() -> None:
    for name in ("docs/MAP.md", "CONTRIBUTING.md", "docs/RULES.md"):
        text = (ROOT / name).read_text("utf-8")
        for path in re.findall(r"`((?:core|work|pages|ui|storage|library|demo|tests|docs|tools)/[\w./-]+)`", text):
            there = (ROOT if path.split("/")[0] in ("tests", "docs", "tools") else SOURCE) / path
            assert there.exists(), (name, path)


def test_every_rule_number_in_the_code_is_in_the_rules_document() -> None:
    document = (ROOT / "docs/RULES.md").read_text("utf-8")
    for path in SOURCE.rglob("*.py"):
        for numbers in re.findall(r"\brules? (2\.\d+(?:(?:, | and )2\.\d+)*)", path.read_text("utf-8")):
            for number in re.findall(r"2\.\d+", numbers):
                assert re.search(rf"\b{re.escape(number)}\b", document), (path, number)


def test_no_line_of_a_template_is_too_long_to_read() -> None:
    for path in SOURCE.rglob("*.html"):
        for n, line in enumerate(path.read_text("utf-8").splitlines(), 1):
            assert len(line) <= 120, (path, n)


def test_the_formatter_is_off_for_tables_of_data_only() -> None:
    for path in SOURCE.rglob("*.py"):
        for line in path.read_text("utf-8").splitlines():
            if "fmt: skip" in line and "versions" not in path.parts:  # migrations are left as they were made
                assert re.match(r"[\])}]+ *", line), (path, line)  # the end of a table at module level


def test_every_public_name_of_the_core_says_what_it_means() -> None:
    missing = []
    for path in (SOURCE / "core").rglob("*.py"):
        top = ast.parse(path.read_text("utf-8")).body
        inside = [node for item in top if isinstance(item, ast.ClassDef) for node in item.body]
        for node in [*top, *inside]:
            public = isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_")
            if public and not ast.get_docstring(node):
                missing.append(f"{path.name}:{node.name}")
    assert missing == []


def test_no_module_has_grown_too_large_or_has_a_name_that_says_nothing() -> None:
    for path in [*SOURCE.rglob("*.py"), *(ROOT / "tests").rglob("*.py")]:
        if "versions" in path.parts:  # written by the migration tool
            continue
        assert len(path.read_text("utf-8").splitlines()) <= 420, path
        assert path.stem not in {"utils", "helpers", "common", "misc"}, path


def test_nobody_but_the_clock_asks_for_the_time() -> None:
    for path in SOURCE.rglob("*.py"):
        if path.name != "clock.py":
            assert not re.search(
                r"\.(today|now|utcnow)\(\)", path.read_text("utf-8").replace("clock().", "clock() ")
            ), path


def test_templates_have_no_styles_or_scripts_of_their_own() -> None:
    for path in SOURCE.rglob("*.html"):
        text = path.read_text("utf-8")
        assert not re.search(r"\sstyle=|<style|<script(?![^>]*src=)|\son\w+=|\|\s*safe", text), path
        assert not re.search(r"https?://(?!www\.w3\.org)", text), path


def test_shipped_files_have_their_licences_listed() -> None:
    listed = (SOURCE / "ui/static/vendor/LICENCES.md").read_text("utf-8")
    for package in ("bootstrap", "htmx.org", "@alpinejs/csp", "@fontsource/barlow", "@fontsource/barlow-condensed"):
        assert re.search(rf"^\| {re.escape(package)} \| [\d.]+ \| \S+ \|", listed, re.M), package


ROOT_COLOURS = ["ink", "quiet", "action", "attention", "hold", "earned"]
FAMILY_COLOURS = ["squat", "hinge", "single-leg", "curl", "thrust", "others"]


def hex_colours() -> dict[str, str]:
    css = (SOURCE / "ui/static/styles/tokens.css").read_text("utf-8")
    root = dict(re.findall(r"--([a-z0-9-]+): ([^;]+);", " ".join(re.findall(r":root {([^}]*)}", css))))
    named = {name: root.get(value.removeprefix("var(--").removesuffix(")"), value) for name, value in root.items()}
    return {name: colour for name, colour in named.items() if re.fullmatch("#[0-9a-f]{6}", colour)}


def test_no_colour_is_written_twice() -> None:
    css = " ".join(path.read_text("utf-8") for path in (SOURCE / "ui/static/styles").glob("*.css"))
    written = re.findall(r"#[0-9a-f]{3,8}\b|rgba?\([^)]*\)", css)
    assert sorted({colour for colour in written if written.count(colour) > 1}) == []


def contrast(one: str, other: str) -> float:
    def light(colour: str) -> float:
        parts = [int(colour[n : n + 2], 16) / 255 for n in (1, 3, 5)]
        r, g, b = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
        return 0.2126 * r + 0.7152 * g + 0.0722 * b

    low, high = sorted((light(one), light(other)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("name", [*ROOT_COLOURS, *FAMILY_COLOURS])
def test_text_colours_have_enough_contrast_on_paper_and_card(name: str) -> None:
    colours = hex_colours()
    for ground in ("paper", "card"):
        assert contrast(colours[name], colours[ground]) >= 4.5, (name, ground)


@pytest.mark.parametrize("colour", ["#f1eee6", "#a7b1b6", "#7ec8cc", "#f2a184", "#e0b765", "#9cc795", "#c4cbcf"])
def test_floor_colours_have_enough_contrast_on_iron(colour: str) -> None:
    assert contrast(colour, "#14181b") >= 4.5 and contrast(colour, "#1c2226") >= 4.5
