"""First numbers as a coach's clicks make them: what was never tried, what the body loads, what is too light to be had."""

import datetime as dt
from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from uuid import uuid4

import pytest
from sqlalchemy import select

from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.progression.cell import StandIn, State
from backsquat.core.season.calendar import DaySpan
from backsquat.storage.database import Database
from backsquat.storage.models import BodyMass, Cell, Season
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.decisions.answer import answer
from backsquat.work.ladders.moves import move_level
from backsquat.work.ladders.readiness_checks import clear_with_reason
from backsquat.work.plan.blocks import BlockFacts, ExerciseFacts, create_block
from backsquat.work.plan.cells import publish
from backsquat.work.plan.replan import replanned
from backsquat.work.record.floor import log_sets
from backsquat.work.record.outside import log_test
from backsquat.work.record.record import SetFacts
from backsquat.work.rooms.describe import BarFacts, PlateFacts, RoomFacts, save_room
from tests.work.nothing import ACTOR, TODAY, from_nothing

MONDAY, WEEKS = TODAY, 4
BELLS = tuple((Decimal(kg), 2) for kg in (4, 6, 8, 10, 12, 14, 16, 18, 20))
HAS = ("rack", "bar", "dumbbells", "kettlebells", "loose_plates", "bench", "box", "glute_ham", "band")


def on(day: dt.date, hour: int = 18) -> Actor:
    return replace(ACTOR, now=dt.datetime.combine(day, dt.time(hour)))


BEFORE = on(TODAY - dt.timedelta(days=3))


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    """One grown athlete of 70 kg who has squatted 100 × 5 with two left; ready for every bar, on no ladder yet."""
    database = from_nothing(tmp_path)
    with database.writing() as db:
        db.add(Season(squad_id=1, name="s", first_week=TODAY - dt.timedelta(weeks=4), weeks=40))
        db.add(BodyMass(athlete_id=1, measured_on=BEFORE.today, mass_kg=Decimal(70), by_id=1, at=BEFORE.now))
        plates = tuple(PlateFacts(Decimal(mass), 4, 450) for mass in ("20", "10", "5", "2.5", "1.25"))
        bar = (BarFacts("b", "Bar", Decimal(20)),)
        save_room(WorkContext(db, BEFORE), RoomFacts("Room", Unit.KG, Decimal(0), 2, bar, plates, HAS, BELLS, BELLS))
        for readiness_check in ReadinessCheck:
            clear_with_reason(WorkContext(db, BEFORE), 1, readiness_check, "seen by me")
    has_shown(database, "back_squat", "100", 5, 2)
    yield database
    database.close()


def has_shown(database: Database, movement: str, load: str, reps: int, left: int | None) -> None:
    facts = SetFacts(str(uuid4()), Decimal(load), Unit.KG, reps, reps, left, BEFORE.today)
    with database.writing() as db:
        log_test(WorkContext(db, BEFORE), 1, movement, facts)


def placed(database: Database, ladder: str, movement: str) -> None:
    with database.writing() as db:
        move_level(WorkContext(db, BEFORE), 1, ladder, movement, way="placed", reason="seen by me")


def planned(database: Database, movement: str, progression: str = "window") -> list[Cell]:
    sunday, season = on(MONDAY - dt.timedelta(days=1)), DaySpan(TODAY - dt.timedelta(weeks=4), 40)
    with database.writing() as db:
        facts = BlockFacts("B", MONDAY, WEEKS, False, (ExerciseFacts(0, movement, progression),))
        publish(WorkContext(db, sunday), create_block(WorkContext(db, sunday), facts, season).id)
    return standing(database)


def standing(database: Database) -> list[Cell]:
    with database.writing() as db:
        cells = list(db.scalars(select(Cell).where(Cell.current).order_by(Cell.week)))
        db.expunge_all()
        return cells


def done(database: Database, cell: Cell, reps: int, left: int | None) -> None:
    """All sets of a cell at its load, and the proposal accepted."""
    actor = on(MONDAY + dt.timedelta(weeks=cell.week))
    assert cell.load_amount is not None
    facts = [SetFacts(str(uuid4()), cell.load_amount, Unit.KG, reps, reps, left, actor.today) for _ in range(cell.sets)]
    with database.writing() as db:
        logged = log_sets(WorkContext(db, actor), cell.id, facts)
        decision = logged.decision
        assert decision is not None
        answer(WorkContext(db, actor), decision.id)


def test_a_front_squat_begins_with_the_empty_bar_and_is_at_its_ratio_in_the_third_session(database: Database) -> None:
    cells = planned(database, "front_squat", "effort")
    assert [cell.load_kg for cell in cells[:3]] == [20, 47.5, 77.5], "0.8 × 123 kg, six reps with two left: 77.9"
    done(database, cells[0], 6, 4)
    again = standing(database)
    assert again[1].load_kg == 47.5, "halfway, as was planned"
    done(database, again[1], 6, 4)
    assert (standing(database)[2].load_kg or 0) <= 77.5, "the ratio is a ceiling"


def test_the_empty_bar_missed_does_not_lead_halfway(database: Database) -> None:
    cells = planned(database, "front_squat", "effort")
    done(database, cells[0], 3, None)
    assert standing(database)[1].load_kg in (20, None)


def test_a_set_near_failure_ends_the_finding(database: Database) -> None:
    """All five made with one in reserve: up, but from what was shown and not halfway to a ratio."""
    cells = planned(database, "front_squat", "fixed")
    done(database, cells[0], 5, 1)
    assert 20 <= (standing(database)[1].load_kg or 0) <= 25


def test_a_heavy_bar_is_planned_with_its_rest_and_a_coachs_own_stays(database: Database) -> None:
    assert {cell.rest_s for cell in planned(database, "back_squat")} == {180}


def test_planning_again_before_a_first_session_changes_nothing(database: Database) -> None:
    planned(database, "front_squat", "effort")
    with database.writing() as db:
        block = standing_block(db)
        assert replanned(WorkContext(db, on(MONDAY)), block) == []


def standing_block(db):  # type: ignore[no-untyped-def]
    from backsquat.storage.models import Block

    return db.scalars(select(Block)).one()


def test_one_arm_in_the_front_rack_is_never_nothing(database: Database) -> None:
    placed(database, "lunge", "reverse_lunge_one_front_rack")
    cells = planned(database, "reverse_lunge_one_front_rack")
    assert cells[0].state is State.LOAD and cells[0].load_kg == 6, "half of what the ratio gives"
    assert all(cell.load_kg and cell.load_kg >= 6 for cell in cells)


def test_less_than_the_lightest_bell_is_the_level_without_one_and_says_so(database: Database) -> None:
    with database.writing() as db:  # bells of 20 kg and up only
        plates = (PlateFacts(Decimal(20), 4, 450),)
        bar = (BarFacts("b", "Bar", Decimal(20)),)
        heavy = ((Decimal(24), 2),)
        save_room(WorkContext(db, BEFORE), RoomFacts("Room", Unit.KG, Decimal(0), 2, bar, plates, HAS, heavy, heavy))
    placed(database, "lunge", "reverse_lunge_one_front_rack")
    cells = planned(database, "reverse_lunge_one_front_rack")
    assert {(cell.state, cell.movement, cell.stands_in) for cell in cells} == {
        (State.LEVEL, "reverse_lunge", StandIn.LIGHT)
    }


def test_a_goblet_squat_has_a_first_number_and_finds_the_rest(database: Database) -> None:
    placed(database, "squat_to_bar", "goblet_squat")
    cells = planned(database, "goblet_squat")
    assert {(cell.state, cell.start_amount, cell.load_amount) for cell in cells} == {(State.WORK, Decimal(10), None)}


def test_who_has_done_it_before_goes_on_from_there(database: Database) -> None:
    placed(database, "squat_to_bar", "goblet_squat")
    has_shown(database, "goblet_squat", "16", 8, None)
    assert all(cell.start_amount is None for cell in planned(database, "goblet_squat"))


def test_a_stand_in_with_a_load_has_a_first_number_too(database: Database) -> None:
    cells = planned(database, "rear_raised_dumbbells")  # not placed: the gentlest level, which takes none
    assert {(cell.state, cell.start_amount) for cell in cells} == {(State.LEVEL, None)}


def test_a_nordic_gains_reps_and_no_plates(database: Database) -> None:
    placed(database, "floor_curl", "nordic")
    has_shown(database, "nordic", "0", 8, 2)
    cells = planned(database, "nordic")
    assert {cell.state for cell in cells} == {State.WORK}
    assert [cell.reps for cell in cells[:3]] == [3, 4, 5] and all(cell.load_kg is None for cell in cells)


def test_who_raises_calves_with_a_weight_goes_on_with_one(database: Database) -> None:
    has_shown(database, "calf_raise", "20", 12, 2)
    assert {cell.state for cell in planned(database, "calf_raise")} == {State.LOAD}


def test_what_stands_in_may_be_on_no_ladder(database: Database) -> None:
    """No machine for knees here: an extension on the bench stands in, is logged, judged and answered."""
    placed(database, "back_extension", "back_extension_bar")
    cells = planned(database, "knee_extension")
    assert {(cell.state, cell.movement) for cell in cells} == {(State.LEVEL, "reverse_back_extension_bench")}
    actor = on(MONDAY)
    facts = [SetFacts(str(uuid4()), Decimal(0), Unit.KG, 15, 15, 2, actor.today) for _ in range(cells[0].sets)]
    with database.writing() as db:
        decision = log_sets(WorkContext(db, actor), cells[0].id, facts).decision
        assert decision is not None and decision.ladder == ""
        answer(WorkContext(db, actor), decision.id)
    assert [(cell.state, cell.movement) for cell in standing(database)] == [
        (cell.state, cell.movement) for cell in cells
    ]
