"""The shipped screens, read from `screens.toml`; a squad's own rows have the same form."""

import tomllib
from functools import cache

from pydantic import BaseModel, ConfigDict, Field, field_validator

from backsquat.core.readiness.screens import ResultKind, Screen
from backsquat.library.shelf import FOLDER, movements


class ScreenEntry(BaseModel):
    """One screen as a data file, or a squad's own row, holds it."""

    model_config = ConfigDict(extra="forbid")

    code: str = Field(pattern=r"^[a-z][a-z0-9_]*$")
    name: str = Field(min_length=3, max_length=60)
    how: str = Field(min_length=10, max_length=400)
    kind: ResultKind
    two_sided: bool = False
    pass_at: float | None = None
    less_is_better: bool = False
    gap: float | None = Field(default=None, gt=0)
    error: float = Field(default=0, ge=0)
    drills: list[str] = []
    source: str = "usual practice"
    retest_days: int | None = Field(default=None, ge=0, le=400)

    @field_validator("drills")
    @classmethod
    def _known(cls, codes: list[str]) -> list[str]:
        if unknown := [code for code in codes if code not in movements()]:
            raise ValueError(f"unknown movement {', '.join(unknown)}")
        return codes

    def screen(self, *, own: bool = False, retired: bool = False) -> Screen:
        return Screen(**self.model_dump() | {"drills": tuple(self.drills), "own": own, "retired": retired})


@cache
def entries() -> dict[str, ScreenEntry]:
    rows = tomllib.loads((FOLDER / "screens.toml").read_text("utf-8"))
    return {code: ScreenEntry(code=code, **row) for code, row in rows.items()}


@cache
def screens() -> dict[str, Screen]:
    """The default battery by code, in the order in which it is run."""
    return {code: entry.screen() for code, entry in entries().items()}
