"""Writes to blocks and their slots: making a block, putting slots in, taking them out, changing their school."""

import datetime as dt
from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.progression.place import usual_window
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import Span
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.blocks.courses import Course, Courses, as_plain, course_of, own_courses, put_course
from backsquat.features.blocks.operations import block_of, bring_back
from backsquat.features.blocks.planning import (
    known_candidates,
    logged_places,
    planned_cells,
    session_day,
    slot_plan,
)
from backsquat.features.desk import Actor
from backsquat.features.journal import remember, restores
from backsquat.features.movements.queries import Library, library_of
from backsquat.library.templates import SLOTS_MOST, SlotEntry, TemplateEntry
from backsquat.storage.models import Block, BlockSlot, Cell, Change


@dataclass(frozen=True)
class SlotFacts:
    """One lift on one day, with the school's parameters as the coach gave them."""

    weekday: int
    movement: str
    school: str
    parameters: dict[str, Any] = field(default_factory=dict)
    ladder: str = ""
    role: str = "main"
    stack: int = 0
    variation: str = ""


@dataclass(frozen=True)
class BlockFacts:
    name: str
    first_week: dt.date
    weeks: int
    in_season: bool
    slots: tuple[SlotFacts, ...]
    purpose: str = ""


def create_block(session: Session, actor: Actor, facts: BlockFacts, season: Span, rules: Rules) -> Block:
    """A block with every athlete's rows planned as a draft."""
    _check(session, actor, facts, season)
    library = library_of(session, actor.squad_id)
    block = Block(
        squad_id=actor.squad_id, name=facts.name, first_week=facts.first_week, weeks=facts.weeks,
        in_season=facts.in_season, purpose=facts.purpose, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    block.every_slot = _rows_of(facts.slots, library)
    session.add(block)
    session.flush()
    for slot in block.slots:
        _plan_slot(session, actor, block, slot, rules)
    return block


def _rows_of(slots: Sequence[SlotFacts], library: Library) -> list[BlockSlot]:
    """Slots as rows in the order given, day by day; windows nobody gave follow from the place in the session."""
    ordered = sorted(slots, key=lambda slot: slot.weekday)
    of_day, seen = Counter(slot.weekday for slot in ordered), Counter[int]()
    rows = []
    for place, slot in enumerate(ordered):
        rows.append(_row_of(slot, place, seen[slot.weekday], of_day[slot.weekday], library))
        seen[slot.weekday] += 1
    return rows


def _row_of(slot: SlotFacts, place: int, in_day: int, of_day: int, library: Library) -> BlockSlot:
    code = slot.movement
    if slot.ladder:
        if slot.ladder not in library.ladders:
            raise NotThere("ladder")
        code = library.ladders[slot.ladder].rungs[-1][0]
    return BlockSlot(
        place=place, weekday=slot.weekday, movement=library.get(code).code, ladder=slot.ladder,
        school="ladder" if slot.ladder else slot.school, role=slot.role, stack=slot.stack, variation=slot.variation,
        parameters=placed_parameters(slot, in_day, of_day, library),
    )  # fmt: skip


def placed_parameters(slot: SlotFacts, in_day: int, of_day: int, library: Library) -> dict[str, Any]:
    """The slot's parameters; for a rep window that nobody gave, the one its place in the session has."""
    given = dict(slot.parameters)
    if slot.school != "window" or "low" in given or "high" in given or slot.ladder:
        return given
    movement = library.get(slot.movement)
    window = usual_window(movement, in_day, of_day, slot.role in ("main", "second"))
    return {"low": window.low, "high": window.high, "placed": window.why, **dict(window.changes)} | given


def _plan_slot(session: Session, actor: Actor, block: Block, slot: BlockSlot, rules: Rules) -> None:
    """Plan a slot for everybody, from the next session on."""
    plan = slot_plan(session, block, slot, rules)
    athletes = squad_athletes(session, actor.squad_id)
    known = known_candidates(session, athletes, plan, actor.today)
    rows = planned_cells(plan, athletes, known, actor, _weeks_to_come(block, slot, actor.today))
    if rows:
        session.execute(insert(Cell), rows)


def _weeks_to_come(block: Block, slot: BlockSlot, today: dt.date) -> list[int]:
    """Weeks whose session is not past; a block that lies wholly in the past is planned whole."""
    coming = [week for week in range(block.weeks) if session_day(block, slot, week) >= today]
    return coming or list(range(block.weeks))


def _next_week(block: Block, slot: BlockSlot, today: dt.date) -> int:
    """The week of the block whose session is the next; 0 where the block has not begun or is over."""
    return _weeks_to_come(block, slot, today)[0]


def _check(session: Session, actor: Actor, facts: BlockFacts, season: Span) -> None:
    found = []
    last = facts.first_week + dt.timedelta(weeks=facts.weeks - 1)
    if facts.first_week.weekday() != 0:
        found.append(Problem("first_week", "not_monday"))
    elif facts.first_week not in season or last not in season:
        end = season.last_week + dt.timedelta(days=6)
        found.append(
            Problem(
                "first_week",
                "outside_season",
                {"first": season.first_week.isoformat(), "last": end.isoformat()},
            )
        )
    for other in session.scalars(select(Block).where(Block.squad_id == actor.squad_id)):
        other_last = other.first_week + dt.timedelta(weeks=other.weeks - 1)
        if other.first_week <= last and facts.first_week <= other_last:
            found.append(Problem("first_week", "overlap", {"name": other.name}))
            break
    if not facts.slots:
        found.append(Problem("slots", "no_days"))
    if found:
        raise ImpossibleInput(*found)


def slot_of(session: Session, squad_id: int, slot_id: int) -> tuple[BlockSlot, Block]:
    slot = session.get(BlockSlot, slot_id)
    block = session.get(Block, slot.block_id) if slot else None
    if slot is None or block is None or block.squad_id != squad_id:
        raise NotThere("slot")
    return slot, block


def add_slot(session: Session, actor: Actor, block_id: int, facts: SlotFacts, rules: Rules) -> BlockSlot:
    """Put one more slot at the end of its day and plan it as a draft. Undo takes it out again."""
    block = block_of(session, actor.squad_id, block_id)
    if len(block.slots) >= SLOTS_MOST:
        raise ImpossibleInput(Problem("movement", "too_many_slots", {"most": SLOTS_MOST}))
    in_day = sum(slot.weekday == facts.weekday for slot in block.slots)
    place = 1 + max((slot.place for slot in block.every_slot), default=-1)
    slot = _row_of(facts, place, in_day, in_day + 1, library_of(session, actor.squad_id))
    slot.from_week = _next_week(block, slot, actor.today)
    block.every_slot.append(slot)
    session.flush()
    _plan_slot(session, actor, block, slot, rules)
    remember(
        session, actor, what="slot_added", subject="slots", subject_id=block.id,
        before={"slot": slot.id, "removed": True},
    )  # fmt: skip
    return slot


def remove_slot(session: Session, actor: Actor, slot_id: int) -> Block:
    """Take a slot out of the block: what was logged stays, what was planned is shown no more."""
    slot, block = slot_of(session, actor.squad_id, slot_id)
    if len(block.slots) <= 1:
        raise ImpossibleInput(Problem("slot", "last_slot"))
    slot.removed = True
    remember(
        session, actor, what="slot_removed", subject="slots", subject_id=block.id,
        before={"slot": slot.id, "removed": False},
    )  # fmt: skip
    return block


CHANGEABLE = ("weekday", "place", "from_week", "school", "parameters", "role", "stack", "variation")


def change_slot(session: Session, actor: Actor, slot_id: int, facts: SlotFacts) -> BlockSlot:
    """Another school, day, role or parameters. The loads follow when the coach accepts the plan anew.

    The day of a slot with logged sets stays: what was done was done on that day.
    """
    slot, block = slot_of(session, actor.squad_id, slot_id)
    if facts.weekday != slot.weekday and logged_places(session, [slot.id]):
        raise ImpossibleInput(Problem("day", "day_logged"))
    before = {name: getattr(slot, name) for name in CHANGEABLE}
    slot.weekday, slot.role, slot.stack, slot.variation = (
        facts.weekday,
        facts.role,
        facts.stack,
        facts.variation,
    )
    if not slot.ladder and slot.school != facts.school:
        slot.school, slot.from_week = facts.school, _next_week(block, slot, actor.today)
    slot.parameters = dict(facts.parameters)
    session.flush()
    remember(
        session, actor, what="slot_changed", subject="slots", subject_id=block.id,
        before={"slot": slot.id, "values": before},
    )  # fmt: skip
    return slot


def give_course(
    session: Session, actor: Actor, slot_id: int, athlete_ids: Collection[int], school: str, given: dict[str, Any]
) -> BlockSlot:  # fmt: skip
    """Another school, or other parameters, for these athletes in a slot; the others keep the slot's.

    The loads follow when the coach accepts the plan anew.
    """
    slot, block = slot_of(session, actor.squad_id, slot_id)
    known = {a.id for a in squad_athletes(session, actor.squad_id)}
    wanted = sorted(set(athlete_ids) & known)
    if not wanted:
        raise ImpossibleInput(Problem("athlete", "nobody_chosen"))
    if slot.ladder or school == "ladder" or school not in SCHOOLS:
        raise NotThere("school")
    before, first = own_courses(session, [slot.id]), _next_week(block, slot, actor.today)
    for athlete_id in wanted:
        now = before.get((slot.id, athlete_id)) or course_of(slot)
        course = Course(school, given, now.from_week if now.code == school else first)
        put_course(session, actor, slot.id, athlete_id, course)
    _remember_courses(session, actor, block, slot, wanted, before)
    return slot


def take_course(session: Session, actor: Actor, slot_id: int, athlete_id: int) -> BlockSlot:
    """The athlete follows the slot's school again."""
    slot, block = slot_of(session, actor.squad_id, slot_id)
    before = own_courses(session, [slot.id])
    if (slot.id, athlete_id) not in before:
        raise NotThere("athlete")
    put_course(session, actor, slot.id, athlete_id, None)
    _remember_courses(session, actor, block, slot, [athlete_id], before)
    return slot


def _remember_courses(
    session: Session, actor: Actor, block: Block, slot: BlockSlot, athlete_ids: Sequence[int], before: Courses
) -> None:
    was = {str(athlete_id): as_plain(before.get((slot.id, athlete_id))) for athlete_id in athlete_ids}
    remember(
        session, actor, what="course_changed", subject="slots", subject_id=block.id,
        before={"slot": slot.id, "courses": was},
    )  # fmt: skip


def move_slot(session: Session, actor: Actor, slot_id: int, way: int) -> Block:
    """One place earlier (−1) or later (1) in its day."""
    slot, block = slot_of(session, actor.squad_id, slot_id)
    day = [other for other in block.slots if other.weekday == slot.weekday]
    here = day.index(slot)
    if 0 <= here + way < len(day):
        other = day[here + way]
        slot.place, other.place = other.place, slot.place
        if slot.place == other.place:
            slot.place += way
        session.flush()
        session.expire(block, ["every_slot"])
    return block


@restores("slots")
def restore_slot(session: Session, actor: Actor, change: Change) -> None:
    slot, block = slot_of(session, actor.squad_id, change.before["slot"])
    before = change.before
    bring_back(session, actor, block.id, before.get("cells", []))
    for athlete_id, given in before.get("courses", {}).items():
        put_course(session, actor, slot.id, int(athlete_id), Course(*given) if given else None)
    for name, value in before.get("values", {}).items():
        setattr(slot, name, value)
    slot.removed = before.get("removed", slot.removed)


def template_of(block: Block, words: str = "") -> TemplateEntry:
    """The block as a template: what a coach saves to use again or to share."""
    return TemplateEntry(
        name=block.name, purpose=block.purpose, words=words, weeks=block.weeks, in_season=block.in_season,
        slots=[
            SlotEntry(
                day=slot.weekday, movement="" if slot.ladder else slot.movement, ladder=slot.ladder, school=slot.school,
                role=slot.role, stack=slot.stack, variation=slot.variation,
                parameters={name: value for name, value in slot.parameters.items() if name != "placed"},
            )
            for slot in block.slots
        ],
    )  # fmt: skip
