"""The log, a row for each set that stands, oldest first."""

import datetime as dt
from decimal import Decimal
from typing import NamedTuple

from sqlalchemy import select

from backsquat.storage.models import Athlete, Block, Cell, Exercise, SetEntry, User
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require


class ExportedLine(NamedTuple):
    """A set as it is handed out; `movement`, `depth`, `fault` are codes, empty where there is none."""

    done_on: dt.date
    athlete: str
    movement: str
    effort: str
    block: str
    week: int | None  # of the block, from 1
    set_number: int
    side: str
    load: Decimal
    unit: str
    load_kg: float
    body_kg: float | None  # of the body, as far as it is moved
    reps: int
    hold_s: int | None
    reps_to_depth: int
    depth: str
    reserve_reps: int | None
    faults: tuple[str, ...]
    pain: int | None  # None where whoever asks may not read of it
    pain_region: str
    estimate_kg: float | None
    logged_by: str
    logged_at: dt.datetime


def log_lines(
    context: WorkContext, first_on: dt.date, last_on: dt.date, athlete_id: int | None = None
) -> list[ExportedLine]:
    """Every set that stands of the squad's athletes, put away ones too, from a day to a day."""
    require(context.actor, Act.PLAN)
    query = (
        select(SetEntry, Athlete.name, User.name, Cell.week, Block.name)
        .join(Athlete, Athlete.id == SetEntry.athlete_id)
        .join(User, User.id == SetEntry.by_id)
        .outerjoin(Cell, Cell.id == SetEntry.cell_id)
        .outerjoin(Exercise, Exercise.id == Cell.exercise_id)
        .outerjoin(Block, Block.id == Exercise.block_id)
        .where(Athlete.squad_id == context.squad_id, SetEntry.standing)
        .where(SetEntry.done_on.between(first_on, last_on))
        .order_by(SetEntry.done_on, Athlete.name, SetEntry.id)
    )
    if athlete_id is not None:
        query = query.where(Athlete.id == athlete_id)
    return [_line(*row) for row in context.db.execute(query)]


def _line(entry: SetEntry, athlete: str, by: str, week: int | None, block: str | None) -> ExportedLine:
    return ExportedLine(
        entry.done_on,
        athlete,
        entry.movement,
        entry.effort.value,
        block or "",
        None if week is None else week + 1,
        entry.set_number,
        entry.side,
        entry.load_amount,
        entry.load_unit,
        entry.load_kg,
        entry.carried_kg,
        entry.reps,
        entry.hold_s,
        entry.reps_to_depth,
        entry.depth_standard,
        entry.reserve_reps,
        tuple(entry.faults),
        entry.pain,
        entry.pain_region,
        entry.estimate_kg,
        by,
        entry.at,
    )
