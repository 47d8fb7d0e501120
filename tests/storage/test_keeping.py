"""Copies, restores, whose data it is, and what cannot be used; nothing is written to what is not sound."""

import datetime as dt
import os
import shutil
import sqlite3
import sys
import threading
from collections.abc import Callable
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import event, func, select

from backsquat.cli import run
from backsquat.storage import keeping
from backsquat.storage.database import Database
from backsquat.storage.keeping import DataKind, HeldFile, Unsound, backup, examine, held, mark, nightly, restore
from backsquat.storage.migrate import migrate
from backsquat.storage.models import AuditLine, SetEntry, Squad
from backsquat.work.audit import note_of
from tests.demo_club import live_cell, reading
from tests.empty import empty_data

NOW = dt.datetime(2026, 11, 26, 12, 0, 5)


@pytest.fixture
def own(tmp_path: Path) -> Path:
    path = tmp_path / "backsquat.sqlite3"
    empty_data(path)
    mark(path, DataKind.OWN)
    database = Database(path)
    with database.writing() as db:
        db.add(Squad(club="C", name="before"))
    database.close()
    return path


def name_in(path: Path) -> str:
    database = Database(path)
    with database.reader() as db:
        found = db.scalars(select(Squad.name)).one()
    database.close()
    return found


def rename(path: Path, name: str) -> None:
    database = Database(path)
    with database.writing() as db:
        db.scalars(select(Squad)).one().name = name
    database.close()


def cut(path: Path) -> None:
    with path.open("r+b") as file:
        file.truncate(path.stat().st_size // 2)


def scribbled(path: Path) -> None:
    with path.open("r+b") as file:
        file.seek(3 * 4096)
        file.write(b"\xff" * 8192)


def newer(path: Path) -> None:
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE alembic_version SET version_num = 'from_the_future'")


def foreign(path: Path) -> None:
    path.unlink()
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE songs (id INTEGER)")
        connection.execute("PRAGMA application_id = 7")


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (cut, "is damaged"),
        (scribbled, "is damaged"),
        (newer, "newer Back Squat"),
        (foreign, "no data of Back Squat"),
        (lambda path: path.write_bytes(b""), "is empty"),
        (lambda path: path.write_text("a letter"), "is no database"),
    ],
)
def test_what_cannot_be_used_is_said_and_left_as_it_is(own: Path, spoil: Callable[[Path], object], said: str) -> None:
    spoil(own)
    before = own.read_bytes()
    with pytest.raises(Unsound, match=said):
        examine(own)
    assert own.read_bytes() == before


def test_a_sound_file_says_whose_it_is(own: Path) -> None:
    assert examine(own) == keeping.FileFound(DataKind.OWN, newest=True)
    mark(own, DataKind.DEMO)
    assert examine(own).kind is DataKind.DEMO


def test_copies_made_while_sets_are_logged_are_sound_and_whole(app: Flask, client: FlaskClient) -> None:
    cell, database = live_cell(app, "Marit Holm", 2), app.extensions["database"]
    kept: list[str] = []
    end = threading.Event()

    def log() -> None:
        while not end.is_set():
            name = f"set-{len(kept)}"
            data = {"client_id": name, "load": "100", "reps": "3", "reserve_reps": "2", "pain": "0"}
            assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
            kept.append(name)

    thread = threading.Thread(target=log)
    thread.start()
    try:
        copies = []
        for second in range(4):
            acknowledged = list(kept)
            copies.append((acknowledged, backup(database.path, "asked", NOW.replace(second=second))))
    finally:
        end.set()
        thread.join()
    for acknowledged, copy in copies:
        copied = Database(copy)
        with copied.reader() as db:
            found = set(db.scalars(select(SetEntry.client_id).where(SetEntry.cell_id == cell.id)))
        copied.close()
        assert set(acknowledged) <= found, "what was acknowledged before the copy began is in it"
        assert examine(copy).newest


def test_restoring_keeps_what_was_there_and_brings_all_back(own: Path) -> None:
    copy = backup(own, "asked", NOW)
    rename(own, "after")
    before = restore(own, copy, NOW)
    assert name_in(own) == "before" and before is not None and name_in(before) == "after"
    assert restore(own, before, NOW.replace(second=9)) is not None and name_in(own) == "after", "and forth again"


def test_a_restore_over_a_damaged_file_keeps_it_aside(own: Path) -> None:
    copy = backup(own, "asked", NOW)
    cut(own)
    damaged = own.read_bytes()
    before = restore(own, copy, NOW)
    assert before is not None and before.read_bytes() == damaged and name_in(own) == "before"


@pytest.mark.parametrize("spoil", [cut, newer, foreign])
def test_a_bad_backup_changes_nothing(own: Path, spoil: Callable[[Path], None]) -> None:
    copy = backup(own, "asked", NOW)
    spoil(copy)
    rename(own, "after")
    with pytest.raises(Unsound):
        restore(own, copy, NOW)
    assert name_in(own) == "after"


def test_a_demo_is_never_put_in_the_place_of_ones_own(own: Path, tmp_path: Path) -> None:
    demo = tmp_path / "demo.sqlite3"
    shutil.copy(own, demo)
    mark(demo, DataKind.DEMO)
    with pytest.raises(Unsound, match="nothing was changed"):
        restore(own, demo, NOW)
    assert examine(own).kind is DataKind.OWN


def test_one_copy_a_night_and_so_many_kept(own: Path) -> None:
    asked = backup(own, "asked", NOW)
    for day in range(5):
        assert nightly(own, NOW + dt.timedelta(days=day), keep=3) is not None
        assert nightly(own, NOW + dt.timedelta(days=day, hours=2), keep=3) is None
    left = sorted(path.name for path in asked.parent.glob("nightly-*"))
    assert left == [f"nightly-2026-11-{day}T120005.sqlite3" for day in (28, 29, 30)] and asked.exists()


def test_one_process_holds_the_folder(tmp_path: Path) -> None:
    with held(tmp_path), pytest.raises(HeldFile, match=str(os.getpid())), held(tmp_path):
        pass
    with held(tmp_path):
        pass


# --- the commands


@pytest.fixture
def go(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Callable[..., str]:
    """Run a command on a data folder; what it said, an error included."""

    def command(folder: Path, *arguments: str) -> str:
        monkeypatch.setenv("BACKSQUAT_DATA", str(folder))
        monkeypatch.setattr(sys, "argv", ["backsquat", *arguments])
        words = ""
        try:
            run()
        except SystemExit as problem:
            words = str(problem.code)
        said = capsys.readouterr()
        return said.out + said.err + words

    return command


def test_demo_commands_never_touch_ones_own_data(own: Path, go: Callable[..., str]) -> None:
    before = own.read_bytes()
    for command in (("demo", "--port", "8917"), ("demo-reset",)):
        assert "holds your own data" in go(own.parent, *command)
    assert own.read_bytes() == before
    mark(own, DataKind.DEMO)
    for command in (("serve", "--port", "8917"), ("add-person", "--squad", "1", "--role", "physio", "--name", "P. Hysio",
                    "--sign-in", "p", "--password", "long enough")):  # fmt: skip
        assert "holds the demo's data" in go(own.parent, *command)


def test_nothing_is_reset_restored_or_served_under_a_running_server(own: Path, go: Callable[..., str]) -> None:
    copy = backup(own, "asked", NOW)
    with held(own.parent):
        for command in (("demo-reset",), ("restore", str(copy)), ("serve", "--port", "8917")):
            assert "is in use by process" in go(own.parent, *command)
        assert "Copied and checked" in go(own.parent, "backup"), "a copy needs nobody to stop"


def test_backup_and_restore_by_command(own: Path, go: Callable[..., str]) -> None:
    said = go(own.parent, "backup")
    copy = Path(said.split("Copied and checked: ")[1].strip())
    rename(own, "after")
    assert "Restored from" in go(own.parent, "restore", str(copy)) and name_in(own) == "before"
    assert "there is no file" in go(own.parent, "restore", str(copy) + "x")
    assert own.stat().st_mode & 0o077 == 0, "for the owner's eyes only"


def test_a_copy_is_made_before_the_schema_changes(tmp_path: Path, go: Callable[..., str]) -> None:
    path = tmp_path / "backsquat.sqlite3"
    migrate(path, "missed_sessions")
    said = go(tmp_path, "add-person", "--squad", "7", "--role", "physio", "--name", "P", "--sign-in", "p",
              "--password", "long enough")  # fmt: skip
    assert "there is no squad number 7" in said
    (copy,) = (tmp_path / "backups").glob("before-update-*")
    assert not examine(copy).newest and examine(path).newest


# --- a database that takes nothing


def test_a_database_busy_for_long_answers_in_time_and_nothing_is_half_stored(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {"client_id": "late", "load": "100", "reps": "3", "reserve_reps": "2", "pain": "0"}
    other = sqlite3.connect(app.extensions["database"].path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    try:
        answer = client.post(f"/floor/cells/{cell.id}/sets", data=data)
        assert answer.status_code == 503 and "Not stored, try again" in answer.text
        assert client.get("/floor/").status_code == 200, "reading goes on"
        assert client.get("/health").json == {"ok": True}
    finally:
        other.execute("ROLLBACK")
        other.close()
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
    with reading(app) as db:
        assert db.scalar(select(func.count()).where(SetEntry.client_id == "late")) == 1


def test_a_full_disk_says_so_and_stores_nothing(app: Flask, client: FlaskClient) -> None:
    engine = app.extensions["database"].engine

    def no_more(connection: sqlite3.Connection, *_: object) -> None:
        connection.execute("PRAGMA max_page_count = 1")

    event.listen(engine, "checkout", no_more)
    try:
        codes = set()
        for n in range(200):
            answer = client.post("/athletes/new", data={"name": f"P{n}" * 16, "born_on": "2001-01-01", "consent": "y"})
            codes.add(answer.status_code)
            if answer.status_code == 507:
                break
        assert 507 in codes and 500 not in codes and "disk is full" in answer.text
    finally:
        event.remove(engine, "checkout", no_more)
        engine.dispose()
    assert client.get("/").status_code == 200


def test_what_a_physio_reads_is_read_on_a_full_disk_too(
    app: Flask, physio: FlaskClient, caplog: pytest.LogCaptureFixture
) -> None:
    """The line of the reading is in the server's log then, and in the audit log as soon as there is room again."""
    engine, lines = app.extensions["database"].engine, select(func.count()).where(AuditLine.what == "health_read")
    with app.extensions["database"].writing() as db:
        while db.connection().exec_driver_sql("PRAGMA freelist_count").scalar():  # no room inside the file either
            note_of(db, app.extensions["clock"].now(), "trial", {"words": "y" * 9000}, squad_id=1)

    def no_more(connection: sqlite3.Connection, *_: object) -> None:
        connection.execute("PRAGMA max_page_count = 1")

    event.listen(engine, "checkout", no_more)
    try:
        answers = [physio.get("/health-list/13") for _ in range(60)]
    finally:
        event.remove(engine, "checkout", no_more)
        engine.dispose()
    assert {answer.status_code for answer in answers} == {200}
    assert "health notes of athlete 13 read by person" in caplog.text
    with reading(app) as db:
        before = db.scalar(lines) or 0
    assert physio.get("/health-list/13").status_code == 200
    with reading(app) as db:
        assert db.scalar(lines) == before + 1


def test_health_says_when_the_database_is_gone(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    database = app.extensions["database"]
    away = database.path.with_suffix(".away")
    database.close()
    for end in ("-wal", "-shm"):
        Path(f"{database.path}{end}").unlink(missing_ok=True)
    database.path.rename(away)
    try:
        assert client.get("/health").status_code == 503
    finally:
        database.close()
        database.path.unlink(missing_ok=True)
        away.rename(database.path)
