"""Ladders: movements from easiest to hardest. A level may be any one of several movements.

A level this room cannot rig never blocks the ladder: the next one that can be rigged follows.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

from backsquat.core.movements.movement import Movement


@dataclass(frozen=True)
class Ladder:
    """Movements from the easiest to the hardest, each level earned on the one below."""

    code: str
    name: str
    purpose: str
    levels: tuple[tuple[str, ...], ...]  # easiest first; each names the movements that are this level
    through: str = ""  # the movement whose passed readiness check counts as having earned its level

    def level_of(self, movement: str) -> int | None:
        """The place of a movement on this ladder, from 0."""
        return self._places.get(movement)

    @cached_property
    def _places(self) -> dict[str, int]:
        """Asked for with every verdict: from the hardest level down, so that the easiest holds."""
        return {code: n for n, level in reversed(list(enumerate(self.levels))) for code in level}


def ladder_problems(ladders: Iterable[Ladder], movements: Mapping[str, Movement]) -> list[str]:
    """What is wrong with a set of ladders: empty levels, unknown or repeated movements, cycles."""
    found = []
    follows: dict[str, set[str]] = {}
    for ladder in ladders:
        seen: set[str] = set()
        if ladder.through and ladder.level_of(ladder.through) is None:
            found.append(f"{ladder.code}: {ladder.through} is on none of its levels")
        for place, level in enumerate(ladder.levels):
            if not level:
                found.append(f"{ladder.code}: level {place + 1} is empty")
            for code in level:
                if code not in movements:
                    found.append(f"{ladder.code}: unknown movement {code}")
                if code in seen:
                    found.append(f"{ladder.code}: {code} stands on it twice")
                seen.add(code)
            if place + 1 < len(ladder.levels):
                for code in level:
                    follows.setdefault(code, set()).update(ladder.levels[place + 1])
    found += [f"a cycle through {code}" for code in sorted(follows) if _reaches(code, code, follows)]
    return found


def _reaches(start: str, goal: str, follows: Mapping[str, set[str]]) -> bool:
    waiting, seen = list(follows.get(start, ())), set()
    while waiting:
        code = waiting.pop()
        if code == goal:
            return True
        if code not in seen:
            seen.add(code)
            waiting += follows.get(code, ())
    return False


def rigged(movement: Movement, equipment: frozenset[str]) -> tuple[str, ...]:
    """What the room lacks for a movement: the first choice of every group it cannot meet; empty: it can."""
    return tuple(group[0] for group in movement.equipment if not equipment.intersection(group))


def level_beyond(
    ladder: Ladder, level: int, way: int, allowed: Callable[[str], bool]
) -> tuple[int, tuple[str, ...]] | None:
    """The next level up (`way` 1) or down (−1) with a movement that is allowed, and those movements."""
    place = level + way
    while 0 <= place < len(ladder.levels):
        open_here = tuple(code for code in ladder.levels[place] if allowed(code))
        if open_here:
            return place, open_here
        place += way
    return None
