"""Growth of the young, and what came of a block: worked by hand."""

import datetime as dt
from dataclasses import replace
from typing import NamedTuple

import pytest

from backsquat.core.errors import BackSquatError
from backsquat.core.season.growth import growth
from backsquat.core.season.outcome import Course, change
from backsquat.core.season.trend import Point
from backsquat.core.strength.current import current_estimate, planning_max
from tests.factories import RULES, TODAY, a_set


def heights(*told: tuple[int, float]) -> list[Point]:
    """(days ago, cm)"""
    return [Point(TODAY - dt.timedelta(days=days), cm) for days, cm in told]


@pytest.mark.parametrize(
    ("told", "a_month", "fast"),
    [
        (((92, 160.0), (1, 163.0)), 3 / 91 * 30.44, True),  # a centimetre a month
        (((92, 160.0), (1, 161.0)), 1 / 91 * 30.44, False),
        (((200, 150.0), (92, 160.0), (1, 161.0)), 1 / 91 * 30.44, False),  # the newest stretch, not the fast one before
        (((57, 160.0), (1, 160.5)), 0.5 / 56 * 30.44, False),  # that may be nothing but measuring
        (((92, 160.0), (1, 159.0)), -1 / 91 * 30.44, False),
    ],
)
def test_growth_of_a_month(told: tuple[tuple[int, float], ...], a_month: float, fast: bool) -> None:
    found = growth(heights(*told), TODAY, RULES)
    assert found and found.cm_a_month == pytest.approx(a_month) and found.fast is fast


def test_what_says_nothing_is_not_read() -> None:
    assert growth([], TODAY, RULES) is None
    assert growth(heights((1, 170)), TODAY, RULES) is None
    assert growth(heights((20, 170), (1, 172)), TODAY, RULES) is None  # too near to one another
    assert growth(heights((300, 160), (200, 166)), TODAY, RULES) is None  # of long ago
    assert growth(heights((92, 160), (-5, 170)), TODAY, RULES) is None  # of a day to come
    with pytest.raises(BackSquatError):
        growth([Point(TODAY, float("nan"))], TODAY, RULES)


def test_the_graver_caution_counts_and_is_named() -> None:
    current = current_estimate([a_set()], TODAY, RULES)
    assert current is not None
    rules = replace(RULES, caution_newcomer=0.95, caution_growing=0.9)
    assert planning_max(current, newcomer=False, rules=rules).share == 1
    both = planning_max(current, newcomer=True, rules=rules, growing=True)
    assert both.share == 0.9 and both.working.steps[-1].facts["caution"] == "growing"
    assert planning_max(current, newcomer=True, rules=rules).working.steps[-1].facts["caution"] == "newcomer"


# --- outcome of a block


class Maximum(NamedTuple):
    max_kg: float
    low_kg: float
    high_kg: float


@pytest.mark.parametrize(
    ("before", "after", "course", "sure"),
    [
        ((100.0, 97.0, 103.0), (106.0, 104.0, 108.0), Course.ROSE, True),
        ((100.0, 97.0, 103.0), (102.0, 99.0, 105.0), Course.ROSE, False),
        ((100.0, 97.0, 103.0), (101.9, 99.0, 105.0), Course.STAYED, False),
        ((100.0, 99.0, 101.0), (97.0, 96.0, 98.0), Course.FELL, True),
    ],
)
def test_risen_or_fallen_by_two_in_a_hundred_and_sure_where_ranges_lie_apart(
    before: tuple[float, float, float], after: tuple[float, float, float], course: Course, sure: bool
) -> None:
    found = change(Maximum(*before), Maximum(*after), RULES)
    assert (found.course, found.sure) == (course, sure)
    assert found.share == pytest.approx(after[0] / before[0] - 1)
