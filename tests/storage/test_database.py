"""Migrations match the models; writes do not get lost; exact values come back exact."""

import json
import threading
from decimal import Decimal
from pathlib import Path

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from sqlalchemy import func, select, text
from sqlalchemy.exc import IntegrityError

from backsquat.core.working import Working
from backsquat.storage.database import Database, make_engine
from backsquat.storage.migrate import Unmigratable, config, migrate
from backsquat.storage.models import (
    Absence,
    Base,
    Block,
    Cell,
    Change,
    DecisionRow,
    LevelMove,
    PlateRow,
    ReadinessClearance,
    RoomRow,
    SetEntry,
    Squad,
)
from backsquat.storage.stamps import TABLE as STAMPS
from backsquat.ui.phrases.working import said
from tests.empty import empty_data


@pytest.fixture
def database(tmp_path: Path) -> Database:
    empty_data(tmp_path / "d.sqlite3")
    return Database(tmp_path / "d.sqlite3")


def of_the_models(name: str | None, kind: str, _parents: object) -> bool:
    return kind != "table" or name != STAMPS


def test_the_migrations_make_what_the_models_say(database: Database) -> None:
    with database.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True, "include_name": of_the_models})
        assert compare_metadata(context, Base.metadata) == []


def test_migrating_again_changes_nothing(database: Database) -> None:
    with database.writing() as db:
        db.add(Squad(club="a", name="b"))
    migrate(database.path)
    with database.reader() as db:
        assert db.scalar(select(func.count()).select_from(Squad)) == 1


def test_a_file_that_is_no_database_is_said_so(tmp_path: Path) -> None:
    path = tmp_path / "broken.sqlite3"
    path.write_text("this is not a database at all, only some text that is long enough" * 20)
    with pytest.raises(Unmigratable):
        migrate(path)


def test_wal_foreign_keys_and_rollback(database: Database) -> None:
    with database.reader() as db:
        assert db.scalar(text("PRAGMA journal_mode")) == "wal"
        assert db.scalar(text("PRAGMA foreign_keys")) == 1
    with pytest.raises(IntegrityError), database.writing() as db:
        db.add(Squad(club="a", name="b"))
        db.add(PlateRow(room_id=999, amount=Decimal(1), unit="kg", pairs=1, diameter_mm=1))
    with database.reader() as db:
        assert db.scalar(select(func.count()).select_from(Squad)) == 0


def test_decimals_come_back_exact(database: Database) -> None:
    with database.writing() as db:
        db.add(RoomRow(squad_id=1, name="r", collars=Decimal("0.1")))
    with database.reader() as db:
        assert db.scalars(select(RoomRow.collars)).one() == Decimal("0.1")


def test_no_write_of_many_threads_is_lost(database: Database) -> None:
    def write() -> None:
        for _ in range(25):
            with database.writing() as db:
                db.add(Squad(club="c", name="n"))

    threads = [threading.Thread(target=write) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with database.reader() as db:
        assert db.scalar(select(func.count()).select_from(Squad)) == 150


def test_older_rows_keep_what_they_meant(tmp_path: Path) -> None:
    """Who was let through by the old tick has an override; logged hinges are hinges."""
    path = tmp_path / "old.sqlite3"
    migrate(path, "20261125_first")
    database = Database(path)
    with database.writing() as db:
        run = db.connection().exec_driver_sql
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
    with Database(path).reader() as db:
        overrides = db.scalars(select(ReadinessClearance)).all()
        assert {(row.athlete_id, row.by_id, row.ended) for row in overrides} == {(1, 7, False)}
        assert {row.readiness_check for row in overrides} == {"barbell", "pull", "thrust"}, (
            "any bar was meant by the old readiness check"
        )
        families = dict(db.execute(select(SetEntry.movement, SetEntry.family).distinct()).all())  # type: ignore[arg-type]
        assert families == {"back_squat": "squat", "romanian_deadlift": "hinge"}
        assert set(db.scalars(select(SetEntry.carried_kg))) == {0.0}


def old_house(path: Path) -> None:
    """A database as it was before sessions were rows, with one of everything that moved."""
    migrate(path, "each_athlete")
    database = Database(path)
    with database.writing() as db:
        run = db.connection().exec_driver_sql

        def put(table: str, **values: object) -> None:
            marks = ", ".join("?" for _ in values)
            run(f"INSERT INTO {table} ({', '.join(values)}) VALUES ({marks})", tuple(values.values()))

        signed = {"by_id": 1, "at": "2026-11-01 08:00:00"}
        put("squads", id=1, club="a", name="b")
        put("users", id=1, sign_in="c", name="Coach", password_hash="x", active=1)
        put(
            "athletes",
            id=1,
            squad_id=1,
            name="A",
            born_on="2000-01-01",
            position="",
            newcomer=0,
            consent=0,
            active=1,
            **signed,
        )
        put("blocks", id=1, squad_id=1, name="B", first_week="2026-11-02", weeks=3, in_season=0, **signed)
        for slot, weekday in ((1, 0), (2, 2), (3, 0)):
            put(
                "block_slots",
                id=slot,
                block_id=1,
                place=slot,
                weekday=weekday,
                movement="back_squat",
                school="wave",
                parameters="{}",
            )
        cell = {
            "sets": 3,
            "reps": 5,
            "reserve_reps": 2,
            "wave": 0,
            "state": "load",
            "bar": "b",
            "load_unit": "kg",
            "side": "[]",
        }
        cell |= {"over_cap": 0, "held": 0, "kind": "work", "athlete_id": 1, "slot_id": 1, "current": 1, "live": 0}
        working = '[{"label": "Coach", "words": "changed it", "output": "80", "unit": "kg"}]'
        put(
            "cells",
            id=1,
            week=0,
            origin="plan",
            inputs='{"target_kg": 81.5, "why": "", "by_ratio": true}',
            working=working,
            load_kg=80,
            **cell,
            **signed,
        )
        rung = '{"why": "gate", "decision_of": 1, "by_ratio": false}'
        put(
            "cells",
            id=2,
            week=1,
            origin="decision",
            inputs=rung,
            working="[]",
            movement="goblet_squat",
            **cell | {"state": "rung"},
            **signed,
        )
        logged = {
            "athlete_id": 1,
            "movement": "back_squat",
            "done_on": "2026-11-02",
            "effort": "work",
            "load_amount": "80",
        }
        logged |= {"load_unit": "kg", "load_kg": 80, "reps": 5, "reps_to_depth": 5, "depth_standard": "d", "fault": ""}
        logged |= {
            "fault_breaking": 0,
            "pain": 0,
            "pain_character": "",
            "trust": 2,
            "firm": 1,
            "cell_id": 1,
            "family": "squat",
        }
        put(
            "set_entries",
            id=1,
            client_id="1",
            set_number=1,
            pain_place="knee",
            withdrawn=0,
            replaced=0,
            **logged,
            **signed,
        )
        put(
            "set_entries", id=2, client_id="2", set_number=2, pain_place="", withdrawn=0, replaced=1, **logged, **signed
        )
        put(
            "set_entries",
            id=3,
            client_id="3",
            set_number=2,
            pain_place="",
            withdrawn=1,
            replaced=0,
            corrects_id=2,
            **logged,
            **signed,
        )
        effect = '{"share": 0.95, "steps": 2, "hold": true, "reps": 6, "next_load": "80", "next_reps": 6}'
        put(
            "decisions",
            id=1,
            cell_id=1,
            athlete_id=1,
            movement="back_squat",
            done_on="2026-11-02",
            code="down",
            reason="missed",
            facts='{"missing": 2}',
            evidence="[1]",
            effect=effect,
            would_change="all_reps",
            settled=0,
            **signed,
        )
        put(
            "absences",
            id=1,
            athlete_id=1,
            first_on="2026-10-01",
            why="away",
            cleared="",
            movement="",
            place="",
            weeks="[[0.8, 0.5], [0.9, 0.7]]",
            withdrawn=0,
            **signed,
        )
        put(
            "rung_moves",
            id=1,
            athlete_id=1,
            ladder="hinge",
            rung=0,
            movement="m",
            way="placed",
            reason="screens: by the brace screen",
            facts="{}",
            **signed,
        )
        before = '{"slot": 1, "courses": {"1": null}, "values": {"place": 2}}'
        put(
            "changes",
            id=1,
            squad_id=1,
            what="course_changed",
            subject="slots",
            subject_id=1,
            before=before,
            undone=0,
            **signed,
        )
    database.close()


def test_the_house_before_moves_in_whole(tmp_path: Path) -> None:
    path = tmp_path / "old.sqlite3"
    old_house(path)
    migrate(path)
    database = Database(path)
    with database.reader() as db:
        block = db.get_one(Block, 1)
        assert [(exercise.id, exercise.weekday, exercise.position) for exercise in block.exercises] == [
            (1, 0, 1),
            (3, 0, 3),
            (2, 2, 2),
        ]
        assert [day.held_on.isoformat() for day in block.sessions[1].days] == ["2026-11-04", "2026-11-11", "2026-11-18"]
        loaded, level = db.get_one(Cell, 1), db.get_one(Cell, 2)
        assert (loaded.target_kg, loaded.stands_in, loaded.decided_on_id, loaded.inputs) == (81.5, "", None, {})
        assert loaded.by_ratio and not level.by_ratio
        assert (level.target_kg, level.stands_in, level.decided_on_id) == (None, "readiness_check", 1)
        (step,) = Working.from_plain(loaded.working).steps
        assert said(step) == ("Coach", "changed it", "80", "kg"), "what was published keeps its words"
        assert [entry.standing for entry in db.scalars(select(SetEntry).order_by(SetEntry.id))] == [True, False, False]
        assert db.get_one(SetEntry, 1).pain_region == "knee"
        row = db.get_one(DecisionRow, 1)
        assert (row.planning_max_share, row.steps, row.hold, row.next_reps, row.missing_reps) == (0.95, 2, True, 6, 2)
        assert row.following == {"next_load": "80", "next_reps": 6}
        weeks = db.get_one(Absence, 1).weeks
        assert [(week.load_share, week.sets_share) for week in weeks] == [(0.8, 0.5), (0.9, 0.7)]
        assert db.get_one(LevelMove, 1).reason == "screens:brace"
        change = db.get_one(Change, 1)
        assert (change.what, change.before) == (
            "setting_changed",
            {"exercise": 1, "settings": {"1": None}, "values": {"position": 2}},
        )
    database.close()


def test_and_can_move_out_again(tmp_path: Path) -> None:
    path = tmp_path / "old.sqlite3"
    old_house(path)

    def plain(value: object) -> object:
        return json.loads(value) if isinstance(value, str) and value[:1] in ("[", "{") else value

    def rows() -> dict[str, list[object]]:
        engine = make_engine(path)
        with engine.connect() as connection:
            found = {
                table: [
                    [plain(value) for value in row]
                    for row in connection.exec_driver_sql(f"SELECT {columns} FROM {table} ORDER BY 1").fetchall()
                ]
                for table, columns in OLD_COLUMNS.items()
            }
        engine.dispose()
        return found

    before = rows()
    migrate(path)
    engine = make_engine(path, foreign_keys=False)
    with engine.begin() as connection:
        settings = config()
        settings.attributes["connection"] = connection
        command.downgrade(settings, "each_athlete")
    engine.dispose()
    assert rows() == before


OLD_COLUMNS = {
    "block_slots": "id, place, weekday",
    "set_entries": "id, replaced, withdrawn, pain_place",
    "absences": "place, weeks",
    "rung_moves": "reason",
    "cells": "id, working, json_extract(inputs, '$.by_ratio')",
    "changes": "what, before",
}


def test_whoever_only_reads_cannot_write(database: Database) -> None:
    with database.writing() as db:
        db.add(Squad(club="a", name="b"))
    for change in (lambda s: s.add(Squad(club="c", name="d")), lambda s: setattr(s.get_one(Squad, 1), "name", "other")):
        with database.reader() as db:
            change(db)
            with pytest.raises(RuntimeError, match="only reads"):
                db.flush()
            with pytest.raises(RuntimeError, match="only reads"):
                db.commit()
    with database.reader() as db:
        assert [(one.club, one.name) for one in db.scalars(select(Squad))] == [("a", "b")]
