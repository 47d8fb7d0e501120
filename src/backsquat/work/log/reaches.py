"""How far an athlete's lunges reached, from the sets in which it was measured."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.strength.told import Reach, told_from
from backsquat.storage.models import SetEntry


@dataclass(frozen=True)
class MeasuredReach:
    """One measured wheel; `supported` ones are never compared with free ones."""

    done_on: dt.date
    reach: Reach
    supported: bool


def reaches(session: Session, athlete_id: int) -> list[MeasuredReach]:
    """Every measured wheel, oldest first."""
    rows = session.execute(
        select(SetEntry.done_on, SetEntry.told, SetEntry.supported)
        .where(
            SetEntry.athlete_id == athlete_id,
            SetEntry.movement == "lunge_wheel",
            SetEntry.standing,
            SetEntry.told["reach"].is_not(None),
        )
        .order_by(SetEntry.done_on, SetEntry.id)
    )
    found = [MeasuredReach(day, told_from(told).reach, supported) for day, told, supported in rows]
    return [one for one in found if one.reach]
