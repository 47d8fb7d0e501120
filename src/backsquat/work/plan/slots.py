"""Writes to a block's slots: putting one in, taking one out, another school or day, for all or for single athletes."""

from collections.abc import Collection, Sequence
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.progression.cell import SlotRole
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.rules import Rules
from backsquat.library.templates import SLOTS_MOST
from backsquat.storage.models import Block, BlockSlot, Change
from backsquat.work.actor import Actor
from backsquat.work.journal import remember, restores
from backsquat.work.library.movements import library_of
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.blocks import SlotFacts, next_week, plan_slot, slot_row
from backsquat.work.plan.cells import bring_back
from backsquat.work.plan.school_settings import (
    AthleteSettings,
    SchoolSetting,
    as_plain,
    athlete_settings,
    put_setting,
    setting_of,
)
from backsquat.work.policy import Act, require
from backsquat.work.sessions.blocks import block_of, session_on, slot_of
from backsquat.work.squad.athletes import squad_athletes

CHANGEABLE = ("position", "from_week", "school", "parameters", "role", "stack", "variation")


def add_slot(session: Session, actor: Actor, block_id: int, facts: SlotFacts, rules: Rules) -> BlockSlot:
    """Put one more slot at the end of its day and plan it as a draft. Undo takes it out again."""
    require(actor, Act.PLAN)
    block = block_of(session, actor.squad_id, block_id)
    if len(block.slots) >= SLOTS_MOST:
        raise ImpossibleInput(Problem("movement", "too_many_slots", {"most": SLOTS_MOST}))
    nth = sum(slot.weekday == facts.weekday for slot in block.slots)
    slot = slot_row(facts, nth, nth + 1, library_of(session, actor.squad_id), rules)
    slot.position = 1 + max((other.position for other in block.every_slot), default=-1)
    slot.session = session_on(block, facts.weekday)
    slot.from_week = next_week(block, slot, actor.today)
    block.every_slot.append(slot)
    session.flush()
    plan_slot(session, actor, block, slot, rules)
    _remember(session, actor, block, "slot_added", {"slot": slot.id, "removed": True})
    return slot


def remove_slot(session: Session, actor: Actor, slot_id: int) -> Block:
    """Take a slot out of the block: what was logged stays, what was planned is shown no more."""
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    if len(block.slots) <= 1:
        raise ImpossibleInput(Problem("slot", "last_slot"))
    slot.removed = True
    _remember(session, actor, block, "slot_removed", {"slot": slot.id, "removed": False})
    return block


def change_slot(session: Session, actor: Actor, slot_id: int, facts: SlotFacts) -> BlockSlot:
    """Another school, day, role or parameters. The loads follow when the coach accepts the plan anew.

    The day of a slot with logged sets stays: what was done was done on that day.
    """
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    if facts.weekday != slot.weekday and logged_cells(session, [slot.id]):
        raise ImpossibleInput(Problem("day", "day_logged"))
    before = {name: getattr(slot, name) for name in CHANGEABLE} | {"weekday": slot.weekday}
    slot.session = session_on(block, facts.weekday)
    slot.role, slot.stack, slot.variation = facts.role, facts.stack, facts.variation
    if not slot.ladder and slot.school != facts.school:
        slot.school, slot.from_week = facts.school, next_week(block, slot, actor.today)
    slot.parameters = dict(facts.parameters)
    session.flush()
    _remember(session, actor, block, "slot_changed", {"slot": slot.id, "values": before})
    return slot


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
        setting = SchoolSetting(school, given, now.from_week if now.code == school else first)
        put_setting(session, actor, slot.id, athlete_id, setting)
    _remember_settings(session, actor, block, slot, wanted, before)
    return slot


def take_setting(session: Session, actor: Actor, slot_id: int, athlete_id: int) -> BlockSlot:
    """The athlete follows the slot's school again."""
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    before = athlete_settings(session, [slot.id])
    if (slot.id, athlete_id) not in before:
        raise NotThere("athlete")
    put_setting(session, actor, slot.id, athlete_id, None)
    _remember_settings(session, actor, block, slot, [athlete_id], before)
    return slot


def _remember_settings(
    session: Session, actor: Actor, block: Block, slot: BlockSlot, athlete_ids: Sequence[int], before: AthleteSettings
) -> None:
    was = {str(athlete_id): as_plain(before.get((slot.id, athlete_id))) for athlete_id in athlete_ids}
    _remember(session, actor, block, "setting_changed", {"slot": slot.id, "settings": was})


def move_slot(session: Session, actor: Actor, slot_id: int, by: int) -> Block:
    """One earlier (−1) or later (1) in its session."""
    require(actor, Act.PLAN)
    slot, block = slot_of(session, actor.squad_id, slot_id)
    same = [other for other in block.slots if other.session_id == slot.session_id]
    here = same.index(slot)
    if 0 <= here + by < len(same):
        other = same[here + by]
        slot.position, other.position = other.position, slot.position
        if slot.position == other.position:
            slot.position += by
        session.flush()
        session.expire(block, ["every_slot"])
    return block


def _remember(session: Session, actor: Actor, block: Block, what: str, before: dict[str, Any]) -> Change:
    return remember(session, actor, what=what, subject="slots", subject_id=block.id, before=before)


@restores("slots")
def restore_slot(session: Session, actor: Actor, change: Change) -> None:
    """Undo: the slot, its single athletes' schools and the cells a mend replaced, as they were."""
    slot, block = slot_of(session, actor.squad_id, change.before["slot"])
    before = change.before
    bring_back(session, actor, block.id, before.get("cells", []))
    for athlete_id, given in before.get("settings", {}).items():
        put_setting(session, actor, slot.id, int(athlete_id), SchoolSetting(*given) if given else None)
    values = dict(before.get("values", {}))
    if "weekday" in values:
        slot.session = session_on(block, values.pop("weekday"))
    if "role" in values:
        values["role"] = SlotRole(values["role"])
    for name, value in values.items():
        setattr(slot, name, value)
    slot.removed = before.get("removed", slot.removed)
