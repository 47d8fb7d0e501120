"""The layers hold: what may import what is said in pyproject.toml, tried here with forbidden imports of each kind."""

import ast
import os
import re
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src/backsquat"
CORE_MAY = {  # of the standard library: no clock, no chance, no files, no database
    *("bisect", "collections", "dataclasses", "datetime", "decimal", "enum", "functools", "itertools"),
    *("math", "statistics", "typing", "unicodedata"),
}
OF_THE_DATABASE = re.compile(r"sqlite|PRAGMA|exec_driver_sql|\bANALYZE\b|func\.(date|strftime|json)")
SQL_WORDS = {"select", "insert", "update", "delete", "func", "text"}
SESSION_WORDS = {"execute", "scalars", "scalar", "get_one", "add", "add_all", "flush", "commit", "rollback"}


def imports(path: Path) -> Iterator[tuple[str, str]]:
    """Module and name of every import of a file."""
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            yield from ((alias.name, "") for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield from ((node.module or "", alias.name) for alias in node.names)


def outside_the_core(path: Path) -> list[str]:
    """What a file of the core imports beside the core and the allowed part of the standard library."""
    return [
        module
        for module, _ in imports(path)
        if not module.startswith("backsquat.core") and module.split(".")[0] not in CORE_MAY
    ]


def queries_in(path: Path) -> list[str]:
    """What a file of the pages does that belongs to work: statements made, a session written to."""
    found = [name for module, name in imports(path) if module == "sqlalchemy" and name in SQL_WORDS]
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
            of = node.func.value
            on_session = (isinstance(of, ast.Name) and of.id == "session") or (
                isinstance(of, ast.Call) and isinstance(of.func, ast.Name) and of.func.id == "reader"
            )
            if on_session and node.func.attr in SESSION_WORDS | {"get"}:
                found.append(node.func.attr)
    return found


@pytest.mark.parametrize("path", sorted((SOURCE / "core").rglob("*.py")), ids=lambda p: p.name)
def test_the_core_imports_the_core_and_a_little_of_the_standard_library(path: Path) -> None:
    assert outside_the_core(path) == []


@pytest.mark.parametrize("path", sorted((SOURCE / "pages").rglob("*.py")), ids=lambda p: p.name)
def test_no_route_writes_sql(path: Path) -> None:
    assert queries_in(path) == []


def test_nobody_but_storage_knows_which_database_it_is() -> None:
    for path in SOURCE.rglob("*.py"):
        inside = path.relative_to(SOURCE).parts[0]
        if inside != "storage" and path.name not in ("config.py", "bench.py"):  # a file name; the bare driver
            assert not OF_THE_DATABASE.search(path.read_text("utf-8")), path


@pytest.mark.parametrize("line", ["import time", "import random", "from pathlib import Path", "import sqlite3"])
def test_a_clock_chance_a_file_or_a_database_in_the_core_is_found(tmp_path: Path, line: str) -> None:
    (tmp_path / "rule.py").write_text(f"{line}\n")
    assert outside_the_core(tmp_path / "rule.py")


@pytest.mark.parametrize(
    "line", ["from sqlalchemy import select", "session.execute(1)", "reader().get(Stop, 1)", "session.add(1)"]
)
def test_a_query_in_a_route_is_found(tmp_path: Path, line: str) -> None:
    (tmp_path / "routes.py").write_text(f"{line}\n")
    assert queries_in(tmp_path / "routes.py")


PLANTED = {  # one forbidden import of each kind: file, line, the contract that must break
    "core/loads/mass.py": ("from backsquat.storage import models", "The house"),
    "storage/convert.py": ("from backsquat.work.actor import Actor", "The house"),
    "work/actor.py": ("from backsquat.work.plan import cells", "Work:"),
    "core/movements/pose.py": ("from backsquat.core.progression import plan", "Core:"),
    "pages/season/routes.py": ("from backsquat.pages.review import routes", "Screens"),
    "work/policy.py": ("from flask import request", "Only pages"),
    "ui/drawing/bar.py": ("from sqlalchemy import select", "Only storage"),
}


def broken(source: Path) -> str:
    """What the import rules say of a copy of the source."""
    environment = os.environ | {"PYTHONPATH": str(source), "COLUMNS": "200"}
    command = [str(Path(sys.executable).parent / "lint-imports"), "--config", str(ROOT / "pyproject.toml")]
    done = subprocess.run([*command, "--no-cache"], env=environment, cwd=source, capture_output=True, text=True)
    return done.stdout


def test_a_forbidden_import_of_each_kind_is_found(tmp_path: Path) -> None:
    shutil.copytree(SOURCE, tmp_path / "backsquat", ignore=shutil.ignore_patterns("static", "templates", "__pycache__"))
    for name, (line, _) in PLANTED.items():
        path = tmp_path / "backsquat" / name
        path.write_text(f"{path.read_text('utf-8')}\n{line}\n", "utf-8")
    said = broken(tmp_path)
    for _, contract in PLANTED.values():
        assert re.search(rf"^{contract}.*BROKEN", said, re.M), (contract, said[-3000:])
