"""The loads a bar can really hold: bar + collars + 2 × every sum of the plates in stock.

Bounded subset sums over exact whole numbers; a greedy choice is wrong when stock is short
(15 + 15 against one pair of 20, say). Of the ways to make a sum the one with the fewest plates
is kept, larger plates first.
"""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import gcd, prod

from backsquat.core.loads.mass import GRAINS_PER_KG, Mass
from backsquat.core.loads.room import Bar, PlateStock, Room

MOST_PER_SIDE = 500 * GRAINS_PER_KG  # no sleeve holds as much; bounds the table


@dataclass(frozen=True)
class BarLoad:
    """A load on one bar: the total with bar and collars, and the plates of one side, inside first."""

    bar: Bar
    total: Mass
    side: tuple[Mass, ...]

    @property
    def kg(self) -> float:
        return self.total.kg


@dataclass(frozen=True)
class BarLoads:
    """Every load of one bar, lightest first."""

    loads: tuple[BarLoad, ...]
    grains: tuple[int, ...]

    @property
    def empty(self) -> BarLoad:
        return self.loads[0]

    def nearest(self, target_grains: int) -> BarLoad:
        """Nearest load; a tie goes to the lower one."""
        above = bisect_left(self.grains, target_grains)
        if above == 0:
            return self.loads[0]
        if above == len(self.grains):
            return self.loads[-1]
        down, up = target_grains - self.grains[above - 1], self.grains[above] - target_grains
        return self.loads[above - 1 if down <= up else above]

    def at_most(self, target_grains: int) -> BarLoad | None:
        """Heaviest load not above the target; None under the empty bar."""
        above = bisect_left(self.grains, target_grains + 1)
        return self.loads[above - 1] if above else None

    def next_above(self, grains: int) -> BarLoad | None:
        above = bisect_left(self.grains, grains + 1)
        return self.loads[above] if above < len(self.loads) else None


def loads_at_most(plates: Sequence[PlateStock]) -> int:
    """How many different loads this stock can make at the most, without working them out.

    All sums are multiples of the masses' common measure: usual plates share 0.25 kg and make a
    thousand or two, odd masses share a gram and would make hundreds of thousands.
    """
    stock = [plate for plate in plates if plate.pairs]
    if not stock:
        return 1
    total = min(sum(plate.mass.grains * plate.pairs for plate in stock), MOST_PER_SIDE)
    return min(
        prod(plate.pairs + 1 for plate in stock), total // gcd(*(plate.mass.grains for plate in stock)) + 1
    )


@lru_cache(maxsize=64)
def bar_loads(room: Room, bar: Bar) -> BarLoads:
    """All loads of `bar` with the room's collars and plate stock."""
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
    base = bar.mass.grains + room.collars.grains
    loads = []
    for side_grains in sorted(ways):
        side = tuple(
            plate.mass for plate, count in zip(stock, ways[side_grains], strict=True) for _ in range(count)
        )
        loads.append(BarLoad(bar, Mass.from_grains(base + 2 * side_grains, room.unit), side))
    return BarLoads(tuple(loads), tuple(base + 2 * side for side in sorted(ways)))
