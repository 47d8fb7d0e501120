"""A block as it stands on its sheet: a row for each athlete, exercise and week, and the same as tables of weeks."""

import datetime as dt
from decimal import Decimal
from typing import NamedTuple

from sqlalchemy import select

from backsquat.core.progression.cell import Origin, State
from backsquat.storage.models import Athlete, Block, Cell, Exercise
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.sessions.blocks import session_day
from backsquat.work.squad.athletes import squad_athletes


class PlanLine(NamedTuple):
    """One cell as it is handed out. `movement` is a code; `state` of `core/progression/cell.py`."""

    exercise_id: int
    day: dt.date
    week: int  # of the block, from 1
    session: str
    order: int  # in the session, from 1
    athlete: str
    movement: str
    state: State
    sets: int
    reps: int
    hold_s: int
    reserve_reps: int
    load: Decimal | None
    unit: str
    load_kg: float | None
    published: bool
    origin: Origin  # who put the number there


def plan_lines(context: WorkContext, block: Block) -> list[PlanLine]:
    """Every standing cell of athletes who are here, by exercise, athlete and week; of days to come no load that the verdict
    does not let through now, as on the sheet itself.
    """
    require(context.actor, Act.READ_PLAN)
    athletes = squad_athletes(context.db, context.squad_id)
    ready = readiness_of(context.db, context.squad_id, athletes, context.today, context.rules)
    library = context.library
    exercises = {exercise.id: exercise for exercise in block.exercises}
    query = (
        select(Cell, Athlete.name)
        .join(Athlete, Athlete.id == Cell.athlete_id)
        .where(Cell.exercise_id.in_(exercises), Cell.current, Athlete.active, Athlete.squad_id == context.squad_id)
        .order_by(Athlete.name, Cell.week)
    )
    found = []
    for cell, name in context.db.execute(query):
        line = _line(exercises[cell.exercise_id], cell, name)
        movement, mine = library.movements.get(line.movement), ready[cell.athlete_id]
        if line.day >= context.today and movement and mine.judge(movement, line.day, line.load_kg).obstacles:
            line = line._replace(state=State.LOCKED, load=None, load_kg=None, sets=0, reps=0, hold_s=0)
        found.append(line)
    places = {exercise_id: place for place, exercise_id in enumerate(exercises)}
    return sorted(found, key=lambda line: places[line.exercise_id])  # stable: athletes and weeks stay in order


def _line(exercise: Exercise, cell: Cell, athlete: str) -> PlanLine:
    return PlanLine(
        exercise.id,
        session_day(exercise, cell.week),
        cell.week + 1,
        exercise.session_in(cell.week).name,
        exercise.position + 1,
        athlete,
        cell.movement or exercise.movement,
        cell.state,
        cell.sets,
        cell.reps,
        cell.hold_s,
        cell.reserve_reps,
        cell.load_amount,
        cell.load_unit,
        cell.load_kg,
        cell.live,
        cell.origin,
    )
