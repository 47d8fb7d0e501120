"""What a room owns. The loads it can make follow from these."""

from dataclasses import dataclass, fields
from enum import StrEnum
from functools import cached_property

from backsquat.core.loads.mass import NOTHING, Mass, Unit

FULL_DIAMETER_MM = 450  # a plate that holds the bar at pulling height from the floor


class RigKind(StrEnum):
    """How a rig makes its loads."""

    BAR = "bar"  # plates in pairs on a bar
    TRAP_BAR = "trap bar"
    DUMBBELLS = "dumb-bells"  # one in each hand, written for each
    DUMBBELL = "dumb-bell"  # one, held
    KETTLEBELL = "kettlebell"
    PLATE = "plate"  # one, held
    BAG = "bag"
    STACK = "stack"  # as on the pin
    SLED = "plates on the machine"  # in pairs, written without the machine
    BODY = "body"  # nothing, or a weight held besides
    BAND = "band"  # help, written as less than nothing


@dataclass(frozen=True)
class Rig:
    """What carries a load: a bar, a pair of dumb-bells, a stack; `code` is how a plan refers to it."""

    code: str
    name: str
    mass: Mass = NOTHING  # of the rig itself, where it counts in the load
    kind: RigKind = RigKind.BAR


Bar = Rig


@dataclass(frozen=True)
class PlateStock:
    """Pairs of one plate: each pair puts one on either side."""

    mass: Mass
    pairs: int
    diameter_mm: int = FULL_DIAMETER_MM


@dataclass(frozen=True)
class Bells:
    """Dumb-bells, kettlebells or bags of one mass."""

    mass: Mass
    count: int


@dataclass(frozen=True)
class Stack:
    """A machine with a pin; `add_on` is a small weight laid on top, nought where there is none."""

    code: str  # of the machine in library/equipment.toml, or any word
    name: str
    low: Mass
    step: Mass
    high: Mass
    add_on: Mass = NOTHING


@dataclass(frozen=True)
class Band:
    """A long band with its pull when short and when long, in kg."""

    name: str
    short: Mass
    long: Mass


@dataclass(frozen=True)
class Room:
    """A weight room; the first bar is the one used unless another is asked for."""

    name: str
    unit: Unit
    bars: tuple[Rig, ...]
    plates: tuple[PlateStock, ...]
    collars: Mass = NOTHING  # both together
    racks: int = 1
    dumbbells: tuple[Bells, ...] = ()
    kettlebells: tuple[Bells, ...] = ()
    bags: tuple[Bells, ...] = ()
    stacks: tuple[Stack, ...] = ()
    bands: tuple[Band, ...] = ()

    def __hash__(self) -> int:
        """Loads are remembered by room and asked for by the thousand: its dozens of masses are hashed once."""
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash(tuple(getattr(self, field.name) for field in fields(self)))

    @cached_property
    def smallest_plate(self) -> Mass | None:
        """What one step puts on each side."""
        return min((plate.mass for plate in self.plates if plate.pairs), key=lambda mass: mass.grains, default=None)

    @property
    def step_kg(self) -> float:
        """One step of this room's bars: the smallest plate on both sides. Nought where there are no plates."""
        return 2 * self.smallest_plate.kg if self.smallest_plate else 0.0

    def bar(self, code: str) -> Rig | None:
        """The bar of this code; None where the room has none of it."""
        return next((bar for bar in self.bars if bar.code == code), None)
