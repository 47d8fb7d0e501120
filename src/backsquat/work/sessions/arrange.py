"""Where a block's slots stand in its week: as planned, and as the floor has them since they were published."""

import datetime as dt
from collections.abc import Collection, Iterator, Sequence
from typing import Any

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.storage.models import Block, BlockSession, BlockSlot, SlotWeek
from backsquat.work.log.sets import logged_cells

PLACE = ("session_id", "position", "stack", "circuit", "spare", "rest_s", "manner")  # what publishing carries over


def place_of(slot: BlockSlot | SlotWeek) -> tuple[Any, ...]:
    """Where and how a slot is done: as planned, or as the floor has it in one week."""
    return tuple(getattr(slot, name) for name in PLACE)


def _on_floor(slot: BlockSlot, week: int) -> SlotWeek:
    """The slot's place as planned, for the floor in one week."""
    return SlotWeek(week=week, session=slot.session, **{name: getattr(slot, name) for name in PLACE[1:]})


_MANNER = select(SlotWeek.manner).where(  # made once: asked with every set
    SlotWeek.slot_id == bindparam("slot"), SlotWeek.week == bindparam("week")
)


def manner_on_floor(session: Session, slot: BlockSlot, week: int) -> dict[str, Any]:
    """How the floor does a slot in a week: as it was published, else as it is planned."""
    held = session.scalar(_MANNER, {"slot": slot.id, "week": week})
    return slot.manner if held is None else held


def put_in(session: Session, block: Block, slot: BlockSlot, held: BlockSession, position: int, today: dt.date) -> None:
    """Plan a slot in a session at a position, from the first week that has neither passed nor begun.

    ImpossibleInput where it shall go to another day and no such week is left.
    """
    if held is not slot.session:
        first = _first_movable(session, block, slot, held, today)
        if first is None:
            raise ImpossibleInput(Problem("day", "day_past"))
        slot.session_from, slot.session = first, held
    slot.position = position
    mark_moved(session, block, [slot], today)


def mark_moved(session: Session, block: Block, slots: Sequence[BlockSlot], today: dt.date) -> None:
    """Say of each slot whether publishing would change where the floor has it."""
    session.flush()
    published = any(other.on_floor for other in block.every_slot)
    begun = _begun(session, slots)
    for slot in slots:
        slot.moved = published and any(True for _ in _changes(block, slot, begun, today))
    session.flush()


def _begun(session: Session, slots: Sequence[BlockSlot]) -> set[tuple[int, int]]:
    """(slot, week) in which anybody has lifted."""
    return {(slot_id, week) for slot_id, _, week in logged_cells(session, [slot.id for slot in slots])}


def moved_slots(block: Block) -> list[BlockSlot]:
    """The slots whose day, order or going waits to be published."""
    return [slot for slot in block.every_slot if slot.moved]


def arrange(session: Session, block: Block, today: dt.date) -> None:
    """Give the floor the arrangement as planned, for what is to come; what is past, or begun, keeps its own."""
    first = not any(slot.on_floor for slot in block.every_slot)
    begun = _begun(session, block.every_slot)
    for slot in block.every_slot:
        if first and not slot.removed:
            slot.on_floor = [_on_floor(slot, week) for week in range(block.weeks)]
            continue
        for week, held in list(_changes(block, slot, begun, today)):
            if held is not None:
                slot.on_floor.remove(held)
                session.flush()
            if not slot.removed:
                slot.on_floor.append(_on_floor(slot, week))
        kept = [held.week for held in slot.on_floor if held.session is not slot.session]
        slot.session_from = max([slot.session_from, *(week + 1 for week in kept)])
        slot.moved = False
    session.flush()


def _changes(
    block: Block, slot: BlockSlot, begun: Collection[tuple[int, int]], today: dt.date
) -> Iterator[tuple[int, SlotWeek | None]]:
    """The weeks in which the floor would have the slot elsewhere after publishing, with where it has it now."""
    held_in = {held.week: held for held in slot.on_floor}
    for week in range(block.weeks):
        held = held_in.get(week)
        day = slot.session.day_in(week)
        if held is None:
            if not slot.removed and week >= slot.session_from and day >= today:
                yield week, None
        elif (slot.id, week) in begun or held.session.day_in(week) < today:
            continue
        elif slot.removed or (week >= slot.session_from and day >= today and place_of(held) != place_of(slot)):
            yield week, held


def _first_movable(session: Session, block: Block, slot: BlockSlot, held: BlockSession, today: dt.date) -> int | None:
    """The first week from which nothing has passed, on the old day or the new one, and nothing has begun."""
    begun = max((week for _, _, week in logged_cells(session, [slot.id])), default=-1)
    for week in range(begun + 1, block.weeks):
        if min(slot.session_in(week).day_in(week), held.day_in(week)) >= today:
            return week
    return None
