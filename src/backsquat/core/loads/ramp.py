"""The sets that lead up to a top load, by loads that exist (rules 2.8)."""

from dataclasses import dataclass

from backsquat.core.loads.achievable import Load, Loads
from backsquat.core.loads.mass import GRAINS_PER_KG
from backsquat.core.loads.room import FULL_DIAMETER_MM, RigKind, Room

SHARES = ((0.5, 5), (0.7, 3), (0.85, 2))  # share of the top load → reps, falling
FIRST_REPS = 8  # with the empty bar


@dataclass(frozen=True)
class RampSet:
    """One set on the way to the top load: what is on the bar, for how many reps."""

    load: Load
    reps: int
    note: str = ""  # code: the empty bar has no height of its own on the floor


def ramp_to(top: Load, loads: Loads, *, from_floor: bool = False) -> tuple[RampSet, ...]:
    """Ramp sets below `top`: the empty bar, then about 50, 70 and 85 %; steps that coincide are skipped.

    Only what is loaded with plates or a pin is ramped; bells and bodies are not.
    """
    kind = top.rig.kind
    if kind not in (RigKind.BAR, RigKind.TRAP_BAR, RigKind.STACK, RigKind.SLED):
        return ()
    sets = []
    if kind in (RigKind.BAR, RigKind.TRAP_BAR) and loads.empty.total.grains < top.total.grains:
        sets.append(RampSet(loads.empty, FIRST_REPS, "held_high" if from_floor else ""))
    for share, reps in SHARES:
        load = loads.at_most(round(top.kg * share * GRAINS_PER_KG))
        above = sets[-1].load.total.grains if sets else loads.empty.total.grains - 1
        if load and above < load.total.grains < top.total.grains:
            sets.append(RampSet(load, reps))
    return tuple(sets)


def needs_blocks(load: Load, room: Room) -> bool:
    """Whether a load pulled from the floor has no plate of full diameter, so that the bar lies too low."""
    wide = {plate.mass for plate in room.plates if plate.diameter_mm >= FULL_DIAMETER_MM}
    return load.rig.kind in (RigKind.BAR, RigKind.TRAP_BAR) and not wide.intersection(load.side)
