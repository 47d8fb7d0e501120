"""Shared Hypothesis strategies: rooms with any small stock, athletes with any estimate."""

from decimal import Decimal

from hypothesis import strategies as st

from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.room import Bar, PlateStock, Room

PLATES = {
    Unit.KG: ["25", "20", "15", "10", "7.5", "5", "2.5", "2", "1.25", "1", "0.5", "0.25"],
    Unit.LB: ["55", "45", "35", "25", "10", "5", "2.5", "1.25", "0.75"],
}


@st.composite
def rooms(draw: st.DrawFn) -> Room:
    """A room of either unit with up to five kinds of plates, few of each, and perhaps collars."""
    unit = draw(st.sampled_from(list(Unit)))
    masses = draw(st.lists(st.sampled_from(PLATES[unit]), min_size=1, max_size=5, unique=True))
    plates = tuple(PlateStock(Mass.of(mass, unit), draw(st.integers(0, 4))) for mass in masses)
    bar = Bar("bar", "Bar", Mass.of(draw(st.sampled_from(["20", "15", "10", "7.5", "45"])), unit))
    collars = Mass(draw(st.sampled_from([Decimal(0), Decimal("0.5"), Decimal(5)])), unit)
    return Room("room", unit, (bar,), plates, collars)


targets_kg = st.floats(5, 400, allow_nan=False).map(lambda kg: round(kg, 3))
maxima_kg = st.floats(30, 260, allow_nan=False).map(lambda kg: round(kg, 2))
