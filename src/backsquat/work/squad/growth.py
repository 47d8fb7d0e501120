"""Heights of the young, and who is growing fast."""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.rules import Rules
from backsquat.core.season.growth import Growth, growth
from backsquat.core.season.trend import Point
from backsquat.storage.models import Height
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of

HEIGHT_CM = (100, 230)


def measure(context: WorkContext, athlete_id: int, height_cm: Decimal, day: dt.date) -> Height | None:
    """A height of a day; None where it is the newest already: facts kept again measure nobody."""
    require(context.actor, Act.KEEP_ATHLETES)
    athlete_of(context.db, context.squad_id, athlete_id)
    if not HEIGHT_CM[0] <= height_cm <= HEIGHT_CM[1]:
        raise ImpossibleInput(Problem("height_cm", "height_of", {"low": HEIGHT_CM[0], "high": HEIGHT_CM[1]}))
    if day > context.today:
        raise ImpossibleInput(Problem("height_cm", "in_future", {"today": context.today.isoformat()}))
    newest = select(Height).where(Height.athlete_id == athlete_id).order_by(Height.measured_on.desc(), Height.id.desc())
    known = context.db.scalars(newest.limit(1)).first()
    if known is not None and known.height_cm == height_cm:
        return None
    row = Height(
        athlete_id=athlete_id, measured_on=day, height_cm=height_cm, by_id=context.actor.user_id, at=context.now
    )
    context.db.add(row)
    context.db.flush()
    return row


_HEIGHTS = (  # made once: asked at every door
    select(Height.athlete_id, Height.measured_on, Height.height_cm)
    .where(Height.athlete_id.in_(bindparam("ids", expanding=True)), Height.measured_on <= bindparam("day"))
    .order_by(Height.measured_on, Height.id)
)


def heights_of(db: Session, athlete_ids: Sequence[int], today: dt.date) -> dict[int, list[Point]]:
    """Each athlete's heights up to a day, oldest first; the last row of a day holds."""
    found: dict[int, dict[dt.date, Point]] = defaultdict(dict)
    for athlete_id, day, height_cm in db.execute(_HEIGHTS, {"ids": list(athlete_ids), "day": today}):
        found[athlete_id][day] = Point(day, float(height_cm))
    return {athlete_id: list(points.values()) for athlete_id, points in found.items()}


def growth_of(db: Session, athlete_ids: Sequence[int], today: dt.date, rules: Rules) -> dict[int, Growth]:
    """How fast each grows whose heights say so; one query for all."""
    heights = heights_of(db, athlete_ids, today)
    found = {athlete_id: growth(points, today, rules) for athlete_id, points in heights.items()}
    return {athlete_id: one for athlete_id, one in found.items() if one}
