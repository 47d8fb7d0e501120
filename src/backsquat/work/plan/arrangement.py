"""Writes to the order of a session: one move, one transaction, one undo; the floor has it once it is published."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session as Database

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.cell import SlotRole
from backsquat.core.rules import Rules
from backsquat.core.sessions.moves import Move, What, moved
from backsquat.core.sessions.order import places, second_of_stack
from backsquat.core.sessions.session import Item, Session
from backsquat.storage.models import Block, BlockSession, BlockSlot, Change
from backsquat.work.actor import Actor
from backsquat.work.journal import last_change, remember, restores
from backsquat.work.library.movements import library_of
from backsquat.work.plan.blocks import SlotFacts, next_week, windowed_parameters
from backsquat.work.plan.cells import Placed, bring_back, place_drafts
from backsquat.work.plan.mends import one_set_less
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.plan.school_settings import setting_of
from backsquat.work.plan.slots import change_slot, put_slot
from backsquat.work.plan.timed import held_session, slots_in
from backsquat.work.policy import Act, require
from backsquat.work.sessions.arrange import mark_moved, put_in
from backsquat.work.sessions.blocks import block_of

KEPT = ("position", "stack", "circuit", "rest_s", "manner")  # of a slot, beside its session and its role
MINUTES = (15, 180)


def arrange(session: Database, actor: Actor, session_id: int, move: Move, rules: Rules) -> Change | None:
    """Do one move to a session; None where it changes nothing. ImpossibleInput where it cannot be done."""
    require(actor, Act.PLAN)
    held, block = held_session(session, actor.squad_id, session_id)
    slots = slots_in(block, held, _week(block, held, actor))
    if move.what in (What.SETS, What.WINDOW, What.DAY):
        slot = next((slot for slot in slots if slot.id == move.key), None)
        if slot is None:
            raise NotThere("slot")
        return _of_slot(session, actor, block, slot, move, rules)
    if move.what is What.SWAP:
        return _swap(session, actor, block, held, slots, move, rules)
    before = _session_of(session, actor, block, slots)
    after = moved(before, move)
    known = {slot.id: slot for slot in slots}
    was = {str(slot.id): _kept(slot) for slot in slots}
    for position, item in enumerate(after.items):
        _put(known[item.key], item, position)
    changed = [slot for slot in slots if was[str(slot.id)] != _kept(slot)]
    if not changed:
        return None
    mark_moved(session, block, changed, actor.today)
    return _remember(session, actor, block, held, {"slots": was}, "session_arranged")


def _swap(
    session: Database,
    actor: Actor,
    block: Block,
    held: BlockSession,
    slots: Sequence[BlockSlot],
    move: Move,
    rules: Rules,
) -> Change:
    """Another movement in a slot's stead, as a draft: the slot goes out, one of its school and place comes in."""
    slot = next((slot for slot in slots if slot.id == move.key), None)
    if slot is None or move.into is None or move.into.retired or slot.ladder:
        raise NotThere("slot")
    slot.removed = True  # first: a block that is full may still change one for another
    session.flush()
    own = {name: value for name, value in slot.parameters.items() if name not in PLACED}
    facts = replace(_as_facts(slot), movement=move.into.code, parameters=own, variation="")
    new = put_slot(session, actor, block, replace(facts, circuit=slot.circuit, rest_s=slot.rest_s), rules)
    put_in(session, block, new, held, slot.position, actor.today)
    mark_moved(session, block, [slot], actor.today)
    before = {"removed": {str(new.id): True, str(slot.id): False}}
    return _remember(session, actor, block, held, before, "slot_swapped", new)


def _week(block: Block, held: BlockSession, actor: Actor) -> int:
    """The week whose order the coach is changing: the next one to come."""
    slots = [slot for slot in block.slots if slot.session is held]
    if not slots:
        raise NotThere("session")
    return max(next_week(block, slot, actor.today) for slot in slots)


def _session_of(session: Database, actor: Actor, block: Block, slots: Sequence[BlockSlot]) -> Session:
    """The order alone: what a move needs to know."""
    library = library_of(session, block.squad_id)
    return Session(
        tuple(
            Item(
                key=slot.id,
                movement=library.get(slot.movement),
                sets=setting_of(slot).parameters.sets,
                reps=1,
                stack=slot.stack,
                circuit=slot.circuit,
                spare=slot.spare,
                own_rest_s=slot.rest_s,
            )
            for slot in slots
        )
    )


def _put(slot: BlockSlot, item: Item, position: int) -> None:
    if item.spare != slot.spare:
        slot.role = SlotRole.SPARE if item.spare else SlotRole.ASSISTANCE
    slot.stack, slot.circuit, slot.rest_s, slot.position = item.stack, item.circuit, item.own_rest_s, position


def _kept(slot: BlockSlot) -> dict[str, Any]:
    """A slot's place, as the journal keeps it."""
    return {name: getattr(slot, name) for name in KEPT} | {"role": slot.role.value}


def _of_slot(session: Database, actor: Actor, block: Block, slot: BlockSlot, move: Move, rules: Rules) -> Change:
    """A move that changes a slot: one set less with the loads planned anew, the usual window, another day."""
    if move.what is What.SETS:
        if slot.ladder or setting_of(slot).parameters.sets < 2:
            raise Refused("no_mend")
        return one_set_less(session, actor, block, slot, rules)
    if move.what is What.DAY:
        held, _ = held_session(session, actor.squad_id, move.to)
        change_slot(session, actor, slot.id, replace(_as_facts(slot), weekday=held.weekday))
    else:
        library = library_of(session, actor.squad_id)
        mates = [one for one in block.slots if one.session is slot.session and not one.spare]
        work = [(library.get(one.movement), one.stack) for one in mates]
        place = places(work)[mates.index(slot)]
        own = {name: value for name, value in slot.parameters.items() if name not in PLACED}
        facts = replace(_as_facts(slot), parameters=own)
        usual = windowed_parameters(facts, place, library, rules)
        if (slot.session.stacks or rules.stacks) == "same" and second_of_stack(work, mates.index(slot)):
            usual["start_share"] = usual.get("start_share", 1.0) * rules.stack_second_share
        change_slot(session, actor, slot.id, replace(facts, parameters=usual))
    change = last_change(session, actor.squad_id, "slots", block.id)
    if change is None:
        raise NotThere("change")
    return change


PLACED = ("low", "high", "placed", "tempo", "start_share")  # what a place gives


def _as_facts(slot: BlockSlot) -> SlotFacts:
    return SlotFacts(
        slot.weekday,
        slot.movement,
        slot.school,
        dict(slot.parameters),
        slot.ladder,
        slot.role,
        slot.stack,
        slot.variation,
    )


def change_manner(session: Database, actor: Actor, slot_id: int, given: dict[str, Any], rules: Rules) -> Change | None:
    """How a slot's movement is done: stance, lean, range, wedge, tempo, style. The loads to come follow, as drafts.

    What was decided after a session follows too, for it was decided of the other way; a coach's own number stays.
    """
    require(actor, Act.PLAN)
    slot = session.get(BlockSlot, slot_id)
    if slot is None:
        raise NotThere("slot")
    block = block_of(session, actor.squad_id, slot.block_id)
    manner = manner_from(given).to_plain()
    was = {str(slot.id): _kept(slot)}
    if slot.manner == manner:
        return None
    share = manner_from(slot.manner).load_share(rules)
    slot.manner = manner
    session.flush()
    mark_moved(session, block, [slot], actor.today)
    placed = Placed([], [])
    if manner_from(manner).load_share(rules) != share:
        scope = ReplanScope(slot_ids=[slot.id], over_decided=True)
        changes = replanned(session, actor, block, rules, scope)
        placed = place_drafts(session, actor, [change.draft for change in changes])
    before = {"slots": was, "cells": placed.replaced}
    return _remember(session, actor, block, slot.session, before, "manner_changed", slot, count=len(placed.ids))


@dataclass(frozen=True)
class SessionFacts:
    """What a coach says of a session; `stacks` empty: as the squad's rule."""

    name: str = ""
    minutes: int = 60
    stacks: str = ""
    hips_first: bool = False


def change_session(session: Database, actor: Actor, session_id: int, facts: SessionFacts) -> Change | None:
    """A session's name, its minutes, what its stacks are for, and whether the hips lead."""
    require(actor, Act.PLAN)
    held, block = held_session(session, actor.squad_id, session_id)
    if not MINUTES[0] <= facts.minutes <= MINUTES[1]:
        raise ImpossibleInput(Problem("minutes", "parameter_range", {"name": "Minutes", "low": 15, "high": 180}))
    if facts.stacks not in ("", "apart", "same"):
        raise ImpossibleInput(Problem("stacks", "not_a_choice", {"choices": "apart, same"}))
    was = _facts(held)
    held.name, held.minutes = facts.name.strip()[:40], facts.minutes
    held.stacks, held.hips_first = facts.stacks, facts.hips_first
    session.flush()
    if was == _facts(held):
        return None
    return _remember(session, actor, block, held, {"held": was}, "session_changed")


def repeat_session(session: Database, actor: Actor, session_id: int, weekday: int, rules: Rules) -> Change:
    """The same work on another day of the week as well, as a draft; what climbs by exposure goes on from day to day."""
    require(actor, Act.PLAN)
    held, block = held_session(session, actor.squad_id, session_id)
    if weekday == held.weekday or not 0 <= weekday <= 6:
        raise ImpossibleInput(Problem("day", "another_day"))
    slots = slots_in(block, held, _week(block, held, actor))
    there = max((slot.stack for slot in block.slots if slot.weekday == weekday), default=0)
    new = []
    for slot in slots:
        facts = replace(_as_facts(slot), weekday=weekday, stack=slot.stack and slot.stack + there)
        facts = replace(facts, circuit=slot.circuit, rest_s=slot.rest_s, manner=dict(slot.manner))
        new.append(put_slot(session, actor, block, facts, rules))
    before = {"removed": {str(slot.id): True for slot in new}}
    return _remember(session, actor, block, held, before, "session_repeated")


def _facts(held: BlockSession) -> dict[str, Any]:
    return {name: getattr(held, name) for name in ("name", "minutes", "stacks", "hips_first")}


def _remember(
    session: Database,
    actor: Actor,
    block: Block,
    held: BlockSession,
    before: dict[str, Any],
    what: str,
    slot: BlockSlot | None = None,
    **facts: Any,
) -> Change:
    session.flush()
    session.expire(block, ["every_slot"])
    facts |= {"day": held.weekday}
    if slot is not None:
        facts |= {"movement": slot.movement, "ladder": slot.ladder}
    before = {"session": held.id} | before
    return remember(session, actor, what=what, subject="sessions", subject_id=block.id, before=before, facts=facts)


@restores("sessions")
def restore_session(session: Database, actor: Actor, change: Change) -> dict[str, Any]:
    """Undo, and redo: the session and its slots as they were; answers with what stood there."""
    held, block = held_session(session, actor.squad_id, change.before["session"])
    was: dict[str, Any] = {"session": held.id}
    if "held" in change.before:
        was["held"] = _facts(held)
        for name, value in change.before["held"].items():
            setattr(held, name, value)
    slots = {str(slot.id): slot for slot in block.every_slot}
    was["cells"] = bring_back(session, actor, block.id, change.before.get("cells", [])).replaced
    was["removed"] = {key: slots[key].removed for key in change.before.get("removed", {}) if key in slots}
    for key, gone in change.before.get("removed", {}).items():
        slots[key].removed = gone
    was["slots"] = {key: _kept(slots[key]) for key in change.before.get("slots", {}) if key in slots}
    for key, values in change.before.get("slots", {}).items():
        slot = slots[key]
        for name in KEPT[1:]:
            setattr(slot, name, values[name])
        slot.role, slot.position = SlotRole(values["role"]), values["position"]
    touched = {*change.before.get("removed", {}), *change.before.get("slots", {})}
    mark_moved(session, block, [slots[key] for key in touched if key in slots], actor.today)
    session.expire(block, ["every_slot"])
    return was
