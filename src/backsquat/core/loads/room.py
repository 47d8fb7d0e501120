"""What a room owns: bars, collars, plate pairs. The loads it can make follow from these."""

from dataclasses import dataclass

from backsquat.core.loads.mass import NOTHING, Mass, Unit

FULL_DIAMETER_MM = 450  # a plate that holds the bar at pulling height from the floor


@dataclass(frozen=True)
class Bar:
    """A bar by name and mass; `code` is how a plan refers to it."""

    code: str
    name: str
    mass: Mass


@dataclass(frozen=True)
class PlateStock:
    """Pairs of one plate: each pair puts one on either side."""

    mass: Mass
    pairs: int
    diameter_mm: int = FULL_DIAMETER_MM


@dataclass(frozen=True)
class Room:
    """A weight room; the first bar is the one used unless another is asked for."""

    name: str
    unit: Unit
    bars: tuple[Bar, ...]
    plates: tuple[PlateStock, ...]
    collars: Mass = NOTHING  # both together
    racks: int = 1

    @property
    def smallest_plate(self) -> Mass | None:
        """What one step puts on each side."""
        return min(
            (plate.mass for plate in self.plates if plate.pairs), key=lambda mass: mass.grains, default=None
        )

    @property
    def step_kg(self) -> float:
        """One step of this room: the smallest plate on both sides. Nought where there are no plates."""
        return 2 * self.smallest_plate.kg if self.smallest_plate else 0.0

    def bar(self, code: str) -> Bar | None:
        return next((bar for bar in self.bars if bar.code == code), None)
