"""The form of a movement: lists are written one a line, pairs with a bar between."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.movement import (
    Family,
    HeldWhere,
    Implement,
    Muscle,
    MuscleLength,
    Region,
    SetUp,
    SideMode,
)
from backsquat.library.shelf import MovementEntry, equipment, poses
from backsquat.ui.phrases.problems import problem_words

LINES = ("aliases", "set_up", "cues", "equipment")  # one a line
ROWS = ("faults", "felt")  # one a line, parts between bars
MANY = ("prime", "helper", "regions", "remembered")  # ticked
WHOLE = ("knee_strain", "groin_strain", "trunk_lean", "skill", "balance", "rig_s", "rest_s")
NUMBERS = ("emphasis", "back_index")
CHOICES: dict[str, list[str]] = {
    "family": [item.value for item in Family], "convention": list(CONVENTIONS),
    "side_mode": [item.value for item in SideMode], "implement": [item.value for item in Implement],
    "held": [item.value for item in HeldWhere], "length": [item.value for item in MuscleLength],
}  # fmt: skip
TICKS: dict[str, list[str]] = {
    "prime": [item.value for item in Muscle], "helper": [item.value for item in Muscle],
    "regions": [item.value for item in Region], "remembered": [item.value for item in SetUp],
}  # fmt: skip


@dataclass
class EntryForm:
    """What was typed, kept as it is, with the problems beside each field."""

    typed: Mapping[str, Any]
    errors: dict[str, str] = field(default_factory=dict)

    def value(self, name: str) -> str:
        return str(self.typed.get(name, ""))

    def ticked(self, name: str) -> list[str]:
        found = self.typed.get(name, [])
        return list(found) if isinstance(found, list) else [str(found)]

    def put(self, error: ImpossibleInput) -> None:
        for problem in error.problems:
            self.errors.setdefault(problem.field, problem_words(problem))

    def values(self) -> dict[str, Any]:
        """The typed text as an entry takes it; numbers that cannot be read are left to its validation."""
        found: dict[str, Any] = {
            name: self.value(name).strip()
            for name in ("name", "purpose", "safety", "failing", "work", "tempo", *CHOICES)
        }
        for name in (*LINES, *ROWS):
            rows = [row.strip() for row in self.value(name)[:4000].splitlines() if row.strip()]
            found[name] = [[part.strip() for part in row.split("|")] for row in rows] if name in ROWS else rows
        found |= {name: self.ticked(name) for name in MANY}
        found |= {name: self.value(name).replace(",", ".").strip() for name in (*WHOLE, *NUMBERS)}
        for name in ("body_share", "start_share"):
            found[name] = self.value(name).replace(",", ".").strip() or None
        found["depth"] = [part.strip() for part in self.value("depth").split("|")]
        parent, part = self.value("ratio_parent"), self.value("ratio_share").replace(",", ".").strip()
        found["ratio"] = [parent, part] if parent and part else None
        found["poses"] = [self.value("pose_start"), self.value("pose_end")]
        return found


def form_of(entry: MovementEntry) -> EntryForm:
    """The form filled with an entry as it stands."""
    plain = entry.model_dump(mode="json")
    typed: dict[str, Any] = {name: value for name, value in plain.items() if isinstance(value, str | int | float)}
    typed |= {name: "\n".join(plain[name]) for name in LINES}
    typed |= {name: "\n".join(" | ".join(row) for row in plain[name]) for name in ROWS}
    typed |= {name: plain[name] for name in MANY}
    typed |= {name: "" if plain[name] is None else plain[name] for name in ("body_share", "start_share")}
    typed["depth"] = " | ".join(plain["depth"])
    typed["ratio_parent"], typed["ratio_share"] = plain["ratio"] or ("", "")
    typed["pose_start"], typed["pose_end"] = plain["poses"]
    return EntryForm(typed)


def offered() -> dict[str, Any]:
    """What the selects and ticks of the form offer."""
    return {"choices": CHOICES, "ticks": TICKS, "poses": sorted(poses()), "equipment": equipment()}
