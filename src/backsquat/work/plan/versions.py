"""Published versions of a block: which there are, how two differ, and bringing one back as a draft."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere, Refused
from backsquat.storage.models import Block, Cell, PlanVersion, User
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember
from backsquat.work.plan.cells import bring_back
from backsquat.work.policy import Act, require
from backsquat.work.sessions.blocks import block_of


class PlanSpot(NamedTuple):
    """Where in a block a number stands."""

    exercise_id: int
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


def versions_of(db: Session, block: Block) -> list[VersionLine]:
    """All versions, newest first."""
    rows = db.execute(
        select(PlanVersion.number, PlanVersion.why, User.name, PlanVersion.at, func.count(Cell.id))
        .join(User, PlanVersion.by_id == User.id)
        .outerjoin(Cell, Cell.version_id == PlanVersion.id)
        .where(PlanVersion.block_id == block.id)
        .group_by(PlanVersion.id)
        .order_by(PlanVersion.number.desc())
    )
    return [VersionLine(*row) for row in rows]


def state_at(db: Session, block: Block, number: int) -> dict[PlanSpot, Cell]:
    """What the floor used at a version: of each exercise, athlete and week the newest cell published by then."""
    cells = db.scalars(
        select(Cell)
        .join(PlanVersion, Cell.version_id == PlanVersion.id)
        .where(
            PlanVersion.block_id == block.id,
            PlanVersion.number <= number,
            Cell.exercise_id.in_([exercise.id for exercise in block.exercises]),
        )
        .order_by(PlanVersion.number, Cell.id)
    )
    return {PlanSpot(cell.exercise_id, cell.athlete_id, cell.week): cell for cell in cells}


@dataclass(frozen=True)
class Changed:
    spot: PlanSpot
    before: Cell | None
    after: Cell | None


def differences(db: Session, block: Block, one: int, other: int) -> list[Changed]:
    """Where the sheet differs between two versions."""
    before, after = state_at(db, block, one), state_at(db, block, other)
    spots = sorted(before.keys() | after.keys())
    return [
        Changed(spot, before.get(spot), after.get(spot))
        for spot in spots
        if _number(before.get(spot)) != _number(after.get(spot))
    ]


def _number(cell: Cell | None) -> Sequence[object]:
    return () if cell is None else (cell.state, cell.movement, cell.load_kg, cell.sets, cell.reps, cell.hold_s)


def restore_version(context: WorkContext, block_id: int, number: int) -> int:
    """Bring the numbers of a version back as a draft, where they are still to come; returns how many."""
    require(context.actor, Act.PLAN)
    block = block_of(context.db, context.squad_id, block_id)
    newest = context.db.scalar(select(func.max(PlanVersion.number)).where(PlanVersion.block_id == block.id)) or 0
    if not 1 <= number <= newest:
        raise NotThere("version")
    wanted = state_at(context.db, block, number)
    standing = {
        (cell.exercise_id, cell.athlete_id, cell.week): cell
        for cell in context.db.scalars(
            select(Cell).where(Cell.exercise_id.in_([exercise.id for exercise in block.exercises]), Cell.current)
        )
    }
    other = [cell.id for spot, cell in wanted.items() if _number(standing.get(spot)) != _number(cell)]
    replaced = bring_back(context, block.id, other).replaced
    if not replaced:
        raise Refused("nothing_to_restore")
    before, facts = {"cells": replaced}, {"number": number}
    remember(context, what="restored", subject="cells", subject_id=block.id, before=before, facts=facts)
    return len(replaced)
