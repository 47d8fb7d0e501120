"""Time away and the eased return, accepted as the rule proposes it."""

import datetime as dt

from sqlalchemy import Date, func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.ladder import level_beyond
from backsquat.core.movements.movement import BARS
from backsquat.core.progression.cell import State
from backsquat.core.readiness.absence import NEEDS_CLEARANCE, AwayReason, ReEntry, re_entry
from backsquat.core.rules import Rules
from backsquat.storage.models import (
    Absence,
    Cell,
    Change,
    ExerciseWeek,
    OwnDay,
    ReturnWeek,
    ScreenResult,
    SessionDay,
    SetEntry,
)
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.ladders.moves import move_level
from backsquat.work.plan.replan import replan_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_one
from backsquat.work.squad.athletes import athlete_of


def go_away(context: WorkContext, athlete_id: int, first_on: dt.date, why: AwayReason) -> Absence:
    """Record that an athlete is away from a day on. One absence at a time."""
    require(context.actor, Act.TREAT)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    if first_on > context.today:
        raise ImpossibleInput(Problem("first_on", "in_future", {"today": context.today.isoformat()}))
    open_one = context.db.scalars(
        select(Absence.id).where(Absence.athlete_id == athlete.id, Absence.back_on.is_(None), ~Absence.withdrawn)
    ).first()
    if open_one:
        raise Refused("still_away")
    absence = Absence(
        athlete_id=athlete.id,
        first_on=first_on,
        back_on=None,
        why=why.value,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(absence)
    context.db.flush()
    remember(context, what="absence_added", subject="absence", subject_id=absence.id, before={"withdrawn": True})
    return absence


def proposal(
    db: Session, athlete_id: int, first_on: dt.date, why: AwayReason, back_on: dt.date, rules: Rules
) -> ReEntry:
    """What the re-entry rule proposes for coming back on a day, after being away from `first_on` on."""
    missed = missed_sessions(db, athlete_id, first_on, back_on)
    return re_entry((back_on - first_on).days, missed, why, rules)


def come_back(context: WorkContext, absence_id: int, back_on: dt.date, cleared: str) -> tuple[Absence, ReEntry]:
    """Accept the return as the rule proposes it: eased weeks, a level back, and the plan made again as a draft."""
    require(context.actor, Act.TREAT)
    absence = context.db.get(Absence, absence_id)
    if absence is None or absence.withdrawn or absence.back_on:
        raise NotThere("absence")
    athlete = athlete_of(context.db, context.squad_id, absence.athlete_id)
    if back_on < absence.first_on:
        raise ImpossibleInput(Problem("back_on", "back_before", {"first": absence.first_on.isoformat()}))
    if back_on > context.today + dt.timedelta(days=14):
        raise ImpossibleInput(Problem("back_on", "in_future", {"today": context.today.isoformat()}))
    plan = proposal(context.db, athlete.id, absence.first_on, AwayReason(absence.why), back_on, context.rules)
    if AwayReason(absence.why) in NEEDS_CLEARANCE and not cleared.strip():
        raise Refused("not_cleared")
    if plan.screen and not _screened_since(context.db, athlete.id, absence.first_on):
        raise Refused("screen_first", days=(back_on - absence.first_on).days)
    absence.back_on, absence.cleared = back_on, cleared.strip()[:80]
    absence.weeks = return_weeks(plan)
    context.db.flush()
    remember(context, what="returned", subject="return", subject_id=absence.id, before={"back_on": None})
    if plan.stage_back:
        _level_back(context, athlete.id, (back_on - absence.first_on).days)
    replan_athlete(context, athlete.id)
    return absence, plan


def return_weeks(plan: ReEntry) -> list[ReturnWeek]:
    """The eased weeks of a proposal as rows."""
    return [
        ReturnWeek(week=n, load_share=week.load_share, sets_share=week.sets_share) for n, week in enumerate(plan.weeks)
    ]


def _screened_since(db: Session, athlete_id: int, day: dt.date) -> bool:
    row = db.scalars(
        select(ScreenResult.id).where(
            ScreenResult.athlete_id == athlete_id,
            ScreenResult.screen == "standing_squat",
            ScreenResult.done_on > day,
            ~ScreenResult.replaced,
            ScreenResult.value.is_not(None),
        )
    ).first()
    return row is not None


def _level_back(context: WorkContext, athlete_id: int, days: int) -> None:
    """One level back where an athlete works on levels; who lifts a bar has the load eased instead."""
    athlete, library = athlete_of(context.db, context.squad_id, athlete_id), context.library
    ready = readiness_one(context.db, athlete, context.today, context.rules)
    for code, move in ready.levels.items():
        movement = library.movements.get(move.movement)
        if movement is None or movement.implement in BARS:
            continue
        beyond = level_beyond(library.ladders[code], move.level, -1, ready.may_earn)
        if beyond:
            reason = f"away:{days}"
            move_level(context, athlete_id, code, beyond[1][0], way="easier", reason=reason)


def withdraw_absence(context: WorkContext, absence_id: int) -> Change:
    """It was recorded by mistake."""
    require(context.actor, Act.TREAT)
    absence = context.db.get(Absence, absence_id)
    if absence is None or absence.withdrawn:
        raise NotThere("absence")
    athlete_of(context.db, context.squad_id, absence.athlete_id)
    absence.withdrawn = True
    change = remember(
        context, what="absence_withdrawn", subject="absence", subject_id=absence.id, before={"withdrawn": False}
    )
    replan_athlete(context, absence.athlete_id)
    return change


@restores("absence")
def restore_absence(context: WorkContext, change: Change) -> None:
    """Undo: taken back, or standing again; the plan follows."""
    absence = context.db.get_one(Absence, change.subject_id)
    absence.withdrawn = change.before["withdrawn"]
    context.db.flush()
    replan_athlete(context, absence.athlete_id)


@restores("return")
def restore_return(context: WorkContext, change: Change) -> None:
    """Undo: still away; the plan follows."""
    absence = context.db.get_one(Absence, change.subject_id)
    absence.back_on, absence.weeks, absence.cleared = None, [], ""
    context.db.flush()
    replan_athlete(context, absence.athlete_id)


def missed_sessions(db: Session, athlete_id: int, first_on: dt.date, back_on: dt.date) -> int:
    """Published sessions with something to do in the days away for which nothing was logged."""
    logged = select(SetEntry.id).where(SetEntry.cell_id == Cell.id, SetEntry.standing).exists()
    of_athlete = (
        (OwnDay.session_id == ExerciseWeek.session_id)
        & (OwnDay.week == Cell.week)
        & (OwnDay.athlete_id == Cell.athlete_id)
    )
    day = func.coalesce(OwnDay.held_on, SessionDay.held_on, type_=Date)
    rows = db.scalar(
        select(func.count())
        .select_from(Cell)
        .join(ExerciseWeek, (ExerciseWeek.exercise_id == Cell.exercise_id) & (ExerciseWeek.week == Cell.week))
        .join(SessionDay, (SessionDay.session_id == ExerciseWeek.session_id) & (SessionDay.week == Cell.week))
        .outerjoin(OwnDay, of_athlete)
        .where(
            Cell.athlete_id == athlete_id,
            Cell.live,
            ~logged,
            Cell.state.in_([State.LOAD, State.LEVEL, State.UNDER_BAR]),
            ~SessionDay.left_out,
            day >= first_on,
            day < back_on,
        )
    )
    return rows or 0
