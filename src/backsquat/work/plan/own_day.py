"""A session of one week done by one athlete alone on another day: the floor, cards and what is missed follow at once."""

import datetime as dt
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.season.calendar import monday_of
from backsquat.storage.models import Change, MissedAnswer, OwnDay
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.timed import exercises_in, held_session
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of

Place = tuple[int, int, int]  # session, week, athlete


def move_for(context: WorkContext, place: Place, to: dt.date) -> Change | None:
    """One athlete does a session on another day of its week, also one that has passed without them; None: it is so.

    Refused where they have lifted in it, where the coach has answered for their missing it, on a day that has passed,
    or where nobody does it that week. Back on everybody's day they are with everybody again.
    """
    require(context.actor, Act.PLAN)
    session_id, week, athlete_id = place
    held, block = held_session(context.db, context.squad_id, session_id)
    if not 0 <= week < block.weeks:
        raise NotThere("session")
    athlete, day = athlete_of(context.db, context.squad_id, athlete_id), held.days[week]
    if monday_of(to) != monday_of(day.held_on):
        raise ImpossibleInput(Problem("to", "another_week"))
    if day.left_out:
        raise Refused("session_out")
    if to < context.today:
        raise Refused("day_gone")
    _check_open(context, place)
    row = _row(context.db, place)
    if to == (row.held_on if row else day.held_on):
        return None
    was = _put(context, place, None if to == day.held_on else to)
    facts = {"name": athlete.name, "day": to.weekday(), "week": week + 1}
    before = {"place": list(place), "held_on": was}
    return remember(context, what="own_day_moved", subject="own_day", subject_id=athlete_id, before=before, facts=facts)


def _check_open(context: WorkContext, place: Place) -> None:
    """Nothing was lifted or answered there."""
    session_id, week, athlete_id = place
    held, block = held_session(context.db, context.squad_id, session_id)
    logged = logged_cells(context.db, [exercise.id for exercise in exercises_in(block, held, week)])
    if any((who, when) == (athlete_id, week) for _, who, when in logged):
        raise Refused("session_begun")
    answered = select(MissedAnswer.id).where(
        MissedAnswer.session_id == session_id,
        MissedAnswer.week == week,
        MissedAnswer.athlete_id == athlete_id,
        ~MissedAnswer.taken_back,
    )
    if context.db.scalars(answered).first():
        raise Refused("missed_answered")


def _row(db: Session, place: Place) -> OwnDay | None:
    session_id, week, athlete_id = place
    query = select(OwnDay).where(OwnDay.session_id == session_id, OwnDay.week == week, OwnDay.athlete_id == athlete_id)
    return db.scalars(query).first()


def _put(context: WorkContext, place: Place, to: dt.date | None) -> str:
    """The own day as it is now said to be (None: everybody's); answers with the one before, empty for none."""
    row = _row(context.db, place)
    was = row.held_on.isoformat() if row else ""
    if to is None and row:
        context.db.delete(row)
    elif to and row:
        row.held_on, row.by_id, row.at = to, context.actor.user_id, context.now
    elif to:
        session_id, week, athlete_id = place
        context.db.add(
            OwnDay(
                session_id=session_id,
                week=week,
                athlete_id=athlete_id,
                held_on=to,
                by_id=context.actor.user_id,
                at=context.now,
            )
        )
    context.db.flush()
    return was


@restores("own_day")
def restore_own_day(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo. Refused where they have lifted in it since."""
    place: Place = tuple(change.before["place"])
    _check_open(context, place)
    wanted = change.before["held_on"]
    was = _put(context, place, dt.date.fromisoformat(wanted) if wanted else None)
    return {"place": list(place), "held_on": was}
