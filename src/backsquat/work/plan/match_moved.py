"""A match on another day, or not played: the weeks it touches follow, the one it left as the one it came to.

What a week had been fitted to for it is taken back as far as it still stands so; what its new day asks for is done, lighter
loads as a draft. What waited to be taken before goes on waiting: the coach has not said yes to that. One undo for all.
"""

import datetime as dt
from collections.abc import Collection
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from backsquat.core.season.calendar import WEEK, monday_of
from backsquat.core.season.week import NOTHING_MARKED, DayLeaves, day_leaves, tapers_for
from backsquat.storage.models import Change
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restore_together, restores
from backsquat.work.plan.days import LESS, fit_week, proposed, unfit_week
from backsquat.work.policy import Act, require
from backsquat.work.season.matches import MatchFacts, drop_match, fixtures_around, match_of, put_match
from backsquat.work.squad.context import SquadContext

Asked = tuple[list[DayLeaves], list[dt.date | None], int]  # what a week's matches ask of its days; how many there are


@dataclass(frozen=True)
class MatchMoved:
    """What was done: the one change to undo, and what followed from it."""

    change: Change
    returned: bool = False  # something had been fitted around its old day, and is as before that again
    back: int = 0  # loads of it that are heavier again
    sessions: int = 0  # on another day, or left out
    lighter: int = 0  # sessions


def move_match(context: WorkContext, here: SquadContext, match_id: int, facts: MatchFacts | None) -> MatchMoved:
    """The match as it is said to be now (None: not played); on another day every week it touches is fitted again.

    What else is said of it, that it counts or is away, only proposes, as a match that is new does.
    """
    require(context.actor, Act.PLAN)
    old_day = match_of(context, match_id).played_on
    if facts and facts.played_on == old_day:
        return MatchMoved(put_match(context, here.season_id, facts, match_id))
    mondays = _around([old_day, facts.played_on] if facts else [old_day])
    weeks = [replace(here, week=monday) for monday in mondays if monday >= monday_of(here.today)]
    waiting = {around.week: proposed(context.db, around) for around in weeks}
    asked = {around.week: _asked(context.db, around) for around in weeks}
    moved = put_match(context, here.season_id, facts, match_id) if facts else drop_match(context, match_id)
    done, returned, back, fitted = [moved.id], False, 0, list[str]()
    for around in weeks:
        if _asked(context.db, around) == asked[around.week]:
            continue
        unfitted, loads = unfit_week(context, around)
        if unfitted:
            done.append(unfitted.id)
            returned, back = True, back + loads
        if new := proposed(context.db, around) - waiting[around.week]:
            done.append(fit_week(context, around, new)[0].id)
            fitted += [act for _, act in new]
    if len(done) == 1:
        return MatchMoved(moved)
    what = "match_followed"
    change = remember(context, what=what, subject=what, subject_id=match_id, before={"changes": done})
    lighter = sum(act in LESS for act in fitted)
    return MatchMoved(change, returned, back, len(fitted) - lighter, lighter)


def _around(days: Collection[dt.date]) -> list[dt.date]:
    """The Mondays of the weeks of these days and of those beside them: a match is felt across a Sunday, a taper longer."""
    return sorted({monday_of(day) + n * WEEK for day in days for n in (-2, -1, 0, 1)})


def _asked(db: Session, around: SquadContext) -> Asked:
    fixtures, week = fixtures_around(db, around.squad.id, around.week), around.week
    days = [week + dt.timedelta(days=n) for n in range(7)]
    leave = [day_leaves(day, fixtures, NOTHING_MARKED, around.rules) for day in days]
    played = sum(week <= one.on < week + WEEK for one in fixtures)
    return leave, [tapers_for(day, fixtures, around.rules) for day in days], played


@restores("match_followed")
def restore_match_followed(context: WorkContext, change: Change) -> None:
    """Undo: the match where it was, and its weeks as they were."""
    restore_together(context, change)
