"""Who shares a rack, and whose turn it is.

Groups are cut from the lifters sorted by load, so that neighbours share plates; sizes differ by
one at most. On a rack the next to lift is the one with the fewest sets done, in the order of the
group: everybody has had a set before anyone has two. Who comes late joins where the group is, and does not lift
set after set until they have caught up.
"""

import itertools
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from backsquat.core.numbers import sure


@dataclass(frozen=True)
class LifterInTurn:
    """Somebody in a session: the load in kg, sets done and asked."""

    athlete_id: int
    load_kg: float
    sets_done: int
    sets_asked: int
    joined_at: int = 0  # sets the group had done when they came

    @property
    def rounds(self) -> int:
        """Sets done, as the group counts them."""
        return self.sets_done + self.joined_at

    @property
    def finished(self) -> bool:
        """Whether all sets are done."""
        return self.sets_done >= self.sets_asked


def share_racks(lifters: Sequence[LifterInTurn], racks: int) -> tuple[tuple[LifterInTurn, ...], ...]:
    """At most `racks` groups, lightest first; no group is empty."""
    ordered = sorted(lifters, key=lambda lifter: (lifter.load_kg, lifter.athlete_id))
    groups = min(int(sure("racks", racks, 1)), len(ordered))
    cuts = [round(n * len(ordered) / groups) for n in range(groups + 1)] if groups else []
    return tuple(tuple(ordered[a:b]) for a, b in itertools.pairwise(cuts))


def around_closed(
    groups: Sequence[Sequence[LifterInTurn]], racks: int, closed: Collection[int]
) -> tuple[tuple[LifterInTurn, ...], ...]:
    """By rack (from 0) who lifts there once some have closed in the middle of a session: nobody moves who need not.

    A group goes whole to a rack nobody is on; where there is none, each of it to the nearest in load of the smaller groups.
    Closed racks are empty. `closed` may not be all of them.
    """
    placed = [list(groups[n]) if n < len(groups) else [] for n in range(racks)]
    is_open = [n for n in range(racks) if n not in closed]
    for n in sorted(closed):
        group, placed[n] = placed[n], []
        free = next((other for other in is_open if not placed[other]), None)
        if free is not None:
            placed[free] = group
            continue
        for lifter in group:
            best = min(is_open, key=lambda other: (len(placed[other]), _apart(placed[other], lifter)))
            placed[best].append(lifter)
    return tuple(map(tuple, placed))


def _apart(group: Sequence[LifterInTurn], lifter: LifterInTurn) -> float:
    """How far somebody's load is from the nearest of a group, kg."""
    return min(abs(one.load_kg - lifter.load_kg) for one in group)


def turn_order(group: Sequence[LifterInTurn]) -> tuple[LifterInTurn, ...]:
    """Who lifts next, then after that; the finished are left out."""
    waiting = [lifter for lifter in group if not lifter.finished]
    return tuple(sorted(waiting, key=lambda lifter: lifter.rounds))
