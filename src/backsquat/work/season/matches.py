"""The season's matches: put in, changed, moved, dropped; each change undone by itself."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy import bindparam, select, update
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.season.calendar import DaySpan
from backsquat.core.season.week import Fixture
from backsquat.storage.cache import cached
from backsquat.storage.models import Change, Match, Season
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.policy import Act, require
from backsquat.work.squad.context import SquadContext

WORDS_MOST = 60


@dataclass(frozen=True)
class MatchFacts:
    """What is said of a match."""

    played_on: dt.date
    important: bool = False
    away: bool = False
    opponent: str = ""
    competition: str = ""


def matches_ahead(db: Session, here: SquadContext, most: int = 6) -> list[Match]:
    """The next important matches, then the next of all: days a goal is usually set for."""
    rows = [match for match in matches_of(db, here.season_id) if match.played_on > here.today]
    return sorted(rows, key=lambda match: (not match.important, match.played_on))[:most]


def next_day(matches: list[Match], otherwise: dt.date) -> dt.date:
    return matches[0].played_on if matches else otherwise


def matches_of(db: Session, season_id: int) -> list[Match]:
    """The matches of a season by day."""
    query = select(Match).where(Match.season_id == season_id, ~Match.dropped)
    return list(db.scalars(query.order_by(Match.played_on, Match.id)))


_DAYS = (  # made once: the rail of every page asks it
    select(Match.played_on, Match.important)
    .where(Match.season_id == bindparam("season"), ~Match.dropped)
    .order_by(Match.played_on)
)


def match_days(db: Session, season_id: int) -> list[tuple[dt.date, bool]]:
    """Day of every match of a season, and whether it is an important one."""
    return cached(db, ("match_days", season_id), lambda: _match_days(db, season_id))


def _match_days(db: Session, season_id: int) -> list[tuple[dt.date, bool]]:
    return [(day, important) for day, important in db.execute(_DAYS, {"season": season_id})]


def fixtures_around(db: Session, squad_id: int, week: dt.date) -> list[Fixture]:
    """The squad's matches of a week and of the weeks beside it, whichever season they are of."""
    query = (
        select(Match)
        .join(Season, Season.id == Match.season_id)
        .where(Season.squad_id == squad_id, ~Match.dropped)
        .where(Match.played_on.between(week - dt.timedelta(days=7), week + dt.timedelta(days=14)))
        .order_by(Match.played_on, Match.id)
    )
    return [Fixture(row.played_on, row.important, row.away) for row in db.scalars(query)]


def add_matches(context: WorkContext, season_id: int, facts: Sequence[MatchFacts]) -> tuple[Change | None, int]:
    """Matches of a list on days that have none yet; the change to undo, and how many."""
    require(context.actor, Act.PLAN)
    here = {day for day, _ in match_days(context.db, season_id)}
    new = [Match(season_id=season_id, **asdict(one)) for one in facts if one.played_on not in here]
    context.db.add_all(new)
    context.db.flush()
    if not new:
        return None, 0
    about = {"what": "matches_added", "subject": "matches", "subject_id": season_id}
    return remember(context, **about, before={"rows": [match.id for match in new]}), len(new)  # type: ignore[arg-type]


@restores("matches")
def take_back_matches(context: WorkContext, change: Change) -> None:
    """Undo: these matches are not played."""
    require(context.actor, Act.PLAN)
    rows = Match.id.in_(change.before["rows"])  # not deleted: minutes may have been written of them since
    context.db.execute(
        update(Match).where(rows).values(dropped=True), execution_options={"synchronize_session": "fetch"}
    )


def put_match(context: WorkContext, season_id: int, facts: MatchFacts, match_id: int | None = None) -> Change:
    """A match as it is said to be now: a new one, or another day, opponent or place of one that is there.

    ImpossibleInput where its day is not in the season.
    """
    require(context.actor, Act.PLAN)
    season = context.db.get_one(Season, season_id)
    span = DaySpan(season.first_week, season.weeks)
    last_day = span.last_week + dt.timedelta(days=6)
    if not span.first_week <= facts.played_on <= last_day:
        raise ImpossibleInput(
            Problem("played_on", "not_in_season", {"first": span.first_week.isoformat(), "last": last_day.isoformat()})
        )
    row = match_of(context, match_id) if match_id is not None else Match(season_id=season_id, dropped=True)
    before = _values(row) if match_id is not None else {"dropped": True}
    for name, value in asdict(facts).items():
        setattr(row, name, value[:WORDS_MOST] if isinstance(value, str) else value)
    row.season_id, row.dropped = season_id, False
    context.db.add(row)
    context.db.flush()
    what = "match_changed" if match_id is not None else "match_added"
    return remember(context, what=what, subject="match", subject_id=row.id, before=before)


def drop_match(context: WorkContext, match_id: int) -> Change:
    """It is not played."""
    require(context.actor, Act.PLAN)
    row = match_of(context, match_id)
    row.dropped = True
    return remember(context, what="match_dropped", subject="match", subject_id=row.id, before={"dropped": False})


def match_of(context: WorkContext, match_id: int) -> Match:
    """A match of the actor's squad that is to be played."""
    row = context.db.get(Match, match_id)
    season = context.db.get(Season, row.season_id) if row else None
    if row is None or row.dropped or season is None or season.squad_id != context.squad_id:
        raise NotThere("match")
    return row


def _values(row: Match) -> dict[str, Any]:
    named = {
        name: getattr(row, name) for name in ("important", "away", "opponent", "competition", "dropped", "season_id")
    }
    return named | {"played_on": row.played_on.isoformat()}


@restores("match")
def restore_match(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: the match as it was said to be before."""
    row = context.db.get_one(Match, change.subject_id)
    was = _values(row)
    for name, value in change.before.items():
        setattr(row, name, dt.date.fromisoformat(value) if name == "played_on" else value)
    context.db.flush()
    return was
