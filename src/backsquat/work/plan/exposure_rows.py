"""Which exercises of a block climb as one: a lift on several days under a progression that goes by exposure (rules
2.3.2).
"""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from backsquat.storage.models import Block, Exercise
from backsquat.work.plan.progression_settings import AthleteSettings, athlete_settings, setting_of


def same_lift(block: Block, exercise: Exercise) -> list[Exercise]:
    """The exercises of an exercise's movement, itself first; of everybody's own level there is never more than one."""
    others = [
        one for one in block.exercises if one.movement == exercise.movement and one is not exercise and not one.ladder
    ]
    return [exercise] if exercise.ladder else [exercise, *others]


def row_of(
    exercise: Exercise, same: Sequence[Exercise], settings: AthleteSettings, athlete_id: int = 0
) -> tuple[Exercise, ...]:
    """The exercises that climb as one with an exercise for an athlete (0: everybody who was given nothing else), itself
    first.

    The same progression with the same numbers on other days; twice in one session is a lift and its back-off, and no row.
    """
    mine = settings.get((exercise.id, athlete_id)) or setting_of(exercise)
    if not mine.progression.by_exposure:
        return (exercise,)
    row = [exercise]
    for other in same:
        its = settings.get((other.id, athlete_id)) or setting_of(other)
        if other is not exercise and its.code == mine.code and its.parameters == mine.parameters:
            row.append(other)
    apart = len({one.session_id for one in row}) == len(row)
    return tuple(row) if apart else (exercise,)


def rows_at(block: Block, exercises: Sequence[Exercise]) -> list[int]:
    """Ids of the exercises of every row of several days that some exercises stand in, as everybody does them."""
    rows = (row_of(exercise, same_lift(block, exercise), {}) for exercise in exercises)
    return list(dict.fromkeys(exercise.id for row in rows if len(row) > 1 for exercise in row))


class ExposureRows:
    """The rows of a block; nothing is asked of the database where no lift is on two days."""

    def __init__(self, db: Session, block: Block, settings: AthleteSettings | None = None) -> None:
        """`settings` of all its exercises, where somebody has asked for them already."""
        self._same = {exercise.id: same_lift(block, exercise) for exercise in block.exercises}
        several = [exercise_id for exercise_id, same in self._same.items() if len(same) > 1]
        self._settings = athlete_settings(db, several) if settings is None and several else settings or {}

    def of(self, exercise: Exercise, athlete_id: int) -> tuple[Exercise, ...]:
        """The exercises of an athlete's row, the exercise itself first."""
        same = self._same.get(exercise.id, [exercise])
        return row_of(exercise, same, self._settings, athlete_id) if len(same) > 1 else (exercise,)
