"""From the load a rule asks for to a load this room has."""

from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.mass import GRAINS_PER_KG
from backsquat.core.loads.room import Rig, RigKind, Room
from backsquat.core.working import Step, plain, signed


class Rounding(StrEnum):
    NEAREST = "nearest"  # tie → lower
    DOWN = "down"  # back-offs, easy weeks and in season


@dataclass(frozen=True)
class RoundedLoad:
    """The load, and how far it is from what was asked for."""

    load: Load
    target_kg: float
    rounding: Rounding

    @property
    def off_kg(self) -> float:
        return self.load.kg - self.target_kg

    @property
    def step(self) -> Step:
        words = f"nearest load there is, {signed(self.off_kg)} kg"
        if self.rounding is Rounding.DOWN:
            words = f"next load down, {signed(self.off_kg)} kg"
        if abs(self.off_kg) < 0.005:
            words = "there is this load"
        elif self.target_kg:
            words += f" ({signed(100 * self.off_kg / self.target_kg)} %)"
        return Step("This room", words, self.load.total.text, self.load.total.unit)


def grains(kg: float) -> int:
    return round(kg * GRAINS_PER_KG)


def round_load(
    target_kg: float, room: Room, rig: Rig, rounding: Rounding = Rounding.NEAREST
) -> RoundedLoad | None:
    """The load there is for a target in kg, or None where the target is under the lightest (the empty bar).

    Under the bar nothing is rounded up: the caller offers what `offers_under_bar` finds.
    """
    loads, target = loads_on(room, rig), grains(target_kg)
    if target < loads.empty.total.grains:
        return None
    load = loads.nearest(target) if rounding is Rounding.NEAREST else loads.at_most(target)
    return None if load is None else RoundedLoad(load, target_kg, rounding)


def moved_load(
    target_kg: float, most_kg: float | None, room: Room, rig: Rig, rounding: Rounding = Rounding.NEAREST
) -> RoundedLoad | None:
    """What was meant for another room, here: the nearest to the same target, and never over `most_kg`.

    From the target and not from the load it had become there: who goes and comes back finds the first load again.
    """
    rounded = round_load(target_kg, room, rig, rounding)
    if rounded and most_kg is not None and rounded.load.kg > most_kg + 1e-9:
        return round_load(min(target_kg, most_kg), room, rig, Rounding.DOWN)
    return rounded


def eased_load(load: Load, share: float, room: Room) -> tuple[Load, Step]:
    """A share of a load, rounded down, with its step of working; the lightest there is where the share is under it."""
    rounded = round_load(load.kg * share, room, load.rig, Rounding.DOWN)
    if rounded is None:
        lightest = loads_on(room, load.rig).empty
        words = f"{plain(load.kg * share)} kg is under the lightest there is: that one, with fewer sets"
        return lightest, Step("This room", words, lightest.total.text, lightest.total.unit)
    return rounded.load, rounded.step


@dataclass(frozen=True)
class Offer:
    """Something lighter that could stand in for a target under the empty bar."""

    kind: str  # "lighter_bar" or "held_weight"
    load: Load | None = None


def offers_under_bar(target_kg: float, room: Room, rig: Rig) -> tuple[Offer, ...]:
    """What can be offered instead of `rig`: each lighter bar that can hold the target, then a held weight."""
    offers = []
    for other in sorted(room.bars, key=lambda other: -other.mass.grains):
        if other.kind is rig.kind and other.mass.grains < rig.mass.grains:
            rounded = round_load(target_kg, room, other)
            if rounded:
                offers.append(Offer("lighter_bar", rounded.load))
    return (*offers, Offer("held_weight"))


def how_made(load: Load) -> Step:
    """How the load is made: the bar and the plates of one side, largest inside, or what is picked up."""
    rig = load.rig
    if rig.kind not in (RigKind.BAR, RigKind.TRAP_BAR, RigKind.SLED):
        return Step("Take", rig.name, HOW_TAKEN.get(rig.kind, "{}").format(load.total.text), load.total.unit)
    plates = " + ".join(mass.text for mass in load.side) or "no plates"
    extra = load.total.grains - rig.mass.grains - 2 * sum(mass.grains for mass in load.side)
    collars = f", collars {plain(extra / GRAINS_PER_KG, 2)} kg" if extra else ""
    own = f" {rig.mass.text} {rig.mass.unit}" if rig.mass.grains else ""
    return Step("Each side", f"{rig.name}{own}{collars}", plates)


HOW_TAKEN = {RigKind.DUMBBELLS: "2 × {}", RigKind.STACK: "pin at {}", RigKind.BAND: "{}"}
