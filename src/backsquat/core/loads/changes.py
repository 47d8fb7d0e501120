"""From one load to the next on the same bar: which plates come off a side, which go on."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from backsquat.core.loads.mass import Mass
from backsquat.core.loads.room import PlateStock


@dataclass(frozen=True)
class PlateChange:
    """Plates of one side, in the order they are handled."""

    off: tuple[Mass, ...]  # outermost first
    on: tuple[Mass, ...]  # innermost first

    @property
    def moves(self) -> int:
        """Plates to be taken off and put on, on one side."""
        return len(self.off) + len(self.on)


def plate_change(now: tuple[Mass, ...], then: tuple[Mass, ...]) -> PlateChange:
    """The change a side needs: all outside the first difference moves."""
    same = 0
    for have, want in zip(now, then, strict=False):
        if have != want:
            break
        same += 1
    return PlateChange(tuple(reversed(now[same:])), then[same:])


def arranged(now: Sequence[Mass], then: tuple[Mass, ...], stock: Sequence[PlateStock]) -> tuple[Mass, ...]:
    """The plates of one side as heavy as `then`, largest inside, that need the fewest moves from `now`.

    40 to 50 kg is a 5 beside the 10, not a 15 in its stead. `then`, with the fewest plates, where nothing is better.
    """
    wanted = sum(mass.grains for mass in then)
    best, moves = then, plate_change(tuple(now), then).moves
    for kept in range(len(now), -1, -1):
        rest = wanted - sum(mass.grains for mass in now[:kept])
        if len(now) - kept >= moves:
            break
        if rest < 0:
            continue
        added = _fewest(rest, _left(stock, now[:kept]), moves - (len(now) - kept) - 1)
        if added is not None:
            best, moves = (*now[:kept], *added), len(now) - kept + len(added)
    return best


def _left(stock: Sequence[PlateStock], kept: Sequence[Mass]) -> list[tuple[Mass, int]]:
    """What may go outside the plates that stay: what is there, and no larger than the last of them; large ones first."""
    used = Counter(mass.grains for mass in kept)
    most = kept[-1].grains if kept else None
    left = [(plate.mass, plate.pairs - used[plate.mass.grains]) for plate in stock]
    fit = [(mass, pairs) for mass, pairs in left if pairs > 0 and (most is None or mass.grains <= most)]
    return sorted(fit, key=lambda item: -item[0].grains)


def _fewest(rest: int, left: Sequence[tuple[Mass, int]], most: int) -> tuple[Mass, ...] | None:
    """The fewest plates, `most` at most, that weigh exactly so many grains; None where there are none."""
    if rest == 0:
        return ()
    best: tuple[Mass, ...] | None = None
    for n, (mass, pairs) in enumerate(left):
        if most <= 0 or mass.grains * most < rest:
            break  # even so many of the largest left weigh too little
        if mass.grains <= rest:
            outside = _fewest(
                rest - mass.grains, [(mass, pairs - 1), *left[n + 1 :]] if pairs > 1 else left[n + 1 :], most - 1
            )
            if outside is not None:
                best, most = (mass, *outside), len(outside)
    return best
