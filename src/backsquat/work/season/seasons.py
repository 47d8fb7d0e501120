"""The squad's seasons: one after another, never two at once. Everything of the squad goes on from one to the next."""

import datetime as dt

from sqlalchemy import select

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.season.calendar import DaySpan, monday_of
from backsquat.storage.models import Change, Match, Season, SeasonMark
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.policy import Act, require
from backsquat.work.squad.context import seasons_of
from backsquat.work.squad.first import WEEKS


def begin_season(context: WorkContext, first_on: dt.date, weeks: int) -> Change:
    """One more season from the week of a day on; ImpossibleInput where it runs into another."""
    require(context.actor, Act.PLAN)
    if not WEEKS[0] <= weeks <= WEEKS[1]:
        raise ImpossibleInput(Problem("weeks", "out_of_range", {"low": WEEKS[0], "high": WEEKS[1]}))
    span = DaySpan(monday_of(first_on), weeks)
    for other in seasons_of(context.db, context.squad_id):
        if other.first_week <= span.last_week and span.first_week <= DaySpan(other.first_week, other.weeks).last_week:
            last = DaySpan(other.first_week, other.weeks).last_week + dt.timedelta(days=6)
            facts = {"first": other.first_week.isoformat(), "last": last.isoformat()}
            raise ImpossibleInput(Problem("first_on", "season_taken", facts))
    row = Season(squad_id=context.squad_id, name=str(span.first_week.year), first_week=span.first_week, weeks=weeks)
    context.db.add(row)
    context.db.flush()
    return remember(context, what="season_begun", subject="season", subject_id=row.id, before={})


@restores("season")
def take_back_season(context: WorkContext, change: Change) -> None:
    """Undo: the season is not; Refused where something is in it already."""
    require(context.actor, Act.PLAN)
    for table in (Match, SeasonMark):
        if context.db.scalars(select(table.id).where(table.season_id == change.subject_id).limit(1)).first():
            raise Refused("season_used")
    context.db.delete(context.db.get_one(Season, change.subject_id))
