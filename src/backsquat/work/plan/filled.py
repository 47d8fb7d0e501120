"""Before a block is published: for each exercise how many have work in it, of what kind, and who has none and why."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.progression.cell import LIFTED, StandIn, State
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell

_CELLS = (
    select(Cell.slot_id, Cell.athlete_id, Cell.state, Cell.movement, Cell.stands_in)
    .join(Athlete, Cell.athlete_id == Athlete.id)
    .where(Cell.slot_id.in_(bindparam("slots", expanding=True)), Cell.current, Athlete.active)
    .order_by(Cell.week)
)
AGREED = frozenset({State.LOCKED, State.LEFT_OUT})  # nothing, and rightly so: a stop, or the coach's word


@dataclass(frozen=True)
class Filled:
    """One exercise: how many do it, its level or another movement (why) in its stead, and how many have nothing."""

    slot: BlockSlot
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


def filled_of(session: Session, block: Block) -> Sequence[Filled]:
    """Every exercise of a block, in its order; an athlete counts by the first week in which there is work."""
    best: dict[tuple[int, int], tuple[State, str, StandIn]] = {}
    for slot_id, athlete_id, state, movement, why in session.execute(_CELLS, {"slots": [s.id for s in block.slots]}):
        had = best.get((slot_id, athlete_id))
        if had is None or (had[0] not in LIFTED and state in LIFTED):
            best[slot_id, athlete_id] = state, movement, why
    return [_filled(slot, [one for (slot_id, _), one in best.items() if slot_id == slot.id]) for slot in block.slots]


def _filled(slot: BlockSlot, found: Sequence[tuple[State, str, StandIn]]) -> Filled:
    lifted = [(movement, why) for state, movement, why in found if state in LIFTED]
    return Filled(
        slot,
        own=sum(not movement for movement, _ in lifted),
        instead=Counter((movement, why) for movement, why in lifted if movement),
        nothing=Counter(state for state, _, _ in found if state not in LIFTED),
    )
