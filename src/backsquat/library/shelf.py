"""The shipped movements, read once from the data files beside this module and validated."""

import tomllib
from functools import cache
from pathlib import Path

from pydantic import BaseModel, ConfigDict, Field

from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.movement import DepthStandard, Family, Fault, Movement, Region

FOLDER = Path(__file__).parent / "movements"


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class FaultEntry(_Strict):
    code: str
    look: str = Field(min_length=5)
    fix: str = Field(min_length=10)
    breaking: bool = True


class DepthEntry(_Strict):
    code: str
    words: str = Field(min_length=4)


class MovementEntry(_Strict):
    """One movement as a data file holds it; an incomplete one is refused."""

    code: str = Field(pattern=r"^[a-z_]+$")
    name: str
    tag: str = Field(pattern=r"^[A-Z]$")
    family: Family
    convention: str
    purpose: str = Field(min_length=20)
    regions: list[Region] = Field(min_length=1)
    cues: list[str] = Field(min_length=2, max_length=4)
    faults: list[FaultEntry] = Field(min_length=2)
    safety: str = Field(min_length=20)
    depth: DepthEntry

    def movement(self) -> Movement:
        if self.convention not in CONVENTIONS:
            raise ValueError(f"{self.code}: unknown load convention {self.convention}")
        return Movement(
            self.code, self.name, self.tag, self.family, self.convention, self.purpose,
            frozenset(self.regions), tuple(self.cues),
            tuple(Fault(f.code, f.look, f.fix, f.breaking) for f in self.faults),
            self.safety, DepthStandard(self.depth.code, self.depth.words),
        )  # fmt: skip


def read(text: str) -> list[Movement]:
    """Movements of one data file; ValueError names what is incomplete."""
    rows = tomllib.loads(text).get("movement", [])
    return [MovementEntry.model_validate(row).movement() for row in rows]


@cache
def movements() -> dict[str, Movement]:
    """All shipped movements by code, squats before hinges."""
    order = {family: place for place, family in enumerate(Family)}
    found = [m for path in sorted(FOLDER.glob("*.toml")) for m in read(path.read_text("utf-8"))]
    return {m.code: m for m in sorted(found, key=lambda m: (order[m.family], m.name))}
