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
from backsquat.work.actor import Actor
from backsquat.work.journal import remember, restores
from backsquat.work.ladders.moves import move_level
from backsquat.work.library.movements import library_of
from backsquat.work.plan.replan import replan_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_one
from backsquat.work.squad.athletes import athlete_of
from backsquat.work.squad.context import rules_of


def go_away(db: Session, actor: Actor, athlete_id: int, first_on: dt.date, why: AwayReason) -> Absence:
    """Record that an athlete is away from a day on. One absence at a time."""
    require(actor, Act.TREAT)
    athlete = athlete_of(db, actor.squad_id, athlete_id)
    if first_on > actor.today:
        raise ImpossibleInput(Problem("first_on", "in_future", {"today": actor.today.isoformat()}))
    open_one = db.scalars(
        select(Absence.id).where(Absence.athlete_id == athlete.id, Absence.back_on.is_(None), ~Absence.withdrawn)
    ).first()
    if open_one:
        raise Refused("still_away")
    absence = Absence(
        athlete_id=athlete.id, first_on=first_on, back_on=None, why=why.value, by_id=actor.user_id, at=actor.now
    )
    db.add(absence)
    db.flush()
    remember(db, actor, what="absence_added", subject="absence", subject_id=absence.id, before={"withdrawn": True})
    return absence


def proposal(
    db: Session, athlete_id: int, first_on: dt.date, why: AwayReason, back_on: dt.date, rules: Rules
) -> ReEntry:
    """What the re-entry rule proposes for coming back on a day, after being away from `first_on` on."""
    missed = missed_sessions(db, athlete_id, first_on, back_on)
    return re_entry((back_on - first_on).days, missed, why, rules)


def come_back(
    db: Session, actor: Actor, absence_id: int, back_on: dt.date, cleared: str, rules: Rules
) -> tuple[Absence, ReEntry]:
    """Accept the return as the rule proposes it: eased weeks, a level back, and the plan made again as a draft."""
    require(actor, Act.TREAT)
    absence = db.get(Absence, absence_id)
    if absence is None or absence.withdrawn or absence.back_on:
        raise NotThere("absence")
    athlete = athlete_of(db, actor.squad_id, absence.athlete_id)
    if back_on < absence.first_on:
        raise ImpossibleInput(Problem("back_on", "back_before", {"first": absence.first_on.isoformat()}))
    if back_on > actor.today + dt.timedelta(days=14):
        raise ImpossibleInput(Problem("back_on", "in_future", {"today": actor.today.isoformat()}))
    plan = proposal(db, athlete.id, absence.first_on, AwayReason(absence.why), back_on, rules)
    if AwayReason(absence.why) in NEEDS_CLEARANCE and not cleared.strip():
        raise Refused("not_cleared")
    if plan.screen and not _screened_since(db, athlete.id, absence.first_on):
        raise Refused("screen_first", days=(back_on - absence.first_on).days)
    absence.back_on, absence.cleared = back_on, cleared.strip()[:80]
    absence.weeks = return_weeks(plan)
    db.flush()
    remember(db, actor, what="returned", subject="return", subject_id=absence.id, before={"back_on": None})
    if plan.stage_back:
        _level_back(db, actor, athlete.id, (back_on - absence.first_on).days, rules)
    replan_athlete(db, actor, athlete.id, rules)
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


def _level_back(db: Session, actor: Actor, athlete_id: int, days: int, rules: Rules) -> None:
    """One level back where an athlete works on levels; who lifts a bar has the load eased instead."""
    athlete, library = athlete_of(db, actor.squad_id, athlete_id), library_of(db, actor.squad_id)
    ready = readiness_one(db, athlete, actor.today, rules)
    for code, move in ready.levels.items():
        movement = library.movements.get(move.movement)
        if movement is None or movement.implement in BARS:
            continue
        beyond = level_beyond(library.ladders[code], move.level, -1, ready.may_earn)
        if beyond:
            reason = f"away:{days}"
            move_level(db, actor, athlete_id, code, beyond[1][0], rules, way="easier", reason=reason)


def withdraw_absence(db: Session, actor: Actor, absence_id: int, rules: Rules) -> Change:
    """It was recorded by mistake."""
    require(actor, Act.TREAT)
    absence = db.get(Absence, absence_id)
    if absence is None or absence.withdrawn:
        raise NotThere("absence")
    athlete_of(db, actor.squad_id, absence.athlete_id)
    absence.withdrawn = True
    change = remember(
        db, actor, what="absence_withdrawn", subject="absence", subject_id=absence.id, before={"withdrawn": False}
    )
    replan_athlete(db, actor, absence.athlete_id, rules)
    return change


@restores("absence")
def restore_absence(db: Session, actor: Actor, change: Change) -> None:
    """Undo: taken back, or standing again; the plan follows."""
    absence = db.get_one(Absence, change.subject_id)
    absence.withdrawn = change.before["withdrawn"]
    db.flush()
    replan_athlete(db, actor, absence.athlete_id, rules_of(db, actor.squad_id))


@restores("return")
def restore_return(db: Session, actor: Actor, change: Change) -> None:
    """Undo: still away; the plan follows."""
    absence = db.get_one(Absence, change.subject_id)
    absence.back_on, absence.weeks, absence.cleared = None, [], ""
    db.flush()
    replan_athlete(db, actor, absence.athlete_id, rules_of(db, actor.squad_id))


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
