"""Phases, holidays, trips, camps and days of tests: stretches of a season that are one thing."""

import datetime as dt
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.season.calendar import DaySpan
from backsquat.core.season.week import Marked
from backsquat.storage.models import Change, Season, SeasonMark
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.policy import Act, require

WORDS_MOST = 60


class MarkKind(StrEnum):
    """What a stretch of a season is."""

    BASE = "base"
    STRENGTH = "strength"
    POWER = "power"
    IN_SEASON = "in_season"
    REST = "rest"
    HOLIDAY = "holiday"
    TRIP = "trip"
    CAMP = "camp"
    TESTS = "tests"


PHASES = (MarkKind.BASE, MarkKind.STRENGTH, MarkKind.POWER, MarkKind.IN_SEASON, MarkKind.REST)
DAYS_OFF = (MarkKind.HOLIDAY, MarkKind.TRIP)  # nobody trains at home then


@dataclass(frozen=True)
class MarkFacts:
    """What is said of a stretch; `weekdays` of a phase: when the squad trains, 0 is Monday."""

    kind: MarkKind
    first_on: dt.date
    last_on: dt.date
    words: str = ""
    weekdays: tuple[int, ...] = ()


def marks_of(db: Session, season_id: int) -> list[SeasonMark]:
    """The stretches of a season by their first day."""
    query = select(SeasonMark).where(SeasonMark.season_id == season_id, ~SeasonMark.dropped)
    return list(db.scalars(query.order_by(SeasonMark.first_on, SeasonMark.id)))


def marked_days(marks: Sequence[SeasonMark], week: dt.date) -> Marked:
    """What the days of a week are marked as, and the days of tests of the week after it."""

    def days(kinds: Collection[MarkKind], many: int = 7) -> frozenset[dt.date]:
        mine = [mark for mark in marks if MarkKind(mark.kind) in kinds]
        each = (week + dt.timedelta(days=n) for n in range(many))
        return frozenset(day for day in each if any(mark.first_on <= day <= mark.last_on for mark in mine))

    return Marked(days(DAYS_OFF), days((MarkKind.CAMP,)), days((MarkKind.TESTS,), 14))


def training_days(marks: Iterable[SeasonMark], week: dt.date) -> tuple[int, ...]:
    """The weekdays of the phase a week is in; none where nobody has said."""
    here = [mark for mark in marks if MarkKind(mark.kind) in PHASES and mark.first_on <= week + dt.timedelta(days=6)]
    phase = next((mark for mark in reversed(here) if mark.last_on >= week), None)
    return tuple(phase.weekdays) if phase else ()


def add_mark(context: WorkContext, season_id: int, facts: MarkFacts) -> Change:
    """ImpossibleInput where it is no stretch of the season, or a phase on days that have one."""
    require(context.actor, Act.PLAN)
    season = context.db.get_one(Season, season_id)
    _check(season, facts, marks_of(context.db, season_id))
    row = SeasonMark(
        season_id=season_id,
        kind=facts.kind.value,
        first_on=facts.first_on,
        last_on=facts.last_on,
        words=facts.words[:WORDS_MOST],
        weekdays=sorted(facts.weekdays),
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(row)
    context.db.flush()
    return remember(context, what="mark_added", subject="mark", subject_id=row.id, before={"dropped": True})


def _check(season: Season, facts: MarkFacts, here: Sequence[SeasonMark]) -> None:
    """ImpossibleInput where a stretch cannot be."""
    span = DaySpan(season.first_week, season.weeks)
    last_day = span.last_week + dt.timedelta(days=6)
    if facts.last_on < facts.first_on:
        raise ImpossibleInput(Problem("last_on", "before_first"))
    for name, day in (("first_on", facts.first_on), ("last_on", facts.last_on)):
        if not span.first_week <= day <= last_day:
            raise ImpossibleInput(
                Problem(name, "not_in_season", {"first": span.first_week.isoformat(), "last": last_day.isoformat()})
            )
    taken = _beside(facts.kind, facts.first_on, facts.last_on, here)
    if taken:
        about = {"first": taken.first_on.isoformat(), "last": taken.last_on.isoformat()}
        raise ImpossibleInput(Problem("first_on", "phase_taken", about))


def _beside(kind: MarkKind, first_on: dt.date, last_on: dt.date, here: Sequence[SeasonMark]) -> SeasonMark | None:
    """The phase that is on some of these days already; of what is no phase there may be several at once."""
    phases = [mark for mark in here if MarkKind(mark.kind) in PHASES] if kind in PHASES else []
    return next((mark for mark in phases if mark.first_on <= last_on and first_on <= mark.last_on), None)


def drop_mark(context: WorkContext, mark_id: int) -> Change:
    """It is not so after all."""
    require(context.actor, Act.PLAN)
    row = context.db.get(SeasonMark, mark_id)
    season = context.db.get(Season, row.season_id) if row else None
    if row is None or row.dropped or season is None or season.squad_id != context.squad_id:
        raise NotThere("mark")
    row.dropped = True
    return remember(context, what="mark_dropped", subject="mark", subject_id=row.id, before={"dropped": False})


@restores("mark")
def restore_mark(context: WorkContext, change: Change) -> dict[str, bool]:
    """Undo, and redo. Refused where another phase has been put on its days since."""
    row = context.db.get_one(SeasonMark, change.subject_id)
    was = {"dropped": row.dropped}
    if was["dropped"] and _beside(MarkKind(row.kind), row.first_on, row.last_on, marks_of(context.db, row.season_id)):
        raise Refused("phase_there")
    row.dropped = change.before["dropped"]
    context.db.flush()
    return was
