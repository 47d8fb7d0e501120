"""How far an athlete's lunges reached, from the sets in which it was measured."""

import datetime as dt
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.strength.set_notes import Reach, set_notes_from
from backsquat.storage.models import SetEntry

WHEEL = "lunge_wheel"


@dataclass(frozen=True)
class MeasuredReach:
    """One measured wheel; `supported` ones are never compared with free ones."""

    done_on: dt.date
    reach: Reach
    supported: bool
    faults: dict[str, str] = field(default_factory=dict)  # direction → fault


def reaches(db: Session, athlete_id: int) -> list[MeasuredReach]:
    """Every measured wheel, oldest first."""
    rows = db.execute(
        select(SetEntry.done_on, SetEntry.notes, SetEntry.supported)
        .where(
            SetEntry.athlete_id == athlete_id,
            SetEntry.movement == WHEEL,
            SetEntry.standing,
            SetEntry.notes["reach"].is_not(None),
        )
        .order_by(SetEntry.done_on, SetEntry.id)
    )
    found = [_measured(day, told, supported) for day, told, supported in rows]
    return [one for one in found if one.reach]


def _measured(day: dt.date, given: Mapping[str, Any], supported: bool) -> MeasuredReach:
    told = set_notes_from(given)
    return MeasuredReach(day, told.reach, supported, told.reach_faults)


def newest_reaches(db: Session, athlete_ids: Collection[int]) -> dict[int, MeasuredReach]:
    """Each athlete's newest measured wheel."""
    newest = (
        select(func.max(SetEntry.id))
        .where(SetEntry.athlete_id.in_(athlete_ids), SetEntry.movement == WHEEL, SetEntry.standing)
        .where(SetEntry.notes["reach"].is_not(None))
        .group_by(SetEntry.athlete_id)
    )
    rows = db.execute(
        select(SetEntry.athlete_id, SetEntry.done_on, SetEntry.notes, SetEntry.supported).where(SetEntry.id.in_(newest))
    )
    return {athlete_id: _measured(day, told, supported) for athlete_id, day, told, supported in rows}
