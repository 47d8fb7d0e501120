"""A library of movements and ladders, looked up by code."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from backsquat.core.errors import NotThere
from backsquat.core.movements.ladder import Ladder
from backsquat.core.movements.movement import Fault, Movement


@dataclass(frozen=True)
class Library:
    """All movements by code, retired ones too: old logs still need their names.

    `shipped` are the movements as they came, for words of faults a squad has since rewritten.
    """

    movements: Mapping[str, Movement]
    ladders: Mapping[str, Ladder]
    shipped: Mapping[str, Movement] = field(default_factory=dict)

    def get(self, code: str) -> Movement:
        """The movement; NotThere where nobody ever made it."""
        if code not in self.movements:
            raise NotThere("movement")
        return self.movements[code]

    def in_use(self) -> list[Movement]:
        """Every movement that is not retired, in the library's order."""
        return [movement for movement in self.movements.values() if not movement.retired]

    def fault(self, code: str, fault: str) -> Fault | None:
        """The words for a logged fault, also where the movement has since been rewritten; None for no fault."""
        found = self.movements[code].fault(fault) if code in self.movements else None
        found = found or (self.shipped[code].fault(fault) if code in self.shipped else None)
        return found or (Fault(fault, fault.replace("_", " ").capitalize(), "") if fault else None)

    def ladders_of(self, code: str) -> list[tuple[Ladder, int]]:
        """The ladders a movement stands on, with its level from 0."""
        return list(self._ladders_by_movement.get(code, ()))

    @cached_property
    def _ladders_by_movement(self) -> dict[str, list[tuple[Ladder, int]]]:
        found: dict[str, list[tuple[Ladder, int]]] = defaultdict(list)
        for ladder in self.ladders.values():
            for code in dict.fromkeys(code for level in ladder.levels for code in level):
                found[code].append((ladder, ladder.level_of(code) or 0))
        return dict(found)
