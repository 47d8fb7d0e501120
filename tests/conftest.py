"""Shared fixtures: the demo club built once, copied for whoever changes it."""

import hashlib
import re
import shutil
import tempfile
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from filelock import FileLock
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import HealthCheck, settings
from jinja2 import FileSystemBytecodeCache
from sqlalchemy import Engine, event
from werkzeug.test import TestResponse

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.demo.club import build
from backsquat.storage.cache import READING
from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate
from backsquat.storage.models import Base
from backsquat.storage.stamps import PLAN, UNSTAMPED, of_athletes
from tests.demo_club import user_id

# What tests read of a page is what a browser shows of it: lines of a template may break anywhere.
TestResponse.text = property(lambda self: " ".join(self.get_data(as_text=True).split()))  # type: ignore[assignment]

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/backsquat"
KEPT_DEMOS, DEMOS_KEPT = ROOT / "var/tests", 4  # one edits, goes back, runs a second suite beside

settings.register_profile("ours", max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("ours")


@pytest.fixture(scope="session")
def demo_file() -> Path:
    """The demo database, made once for a state of the source: the first worker that needs it makes it for all."""
    KEPT_DEMOS.mkdir(parents=True, exist_ok=True)
    path = KEPT_DEMOS / f"{_state_of_source()}.sqlite3"
    with FileLock(KEPT_DEMOS / "lock"):
        if not path.exists():
            for old in sorted(KEPT_DEMOS.glob("*.sqlite3*"), key=lambda one: one.stat().st_mtime)[: -DEMOS_KEPT + 1]:
                old.unlink()
            with tempfile.TemporaryDirectory(dir=KEPT_DEMOS) as folder:
                _make_demo(Path(folder) / "making.sqlite3")
                (Path(folder) / "making.sqlite3").replace(path)
    return path


def _state_of_source() -> str:
    """A name for all that the demo's data depend on: the product's code and tables of data, and the packages' locks."""
    digest = hashlib.sha256()
    files = [*SOURCE.rglob("*.py"), *SOURCE.rglob("*.toml"), ROOT / "requirements/test.txt"]
    for path in sorted(files):
        digest.update(f"{path.relative_to(ROOT)}\0".encode())
        digest.update(path.read_bytes())
    return digest.hexdigest()[:24]


def _make_demo(path: Path) -> None:
    migrate(path)
    database = Database(path)
    with database.writing() as db:
        build(db, hash_cost=1)
    database.settle()
    database.close()


@pytest.fixture(scope="session")
def one_app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Flask]:
    """The application of a worker. It keeps nothing but its settings: what it knows is in the data under it."""
    folder = tmp_path_factory.mktemp("one-app")
    app = create_app(Config(folder, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    app.config["WTF_CSRF_ENABLED"] = False
    app.jinja_env.bytecode_cache = COMPILED  # some tests make an application of their own; templates are the same
    yield app
    app.extensions["database"].close()


COMPILED = FileSystemBytecodeCache(tempfile.mkdtemp(prefix="backsquat-templates-"))


@pytest.fixture
def app(demo_file: Path, one_app: Flask) -> Iterator[Flask]:
    """The application on a fresh copy of the demo, without CSRF tokens: tests of their own check those."""
    put_data(one_app, demo_file)
    one_app.extensions["slow"].forget()
    settings_before = dict(one_app.config)
    yield one_app
    one_app.config.clear()
    one_app.config.update(settings_before)


def put_data(app: Flask, data: Path) -> None:
    """Put a copy of a data file under the application."""
    database = app.extensions["database"]
    database.close()  # its connections, which would go on reading the file that goes
    for path in database.path.parent.glob(f"{database.path.name}*"):
        path.unlink()
    shutil.copy(data, database.path)


@pytest.fixture
def client(app: Flask) -> FlaskClient:
    """Signed in as the head coach."""
    client = app.test_client()
    client.post("/demo-sign-in/1")
    return client


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What needs the demo first: one worker builds it while the other begins at the far end, with what does not."""
    items.sort(key=lambda item: "demo_file" not in getattr(item, "fixturenames", ()))


@pytest.fixture
def assistant(app: Flask) -> FlaskClient:
    client = app.test_client()
    client.post(f"/demo-sign-in/{user_id(app, 'lund')}")
    return client


@pytest.fixture
def physio(app: Flask) -> FlaskClient:
    client = app.test_client()
    client.post(f"/demo-sign-in/{user_id(app, 'ferro')}")
    return client


@event.listens_for(Engine, "before_cursor_execute")
def held_to_its_tables(_c: Any, _k: Any, statement: str, _p: Any, _x: Any, _m: Any) -> None:
    """Whatever is read to be kept, in any test: of no table whose writes would not be noticed."""
    if may := READING.get():
        allowed = (PLAN if may.plan else set()) | (OF_ONE if may.athletes else set())
        wrong = tables_of(statement) & (UNSTAMPED | PLAN | OF_ONE) - allowed
        assert not wrong, f"kept, but would not be told when they change: {wrong} in {statement}"


@cache
def tables_of(statement: str) -> frozenset[str]:
    """Tables that stand in a statement, by their names before a column or after FROM and JOIN."""
    found = re.findall(r"(\w+)\.\w+|(?:FROM|JOIN) (\w+)", statement)
    return frozenset(name for pair in found for name in pair if name in Base.metadata.tables)


OF_ONE = {table.name for table in Base.metadata.sorted_tables if of_athletes(table)}
