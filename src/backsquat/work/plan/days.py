"""The days of a block's sessions in one week: moved, left out, held after all, and fitted around the week's matches.

A day is where everything asks for it (`SessionDay`), so floor, cards, calendar and missed sessions follow at once; loads
that are lightened or belong to another room by then are drafts. A day on which somebody has lifted stays.
"""

import datetime as dt
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.progression.cell import LIFTED
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.rules import Rules
from backsquat.core.season import week as match_week
from backsquat.core.season.calendar import monday_of
from backsquat.core.season.week import DayLeaves, DayProposal, HeldSession, day_leaves, propose
from backsquat.storage.models import Block, BlockSession, Cell, Change, SessionDay
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.cells import bring_back, place_drafts
from backsquat.work.plan.ease import before_easing, eased_drafts
from backsquat.work.plan.missed import put_off
from backsquat.work.plan.room_assignments import follow_rooms
from backsquat.work.plan.timed import exercises_in, held_session
from backsquat.work.policy import Act, require
from backsquat.work.season.marks import marked_days, marks_of, training_days
from backsquat.work.season.matches import fixtures_around
from backsquat.work.sessions.blocks import block_in_week, squad_blocks
from backsquat.work.squad.context import SquadContext

LESS = {  # what is proposed with fewer sets → what the working says of it, and whether the load stays
    match_week.DayAct.LIGHTEN: ("match", False),
    match_week.DayAct.TAPER: ("taper", True),
}


@dataclass(frozen=True)
class WeekSession:
    """A session of the week as it stands: its work in order, how much of it there is, and whether it has begun."""

    held: BlockSession
    day: SessionDay
    movements: tuple[str, ...]
    sets: float  # work sets of one athlete, on average
    share: float  # of the planning max, on average of what has a load; 0: nothing has
    begun: bool
    light: bool  # what is left of it is easy already


@dataclass(frozen=True)
class WeekAround:
    """A week with its days and sessions, and what would fit it around its matches."""

    block: Block | None
    week: int  # of the block, from 0
    days: list[DayLeaves]
    sessions: list[WeekSession]
    proposals: list[DayProposal]


def week_around(db: Session, here: SquadContext) -> WeekAround:
    """The chosen week; a fixed number of queries."""
    marks = marks_of(db, here.season_id)
    fixtures, marked = fixtures_around(db, here.squad.id, here.week), marked_days(marks, here.week)
    days = [day_leaves(here.week + dt.timedelta(days=n), fixtures, marked, here.rules) for n in range(7)]
    block = block_in_week(squad_blocks(db, here.squad.id), here.week)
    if block is None:
        return WeekAround(None, 0, days, [], [])
    week = (here.week - block.first_week).days // 7
    sessions = _sessions(db, block, week)
    proposals = propose(
        here.week,
        [_held(one, here.today, here.rules) for one in sessions],
        fixtures,
        here.rules,
        marked=marked,
        weekdays=training_days(marks, here.week),
        today=here.today,
    )
    return WeekAround(block, week, days, sessions, proposals)


def _sessions(db: Session, block: Block, week: int) -> list[WeekSession]:
    in_use = {exercise.id: exercise for exercise in block.exercises}
    asked = db.execute(
        select(
            Cell.exercise_id,
            func.avg(Cell.sets),
            func.avg(Cell.load_kg / Cell.planning_max_kg),
            func.sum(Cell.kind == ExposureKind.WORK),
        )
        .where(Cell.exercise_id.in_(list(in_use)), Cell.week == week, Cell.current, Cell.state.in_(LIFTED))
        .group_by(Cell.exercise_id)
    )
    work = {exercise_id: (sets or 0.0, of_max, bool(hard)) for exercise_id, sets, of_max, hard in asked}
    logged = {exercise_id for exercise_id, _, logged_week in logged_cells(db, list(in_use)) if logged_week == week}
    found = []
    for held in block.sessions:
        exercises = exercises_in(block, held, week)
        if not exercises:
            continue
        mine = [work[exercise.id] for exercise in exercises if exercise.id in work]
        shares = [of_max for _, of_max, _ in mine if of_max]
        found.append(
            WeekSession(
                held,
                held.days[week],
                tuple(exercise.ladder or exercise.movement for exercise in exercises),
                sum(sets for sets, _, _ in mine),
                sum(shares) / len(shares) if shares else 0.0,
                begun=any(exercise.id in logged for exercise in exercises),
                light=bool(mine) and not any(hard for _, _, hard in mine),
            )
        )
    return sorted(found, key=lambda one: (one.day.held_on, one.held.position, one.held.id))


def _held(one: WeekSession, today: dt.date, rules: Rules) -> HeldSession:
    fixed = one.begun or one.day.kept or one.day.held_on < today
    weight = one.sets * (one.share or rules.unloaded_relative)
    return HeldSession(one.held.id, one.day.held_on, weight, fixed, one.light, one.day.left_out)


def proposed(db: Session, here: SquadContext) -> set[tuple[int, str]]:
    """What is proposed for the week now, as (session, act)."""
    return {(one.key, str(one.act)) for one in week_around(db, here).proposals}


def fit_week(
    context: WorkContext, here: SquadContext, wanted: Collection[tuple[int, str]] | None = None
) -> tuple[Change, int]:
    """Take what fits the week around its matches, or of it only the (session, act) wanted; one undo, and how many.

    Worked out again: what is no longer proposed is not done. Refused where nothing is.
    """
    require(context.actor, Act.PLAN)
    around = week_around(context.db, here)
    taken = [one for one in around.proposals if wanted is None or (one.key, str(one.act)) in wanted]
    if around.block is None or not taken:
        raise Refused("no_fit")
    before: dict[str, Any] = {"days": {}, "cells": []}
    for one in taken:
        if one.act in LESS:
            continue
        day = _day(context, one.key, around.week)
        before["days"].setdefault(str(day.id), _as_it_was(day))
        if one.act is match_week.DayAct.MOVE and one.to:
            day.held_on = one.to.day
        elif one.act is match_week.DayAct.LEAVE_OUT:
            day.left_out = True
    context.db.flush()
    before["cells"] += follow_rooms(context).get(around.block.id, [])
    for act, (flag, keep_load) in LESS.items():
        held = {one.key for one in taken if one.act is act}
        exercises = [exercise.id for exercise in around.block.exercises if exercise.session_in(around.week).id in held]
        if exercises:
            drafts = eased_drafts(
                context, around.block, around.week, exercise_ids=exercises, flags=(flag,), keep_load=keep_load
            )
            before["cells"] += place_drafts(context, drafts).replaced
    return _remember(context, around.block, "week_fitted", before, around.week), len(taken)


def unfit_week(context: WorkContext, here: SquadContext) -> tuple[Change | None, int]:
    """Take back what the week was fitted to before, as far as it is still as that left it; how many loads come back.

    What the coach has said of a day since stays, and so does the lighter load of a row that was planned or decided on
    since: the number of before would know nothing of it.
    """
    require(context.actor, Act.PLAN)
    block = block_in_week(squad_blocks(context.db, here.squad.id), here.week)
    if block is None:
        return None, 0
    week = (here.week - block.first_week).days // 7
    said: set[str] = set()  # days something newer was said of
    before: dict[str, Any] = {"days": {}, "cells": []}
    back: list[int] = []
    for change in _days_changed(context, block):
        fitted = change.what == "week_fitted" and change.facts.get("week") == week + 1
        for key, values in change.before["days"].items():
            day = context.db.get_one(SessionDay, int(key))
            if fitted and key not in said and _may_change(context, day):
                before["days"][key] = _as_it_was(day)
                _put(day, values)
            said.add(key)
        back += before_easing(context.db, change.before["cells"]) if fitted else []
    context.db.flush()
    before["cells"] += bring_back(context, block.id, back).replaced
    loads = len(before["cells"])
    before["cells"] += follow_rooms(context).get(block.id, []) if before["days"] else []
    if not before["days"] and not loads:
        return None, 0
    return _remember(context, block, "week_unfitted", before, week), loads


def _days_changed(context: WorkContext, block: Block) -> list[Change]:
    """What was done to the days of a block and stands, the newest first."""
    query = select(Change).where(
        Change.squad_id == context.squad_id, Change.subject == "days", Change.subject_id == block.id, ~Change.undone
    )
    return list(context.db.scalars(query.order_by(Change.id.desc())))


def _may_change(context: WorkContext, day: SessionDay) -> bool:
    try:
        return _day(context, day.session_id, day.week) is day
    except Refused:
        return False


def move_session(context: WorkContext, session_id: int, week: int, to: dt.date) -> Change | None:
    """Hold a session on another day of its week, for everybody; None where it is on that day already.

    Refused where somebody has lifted in it, or one of the days has passed; ImpossibleInput outside the week.
    """
    require(context.actor, Act.PLAN)
    day = _day(context, session_id, week)
    if day.held_on == to:
        return None
    if monday_of(to) != monday_of(day.held_on):
        raise ImpossibleInput(Problem("to", "another_week"))
    if to < context.today:
        raise Refused("day_gone")
    block = held_session(context.db, context.squad_id, session_id)[1]
    before: dict[str, Any] = {"days": {str(day.id): _as_it_was(day)}, "cells": []}
    day.held_on, day.kept = to, True
    context.db.flush()
    before["cells"] += follow_rooms(context).get(block.id, [])
    return _remember(context, block, "session_day_moved", before, week, day)


def open_sessions(context: WorkContext, block: Block) -> dict[int, list[int]]:
    """By week of the block, its sessions that can still be left out: not out yet, not passed, nobody has lifted in them."""
    lifted = {
        (exercise_id, week)
        for exercise_id, _, week in logged_cells(context.db, [exercise.id for exercise in block.exercises])
    }
    found: dict[int, list[int]] = {}
    for week in range(block.weeks):
        for held in block.sessions:
            exercises = exercises_in(block, held, week)
            begun = any((exercise.id, week) in lifted for exercise in exercises)
            if exercises and held.day_in(week) >= context.today and not held.left_out_of(week) and not begun:
                found.setdefault(week, []).append(held.id)
    return found


def leave_out(context: WorkContext, sessions: Collection[int], week: int, *, moves_on: bool = False) -> Change | None:
    """Leave sessions of one block out of one week; `moves_on`: their work is done next time instead, as drafts.

    One undo for all of them; None where they are out already. Refused where somebody has lifted in one, or it has passed.
    """
    require(context.actor, Act.PLAN)
    days = [_day(context, session_id, week) for session_id in sessions]
    if not days:
        raise Refused("no_fit")
    block = held_session(context.db, context.squad_id, days[0].session_id)[1]
    exercises = {exercise.id for exercise in block.exercises if exercise.session_in(week).id in set(sessions)}
    if all(day.left_out and day.kept for day in days) and not (
        moves_on and not _has_moved_on(context.db, exercises, week)
    ):
        return None
    before: dict[str, Any] = {"days": {str(day.id): _as_it_was(day) for day in days}, "cells": []}
    for day in days:
        day.left_out = day.kept = True
    context.db.flush()
    if moves_on and exercises:
        before["cells"] += place_drafts(context, put_off(context, block, exercises, week)).replaced
    one = days[0] if len(days) == 1 else None
    what = "session_left_out" if one else "sessions_left_out"
    return _remember(context, block, what, before, week, one, {"count": len(days)})


def _has_moved_on(db: Session, exercises: Collection[int], week: int) -> bool:
    """Whether the work of these exercises in a week stands in a later one already: it is not done twice."""
    mine = select(Cell.id).where(Cell.exercise_id.in_(exercises), Cell.week == week)
    return bool(db.scalar(select(Cell.id).where(Cell.current, Cell.decided_on_id.in_(mine)).limit(1)))


def hold_session(context: WorkContext, session_id: int, week: int, *, kept: bool) -> Change | None:
    """Hold a session of one week as it is, by the coach's word; None where it is so already.

    Not `kept`: nobody has said that it stays, and it is proposed about again.
    """
    require(context.actor, Act.PLAN)
    day = _day(context, session_id, week)
    if (day.left_out, day.kept) == (False, kept):
        return None
    block = held_session(context.db, context.squad_id, session_id)[1]
    before = {"days": {str(day.id): _as_it_was(day)}, "cells": []}
    day.left_out, day.kept = False, kept
    context.db.flush()
    return _remember(context, block, "session_kept", before, week, day)


def _day(context: WorkContext, session_id: int, week: int) -> SessionDay:
    """The day of a session that can still be changed. Refused where somebody has lifted in it, or it has passed."""
    held, block = held_session(context.db, context.squad_id, session_id)
    if not 0 <= week < block.weeks:
        raise NotThere("session")
    day = held.days[week]
    begun = logged_cells(context.db, [exercise.id for exercise in exercises_in(block, held, week)])
    if any(logged_week == week for _, _, logged_week in begun):
        raise Refused("session_begun")
    if day.held_on < context.today:
        raise Refused("day_gone")
    return day


def _as_it_was(day: SessionDay) -> dict[str, Any]:
    return {"held_on": day.held_on.isoformat(), "left_out": day.left_out, "kept": day.kept}


def _put(day: SessionDay, values: Mapping[str, Any]) -> None:
    day.held_on = dt.date.fromisoformat(values["held_on"])
    day.left_out, day.kept = values["left_out"], values["kept"]


def _remember(
    context: WorkContext,
    block: Block,
    what: str,
    before: dict[str, Any],
    week: int,
    day: SessionDay | None = None,
    facts: Mapping[str, Any] | None = None,
) -> Change:
    facts = {"week": week + 1, **(facts or {})}
    if day is not None:
        facts["day"] = day.held_on.weekday()
    return remember(context, what=what, subject="days", subject_id=block.id, before=before, facts=facts)


@restores("days")
def restore_days(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: the days as they were, then the loads that were there; answers with what stood in their place.

    A session in which somebody has lifted since stays where it was lifted.
    """
    days = [context.db.get_one(SessionDay, int(key)) for key in change.before["days"]]
    for day in days:
        _day(context, day.session_id, day.week)
    was: dict[str, Any] = {"days": {str(day.id): _as_it_was(day) for day in days}}
    for day in days:
        _put(day, change.before["days"][str(day.id)])
    context.db.flush()
    was["cells"] = bring_back(context, change.subject_id, change.before["cells"]).replaced
    return was
