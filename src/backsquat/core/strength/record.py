"""A logged set as the rules see it."""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
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
    DELOAD = "deload"
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
    set_number: int = 0  # among the sets of its exposure, from 1; two halves share theirs
    manner: str = ""  # done another way than the plain one on purpose: a record line of its own
    reserve_at_least: bool = False  # said as "so many or more"
    asked_reps: int | None = None  # what the plan asked of this set at this load; None: nothing
    asked_reserve: int | None = None  # and how many were to be left

    @property
    def failed(self) -> bool:
        """Fewer reps than were asked at the load or under it, and nobody said why: none were left."""
        return self.reserve_reps is None and self.asked_reps is not None and self.reps < self.asked_reps


def whole_sets(sets: Sequence[SetRecord]) -> list[SetRecord]:
    """Sets as they were planned: the left and the right half of one are one set, with what the weaker half made."""
    found: list[SetRecord] = []
    halves: dict[int, int] = {}
    for record in sets:
        if not record.side or not record.set_number:
            found.append(record)
        elif record.set_number in halves:
            at = halves[record.set_number]
            found[at] = _joined(found[at], record)
        else:
            halves[record.set_number] = len(found)
            found.append(record)
    return found


def _joined(one: SetRecord, other: SetRecord) -> SetRecord:
    """Both halves as one set: the fewer reps, the lighter load, the worse of everything that was said."""
    said = [half for half in (one, other) if half.reserve_reps is not None]
    least = min(said, key=lambda half: half.reserve_reps or 0, default=None)
    worse = max(one, other, key=lambda half: half.pain)
    return replace(
        one,
        load_kg=min(one.load_kg, other.load_kg),
        reps=min(one.reps, other.reps),
        reps_to_depth=min(one.reps_to_depth, other.reps_to_depth),
        reserve_reps=least.reserve_reps if least else None,
        reserve_at_least=bool(least and least.reserve_at_least),
        breaking_fault=one.breaking_fault or other.breaking_fault,
        pain=worse.pain,
        pain_character=worse.pain_character,
        hold_s=None if one.hold_s is None or other.hold_s is None else min(one.hold_s, other.hold_s),
        supported=one.supported or other.supported,
        side="",
    )


def sets_taken(sides: Iterable[tuple[int, str]]) -> dict[int, frozenset[str]]:
    """By set number, which sides of it are done (`""`: both), from the sets' numbers and sides."""
    found: dict[int, set[str]] = {}
    for number, side in sides:
        found.setdefault(number, set()).add(side)
    return {number: frozenset(done) for number, done in found.items()}


def is_whole(done: frozenset[str]) -> bool:
    """Whether a set is done: both sides at once, or each of them."""
    return "" in done or len(done) > 1


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
    if reps is not None and not 0 <= reps <= REPS_MOST:  # nought is a result: a miss
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
