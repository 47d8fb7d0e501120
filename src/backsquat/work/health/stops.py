"""Clearances: a stop ends by the word of somebody qualified, recorded with name, role, day and limits."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.progression.decision import Code
from backsquat.core.readiness.absence import AwayReason, ReEntry, re_entry
from backsquat.core.readiness.limits import ActiveLimit as LimitFacts
from backsquat.storage.models import Absence, Change, DecisionRow, Stop
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.health.absences import missed_sessions, return_weeks
from backsquat.work.health.limits import add_limit
from backsquat.work.journal import remember
from backsquat.work.plan.replan import replan_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import core_stop
from backsquat.work.squad.athletes import athlete_of


@dataclass(frozen=True)
class Clearance:
    """Who opened a stopped movement again, in which role, when, and within which limits."""

    by: str
    role: str
    on: dt.date
    limits: str


def record_clearance(context: WorkContext, stop_id: int, clearance: Clearance) -> Stop:
    """Write down who opened a stopped movement again; nobody here clears anybody."""
    require(context.actor, Act.TREAT)
    stop = context.db.get(Stop, stop_id)
    if stop is None or stop.withdrawn or stop.cleared_on:
        raise NotThere("stop")
    athlete_of(context.db, context.squad_id, stop.athlete_id)
    if clearance.on < stop.at.date():
        raise ImpossibleInput(Problem("on", "clear_before_stop", {"stopped": stop.at.date().isoformat()}))
    stop.cleared_on, stop.cleared_by, stop.cleared_role = clearance.on, clearance.by, clearance.role
    stop.cleared_limits, stop.cleared_recorded_by_id = clearance.limits, context.actor.user_id
    note(
        context.db,
        context.actor,
        "cleared",
        athlete=stop.athlete_id,
        stop=stop.id,
        by=clearance.by,
        role=clearance.role,
    )
    return stop


def clear_stop(
    context: WorkContext, stop_id: int, clearance: Clearance, limit: LimitFacts | None
) -> tuple[Stop, ReEntry]:
    """A clearance ends a stop; the return is eased by the days it lasted, one week at the least, within its limit."""
    stop = record_clearance(context, stop_id, clearance)
    stopped_on = stop.at.date()
    days = max((clearance.on - stopped_on).days, context.rules.absence_short_days)
    missed = missed_sessions(context.db, stop.athlete_id, stopped_on, clearance.on)
    plan = re_entry(days, missed, AwayReason.PAIN, context.rules)
    context.db.add(
        Absence(
            athlete_id=stop.athlete_id,
            first_on=stopped_on,
            back_on=clearance.on,
            why=AwayReason.PAIN.value,
            cleared=f"{clearance.by}, {clearance.role}",
            movement=stop.movement,
            region=stop.region,
            weeks=return_weeks(plan),
            by_id=context.actor.user_id,
            at=context.now,
        )
    )
    context.db.flush()
    if limit:
        add_limit(context, stop.athlete_id, limit, stop.id)
    _settle(context.db, stop)
    library, was = context.library, core_stop(stop)
    replan_athlete(context, stop.athlete_id, lambda movement: was.locks(movement, library))
    return stop, plan


def _settle(db: Session, stop: Stop) -> None:
    """What Review asked because of the stop is answered by the clearance."""
    mine = (DecisionRow.athlete_id == stop.athlete_id, DecisionRow.code == Code.STOP, ~DecisionRow.settled)
    for row in db.scalars(select(DecisionRow).where(*mine, DecisionRow.movement == stop.movement)):
        row.settled = True
    db.flush()


def set_pain_line(context: WorkContext, athlete_id: int, level: int | None, by: str) -> Change:
    """Another pain line for one athlete, on the word of a physio or doctor; None gives the squad's back."""
    require(context.actor, Act.TREAT)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    found = []
    if level is not None and not 1 <= level <= 10:
        found.append(Problem("pain_line", "out_of_range", {"low": 1, "high": 10}))
    if level is not None and not by.strip():
        found.append(Problem("pain_line", "line_by"))
    if found:
        raise ImpossibleInput(*found)
    before = {"pain_line": athlete.pain_line, "pain_line_by": athlete.pain_line_by}
    athlete.pain_line, athlete.pain_line_by = level, by.strip()[:80] if level is not None else ""
    context.db.flush()
    return remember(context, what="pain_line_set", subject="athlete", subject_id=athlete.id, before=before)
