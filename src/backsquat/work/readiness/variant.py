"""Which variant for this athlete: the facts the ranking needs, gathered from screens, levels, limits and room."""

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.movements.choice import ChoiceGoal, Ranked, Situation, rank
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.cell import LIFTED
from backsquat.core.readiness.levels import placements
from backsquat.core.readiness.screens import short_ankles
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.core.rules import Rules
from backsquat.storage.models import Cell, Exercise, ExerciseWeek, HealthNote, SessionDay, Stop

LOWER_BACK = "lower back"


@dataclass(frozen=True)
class VariantQuestion:
    """What the coach asks for: a family, a goal, a progression."""

    family: Family
    goal: ChoiceGoal
    upright_first: bool


def back_history(db: Session, athlete_id: int) -> bool:
    """Whether a stop or a health note names the lower back. Only yes or no leaves here."""
    stop = select(Stop.id).where(Stop.athlete_id == athlete_id, Stop.region == LOWER_BACK, ~Stop.withdrawn)
    note = select(HealthNote.id).where(
        HealthNote.athlete_id == athlete_id, HealthNote.region == LOWER_BACK, ~HealthNote.ended
    )
    return db.scalars(stop).first() is not None or db.scalars(note).first() is not None


def blocked(ready: Readiness, movement: Movement) -> tuple[str, ...]:
    """Codes of what stands between an athlete and a movement, besides equipment and being away today."""
    reasons = ready.judge(movement).but(Reason.AWAY).reasons
    return (*(reason.value for reason in reasons), *(("retired",) if movement.retired else ()))


def situation(db: Session, ready: Readiness, asked: VariantQuestion, rules: Rules) -> Situation:
    """What the ranking must know of an athlete."""
    angles = [r.value for code in ("trunk_landing", "trunk_pickup") if (r := ready.known.get((code, "")))]
    return Situation(
        goal=asked.goal,
        rules=rules,
        upright_first=asked.upright_first,
        back_history=back_history(db, ready.person.id),
        trunk_deg=max(angles) if angles else None,
        ankles_short=bool(short_ankles(ready.known, rules)),
        newcomer=ready.person.newcomer,
        level_steps=_level_steps(ready),
        lacking=ready.lacking,
        blocked=partial(blocked, ready),
        hinge_sets=_hinge_sets(db, ready) if asked.family is Family.CURL else 0,
    )


def _hinge_sets(db: Session, ready: Readiness) -> int:
    """Sets of hinges on the floor's plan for the athlete in the week of today."""
    monday = ready.today - dt.timedelta(days=ready.today.weekday())
    hinges = [code for code, movement in ready.library.movements.items() if movement.family is Family.HINGE]
    done = func.coalesce(func.nullif(Cell.movement, ""), Exercise.movement)
    return (
        db.scalar(
            select(func.coalesce(func.sum(Cell.sets), 0))
            .join(Exercise, Cell.exercise_id == Exercise.id)
            .join(ExerciseWeek, (ExerciseWeek.exercise_id == Cell.exercise_id) & (ExerciseWeek.week == Cell.week))
            .join(SessionDay, (SessionDay.session_id == ExerciseWeek.session_id) & (SessionDay.week == Cell.week))
            .where(
                Cell.athlete_id == ready.person.id,
                Cell.live,
                Cell.state.in_(LIFTED),
                done.in_(hinges),
                ~SessionDay.left_out,
                SessionDay.held_on >= monday,
                SessionDay.held_on < monday + dt.timedelta(days=7),
            )
        )
        or 0
    )


def _level_steps(ready: Readiness) -> Callable[[Movement], int | None]:
    suggested = {found.ladder: found.movement for found in placements(ready.known, ready.opened, ready.rules)}

    def steps(movement: Movement) -> int | None:
        for ladder, level in ready.library.ladders_of(movement.code):
            here = ready.level_on(ladder)
            if here is not None:
                return level - here
            at = ladder.level_of(suggested[ladder.code]) if ladder.code in suggested else None
            if at is not None:  # where the screens would place: what is above counts against it, nothing is earned yet
                return level - at or None
        return None

    return steps


def ranking(db: Session, ready: Readiness, asked: VariantQuestion, rules: Rules) -> list[Ranked]:
    """The movements of a family for this athlete, best first, with reasons."""
    known = [movement for movement in ready.library.in_use() if movement.family is asked.family]
    return rank(known, situation(db, ready, asked, rules))
