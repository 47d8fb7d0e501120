"""What milestones are judged by that are no estimates: seconds held, reps at a load, screens, sessions attended."""

import datetime as dt
from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from sqlalchemy import Date, bindparam, func, select
from sqlalchemy.orm import Session

from backsquat.core.progression.cell import LIFTED
from backsquat.core.readiness.screens import Screen
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.season.calendar import monday_of
from backsquat.core.season.trend import Point
from backsquat.storage.models import (
    Block,
    BlockSession,
    Cell,
    Exercise,
    ExerciseWeek,
    OwnDay,
    ScreenResult,
    SessionDay,
    SetEntry,
)


def weekly_holds(
    db: Session, athlete_ids: Sequence[int], movement: str, since: dt.date, today: dt.date
) -> dict[int, list[Point]]:
    """Each athlete's longest hold by week, in seconds."""
    rows = db.execute(
        select(SetEntry.athlete_id, SetEntry.done_on, SetEntry.hold_s).where(
            SetEntry.athlete_id.in_(athlete_ids),
            SetEntry.movement == movement,
            SetEntry.standing,
            SetEntry.hold_s.is_not(None),
            SetEntry.done_on.between(since, today),
        )
    )
    best: dict[int, dict[dt.date, float]] = defaultdict(dict)
    for athlete_id, day, hold_s in rows:
        week = monday_of(day)
        best[athlete_id][week] = max(best[athlete_id].get(week, 0.0), float(hold_s or 0))
    return {athlete_id: [Point(week, weeks[week]) for week in sorted(weeks)] for athlete_id, weeks in best.items()}


def most_reps(db: Session, athlete_ids: Sequence[int], movement: str, load_kg: float, until: dt.date) -> dict[int, int]:
    """The most reps to depth that each has shown with this load or more."""
    rows = db.execute(
        select(SetEntry.athlete_id, func.max(SetEntry.reps_to_depth))
        .where(
            SetEntry.athlete_id.in_(athlete_ids),
            SetEntry.movement == movement,
            SetEntry.standing,
            SetEntry.load_kg >= load_kg - 0.01,
            SetEntry.done_on <= until,
        )
        .group_by(SetEntry.athlete_id)
    )
    return {athlete_id: reps or 0 for athlete_id, reps in rows}


def screen_points(
    db: Session, athlete_ids: Sequence[int], screen: Screen, since: dt.date, today: dt.date
) -> dict[int, list[Point]]:
    """Each athlete's values of a screen by day; of two sides the worse."""
    worse = func.max if screen.less_is_better else func.min
    rows = db.execute(
        select(ScreenResult.athlete_id, ScreenResult.done_on, worse(ScreenResult.value))
        .where(
            ScreenResult.athlete_id.in_(athlete_ids),
            ScreenResult.screen == screen.code,
            ~ScreenResult.replaced,
            ScreenResult.value.is_not(None),
            ScreenResult.done_on.between(since, today),
        )
        .group_by(ScreenResult.athlete_id, ScreenResult.done_on)
        .order_by(ScreenResult.done_on)
    )
    found: dict[int, list[Point]] = defaultdict(list)
    for athlete_id, day, value in rows:
        found[athlete_id].append(Point(day, float(value or 0)))
    return found


@dataclass(frozen=True)
class Attended:
    """Sessions planned for one athlete between two days: held so far, attended of them, and still to come."""

    held: int
    came: int
    ahead: int

    @property
    def share(self) -> float:
        """Of those held, how many were attended; all where none was."""
        return self.came / self.held if self.held else 1.0


class Planned(NamedTuple):
    """A session planned for one athlete: its day, how much work it has, and of how much a set was logged."""

    athlete_id: int
    day: dt.date
    work: int
    made: int


WEEK = dt.timedelta(weeks=1)


def planned_sessions(
    db: Session, squad_id: int, athlete_ids: Collection[int], first_on: dt.date, last_on: dt.date
) -> list[Planned]:
    """What was planned between two days, by day; a session left out is none, what is logged outside counts nowhere."""
    lifted = select(SetEntry.id).where(SetEntry.cell_id == Cell.id, SetEntry.standing).correlate(Cell).exists()
    day = func.coalesce(OwnDay.held_on, SessionDay.held_on, type_=Date)
    rows = db.execute(
        select(Cell.athlete_id, day, ExerciseWeek.session_id, func.count(), func.sum(lifted))
        .join(ExerciseWeek, (ExerciseWeek.exercise_id == Cell.exercise_id) & (ExerciseWeek.week == Cell.week))
        .join(SessionDay, (SessionDay.session_id == ExerciseWeek.session_id) & (SessionDay.week == ExerciseWeek.week))
        .outerjoin(
            OwnDay,
            (OwnDay.session_id == ExerciseWeek.session_id)
            & (OwnDay.week == ExerciseWeek.week)
            & (OwnDay.athlete_id == Cell.athlete_id),
        )
        .join(Exercise, Exercise.id == Cell.exercise_id)
        .join(Block, Block.id == Exercise.block_id)
        .where(Block.squad_id == squad_id, ~Exercise.removed, ~ExerciseWeek.spare, ~SessionDay.left_out)
        .where(SessionDay.held_on.between(first_on - WEEK, last_on + WEEK))  # an own day is near the session's
        .where(day.between(first_on, last_on), Cell.live, Cell.state.in_(LIFTED))
        .where(Cell.athlete_id.in_(athlete_ids))
        .group_by(Cell.athlete_id, day, ExerciseWeek.session_id)
        .order_by(day, ExerciseWeek.session_id)
    )
    return [Planned(athlete_id, day, work, made or 0) for athlete_id, day, _, work, made in rows]


_AHEAD = (  # made once: asked with every milestone
    select(SessionDay.held_on, SessionDay.left_out)
    .join(BlockSession, BlockSession.id == SessionDay.session_id)
    .join(Block, Block.id == BlockSession.block_id)
    .where(Block.squad_id == bindparam("squad"), SessionDay.held_on >= bindparam("first"))
    .where(~Block.dropped, SessionDay.week < Block.weeks)
    .where(select(Exercise.id).where(Exercise.session_id == BlockSession.id, ~Exercise.removed).exists())
)


def idle_weeks(db: Session, squad_id: int, ready: Mapping[int, Readiness]) -> dict[int, tuple[dt.date, ...]]:
    """By athlete, the Mondays of weeks ahead that a block plans and in which no session is left for them to come to.

    Left out for all, or while they are known to be away. Weeks nobody has planned say nothing.
    """
    today = next((one.today for one in ready.values()), dt.date.max)
    rows = db.execute(_AHEAD, {"squad": squad_id, "first": monday_of(today)})
    held: dict[dt.date, list[dt.date]] = defaultdict(list)
    for day, out in rows:
        held[monday_of(day)] += [] if out else [day]
    weeks = sorted(held)

    def idle(one: Readiness) -> tuple[dt.date, ...]:
        return tuple(week for week in weeks if all(one.absent_on(day) for day in held[week]))

    return {athlete_id: idle(one) for athlete_id, one in ready.items()}


def sessions_attended(
    db: Session, squad_id: int, athlete_ids: Sequence[int], since: dt.date, due_on: dt.date, today: dt.date
) -> dict[int, Attended]:
    """By athlete, from a day up to another. Came is whoever logged a set of it; today is held once somebody has."""
    counts: dict[int, list[int]] = defaultdict(lambda: [0, 0, 0])
    for one in planned_sessions(db, squad_id, athlete_ids, since, due_on):
        ahead = one.day > today or (one.day == today and not one.made)
        counts[one.athlete_id][0] += not ahead
        counts[one.athlete_id][1] += bool(one.made)
        counts[one.athlete_id][2] += ahead
    return {athlete_id: Attended(*counted) for athlete_id, counted in counts.items()}
