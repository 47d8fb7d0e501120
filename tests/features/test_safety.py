"""No path through planner or floor gives a locked, barred or gated movement a load, whatever was done before."""

import contextlib
import datetime as dt
import random
from decimal import Decimal
from uuid import uuid4

import pytest
from flask import Flask
from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.config import DEMO_DAY
from backsquat.core.errors import ImpossibleInput, Refused
from backsquat.core.loads.mass import Unit
from backsquat.core.loads.room import Room
from backsquat.core.movements.movement import Family, Gate, Movement, Region
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.readiness.absence import Why
from backsquat.core.readiness.limits import Limit as LimitFacts
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.core.rules import Rules
from backsquat.features.athletes.operations import SetFacts, log_test
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.athletes.readiness import Readiness, readiness_of
from backsquat.features.blocks.operations import publish, replan
from backsquat.features.blocks.planning import (
    known_candidates,
    movement_of,
    planned_cells,
    session_day,
    slot_plan,
)
from backsquat.features.blocks.slots import give_course
from backsquat.features.desk import Actor
from backsquat.features.floor.operations import log_set
from backsquat.features.floor.queries import floor_of, sessions_in_week
from backsquat.features.health.operations import add_limit, go_away
from backsquat.features.ladders.operations import log_rung_work, move_rung
from backsquat.features.movements.queries import library_of
from backsquat.features.room.operations import BarFacts, PlateFacts, RoomFacts, save_room
from backsquat.features.room.rooms import rooms_of
from backsquat.features.room.stays import StayFacts, add_stay
from backsquat.features.screening.operations import Value, record_result
from backsquat.storage.convert import planned_load
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, SetEntry, Stop

RULES = Rules()
ACTOR = Actor(1, 1, dt.datetime.combine(DEMO_DAY, dt.time(18)))


def disturb(session: Session, athlete: Athlete, chance: random.Random) -> None:
    """One thing that takes something away from an athlete."""
    library = library_of(session, 1)
    kind = chance.choice(["stop", "limit", "limit", "screen", "away", "rung", "consent"])
    if kind == "stop":
        entry = session.scalars(select(SetEntry).where(SetEntry.athlete_id == athlete.id)).first()
        if entry:
            session.add(
                Stop(
                    athlete_id=athlete.id, set_id=entry.id, movement=chance.choice(sorted(library.movements)), locked=[],
                    level=6, place=chance.choice(list(Region)).value, character="sharp", by_id=1, at=ACTOR.now,
                )
            )  # fmt: skip
    elif kind == "limit":
        scope = chance.choice(list(Scope))
        what = {
            Scope.MOVEMENT: chance.choice(["back_squat", "romanian_deadlift"]), Scope.FAMILY: chance.choice(list(Family)).value,
            Scope.REGION: chance.choice(list(Region)).value,
        }[scope]  # fmt: skip
        kinds = [LimitKind.NOT_AT_ALL, LimitKind.LOAD]
        first = DEMO_DAY + dt.timedelta(days=chance.choice([-7, 0, 10]))
        until = chance.choice([None, first + dt.timedelta(days=14)])
        facts = LimitFacts(
            scope, what, chance.choice(kinds), chance.choice([15.0, 42.0, 70.0]), "", first, until, "physio"
        )
        add_limit(session, ACTOR, athlete.id, facts, RULES)
    elif kind == "screen":
        screen = chance.choice(["brace", "knees_track", "standing_squat"])
        record_result(session, ACTOR, athlete.id, Value(screen, "", 0.0), DEMO_DAY)
    elif kind == "away":
        with contextlib.suppress(Refused):
            go_away(session, ACTOR, athlete.id, DEMO_DAY - dt.timedelta(days=3), Why.ILLNESS)
    elif kind == "rung":
        ladder = chance.choice(list(library.ladders.values()))
        try:
            code = chance.choice(chance.choice(ladder.rungs))
            move_rung(session, ACTOR, athlete.id, ladder.code, code, RULES, way="placed", reason="by chance")
        except Refused:
            pass
    else:
        athlete.born_on, athlete.consent = dt.date(2010, 1, 1), False
    session.flush()


def scatter(session: Session, athletes: list[Athlete], chance: random.Random) -> None:
    """Some train in a pounds room with little in it, some follow another school."""
    facts = RoomFacts(
        "School hall", Unit.LB, Decimal(0), 2, (BarFacts("bar45", "Bar", Decimal(45)),),
        tuple(PlateFacts(Decimal(mass), 2, 450) for mass in ("45", "25", "10", "5")), ("box",),
        dumbbells=((Decimal(15), 2), (Decimal(30), 2)),
    )  # fmt: skip
    room_id = save_room(session, ACTOR, facts, further=True).subject_id
    for athlete_id in (*(a.id for a in chance.sample(athletes, 5)), *chance.choice([(), (), (None,)])):
        first = DEMO_DAY + dt.timedelta(days=chance.choice([0, 1, 7]))
        last, weekday = chance.choice([None, first + dt.timedelta(days=9)]), chance.choice([None, None, 2])
        add_stay(session, ACTOR, StayFacts(room_id, athlete_id, first, last, weekday), RULES)
    block = session.scalars(select(Block).where(Block.name == "November wave")).one()
    for slot in block.slots:
        if not slot.ladder:
            ids = [a.id for a in chance.sample(athletes, 4)]
            give_course(
                session, ACTOR, slot.id, ids, chance.choice([c for c in SCHOOLS if c != "ladder"]), {}
            )


def forbidden(ready: Readiness, movement_code: str, load_kg: float | None, day: dt.date) -> str:
    """Why this load must not be there on a day to come; empty: it may."""
    movement = ready.library.get(movement_code)
    bounds = ready.bounds(movement, day)
    if ready.stop_on(movement):
        return "locked"
    if ready.gate(movement):
        return "gated"
    if bounds.barred_by:
        return "barred"
    return "over the limit" if bounds.most_kg is not None and (load_kg or 0) > bounds.most_kg + 1e-6 else ""


def there_is(room: Room, movement: Movement, bar: str, amount: Decimal | None, unit: str) -> None:
    """The room really has this load."""
    assert amount is None or planned_load(room, movement, bar, amount, unit), (
        room.name,
        movement.code,
        amount,
    )


@pytest.mark.parametrize("seed", range(8))
def test_no_path_gives_a_forbidden_load(app: Flask, seed: int) -> None:
    chance = random.Random(seed)
    with app.extensions["database"].writing() as session:
        athletes = squad_athletes(session, 1)
        for _ in range(12):
            disturb(session, chance.choice(athletes), chance)
        scatter(session, athletes, chance)
        library, rooms = library_of(session, 1), rooms_of(session, 1)
        ready = readiness_of(session, 1, athletes, DEMO_DAY, RULES)
        block = session.scalars(select(Block).where(Block.name == "November wave")).one()

        # 1. What any school and lift would plan.
        for lift in chance.sample(library.in_use(), 24):  # the seeds together cover the library
            school = chance.choice(sorted(SCHOOLS))
            ladder = (
                next((lad.code for lad, _ in library.ladders_of(lift.code)), "") if school == "ladder" else ""
            )
            slot = BlockSlot(
                id=0,
                block_id=block.id,
                place=9,
                weekday=4,
                movement=lift.code,
                school=school,
                parameters={},
                ladder=ladder,
            )
            plan = slot_plan(session, block, slot, RULES)
            known = known_candidates(session, athletes, plan, DEMO_DAY)
            for row in planned_cells(plan, athletes, known, ACTOR, range(block.weeks)):
                code, day = row["movement"] or lift.code, session_day(block, slot, row["week"])
                if row["load_kg"] is not None or row["movement"] or row["state"] == "work":
                    why = forbidden(ready[row["athlete_id"]], code, row["load_kg"], day)
                    assert not why, (why, code, row["athlete_id"], school, ladder)
                    assert row["room_id"] == rooms.id_on(row["athlete_id"], day)
                    assert not ready[row["athlete_id"]].lacking(library.get(code), day)
                    there_is(
                        rooms.room(row["room_id"]),
                        library.get(code),
                        row["bar"],
                        row["load_amount"],
                        row["load_unit"],
                    )
        session.expunge_all()
        block = session.get_one(Block, block.id)

        # 2. Whoever trains elsewhere has the loads of that room at once, without planning anew.
        slots = {slot.id: slot for slot in block.every_slot}
        for cell in session.scalars(select(Cell).where(Cell.slot_id.in_(slots), Cell.current)):
            slot = slots[cell.slot_id]
            day = session_day(block, slot, cell.week)
            if day >= DEMO_DAY and not session.scalar(
                select(SetEntry.id).where(SetEntry.cell_id == cell.id).limit(1)
            ):
                assert cell.room_id == rooms.id_on(cell.athlete_id, day)
                movement = movement_of(library, slot, cell)
                there_is(rooms.of_cell(cell), movement, cell.bar, cell.load_amount, cell.load_unit)

        # 3. What stands after planning anew and publishing.
        replan(session, ACTOR, block.id, RULES)
        with contextlib.suppress(Refused):
            publish(session, ACTOR, block.id)
        ready = readiness_of(session, 1, squad_athletes(session, 1), DEMO_DAY, RULES)
        rows = session.execute(
            select(Cell, BlockSlot)
            .join(BlockSlot, Cell.slot_id == BlockSlot.id)
            .where(BlockSlot.block_id == block.id, Cell.live)
        ).all()
        block = session.get_one(Block, block.id)
        for cell, slot in rows:
            day = session_day(block, slot, cell.week)
            if day >= DEMO_DAY and cell.origin != "coach" and (cell.load_kg is not None or cell.movement):
                code = movement_of(library, slot, cell).code
                assert not forbidden(ready[cell.athlete_id], code, cell.load_kg, day), (code, cell.athlete_id)
                assert cell.room_id == rooms.id_on(cell.athlete_id, day)
                there_is(rooms.of_cell(cell), library.get(code), cell.bar, cell.load_amount, cell.load_unit)

        # 4. What the floor shows, and what it lets through.
        sessions = sessions_in_week(session, 1, DEMO_DAY)
        for chosen in sessions:
            floor = floor_of(
                session,
                sessions,
                chosen,
                rooms,
                RULES,
                now=ACTOR.now,
                rack=None,
                athlete_id=None,
            )
            for turn in [turn for rack in floor.racks for turn in rack.turns]:
                mine = ready[turn.athlete.id]
                if not turn.entries:
                    assert not forbidden(mine, turn.movement.code, turn.cell.load_kg, DEMO_DAY)
                    assert not mine.absent
        for cell, slot in rows:
            mine, movement = ready[cell.athlete_id], movement_of(library, slot, cell)
            if session_day(session.get_one(Block, slot.block_id), slot, cell.week) != DEMO_DAY:
                continue
            if forbidden(mine, movement.code, cell.load_kg, DEMO_DAY) or mine.absent:
                with pytest.raises(Refused):
                    log_set(session, ACTOR, cell.id, facts(cell.load_kg), RULES)

        # 5. Tests and the work of a rung.
        for athlete_id, mine in ready.items():
            for code in ("back_squat", "romanian_deadlift", "goblet_squat"):
                if mine.absent or forbidden(mine, code, 0, DEMO_DAY):
                    with pytest.raises(Refused):
                        log_test(session, ACTOR, athlete_id, code, facts(20.0), RULES)
                    with pytest.raises(Refused):
                        log_rung_work(session, ACTOR, athlete_id, code, [facts(20.0)], RULES)
            for code in ("back_squat", "romanian_deadlift"):
                work = mine.rung_work(library.get(code))
                assert work is None or (
                    not forbidden(mine, work.code, 0, DEMO_DAY) and not mine.lacking(work)
                )
        session.rollback()


def facts(load_kg: float | None) -> SetFacts:
    return SetFacts(str(uuid4()), Decimal(str(load_kg or 20)), Unit.KG, 3, 3, 2, DEMO_DAY)


def test_a_gate_is_only_opened_by_its_lines_or_a_name(app: Flask) -> None:
    with app.extensions["database"].reader() as session:
        for ready in readiness_of(session, 1, squad_athletes(session, 1), DEMO_DAY, RULES).values():
            view = ready.view(Gate.BARBELL)
            assert view.open == (
                view.passed or (view.override is not None and not any(line.firm for line in view.missing))
            )


def test_pain_without_a_place_is_not_taken_from_anywhere(app: Flask) -> None:
    with app.extensions["database"].writing() as session:
        hurt = SetFacts(str(uuid4()), Decimal(10), Unit.KG, 5, 5, 2, DEMO_DAY, pain=11, pain_place="knee")
        with pytest.raises(ImpossibleInput):
            log_rung_work(session, ACTOR, 17, "goblet_squat", [hurt], RULES)
