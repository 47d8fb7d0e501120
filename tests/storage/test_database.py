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
from backsquat.storage.models import Base, GateOverride, PlateRow, RoomRow, SetEntry, Squad


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
        session.add(RoomRow(squad_id=1, name="r", collars=Decimal("0.1")))
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


def test_older_rows_keep_what_they_meant(tmp_path: Path) -> None:
    """Who was let through by the old tick has an override; logged hinges are hinges."""
    path = tmp_path / "old.sqlite3"
    migrate(path, "20261125_first")
    database = Database(path)
    with database.writing() as session:
        run = session.connection().exec_driver_sql
        run("INSERT INTO squads (id, club, name) VALUES (1, 'a', 'b')")
        run("INSERT INTO users (id, sign_in, name, password_hash, active) VALUES (7, 'c', 'Coach', 'x', 1)")
        for number, shown in ((1, 1), (2, 0)):
            run(
                "INSERT INTO athletes (id, squad_id, name, born_on, position, newcomer, shown_sound, consent, active, by_id, at) "
                "VALUES (?, 1, ?, '2000-01-01', '', 0, ?, 0, 1, 7, '2026-10-01 08:00:00')",
                (number, f"A{number}", shown),
            )
            for movement in ("back_squat", "romanian_deadlift"):
                run(
                    "INSERT INTO set_entries (client_id, athlete_id, movement, done_on, effort, set_number, load_amount, "
                    "load_unit, load_kg, reps, reps_to_depth, depth_standard, fault, fault_breaking, pain, pain_place, "
                    "pain_character, trust, firm, withdrawn, replaced, by_id, at) VALUES (?, ?, ?, '2026-10-02', 'work', 1, "
                    "'80', 'kg', 80, 5, 5, 'd', '', 0, 0, '', '', 2, 1, 0, 0, 7, '2026-10-02 18:00:00')",
                    (f"{number}{movement}", number, movement),
                )
    database.close()
    migrate(path)
    with Database(path).reader() as session:
        override = session.scalars(select(GateOverride)).one()
        assert (override.athlete_id, override.by_id, override.ended) == (1, 7, False)
        families = dict(session.execute(select(SetEntry.movement, SetEntry.family).distinct()).all())  # type: ignore[arg-type]
        assert families == {"back_squat": "squat", "romanian_deadlift": "hinge"}
        assert set(session.scalars(select(SetEntry.carried_kg))) == {0.0}
