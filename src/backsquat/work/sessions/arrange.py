"""Where a block's exercises stand in its week: as planned, and as the floor has them since they were published."""

import datetime as dt
from collections.abc import Collection, Iterator, Sequence
from typing import Any

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.storage.models import Block, BlockSession, Exercise, ExerciseWeek
from backsquat.work.log.sets import logged_cells

PLACE = ("session_id", "position", "superset", "circuit", "spare", "rest_s", "manner")  # what publishing carries over


def place_of(exercise: Exercise | ExerciseWeek) -> tuple[Any, ...]:
    """Where and how an exercise is done: as planned, or as the floor has it in one week."""
    return tuple(getattr(exercise, name) for name in PLACE)


def _on_floor(exercise: Exercise, week: int) -> ExerciseWeek:
    """The exercise's place as planned, for the floor in one week."""
    return ExerciseWeek(week=week, session=exercise.session, **{name: getattr(exercise, name) for name in PLACE[1:]})


_MANNER = select(ExerciseWeek.manner).where(  # made once: asked with every set
    ExerciseWeek.exercise_id == bindparam("exercise"), ExerciseWeek.week == bindparam("week")
)


def manner_on_floor(db: Session, exercise: Exercise, week: int) -> dict[str, Any]:
    """How the floor does an exercise in a week: as it was published, else as it is planned."""
    held = db.scalar(_MANNER, {"exercise": exercise.id, "week": week})
    return exercise.manner if held is None else held


def put_in(db: Session, block: Block, exercise: Exercise, held: BlockSession, position: int, today: dt.date) -> None:
    """Plan an exercise in a session at a position, from the first week that has neither passed nor begun.

    ImpossibleInput where it shall go to another day and no such week is left.
    """
    if held is not exercise.session:
        first = _first_movable(db, block, exercise, held, today)
        if first is None:
            raise ImpossibleInput(Problem("day", "day_past"))
        exercise.session_from, exercise.session = first, held
    exercise.position = position
    mark_moved(db, block, [exercise], today)


def mark_moved(db: Session, block: Block, exercises: Sequence[Exercise], today: dt.date) -> None:
    """Say of each exercise whether publishing would change where the floor has it."""
    db.flush()
    published = any(other.on_floor for other in block.every_exercise)
    begun = _begun(db, exercises)
    for exercise in exercises:
        exercise.moved = published and any(True for _ in _changes(block, exercise, begun, today))
    db.flush()


def _begun(db: Session, exercises: Sequence[Exercise]) -> set[tuple[int, int]]:
    """(exercise, week) in which anybody has lifted."""
    return {(exercise_id, week) for exercise_id, _, week in logged_cells(db, [exercise.id for exercise in exercises])}


def moved_exercises(block: Block) -> list[Exercise]:
    """The exercises whose day, order or going waits to be published."""
    return [exercise for exercise in block.every_exercise if exercise.moved]


def arrange(db: Session, block: Block, today: dt.date) -> None:
    """Give the floor the arrangement as planned, for what is to come; what is past, or begun, keeps its own."""
    first = not any(exercise.on_floor for exercise in block.every_exercise)
    begun = _begun(db, block.every_exercise)
    for exercise in block.every_exercise:
        if first and not exercise.removed:
            exercise.on_floor = [_on_floor(exercise, week) for week in range(block.weeks)]
            continue
        for week, held in list(_changes(block, exercise, begun, today)):
            if held is not None:
                exercise.on_floor.remove(held)
                db.flush()
            if not exercise.removed:
                exercise.on_floor.append(_on_floor(exercise, week))
        kept = [held.week for held in exercise.on_floor if held.session is not exercise.session]
        exercise.session_from = max([exercise.session_from, *(week + 1 for week in kept)])
        exercise.moved = False
    db.flush()


def _changes(
    block: Block, exercise: Exercise, begun: Collection[tuple[int, int]], today: dt.date
) -> Iterator[tuple[int, ExerciseWeek | None]]:
    """The weeks in which the floor would have the exercise elsewhere after publishing, with where it has it now."""
    held_in = {held.week: held for held in exercise.on_floor}
    for week in range(block.weeks):
        held = held_in.get(week)
        day = exercise.session.day_in(week)
        if held is None:
            if not exercise.removed and week >= exercise.session_from and day >= today:
                yield week, None
        elif (exercise.id, week) in begun or held.session.day_in(week) < today:
            continue
        elif exercise.removed or (
            week >= exercise.session_from and day >= today and place_of(held) != place_of(exercise)
        ):
            yield week, held


def _first_movable(db: Session, block: Block, exercise: Exercise, held: BlockSession, today: dt.date) -> int | None:
    """The first week from which nothing has passed, on the old day or the new one, and nothing has begun."""
    begun = max((week for _, _, week in logged_cells(db, [exercise.id])), default=-1)
    for week in range(begun + 1, block.weeks):
        if min(exercise.session_in(week).day_in(week), held.day_in(week)) >= today:
            return week
    return None
