"""The shipped movements, ladders and poses, read once from the data files here and validated.

A movement may say `like = "other"`: what it leaves out is taken from that one. What comes out is
always whole; an incomplete entry is refused with its code and what is missing.
"""

import re
import tomllib
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any, Self

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.ladder import Ladder, ladder_problems
from backsquat.core.movements.movement import (
    DepthStandard,
    Family,
    Fault,
    Felt,
    HeldWhere,
    Implement,
    Movement,
    Muscle,
    MuscleLength,
    Ratio,
    Region,
    SetUp,
    SideMode,
    Work,
)
from backsquat.core.movements.pose import Pose

FOLDER = Path(__file__).parent
OWN_WORDS = ("name", "purpose", "set_up")  # never taken from another entry
WORK = re.compile(r"^(\d+) ?[x×] ?(\d+)(?:[-–](\d+))?( ?s)?$")


class MovementEntry(BaseModel):
    """One movement as a data file, or a squad's own row, holds it; an incomplete one is refused."""

    model_config = ConfigDict(extra="forbid")

    code: str = Field(pattern=r"^[a-z][a-z0-9_]*$")
    name: str = Field(min_length=3, max_length=60)
    aliases: list[str] = []
    family: Family
    convention: str
    purpose: str = Field(min_length=20, max_length=300)
    set_up: list[str] = Field(min_length=1, max_length=6)
    cues: list[str] = Field(min_length=2, max_length=4)
    faults: list[list[str]] = Field(min_length=2, max_length=5)
    felt: list[list[str]] = Field(min_length=1, max_length=5)
    safety: str = Field(min_length=20)
    failing: str = Field(min_length=10)
    depth: list[str] = Field(min_length=2, max_length=2)
    side_mode: SideMode = SideMode.BOTH
    implement: Implement
    held: HeldWhere
    emphasis: float = Field(ge=-2, le=2)
    length: MuscleLength
    prime: list[Muscle] = Field(min_length=1)
    helper: list[Muscle] = []
    regions: list[Region] = Field(min_length=1)
    body_share: float | None = Field(default=None, ge=0, le=1)
    back_index: float = Field(ge=0, le=3)
    knee_strain: int = Field(ge=0, le=3)
    groin_strain: int = Field(ge=0, le=3)
    trunk_lean: int = Field(ge=0, le=3)
    skill: int = Field(ge=1, le=5)
    balance: int = Field(ge=0, le=3)
    rig_s: int = Field(ge=0, le=900)
    equipment: list[str] = []
    ratio: tuple[str, float] | None = None
    start_share: float | None = Field(default=None, gt=0, le=1)
    work: str
    rest_s: int = Field(ge=0, le=600)
    tempo: str = Field(pattern=r"^\d+-\d+-\d+-\d+$")
    remembered: list[SetUp] = []
    poses: tuple[str, str]

    @field_validator("faults")
    @classmethod
    def _whole_faults(cls, rows: list[list[str]]) -> list[list[str]]:
        for row in rows:
            if len(row) not in (3, 4) or len(row[1]) < 5 or len(row[2]) < 10 or row[3:] not in ([], ["minor"]):
                raise ValueError(f"a fault is [code, look, fix] with minor or nothing after it: {row}")
        return rows

    @field_validator("felt")
    @classmethod
    def _whole_felt(cls, rows: list[list[str]]) -> list[list[str]]:
        if any(len(row) != 2 or len(row[1]) < 10 for row in rows):
            raise ValueError("each is [where it is felt, what that means]")
        return rows

    @model_validator(mode="after")
    def _known(self) -> Self:
        if self.convention not in CONVENTIONS:
            raise ValueError(f"unknown load convention {self.convention}")
        if not WORK.match(self.work):
            raise ValueError(f"work is like 3x8-12 or 3x30s, not {self.work}")
        if unknown := [code for group in self.equipment for code in group.split("|") if code not in equipment()]:
            raise ValueError(f"unknown equipment {', '.join(unknown)}")
        if unknown := [code for code in self.poses if code not in poses()]:
            raise ValueError(f"unknown pose {', '.join(unknown)}")
        return self

    def movement(self, *, own: bool = False, retired: bool = False) -> Movement:
        match = WORK.match(self.work)
        assert match is not None  # the validator has seen it
        sets, low, high = int(match[1]), int(match[2]), int(match[3] or match[2])
        same = {
            name: getattr(self, name)
            for name in (
                "code",
                "name",
                "family",
                "convention",
                "purpose",
                "safety",
                "failing",
                "side_mode",
                "implement",
                "held",
                "emphasis",
                "length",
                "body_share",
                "start_share",
                "back_index",
                "knee_strain",
                "groin_strain",
                "trunk_lean",
                "skill",
                "balance",
                "rig_s",
                "poses",
            )
        }
        lists: dict[str, Any] = {
            name: tuple(getattr(self, name)) for name in ("aliases", "set_up", "cues", "prime", "helper", "remembered")
        }
        return Movement(
            **same,
            **lists,
            faults=tuple(Fault(row[0], row[1], row[2], len(row) == 3) for row in self.faults),
            felt=tuple(Felt(*row) for row in self.felt),
            depth=DepthStandard(*self.depth),
            regions=frozenset(self.regions),
            equipment=tuple(tuple(group.split("|")) for group in self.equipment),
            ratio=Ratio(*self.ratio) if self.ratio else None,
            work=Work(sets, low, high, bool(match[4]), self.rest_s, self.tempo),
            own=own,
            retired=retired,
        )


def _table(name: str) -> dict[str, Any]:
    return tomllib.loads((FOLDER / f"{name}.toml").read_text("utf-8"))


@cache
def equipment() -> dict[str, str]:
    """What a room can have: code → name."""
    return dict(_table("equipment"))


@cache
def poses() -> dict[str, Pose]:
    found = {}
    for code, row in _table("poses").items():
        pair = {name: tuple(row[name]) for name in ("arm", "rear", "props") if name in row}
        found[code] = Pose(
            row["shin"], row["thigh"], row["trunk"], toes=row.get("toes"), lift=row.get("lift", 0.0), **pair
        )
    return found


def whole(rows: Mapping[str, Mapping[str, Any]], faults: Mapping[str, list[str]]) -> dict[str, MovementEntry]:
    """Entries with what they take from each other filled in; ValueError names what is incomplete."""
    found: dict[str, MovementEntry] = {}
    for code in rows:
        values, seen = dict(rows[code]), {code}
        while "like" in values:
            parent = values.pop("like")
            if parent in seen or parent not in rows:
                raise ValueError(f"{code} is like {parent}, which is not there or comes round again")
            seen.add(parent)
            taken = {name: value for name, value in rows[parent].items() if name not in (*OWN_WORDS, "aliases")}
            values = taken | values
        values["faults"] = [
            [fault, *faults.get(fault, [])] if isinstance(fault, str) else fault for fault in values.get("faults", [])
        ]
        try:
            found[code] = MovementEntry(code=code, **values)
        except ValidationError as error:
            raise ValueError(f"{code}: {error}") from error
    return found


@cache
def entries() -> dict[str, MovementEntry]:
    """All shipped entries by code, in the order of families and files."""
    rows: dict[str, Any] = {}
    for path in sorted((FOLDER / "movements").glob("*.toml")):
        rows |= tomllib.loads(path.read_text("utf-8"))
    found = whole(rows, _table("faults"))
    order = {family: nth for nth, family in enumerate(Family)}
    position = {code: nth for nth, code in enumerate(found)}
    return dict(sorted(found.items(), key=lambda item: (order[item[1].family], position[item[0]])))


@cache
def movements() -> dict[str, Movement]:
    """All shipped movements by code."""
    return {code: entry.movement() for code, entry in entries().items()}


@cache
def ladders() -> dict[str, Ladder]:
    """The shipped ladders; ValueError where one names what is not there or goes round."""
    found = {
        code: Ladder(
            code, row["name"], row["purpose"], tuple(tuple(level) for level in row["levels"]), row.get("through", "")
        )
        for code, row in _table("ladders").items()
    }
    if problems := ladder_problems(found.values(), movements()):
        raise ValueError("; ".join(problems))
    return found
