"""What a band does to a load along the range: linear in its stretch (rules 2.1)."""

from collections.abc import Sequence
from dataclasses import dataclass

from backsquat.core.loads.room import Band
from backsquat.core.numbers import sure


@dataclass(frozen=True)
class AlongRange:
    """Load in kg at the bottom and at the top of a rep."""

    bottom_kg: float
    top_kg: float


def next_band(bands: Sequence[Band], name: str, *, helps: bool) -> Band | None:
    """The band after one that was enough: thinner where it helps, thicker where it resists; None: there is none."""
    here = next((band for band in bands if band.name == name), None)
    if here is None:
        return None
    pulls = sorted(bands, key=lambda band: band.long.kg, reverse=helps)
    return next((band for band in pulls[pulls.index(here) + 1 :] if band.long.kg != here.long.kg), None)


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
