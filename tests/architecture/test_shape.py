"""The house rules that can be checked: documents are true, files are small, nothing leaves the machine."""

import re
from pathlib import Path

import pytest

from backsquat.core.progression.parameters import lines as parameter_lines
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.rules import Rules, lines

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src/backsquat"


def test_every_default_has_its_line_in_the_rules_document() -> None:
    document = (ROOT / "docs/RULES.md").read_text("utf-8")
    for line in lines(Rules()):
        assert re.search(
            rf"^\| `{line.name}` \|.*\| {re.escape(str(line.default))} \|.*{re.escape(line.source)}",
            document,
            re.M,
        ), line.name
    for school in SCHOOLS.values():
        for line in parameter_lines(school.kind):
            row = rf"^\| `{school.code}.{line.name}` \|.*\| {re.escape(line.source)} \|"
            assert re.search(row, document, re.M), (school.code, line.name)


def test_every_feature_and_core_word_is_on_the_map() -> None:
    document = (ROOT / "docs/MAP.md").read_text("utf-8")
    for folder in ("features", "core"):
        for word in (SOURCE / folder).iterdir():
            if word.is_dir() and word.name != "__pycache__":
                assert f"`{folder}/{word.name}`" in document, word


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
    for package in (
        "bootstrap",
        "htmx.org",
        "@alpinejs/csp",
        "@fontsource/barlow",
        "@fontsource/barlow-condensed",
    ):
        assert re.search(rf"^\| {re.escape(package)} \| [\d.]+ \| \S+ \|", listed, re.M), package


ROOT_COLOURS = ["ink", "quiet", "action", "attention", "hold", "earned"]
FAMILY_COLOURS = ["squat", "hinge", "single-leg", "curl", "thrust", "others"]


def hex_colours() -> dict[str, str]:
    css = (SOURCE / "ui/static/app.css").read_text("utf-8")
    return {
        name: colour
        for block in re.findall(r":root {([^}]*)}", css)
        for name, colour in re.findall(r"--([a-z-]+): (#[0-9a-f]{6});", block)
    }


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


@pytest.mark.parametrize(
    "colour", ["#f1eee6", "#a7b1b6", "#7ec8cc", "#f2a184", "#e0b765", "#9cc795", "#c4cbcf"]
)
def test_floor_colours_have_enough_contrast_on_iron(colour: str) -> None:
    assert contrast(colour, "#14181b") >= 4.5 and contrast(colour, "#1c2226") >= 4.5
