"""What opens a readiness check, read from the log: only sets that stand, and none that was lifted against a stop or a readiness check not passed."""

import datetime as dt
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path
from uuid import uuid4

import pytest
from sqlalchemy.orm import Session

from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.readiness.screens import wedge_advice
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, ScreenResult, SetEntry, Stop
from backsquat.work.context import WorkContext
from backsquat.work.ladders.readiness_checks import clear_with_reason
from backsquat.work.library.screens import screens_of
from backsquat.work.readiness.load import readiness_one
from backsquat.work.readiness.screens import Value, known_of, record_results, series_of, squat_checks, squats_on_floor
from backsquat.work.record.outside import log_level_work, log_test
from backsquat.work.record.record import SetFacts
from tests.work.nothing import ACTOR, TODAY, from_nothing

RULES = Rules()
PULL = ("brace", "standing_hinge")  # what the readiness check before pulls looks at


@pytest.fixture
def db(tmp_path: Path) -> Iterator[Session]:
    """A squad made from nothing with one grown athlete, in one write that is thrown away."""
    database = from_nothing(tmp_path)
    with database.writing() as db:
        yield db
        db.rollback()
    database.close()


def a_set(days_ago: int = 0, **changes: object) -> SetFacts:
    values: dict[str, object] = {"client_id": str(uuid4()), "load": Decimal(20), "unit": Unit.KG, "reps": 8}
    values |= {"reps_to_depth": 8, "reserve_reps": 3, "done_on": TODAY - dt.timedelta(days=days_ago)}
    return SetFacts(**(values | changes))  # type: ignore[arg-type]


def now(db: Session) -> Readiness:
    return readiness_one(db, db.get_one(Athlete, 1), TODAY, RULES)


def stop(db: Session, entry: SetEntry) -> None:
    db.add(
        Stop(
            athlete_id=1,
            set_id=entry.id,
            movement="leg_press",
            locked=[],
            level=6,
            region="knee",
            character="sharp",
            by_id=1,
            at=ACTOR.now,
        )
    )
    db.flush()


def test_a_set_taken_back_is_no_bar_lifted_before(db: Session) -> None:
    clear_with_reason(WorkContext(db, ACTOR), 1, ReadinessCheck.BARBELL, "seen lifting soundly elsewhere")
    entry = log_test(WorkContext(db, ACTOR), 1, "back_squat", a_set(9)).entry
    assert entry.flags == []
    stop(db, entry)
    assert now(db).lifted_before
    entry.standing = False
    db.flush()
    assert not now(db).lifted_before


def test_a_bar_lifted_behind_the_shut_readiness_check_is_kept_and_opens_nothing(db: Session) -> None:
    entry = log_test(WorkContext(db, ACTOR), 1, "back_squat", a_set(9)).entry
    assert entry.flags == ["not_ready"] and entry.estimate_kg, "it was lifted, and says what it says"
    stop(db, entry)
    assert not now(db).lifted_before


def test_work_on_the_road_counts_by_days_and_not_what_was_done_against_a_stop(db: Session) -> None:
    for days in (20, 20, 10, 3):
        log_level_work(WorkContext(db, ACTOR), 1, "goblet_squat", [a_set(days)])
    assert now(db).road == (3, 17)
    stop(db, db.get_one(SetEntry, 1))
    (kept,) = log_level_work(WorkContext(db, ACTOR), 1, "goblet_squat", [a_set(0)])
    assert kept.entry.flags == ["stopped", "unearned"] and now(db).road == (3, 17)


def test_clean_squats_of_a_session_speak_for_the_wedge_in_use(db: Session) -> None:
    screen = Value("standing_squat", "", 1.0), Value("squat_wedge", "", 30.0)
    record_results(WorkContext(db, ACTOR), 1, screen, TODAY - dt.timedelta(days=30))

    def advice() -> str:
        screens = screens_of(db, ACTOR.squad_id)
        series = series_of(db, [1], screens, TODAY)[1]
        found = wedge_advice(known_of(series), squat_checks(series, squats_on_floor(db, 1, TODAY)), RULES)
        return found.code if found else ""

    assert advice() == "wedge_keep", "one check more"
    log_level_work(WorkContext(db, ACTOR), 1, "goblet_squat", [a_set(10)])
    assert advice() == "wedge_lower"
    log_level_work(WorkContext(db, ACTOR), 1, "goblet_squat", [a_set(3, reps_to_depth=2)])
    assert advice() == "wedge_keep", "a session that was not clean begins the row again, and lends nothing higher"


def test_a_device_that_sends_twice_loses_and_doubles_nothing(db: Session) -> None:
    facts = a_set(0, happened_at=ACTOR.now, device_at=ACTOR.now + dt.timedelta(minutes=3))
    first = log_test(WorkContext(db, ACTOR), 1, "leg_press", facts)
    again = log_test(WorkContext(db, ACTOR), 1, "leg_press", facts)
    assert again.again and again.entry.id == first.entry.id
    assert (first.entry.happened_at, first.entry.device_at) == (facts.happened_at, facts.device_at)


def test_old_screens_are_spoken_for_by_lifting_since_and_not_by_lifting_against_them(db: Session) -> None:
    def screened(days_ago: int) -> None:
        day = TODAY - dt.timedelta(days=days_ago)
        rows = [
            ScreenResult(athlete_id=1, screen=code, side="", value=1, done_on=day, by_id=1, at=ACTOR.now)
            for code in PULL
        ]
        db.add_all(rows)
        db.flush()

    screened(60)
    assert ReadinessCheck.PULL not in now(db).opened
    against = log_test(WorkContext(db, ACTOR), 1, "romanian_deadlift", a_set(3)).entry
    assert against.flags == ["not_ready"]
    assert now(db).lately == frozenset() and ReadinessCheck.PULL not in now(db).opened
    screened(27)
    assert ReadinessCheck.PULL in now(db).opened
    log_test(WorkContext(db, ACTOR), 1, "romanian_deadlift", a_set(1))
    later = readiness_one(db, db.get_one(Athlete, 1), TODAY + dt.timedelta(days=20), RULES)
    assert later.lately == {ReadinessCheck.PULL} and ReadinessCheck.PULL in later.opened, (
        "the screens are old, the lifting is not"
    )
    long_after = readiness_one(db, db.get_one(Athlete, 1), TODAY + dt.timedelta(days=40), RULES)
    assert ReadinessCheck.PULL not in long_after.opened
