"""The floor's sessions: which there are in a week, and which is shown."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.storage.models import Block, BlockSlot, SessionDay, SlotWeek


@dataclass(frozen=True)
class FloorSession:
    """One lift on one day of a published block."""

    block: Block
    slot: BlockSlot
    week: int
    day: dt.date
    session_id: int
    position: int  # in the session, as published


def sessions_in_week(session: Session, squad_id: int, week: dt.date) -> list[FloorSession]:
    """The week's sessions as they were published, by day."""
    blocks = session.scalars(select(Block).where(Block.squad_id == squad_id, Block.first_week <= week))
    now = [block for block in blocks if (week - block.first_week).days // 7 < block.weeks]
    found = []
    for block in now:
        index = (week - block.first_week).days // 7
        rows = session.execute(
            select(SlotWeek.slot_id, SlotWeek.session_id, SlotWeek.position, SessionDay.held_on)
            .join(SessionDay, (SessionDay.session_id == SlotWeek.session_id) & (SessionDay.week == SlotWeek.week))
            .where(SlotWeek.slot_id.in_([slot.id for slot in block.every_slot]), SlotWeek.week == index)
        )
        slots = {slot.id: slot for slot in block.every_slot}
        found += [FloorSession(block, slots[id], index, day, held, position) for id, held, position, day in rows]
    return sorted(found, key=lambda item: (item.day, item.position, item.slot.id))


def choose_session(sessions: Sequence[FloorSession], wanted: str, today: dt.date) -> FloorSession | None:
    """The session asked for, or today's, or the next of the week, or its last."""
    if not sessions:
        return None
    asked = next((item for item in sessions if str(item.slot.id) == wanted), None)
    return asked or next((item for item in sessions if item.day >= today), sessions[-1])
