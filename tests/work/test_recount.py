"""A changed rule: which estimates it touches, with whose rules, and that a piece cut short is gone on with."""

from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path
from uuid import uuid4

import pytest

from backsquat.core.loads.mass import Unit
from backsquat.storage.database import Database
from backsquat.storage.models import SetEntry
from backsquat.work.context import WorkContext
from backsquat.work.journal import undo
from backsquat.work.log import recount as recounting
from backsquat.work.log.recount import change_rule, recount, unfinished
from backsquat.work.record.outside import log_test
from backsquat.work.record.record import SetFacts
from tests.work.nothing import ACTOR, TODAY, from_nothing


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    """A squad made from nothing, with one athlete whose pain line a physio has set to 2."""
    database = from_nothing(tmp_path, pain_line=2, pain_line_by="physio")
    yield database
    database.close()


def test_set(database: Database, load: int, **changes: object) -> int:
    facts = {"client_id": str(uuid4()), "load": Decimal(load), "unit": Unit.KG, "reps": 5, "reps_to_depth": 5}
    facts |= {"reserve_reps": 2, "done_on": TODAY} | changes
    with database.writing() as db:
        return log_test(WorkContext(db, ACTOR), 1, "back_squat", SetFacts(**facts)).entry.id  # type: ignore[arg-type]


test_set.__test__ = False  # type: ignore[attr-defined]


def estimates(database: Database) -> list[float | None]:
    with database.reader() as db:
        return [entry.estimate_kg for entry in db.query(SetEntry).order_by(SetEntry.id)]


def put(database: Database, name: str, value: object) -> int:
    with database.writing() as db:
        return change_rule(WorkContext(db, ACTOR), name, value).id


def test_the_athletes_own_rules_hold_when_estimates_are_made_again(database: Database) -> None:
    """With the squad's rules a set discounted for pain counted, and 124.6 kg became 163.5 kg."""
    test_set(database, 100)
    test_set(database, 130, pain=3, pain_region="knee", pain_character="dull")
    plain, hurt = estimates(database)
    assert plain and hurt is None, "pain over the athlete's own line says nothing about a maximum"
    put(database, "formula", "brzycki")
    assert recount(database, 1) == 2
    again, still_hurt = estimates(database)
    assert again and again != plain and still_hurt is None


def test_a_rule_no_estimate_depends_on_touches_none(database: Database) -> None:
    test_set(database, 100)
    put(database, "flag_days", 21)
    with database.reader() as db:
        assert unfinished(db) == []
    assert recount(database, 1) == 0


def test_in_pieces_and_gone_on_with(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(recounting, "PIECE", 2)
    for load in (80, 85, 90, 95, 100):
        test_set(database, load)
    before = estimates(database)
    change = put(database, "formula", "brzycki")
    with database.writing() as db:
        assert recounting._piece(db, 1) == 2
    first, second = estimates(database), before
    assert [a == b for a, b in zip(first, second, strict=True)] == [False, False, True, True, True]
    with database.reader() as db:
        assert unfinished(db) == [1], "stopped here, it is known where to go on"
    assert recount(database, 1) == 3
    assert not any(a == b for a, b in zip(estimates(database), before, strict=True))
    with database.writing() as db:
        undo(WorkContext(db, ACTOR), change)
    recount(database, 1)
    assert estimates(database) == before
