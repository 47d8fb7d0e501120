"""What a page speaks of: a squad, its rules and season, today and the chosen week."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import BindParameter, bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import DaySpan
from backsquat.storage.cache import cached
from backsquat.storage.models import Season, Squad


@dataclass(frozen=True)
class SquadContext:
    """The squad a page speaks of, its rules and season, today and the chosen week (a Monday)."""

    squad: Squad
    rules: Rules
    season: DaySpan
    season_id: int
    today: dt.date
    week: dt.date
    records_from: dt.date  # trends are drawn through what was recorded since, whichever week is chosen
    earlier: dt.date | None = None  # the last week of the season before
    later: dt.date | None = None  # the first week of the season after


_SQUAD: BindParameter[int] = bindparam("squad")
_SEASONS = select(Season).where(Season.squad_id == _SQUAD).order_by(Season.first_week)


def seasons_of(db: Session, squad_id: int) -> list[Season]:
    """The squad's seasons in their order."""
    return list(cached(db, ("seasons", squad_id), lambda: db.scalars(_SEASONS, {"squad": squad_id}).all()))


LEAST_RECORDS = dt.timedelta(weeks=12)  # a season just begun is judged with the end of the one before


def context_of(db: Session, squad: Squad, rules: Rules, today: dt.date, week: dt.date | None) -> SquadContext:
    """The squad in the season of the chosen week, else the last that has begun; the week is kept inside it.

    NotThere without a season.
    """
    seasons = seasons_of(db, squad.id)
    if not seasons:
        raise NotThere("season")
    wanted = week or today
    place = max((n for n, one in enumerate(seasons) if one.first_week <= wanted), default=0)
    season, span = seasons[place], DaySpan(seasons[place].first_week, seasons[place].weeks)
    earlier = DaySpan(seasons[place - 1].first_week, seasons[place - 1].weeks).last_week if place else None
    later = seasons[place + 1].first_week if place + 1 < len(seasons) else None
    begun = max((one.first_week for one in seasons if one.first_week <= today), default=today)
    since = min(begun, today - LEAST_RECORDS)
    return SquadContext(squad, rules, span, season.id, today, span.clamp(wanted), since, earlier, later)
