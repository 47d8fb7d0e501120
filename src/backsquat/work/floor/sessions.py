"""The floor's sessions: which there are in a week, and which is shown."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.storage.models import Block, BlockSlot, PlanVersion
from backsquat.work.sessions.blocks import session_day


@dataclass(frozen=True)
class FloorSession:
    """One lift on one day of a published block."""

    block: Block
    slot: BlockSlot
    week: int
    day: dt.date


def sessions_in_week(session: Session, squad_id: int, week: dt.date) -> list[FloorSession]:
    """The week's sessions of published blocks, by day."""
    blocks = session.scalars(
        select(Block).where(
            Block.squad_id == squad_id,
            Block.first_week <= week,
            select(PlanVersion.id).where(PlanVersion.block_id == Block.id).exists(),
        )
    )
    found = []
    for block in blocks:
        index = (week - block.first_week).days // 7
        if index < block.weeks:
            found += [FloorSession(block, slot, index, session_day(slot, index)) for slot in block.slots]
    return sorted(found, key=lambda item: (item.day, item.slot.position))


def choose_session(sessions: Sequence[FloorSession], wanted: str, today: dt.date) -> FloorSession | None:
    """The session asked for, or today's, or the next of the week, or its last."""
    if not sessions:
        return None
    asked = next((item for item in sessions if str(item.slot.id) == wanted), None)
    return asked or next((item for item in sessions if item.day >= today), sessions[-1])
