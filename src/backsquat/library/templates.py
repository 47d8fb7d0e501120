"""Block templates: the shipped ones, and the open format in which a squad's own are kept and shared (JSON)."""

import tomllib
from functools import cache
from pathlib import Path
from typing import Any, Self

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from backsquat.core.errors import ImpossibleInput
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.progressions import PROGRESSIONS

ROLES = ("main", "second", "assistance", "spare")
WEEKS_MOST = 26
EXERCISES_MOST = 24
Number = int | float


class ExerciseEntry(BaseModel):
    """One exercise of a template: a movement, or everybody's own level of a ladder."""

    model_config = ConfigDict(extra="forbid")
    day: int = Field(ge=0, le=6)
    movement: str = Field("", max_length=60)
    ladder: str = Field("", max_length=60)
    progression: str = Field("", max_length=20)
    role: str = "main"
    superset: int = Field(0, ge=0, le=EXERCISES_MOST)
    circuit: bool = False
    rest_s: int = Field(0, ge=0, le=900)
    manner: dict[str, Number | str | bool] = Field(default_factory=dict)
    variation: str = Field("", max_length=60)
    parameters: dict[str, Number | str | list[list[int]]] = Field(default_factory=dict)

    @model_validator(mode="after")
    def whole(self) -> Self:
        if bool(self.movement) == bool(self.ladder):
            raise ValueError("an exercise is a movement or a ladder")
        self.progression = self.progression or ("ladder" if self.ladder else "window")
        if self.progression not in PROGRESSIONS:
            raise ValueError(f"no progression {self.progression}")
        if self.role not in ROLES:
            raise ValueError(f"no role {self.role}")
        try:
            PROGRESSIONS[self.progression].read(self.parameters)
            manner_from(self.manner)
        except (ImpossibleInput, TypeError) as error:
            raise ValueError(str(error)) from None
        return self


class TemplateEntry(BaseModel):
    """A block to start from."""

    model_config = ConfigDict(extra="forbid")
    name: str = Field(min_length=1, max_length=40)
    purpose: str = Field("", max_length=40)
    words: str = Field("", max_length=240)
    weeks: int = Field(ge=1, le=WEEKS_MOST)
    in_season: bool = False
    exercises: list[ExerciseEntry] = Field(min_length=1, max_length=EXERCISES_MOST)

    @property
    def days(self) -> list[int]:
        return sorted({exercise.day for exercise in self.exercises})


@cache
def shipped() -> dict[str, TemplateEntry]:
    text = (Path(__file__).parent / "templates.toml").read_text(encoding="utf-8")
    return {code: TemplateEntry.model_validate(entry) for code, entry in tomllib.loads(text).items()}


def from_json(text: str) -> TemplateEntry | list[str]:
    """A template from a shared file, or what is wrong with it, place by place."""
    try:
        return TemplateEntry.model_validate_json(text)
    except ValidationError as error:
        return [
            f"{'.'.join(str(part) for part in problem['loc']) or 'file'}: {problem['msg']}"
            for problem in error.errors()[:8]
        ]


def as_plain(entry: TemplateEntry) -> dict[str, Any]:
    return entry.model_dump(mode="json", exclude_defaults=True) | {"weeks": entry.weeks}
