"""Depth standards: the movement's own, or another for one athlete."""

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.movements.movement import DepthStandard, Movement
from backsquat.storage.models import DepthChoice

DEPTHS = {  # general standards beside the movement's own
    "thigh_level": "thigh level", "hip_below_knee": "hip below knee", "box": "own marked depth, box",
    "held_deep": "held deep squat",
}  # fmt: skip


def depths_of(db: Session, athlete_id: int) -> dict[str, DepthStandard]:
    """The athlete's own standards by movement; where there is none the movement's holds."""
    rows = db.scalars(select(DepthChoice).where(DepthChoice.athlete_id == athlete_id).order_by(DepthChoice.id))
    return {row.movement: DepthStandard(row.code, row.words) for row in rows}


_CHOSEN = (
    select(DepthChoice.code, DepthChoice.words)
    .where(DepthChoice.athlete_id == bindparam("athlete"), DepthChoice.movement == bindparam("movement"))
    .order_by(DepthChoice.id.desc())
    .limit(1)
)


def depth_of(db: Session, athlete_id: int, movement: Movement) -> DepthStandard:
    """The depth standard of this athlete for this movement: their own, or the movement's."""
    own = db.execute(_CHOSEN, {"athlete": athlete_id, "movement": movement.code}).first()
    return DepthStandard(*own) if own else movement.depth
