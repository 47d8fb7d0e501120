"""What a pain stop locks (rules 2.10)."""

from collections.abc import Collection, Iterable

from backsquat.core.movements.movement import Family, Movement


def locks(stopped: str, family: Family | None, region: str, movement: Movement, locked: Collection[str] = ()) -> bool:
    """Whether a stop of the movement `stopped` locks `movement`: itself, its family, and whatever loads the region.

    `locked`: what it locked when it was made. That stays locked whatever becomes of movements since; a movement
    added or changed after the stop is locked too where it loads the place.
    """
    return (
        movement.code == stopped
        or movement.code in locked
        or movement.family is family
        or any(loaded.value == region for loaded in movement.regions)
    )


def locked_by(stopped: Movement | None, region: str, movements: Iterable[Movement]) -> frozenset[str]:
    """Codes of all movements a stop locks; `stopped` is None for pain reported in no movement in particular."""
    code, family = (stopped.code, stopped.family) if stopped else ("", None)
    return frozenset(m.code for m in movements if locks(code, family, region, m))
