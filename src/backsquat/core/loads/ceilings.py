"""Ceilings over a load, and the one rounding under all of them.

Whatever keeps a load down (a physio's limit, a decision's hold, the cap on rises) is a ceiling in
kg. There is one list of them and one way to round: the nearest load to the target, and where that
would be over the lowest ceiling, the heaviest load under it. Nothing is ever rounded over a ceiling.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.loads.room import Rig, Room
from backsquat.core.loads.rounding import RoundedLoad, Rounding, round_load

CLOSE_KG = 1e-9  # exact loads as floats


class CeilingKind(StrEnum):
    """What a ceiling comes from."""

    LIMIT = "limit"  # a physio's, a doctor's or a coach's word
    HELD = "held"  # a decision keeps the load down until the next wave
    CAP = "cap"  # how fast a prescription may rise
    CHANCE = "chance"  # above it the set is made too seldom
    LOWER = "lower"  # a decision said down


@dataclass(frozen=True)
class Ceiling:
    """No load above `most_kg`, written as the load is (each hand for dumb-bells)."""

    kind: CeilingKind
    most_kg: float


def lowest(ceilings: Iterable[Ceiling]) -> Ceiling | None:
    """The strictest of them; None where there is none."""
    return min(ceilings, key=lambda ceiling: ceiling.most_kg, default=None)


def round_under(
    target_kg: float, ceilings: Iterable[Ceiling], room: Room, rig: Rig, rounding: Rounding = Rounding.NEAREST
) -> RoundedLoad | None:
    """The load for a target in kg under every ceiling; None where even the lightest there is would be over one.

    From the target and not from a load it had become elsewhere, so that who goes to another room and
    comes back finds the first load again.
    """
    strictest = lowest(ceilings)
    rounded = round_load(target_kg, room, rig, rounding)
    if rounded is None or strictest is None or rounded.load.kg <= strictest.most_kg + CLOSE_KG:
        return rounded
    return round_load(min(target_kg, strictest.most_kg), room, rig, Rounding.DOWN)
