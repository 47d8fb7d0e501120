"""A progression's named defaults: how they are declared, read with a coach's changes, and shown."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any, TypeVar

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.rule import USUAL, YES_NO


def parameter(
    default: Any, meaning: str, unit: str, low: float | None = None, high: float | None = None, source: str = USUAL
) -> Any:
    """A named default with what it means, its unit, its bounds and where it comes from."""
    details = {"meaning": meaning, "unit": unit, "source": source, "low": low, "high": high}
    return field(default=default, metadata=details)


@dataclass(frozen=True, kw_only=True)
class Parameters:
    """What every progression has. Subclasses add their own and change these defaults."""

    sets: int = parameter(4, "Working sets", "sets", 1, 10)
    rest_s: int = parameter(180, "Rest between sets", "s", 30, 600)
    tempo: str = parameter("2-0-1-0", "Tempo: down, bottom, up, top", "s")
    deload_load_share: float = parameter(0.9, "Deload week's load as a share", "share", 0.5, 1)
    deload_sets_share: float = parameter(
        0.5, "Deload week's sets as a share of the others, rounded up", "share", 0.3, 1
    )
    missed_share: float = parameter(
        0.95, "Planning max or load after lost depth, broken form or a coach's down", "share", 0.7, 1
    )
    end_hold_s: int = parameter(0, "Seconds held at the end of every set, after its reps", "s", 0, 120)
    last_to_failure: int = parameter(0, "The last set goes to failure, whatever the others leave", YES_NO, 0, 1)
    test_last: int = parameter(0, "The last week is a test", YES_NO, 0, 1)


@dataclass(frozen=True, kw_only=True)
class EveryFourth(Parameters):
    """Progressions whose deload weeks come by the calendar."""

    deload_every: int = parameter(4, "Every so many weeks is easy; 0: none", "weeks", 0, 8)


@dataclass(frozen=True)
class ParameterLine:
    """One parameter as the forms and docs show it."""

    name: str
    default: Any
    meaning: str
    unit: str
    source: str
    low: float | None
    high: float | None


def lines(kind: type[Parameters]) -> Iterator[ParameterLine]:
    """The progression's own parameters first, then what every progression has."""
    shared = {item.name for item in fields(EveryFourth)}
    own = [item for item in fields(kind) if item.name not in shared]
    for item in own + [item for item in fields(kind) if item.name in shared]:
        yield ParameterLine(item.name, item.default, **item.metadata)


P = TypeVar("P", bound=Parameters)


def read(kind: type[P], changes: Mapping[str, Any]) -> P:
    """The progression's defaults with a coach's changes; every impossible one is named. Unknown names are left out."""
    known = {line.name: line for line in lines(kind)}
    found, values = [], {}
    for name, value in changes.items():
        line = known.get(name)
        if line is None or value is None:
            continue
        if isinstance(line.default, (int, float)):
            if not isinstance(value, (int, float)) or not (
                (line.low is None or value >= line.low) and (line.high is None or value <= line.high)
            ):
                facts = {"name": line.meaning, "low": line.low or 0, "high": line.high or 0}
                found.append(Problem(name, "parameter_range", facts))
                continue
            value = type(line.default)(value)
        values[name] = value
    if found:
        raise ImpossibleInput(*found)
    return replace(kind(), **values)


def deload_in(week: int, every: int) -> bool:
    """Whether a week of the block is easy: each `every`-th; 0 has none."""
    return every > 0 and (week + 1) % every == 0


def share_of(sets: int, share: float) -> int:
    """A share of some sets, rounded up, one at least."""
    return max(1, math.ceil(sets * share - 1e-9))


def deload_sets(parameters: Parameters) -> int:
    """Sets of a deload week: their share of the working sets, two at least where there are two."""
    return max(share_of(parameters.sets, parameters.deload_sets_share), min(2, parameters.sets))
