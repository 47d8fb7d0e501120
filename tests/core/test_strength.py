"""Formulas, what counts, trust, the current estimate and the planning max."""

import csv
import datetime as dt
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.movements.movement import Family
from backsquat.core.rules import Rules
from backsquat.core.strength.current import current_estimate, planning_max
from backsquat.core.strength.estimate import Trust, estimate_set
from backsquat.core.strength.formulas import FORMULAS, load_for_kg, maximum_kg
from backsquat.core.strength.record import Effort, problems
from tests.factories import RULES, TODAY, a_set

ORACLE = list(csv.DictReader((Path(__file__).parents[1] / "oracles/estimates.csv").read_text().splitlines()))

PLAIN = Rules(estimator="plain")


def days_ago(n: int) -> dt.date:
    return TODAY - dt.timedelta(days=n)


@pytest.mark.parametrize("row", ORACLE, ids=lambda row: row["worked"])
def test_published_formulas_by_hand(row: dict[str, str]) -> None:
    record = a_set(load_kg=float(row["load_kg"]), reps=int(row["reps"]), reserve_reps=int(row["reserve"]))
    estimate = estimate_set(record, replace(RULES, formula=row["formula"]))
    assert estimate.max_kg == pytest.approx(float(row["max_kg"]), abs=1e-4)


@given(st.sampled_from(list(FORMULAS.values())), st.floats(20, 300), st.floats(1, 15))
def test_the_inverse_gives_the_load_back(formula, load, reps) -> None:  # type: ignore[no-untyped-def]
    assert load_for_kg(maximum_kg(load, reps, formula), reps, formula) == pytest.approx(load)


@given(st.sampled_from(list(FORMULAS.values())), st.floats(1, 20), st.floats(0.01, 3))
def test_more_reps_never_mean_a_lower_maximum(formula, reps, more) -> None:  # type: ignore[no-untyped-def]
    assert formula.factor(reps + more) > formula.factor(reps) >= 1


@pytest.mark.parametrize(
    ("reps", "reserve", "family", "trust"),
    [
        (5, 1, Family.SQUAT, Trust.GOOD), (6, 1, Family.SQUAT, Trust.FAIR), (8, 2, Family.SQUAT, Trust.FAIR),
        (8, 3, Family.SQUAT, Trust.WEAK), (8, 4, Family.SQUAT, Trust.WEAK), (10, 3, Family.SQUAT, Trust.NONE),
        (5, 1, Family.HINGE, Trust.FAIR), (8, 2, Family.HINGE, Trust.WEAK), (8, 3, Family.HINGE, Trust.NONE),
        (5, None, Family.SQUAT, Trust.FAIR),
    ],
)  # fmt: skip
def test_trust_by_reps_and_family(reps: int, reserve: int | None, family: Family, trust: Trust) -> None:
    assert estimate_set(a_set(reps=reps, reserve_reps=reserve, family=family), RULES).trust is trust


def test_only_reps_to_depth_count_and_then_without_reserve() -> None:
    estimate = estimate_set(a_set(reps=5, reps_to_depth=3, reserve_reps=2), RULES)
    assert estimate.max_kg == pytest.approx(100 * (1 + 3 / 30))
    assert estimate.at_least


def test_a_set_short_of_depth_or_without_a_reserve_never_lowers_the_estimate() -> None:
    firm = a_set(set_id=1, done_on=days_ago(5))
    for light in (
        a_set(set_id=2, load_kg=90, reps_to_depth=4, reserve_reps=4),
        a_set(set_id=2, load_kg=90, reserve_reps=None),
    ):
        estimate = current_estimate([firm, light], TODAY, PLAIN)
        assert estimate is not None and estimate.max_kg == pytest.approx(120)
        alone, both = current_estimate([firm], TODAY, RULES), current_estimate([firm, light], TODAY, RULES)
        assert alone and both and both.max_kg >= alone.max_kg - 1e-9


@pytest.mark.parametrize(
    ("changes", "why"),
    [
        ({"reps_to_depth": 0}, "no_rep_to_depth"), ({"breaking_fault": "heels_up"}, "form_broke"),
        ({"pain": 4}, "pain"), ({"pain": 1, "pain_character": "electric"}, "pain"), ({"reps": 15}, "too_many_reps"),
    ],
)  # fmt: skip
def test_sets_that_say_nothing(changes: dict[str, object], why: str) -> None:
    estimate = estimate_set(a_set(**changes), RULES)
    assert (estimate.max_kg, estimate.why) == (None, why)


def test_a_reserve_above_the_cap_counts_as_the_cap_and_says_at_least() -> None:
    estimate = estimate_set(a_set(reserve_reps=7), RULES)
    assert estimate.max_kg == pytest.approx(100 * (1 + 9 / 30))
    assert estimate.at_least
    facts = estimate.working.steps[-1].facts
    assert (facts["left"], facts["left_cap"]) == (7, 4)


def test_no_record_no_estimate() -> None:
    for rules in (RULES, PLAIN):
        assert current_estimate([], TODAY, rules) is None
        assert current_estimate([a_set(done_on=TODAY + dt.timedelta(days=1))], TODAY, rules) is None


def test_one_lucky_set_moves_the_estimate_little() -> None:
    usual = [a_set(set_id=n, done_on=days_ago(n)) for n in (3, 7, 10, 14)]
    lucky = a_set(set_id=9, done_on=days_ago(1), load_kg=125)
    for rules in (RULES, PLAIN):
        estimate = current_estimate([*usual, lucky], TODAY, rules)
        assert estimate is not None
        assert 120 < estimate.max_kg < 132  # the set alone says 150, the others 120


def test_weights_by_trust_and_age_by_hand() -> None:
    today_good = a_set(set_id=1, load_kg=100, reps=5, reserve_reps=1)  # 120, weight 1 × 1
    old_fair = a_set(set_id=2, load_kg=100, reps=8, reserve_reps=2, done_on=days_ago(14))  # 133.33, 0.6 × 0.5
    estimate = current_estimate([today_good, old_fair], TODAY, PLAIN)
    assert estimate is not None
    assert estimate.max_kg == pytest.approx((120 * 1 + 133.3333 * 0.3) / 1.3, abs=1e-3)


def test_a_rotated_out_lift_is_stale_not_lower() -> None:
    record = a_set(done_on=days_ago(60))
    for rules in (RULES, PLAIN):
        estimate = current_estimate([record], TODAY, rules)
        assert estimate is not None
        assert estimate.stale
        assert 120 <= estimate.max_kg < 121, "a week's gain at most, however long ago"
        assert not current_estimate([a_set(done_on=days_ago(27))], TODAY, rules).stale  # type: ignore[union-attr]
        assert current_estimate([a_set(done_on=days_ago(28))], TODAY, rules).stale  # type: ignore[union-attr]


@given(st.lists(st.tuples(st.integers(0, 27), st.floats(40, 100), st.integers(5, 9)), max_size=8))
def test_light_sets_with_much_left_never_lower_the_estimate(light: list[tuple[int, float, int]]) -> None:
    firm = a_set(set_id=1, done_on=days_ago(5))
    deload = [
        a_set(set_id=n + 2, done_on=days_ago(age), load_kg=load, reserve_reps=left, effort=Effort.DELOAD)
        for n, (age, load, left) in enumerate(light)
    ]
    for rules in (RULES, PLAIN):
        alone, together = current_estimate([firm], TODAY, rules), current_estimate([firm, *deload], TODAY, rules)
        assert alone and together
        assert together.max_kg >= alone.max_kg - 1e-9


def test_a_set_that_shows_at_least_more_raises_it_and_is_one_day_among_others() -> None:
    firm, more = a_set(set_id=1, done_on=days_ago(20)), a_set(set_id=2, load_kg=105, reserve_reps=6)
    for rules in (RULES, PLAIN):
        estimate = current_estimate([firm, more], TODAY, rules)
        assert estimate is not None
        assert 121 < estimate.max_kg < 105 * (1 + 9 / 30)


@pytest.mark.parametrize(
    ("newcomer", "age", "share"), [(False, 1, 1.0), (True, 1, 0.95), (False, 40, 1.0), (True, 40, 0.95)]
)
def test_newcomers_plan_lower_and_what_is_old_is_wide_instead(newcomer: bool, age: int, share: float) -> None:
    current = current_estimate([a_set(done_on=days_ago(age))], TODAY, RULES)
    assert current is not None
    plan = planning_max(current, newcomer=newcomer, rules=RULES)
    assert plan.max_kg == pytest.approx(current.max_kg * share)
    assert [step.code for step in plan.working.steps] == ["counted_day", "belief", "planning_max"]


def test_everything_impossible_about_a_set_is_said_at_once() -> None:
    found = problems(
        load_kg=-5,
        reps=40,
        reps_to_depth=41,
        reserve_reps=11,
        done_on=TODAY + dt.timedelta(days=1),
        today=TODAY,
        pain=11,
    )
    assert [problem.field for problem in found] == ["load", "reps", "reps_to_depth", "reserve_reps", "done_on", "pain"]
    assert not problems(load_kg=60, reps=5, reps_to_depth=5, reserve_reps=0, done_on=TODAY, today=TODAY)
    assert [
        p.field for p in problems(load_kg=60, reps=-1, reps_to_depth=None, reserve_reps=None, done_on=None, today=TODAY)
    ] == ["reps"]
    nought = problems(load_kg=60, reps=0, reps_to_depth=0, reserve_reps=None, done_on=TODAY, today=TODAY)
    assert nought == [], "no rep made is a result"
