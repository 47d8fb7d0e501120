"""Shared fixtures: the demo club built once, copied for whoever changes it."""

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import HealthCheck, settings

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.demo.club import build
from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate

settings.register_profile(
    "ours", max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("ours")


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo database, made once in a test run."""
    path = tmp_path_factory.mktemp("demo") / "backsquat.sqlite3"
    migrate(path)
    database = Database(path)
    with database.writing() as session:
        build(session, hash_cost=1)
    with database.reader() as session:
        session.connection().exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
    database.close()
    return path


def demo_app(demo_file: Path, folder: Path) -> Flask:
    shutil.copy(demo_file, folder / demo_file.name)
    return create_app(Config(folder, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1))


@pytest.fixture
def app(demo_file: Path, tmp_path: Path) -> Iterator[Flask]:
    """The application on a fresh copy of the demo, without CSRF tokens: tests of their own check those."""
    app = demo_app(demo_file, tmp_path)
    app.config["WTF_CSRF_ENABLED"] = False
    yield app
    app.extensions["database"].close()


@pytest.fixture
def client(app: Flask) -> FlaskClient:
    """Signed in as the head coach."""
    client = app.test_client()
    client.post("/demo-sign-in/1")
    return client
