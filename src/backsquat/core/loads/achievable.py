"""The loads a room can really make on each of its rigs.

A bar holds bar + collars + 2 × every sum of the plates in stock; bells and stacks are lists.
Bounded subset sums over exact whole numbers; a greedy choice is wrong when stock is short
(15 + 15 against one pair of 20, say). Of the ways to make a sum the one with the fewest plates
is kept, larger plates first.
"""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import gcd, prod

from backsquat.core.loads.mass import GRAINS_PER_KG, NOTHING, Mass
from backsquat.core.loads.room import Bells, PlateStock, Rig, RigKind, Room
from backsquat.core.numbers import sure

MOST_PER_SIDE = 500 * GRAINS_PER_KG  # no sleeve holds as much; bounds the table


@dataclass(frozen=True)
class Load:
    """A load as it is written, with its rig, and the plates of one side, inside first, where it has any."""

    rig: Rig
    total: Mass
    side: tuple[Mass, ...] = ()

    @property
    def kg(self) -> float:
        """The total in kg, as it is written (in each hand for dumb-bells)."""
        return self.total.kg


@dataclass(frozen=True)
class Loads:
    """Every load of one rig, lightest first; never empty."""

    loads: tuple[Load, ...]
    grains: tuple[int, ...]

    @property
    def empty(self) -> Load:
        """The lightest load there is: the bar with its collars, the lightest pair, the top pin."""
        return self.loads[0]

    @property
    def lightest(self) -> Load:
        """The lightest load there is to hold or to push: nothing at all is none; the bar of a rig without other loads."""
        return next((load for load in self.loads if load.total.grains > 0), self.loads[-1])

    def nearest(self, target_grains: int) -> Load:
        """Nearest load; a tie goes to the lower one."""
        above = bisect_left(self.grains, target_grains)
        if above == 0:
            return self.loads[0]
        if above == len(self.grains):
            return self.loads[-1]
        down, up = target_grains - self.grains[above - 1], self.grains[above] - target_grains
        return self.loads[above - 1 if down <= up else above]

    def at_most(self, target_grains: int) -> Load | None:
        """Heaviest load not above the target; None under the empty bar."""
        above = bisect_left(self.grains, target_grains + 1)
        return self.loads[above - 1] if above else None

    def next_above(self, grains: int) -> Load | None:
        """The lightest load heavier than so many grains (10⁻¹⁰ kg); None at the top of the room."""
        above = bisect_left(self.grains, grains + 1)
        return self.loads[above] if above < len(self.loads) else None

    def step_kg(self, near_kg: float) -> float:
        """One step about a load: from the nearest to the next above it, at the top from the one below."""
        here = self.nearest(round(sure("near_kg", near_kg) * GRAINS_PER_KG))
        place = self.grains.index(here.total.grains)
        low = min(place, len(self.grains) - 2)
        return (self.grains[low + 1] - self.grains[low]) / GRAINS_PER_KG if low >= 0 else 0.0

    def climbed(self, kg: float, steps: int, least_share: float) -> Load:
        """The load some sensible steps above or below one: each the next there is, and not less than a share of it.

        Tiny plates make tiny steps: a step under `least_share` of the load is no progress. At the
        ends of the stock it stays there.
        """
        now = self.nearest(round(sure("kg", kg) * GRAINS_PER_KG))
        for _ in range(abs(steps)):
            if steps > 0:
                least = round(now.total.grains + abs(now.total.grains) * least_share)
                above = min(bisect_left(self.grains, max(least, now.total.grains + 1)), len(self.loads) - 1)
                now = self.loads[above]
            else:
                most = round(now.total.grains - abs(now.total.grains) * least_share)
                below = bisect_left(self.grains, min(most, now.total.grains - 1) + 1) - 1
                now = self.loads[max(below, 0)]
        return now


def loads_at_most(plates: Sequence[PlateStock]) -> int:
    """How many different loads this stock can make at the most, without working them out.

    All sums are multiples of the masses' common measure: usual plates share 0.25 kg and make a
    thousand or two, odd masses share a gram and would make hundreds of thousands.
    """
    stock = [plate for plate in plates if plate.pairs]
    if not stock:
        return 1
    total = min(sum(plate.mass.grains * plate.pairs for plate in stock), MOST_PER_SIDE)
    return min(prod(plate.pairs + 1 for plate in stock), total // gcd(*(plate.mass.grains for plate in stock)) + 1)


@lru_cache(maxsize=128)
def loads_on(room: Room, rig: Rig) -> Loads:
    """All loads of a rig with the room's stock."""
    if rig.kind in (RigKind.BAR, RigKind.TRAP_BAR):
        return _with_plates(room, rig, rig.mass.grains + room.collars.grains)
    if rig.kind is RigKind.SLED:
        return _with_plates(room, rig, 0)
    return _of_list(rig, sorted(set(_listed(room, rig)), key=lambda mass: mass.grains))


def _of_list(rig: Rig, masses: Sequence[Mass]) -> Loads:
    return Loads(tuple(Load(rig, mass) for mass in masses), tuple(mass.grains for mass in masses))


def _listed(room: Room, rig: Rig) -> list[Mass]:
    """The loads of a rig without plates in pairs. Where nothing need be held, nothing is the lightest."""
    nothing = Mass(NOTHING.amount, room.unit)
    match rig.kind:
        case RigKind.DUMBBELLS:
            return [nothing, *(bell.mass for bell in room.dumbbells if bell.count >= 2)]
        case RigKind.DUMBBELL:
            return [nothing, *(bell.mass for bell in room.dumbbells if bell.count)]
        case RigKind.KETTLEBELL:
            return [nothing, *(bell.mass for bell in room.kettlebells if bell.count)]
        case RigKind.BAG:
            return [nothing, *(bag.mass for bag in room.bags if bag.count)]
        case RigKind.STACK:
            return _stack_loads(room, rig.code)
        case RigKind.BAND:
            helps = (Mass(-band.long.amount, band.long.unit) for band in room.bands)
            return [nothing, *helps]
    return [nothing, *(plate.mass for plate in room.plates if plate.pairs), *_bells(room.dumbbells, rig)]


def _bells(bells: Sequence[Bells], rig: Rig) -> list[Mass]:
    return [bell.mass for bell in bells if bell.count] if rig.kind is RigKind.BODY else []


def _stack_loads(room: Room, code: str) -> list[Mass]:
    stack = next(stack for stack in room.stacks if stack.code == code)
    low, step, high = stack.low.grains, stack.step.grains, stack.high.grains
    pins = range(low, high + 1, step) if step else (low,)
    with_add_on = {pin + extra for pin in pins for extra in {0, stack.add_on.grains}}
    return [Mass.from_grains(grains, stack.low.unit) for grains in sorted(with_add_on)]


def _with_plates(room: Room, rig: Rig, base: int) -> Loads:
    """`base` + 2 × every sum of the plates in stock."""
    stock = sorted(room.plates, key=lambda plate: -plate.mass.grains)
    ways: dict[int, tuple[int, ...]] = {0: ()}
    for plate in stock:
        size = plate.mass.grains
        grown: dict[int, tuple[int, ...]] = {}
        for total, counts in ways.items():
            for count in range(plate.pairs + 1):
                reached = total + count * size
                if reached > MOST_PER_SIDE:
                    break
                way = (*counts, count)
                known = grown.get(reached)
                if known is None or (sum(way), [-n for n in way]) < (sum(known), [-n for n in known]):
                    grown[reached] = way
        ways = grown
    loads = []
    for side_grains in sorted(ways):
        side = tuple(plate.mass for plate, count in zip(stock, ways[side_grains], strict=True) for _ in range(count))
        loads.append(Load(rig, Mass.from_grains(base + 2 * side_grains, room.unit), side))
    # By what is written: a pound bar with kilogram plates is written to the gram.
    return Loads(tuple(loads), tuple(load.total.grains for load in loads))
