"""What is known of an athlete's body for looking at it from the side: height, mass, lengths, how far the ankle bends."""

import datetime as dt
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.technique.body import Body, SegmentLength, body_of
from backsquat.storage.models import BodyLength
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of, body_masses
from backsquat.work.squad.growth import heights_of

HEIGHT_CM, MASS_KG = 172.0, 68.0  # where nobody has measured: an adult of middling size, and said to be that


@dataclass(frozen=True)
class KnownBody:
    """A body, and which of height and mass nobody has measured."""

    body: Body
    assumed: tuple[str, ...]


def bodies_of(db: Session, athlete_ids: Sequence[int], today: dt.date) -> dict[int, KnownBody]:
    """Everybody's body as far as it is known, in three queries."""
    heights, masses = heights_of(db, athlete_ids, today), body_masses(db, athlete_ids, today)
    lengths = lengths_of(db, athlete_ids)
    found = {}
    for athlete_id in athlete_ids:
        height = heights[athlete_id][-1].value if heights.get(athlete_id) else None
        mass = masses.get(athlete_id)
        known = {"height": height, "mass": mass}
        body = body_of(height or HEIGHT_CM, mass or MASS_KG, lengths.get(athlete_id))
        found[athlete_id] = KnownBody(body, tuple(name for name, value in known.items() if value is None))
    return found


def lengths_of(db: Session, athlete_ids: Sequence[int]) -> dict[int, dict[SegmentLength, float]]:
    """The lengths that were measured and stand."""
    newest = select(func.max(BodyLength.id)).where(BodyLength.athlete_id.in_(athlete_ids))
    newest = newest.group_by(BodyLength.athlete_id, BodyLength.what)
    found: dict[int, dict[SegmentLength, float]] = defaultdict(dict)
    for row in db.scalars(select(BodyLength).where(BodyLength.id.in_(newest))):
        if row.length_cm is not None:
            found[row.athlete_id][SegmentLength(row.what)] = row.length_cm
    return found


def keep_lengths(context: WorkContext, athlete_id: int, typed: Mapping[SegmentLength, float | None]) -> int:
    """Keep lengths in cm as they were measured, None for by height; how many are new. ImpossibleInput as `body_of`."""
    require(context.actor, Act.SCREEN)
    athlete_of(context.db, context.squad_id, athlete_id)
    body_of(HEIGHT_CM, MASS_KG, {what: cm for what, cm in typed.items() if cm is not None})
    stand = lengths_of(context.db, [athlete_id]).get(athlete_id, {})
    new = {what: cm for what, cm in typed.items() if stand.get(what) != cm}
    context.db.add_all(
        BodyLength(athlete_id=athlete_id, what=what.value, length_cm=cm, by_id=context.actor.user_id, at=context.now)
        for what, cm in new.items()
    )
    context.db.flush()
    return len(new)
