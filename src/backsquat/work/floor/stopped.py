"""What a stop means for somebody's work: what rests, what may go on today, what from tomorrow; each named."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.movements.movement import Movement
from backsquat.core.readiness.verdict import Reason
from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, Cell
from backsquat.work.context import library_of
from backsquat.work.floor.sessions import FloorSession, sessions_in_week
from backsquat.work.plan.cells import UNREAD, movement_of
from backsquat.work.readiness.load import readiness_one

AHEAD_DAYS = 7


@dataclass(frozen=True)
class AfterStop:
    """An athlete's work of the coming days, by what a stop leaves of it."""

    rests: tuple[Movement, ...]
    today: tuple[Movement, ...]
    later: tuple[Movement, ...]  # from tomorrow on


def after_stop(db: Session, athlete: Athlete, today: dt.date, rules: Rules) -> AfterStop:
    """What is planned for the athlete within a week, each movement once, in the order it is done."""
    ready, library = readiness_one(db, athlete, today, rules), library_of(db, athlete.squad_id)
    tomorrow = today + dt.timedelta(days=1)
    found: dict[str, Movement] = {}
    coming = _coming(db, athlete, today)
    exercise_ids = [exercise_id for held in coming for exercise_id in held.exercises]
    mine = (
        select(Cell)
        .where(Cell.athlete_id == athlete.id, Cell.exercise_id.in_(exercise_ids), Cell.live)
        .options(*UNREAD)
    )
    cells = {(cell.exercise_id, cell.week): cell for cell in db.scalars(mine)}
    for held in coming:
        for exercise_id, exercise in held.exercises.items():
            if cell := cells.get((exercise_id, held.week)):
                movement = movement_of(library, exercise, cell)
                found.setdefault(movement.code, movement)
    known = found.values()
    stopped = {day: {m.code for m in known if ready.judge(m, day).has(Reason.STOPPED)} for day in (today, tomorrow)}
    return AfterStop(
        rests=tuple(m for m in known if m.code in stopped[tomorrow]),
        today=tuple(m for m in known if m.code not in stopped[today]),
        later=tuple(m for m in known if m.code not in stopped[tomorrow] and m.code in stopped[today]),
    )


def _coming(db: Session, athlete: Athlete, today: dt.date) -> list[FloorSession]:
    monday = today - dt.timedelta(days=today.weekday())
    weeks = (monday, monday + dt.timedelta(days=7))
    held = [one for week in weeks for one in sessions_in_week(db, athlete.squad_id, week)]
    return [one for one in held if 0 <= (one.day - today).days < AHEAD_DAYS and one.holds(athlete.id)]
