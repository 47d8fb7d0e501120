"""The week check of a block: each athlete's week judged, gathered for the squad, mended in one click."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.findings import Finding, Severity
from backsquat.core.movements.ladder import rigged
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.audit import Item, WeekNumbers, audit_week, count_week
from backsquat.core.progression.row import LIFTED
from backsquat.core.rules import Rules
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.blocks.courses import as_plain, course_of, own_courses, put_course
from backsquat.features.blocks.operations import Anew, block_of, place_cells, replanned
from backsquat.features.blocks.planning import movement_of
from backsquat.features.blocks.slots import SlotFacts, add_slot
from backsquat.features.desk import Actor
from backsquat.features.journal import last_change, remember
from backsquat.features.movements.queries import Library, library_of
from backsquat.features.room.rooms import room_equipment
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, Change, SetEntry


@dataclass(frozen=True)
class AthleteWeek:
    """One athlete's week with what it asks for and what is to be said of it."""

    athlete: Athlete
    items: list[Item]
    numbers: WeekNumbers
    findings: list[Finding]


@dataclass(frozen=True)
class Gathered:
    """One finding for the squad: who it concerns, said with the facts of the first of them."""

    finding: Finding
    athletes: list[Athlete]
    of: int  # athletes with anything in that week


def audit_block_week(
    session: Session, squad_id: int, block: Block, week: int, rules: Rules, *, done: bool = False
) -> list[AthleteWeek]:
    """Every athlete's week as planned, or as logged; a fixed number of queries."""
    library = library_of(session, squad_id)
    slots = {slot.id: slot for slot in block.slots}
    cells = session.scalars(
        select(Cell).where(
            Cell.slot_id.in_(list(slots)), Cell.week == week, Cell.current, Cell.state.in_(LIFTED)
        )
    ).all()
    counts: dict[int, tuple[int, float | None]] = {}
    if done:
        rows = session.execute(
            select(SetEntry.cell_id, func.count(), func.avg(SetEntry.reserve_reps))
            .where(SetEntry.cell_id.in_([cell.id for cell in cells]), ~SetEntry.replaced, ~SetEntry.withdrawn)
            .group_by(SetEntry.cell_id)
        )
        counts = {cell_id: (sets, left) for cell_id, sets, left in rows if cell_id}
    items: dict[int, list[Item]] = defaultdict(list)
    for cell in cells:
        if done and cell.id not in counts:
            continue
        items[cell.athlete_id].append(_item(library, slots[cell.slot_id], cell, counts.get(cell.id)))
    return [
        AthleteWeek(athlete, mine, count_week(mine, rules), audit_week(mine, rules))
        for athlete in squad_athletes(session, squad_id)
        if (mine := items.get(athlete.id))
    ]


def _item(library: Library, slot: BlockSlot, cell: Cell, done: tuple[int, float | None] | None) -> Item:
    relative = cell.load_kg / cell.planning_max_kg if cell.load_kg and cell.planning_max_kg else None
    left = cell.reserve_reps if done is None or done[1] is None else round(done[1])
    sets = cell.sets if done is None else done[0]
    movement = movement_of(library, slot, cell)
    return Item(movement, slot.weekday, sets, left, relative, cell.kind == "easy", slot.id)


def gathered(weeks: Sequence[AthleteWeek]) -> list[Gathered]:
    """The findings of the squad, those of most athletes first."""
    found: dict[tuple[str, str], list[tuple[Finding, Athlete]]] = defaultdict(list)
    for one in weeks:
        for finding in one.findings:
            found[finding.code, finding.about].append((finding, one.athlete))
    groups = [
        Gathered(max((f for f, _ in group), key=_size), [athlete for _, athlete in group], len(weeks))
        for group in found.values()
    ]
    grave = {Severity.STOP: 0, Severity.WATCH: 1, Severity.NOTE: 2}
    return sorted(groups, key=lambda group: (grave[group.finding.severity], -len(group.athletes)))


def _size(finding: Finding) -> float:
    return float(finding.facts.get("cost", finding.facts.get("sets", 0)))


# --- mends


ADDED: dict[str, tuple[tuple[str, ...], dict[str, Any]]] = {  # mend → movements by choice, parameters
    "add_curl": (("ball_curl", "lying_curl", "slider_curl"), {"low": 12, "high": 20, "sets": 3}),
    "add_short_curl": (("lying_curl", "standing_curl", "ball_curl"), {"low": 8, "high": 15, "sets": 3}),
    "add_squat": (("back_squat", "goblet_squat"), {"low": 6, "high": 10, "sets": 3}),
    "add_hinge": (("romanian_deadlift", "kettlebell_deadlift"), {"low": 8, "high": 12, "sets": 3}),
    "add_back": (("back_extension",), {"low": 10, "high": 15, "sets": 2}),
}  # fmt: skip
FOR_MUSCLE: dict[str, tuple[tuple[str, ...], dict[str, Any]]] = {
    "hamstrings": (("ball_curl", "lying_curl", "slider_curl"), {"low": 12, "high": 20, "sets": 3}),
    "quads": (("knee_extension", "leg_press", "goblet_squat"), {"low": 10, "high": 15, "sets": 3}),
    "glutes": (("bench_thrust_held", "bench_thrust", "floor_bridge"), {"low": 8, "high": 15, "sets": 3}),
    "adductors": (("side_squat", "adductor_shift", "goblet_side_squat"), {"low": 8, "high": 12, "sets": 3}),
    "calves": (("calf_raise",), {"low": 12, "high": 20, "sets": 3}),
}


def proposed(session: Session, block: Block, finding: Finding) -> str:
    """What one click would do, in words; empty where nothing sensible can be done."""
    library = library_of(session, block.squad_id)
    if finding.mend in ADDED or finding.mend == "more_sets":
        movement = _to_add(session, block, finding, library)
        return f"Add {movement.name.lower()}, {_added_parameters(finding)['sets']} sets" if movement else ""
    slot = _slot_to_trim(block, finding, library)
    return f"One set less of {library.get(slot.movement).name.lower()}" if slot else ""


def mend(session: Session, actor: Actor, block_id: int, finding: Finding, rules: Rules) -> Change:
    """Put the proposed movement in, or take a set off, and plan it; one undo takes all of it back."""
    block = block_of(session, actor.squad_id, block_id)
    library = library_of(session, actor.squad_id)
    if finding.mend in ADDED or finding.mend == "more_sets":
        movement = _to_add(session, block, finding, library)
        if movement is None:
            raise Refused("no_mend")
        facts = SlotFacts(
            _lightest_day(block), movement.code, "window", dict(_added_parameters(finding)), role="assistance"
        )
        add_slot(session, actor, block.id, facts, rules)
        change = last_change(session, actor.squad_id, "slots", block.id)
        assert change is not None  # add_slot has just made it
        return change
    slot = _slot_to_trim(block, finding, library)
    if slot is None:
        raise Refused("no_mend")
    return _one_set_less(session, actor, block, slot, rules)


def _added_parameters(finding: Finding) -> dict[str, Any]:
    """Parameters of what a mend adds."""
    return ADDED[finding.mend][1] if finding.mend in ADDED else FOR_MUSCLE[str(finding.facts["muscle"])][1]


def _to_add(session: Session, block: Block, finding: Finding, library: Library) -> Movement | None:
    """The first choice this room can rig that is not in the block yet."""
    muscle = str(finding.facts.get("muscle", ""))
    choices = ADDED[finding.mend][0] if finding.mend in ADDED else FOR_MUSCLE.get(muscle, ((), {}))[0]
    here = {slot.movement for slot in block.slots if not slot.ladder}
    equipment = room_equipment(session, block.squad_id)
    known = [library.movements[code] for code in choices if code in library.movements]
    return next((m for m in known if m.code not in here and not m.retired and not rigged(m, equipment)), None)


def _lightest_day(block: Block) -> int:
    """The training day with the fewest slots."""
    days = sorted({slot.weekday for slot in block.slots})
    return min(days, key=lambda day: sum(slot.weekday == day for slot in block.slots))


def _slot_to_trim(block: Block, finding: Finding, library: Library) -> BlockSlot | None:
    """The slot of most sets among those that make the finding, main lifts last; none with a single set left."""

    def concerned(slot: BlockSlot) -> bool:
        movement, facts = library.get(slot.movement), finding.facts
        if "day" in facts and slot.weekday != facts["day"] and finding.code != "back_running":
            return False
        if finding.mend == "fewer_hinge_sets":
            return movement.family is Family.HINGE
        if finding.mend == "fewer_back_sets":
            return movement.back_index > 0
        if finding.mend == "fewer_strain_sets":
            return (movement.knee_strain if facts["place"] == "knee" else movement.groin_strain) > 0
        return facts.get("muscle") in (*movement.prime, *movement.helper)

    slots = [
        slot
        for slot in block.slots
        if not slot.ladder and course_of(slot).parameters.sets > 1 and concerned(slot)
    ]
    return max(
        slots, key=lambda slot: (slot.role != "main", course_of(slot).parameters.sets, slot.id), default=None
    )


def _one_set_less(session: Session, actor: Actor, block: Block, slot: BlockSlot, rules: Rules) -> Change:
    """For everybody, whichever school they follow there; who is down to one set keeps it."""
    before = {"parameters": dict(slot.parameters)}
    slot.parameters = dict(slot.parameters) | {"sets": course_of(slot).parameters.sets - 1}
    session.flush()
    own = own_courses(session, [slot.id])
    for (_, athlete_id), course in own.items():
        fewer = dict(course.given) | {"sets": max(1, course.parameters.sets - 1)}
        put_course(session, actor, slot.id, athlete_id, replace(course, given=fewer))
    changes = replanned(session, actor, block, rules, Anew(slot_ids=[slot.id]))
    place_cells(session, [change.row for change in changes])
    return remember(
        session, actor, what="slot_changed", subject="slots", subject_id=block.id,
        before={
            "slot": slot.id, "values": before, "cells": [c.before.id for c in changes if c.before],
            "courses": {str(athlete_id): as_plain(course) for (_, athlete_id), course in own.items()},
        },
    )  # fmt: skip
