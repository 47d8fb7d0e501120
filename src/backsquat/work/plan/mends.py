"""Mends of the week check: what one click would do, and doing it as a draft with one undo."""

from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.findings import Finding
from backsquat.core.movements.ladder import rigged
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.cell import SlotRole
from backsquat.core.rules import Rules
from backsquat.storage.models import Block, BlockSlot, Change
from backsquat.work.actor import Actor
from backsquat.work.journal import last_change, remember
from backsquat.work.library.movements import library_of
from backsquat.work.plan.blocks import SlotFacts
from backsquat.work.plan.cells import place_drafts
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.plan.school_settings import as_plain, athlete_settings, put_setting, setting_of
from backsquat.work.plan.slots import add_slot
from backsquat.work.policy import Act, require
from backsquat.work.rooms.rooms import room_equipment
from backsquat.work.sessions.blocks import block_of

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


@dataclass(frozen=True)
class Proposed:
    """What one click would do: `added_sets` of a movement put in, or (0) one set less of it."""

    movement: Movement
    added_sets: int


def proposed(session: Session, block: Block, finding: Finding) -> Proposed | None:
    """What one click would do; None where nothing sensible can be done."""
    library = library_of(session, block.squad_id)
    if finding.mend in ADDED or finding.mend == "more_sets":
        movement = _to_add(session, block, finding, library)
        return Proposed(movement, int(_added_parameters(finding)["sets"])) if movement else None
    slot = _slot_to_trim(block, finding, library)
    return Proposed(library.get(slot.movement), 0) if slot else None


def mend(session: Session, actor: Actor, block_id: int, finding: Finding, rules: Rules) -> Change:
    """Put the proposed movement in, or take a set off, and plan it; one undo takes all of it back."""
    require(actor, Act.PLAN)
    block = block_of(session, actor.squad_id, block_id)
    library = library_of(session, actor.squad_id)
    if finding.mend in ADDED or finding.mend == "more_sets":
        movement = _to_add(session, block, finding, library)
        if movement is None:
            raise Refused("no_mend")
        facts = SlotFacts(
            _lightest_day(block), movement.code, "window", dict(_added_parameters(finding)), role=SlotRole.ASSISTANCE
        )
        add_slot(session, actor, block.id, facts, rules)
        change = last_change(session, actor.squad_id, "slots", block.id)
        assert change is not None  # add_slot has just made it
        return change
    slot = _slot_to_trim(block, finding, library)
    if slot is None:
        raise Refused("no_mend")
    return one_set_less(session, actor, block, slot, rules)


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
            return (movement.knee_strain if facts["region"] == "knee" else movement.groin_strain) > 0
        return facts.get("muscle") in (*movement.prime, *movement.helper)

    slots = [
        slot for slot in block.slots if not slot.ladder and setting_of(slot).parameters.sets > 1 and concerned(slot)
    ]

    def worth(slot: BlockSlot) -> tuple[bool, bool, int, int]:
        """No main lift where another will do; what trains the muscle itself before what only helps."""
        direct = finding.facts.get("muscle") in library.get(slot.movement).prime
        return slot.role is not SlotRole.MAIN, direct, setting_of(slot).parameters.sets, slot.id

    return max(slots, key=worth, default=None)


def one_set_less(session: Session, actor: Actor, block: Block, slot: BlockSlot, rules: Rules) -> Change:
    """For everybody, whichever school they follow there; who is down to one set keeps it."""
    before = {"parameters": dict(slot.parameters)}
    slot.parameters = dict(slot.parameters) | {"sets": setting_of(slot).parameters.sets - 1}
    session.flush()
    own = athlete_settings(session, [slot.id])
    for (_, athlete_id), setting in own.items():
        fewer = dict(setting.given) | {"sets": max(1, setting.parameters.sets - 1)}
        put_setting(session, actor, slot.id, athlete_id, replace(setting, given=fewer))
    changes = replanned(session, actor, block, rules, ReplanScope(slot_ids=[slot.id]))
    replaced = place_drafts(session, actor, [change.draft for change in changes]).replaced
    kept = {
        "slot": slot.id,
        "values": before,
        "cells": replaced,
        "settings": {str(athlete_id): as_plain(setting) for (_, athlete_id), setting in own.items()},
    }
    facts = {"movement": slot.movement, "ladder": slot.ladder}
    return remember(session, actor, what="slot_changed", subject="slots", subject_id=block.id, before=kept, facts=facts)
