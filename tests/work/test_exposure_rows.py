"""A lift on several days under the fixed step is one row: each session takes its step from the one before it."""

import datetime as dt
from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import select

from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.progression.cell import Origin
from backsquat.core.progression.decision import Code
from backsquat.core.progression.missed import MissedChoice
from backsquat.core.readiness.limits import ActiveLimit, LimitKind, Scope
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import DaySpan
from backsquat.storage.database import Database
from backsquat.storage.models import Athlete, Block, Cell, DecisionRow, Exercise, Season
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.decisions.answer import answer, outcomes
from backsquat.work.floor.roll import Roll
from backsquat.work.floor.sessions import sessions_in_week
from backsquat.work.floor.turn import Turn
from backsquat.work.health.limits import add_limit
from backsquat.work.journal import undo
from backsquat.work.ladders.readiness_checks import clear_with_reason
from backsquat.work.plan.blocks import BlockFacts, ExerciseFacts, create_block
from backsquat.work.plan.cells import publish
from backsquat.work.plan.compare import compare
from backsquat.work.plan.days import leave_out
from backsquat.work.plan.exercises import add_exercise, give_setting
from backsquat.work.plan.missed import answer_missed, missed_groups
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.record.floor import log_sets
from backsquat.work.record.outside import log_test
from backsquat.work.record.record import SetFacts
from backsquat.work.rooms.describe import BarFacts, PlateFacts, RoomFacts, save_room
from backsquat.work.rooms.rooms import rooms_of
from tests.work.nothing import ACTOR, TODAY, from_nothing

MONDAY, WEEKS, DAYS = TODAY, 6, (0, 2, 4)
EXERCISE = ExerciseFacts(0, "back_squat", "fixed", {"sets": 3, "reps": 5})


def on(day: dt.date, hour: int = 18) -> Actor:
    return replace(ACTOR, now=dt.datetime.combine(day, dt.time(hour)))


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    """One grown athlete who has squatted 100 × 5 with two left, in a room of small plates; no block yet."""
    database = from_nothing(tmp_path)
    with database.writing() as db:
        db.add(Season(squad_id=1, name="s", first_week=TODAY - dt.timedelta(weeks=4), weeks=40))
        plates = tuple(PlateFacts(Decimal(mass), 4, 450) for mass in ("20", "10", "5", "2.5", "1.25"))
        bar = (BarFacts("b", "Bar", Decimal(20)),)
        save_room(WorkContext(db, ACTOR), RoomFacts("Room", Unit.KG, Decimal(0), 2, bar, plates))
        clear_with_reason(WorkContext(db, on(TODAY - dt.timedelta(days=3))), 1, ReadinessCheck.BARBELL, "seen by me")
        facts = SetFacts(str(uuid4()), Decimal(100), Unit.KG, 5, 5, 2, TODAY - dt.timedelta(days=3))
        log_test(WorkContext(db, on(TODAY - dt.timedelta(days=3))), 1, "back_squat", facts)
    yield database
    database.close()


def a_block(database: Database, *exercises: ExerciseFacts, **facts: Any) -> None:
    """Published on the Sunday before, three days a week unless other exercises are given."""
    sunday, season = on(MONDAY - dt.timedelta(days=1)), DaySpan(TODAY - dt.timedelta(weeks=4), 40)
    with database.writing() as db:
        exercises = exercises or tuple(replace(EXERCISE, weekday=day) for day in DAYS)
        block = create_block(WorkContext(db, sunday), BlockFacts("B", MONDAY, WEEKS, False, exercises), season)
        publish(WorkContext(db, sunday), block.id)


def cells(database: Database, current: bool = True) -> list[Cell]:
    """What is planned, as it comes: Monday, Wednesday, Friday, Monday …"""
    with database.reader() as db:
        rows = select(Cell, Exercise).join(Exercise, Exercise.id == Cell.exercise_id)
        found = db.execute(rows.where(Cell.current if current else Cell.live)).all()
        return [cell for cell, exercise in sorted(found, key=lambda row: (row[0].week, row[1].session.weekday))]


def loads(database: Database) -> list[float]:
    return [cell.load_kg or 0.0 for cell in cells(database)]


def train(database: Database, nth: int, reps: int = 5, code: Code | None = None, settle: bool = True) -> DecisionRow:
    """The nth exposure is lifted on its day with so many reps in every set, and decided at once."""
    cell, day = cells(database)[nth], MONDAY + dt.timedelta(days=7 * (nth // 3) + DAYS[nth % 3])
    facts = [SetFacts(str(uuid4()), Decimal(str(cell.load_amount)), Unit.KG, reps, reps, 2, day) for _ in range(3)]
    with database.writing() as db:
        decision = log_sets(WorkContext(db, on(day)), cell.id, facts).decision
        assert decision is not None
        if settle:
            answer(WorkContext(db, on(day, 20)), decision.id, code=code, reason="by me" if code else "")
        db.expunge(decision)
    return decision


def turn_of(database: Database, day: dt.date) -> Turn:
    """The athlete's turn on the floor of a day."""
    with database.reader() as db:
        chosen = next(one for one in sessions_in_week(db, 1, MONDAY) if one.day == day)
        turns, off = Roll(db, chosen, rooms_of(db, 1), day, Rules(), [1]).turns()
        assert not off
        return turns[1][0]


def test_the_step_goes_from_one_day_to_the_next(database: Database) -> None:
    a_block(database)
    steps = [after - before for before, after in zip(loads(database)[:8], loads(database)[1:9], strict=True)]
    assert len(loads(database)) == 3 * WEEKS
    assert all(0 <= step <= 2.5 for step in steps), "never more than the smallest step, also over the week's end"
    assert [step > 0 for step in steps[:2]] == [True, True], "it climbs in the week, not from week to week"
    deload = [cell.week for cell in cells(database) if cell.kind == "deload"]
    assert deload == [3, 3, 3], "the deload week is a week, not every fourth session"
    weeks = {dict(step["facts"]).get("week") for cell in cells(database) for step in cell.working} - {None}
    assert weeks <= set(range(1, WEEKS + 1)), "the working names weeks of the block"


def test_made_on_monday_is_a_step_up_on_wednesday(database: Database) -> None:
    a_block(database)
    monday = loads(database)[0]
    decision = train(database, 0)
    assert decision.code is Code.UP and decision.following["next_kg"] == pytest.approx(monday + 2.5)
    assert loads(database)[:2] == pytest.approx([monday, monday + 2.5])


def test_missed_on_monday_is_once_more_on_wednesday_and_twice_in_a_row_is_a_reset(database: Database) -> None:
    a_block(database)
    monday = loads(database)[0]
    assert train(database, 0, reps=4).code is Code.STAY
    assert loads(database)[1] == monday
    reset = train(database, 1, reps=4)
    assert reset.code is Code.DOWN and reset.reason == "reset", "Wednesday's is the second in a row"
    assert loads(database)[2] == pytest.approx(monday * 0.925, abs=1.25)


def test_a_coachs_number_and_a_lifted_one_stay(database: Database) -> None:
    a_block(database)
    with database.writing() as db:
        friday = db.get_one(Cell, cells(database)[2].id)
        friday.origin, before = Origin.COACH, friday.load_kg
    train(database, 0)
    assert cells(database)[2].load_kg == before
    done = cells(database)[0]
    train(database, 1)
    assert cells(database)[0].id == done.id


def test_other_answers_are_said_for_the_next_day(database: Database) -> None:
    a_block(database)
    monday = loads(database)[0]
    decision = train(database, 0, settle=False)
    with database.reader() as db:
        said = outcomes(WorkContext(db, on(MONDAY)), decision.id)
    assert said[Code.STAY]["next_kg"] == monday and said[Code.UP]["next_kg"] == pytest.approx(monday + 2.5)
    assert not said[Code.STAY]["own"]


def test_an_open_proposal_of_monday_holds_wednesday_back(database: Database) -> None:
    a_block(database)
    with database.writing() as db:
        give_setting(WorkContext(db, ACTOR), 2, [1], "fixed", {"sets": 3, "reps": 5})  # the same numbers: still one row
    monday = loads(database)[0]
    assert loads(database)[1] > monday
    train(database, 0, reps=4, settle=False)
    turn = turn_of(database, MONDAY + dt.timedelta(days=2))
    assert turn.hold is not None and turn.hold.decision is not None
    assert turn.load is not None and turn.load.kg == monday


def test_a_missed_monday_holds_wednesday_back_and_is_done_then(database: Database) -> None:
    a_block(database)
    before, wednesday = loads(database), MONDAY + dt.timedelta(days=2)
    turn = turn_of(database, wednesday)
    assert turn.hold is not None and turn.hold.missed is not None
    assert turn.load is not None and turn.load.kg == before[0]
    with database.writing() as db:
        held = db.get_one(Exercise, cells(database)[0].exercise_id).session_id
        change, _ = answer_missed(WorkContext(db, on(wednesday, 8)), held, [1], MissedChoice.REPEAT)
    assert loads(database)[1:9] == pytest.approx(before[:8]), "everything moves one session on"
    with database.writing() as db:
        undo(WorkContext(db, on(wednesday, 9)), change.id)
    assert loads(database) == pytest.approx(before)


def test_two_missed_days_are_made_up_for_in_their_order(database: Database) -> None:
    a_block(database)
    before, friday = loads(database), MONDAY + dt.timedelta(days=4)
    for nth in (0, 1):
        with database.writing() as db:
            held = db.get_one(Exercise, cells(database)[nth].exercise_id).session_id
            answer_missed(WorkContext(db, on(friday, 8)), held, [1], MissedChoice.REPEAT)
    assert loads(database)[2:9] == pytest.approx(before[:7])


def test_what_was_missed_before_a_later_day_was_done_moves_nothing(database: Database) -> None:
    a_block(database)
    train(database, 1)
    before = loads(database)
    turn = turn_of(database, MONDAY + dt.timedelta(days=4))
    assert turn.hold is None or turn.hold.load is None
    with database.reader() as db:
        (group,) = missed_groups(WorkContext(db, on(MONDAY + dt.timedelta(days=3))))
        assert [exercise.movement for exercise in group.exercises] == ["back_squat"], (
            "it is still said what was to be done"
        )
    with database.writing() as db:
        held = db.get_one(Exercise, cells(database)[0].exercise_id).session_id
        answer_missed(WorkContext(db, on(MONDAY + dt.timedelta(days=3))), held, [1], MissedChoice.REPEAT)
    assert loads(database) == before


def test_a_day_left_out_hands_its_work_to_the_next(database: Database) -> None:
    a_block(database)
    before = loads(database)
    with database.writing() as db:
        held = db.get_one(Exercise, cells(database)[1].exercise_id).session_id
        leave_out(WorkContext(db, on(MONDAY, 8)), [held], 0, moves_on=True)
    assert loads(database)[2] == before[1]


def test_planned_again_by_one_of_its_days_it_is_the_same_row(database: Database) -> None:
    a_block(database)
    train(database, 0)
    train(database, 1)
    with database.reader() as db:
        block, actor = db.get_one(Block, 1), on(MONDAY + dt.timedelta(days=3))
        every = [one.draft for one in replanned(WorkContext(db, actor), block)]
        alone = [one.draft for one in replanned(WorkContext(db, actor), block, ReplanScope(exercise_ids=[3]))]
    assert alone and alone == [draft for draft in every if draft.exercise_id == 3]


def test_a_day_put_in_later_goes_on_with_the_others(database: Database) -> None:
    a_block(database, EXERCISE)
    with database.writing() as db:
        add_exercise(WorkContext(db, on(MONDAY + dt.timedelta(days=1))), 1, replace(EXERCISE, weekday=3))
    monday = loads(database)[0]
    train_at(database, 0, MONDAY)
    assert loads(database)[1] == pytest.approx(monday + 2.5), "Thursday's, after what Monday was"


def test_a_day_put_in_in_the_second_week_is_deload_when_the_others_are(database: Database) -> None:
    a_block(database, EXERCISE)
    with database.writing() as db:
        add_exercise(WorkContext(db, on(MONDAY + dt.timedelta(days=7))), 1, replace(EXERCISE, weekday=3))
    assert [cell.week for cell in cells(database) if cell.kind == "deload"] == [3, 3]


def train_at(database: Database, nth: int, day: dt.date) -> None:
    cell = cells(database)[nth]
    facts = [SetFacts(str(uuid4()), Decimal(str(cell.load_amount)), Unit.KG, 5, 5, 2, day) for _ in range(cell.sets)]
    with database.writing() as db:
        decision = log_sets(WorkContext(db, on(day + dt.timedelta(days=1), 8)), cell.id, facts).decision
        assert decision is not None
        answer(WorkContext(db, on(day + dt.timedelta(days=1), 9)), decision.id)


@pytest.mark.parametrize(
    "exercises",
    [
        (EXERCISE, replace(EXERCISE, weekday=2, parameters={"sets": 3, "reps": 3})),  # heavy and light days
        (EXERCISE, replace(EXERCISE, parameters={"sets": 3, "reps": 5})),  # the lift and its back-off sets
        (
            replace(EXERCISE, progression="wave", parameters={}),
            replace(EXERCISE, progression="wave", parameters={}, weekday=2),
        ),
    ],
)
def test_other_numbers_the_same_day_or_a_weekly_progression_make_no_row(
    database: Database, exercises: tuple[ExerciseFacts, ...]
) -> None:
    a_block(database, *exercises)
    if exercises[1].weekday == 0:
        assert loads(database)[0] == loads(database)[1], "no step within a session"
    first = {cell.exercise_id: cell.load_kg for cell in reversed(cells(database))}
    last = [cell for cell in cells(database) if cell.week == 0]
    other = cells(database)[1]
    day = MONDAY
    train_at(database, 0, day)
    assert [cell.load_kg for cell in cells(database) if cell.week == 0] == [cell.load_kg for cell in last]
    assert first[other.exercise_id] == other.load_kg


def test_somebody_under_another_progression_on_one_day_climbs_on_the_others(database: Database) -> None:
    a_block(database)
    with database.writing() as db:
        give_setting(WorkContext(db, ACTOR), 2, [1], "wave", {})
    before = loads(database)
    train(database, 0)
    assert loads(database)[1] == before[1], "Wednesday is a wave now"
    assert loads(database)[2] == pytest.approx(before[0] + 2.5), "Friday comes after Monday"


def test_a_limit_on_one_day_bars_that_day_and_the_row_goes_on(database: Database) -> None:
    wednesday = MONDAY + dt.timedelta(days=2)
    limit = ActiveLimit(Scope.MOVEMENT, "back_squat", LimitKind.NOT_AT_ALL, None, "", wednesday, wednesday, "P. Physio")
    a_block(database)
    with database.writing() as db:
        add_limit(WorkContext(db, on(MONDAY, 8)), 1, limit)
    week = [cell for cell in cells(database) if cell.week == 0]
    assert [cell.state.value == "load" for cell in week] == [True, False, True]
    assert 0 <= (week[2].load_kg or 0) - (week[0].load_kg or 0) <= 2.5


def test_compared_with_another_progression_a_day_shows_its_own_weeks(database: Database) -> None:
    a_block(database)
    with database.reader() as db:
        block = db.get_one(Block, 1)
        athlete = db.get_one(Athlete, 1)
        found = compare(WorkContext(db, on(MONDAY)), block, block.exercises[1], athlete, ["fixed", "wave"])
    assert [len(one.measured.weeks) for one in found if one.measured] == [WEEKS, WEEKS]
    assert [week.week for week in found[0].measured.weeks] == list(range(WEEKS))  # type: ignore[union-attr]
