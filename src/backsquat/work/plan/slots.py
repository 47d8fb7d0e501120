"""Writes to a block's slots: putting one in, taking one out, another school or day, for all or for single athletes."""

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.cell import SlotRole
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.rules import Rules
from backsquat.core.sessions.order import places
from backsquat.library.templates import SLOTS_MOST
from backsquat.storage.models import Block, BlockSlot, Change
from backsquat.work.actor import Actor
from backsquat.work.journal import remember, restores
from backsquat.work.library.movements import library_of
from backsquat.work.plan.blocks import (
    SlotFacts,
    in_season,
    movement_code,
    next_week,
    plan_slot,
    slot_row,
    windowed_parameters,
)
from backsquat.work.plan.cells import bring_back, place_drafts
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.plan.school_settings import (
    OWN_MANNER,
    AthleteSettings,
    SchoolSetting,
    as_plain,
    athlete_settings,
    put_setting,
    setting_of,
)
from backsquat.work.policy import Act, require
from backsquat.work.sessions.arrange import mark_moved, put_in
from backsquat.work.sessions.blocks import block_of, session_on, slot_of
from backsquat.work.squad.athletes import athlete_of, squad_athletes

CHANGEABLE = ("from_week", "school", "parameters", "role", "stack", "variation")


def add_slot(session: Session, actor: Actor, block_id: int, facts: SlotFacts, rules: Rules) -> BlockSlot:
    """Put one more slot at the end of its day and plan it as a draft. Undo takes it out again."""
    require(actor, Act.PLAN)
    block = block_of(session, actor.squad_id, block_id)
    slot = put_slot(session, actor, block, facts, rules)
    _remember(session, actor, slot, "slot_added", {"removed": True})
    return slot


def put_slot(session: Session, actor: Actor, block: Block, facts: SlotFacts, rules: Rules) -> BlockSlot:
    """Put a slot at the end of its day and plan it; whoever calls keeps the way back."""
    if len(block.slots) >= SLOTS_MOST:
        raise ImpossibleInput(Problem("movement", "too_many_slots", {"most": SLOTS_MOST}))
    library = library_of(session, actor.squad_id)
    day = [(library.get(slot.movement), slot.stack) for slot in block.slots if slot.weekday == facts.weekday]
    place = places([*day, (library.get(movement_code(facts, library)), facts.stack)])[-1]
    slot = slot_row(facts, place, library, rules)
    if block.in_season:
        slot.parameters = in_season(slot.school, slot.parameters, rules)
    slot.position = 1 + max((other.position for other in block.every_slot), default=-1)
    slot.session = session_on(block, facts.weekday)
    slot.session_from = slot.from_week = next_week(block, slot, actor.today)
    block.every_slot.append(slot)
    session.flush()
    plan_slot(session, actor, block, slot, rules)
    return slot


def remove_slot(session: Session, actor: Actor, slot_id: int) -> Block:
    """Take a slot out of the block: what was logged stays, what was planned is shown no more."""
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    if len(block.slots) <= 1:
        raise ImpossibleInput(Problem("slot", "last_slot"))
    slot.removed = True
    mark_moved(session, block, [slot], actor.today)
    _remember(session, actor, slot, "slot_removed", {"removed": False})
    return block


def change_slot(session: Session, actor: Actor, slot_id: int, facts: SlotFacts) -> BlockSlot:
    """Another school, day, role or parameters. The loads follow when the coach accepts the plan anew.

    Another day holds from the first week that has neither passed nor begun, and on the floor once it is
    published; refused where no such week is left.
    """
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    values = {name: getattr(slot, name) for name in CHANGEABLE}
    before = {"values": values, "places": _places([slot])}
    held = session_on(block, facts.weekday)
    if held is not slot.session:
        put_in(session, block, slot, held, slot.position, actor.today)
    slot.role, slot.stack, slot.variation = facts.role, facts.stack, facts.variation
    if not slot.ladder and slot.school != facts.school:
        slot.school, slot.from_week = facts.school, next_week(block, slot, actor.today)
    slot.parameters = dict(facts.parameters)
    session.flush()
    mark_moved(session, block, [slot], actor.today)
    _remember(session, actor, slot, "slot_changed", before)
    return slot


def usual_parameters(
    session: Session, actor: Actor, block: Block, slot: BlockSlot, school: str, rules: Rules
) -> dict[str, Any]:
    """What another school is given in a slot where nobody says more: its usual window, in season its fewer sets."""
    library = library_of(session, actor.squad_id)
    day = [one for one in block.slots if one.session_id == slot.session_id]
    place = places([(library.get(one.movement), one.stack) for one in day])[day.index(slot)]
    facts = SlotFacts(slot.weekday, slot.movement, school, {}, "", slot.role, slot.stack)
    given = windowed_parameters(facts, place, library, rules)
    return in_season(school, given, rules) if block.in_season else given


def give_setting(
    session: Session, actor: Actor, slot_id: int, athlete_ids: Collection[int], school: str, given: dict[str, Any]
) -> BlockSlot:
    """Another school, or other parameters, for these athletes in a slot; the others keep the slot's.

    The loads follow when the coach accepts the plan anew.
    """
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    known = {athlete.id for athlete in squad_athletes(session, actor.squad_id)}
    wanted = sorted(set(athlete_ids) & known)
    if not wanted:
        raise ImpossibleInput(Problem("athlete", "nobody_chosen"))
    if slot.ladder or school == "ladder" or school not in SCHOOLS:
        raise NotThere("school")
    before, first = athlete_settings(session, [slot.id]), next_week(block, slot, actor.today)
    for athlete_id in wanted:
        now = before.get((slot.id, athlete_id)) or setting_of(slot)
        own = {OWN_MANNER: now.given[OWN_MANNER]} if OWN_MANNER in now.given else {}
        setting = SchoolSetting(school, own | given, now.from_week if now.code == school else first)
        put_setting(session, actor, slot.id, athlete_id, setting)
    _remember_settings(session, actor, slot, wanted, before)
    return slot


def give_manner(
    session: Session, actor: Actor, slot_id: int, athlete_id: int, given: dict[str, Any], rules: Rules
) -> BlockSlot:
    """How one athlete does a slot's movement, where that is not the slot's way; the school stays what it was.

    The loads to come follow, as drafts.
    """
    manner = manner_from(given).to_plain()
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    if slot.ladder:
        raise NotThere("school")
    before = athlete_settings(session, [slot.id])
    now = before.get((slot.id, athlete_of(session, actor.squad_id, athlete_id).id)) or setting_of(slot)
    put_setting(session, actor, slot.id, athlete_id, replace(now, given={**now.given, OWN_MANNER: manner}))
    scope = ReplanScope([athlete_id], [slot.id], over_decided=True)
    changes = replanned(session, actor, block, rules, scope)
    placed = place_drafts(session, actor, [change.draft for change in changes])
    was = {"settings": {str(athlete_id): as_plain(before.get((slot.id, athlete_id)))}, "cells": placed.replaced}
    _remember(session, actor, slot, "setting_changed", was)
    return slot


def take_setting(session: Session, actor: Actor, slot_id: int, athlete_id: int) -> BlockSlot:
    """The athlete follows the slot's school again."""
    require(actor, Act.PLAN)
    slot, _block = slot_of(session, actor.squad_id, slot_id)
    before = athlete_settings(session, [slot.id])
    if (slot.id, athlete_id) not in before:
        raise NotThere("athlete")
    put_setting(session, actor, slot.id, athlete_id, None)
    _remember_settings(session, actor, slot, [athlete_id], before)
    return slot


def _remember_settings(
    session: Session, actor: Actor, slot: BlockSlot, athlete_ids: Sequence[int], before: AthleteSettings
) -> None:
    was = {str(athlete_id): as_plain(before.get((slot.id, athlete_id))) for athlete_id in athlete_ids}
    _remember(session, actor, slot, "setting_changed", {"settings": was})


def move_slot(session: Session, actor: Actor, slot_id: int, by: int) -> Change | None:
    """One earlier (−1) or later (1) in its session, on the floor once it is published; None at the end of it."""
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    same = [other for other in block.slots if other.session_id == slot.session_id]
    if slot not in same:  # taken out meanwhile
        raise Refused("slot_gone")
    here = same.index(slot)
    if not 0 <= here + by < len(same):
        return None
    other = same[here + by]
    before = {"places": _places([slot, other])}
    mine, its = other.position, slot.position
    put_in(session, block, slot, slot.session, mine + (by if mine == its else 0), actor.today)
    put_in(session, block, other, other.session, its, actor.today)
    session.expire(block, ["every_slot"])
    return _remember(session, actor, slot, "slot_moved", before)


def _places(slots: Sequence[BlockSlot]) -> dict[str, list[int]]:
    """Where slots stand, as the journal keeps it."""
    return {str(slot.id): [slot.session_id, slot.position] for slot in slots}


def _remember(session: Session, actor: Actor, slot: BlockSlot, what: str, before: dict[str, Any]) -> Change:
    facts = {"movement": slot.movement, "ladder": slot.ladder}
    return remember(
        session,
        actor,
        what=what,
        subject="slots",
        subject_id=slot.block_id,
        before=before | {"slot": slot.id},
        facts=facts,
    )


@restores("slots")
def restore_slot(session: Session, actor: Actor, change: Change) -> dict[str, Any]:
    """Undo, and redo: the slot, its single athletes' schools and the cells a mend replaced; answers with what was."""
    slot, block = slot_of(session, actor.squad_id, change.before["slot"])
    before, was = change.before, dict[str, Any](slot=slot.id)
    was["cells"] = bring_back(session, actor, block.id, before.get("cells", [])).replaced
    was["settings"] = _give_back(session, actor, slot, before.get("settings", {}))
    was["values"] = {name: getattr(slot, name) for name in before.get("values", {})}
    for name, value in before.get("values", {}).items():
        setattr(slot, name, SlotRole(value) if name == "role" else value)
    moved = [other for other in block.every_slot if str(other.id) in before.get("places", {})]
    was["places"] = _places(moved)
    sessions = {held.id: held for held in block.sessions}
    for other in moved:
        session_id, position = before["places"][str(other.id)]
        put_in(session, block, other, sessions[session_id], position, actor.today)
    was["removed"], slot.removed = slot.removed, before.get("removed", slot.removed)
    mark_moved(session, block, [slot], actor.today)
    session.expire(block, ["every_slot"])
    return was


def _give_back(session: Session, actor: Actor, slot: BlockSlot, settings: dict[str, Any]) -> dict[str, Any]:
    """The single athletes' schools as they were; answers with those they replace."""
    now = athlete_settings(session, [slot.id])
    for athlete_id, given in settings.items():
        put_setting(session, actor, slot.id, int(athlete_id), SchoolSetting(*given) if given else None)
    return {athlete_id: as_plain(now.get((slot.id, int(athlete_id)))) for athlete_id in settings}
