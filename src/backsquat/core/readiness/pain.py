"""When pain stops a movement, and what else it locks (rules 2.10).

The tool stops and refers; it never diagnoses or clears. Soreness is not pain and is logged apart.
"""

from collections.abc import Iterable
from enum import StrEnum

from backsquat.core.movements.movement import Family, Movement, Region
from backsquat.core.rules import Rules


class Character(StrEnum):
    """How the pain feels; those in STOPPING stop the movement at any level."""

    DULL = "dull"
    SHARP = "sharp"
    ELECTRIC = "electric"
    NUMB = "numb"
    TINGLING = "tingling"
    SWELLING = "swelling"
    GIVING_WAY = "giving way"
    LOCKING = "locking"


STOPPING = frozenset(Character) - {Character.DULL}


def stops(level: int, character: str, rules: Rules) -> bool:
    """Whether pain of this level (0–10) and character means stop and refer.

    The stopping characters count whatever number was put beside them: an athlete who says
    "tingling, but nought" has still said tingling.
    """
    if character in STOPPING:
        return True
    return level >= (1 if rules.no_discomfort else rules.pain_stop_level)


def locks(stopped: str, family: Family | None, place: str, movement: Movement) -> bool:
    """Whether a stop of the movement `stopped` locks `movement`: itself, its family, and whatever loads the place.

    Asked anew each time, so that a movement added or changed after the stop is locked too.
    """
    return (
        movement.code == stopped
        or movement.family is family
        or any(region.value == place for region in movement.regions)
    )


def locked_by(stopped: Movement, place: Region, movements: Iterable[Movement]) -> frozenset[str]:
    """Codes of all movements a stop locks."""
    return frozenset(m.code for m in movements if locks(stopped.code, stopped.family, place.value, m))
