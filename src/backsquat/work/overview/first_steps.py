"""From an empty squad to a floor: what is done, and the one thing that comes next. Nothing once a block is published."""

from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.storage.models import (
    Athlete,
    BarRow,
    Block,
    LevelMove,
    PlanVersion,
    ReadinessClearance,
    RoomRow,
    ScreenResult,
    SetEntry,
)


class FirstStep(StrEnum):
    """In the order in which a new squad needs them."""

    ROOM = "room"  # which loads exist
    ATHLETES = "athletes"
    WHO_MAY = "who_may"  # screens, levels, or somebody who says they squat to standard
    TESTS = "tests"
    BLOCK = "block"
    FLOOR = "floor"  # published


@dataclass(frozen=True)
class Way:
    """How much there is of each step."""

    counts: dict[FirstStep, int]

    @property
    def following(self) -> FirstStep | None:
        """The first step nothing is there of; None at the end."""
        return next((step for step in FirstStep if not self.counts[step]), None)


def first_steps(db: Session, squad_id: int) -> Way | None:
    """The way of a squad that is still on it; None once a block of it was published."""
    blocks = select(Block.id).where(Block.squad_id == squad_id)
    if db.scalar(select(func.count(PlanVersion.id)).where(PlanVersion.block_id.in_(blocks))):
        return None
    mine = select(Athlete.id).where(Athlete.squad_id == squad_id, Athlete.active)
    rooms = select(RoomRow.id).where(RoomRow.squad_id == squad_id)

    def count(column: object, *where: object) -> int:
        return db.scalar(select(func.count(column)).where(*where)) or 0  # type: ignore[arg-type]

    may = (
        count(ScreenResult.id, ScreenResult.athlete_id.in_(mine))
        + count(LevelMove.id, LevelMove.athlete_id.in_(mine))
        + count(ReadinessClearance.id, ReadinessClearance.athlete_id.in_(mine))
    )
    return Way(
        {
            FirstStep.ROOM: count(BarRow.id, BarRow.room_id.in_(rooms)),
            FirstStep.ATHLETES: count(Athlete.id, Athlete.id.in_(mine)),
            FirstStep.WHO_MAY: may,
            FirstStep.TESTS: count(SetEntry.id, SetEntry.athlete_id.in_(mine), SetEntry.standing),
            FirstStep.BLOCK: count(Block.id, Block.squad_id == squad_id, ~Block.dropped),
            FirstStep.FLOOR: 0,
        }
    )
