"""What a pain stop locks (rules 2.10)."""

from collections.abc import Iterable

from backsquat.core.movements.movement import Family, Movement, Region


def locks(stopped: str, family: Family | None, region: str, movement: Movement) -> bool:
    """Whether a stop of the movement `stopped` locks `movement`: itself, its family, and whatever loads the region.

    Asked anew each time, so that a movement added or changed after the stop is locked too.
    """
    return (
        movement.code == stopped
        or movement.family is family
        or any(loaded.value == region for loaded in movement.regions)
    )


def locked_by(stopped: Movement, region: Region, movements: Iterable[Movement]) -> frozenset[str]:
    """Codes of all movements a stop locks."""
    return frozenset(m.code for m in movements if locks(stopped.code, stopped.family, region.value, m))
