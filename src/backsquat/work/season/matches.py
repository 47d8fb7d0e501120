"""The season's matches."""

import datetime as dt
from collections.abc import Sequence

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from backsquat.storage.models import Change, Match
from backsquat.work.actor import Actor
from backsquat.work.journal import remember, restores
from backsquat.work.policy import Act, require
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


def add_matches(
    session: Session, actor: Actor, season_id: int, days: Sequence[tuple[dt.date, bool]]
) -> tuple[Change | None, int]:
    """Matches of a list on days that have none yet; the change to undo, and how many."""
    require(actor, Act.PLAN)
    here = {day for day, _ in match_days(session, season_id)}
    new = [Match(season_id=season_id, played_on=day, important=counts) for day, counts in days if day not in here]
    session.add_all(new)
    session.flush()
    if not new:
        return None, 0
    about = {"what": "matches_added", "subject": "matches", "subject_id": season_id}
    return remember(session, actor, **about, before={"rows": [match.id for match in new]}), len(new)  # type: ignore[arg-type]


@restores("matches")
def take_back_matches(session: Session, actor: Actor, change: Change) -> None:
    """Undo: these matches are not played."""
    require(actor, Act.PLAN)
    session.execute(delete(Match).where(Match.id.in_(change.before["rows"])))
