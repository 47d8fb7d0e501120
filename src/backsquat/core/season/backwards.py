"""Blocks laid out backwards from the match that counts: base in stages → strength → power and jumps, and keeping between.

Counted from the match back: power right before it, strength before that, a base before both as far as weeks reach. Weeks
with a match in them do not build: there what was built is kept (rules 2.9; the order is usual practice).
"""

import datetime as dt
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.rules import Rules
from backsquat.core.season.calendar import WEEK, monday_of

SHORT, WITH_POWER, FULL = 3, 6, 9  # free weeks from which anything is built, power is split off, power is whole
SHORT_POWER = 3
STRENGTH_SHARE = 0.4  # of the weeks before power that are strength, the rest is base


class Purpose(StrEnum):
    """What a block is for."""

    BASE = "base"
    STRENGTH = "strength"
    POWER = "power"
    KEEP = "keep"


@dataclass(frozen=True)
class LaidBlock:
    """A block as it is proposed. `matches`: weeks of it with a match in them."""

    purpose: Purpose
    first_week: dt.date
    weeks: int
    matches: int


def lay_back(
    first_week: dt.date, match_on: dt.date, playing: Collection[dt.date], taken: Collection[dt.date], rules: Rules
) -> list[LaidBlock]:
    """Blocks for the free weeks from `first_week` up to the match's own, in their order.

    `playing`: the Mondays of weeks with a match; `taken`: those a block plans already.
    """
    last, found = monday_of(match_on), list[LaidBlock]()
    for run in _runs(monday_of(first_week), last, taken):
        at_home = sum(week not in playing for week in run)
        parts = _building(len(run), rules) if 2 * at_home > len(run) else _keeping(len(run), rules)
        start = len(run) - sum(weeks for _, weeks in parts)  # what is too long for all of it begins later
        for purpose, weeks in parts:
            mine = run[start : start + weeks]
            found.append(LaidBlock(purpose, mine[0], weeks, sum(week in playing for week in mine)))
            start += weeks
    return found


def _runs(first: dt.date, last: dt.date, taken: Collection[dt.date]) -> Iterator[Sequence[dt.date]]:
    """Free weeks that follow one another."""
    run: list[dt.date] = []
    week = first
    while week <= last:
        if week in taken:
            if run:
                yield run
            run = []
        else:
            run.append(week)
        week += WEEK
    if run:
        yield run


def _building(weeks: int, rules: Rules) -> list[tuple[Purpose, int]]:
    if weeks < SHORT:
        return [(Purpose.KEEP, weeks)]
    if weeks < WITH_POWER:
        return [(Purpose.STRENGTH, weeks)]
    power = rules.block_power_weeks if weeks >= FULL else SHORT_POWER
    rest = weeks - power
    strength = rest
    if rest >= 2 * rules.block_strength_least:
        strength = min(rules.block_strength_most, max(rules.block_strength_least, round(STRENGTH_SHARE * rest)))
    base = min(rules.block_base_most, rest - strength)
    parts = [(Purpose.BASE, base), (Purpose.STRENGTH, min(strength, rules.block_strength_most)), (Purpose.POWER, power)]
    return [(purpose, count) for purpose, count in parts if count]


def _keeping(weeks: int, rules: Rules) -> list[tuple[Purpose, int]]:
    """Blocks of about the same length, none longer than a block in season is."""
    count = -(-weeks // rules.block_strength_most)
    return [(Purpose.KEEP, weeks // count + (n < weeks % count)) for n in range(count)]
