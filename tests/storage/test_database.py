"""Migrations match the models; writes do not get lost; exact values come back exact."""

import threading
from decimal import Decimal
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from sqlalchemy import func, select, text
from sqlalchemy.exc import IntegrityError

from backsquat.storage.database import Database
from backsquat.storage.migrate import Unmigratable, migrate
from backsquat.storage.models import Base, PlateRow, RoomRow, Squad


@pytest.fixture
def database(tmp_path: Path) -> Database:
    migrate(tmp_path / "d.sqlite3")
    return Database(tmp_path / "d.sqlite3")


def test_the_migrations_make_what_the_models_say(database: Database) -> None:
    with database.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, Base.metadata) == []


def test_migrating_again_changes_nothing(database: Database) -> None:
    with database.writing() as session:
        session.add(Squad(club="a", name="b"))
    migrate(database.path)
    with database.reader() as session:
        assert session.scalar(select(func.count()).select_from(Squad)) == 1


def test_a_file_that_is_no_database_is_said_so(tmp_path: Path) -> None:
    path = tmp_path / "broken.sqlite3"
    path.write_text("this is not a database at all, only some text that is long enough" * 20)
    with pytest.raises(Unmigratable):
        migrate(path)


def test_wal_foreign_keys_and_rollback(database: Database) -> None:
    with database.reader() as session:
        assert session.scalar(text("PRAGMA journal_mode")) == "wal"
        assert session.scalar(text("PRAGMA foreign_keys")) == 1
    with pytest.raises(IntegrityError), database.writing() as session:
        session.add(Squad(club="a", name="b"))
        session.add(PlateRow(room_id=999, amount=Decimal(1), unit="kg", pairs=1, diameter_mm=1))
    with database.reader() as session:
        assert session.scalar(select(func.count()).select_from(Squad)) == 0


def test_decimals_come_back_exact(database: Database) -> None:
    with database.writing() as session:
        session.add(RoomRow(name="r", collars=Decimal("0.1")))
    with database.reader() as session:
        assert session.scalars(select(RoomRow.collars)).one() == Decimal("0.1")


def test_no_write_of_many_threads_is_lost(database: Database) -> None:
    def write() -> None:
        for _ in range(25):
            with database.writing() as session:
                session.add(Squad(club="c", name="n"))

    threads = [threading.Thread(target=write) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with database.reader() as session:
        assert session.scalar(select(func.count()).select_from(Squad)) == 150
