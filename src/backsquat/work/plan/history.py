"""Week by week: the published plan against the standing sets."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.progression.prescription import ExposureKind
from backsquat.storage.models import Block, Cell, Exercise, SetEntry
from backsquat.work.plan.rows import written
from backsquat.work.squad.context import SquadContext


@dataclass(frozen=True)
class WeekDone:
    """One week of one lift: what was planned and what was lifted; sums in reps × kg."""

    week: dt.date
    sets: int
    reps: int
    load: str  # as it is written
    planned_kg: float
    done_sets: int
    done_reps: int
    top_kg: float
    done_kg: float
    deload: bool


def planned_and_done(db: Session, here: SquadContext, athlete_id: int, movement: str) -> list[WeekDone]:
    """Week by week up to today: the published plan against the standing sets."""
    done = (
        select(
            SetEntry.cell_id,
            func.count().label("done_sets"),
            func.sum(SetEntry.reps_to_depth * SetEntry.load_kg).label("done_kg"),
            func.max(SetEntry.load_kg).label("top"),
            func.sum(SetEntry.reps_to_depth).label("done_reps"),
        )
        .where(SetEntry.athlete_id == athlete_id, SetEntry.standing)
        .group_by(SetEntry.cell_id)
    ).subquery()
    rows = db.execute(
        select(Block.first_week, Cell.week, Cell.kind, Cell.sets, Cell.reps, Cell.load_amount, Cell.load_kg, *done.c)
        .select_from(Cell)
        .join(Exercise, Cell.exercise_id == Exercise.id)
        .join(Block, Exercise.block_id == Block.id)
        .outerjoin(done, done.c.cell_id == Cell.id)
        .where(
            Cell.athlete_id == athlete_id,
            Cell.live,
            Exercise.movement == movement,
            Cell.load_kg.is_not(None),
            Block.first_week >= here.season.first_week,
        )
        .order_by(Block.first_week, Cell.week)
    )
    found = []
    for row in rows:
        week = row.first_week + dt.timedelta(weeks=row.week)
        if week > here.today:
            continue
        found.append(
            WeekDone(
                week=week,
                sets=row.sets,
                reps=row.reps,
                load=written(row.load_amount),
                planned_kg=row.sets * row.reps * row.load_kg,
                done_sets=row.done_sets or 0,
                done_reps=row.done_reps or 0,
                top_kg=row.top or 0.0,
                done_kg=row.done_kg or 0.0,
                deload=row.kind is ExposureKind.DELOAD,
            )
        )
    return found
