"""No path through planner or floor gives a locked, barred or not ready movement a load, whatever was done before."""

import contextlib
import datetime as dt
import random
from decimal import Decimal
from uuid import uuid4

import pytest
from flask import Flask
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from backsquat.config import DEMO_DAY
from backsquat.core.errors import ImpossibleInput, Refused
from backsquat.core.loads.mass import Unit
from backsquat.core.loads.room import Room
from backsquat.core.movements.movement import Family, Movement, ReadinessCheck, Region
from backsquat.core.progression.cell import State
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.readiness.absence import AwayReason
from backsquat.core.readiness.limits import ActiveLimit as LimitFacts
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.core.readiness.pain import locks
from backsquat.core.readiness.stand_in import own_level_instead
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.storage.convert import planned_load
from backsquat.storage.models import (
    Athlete,
    Block,
    Cell,
    Exercise,
    LevelMove,
    ReadinessClearance,
    RoomRow,
    ScreenResult,
    SetEntry,
    Stop,
)
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext, library_of
from backsquat.work.floor.floor import floor_of
from backsquat.work.floor.sessions import sessions_in_week
from backsquat.work.health.absences import go_away
from backsquat.work.health.limits import add_limit
from backsquat.work.ladders.moves import move_level
from backsquat.work.plan.cells import movement_of, publish
from backsquat.work.plan.drafts import planned_drafts
from backsquat.work.plan.exercise_plan import exercise_plan, known_candidates
from backsquat.work.plan.exercises import give_setting
from backsquat.work.plan.replan import replan
from backsquat.work.plan.room_assignments import AssignmentFacts, assign_room
from backsquat.work.readiness.load import readiness_of
from backsquat.work.readiness.screens import Value, record_result
from backsquat.work.record.floor import log_set
from backsquat.work.record.outside import log_level_work, log_test
from backsquat.work.record.record import SetFacts
from backsquat.work.rooms.describe import BarFacts, PlateFacts, RoomFacts, save_room
from backsquat.work.rooms.rooms import Rooms, rooms_of
from backsquat.work.sessions.blocks import session_day, session_on
from backsquat.work.squad.athletes import squad_athletes
from tests.draws import some

RULES = Rules()
ACTOR = Actor(1, 1, dt.datetime.combine(DEMO_DAY, dt.time(18)))


def disturb(db: Session, athlete: Athlete, chance: random.Random) -> None:
    """One thing that takes something away from an athlete."""
    library = library_of(db, 1)
    kind = chance.choice(["stop", "limit", "limit", "screen", "away", "level", "level", "consent", "unplaced"])
    if kind == "stop":
        entry = db.scalars(select(SetEntry).where(SetEntry.athlete_id == athlete.id)).first()
        if entry:
            db.add(
                Stop(
                    athlete_id=athlete.id,
                    set_id=entry.id,
                    movement=chance.choice(sorted(library.movements)),
                    locked=[],
                    level=6,
                    region=chance.choice(list(Region)).value,
                    character="sharp",
                    by_id=1,
                    at=ACTOR.now,
                )
            )
    elif kind == "limit":
        scope = chance.choice(list(Scope))
        what = {
            Scope.MOVEMENT: chance.choice(["back_squat", "romanian_deadlift"]),
            Scope.FAMILY: chance.choice(list(Family)).value,
            Scope.REGION: chance.choice(list(Region)).value,
        }[scope]
        kinds = [LimitKind.NOT_AT_ALL, LimitKind.LOAD]
        first = DEMO_DAY + dt.timedelta(days=chance.choice([-7, 0, 10]))
        until = chance.choice([None, first + dt.timedelta(days=14)])
        facts = LimitFacts(
            scope, what, chance.choice(kinds), chance.choice([15.0, 42.0, 70.0]), "", first, until, "physio"
        )
        add_limit(WorkContext(db, ACTOR), athlete.id, facts)
    elif kind == "screen":
        screen = chance.choice(["brace", "knees_track", "standing_squat"])
        record_result(WorkContext(db, ACTOR), athlete.id, Value(screen, "", 0.0), DEMO_DAY)
    elif kind == "away":
        with contextlib.suppress(Refused):
            go_away(WorkContext(db, ACTOR), athlete.id, DEMO_DAY - dt.timedelta(days=3), AwayReason.ILLNESS)
    elif kind == "unplaced":
        db.execute(delete(LevelMove).where(LevelMove.athlete_id == athlete.id))
        db.execute(delete(ReadinessClearance).where(ReadinessClearance.athlete_id == athlete.id))
        if chance.random() < 0.5:
            db.execute(delete(ScreenResult).where(ScreenResult.athlete_id == athlete.id))
    elif kind == "level":
        ladder = chance.choice(list(library.ladders.values()))
        try:
            code = chance.choice(chance.choice(ladder.levels))
            move_level(WorkContext(db, ACTOR), athlete.id, ladder.code, code, way="placed", reason="by chance")
        except Refused:
            pass
    else:
        athlete.born_on, athlete.consent = dt.date(2010, 1, 1), False
    db.flush()


def scatter(db: Session, athletes: list[Athlete], chance: random.Random) -> None:
    """Some train in a pounds room with little in it, some follow another progression; the own room lacks things."""
    own = db.scalars(select(RoomRow).order_by(RoomRow.id)).first()
    assert own is not None
    own.equipment = chance.sample(own.equipment, chance.randint(0, len(own.equipment)))
    facts = RoomFacts(
        "School hall",
        Unit.LB,
        Decimal(0),
        2,
        (BarFacts("bar45", "Bar", Decimal(45)),),
        tuple(PlateFacts(Decimal(mass), 2, 450) for mass in ("45", "25", "10", "5")),
        ("box",),
        dumbbells=((Decimal(15), 2), (Decimal(30), 2)),
    )
    room_id = save_room(WorkContext(db, ACTOR), facts, further=True).subject_id
    for athlete_id in (*(a.id for a in chance.sample(athletes, 5)), *chance.choice([(), (), (None,)])):
        first = DEMO_DAY + dt.timedelta(days=chance.choice([0, 1, 7]))
        last, weekday = chance.choice([None, first + dt.timedelta(days=9)]), chance.choice([None, None, 2])
        assign_room(WorkContext(db, ACTOR), AssignmentFacts(room_id, athlete_id, first, last, weekday))
    block = db.scalars(select(Block).where(Block.name == "November wave")).one()
    for exercise in block.exercises:
        if not exercise.ladder:
            ids = [a.id for a in chance.sample(athletes, 4)]
            give_setting(
                WorkContext(db, ACTOR), exercise.id, ids, chance.choice([c for c in PROGRESSIONS if c != "ladder"]), {}
            )


def harder_than_earned(ready: Readiness, movement: Movement) -> bool:
    """Whether a movement is a harder level than the athlete has come by, said once more and otherwise than the verdict."""
    levels = {ladder.code: level for ladder, level in ready.library.ladders_of(movement.code)}
    born, adult = ready.person.born_on, ready.rules.adult_age_years
    if movement.takes_load and not ready.person.consent and (DEMO_DAY - born).days < adult * 365.2425 - 1:
        return True
    if not levels:
        return False
    reached = {code: 0 for code in levels if code not in ready.levels}  # the gentlest needs no placing
    for code in levels:
        ladder, held = ready.library.ladders[code], ready.levels.get(code)
        if held:
            reached[code] = ladder.level_of(held.movement) or 0
        through = ready.library.movements.get(ladder.through)
        if (
            through
            and (held is None or held.way != "easier")
            and all(ready.view(g).open for g in through.readiness_checks)
        ):
            reached[code] = max(reached[code], ladder.level_of(through.code) or 0)
        tested = ready.shown.get(movement.code)
        if tested and (held is None or tested > held.at.date()):
            reached[code] = levels[code]
    return all(level > reached[code] for code, level in levels.items())


def forbidden(ready: Readiness, movement_code: str, load_kg: float | None, day: dt.date) -> str:
    """Why this load must not be there on a day to come; empty: it may."""
    movement = ready.library.get(movement_code)
    bounds = ready.bounds(movement, day)
    for stop in ready.stops:
        stopped = ready.library.movements.get(stop.movement)
        if locks(stop.movement, stopped.family if stopped else None, stop.region, movement):
            return "locked"
    if ready.readiness_check(movement):
        return "not_ready"
    if harder_than_earned(ready, movement):
        return "unearned"
    if bounds.barred_by:
        return "barred"
    return "over the limit" if bounds.most_kg is not None and (load_kg or 0) > bounds.most_kg + 1e-6 else ""


FLAG_OF = {
    "locked": "stopped",
    "away": "away",
    "not_ready": "not_ready",
    "barred": "barred",
    "unearned": "unearned",
    "over the limit": "over_limit",
}


def there_is(room: Room, movement: Movement, bar: str, amount: Decimal | None, unit: str) -> None:
    """The room really has this load."""
    assert amount is None or planned_load(room, movement, bar, amount, unit), (room.name, movement.code, amount)


SEEDS = 4


@pytest.mark.parametrize("seed", some(range(SEEDS), 2))
def test_no_path_gives_a_forbidden_load(app: Flask, seed: int) -> None:
    chance = random.Random(seed)
    with app.extensions["database"].writing() as db:
        athletes = squad_athletes(db, 1)
        for _ in range(8):
            disturb(db, chance.choice(athletes), chance)
        scatter(db, athletes, chance)
        library, rooms = library_of(db, 1), rooms_of(db, 1)
        ready = readiness_of(db, 1, athletes, DEMO_DAY, RULES)
        block = db.scalars(select(Block).where(Block.name == "November wave")).one()

        # 1. What any progression and lift would plan.
        for lift in library.in_use()[seed::SEEDS]:  # the seeds together cover the library
            progression = chance.choice(sorted(PROGRESSIONS))
            ladder = next((lad.code for lad, _ in library.ladders_of(lift.code)), "") if progression == "ladder" else ""
            exercise = Exercise(
                id=0,
                block_id=block.id,
                position=9,
                session=session_on(block, 4),
                movement=lift.code,
                progression=progression,
                parameters={},
                ladder=ladder,
            )
            plan = exercise_plan(db, block, exercise, RULES)
            known = known_candidates(db, ready, plan)
            for draft in planned_drafts(plan, athletes, known, {one.id: range(block.weeks) for one in plan.same}):
                code, day = draft.movement or lift.code, session_day(exercise, draft.week)
                if draft.load_kg is not None or draft.movement or draft.state is State.WORK:
                    why = forbidden(ready[draft.athlete_id], code, draft.load_kg, day)
                    assert not why, (why, code, draft.athlete_id, progression, ladder)
                    assert draft.room_id == rooms.id_on(draft.athlete_id, day)
                    assert not ready[draft.athlete_id].lacking(library.get(code), day)
                    room = rooms.room(draft.room_id)
                    there_is(room, library.get(code), draft.bar, draft.load_amount, draft.load_unit)
        db.expunge_all()
        block = db.get_one(Block, block.id)

        # 2. Whoever trains elsewhere has the loads of that room at once, without planning again.
        exercises = {exercise.id: exercise for exercise in block.every_exercise}
        logged = set(db.scalars(select(SetEntry.cell_id).where(SetEntry.cell_id.is_not(None))))
        for cell in db.scalars(select(Cell).where(Cell.exercise_id.in_(exercises), Cell.current)):
            exercise = exercises[cell.exercise_id]
            day = session_day(exercise, cell.week)
            if day >= DEMO_DAY and cell.id not in logged:
                assert cell.room_id == rooms.id_on(cell.athlete_id, day)
                movement = movement_of(library, exercise, cell)
                there_is(rooms.of_cell(cell), movement, cell.bar, cell.load_amount, cell.load_unit)

        # 3. What stands after planning again and publishing; before it the floor offers nothing forbidden either.
        ready = readiness_of(db, 1, squad_athletes(db, 1), DEMO_DAY, RULES)
        the_floor_offers_nothing_forbidden(db, ready, rooms)
        replan(WorkContext(db, ACTOR), block.id)
        with contextlib.suppress(Refused):
            publish(WorkContext(db, ACTOR), block.id)
        ready = readiness_of(db, 1, squad_athletes(db, 1), DEMO_DAY, RULES)
        rows = db.execute(
            select(Cell, Exercise)
            .join(Exercise, Cell.exercise_id == Exercise.id)
            .where(Exercise.block_id == block.id, Cell.live)
        ).all()
        block = db.get_one(Block, block.id)
        for cell, exercise in rows:
            day = session_day(exercise, cell.week)
            if day >= DEMO_DAY and cell.origin != "coach" and (cell.load_kg is not None or cell.movement):
                code = movement_of(library, exercise, cell).code
                assert not forbidden(ready[cell.athlete_id], code, cell.load_kg, day), (code, cell.athlete_id)
                assert cell.room_id == rooms.id_on(cell.athlete_id, day)
                there_is(rooms.of_cell(cell), library.get(code), cell.bar, cell.load_amount, cell.load_unit)

        # 4. What the floor shows, and what it lets through.
        the_floor_offers_nothing_forbidden(db, ready, rooms)
        for cell, exercise in rows:
            mine, movement = ready[cell.athlete_id], movement_of(library, exercise, cell)
            if session_day(exercise, cell.week) != DEMO_DAY:
                continue
            why = forbidden(mine, movement.code, cell.load_kg, DEMO_DAY) or ("away" if mine.absent else "")
            if why:  # what was lifted all the same is kept, and says so
                kept = log_set(WorkContext(db, ACTOR), cell.id, facts(cell.load_kg)).entry
                assert FLAG_OF[why] in kept.flags

        # 5. Tests and the work of a level.
        for athlete_id, mine in ready.items():
            for code in ("back_squat", "romanian_deadlift", "goblet_squat"):
                if why := forbidden(mine, code, 0, DEMO_DAY) or ("away" if mine.absent else ""):
                    (work,) = log_level_work(WorkContext(db, ACTOR), athlete_id, code, [facts(20.0)])
                    test = log_test(WorkContext(db, ACTOR), athlete_id, code, facts(20.0)).entry
                    assert FLAG_OF[why] in test.flags and FLAG_OF[why] in work.entry.flags
            for code in ("back_squat", "romanian_deadlift"):
                own = own_level_instead(mine, library.get(code))
                assert own is None or (not forbidden(mine, own.code, 0, DEMO_DAY) and not mine.lacking(own))
        db.rollback()


def the_floor_offers_nothing_forbidden(db: Session, ready: dict[int, Readiness], rooms: Rooms) -> None:
    sessions = sessions_in_week(db, 1, DEMO_DAY)
    for chosen in sessions:
        floor = floor_of(db, sessions, chosen, rooms, RULES, now=ACTOR.now)
        for turn in [turn for rack in floor.racks for one in rack.lists for turn in one.turns]:
            mine = ready[turn.athlete.id]
            if turn.stopped:  # stays to be seen, and offers nothing
                assert turn.finished
            elif not turn.entries:
                assert not forbidden(mine, turn.movement.code, turn.cell.load_kg, DEMO_DAY)
                assert not mine.absent


def facts(load_kg: float | None) -> SetFacts:
    return SetFacts(str(uuid4()), Decimal(str(load_kg or 20)), Unit.KG, 3, 3, 2, DEMO_DAY)


def test_a_readiness_check_is_only_opened_by_its_lines_or_a_name(app: Flask) -> None:
    with app.extensions["database"].reader() as db:
        for ready in readiness_of(db, 1, squad_athletes(db, 1), DEMO_DAY, RULES).values():
            view = ready.view(ReadinessCheck.BARBELL)
            assert view.open == (
                view.passed or (view.override is not None and not any(line.firm for line in view.missing))
            )


def test_pain_without_a_place_is_not_taken_from_anywhere(app: Flask) -> None:
    with app.extensions["database"].writing() as db:
        hurt = SetFacts(str(uuid4()), Decimal(10), Unit.KG, 5, 5, 2, DEMO_DAY, pain=11, pain_region="knee")
        with pytest.raises(ImpossibleInput):
            log_level_work(WorkContext(db, ACTOR), 17, "goblet_squat", [hurt])
