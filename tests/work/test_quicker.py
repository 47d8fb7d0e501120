"""A session over its minutes: what is rigged sooner is offered where everybody who does it may do that too."""

import datetime as dt
from decimal import Decimal
from pathlib import Path
from uuid import uuid4

import pytest

from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.readiness.limits import ActiveLimit, LimitKind, Scope
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import DaySpan
from backsquat.core.sessions.fit import TimeProposal
from backsquat.library.shelf import movements
from backsquat.storage.database import Database
from backsquat.storage.models import BodyMass, Season
from backsquat.work.context import WorkContext
from backsquat.work.health.limits import add_limit
from backsquat.work.ladders.moves import move_level
from backsquat.work.ladders.readiness_checks import clear_with_reason
from backsquat.work.plan.arrangement import SessionFacts, change_session
from backsquat.work.plan.blocks import BlockFacts, ExerciseFacts, create_block
from backsquat.work.plan.quicker import same_kind
from backsquat.work.plan.timed import timed
from backsquat.work.record.outside import log_test
from backsquat.work.record.record import SetFacts
from backsquat.work.rooms.describe import BarFacts, PlateFacts, RoomFacts, save_room
from backsquat.work.sessions.blocks import squad_blocks
from tests.work.nothing import ACTOR, TODAY, from_nothing

BAR, BELLS = "rear_raised_back_bar", "rear_raised_dumbbells"


def offers(
    folder: Path, *, role: ExerciseRole = ExerciseRole.ASSISTANCE, bells: bool = True, limited: str = ""
) -> list[TimeProposal]:
    """What is proposed for a squat and a split squat with a bar in twenty minutes."""
    database: Database = from_nothing(folder)
    with database.writing() as db:
        db.add(BodyMass(athlete_id=1, measured_on=TODAY, mass_kg=Decimal(70), by_id=1, at=ACTOR.now))
        db.add(Season(squad_id=1, name="s", first_week=TODAY, weeks=40))
        plates = tuple(PlateFacts(Decimal(mass), 4, 450) for mass in ("20", "10", "5", "2.5", "1.25"))
        bar, pairs = (BarFacts("b", "Bar", Decimal(20)),), tuple((Decimal(kg), 2) for kg in (10, 15, 20, 25))
        room = RoomFacts("Room", Unit.KG, Decimal(0), 2, bar, plates, ("bench",), pairs if bells else ())
        save_room(WorkContext(db, ACTOR), room)
        clear_with_reason(WorkContext(db, ACTOR), 1, ReadinessCheck.BARBELL, "seen by me")
        move_level(WorkContext(db, ACTOR), 1, "split_squat", BAR, way="placed", reason="seen by me")
        for code, load in (("back_squat", 100), (BAR, 50)):
            facts = SetFacts(str(uuid4()), Decimal(load), Unit.KG, 6, 6, 2, TODAY)
            log_test(WorkContext(db, ACTOR), 1, code, facts)
        if limited:
            limit = ActiveLimit(Scope.MOVEMENT, limited, LimitKind.NOT_AT_ALL, None, "", TODAY, None, "P. Physio")
            add_limit(WorkContext(db, ACTOR), 1, limit)
        exercises = (
            ExerciseFacts(1, "back_squat", "wave", {}),
            ExerciseFacts(1, BAR, "window", {"sets": 3}, role=role),
        )
        create_block(WorkContext(db, ACTOR), BlockFacts("B", TODAY, 6, False, exercises), DaySpan(TODAY, 40))
    with database.writing() as db:
        change_session(WorkContext(db, ACTOR), 1, SessionFacts("", 20))
    with database.reader() as db:
        (block,) = squad_blocks(db, 1)
        found = timed(db, block, block.sessions[0], 0, TODAY + dt.timedelta(days=1), Rules()).proposals
    database.close()
    return [one for one in found if one.code == "rig"]


def test_the_same_work_with_dumb_bells_is_offered(tmp_path: Path) -> None:
    (found,) = offers(tmp_path)
    assert found.move.into is not None and found.move.into.code == BELLS and found.saved_s >= 60


@pytest.mark.parametrize("changed", [{"bells": False}, {"role": ExerciseRole.MAIN}])
def test_not_what_the_room_lacks_and_never_for_a_main_lift(tmp_path: Path, changed: dict[str, object]) -> None:
    assert BELLS not in [one.move.into and one.move.into.code for one in offers(tmp_path, **changed)]  # type: ignore[arg-type]


def test_not_what_somebody_who_does_it_may_not_do(tmp_path: Path) -> None:
    assert BELLS not in [one.move.into and one.move.into.code for one in offers(tmp_path, limited=BELLS)]


def test_no_bell_is_offered_for_what_two_legs_lift_with_a_bar() -> None:
    shelf = movements()
    assert same_kind(shelf[BAR], shelf[BELLS]) and same_kind(shelf["bench_thrust_bar"], shelf["thrust_machine"])
    for bar, bell in (("romanian_deadlift", "kettlebell_deadlift"), ("front_squat", "goblet_squat")):
        assert not same_kind(shelf[bar], shelf[bell])
