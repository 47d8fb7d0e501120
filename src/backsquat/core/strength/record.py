"""A logged set as the rules see it."""

import datetime as dt
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.errors import Problem
from backsquat.core.movements.movement import Family

REPS_MOST = 30  # beyond the longest usual window (ball curls)
RESERVE_MOST = 10
LOAD_MOST_KG = 500.0
HELP_MOST_KG = 100.0  # of bands and counterweights, written as less than nothing
HOLD_MOST_S = 600
PAIN_MOST = 10


class Effort(StrEnum):
    """What a set was done for."""

    WORK = "work"
    EASY = "easy"
    TEST = "test"


@dataclass(frozen=True)
class SetRecord:
    """One set as it stands after corrections."""

    set_id: int
    done_on: dt.date
    family: Family
    load_kg: float
    reps: int
    reps_to_depth: int  # how many of `reps` met the depth standard
    reserve_reps: int | None  # reps left in reserve, None where nobody said
    effort: Effort = Effort.WORK
    breaking_fault: str = ""  # code of a fault that makes the set not count
    pain: int = 0
    pain_character: str = ""
    carried_kg: float | None = 0.0  # body mass moved with each written load; None: not known
    hold_s: int | None = None  # seconds held
    supported: bool = False  # a hand held on, where the movement is meant to be free
    side: str = ""  # left or right; empty: both the same


def problems(
    *,
    load_kg: float | None,
    reps: int | None,
    reps_to_depth: int | None,
    reserve_reps: int | None,
    done_on: dt.date | None,
    today: dt.date,
    pain: int = 0,
    may_be_unloaded: bool = False,
    helped: bool = False,
    hold_s: int | None = None,
) -> list[Problem]:
    """Everything impossible about a set, all at once; an empty list means it can be logged.

    None means "not given or not readable", which the form has already said of that field.
    """
    found = []
    least = -HELP_MOST_KG if helped else 0
    in_bounds = load_kg is None or least <= load_kg <= LOAD_MOST_KG
    if load_kg is not None and not (in_bounds and (load_kg != 0 or may_be_unloaded)):
        found.append(Problem("load", "load_range", {"most": LOAD_MOST_KG}))
    if reps is not None and not 1 <= reps <= REPS_MOST:
        found.append(Problem("reps", "reps_range", {"most": REPS_MOST}))
    if reps is not None and reps_to_depth is not None and not 0 <= reps_to_depth <= reps:
        found.append(Problem("reps_to_depth", "depth_over_reps", {"reps": reps}))
    if reserve_reps is not None and not 0 <= reserve_reps <= RESERVE_MOST:
        found.append(Problem("reserve_reps", "reserve_range", {"most": RESERVE_MOST}))
    if done_on is not None and done_on > today:
        found.append(Problem("done_on", "in_future", {"today": today.isoformat()}))
    if hold_s is not None and not 1 <= hold_s <= HOLD_MOST_S:
        found.append(Problem("hold_s", "hold_range", {"most": HOLD_MOST_S}))
    if not 0 <= pain <= PAIN_MOST:
        found.append(Problem("pain", "pain_range", {"most": PAIN_MOST}))
    return found
