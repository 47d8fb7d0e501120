"""One word one meaning: names in code are the glossary's, no class name stands twice, no word that went comes back."""

import ast
import re
from collections import defaultdict
from pathlib import Path

import pytest

import backsquat
from backsquat.storage.models import Base

SOURCE = Path(backsquat.__file__).parent
CODE = [path for path in SOURCE.rglob("*.py") if "versions" not in path.parts]
ROOT = SOURCE.parents[1]
GLOSSARY = ROOT / "docs/GLOSSARY.md"
WENT = re.compile(r"slots?|schools?|rungs?|gates?|gated|mends?|anew")
HOUSES = {"AT_SCHOOL", "school_hall"}  # a made-up room of that name
PARTS = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z0-9]+")


def modules() -> list[tuple[Path, ast.Module]]:
    """Every module of the product; migrations speak of tables as they were."""
    return [(path, ast.parse(path.read_text("utf-8"))) for path in CODE]


def named(tree: ast.Module) -> set[str]:
    """What a module names itself: classes, functions, parameters, fields and variables."""
    names = set()
    for node in ast.walk(tree):
        if isinstance(node, (ast.ClassDef, ast.FunctionDef)):
            names.add(node.name)
        elif isinstance(node, ast.arg):
            names.add(node.arg)
        elif isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
            names.add(node.id)
    return names


def parts(name: str) -> set[str]:
    return {part.lower() for part in PARTS.findall(name)}


def test_no_class_name_stands_in_two_files() -> None:
    where: dict[str, set[str]] = defaultdict(set)
    for path, tree in modules():
        for node in ast.walk(tree):
            if isinstance(node, ast.ClassDef):
                where[node.name].add(str(path.relative_to(SOURCE)))
    assert not {name: paths for name, paths in where.items() if len(paths) > 1}


def test_no_name_tables_and_files_included_is_a_word_that_went() -> None:
    wrong = {
        f"{path.relative_to(SOURCE)}: {name}"
        for path, tree in modules()
        for name in named(tree) | {path.stem}
        if any(WENT.fullmatch(part) for part in parts(name)) and name not in HOUSES
    }
    for table in Base.metadata.tables.values():
        wrong |= {
            f"{table.name}.{name}"
            for name in (table.name, *table.columns.keys())
            if any(WENT.fullmatch(part) for part in parts(name))
        }
    assert not wrong


def test_the_databases_session_is_db_and_a_session_is_training() -> None:
    wrong = [
        f"{path.relative_to(SOURCE)}:{node.lineno}"
        for path, tree in modules()
        if "core" not in path.parts
        for node in ast.walk(tree)
        if isinstance(node, ast.arg) and node.arg == "session" and node.annotation is not None
        if ast.unparse(node.annotation) in ("Session", "Database") and "sqlalchemy" in path.read_text("utf-8")
        if "core.sessions.session" not in path.read_text("utf-8")
    ]
    assert not wrong


def rows() -> list[list[str]]:
    """The glossary's table: words, meaning, name in code, unit."""
    lines = GLOSSARY.read_text("utf-8").splitlines()
    return [[cell.strip() for cell in line.strip("|").split("|")] for line in lines if line.startswith("| ")][2:]


def test_a_word_is_explained_once() -> None:
    words = [word.strip() for row in rows() for word in row[0].split(",")]
    twice = {word for word in words if words.count(word) > 1}
    assert len(words) > 120 and not twice


@pytest.mark.parametrize("row", rows(), ids=lambda row: row[0][:40])
def test_the_glossarys_names_are_in_the_code(row: list[str]) -> None:
    code = "\n".join(path.read_text("utf-8") for path in CODE)
    for name in re.findall(r"`([^`]+)`", row[2]):
        if "/" in name:
            assert (SOURCE / name).exists() or (ROOT / name).exists() or list(SOURCE.glob(f"*/{name}*")), name
        else:
            for part in name.split("."):
                assert re.search(rf"\b{re.escape(part)}\b", code), name
