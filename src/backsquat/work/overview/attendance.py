"""Who trained: for every athlete and week the sessions that were planned, and what came of each."""

import datetime as dt
from collections import defaultdict
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from sqlalchemy.orm import Session

from backsquat.core.readiness.verdict import TimeAway
from backsquat.core.season.calendar import monday_of
from backsquat.storage.models import Athlete
from backsquat.work.readiness.load import absences_by_athlete
from backsquat.work.season.evidence import planned_sessions
from backsquat.work.squad.athletes import squad_athletes
from backsquat.work.squad.context import SquadContext


class Came(StrEnum):
    """What came of a planned session."""

    DONE = "done"
    PART = "part"
    MISSED = "missed"
    AWAY = "away"


@dataclass(frozen=True)
class Trained:
    """One athlete's season: by week what came of each session, and how many were to be expected and done."""

    athlete: Athlete
    weeks: dict[dt.date, list[Came]]

    @cached_property
    def expected(self) -> int:
        """Sessions planned while the athlete was there."""
        return sum(one is not Came.AWAY for week in self.weeks.values() for one in week)

    @cached_property
    def done(self) -> int:
        """Those of them in which the athlete trained, in part counts too."""
        return sum(one in (Came.DONE, Came.PART) for week in self.weeks.values() for one in week)

    @property
    def away(self) -> int:
        """Sessions planned while the athlete was away."""
        return sum(one is Came.AWAY for week in self.weeks.values() for one in week)

    @property
    def running(self) -> int:
        """Sessions missed one after the other up to now, time away not counted."""
        found = 0
        for one in reversed([one for week in sorted(self.weeks) for one in self.weeks[week] if one is not Came.AWAY]):
            if one is not Came.MISSED:
                break
            found += 1
        return found


def attendance(
    db: Session, here: SquadContext, first_on: dt.date | None = None, last_on: dt.date | None = None
) -> list[Trained]:
    """The season, or these days of it, up to yesterday, and what is done of today; a fixed number of queries.

    A session that was left out is no session. What was logged outside the plan counts nowhere here.
    """
    athletes = squad_athletes(db, here.squad.id)
    ids = [athlete.id for athlete in athletes]
    first, last = first_on or here.season.first_week, min(last_on or here.today, here.today)
    away = absences_by_athlete(db, ids)
    found: dict[int, dict[dt.date, list[Came]]] = defaultdict(lambda: defaultdict(list))
    for one in planned_sessions(db, here.squad.id, ids, first, last):
        if one.day == here.today and not one.made:
            continue  # it may still come
        came = _came(one.work * here.rules.part_share, one.made, away.get(one.athlete_id, []), one.day)
        found[one.athlete_id][monday_of(one.day)].append(came)
    return [Trained(athlete, dict(found[athlete.id])) for athlete in athletes]


def _came(whole: float, made: int, away: list[TimeAway], day: dt.date) -> Came:
    if made:
        return Came.DONE if made >= whole else Came.PART
    gone = any(one.holds_on(day) and not (one.movement or one.region) for one in away)
    return Came.AWAY if gone else Came.MISSED
