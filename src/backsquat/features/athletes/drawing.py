"""Pictures and tables of one lift: the estimate over the season, planned against done."""

import datetime as dt
from dataclasses import dataclass
from typing import Any

from markupsafe import Markup
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.features.athletes.queries import Numbers, judge_milestone
from backsquat.features.athletes.readiness import Readiness
from backsquat.features.desk import Desk
from backsquat.library.shelf import movements
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, Milestone, SetEntry
from backsquat.ui.drawing.paired import Pair, draw_pairs
from backsquat.ui.drawing.trend import TrendPicture, TrendPoint, draw_trend


@dataclass(frozen=True)
class WeekDone:
    """One week of one lift: what was planned and what was lifted, in reps × kg."""

    week: dt.date
    planned: str
    done: str
    planned_kg: float
    done_kg: float
    easy: bool


def lift_pictures(
    session: Session,
    here: Desk,
    athlete: Athlete,
    lift: Numbers,
    milestone: Milestone | None,
    ready: Readiness,
) -> dict[str, Any]:
    judgement = judge_milestone(milestone, lift.weeks, ready, here.rules) if milestone else None
    trend = draw_trend(
        TrendPicture(
            movements()[lift.movement].name,
            here.season,
            here.today,
            here.week,
            [TrendPoint(best.week, best.kg, best.trust, not best.firm) for best in lift.weeks],
            judgement.trend if judgement else None,
            judgement.target_kg if judgement else None,
            milestone.due_on if milestone else None,
        )
    )
    weeks = planned_and_done(session, here, athlete.id, lift.movement)
    return {"judgement": judgement, "trend_svg": trend, "weeks": weeks, "pairs_svg": _pairs(here, weeks)}


def planned_and_done(session: Session, here: Desk, athlete_id: int, movement: str) -> list[WeekDone]:
    """Week by week up to today: the published plan against the standing sets."""
    done = (
        select(
            SetEntry.cell_id,
            func.count().label("done_sets"),
            func.sum(SetEntry.reps_to_depth * SetEntry.load_kg).label("done_kg"),
            func.max(SetEntry.load_kg).label("top"),
            func.sum(SetEntry.reps_to_depth).label("done_reps"),
        )
        .where(SetEntry.athlete_id == athlete_id, ~SetEntry.replaced, ~SetEntry.withdrawn)
        .group_by(SetEntry.cell_id)
    ).subquery()
    rows = session.execute(
        select(
            Block.first_week,
            Cell.week,
            Cell.kind,
            Cell.sets,
            Cell.reps,
            Cell.load_amount,
            Cell.load_kg,
            *done.c,
        )
        .select_from(Cell)
        .join(BlockSlot, Cell.slot_id == BlockSlot.id)
        .join(Block, BlockSlot.block_id == Block.id)
        .outerjoin(done, done.c.cell_id == Cell.id)
        .where(
            Cell.athlete_id == athlete_id,
            Cell.live,
            BlockSlot.movement == movement,
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
        planned = f"{row.sets} × {row.reps} × {row.load_amount.normalize():f}"
        lifted = (
            f"{row.done_reps} reps in {row.done_sets} sets, top {row.top:g}"
            if row.done_sets
            else "nothing logged"
        )
        found.append(
            WeekDone(
                week,
                planned,
                lifted,
                row.sets * row.reps * row.load_kg,
                row.done_kg or 0.0,
                row.kind == "easy",
            )
        )
    return found


def _pairs(here: Desk, weeks: list[WeekDone]) -> Markup:
    pairs = [
        Pair(w.week, w.planned_kg, w.done_kg, w.easy, f"{w.week:%d %b}: planned {w.planned}; {w.done}")
        for w in weeks
    ]
    return draw_pairs("Planned against done by week, reps × kg", here.season, here.week, pairs)
