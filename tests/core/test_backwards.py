"""Blocks laid back from a match: by hand for every length, and their laws."""

import datetime as dt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.season.backwards import Purpose, lay_back
from backsquat.core.season.calendar import WEEK
from tests.factories import RULES

FIRST = dt.date(2026, 7, 6)
BASE, STRENGTH, POWER, KEEP = Purpose.BASE, Purpose.STRENGTH, Purpose.POWER, Purpose.KEEP


def laid(weeks: int, playing: set[int] = frozenset(), taken: set[int] = frozenset()) -> list[tuple[Purpose, int, int]]:  # type: ignore[assignment]
    """(purpose, first week from 0, weeks) up to a match on the Saturday of the last of these weeks."""
    match_on = FIRST + (weeks - 1) * WEEK + dt.timedelta(days=5)
    mondays = [{FIRST + n * WEEK for n in told} for told in (playing, taken)]
    found = lay_back(FIRST, match_on, *mondays, RULES)
    return [(one.purpose, (one.first_week - FIRST).days // 7, one.weeks) for one in found]


@pytest.mark.parametrize(
    ("weeks", "expected"),
    [
        (1, [(KEEP, 0, 1)]),
        (5, [(STRENGTH, 0, 5)]),
        (7, [(STRENGTH, 0, 4), (POWER, 4, 3)]),
        (10, [(STRENGTH, 0, 6), (POWER, 6, 4)]),
        (14, [(BASE, 0, 6), (STRENGTH, 6, 4), (POWER, 10, 4)]),
        (20, [(BASE, 0, 10), (STRENGTH, 10, 6), (POWER, 16, 4)]),
        (30, [(BASE, 6, 12), (STRENGTH, 18, 8), (POWER, 26, 4)]),  # a base is never longer: it begins later
    ],
)
def test_a_summer_without_matches(weeks: int, expected: list[tuple[Purpose, int, int]]) -> None:
    assert laid(weeks) == expected


def test_weeks_of_matches_keep_what_was_built() -> None:
    assert laid(10, playing=set(range(10))) == [(KEEP, 0, 5), (KEEP, 5, 5)]
    assert laid(8, playing={0, 7}) == [(STRENGTH, 0, 5), (POWER, 5, 3)]  # one and the match itself: it still builds


def test_what_is_planned_already_stays() -> None:
    assert laid(12, taken={0, 1, 2}) == [(STRENGTH, 3, 5), (POWER, 8, 4)]
    assert laid(12, taken=set(range(12))) == []


@given(st.integers(1, 45), st.sets(st.integers(0, 44)), st.sets(st.integers(0, 44)))
def test_blocks_never_overlap_nor_leave_the_time_before_the_match(
    weeks: int, playing: set[int], taken: set[int]
) -> None:
    found = laid(weeks, playing, taken)
    mine = [week for _, first, count in found for week in range(first, first + count)]
    assert len(mine) == len(set(mine)) and not set(mine) & taken and set(mine) <= set(range(weeks))
    assert all(count >= 1 for _, _, count in found)
    if weeks - 1 not in taken:
        assert weeks - 1 in mine  # the match's own week is always spoken of
