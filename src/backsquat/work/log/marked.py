"""Sets that were kept with a mark that somebody should look at: against a stop, for an earlier number, logged twice over."""

import datetime as dt
from collections.abc import Collection
from dataclasses import dataclass

from sqlalchemy import String, cast, select
from sqlalchemy.orm import Session

from backsquat.storage.models import Athlete, SetEntry, User

SHOWN_DAYS = 7
MOST = 12
OF_HEALTH = frozenset({"stopped", "barred", "away"})
OF_PLAN = OF_HEALTH | {"also_logged", "replanned"}


@dataclass(frozen=True)
class MarkedSet:
    """A set with a mark, whose it is and who logged it."""

    entry: SetEntry
    athlete: Athlete
    by: str
    marks: tuple[str, ...]


def marked_sets(db: Session, squad_id: int, today: dt.date, marks: Collection[str]) -> list[MarkedSet]:
    """Those of the last days with one of these marks that still stand, the newest first."""
    rows = db.execute(
        select(SetEntry, Athlete, User.name)
        .join(Athlete, SetEntry.athlete_id == Athlete.id)
        .join(User, SetEntry.by_id == User.id)
        .where(
            Athlete.squad_id == squad_id,
            SetEntry.done_on >= today - dt.timedelta(days=SHOWN_DAYS),
            SetEntry.standing,
            cast(SetEntry.flags, String) != "[]",
        )
        .order_by(SetEntry.id.desc())
    )
    found = (
        MarkedSet(entry, athlete, by, tuple(flag for flag in entry.flags if flag in marks))
        for entry, athlete, by in rows
    )
    return [one for one in found if one.marks][:MOST]
