"""The season's matches."""

import datetime as dt

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.storage.models import Match
from backsquat.work.squad.context import SquadContext


def matches_ahead(session: Session, here: SquadContext, most: int = 6) -> list[Match]:
    """The next important matches, then the next of all: days a goal is usually set for."""
    rows = session.scalars(select(Match).where(Match.season_id == here.season_id, Match.played_on > here.today)).all()
    return sorted(rows, key=lambda match: (not match.important, match.played_on))[:most]


def next_day(matches: list[Match], otherwise: dt.date) -> dt.date:
    return matches[0].played_on if matches else otherwise


def match_days(session: Session, season_id: int) -> list[tuple[dt.date, bool]]:
    """Day of every match of a season, and whether it is an important one."""
    rows = session.execute(
        select(Match.played_on, Match.important).where(Match.season_id == season_id).order_by(Match.played_on)
    )
    return [(played_on, important) for played_on, important in rows]
