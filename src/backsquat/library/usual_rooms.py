"""Usual rooms to start from, as data: a new squad changes one instead of typing its stock from nothing."""

import tomllib
from functools import cache
from pathlib import Path

from pydantic import BaseModel, ConfigDict


class UsualRoom(BaseModel):
    """A room as it mostly stands; amounts as text in its unit, bars as (name, mass, trap), plates as (mass, pairs)."""

    model_config = ConfigDict(extra="forbid")
    words: str
    name: str
    unit: str
    collars: str
    racks: str
    bars: list[tuple[str, str] | tuple[str, str, str]]
    plates: list[tuple[str, int]]
    dumbbells: str
    kettlebells: str
    bags: str = ""
    equipment: list[str]


@cache
def usual_rooms() -> dict[str, UsualRoom]:
    """Code → room, in the order they are offered."""
    text = (Path(__file__).parent / "rooms.toml").read_text("utf-8")
    return {code: UsualRoom.model_validate(entry) for code, entry in tomllib.loads(text).items()}
