"""Who has lifted it for months is no beginner: the log places on a ladder and shows a hinge; a failed screen says more."""

import datetime as dt
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path

import pytest
from sqlalchemy import select

from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.storage.database import Database
from backsquat.storage.models import Athlete, BodyMass, LevelMove, ScreenResult, SetEntry
from backsquat.ui.phrases.readiness_checks import line_words, move_words
from backsquat.work.context import WorkContext
from backsquat.work.ladders.moves import place_by_screens, suggested_levels
from backsquat.work.readiness.load import readiness_one
from backsquat.work.record.past import PastSet, import_past
from backsquat.work.rooms.describe import BarFacts, PlateFacts, RoomFacts, save_room
from tests.work.nothing import ACTOR, TODAY, from_nothing

ENOUGH = Rules().proven_sessions


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    database = from_nothing(tmp_path)
    with database.writing() as db:
        db.add(BodyMass(athlete_id=1, measured_on=dt.date(2025, 1, 1), mass_kg=Decimal(70), by_id=1, at=ACTOR.now))
        bells = tuple((Decimal(kg), 2) for kg in (8, 12, 16, 20, 24, 30))
        bar, plates = (BarFacts("b", "Bar", Decimal(20)),), (PlateFacts(Decimal(20), 4, 450),)
        has = ("rack", "bar", "dumbbells", "kettlebells", "loose_plates", "bench", "box")
        save_room(WorkContext(db, ACTOR), RoomFacts("Room", Unit.KG, Decimal(0), 1, bar, plates, has, bells, bells))
    yield database
    database.close()


def logged(database: Database, movement: str, days: int, load: str = "30", ago: int = 20) -> None:
    """A log taken in: one set a week of so many weeks, the last so many days ago."""
    last = TODAY - dt.timedelta(days=ago)
    sets = [PastSet(n, 1, movement, last - dt.timedelta(weeks=n), Decimal(load), Unit.KG, 8, 2) for n in range(days)]
    with database.writing() as db:
        import_past(WorkContext(db, ACTOR), sets)


def screened(database: Database, code: str, value: float) -> None:
    with database.writing() as db:
        db.add(ScreenResult(athlete_id=1, screen=code, value=value, done_on=TODAY, by_id=1, at=ACTOR.now))


def ready(database: Database) -> Readiness:
    with database.writing() as db:
        return readiness_one(db, db.get_one(Athlete, 1), TODAY, Rules())


def suggested(database: Database) -> dict[str, tuple[str, str]]:
    one = ready(database)
    with database.writing() as db:
        return {code: (movement.code, why) for code, (movement, why) in suggested_levels(db, one).items()}


@pytest.mark.parametrize(("days", "placed"), [(ENOUGH, True), (ENOUGH - 1, False)])
def test_who_split_squats_with_bells_for_months_is_placed_there(database: Database, days: int, placed: bool) -> None:
    logged(database, "rear_raised_dumbbells", days)
    assert ("split_squat" in suggested(database)) is placed
    if not placed:
        return
    with database.writing() as db:
        place_by_screens(WorkContext(db, ACTOR), 1)
        move = db.scalars(select(LevelMove).where(LevelMove.ladder == "split_squat")).one()
    assert move.movement == "rear_raised_dumbbells"
    assert move_words(move.reason) == f"shown by {days} sessions in the log"
    assert ready(database).may("rear_raised_dumbbells") and not ready(database).may("rear_raised_front_rack")


def test_nothing_is_placed_by_a_log_that_is_too_old(database: Database) -> None:
    logged(database, "rear_raised_dumbbells", 12, ago=Rules().proven_days + 1)
    assert "split_squat" not in suggested(database)


def test_months_of_hinges_show_a_sound_hinge_and_a_brace(database: Database) -> None:
    assert not ready(database).view(ReadinessCheck.PULL).open
    logged(database, "romanian_deadlift", ENOUGH, "80")
    view = ready(database).view(ReadinessCheck.PULL)
    assert (
        view.open
        and [line_words(line) for line in view.lines if line.found] == [f"shown by {ENOUGH} sessions in the log"] * 2
    )
    assert suggested(database)["hinge"][0] == "romanian_deadlift"
    assert not ready(database).view(ReadinessCheck.BARBELL).open, "a bar on the back asks for more than a log of hinges"


@pytest.mark.parametrize("screen", ["standing_hinge", "brace"])
def test_what_was_seen_to_fail_says_more_than_the_log(database: Database, screen: str) -> None:
    logged(database, "romanian_deadlift", 30, "80")
    screened(database, screen, 0)
    assert not ready(database).view(ReadinessCheck.PULL).open
    if screen == "standing_hinge":
        assert suggested(database).get("hinge", ("", ""))[0] != "romanian_deadlift"


def test_a_failed_hinge_is_not_placed_on_a_weight_by_a_sound_brace(database: Database) -> None:
    screened(database, "brace", 1)
    assert suggested(database)["hinge"][0] == "kettlebell_deadlift"
    screened(database, "standing_hinge", 0)
    assert suggested(database)["hinge"][0] == "kneeling_hinge"


def test_a_squat_seen_to_fail_is_not_placed_by_a_log_of_goblets(database: Database) -> None:
    logged(database, "goblet_squat", ENOUGH, "20")
    assert suggested(database)["squat_to_bar"][0] == "goblet_squat"
    screened(database, "standing_squat", 0)
    assert suggested(database)["squat_to_bar"][0] == "press_down_squat"


def test_squats_and_hinges_of_months_open_the_thrust(database: Database) -> None:
    logged(database, "back_squat", ENOUGH, "90")
    assert not ready(database).view(ReadinessCheck.THRUST).open
    logged(database, "romanian_deadlift", ENOUGH, "80")
    assert ready(database).view(ReadinessCheck.THRUST).open


def test_sets_kept_with_a_doubt_or_behind_a_shut_check_prove_nothing(database: Database) -> None:
    logged(database, "romanian_deadlift", ENOUGH, "80")
    with database.writing() as db:
        for entry in db.scalars(select(SetEntry)):
            entry.flags = [*entry.flags, "not_ready"]
    assert not ready(database).view(ReadinessCheck.PULL).open
