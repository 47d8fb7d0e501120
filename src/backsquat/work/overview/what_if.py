"""What if: a week left out, one match more, another progression. Tried on a copy, and taken as it was tried.

An idea is done by the same operations a coach's clicks use, so that what was shown is what is taken. Days count at
once when it is taken, loads are drafts; the coach's own numbers and what was decided after a session stay.
"""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.progression.progressions import of_a_movement
from backsquat.core.season.calendar import WEEK, monday_of
from backsquat.storage.models import Block, Change
from backsquat.work.context import WorkContext
from backsquat.work.journal import last_change, remember, restore_together, restores
from backsquat.work.plan.blocks import ExerciseFacts
from backsquat.work.plan.days import fit_week, leave_out, open_sessions, proposed
from backsquat.work.plan.difference import Replanned
from backsquat.work.plan.drafts import COMPARED
from backsquat.work.plan.exercises import change_exercise, usual_parameters
from backsquat.work.plan.replan import ReplanScope, replanned, take_changes
from backsquat.work.policy import Act, require
from backsquat.work.season.matches import MatchFacts, match_days, put_match
from backsquat.work.sessions.blocks import coming_blocks, exercise_of, left_out
from backsquat.work.squad.context import SquadContext

IDEAS_MOST = 6


@dataclass(frozen=True)
class WithoutWeek:
    """What is left of a week is left out, for everybody."""

    week: dt.date  # a Monday
    moves_on: bool = True  # its work is done a week later; else the plan stands


@dataclass(frozen=True)
class WithMatch:
    """One match more, and the weeks around it fitted."""

    facts: MatchFacts


@dataclass(frozen=True)
class WithProgression:
    """An exercise follows another progression from its next session on."""

    exercise_id: int
    progression: str


Idea = WithoutWeek | WithMatch | WithProgression
Asked = dict[tuple[int, int, int], tuple[Any, ...]]  # (exercise, athlete, week) → what planning again would ask there


def take(context: WorkContext, here: SquadContext, ideas: Sequence[Idea], before: Session) -> Change:
    """Do what is supposed and plan again what follows from it; one undo for all of it.

    Progressions first, so that it is their numbers that matches ease and a week left out moves on. `before` reads things as
    they stand without any idea: what waits to be planned again there goes on waiting.
    ImpossibleInput or Refused where something of it cannot be done: then nothing is.
    """
    require(context.actor, Act.PLAN)
    if not 0 < len(ideas) <= IDEAS_MOST:
        raise Refused("no_idea")
    done: list[int] = []
    progressions = [idea for idea in ideas if isinstance(idea, WithProgression)]
    for idea in progressions:
        done.append(_follow(context, here, idea))
    done += _plan_again(context, here, {idea.exercise_id for idea in progressions}, before)
    for other in sorted((idea for idea in ideas if not isinstance(idea, WithProgression)), key=_order):
        done += _leave_out(context, here, other) if isinstance(other, WithoutWeek) else _play(context, here, other)
    moved = {idea.week for idea in ideas if isinstance(idea, WithoutWeek) and idea.moves_on}
    out = _left_out(context) - _left_out(WorkContext(before, context.actor))
    # Work that moves on is not planned again: the coach has said where it goes.
    done += _plan_again(context, here, {exercise_id for exercise_id, week in out if week not in moved}, before)
    return remember(
        context,
        what="what_if_taken",
        subject="what_if",
        subject_id=here.season_id,
        before={"changes": done},
        facts={"count": len(ideas)},
    )


def _order(idea: WithoutWeek | WithMatch) -> int:
    if isinstance(idea, WithMatch):
        return 0
    return 2 if idea.moves_on else 1


def _left_out(context: WorkContext) -> set[tuple[int, dt.date]]:
    """(exercise, Monday) of what is left out in blocks that are not over."""
    return {
        (exercise.id, block.first_week + week * WEEK)
        for block in coming_blocks(context)
        for exercise in block.exercises
        for week in range(block.weeks)
        if left_out(exercise, week)
    }


def _leave_out(context: WorkContext, here: SquadContext, idea: WithoutWeek) -> list[int]:
    """Every session of the week that is still to come and has not begun."""
    found = []
    for block in coming_blocks(context):
        week = (idea.week - block.first_week).days // 7
        ids = open_sessions(context, block).get(week)
        if ids and (change := leave_out(context, ids, week, moves_on=idea.moves_on)):
            found.append(change.id)
    if not found:
        raise ImpossibleInput(Problem("without", "nothing_left_out"))
    return found


def _play(context: WorkContext, here: SquadContext, idea: WithMatch) -> list[int]:
    """The match, and what it asks of its week and the weeks beside it; what was proposed before stays a proposal."""
    day = idea.facts.played_on
    if day < context.today:
        raise ImpossibleInput(Problem("played_on", "day_over"))
    if any(played_on == day for played_on, _ in match_days(context.db, here.season_id)):
        raise ImpossibleInput(Problem("played_on", "has_match"))
    weeks = [replace(here, week=monday_of(day) + n * WEEK) for n in (-1, 0, 1)]
    before = [proposed(context.db, around) for around in weeks]
    found = [put_match(context, here.season_id, idea.facts).id]
    for around, known in zip(weeks, before, strict=True):
        new = proposed(context.db, around) - known
        if new:
            found.append(fit_week(context, around, new)[0].id)
    return found


def _follow(context: WorkContext, here: SquadContext, idea: WithProgression) -> int:
    exercise, block = exercise_of(context.db, context.squad_id, idea.exercise_id)
    if exercise.removed or exercise.ladder or not of_a_movement(idea.progression):
        raise NotThere("progression")
    if exercise.progression == idea.progression:
        raise ImpossibleInput(Problem("progression", "same_progression"))
    given = usual_parameters(context, block, exercise, idea.progression)
    facts = ExerciseFacts(
        exercise.weekday,
        exercise.movement,
        idea.progression,
        given,
        "",
        exercise.role,
        exercise.superset,
        exercise.variation,
    )
    change_exercise(context, exercise.id, facts)
    return _newest(context, "exercises", block)


def _newest(context: WorkContext, subject: str, block: Block) -> int:
    change = last_change(context.db, context.squad_id, subject, block.id)
    if change is None:
        raise NotThere("change")
    return change.id


def _again(context: WorkContext, here: SquadContext, exercise_ids: set[int]) -> list[tuple[Block, list[Replanned]]]:
    """What planning again would change in blocks that are not over; what was decided stays."""
    scope = ReplanScope(exercise_ids=exercise_ids)
    return [
        (block, [one for one in replanned(context, block, scope) if not one.decided])
        for block in coming_blocks(context)
    ]


def _asked(again: Iterable[tuple[Block, list[Replanned]]]) -> Asked:
    return {_place(one): tuple(getattr(one.draft, name) for name in COMPARED) for _, many in again for one in many}


def _place(one: Replanned) -> tuple[int, int, int]:
    return one.exercise.id, one.draft.athlete_id, one.draft.week


def _plan_again(context: WorkContext, here: SquadContext, exercise_ids: set[int], before: Session) -> list[int]:
    """The rows of these exercises as they follow now, as drafts; what waited to be planned again before goes on waiting."""
    if not exercise_ids:
        return []
    found, waited = [], _asked(_again(WorkContext(before, context.actor), here, exercise_ids))
    for block, many in _again(context, here, exercise_ids):
        asked = _asked([(block, many)])
        rows = {_row(one) for one in many if waited.get(_place(one)) != asked[_place(one)]}
        if rows and take_changes(context, block, [one for one in many if _row(one) in rows]):
            found.append(_newest(context, "cells", block))
    return found


def _row(one: Replanned) -> tuple[int, int]:
    return one.exercise.id, one.draft.athlete_id


@restores("what_if")
def restore_what_if(context: WorkContext, change: Change) -> None:
    """Undo: everything of it."""
    restore_together(context, change)
