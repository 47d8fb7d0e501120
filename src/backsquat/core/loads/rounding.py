"""From the load a rule asks for to a load this room has."""

from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.mass import GRAINS_PER_KG
from backsquat.core.loads.room import Rig, RigKind, Room
from backsquat.core.numbers import sure
from backsquat.core.working import Fact, Step


class Rounding(StrEnum):
    """Which of the loads there are is taken for a target between two of them."""

    NEAREST = "nearest"  # tie → lower
    DOWN = "down"  # back-offs, deload weeks and in season


@dataclass(frozen=True)
class RoundedLoad:
    """The load, and how far it is from what was asked for."""

    load: Load
    target_kg: float
    rounding: Rounding

    @property
    def off_kg(self) -> float:
        """Load minus target, in kg: what the plates made of the number."""
        return self.load.kg - self.target_kg

    @property
    def step(self) -> Step:
        """How far the load is from the target, as a step of working."""
        facts: dict[str, Fact] = {"rounding": self.rounding.value, "off_kg": self.off_kg}
        if self.target_kg:
            facts["off_percent"] = 100 * self.off_kg / self.target_kg
        return Step("room_load", facts, self.load.total.text, self.load.total.unit)


def grains(kg: float) -> int:
    """Kilograms as whole grains of 10⁻¹⁰ kg, the unit exact loads are compared in."""
    return round(sure("kg", kg) * GRAINS_PER_KG)


def round_load(target_kg: float, room: Room, rig: Rig, rounding: Rounding = Rounding.NEAREST) -> RoundedLoad | None:
    """The load there is for a target in kg, or None where the target is under the lightest (the empty bar).

    Under the bar nothing is rounded up: the caller offers what `offers_under_bar` finds.
    """
    loads, target = loads_on(room, rig), grains(target_kg)
    if target < loads.empty.total.grains:
        return None
    load = loads.nearest(target) if rounding is Rounding.NEAREST else loads.at_most(target)
    return None if load is None else RoundedLoad(load, target_kg, rounding)


def never_nothing(rounded: RoundedLoad, most_kg: float, room: Room) -> RoundedLoad:
    """Where a target above nought has become nothing at all, the lightest weight that is not over `most_kg`."""
    if rounded.load.kg or rounded.target_kg <= 0:
        return rounded
    lightest = loads_on(room, rounded.load.rig).next_above(0)
    if lightest is None or lightest.kg > most_kg + 1e-9:
        return rounded
    return RoundedLoad(lightest, rounded.target_kg, rounded.rounding)


def eased_load(load: Load, share: float, room: Room) -> tuple[Load, Step]:
    """A share of a load, rounded down, with its step of working; the lightest there is where the share is under it."""
    rounded = round_load(load.kg * share, room, load.rig, Rounding.DOWN)
    if rounded is None:
        lightest = loads_on(room, load.rig).empty
        step = Step("lightest_load", {"target_kg": load.kg * share}, lightest.total.text, lightest.total.unit)
        return lightest, step
    rounded = never_nothing(rounded, load.kg, room)
    return rounded.load, rounded.step


@dataclass(frozen=True)
class Offer:
    """Something lighter that could stand in for a target under the empty bar."""

    kind: str  # "lighter_bar" or "held_weight"
    load: Load | None = None


def offers_under_bar(target_kg: float, room: Room, rig: Rig) -> tuple[Offer, ...]:
    """What can be offered instead of `rig`: each lighter bar with no more than the target, then a held weight."""
    offers = []
    for other in sorted(room.bars, key=lambda other: -other.mass.grains):
        if other.kind is rig.kind and other.mass.grains < rig.mass.grains:
            rounded = round_load(target_kg, room, other, Rounding.DOWN)
            if rounded:
                offers.append(Offer("lighter_bar", rounded.load))
    return (*offers, Offer("held_weight"))


def how_made(load: Load) -> Step:
    """How the load is made: the bar and the plates of one side, largest inside, or what is picked up."""
    rig = load.rig
    if rig.kind not in (RigKind.BAR, RigKind.TRAP_BAR, RigKind.SLED):
        facts: dict[str, Fact] = {"rig": rig.name, "kind": rig.kind.value}
        return Step("take", facts, load.total.text, load.total.unit)
    extra = load.total.grains - rig.mass.grains - 2 * sum(mass.grains for mass in load.side)
    collars_kg = (
        extra / GRAINS_PER_KG if abs(extra) >= GRAINS_PER_KG // 1000 else 0.0
    )  # less is the rounding of a total
    facts = {"rig": rig.name, "collars_kg": collars_kg}
    if rig.mass.grains:
        facts |= {"bar": rig.mass.text, "bar_unit": rig.mass.unit}
    return Step("each_side", facts, " + ".join(mass.text for mass in load.side))
