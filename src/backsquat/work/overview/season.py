"""The season as a whole, for its drawing: how heavy the weeks of its blocks are, and how milestones stand as ranges."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median_low

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.season.milestone import Status
from backsquat.storage.models import Cell, Exercise
from backsquat.work.season.milestones import Goal

REACHED = (Status.DONE, Status.ON_COURSE)


def week_loads(db: Session, block_ids: Sequence[int]) -> dict[tuple[int, int], float]:
    """(block, week) → the main lifts' load as a share of the planning max, on average of everybody."""
    rows = db.execute(
        select(Exercise.block_id, Cell.week, func.avg(Cell.load_kg / Cell.planning_max_kg))
        .join(Exercise, Exercise.id == Cell.exercise_id)
        .where(Exercise.block_id.in_(block_ids), ~Exercise.removed, Exercise.role == ExerciseRole.MAIN)
        .where(Cell.current, Cell.kind != ExposureKind.DELOAD, Cell.load_kg.is_not(None), Cell.planning_max_kg > 0)
        .group_by(Exercise.block_id, Cell.week)
    )
    return {(block_id, week): float(share) for block_id, week, share in rows if share}


@dataclass(frozen=True)
class GoalStanding:
    """A milestone of many: between which days the middle of them reach it, and how many will by its day."""

    goal: Goal
    early_on: dt.date | None  # None: nobody is on the way
    late_on: dt.date | None  # None: with no certainty at all
    fewest: int  # who have it, or surely will by the day
    most: int  # who may
    of: int


def standing(goal: Goal) -> GoalStanding:
    """How a milestone stands for all it is set for."""
    found = [one.judgement for one in goal.standings]
    on_way = [one for one in found if one.earliest_on and one.status is not Status.DONE]
    late = [one.latest_on or dt.date.max for one in on_way]
    middle = median_low(late) if late else dt.date.max
    fewest = sum(one.status is Status.DONE or (one.status is Status.ON_COURSE and one.sure) for one in found)
    most = sum(one.status in REACHED or one.status is Status.BEHIND for one in found)
    return GoalStanding(
        goal,
        median_low([one.earliest_on for one in on_way if one.earliest_on]) if on_way else None,
        None if middle == dt.date.max else middle,
        fewest,
        most,
        len(found),
    )
