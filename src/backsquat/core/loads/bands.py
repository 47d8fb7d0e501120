"""What a band does to a load along the range: linear in its stretch (rules 2.1)."""

from dataclasses import dataclass

from backsquat.core.loads.room import Band
from backsquat.core.numbers import sure


@dataclass(frozen=True)
class AlongRange:
    """Load in kg at the bottom and at the top of a rep."""

    bottom_kg: float
    top_kg: float


def along_range(load_kg: float, band: Band, *, helps: bool, bands: int = 1) -> AlongRange:
    """Load with `bands` of one kind.

    A band fixed low is short at the bottom and long at the top, and adds; one fixed high is long
    at the bottom, where it helps most, and short at the top.
    """
    sure("load_kg", load_kg)
    short, long = sure("bands", bands, 1) * band.short.kg, bands * band.long.kg
    if helps:
        return AlongRange(load_kg - long, load_kg - short)
    return AlongRange(load_kg + short, load_kg + long)
