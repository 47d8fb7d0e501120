"""Published versions of a block: which there are, how two differ, and bringing one back as a draft."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere, Refused
from backsquat.storage.models import Block, Cell, PlanVersion, User
from backsquat.work.actor import Actor
from backsquat.work.journal import remember
from backsquat.work.plan.cells import bring_back
from backsquat.work.policy import Act, require
from backsquat.work.sessions.blocks import block_of


class Spot(NamedTuple):
    """Where in a block a number stands."""

    slot_id: int
    athlete_id: int
    week: int


@dataclass(frozen=True)
class VersionLine:
    """One publication."""

    number: int
    why: str
    by: str
    at: dt.datetime
    cells: int  # how many it changed


def versions_of(session: Session, block: Block) -> list[VersionLine]:
    """All versions, newest first."""
    rows = session.execute(
        select(PlanVersion.number, PlanVersion.why, User.name, PlanVersion.at, func.count(Cell.id))
        .join(User, PlanVersion.by_id == User.id)
        .outerjoin(Cell, Cell.version_id == PlanVersion.id)
        .where(PlanVersion.block_id == block.id)
        .group_by(PlanVersion.id)
        .order_by(PlanVersion.number.desc())
    )
    return [VersionLine(*row) for row in rows]


def state_at(session: Session, block: Block, number: int) -> dict[Spot, Cell]:
    """What the floor used at a version: of each slot, athlete and week the newest cell published by then."""
    cells = session.scalars(
        select(Cell)
        .join(PlanVersion, Cell.version_id == PlanVersion.id)
        .where(
            PlanVersion.block_id == block.id,
            PlanVersion.number <= number,
            Cell.slot_id.in_([slot.id for slot in block.slots]),
        )
        .order_by(PlanVersion.number, Cell.id)
    )
    return {Spot(cell.slot_id, cell.athlete_id, cell.week): cell for cell in cells}


@dataclass(frozen=True)
class Changed:
    spot: Spot
    before: Cell | None
    after: Cell | None


def differences(session: Session, block: Block, one: int, other: int) -> list[Changed]:
    """Where the sheet differs between two versions."""
    before, after = state_at(session, block, one), state_at(session, block, other)
    spots = sorted(before.keys() | after.keys())
    return [
        Changed(spot, before.get(spot), after.get(spot))
        for spot in spots
        if _number(before.get(spot)) != _number(after.get(spot))
    ]


def _number(cell: Cell | None) -> Sequence[object]:
    return () if cell is None else (cell.state, cell.movement, cell.load_kg, cell.sets, cell.reps, cell.hold_s)


def restore_version(session: Session, actor: Actor, block_id: int, number: int) -> int:
    """Bring the numbers of a version back as a draft, where they are still to come; returns how many."""
    require(actor, Act.PLAN)
    block = block_of(session, actor.squad_id, block_id)
    newest = session.scalar(select(func.max(PlanVersion.number)).where(PlanVersion.block_id == block.id)) or 0
    if not 1 <= number <= newest:
        raise NotThere("version")
    wanted = state_at(session, block, number)
    standing = {
        (cell.slot_id, cell.athlete_id, cell.week): cell
        for cell in session.scalars(
            select(Cell).where(Cell.slot_id.in_([slot.id for slot in block.slots]), Cell.current)
        )
    }
    other = [cell.id for spot, cell in wanted.items() if _number(standing.get(spot)) != _number(cell)]
    replaced = bring_back(session, actor, block.id, other).replaced
    if not replaced:
        raise Refused("nothing_to_restore")
    before, facts = {"cells": replaced}, {"number": number}
    remember(session, actor, what="restored", subject="cells", subject_id=block.id, before=before, facts=facts)
    return len(replaced)
