"""From the squad's facts to rows of cells: what the sheet, a replan and a decision all use."""

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.rigs import rig_named, rigs_for
from backsquat.core.loads.room import Rig, Room
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.plan import PlannedWeek, Terms
from backsquat.core.progression.prescription import Kind, Prescription
from backsquat.core.progression.row import Candidate, State, plan_row
from backsquat.core.progression.school import School
from backsquat.core.rules import Rules
from backsquat.features.athletes.candidates import Asking, candidates
from backsquat.features.blocks.courses import Course, Courses, course_of, own_courses
from backsquat.features.desk import Actor
from backsquat.features.movements.queries import Library, library_of
from backsquat.features.room.rooms import Rooms, rooms_of
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, SetEntry


def session_day(block: Block, slot: BlockSlot, week: int) -> dt.date:
    return block.first_week + dt.timedelta(weeks=week, days=slot.weekday)


def week_of(block: Block, day: dt.date) -> int:
    """The block's week a day falls in, kept inside the block."""
    return min(max((day - block.first_week).days // 7, 0), block.weeks - 1)


def room_of(session: Session, squad_id: int) -> Room:
    """The squad's own room; Refused where none is described yet."""
    return rooms_of(session, squad_id).own


@dataclass(frozen=True)
class SlotPlan:
    """One slot with what a course of it lays out, and the terms for an athlete."""

    block: Block
    slot: BlockSlot
    rooms: Rooms
    rules: Rules
    movement: Movement
    course: Course
    own: Mapping[int, Course] = field(default_factory=dict)  # athlete → another course than the slot's
    elsewhere: Mapping[int, int] = field(default_factory=dict)  # week → room in which the athlete trains then

    def of(self, athlete_id: int) -> "SlotPlan":
        """The plan as it is for one athlete: their own course, and where they train week by week."""
        course, elsewhere = self.own.get(athlete_id), {}
        if self.rooms.stays:
            at = {w: self.rooms.id_on(athlete_id, self.day(w)) for w in range(self.block.weeks)}
            elsewhere = {week: room_id for week, room_id in at.items() if room_id is not None}
        if course is None and not elsewhere:
            return self
        return replace(self, course=course or self.course, elsewhere=elsewhere)

    def day(self, week: int) -> dt.date:
        return session_day(self.block, self.slot, week)

    def room_in(self, week: int) -> Room:
        return self.rooms.room(self.elsewhere.get(week))

    def rig_in(self, week: int) -> Rig | None:
        """The rig of that week's room; None where it has nothing to load the movement with."""
        return next(iter(rigs_for(self.movement, self.room_in(week))), None)

    @property
    def school(self) -> School:
        return self.course.school

    @property
    def parameters(self) -> Any:
        return self.course.parameters

    @property
    def hinge(self) -> bool:
        return self.movement.family is Family.HINGE

    @cached_property
    def outline(self) -> tuple[Prescription, ...]:
        return self.course.outline(self.block.weeks, self.hinge)

    def asked(self, cell: Cell) -> Prescription:
        """What a cell asks for: its own numbers over what the school lays out for that week."""
        laid = next(p for p in self.outline if p.week == cell.week)
        return replace(
            laid, kind=Kind(cell.kind), sets=cell.sets, reps=cell.reps, reserve_reps=cell.reserve_reps,
            wave=cell.wave, low=cell.low, high=cell.high, hold_s=cell.hold_s,
        )  # fmt: skip

    def terms(self, newcomer: bool, rig_code: str = "") -> Terms | None:
        """The terms of planning, or None where no room on the way has anything to load the movement with.

        `rig_code` is the rig a plan names already; a room without it takes its first that will do.
        """
        moved = {
            week: (room, rig)
            for week in self.elsewhere
            if (rig := rig_named(self.movement, room := self.room_in(week), rig_code))
        }
        room = self.rooms.own
        rig = rig_named(self.movement, room, rig_code)
        if rig is None:
            room, rig = next(iter(moved.values()), (room, None))
        if rig is None:
            return None
        return Terms(
            room=room, rig=rig, rules=self.rules, newcomer=newcomer, in_season=self.block.in_season,
            easy_load_share=self.parameters.easy_load_share, elsewhere=moved,
        )  # fmt: skip


def slot_plan(
    session: Session, block: Block, slot: BlockSlot, rules: Rules, courses: Courses | None = None
) -> SlotPlan:
    """`courses` are asked for here where nobody has asked for those of the whole block."""
    movement = library_of(session, block.squad_id).get(slot.movement)
    courses = own_courses(session, [slot.id]) if courses is None else courses
    own = {athlete_id: course for (slot_id, athlete_id), course in courses.items() if slot_id == slot.id}
    rooms = rooms_of(session, block.squad_id)
    return SlotPlan(block, slot, rooms, rules, movement, course_of(slot), own)


def planned_cells(
    plan: SlotPlan,
    athletes: Iterable[Athlete],
    known: Mapping[int, Candidate],
    actor: Actor,
    weeks: Sequence[int],
) -> list[dict[str, Any]]:
    """Rows to insert for these athletes and weeks, loads or refusals alike."""
    wanted = set(weeks)
    rows: list[dict[str, Any]] = []
    for athlete in athletes:
        own = plan.of(athlete.id)
        outline = [p for p in own.outline if p.week in wanted]
        rows += _cells_of(own, athlete.id, known[athlete.id], outline, actor)
    return rows


def _cells_of(
    plan: SlotPlan, athlete_id: int, candidate: Candidate, outline: Sequence[Prescription], actor: Actor
) -> list[dict[str, Any]]:
    inputs = _inputs(candidate, plan.rules)
    terms = plan.terms(candidate.newcomer)
    refusal = candidate.refusal
    if refusal is None and (terms is None or not plan.school.loaded):
        refusal = State.WORK
    if refusal is State.RUNG:
        return [_instead(plan, athlete_id, p, candidate, inputs, actor) for p in outline]
    if refusal is State.WORK:
        return [
            _work(plan, athlete_id, p, inputs, actor)
            if p.week not in candidate.barred
            else _instead(plan, athlete_id, p, candidate, inputs, actor)
            for p in outline
        ]
    if refusal or terms is None:
        return [_refused(plan, athlete_id, p, refusal or State.NO_ROOM, inputs, actor) for p in outline]
    row = plan_row(candidate, [p for p in outline if plan.rig_in(p.week)], terms)
    cells = [cell_values(plan, athlete_id, week, inputs, actor, "plan") for week in row.weeks]
    planned = {week.prescription.week for week in row.weeks}
    for p in outline:  # weeks a limit forbids, or without anything to load it with in that week's room
        if p.week in candidate.barred:
            cells.append(_instead(plan, athlete_id, p, candidate, inputs, actor))
        elif p.week not in planned:
            cells.append(_work(plan, athlete_id, p, inputs, actor))
    return cells


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
        "by_ratio": candidate.by_ratio,
        "why": candidate.why,
    }


def cell_values(
    plan: SlotPlan, athlete_id: int, week: PlannedWeek, inputs: dict[str, Any], actor: Actor, origin: str
) -> dict[str, Any]:
    load = week.load
    return _common(plan, athlete_id, week.prescription, inputs, actor, origin) | {
        "state": State.LOAD.value if load else State.UNDER_BAR.value,
        **load_values(load),
        "planning_max_kg": week.planning_max_kg,
        "estimate_kg": week.cap.estimate_kg,
        "cap_kg": week.cap.most_kg,
        "over_cap": week.breaks_cap,
        "inputs": inputs | {"target_kg": week.target_kg, "offers": [_offer(offer) for offer in week.offers]},
        "working": week.working.to_plain(),
    }


def load_values(load: Load | None) -> dict[str, Any]:
    """What a cell keeps of its load, or that there is none."""
    if load is None:
        return {"bar": "", "load_amount": None, "load_unit": "kg", "load_kg": None, "side": []}
    return {
        "bar": load.rig.code, "load_amount": load.total.amount, "load_unit": load.total.unit.value, "load_kg": load.kg,
        "side": [mass.text for mass in load.side],
    }  # fmt: skip


def _offer(offer: Any) -> dict[str, str]:
    load = offer.load
    return {"kind": offer.kind} | (
        {"bar": load.rig.code, "name": load.rig.name, "load": load.total.text} if load else {}
    )


def _refused(
    plan: SlotPlan,
    athlete_id: int,
    prescription: Prescription,
    state: State,
    inputs: dict[str, Any],
    actor: Actor,
) -> dict[str, Any]:
    return _common(plan, athlete_id, prescription, inputs, actor, "plan") | {
        "state": state.value, **load_values(None),
        "planning_max_kg": None, "estimate_kg": None, "cap_kg": None, "over_cap": False, "working": [],
    }  # fmt: skip


def _work(
    plan: SlotPlan, athlete_id: int, asked: Prescription, inputs: dict[str, Any], actor: Actor
) -> dict[str, Any]:
    """Sets and reps without a worked-out load: it goes on from what was done last."""
    return _refused(plan, athlete_id, asked, State.WORK, inputs, actor)


def _instead(
    plan: SlotPlan, athlete_id: int, asked: Prescription, candidate: Candidate, inputs: dict[str, Any], actor: Actor
) -> dict[str, Any]:  # fmt: skip
    """What stands in in that week, or the word that nothing may."""
    movement = candidate.rung_in(asked.week)
    if movement:
        why = "room" if asked.week in candidate.lacks else candidate.why
        return _rung(plan, athlete_id, asked, movement, inputs | {"why": why}, actor)
    state = State.NO_ROOM if asked.week in candidate.lacks else State.LOCKED
    return _refused(plan, athlete_id, asked, state, inputs, actor)


def _rung(
    plan: SlotPlan, athlete_id: int, asked: Prescription, movement: Movement, inputs: dict[str, Any], actor: Actor
) -> dict[str, Any]:  # fmt: skip
    """The work of the athlete's own rung, or of what stands in, in place of the slot's: no load is worked out."""
    work = movement.work
    easy = asked.kind is Kind.EASY
    return _refused(plan, athlete_id, asked, State.RUNG, inputs, actor) | {
        "movement": movement.code, "sets": max(1, work.sets - 1) if easy else work.sets,
        "reps": 1 if work.seconds else work.high, "reserve_reps": 0, "low": 0, "high": 0,
        "hold_s": work.high if work.seconds else 0, "rest_s": work.rest_s,
        "inputs": inputs | {"work": work.words, "name": movement.name, "hold_s": work.high if work.seconds else None},
    }  # fmt: skip


def _common(
    plan: SlotPlan,
    athlete_id: int,
    prescription: Prescription,
    inputs: dict[str, Any],
    actor: Actor,
    origin: str,
) -> dict[str, Any]:
    return {
        "slot_id": plan.slot.id, "athlete_id": athlete_id, "week": prescription.week,
        "room_id": plan.elsewhere.get(prescription.week), "kind": prescription.kind.value,
        "wave": prescription.wave, "sets": prescription.sets, "reps": prescription.reps,
        "reserve_reps": prescription.reserve_reps, "low": prescription.low, "high": prescription.high,
        "hold_s": prescription.hold_s, "rest_s": prescription.rest_s,
        "origin": origin, "inputs": inputs, "held": False,
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
    days = {week: session_day(plan.block, plan.slot, week) for week in range(plan.block.weeks)}
    asking = Asking(plan.movement, days, plan.slot.ladder)
    return candidates(session, plan.block.squad_id, athletes, asking, today, plan.rules)


def movement_of(library: Library, slot: BlockSlot, cell: Cell) -> Movement:
    """What a cell really asks for: its own movement, or the slot's."""
    return library.get(cell.movement or slot.movement)


def rest_of(cell: Cell, slot: BlockSlot) -> int:
    """Seconds of rest between the sets of a cell."""
    if cell.rest_s:
        return cell.rest_s
    rest_s: int = course_of(slot).parameters.rest_s
    return rest_s
