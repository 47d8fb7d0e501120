"""The open line protocol of sensors: one JSON object a line, UTF-8, over a local socket (docs/DEVICES.md).

A sensor says who it is as soon as somebody connects, and then a line for every rep or jump of the set it was told to
watch. What a reader does not know it leaves out; a line it cannot read it skips.
"""

import json
from dataclasses import dataclass
from typing import Any

from backsquat.core.words import clean_plain

PROTOCOL = 1
LINE_MOST = 4_000  # bytes; a longer line is no line of ours
BAR, MAT = "bar speed", "jump mat"


@dataclass(frozen=True)
class Hello:
    """Who a sensor is."""

    device: str
    name: str


@dataclass(frozen=True)
class Rep:
    """One rep of a watched set: mean speed of the lifting phase in m/s."""

    of: str
    number: int
    mean_speed_ms: float


@dataclass(frozen=True)
class Jump:
    """One jump of a watched set: time in the air in seconds."""

    of: str
    number: int
    flight_s: float


Said = Hello | Rep | Jump


def line(said: dict[str, Any]) -> bytes:
    """An object as a line."""
    return json.dumps(said, separators=(",", ":")).encode() + b"\n"


def start(of: str, *, load_kg: float = 0.0, about_kg: float = 0.0) -> bytes:
    """Watch a set from now on. What is said of it (the load, about what one rep may be) only stand-ins need."""
    return line({"watch": of, "load_kg": load_kg, "about_kg": about_kg})


def stop(of: str) -> bytes:
    """The set is over."""
    return line({"stop": of})


def read(raw: bytes) -> dict[str, Any] | None:
    """The object of a line, or None."""
    try:
        found = clean_plain(json.loads(raw)) if len(raw) <= LINE_MOST else None
    except (ValueError, RecursionError):
        return None
    return found if isinstance(found, dict) else None


def said_in(raw: bytes) -> Said | None:
    """What a sensor said with a line; None for what is not understood."""
    found = read(raw) or {}
    try:
        if "device" in found and int(found.get("protocol", 0)) == PROTOCOL:
            return Hello(str(found["device"])[:40], str(found.get("name", ""))[:40])
        if "rep" in found:
            return Rep(str(found["of"]), int(found["rep"]), _number(found["mean_speed"]))
        if "jump" in found:
            return Jump(str(found["of"]), int(found["jump"]), _number(found["flight_s"]))
    except (KeyError, TypeError, ValueError, OverflowError):  # 1e999 is no number of anything
        return None
    return None


def _number(given: Any) -> float:
    value = float(given)
    if not 0 < value < 10:
        raise ValueError(given)
    return value
