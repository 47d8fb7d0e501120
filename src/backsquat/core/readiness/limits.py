"""What an athlete may not do, or only so far: by movement, family or region (rules 2.10)."""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.movements.movement import Movement


class Scope(StrEnum):
    """What a limit is about."""

    MOVEMENT = "movement"
    FAMILY = "family"
    REGION = "region"


class LimitKind(StrEnum):
    """What a limit says: nothing at all, up to a load, within a range, one side."""

    NOT_AT_ALL = "not at all"
    LOAD = "load"
    RANGE = "range"
    SIDE = "side"


@dataclass(frozen=True)
class ActiveLimit:
    """A physio's, doctor's or coach's word on what an athlete may not do, from a day to a day (both included)."""

    scope: Scope
    what: str
    kind: LimitKind
    load_kg: float | None
    words: str
    from_on: dt.date
    until_on: dt.date | None
    set_by: str

    def holds_on(self, day: dt.date) -> bool:
        """Whether it is in force on a day."""
        return self.from_on <= day and (self.until_on is None or day <= self.until_on)

    def touches(self, movement: Movement) -> bool:
        """Whether it is about this movement."""
        if self.scope is Scope.MOVEMENT:
            return movement.code == self.what
        if self.scope is Scope.FAMILY:
            return movement.family.value == self.what
        return any(region.value == self.what for region in movement.regions)


@dataclass(frozen=True)
class Bounds:
    """All limits on one movement on one day, together."""

    barred_by: ActiveLimit | None = None
    most_kg: float | None = None
    most_by: ActiveLimit | None = None
    notes: tuple[ActiveLimit, ...] = ()


def bounds_on(limits: Iterable[ActiveLimit], movement: Movement, day: dt.date) -> Bounds:
    """What the limits leave of a movement on a day: the strictest of each kind."""
    held: Sequence[ActiveLimit] = [limit for limit in limits if limit.holds_on(day) and limit.touches(movement)]
    barred = next((limit for limit in held if limit.kind is LimitKind.NOT_AT_ALL), None)
    loads = [limit for limit in held if limit.kind is LimitKind.LOAD and limit.load_kg is not None]
    lowest = min(loads, key=lambda limit: limit.load_kg or 0.0, default=None)
    notes = tuple(limit for limit in held if limit.kind in (LimitKind.RANGE, LimitKind.SIDE))
    return Bounds(barred, lowest.load_kg if lowest else None, lowest, notes)
