"""What is kept from one request to the next, and that every way of writing is noticed."""

import sqlite3
import threading
from collections.abc import Mapping
from pathlib import Path

import pytest
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from backsquat.cli import _ready
from backsquat.config import Config
from backsquat.storage.cache import MOST, Cache, cached, cached_each
from backsquat.storage.database import Database
from backsquat.storage.migrate import keep_watch
from backsquat.storage.models import Base, Block, BodyMass, Squad
from backsquat.storage.stamps import OF_ALL, OF_PLAN, PLAN, UNSTAMPED, of_athletes, stamps_of

ONE, TWO = 1, 2


@pytest.fixture
def database(demo_copy: Path) -> Database:
    return Database(demo_copy)


@pytest.fixture
def demo_copy(demo_file: Path, tmp_path: Path) -> Path:
    path = tmp_path / "backsquat.sqlite3"
    path.write_bytes(demo_file.read_bytes())
    return path


def stamps(database: Database, *subjects: int) -> list[int | None]:
    with database.reader() as db:
        found = stamps_of(db.connection(), subjects)
    return [found.get(one) for one in subjects]


def outside(path: Path, *statements: str) -> None:
    """Another program writes, without foreign keys or anything of ours."""
    connection = sqlite3.connect(path)
    for statement in statements:
        connection.execute(statement)
    connection.commit()
    connection.close()


@pytest.mark.parametrize("name", sorted(Base.metadata.tables))
def test_every_write_of_a_table_moves_its_stamp_and_no_other(name: str, database: Database) -> None:
    """Put in, changed and taken away, as any program could; of a table named as unstamped none moves."""
    columns = Base.metadata.tables[name].c.keys()
    key, number = columns[0], 999_999
    row = {column: number if column == key else ONE for column in columns}
    places = ", ".join(f'"{column}"' for column in columns)
    subjects = [OF_ALL, OF_PLAN, *range(1, 40)]
    mine = OF_PLAN if name in PLAN else ONE if of_athletes(Base.metadata.tables[name]) else OF_ALL
    statements = [f'INSERT INTO "{name}" ({places}) VALUES ({", ".join(str(value) for value in row.values())})']
    if name != "audit_lines":  # nobody changes those at all
        statements += [f'UPDATE "{name}" SET "{key}" = "{key}" WHERE "{key}" = {number}']
        statements += [f'DELETE FROM "{name}" WHERE "{key}" = {number}']
    outside(database.path, *(f'DELETE FROM "{name}"' for _ in range(name != "audit_lines")))  # nothing in its way
    for statement in statements:
        before = stamps(database, *subjects)
        outside(database.path, statement)
        moved = {one for one, was, now in zip(subjects, before, stamps(database, *subjects), strict=True) if was != now}
        assert moved == (set() if name in UNSTAMPED else {mine}), statement


def test_every_table_has_its_triggers(database: Database) -> None:
    with database.engine.connect() as connection:
        there = set(connection.exec_driver_sql("SELECT name FROM sqlite_master WHERE type = 'trigger'").scalars())
    for name in Base.metadata.tables.keys() - UNSTAMPED:
        assert {f"stamp_{name}_{write}" for write in ("insert", "update", "delete")} <= there, name
    assert set(Base.metadata.tables) > UNSTAMPED | PLAN, "names of tables that are no more"


def test_a_row_given_to_somebody_else_moves_both(database: Database) -> None:
    before = stamps(database, ONE, TWO)
    outside(database.path, f"UPDATE body_masses SET athlete_id = {TWO} WHERE athlete_id = {ONE}")
    assert all(was != now for was, now in zip(before, stamps(database, ONE, TWO), strict=True))


def test_a_table_made_again_is_watched_again(database: Database) -> None:
    """A migration may make a table again, and its triggers go with the old one."""
    outside(database.path, "DROP TRIGGER stamp_stops_insert")
    before = stamps(database, OF_ALL, OF_PLAN, ONE)
    keep_watch(database.path)
    assert not set(before) & set(stamps(database, OF_ALL, OF_PLAN, ONE)), (
        "what was kept of then is not believed any more"
    )
    now = stamps(database, OF_ALL, OF_PLAN, ONE)
    keep_watch(database.path)
    assert stamps(database, OF_ALL, OF_PLAN, ONE) == now, "where nothing is missing nothing moves"


def test_whoever_starts_the_program_has_it_watched(demo_copy: Path) -> None:
    """Also on a file of the newest schema, whichever program had it before."""
    outside(demo_copy, "DROP TRIGGER stamp_stops_insert", "DROP TRIGGER stamp_cells_update")
    assert _ready(Config(demo_copy.parent, demo=True))
    with sqlite3.connect(demo_copy) as connection:
        there = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")}
    assert {"stamp_stops_insert", "stamp_cells_update"} <= there


def names(db: Session, asked: list[str]) -> str:
    def read() -> str:
        asked.append("read")
        return db.scalars(select(Squad.name)).first() or ""

    return cached(db, ("name",), read)


def rename(database: Database, name: str) -> None:
    with database.writing() as db:
        db.execute(update(Squad).values(name=name))


def test_it_is_read_once_until_something_is_written(database: Database) -> None:
    asked: list[str] = []
    rename(database, "first")
    for _ in range(3):
        with database.reader() as db:
            assert names(db, asked) == "first"
    assert len(asked) == 1
    rename(database, "second")
    with database.reader() as db:
        assert names(db, asked) == "second"
    outside(database.path, "UPDATE squads SET name = 'third'")
    with database.reader() as db:
        assert names(db, asked) == "third"


def test_each_reader_is_told_of_its_own_state_of_the_data(database: Database) -> None:
    """Whoever began before a write sees the old to the end, also once somebody else has read the new."""
    rename(database, "old")
    early = database.reader()
    early.scalars(select(Squad.name)).first()  # from here on it sees this state
    rename(database, "new")
    with database.reader() as db:
        assert names(db, []) == "new"
    assert names(early, []) == "old"
    with database.reader() as db:
        assert names(db, []) == "new"
    early.close()


def test_what_was_rolled_back_is_never_met_again(database: Database) -> None:
    rename(database, "stands")

    class Away(Exception):
        pass

    with pytest.raises(Away), database.writing() as db:
        db.execute(update(Squad).values(name="undone"))
        assert cached(db, ("name",), lambda: db.scalars(select(Squad.name)).first(), unchanged=True) == "undone"
        raise Away
    with database.reader() as db:
        assert names(db, []) == "stands"


def test_who_writes_looks_at_what_readers_kept_until_the_own_first_write(database: Database) -> None:
    asked: list[str] = []

    def told(db: Session) -> str:
        def read() -> str:
            asked.append("read")
            return db.scalars(select(Squad.name)).first() or ""

        return cached(db, ("name",), read, unchanged=True)

    rename(database, "one")
    with database.reader() as db:
        told(db)
    with database.writing() as db:
        assert told(db) == "one" and len(asked) == 1
        squad = db.scalars(select(Squad)).first()
        assert squad is not None
        squad.name = "two"  # not even sent yet
        assert told(db) == "two"
        assert names(db, []) == "two"
    with database.writing() as db:
        assert told(db) == "two" and len(asked) == 3, "nothing of it was kept by who wrote"


def masses(db: Session, ids: list[int], asked: list[list[int]]) -> Mapping[int, float]:
    def read(missing: list[int]) -> dict[int, float]:
        asked.append(sorted(missing))
        rows = db.execute(select(BodyMass.athlete_id, BodyMass.mass_kg).where(BodyMass.athlete_id.in_(missing)))
        return {athlete_id: float(mass_kg) for athlete_id, mass_kg in rows}

    return cached_each(db, ("masses",), ids, read)


def test_only_those_of_whom_something_was_written_are_read_again(database: Database) -> None:
    asked: list[list[int]] = []
    everybody, nobody = [ONE, TWO, 3], 99_999
    with database.reader() as db:
        first = masses(db, [*everybody, nobody], asked)
        assert list(first) == everybody, "in the order asked for; who has no answer is left out"
    outside(database.path, f"UPDATE body_masses SET mass_kg = '99.5' WHERE athlete_id = {TWO}")
    with database.reader() as db:
        assert masses(db, [*everybody, nobody], asked) == {**first, TWO: 99.5}
    outside(database.path, "UPDATE blocks SET name = name")
    with database.reader() as db:
        masses(db, everybody, asked)
    rename(database, "another")  # of nobody: it may be a rule, or the room
    with database.reader() as db:
        masses(db, everybody, asked)
    assert asked == [[ONE, TWO, 3, nobody], [TWO], everybody]


def test_of_the_plan_it_is_told_only_where_it_says_so(database: Database) -> None:
    def first(db: Session, plan: bool) -> str:
        return cached(db, ("block", plan), lambda: db.scalars(select(Block.name)).first() or "", plan=plan)

    with database.reader() as db, pytest.raises(AssertionError, match="would not be told"):
        first(db, False)
    for name in ("Autumn", "Winter"):
        outside(database.path, f"UPDATE blocks SET name = '{name}'")
        with database.reader() as db:
            assert first(db, True) == name


def test_what_is_kept_asks_for_nothing_it_would_not_be_told_of(database: Database) -> None:
    """Also where that is known already, so that no statement would give it away."""
    with database.reader() as db:
        masses(db, [ONE], [])
        cached(db, ("plan",), lambda: "known", plan=True)
        with pytest.raises(ValueError, match="would not be told"):
            cached(db, ("wide",), lambda: masses(db, [ONE], []))
        with pytest.raises(ValueError, match="would not be told"):
            cached(db, ("wide",), lambda: cached(db, ("plan",), lambda: "", plan=True))


def test_a_what_if_is_told_nothing_and_leaves_nothing(database: Database) -> None:
    rename(database, "real")
    with database.reader() as db:
        assert names(db, []) == "real"
    with database.supposing() as db:
        db.execute(update(Squad).values(name="supposed"))
        assert names(db, []) == "supposed"
    with database.reader() as db:
        assert names(db, []) == "real"


def test_no_more_is_kept_than_so_many_questions_of_a_kind() -> None:
    store = Cache()
    for number in range(MOST + 5):
        store.answers(("kind", number), (1,))["x"] = number
        store.answers(("other", 0), (1,))["x"] = "stays"
    assert store.known(("kind", 0), (1,)) == {} and store.known(("kind", MOST + 4), (1,)) == {"x": MOST + 4}
    assert store.known(("other", 0), (1,)) == {"x": "stays"}


def test_many_threads_ask_while_others_write(database: Database) -> None:
    """Nobody is ever told less than what stood when they began."""
    rename(database, "0")
    wrong: list[str] = []

    def look() -> None:
        last = 0
        for _ in range(60):
            with database.reader() as db:
                db.connection()
                now = int(names(db, []))
                if now < last:
                    wrong.append(f"{now} after {last}")
                if str(now) != db.scalars(select(Squad.name)).first():
                    wrong.append("not what stands")
                last = now

    threads = [threading.Thread(target=look) for _ in range(4)]
    for thread in threads:
        thread.start()
    for number in range(1, 25):
        rename(database, str(number))
    for thread in threads:
        thread.join()
    assert wrong == []
