"""One cell opened: the load, how it came about, what stands in its way, and what it was before."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import and_, func, select
from sqlalchemy.orm import Session, aliased

from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import Origin, State
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.readiness.verdict import Obstacle, Reason
from backsquat.core.rules import Rules
from backsquat.core.working import Working
from backsquat.storage.models import Athlete, Block, Cell, Exercise, OwnDay, SetEntry, User
from backsquat.work.context import library_of
from backsquat.work.plan.cells import movement_of, rest_of
from backsquat.work.plan.chances import Chances, SetChance
from backsquat.work.plan.progression_settings import athlete_settings, setting_of
from backsquat.work.plan.rows import written
from backsquat.work.readiness.load import readiness_one
from backsquat.work.sessions.blocks import session_day


@dataclass(frozen=True)
class Earlier:
    """An earlier number of the same exercise, athlete and week."""

    load: str  # empty: none
    origin: Origin
    by: str
    at: dt.datetime


@dataclass(frozen=True)
class Panel:
    """What the panel beside the sheet shows of one cell."""

    cell: Cell
    exercise: Exercise
    block: Block
    athlete: Athlete
    movement: Movement
    day: dt.date
    working: Working
    history: list[Earlier]
    obstacle: Obstacle | None  # the gravest thing in the way of what is still to come
    rest_s: int
    may_edit: bool
    may_give: bool = False  # other work for this athlete can still be given here
    likely: SetChance | None = None  # of work to come, by what is believed today


def panel_of(db: Session, squad_id: int, cell_id: int, today: dt.date, rules: Rules) -> Panel | None:
    """The panel of a current cell, or None where there is no such cell in this squad."""
    same = (OwnDay.session_id == Exercise.session_id, OwnDay.week == Cell.week, OwnDay.athlete_id == Cell.athlete_id)
    row = db.execute(
        select(Cell, Exercise, Block, Athlete, OwnDay.held_on)
        .join(Exercise, Cell.exercise_id == Exercise.id)
        .join(Block, Exercise.block_id == Block.id)
        .join(Athlete, Cell.athlete_id == Athlete.id)
        .outerjoin(OwnDay, and_(*same))
        .where(Cell.id == cell_id, Block.squad_id == squad_id)
    ).first()
    if row is None:
        return None
    cell, exercise, block, athlete, own_day = row
    movement, day = movement_of(library_of(db, squad_id), exercise, cell), own_day or session_day(exercise, cell.week)
    ready = readiness_one(db, athlete, today, rules)
    # What was lifted stays to be read, whatever stands in the way now.
    verdict = ready.judge(movement, day, cell.load_kg)
    if exercise.ladder and not cell.movement:  # nobody is asked to do a ladder's last level
        verdict = verdict.but(Reason.NOT_READY)
    obstacle = verdict.first if day >= today else None
    logged = db.scalar(select(func.count()).where(SetEntry.cell_id == cell.id, SetEntry.standing))
    open_to_edits = cell.current and day >= today and not logged and cell.state is not State.LEVEL
    return Panel(
        cell=cell,
        exercise=exercise,
        block=block,
        athlete=athlete,
        movement=movement,
        day=day,
        working=Working.from_plain(cell.working),
        history=_history(db, cell),
        obstacle=obstacle,
        rest_s=rest_of(cell, exercise),
        may_edit=open_to_edits and obstacle is None,
        may_give=day >= today,
        likely=None if logged else _likely(db, cell, exercise, athlete, movement, day, today, rules),
    )


def _likely(
    db: Session,
    cell: Cell,
    exercise: Exercise,
    athlete: Athlete,
    movement: Movement,
    day: dt.date,
    today: dt.date,
    rules: Rules,
) -> SetChance | None:
    if cell.state is not State.LOAD or cell.kind is not ExposureKind.WORK or cell.movement:
        return None
    chances = Chances.of(db, [athlete], movement.code, today, rules)
    setting = athlete_settings(db, [exercise.id]).get((exercise.id, athlete.id)) or setting_of(exercise)
    share = setting.manner(exercise.manner).load_share(rules)
    return chances.on(athlete.id, day, cell.load_kg, cell.sets, cell.reps, cell.week, manner_share=share)


def _history(db: Session, cell: Cell) -> list[Earlier]:
    """Earlier numbers of the same exercise, athlete and week, newest first."""
    author = aliased(User)
    rows = db.execute(
        select(Cell.load_amount, Cell.origin, author.name, Cell.at)
        .join(author, Cell.by_id == author.id)
        .where(
            Cell.exercise_id == cell.exercise_id,
            Cell.athlete_id == cell.athlete_id,
            Cell.week == cell.week,
            Cell.id < cell.id,
        )
        .order_by(Cell.id.desc())
        .limit(5)
    )
    return [Earlier(written(amount), origin, name, at) for amount, origin, name, at in rows]
