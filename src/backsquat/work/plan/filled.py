"""Before a block is published: for each exercise how many have work in it, of what kind, and who has none and why."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.progression.cell import LIFTED, StandIn, State
from backsquat.storage.models import Athlete, Block, Cell, Exercise

_CELLS = (
    select(Cell.exercise_id, Cell.athlete_id, Cell.state, Cell.movement, Cell.stands_in)
    .join(Athlete, Cell.athlete_id == Athlete.id)
    .where(Cell.exercise_id.in_(bindparam("exercises", expanding=True)), Cell.current, Athlete.active)
    .order_by(Cell.week)
)
AGREED = frozenset({State.LOCKED, State.LEFT_OUT})  # nothing, and rightly so: a stop, or the coach's word


@dataclass(frozen=True)
class Filled:
    """One exercise: how many do it, its level or another movement (why) in its stead, and how many have nothing."""

    exercise: Exercise
    own: int
    instead: Mapping[tuple[str, StandIn], int]  # (movement, why) → athletes
    nothing: Mapping[State, int]

    @property
    def everybody(self) -> int:
        """Athletes it was planned for."""
        return self.own + sum(self.instead.values()) + sum(self.nothing.values())

    @property
    def ready(self) -> bool:
        """Whether nobody has nothing who should have something."""
        return bool(self.everybody) and not set(self.nothing) - AGREED


def filled_of(db: Session, block: Block) -> Sequence[Filled]:
    """Every exercise of a block, in its order; an athlete counts by the first week in which there is work."""
    best: dict[tuple[int, int], tuple[State, str, StandIn]] = {}
    for exercise_id, athlete_id, state, movement, why in db.execute(
        _CELLS, {"exercises": [s.id for s in block.exercises]}
    ):
        had = best.get((exercise_id, athlete_id))
        if had is None or (had[0] not in LIFTED and state in LIFTED):
            best[exercise_id, athlete_id] = state, movement, why
    return [
        _filled(exercise, [one for (exercise_id, _), one in best.items() if exercise_id == exercise.id])
        for exercise in block.exercises
    ]


def _filled(exercise: Exercise, found: Sequence[tuple[State, str, StandIn]]) -> Filled:
    lifted = [(movement, why) for state, movement, why in found if state in LIFTED]
    return Filled(
        exercise,
        own=sum(not movement for movement, _ in lifted),
        instead=Counter((movement, why) for movement, why in lifted if movement),
        nothing=Counter(state for state, _, _ in found if state not in LIFTED),
    )
