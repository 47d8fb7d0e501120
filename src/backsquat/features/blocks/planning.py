"""From the squad's facts to rows of cells: what the sheet, a replan and a decision all use."""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.loads.room import Bar, Room
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.plan import PlannedWeek, Terms
from backsquat.core.progression.prescription import Kind, Prescription
from backsquat.core.progression.row import Candidate, State, plan_row
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.rules import Rules
from backsquat.features.athletes.queries import candidates
from backsquat.features.desk import Actor
from backsquat.features.movements.queries import Library, library_of
from backsquat.storage.convert import room_from_row
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, RoomRow, SetEntry, Squad


def session_day(block: Block, slot: BlockSlot, week: int) -> dt.date:
    return block.first_week + dt.timedelta(weeks=week, days=slot.weekday)


def room_of(session: Session, squad_id: int) -> Room:
    """The squad's room; Refused where none is described yet."""
    squad = session.get_one(Squad, squad_id)
    row = session.get(RoomRow, squad.room_id) if squad.room_id else None
    if row is None or not row.bars:
        raise Refused("no_room")
    return room_from_row(row)


@dataclass(frozen=True)
class SlotPlan:
    """One slot with what its school lays out, and the terms for an athlete."""

    block: Block
    slot: BlockSlot
    room: Room
    rules: Rules

    @property
    def parameters(self) -> Any:
        return SCHOOLS[self.slot.school].read(self.slot.parameters)

    def outline(self) -> tuple[Prescription, ...]:
        return SCHOOLS[self.slot.school].outline(self.parameters, self.block.weeks)

    def terms(self, newcomer: bool, bar: Bar | None = None) -> Terms:
        return Terms(
            room=self.room, bar=bar or self.room.bars[0], rules=self.rules, newcomer=newcomer,
            in_season=self.block.in_season, easy_load_share=self.parameters.easy_load_share,
        )  # fmt: skip


def planned_cells(
    plan: SlotPlan,
    athletes: Iterable[Athlete],
    known: dict[int, Candidate],
    actor: Actor,
    weeks: Sequence[int],
) -> list[dict[str, Any]]:
    """Rows to insert for these athletes and weeks, loads or refusals alike."""
    outline = [p for p in plan.outline() if p.week in set(weeks)]
    rows: list[dict[str, Any]] = []
    for athlete in athletes:
        candidate = known[athlete.id]
        row = plan_row(candidate, outline, plan.terms(candidate.newcomer))
        inputs = _inputs(candidate, plan.rules)
        if row.state is State.RUNG and candidate.rung:
            rows += [_rung(plan.slot, athlete.id, p, candidate.rung, inputs, actor) for p in outline]
            continue
        rows += [cell_values(plan.slot, athlete.id, week, inputs, actor, "plan") for week in row.weeks]
        planned = {week.prescription.week for week in row.weeks}
        state = State.LOCKED if row.state is State.LOAD else row.state  # weeks a limit forbids
        rows += [
            _refused(plan.slot, athlete.id, p, state, inputs, actor) for p in outline if p.week not in planned
        ]
    return rows


def _inputs(candidate: Candidate, rules: Rules) -> dict[str, Any]:
    current = candidate.current
    return {
        "formula": rules.formula,
        "newcomer": candidate.newcomer,
        "gate": [finding.code for finding in candidate.gate],
        "sets": list(current.set_ids) if current else [],
        "estimate_kg": current.max_kg if current else None,
        "newest_on": current.newest_on.isoformat() if current else None,
        "stale": current.stale if current else False,
    }


def cell_values(
    slot: BlockSlot, athlete_id: int, week: PlannedWeek, inputs: dict[str, Any], actor: Actor, origin: str
) -> dict[str, Any]:
    load = week.load
    return _common(slot, athlete_id, week.prescription, inputs, actor, origin) | {
        "state": State.LOAD.value if load else State.UNDER_BAR.value,
        "bar": load.bar.code if load else "",
        "load_amount": load.total.amount if load else None,
        "load_unit": load.total.unit.value if load else "kg",
        "load_kg": load.kg if load else None,
        "side": [mass.text for mass in load.side] if load else [],
        "planning_max_kg": week.planning_max_kg,
        "estimate_kg": week.cap.estimate_kg,
        "cap_kg": week.cap.most_kg,
        "over_cap": week.breaks_cap,
        "inputs": inputs | {"target_kg": week.target_kg, "offers": [_offer(offer) for offer in week.offers]},
        "working": week.working.to_plain(),
    }


def _offer(offer: Any) -> dict[str, str]:
    load = offer.load
    return {"kind": offer.kind} | (
        {"bar": load.bar.code, "name": load.bar.name, "load": load.total.text} if load else {}
    )


def _refused(
    slot: BlockSlot,
    athlete_id: int,
    prescription: Prescription,
    state: State,
    inputs: dict[str, Any],
    actor: Actor,
) -> dict[str, Any]:
    return _common(slot, athlete_id, prescription, inputs, actor, "plan") | {
        "state": state.value, "bar": "", "load_amount": None, "load_unit": "kg", "load_kg": None, "side": [],
        "planning_max_kg": None, "estimate_kg": None, "cap_kg": None, "over_cap": False, "working": [],
    }  # fmt: skip


def _rung(
    slot: BlockSlot, athlete_id: int, asked: Prescription, movement: Movement, inputs: dict[str, Any], actor: Actor
) -> dict[str, Any]:  # fmt: skip
    """The work of the athlete's own rung in place of the slot's: no load is worked out for it."""
    work = movement.work
    easy = asked.kind is Kind.EASY
    return _refused(slot, athlete_id, asked, State.RUNG, inputs, actor) | {
        "movement": movement.code, "sets": max(1, work.sets - 1) if easy else work.sets,
        "reps": 1 if work.seconds else work.high, "reserve_reps": 0,
        "inputs": inputs | {"work": work.words, "name": movement.name, "hold_s": work.high if work.seconds else None},
    }  # fmt: skip


def _common(
    slot: BlockSlot,
    athlete_id: int,
    prescription: Prescription,
    inputs: dict[str, Any],
    actor: Actor,
    origin: str,
) -> dict[str, Any]:
    return {
        "slot_id": slot.id, "athlete_id": athlete_id, "week": prescription.week, "kind": prescription.kind.value,
        "wave": prescription.wave, "sets": prescription.sets, "reps": prescription.reps,
        "reserve_reps": prescription.reserve_reps, "origin": origin, "inputs": inputs, "held": False,
        "movement": "", "current": True, "live": False, "version_id": None, "replaces_id": None,
        "by_id": actor.user_id, "at": actor.now,
    }  # fmt: skip


def logged_places(session: Session, slot_ids: Sequence[int]) -> set[tuple[int, int, int]]:
    """(slot, athlete, week) of every place with a standing set: nothing there may change any more."""
    rows = session.execute(
        select(Cell.slot_id, Cell.athlete_id, Cell.week)
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(Cell.slot_id.in_(slot_ids), ~SetEntry.replaced, ~SetEntry.withdrawn)
        .distinct()
    )
    return {(slot_id, athlete_id, week) for slot_id, athlete_id, week in rows}


def known_candidates(
    session: Session, athletes: Sequence[Athlete], plan: SlotPlan, today: dt.date
) -> dict[int, Candidate]:
    """What planning must know of these athletes for a slot."""
    movement = library_of(session, plan.block.squad_id).get(plan.slot.movement)
    days = {week: session_day(plan.block, plan.slot, week) for week in range(plan.block.weeks)}
    return candidates(session, plan.block.squad_id, athletes, movement, days, today, plan.rules)


def movement_of(library: Library, slot: BlockSlot, cell: Cell) -> Movement:
    """What a cell really asks for: its own movement, or the slot's."""
    return library.get(cell.movement or slot.movement)


def plannable(library: Library) -> list[Movement]:
    """Lifts a block can work out loads for today: on a bar, without a share of the body."""
    return [m for m in library.in_use() if m.convention == "barbell" and m.body_share == 0]
