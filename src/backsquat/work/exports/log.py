"""The log, a row for each set that stands, oldest first."""

import datetime as dt
from typing import NamedTuple

from sqlalchemy import select

from backsquat.storage.models import Athlete, Block, Cell, Exercise, SetEntry, User
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require


class LoggedLine(NamedTuple):
    """A set as it is handed out, with who lifted it, who logged it, and the week (from 0) of the block it was planned in."""

    entry: SetEntry
    athlete: str
    logged_by: str
    week: int | None
    block: str | None


def log_lines(
    context: WorkContext, first_on: dt.date, last_on: dt.date, athlete_id: int | None = None
) -> list[LoggedLine]:
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
    return [LoggedLine(*row) for row in context.db.execute(query)]
