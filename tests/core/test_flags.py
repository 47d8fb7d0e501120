"""Red flags and what they ask for, at each boundary."""

import datetime as dt

import pytest

from backsquat.core.readiness.flags import (
    CheckInValues,
    Drop,
    Signs,
    asks_for_deload_week,
    check_in_problems,
    red_flags,
)
from backsquat.core.rules import Rules, with_changes

TODAY, RULES = dt.date(2026, 11, 23), Rules()


def came(*answers: tuple[int, int, int, int], apart: int = 2) -> list[CheckInValues]:
    """Check-ins up to today, so many days apart."""
    count = len(answers)
    return [CheckInValues(TODAY - dt.timedelta(days=apart * (count - 1 - n)), *one) for n, one in enumerate(answers)]


LOW, FINE = (2, 4, 4, 0), (4, 2, 2, 0)


def codes(signs: Signs, rules: Rules = RULES) -> list[str]:
    return [flag.code for flag in red_flags(signs, TODAY, rules)]


@pytest.mark.parametrize(
    ("signs", "expected"),
    [
        (Signs(), []),
        (Signs(missed=1), []), (Signs(missed=2), ["flag_misses"]),
        (Signs(check_ins=came(LOW, FINE, LOW)), []), (Signs(check_ins=came(LOW, FINE, LOW, LOW)), ["flag_low"]),
        (Signs(check_ins=came(LOW, LOW, LOW, apart=8)), []),  # the first is too long ago
        (Signs(check_ins=came((3, 4, 4, 0), (3, 4, 4, 0), (3, 4, 4, 0))), ["flag_low"]),  # 7 / 3 = 2.33
        (Signs(check_ins=came((3, 3, 4, 0), (3, 3, 4, 0), (3, 3, 4, 0))), []),  # 8 / 3 = 2.67
        (Signs(check_ins=came((4, 2, 2, 1), (4, 2, 2, 2), (4, 2, 2, 3))), ["flag_back"]),
        (Signs(check_ins=came((4, 2, 2, 1), (4, 2, 2, 2), (4, 2, 2, 2))), []),  # one point only
        (Signs(check_ins=came((4, 2, 2, 1), (4, 2, 2, 4), (4, 2, 2, 3))), []),  # not rising to the end
        (Signs(check_ins=came((4, 2, 2, 1), (4, 2, 2, 5))), []),  # two are no trend
        (Signs(drops=(Drop("back_squat", 100, 95.1),)), []), (Signs(drops=(Drop("back_squat", 100, 95),)), ["flag_estimate"]),
        (Signs(drops=(Drop("back_squat", 100, 90), Drop("romanian_deadlift", 100, 80))), ["flag_estimate"]),
        (Signs(drops=(Drop("back_squat", 0, 0),)), []),
    ],
)  # fmt: skip
def test_each_flag_at_its_boundary(signs: Signs, expected: list[str]) -> None:
    assert codes(signs) == expected


def test_two_different_flags_ask_one_or_the_same_twice_do_not() -> None:
    one, two = Signs(missed=5), Signs(missed=2, check_ins=came(LOW, LOW, LOW))
    assert not asks_for_deload_week(red_flags(one, TODAY, RULES), RULES)
    assert asks_for_deload_week(red_flags(two, TODAY, RULES), RULES)
    strict = with_changes({"flags_needed": 1})
    assert asks_for_deload_week(red_flags(one, TODAY, strict), strict)
    twice = red_flags(one, TODAY, RULES) * 2
    assert not asks_for_deload_week(twice, RULES)


def test_a_squads_own_thresholds_hold() -> None:
    rules = with_changes({"flag_misses": 1, "flag_estimate_drop": 0.2})
    assert codes(Signs(missed=1, drops=(Drop("back_squat", 100, 85),)), rules) == ["flag_misses"]


def test_what_is_seen_is_said() -> None:
    flags = red_flags(Signs(check_ins=came((2, 4, 4, 1), (2, 4, 4, 2), (2, 4, 4, 4))), TODAY, RULES)
    assert [dict(flag.facts) for flag in flags] == [{"times": 3, "of": 3, "days": 14}, {"words": "1, 2, 4"}]


@pytest.mark.parametrize(
    "wrong", [(0, 2, 2, 0), (6, 2, 2, 0), (3, 0, 2, 0), (3, 2, 9, 0), (3, 2, 2, -1), (3, 2, 2, 11)]
)
def test_answers_outside_their_scales_are_named(wrong: tuple[int, int, int, int]) -> None:
    assert len(check_in_problems(CheckInValues(TODAY, *wrong))) == 1
    assert not check_in_problems(CheckInValues(TODAY, 1, 5, 5, 10))
