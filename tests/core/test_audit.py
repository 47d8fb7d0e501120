"""The weekly check, worked by hand."""

from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.movements.movement import Muscle
from backsquat.core.progression.audit import WeekItem, audit_week, count_week
from backsquat.library.shelf import movements
from tests.factories import RULES

ORACLES = Path(__file__).parents[1] / "oracles"


def item(
    code: str, day: int = 0, sets: int = 3, left: int = 2, relative: float | None = 0.8, **changes: object
) -> WeekItem:
    return WeekItem(movements()[code], day, sets, left, relative, **changes)  # type: ignore[arg-type]


def codes(*items: WeekItem, **rules: object) -> set[str]:
    return {finding.code for finding in audit_week(items, replace(RULES, **rules))}  # type: ignore[arg-type]


# --- the week


def test_sets_count_direct_fractional_and_squats_nothing_for_the_hamstrings() -> None:
    squat = movements()["back_squat"]
    assert Muscle.QUADS in squat.prime
    numbers = count_week([item("back_squat", sets=4), item("romanian_deadlift", 2, sets=3)], RULES)
    assert numbers.sets[Muscle.QUADS] == 4
    assert numbers.sets[Muscle.HAMSTRINGS] == 3, "the squat's share is zero"
    other = count_week([item("back_squat", sets=4)], replace(RULES, squat_hamstrings=0.5))
    expected = 2.0 if Muscle.HAMSTRINGS in (*squat.prime, *squat.helper) else 0
    assert other.sets.get(Muscle.HAMSTRINGS, 0) == expected
    assert (numbers.squat_sets, numbers.hinge_sets, numbers.curl_sets) == (4, 3, 0)


@pytest.mark.parametrize("share", [0.0, 0.5])
@pytest.mark.parametrize("part", ["prime", "helper"])
def test_a_squats_hamstrings_count_by_the_rule_whatever_a_coachs_own_entry_calls_them(part: str, share: float) -> None:
    plain = replace(movements()["back_squat"], prime=(Muscle.QUADS,), helper=())
    squat = replace(plain, **{part: (*getattr(plain, part), Muscle.HAMSTRINGS)})  # type: ignore[arg-type]
    week = [replace(item("back_squat", sets=4), movement=squat)]
    numbers = count_week(week, replace(RULES, squat_hamstrings=share))
    assert numbers.sets[Muscle.HAMSTRINGS] == 4 * share and numbers.sets[Muscle.QUADS] == 4


def test_a_set_with_more_than_four_left_is_not_hard() -> None:
    assert count_week([item("back_squat", left=5)], RULES).sets.get(Muscle.QUADS, 0) == 0
    assert count_week([item("back_squat", left=4)], RULES).sets[Muscle.QUADS] == 3


def test_hinges_without_a_curl_are_told_so() -> None:
    week = (item("back_squat"), item("romanian_deadlift", 2))
    assert "no_curl" in codes(*week)
    assert "no_curl" not in codes(*week, item("ball_curl", 2))


def test_hinge_heavy_weeks_want_the_shortened_end() -> None:
    lengths = {code: movements()[code].length.value for code in ("lying_curl", "seated_curl")}
    assert lengths == {"lying_curl": "shortened", "seated_curl": "stretched"}
    heavy = (item("back_squat"), item("romanian_deadlift", 0, 3), item("romanian_deadlift", 2, 3))
    assert "curl_not_short" in codes(*heavy, item("seated_curl", 2))
    assert "curl_not_short" not in codes(*heavy, item("lying_curl", 2))
    assert "no_stretch" in codes(item("back_squat"), item("lying_curl", 2))


@pytest.mark.parametrize(("sets", "flagged"), [(3, False), (4, True), (5, True)])
def test_hard_hinge_sets_of_a_session_that_never_touch_the_floor(sets: int, flagged: bool) -> None:
    assert ("hinge_session" in codes(item("romanian_deadlift", 1, sets))) is flagged
    assert "hinge_session" not in codes(item("deadlift", 1, 6))


def test_the_back_index_by_hand() -> None:
    """Romanian deadlift: sets × its index × share of the planning max."""
    index = movements()["romanian_deadlift"].back_index
    numbers = count_week(
        [item("romanian_deadlift", 1, 5, relative=0.8), item("back_squat", 2, 4, relative=None)], RULES
    )
    assert numbers.back_by_day[1] == pytest.approx(5 * index * 0.8)
    assert numbers.back_by_day[2] == pytest.approx(4 * movements()["back_squat"].back_index * 0.6)
    heavy = [item("good_morning", 1, 8, relative=0.8), item("good_morning", 2, 8, relative=0.8)]
    assert {"back_session", "back_running"} <= codes(*heavy, back_session=10, back_high_day=8)
    assert "back_week" in codes(*heavy, back_week=20)
    assert "back_little" in codes(item("back_squat"), back_target_low=30)


def test_ranges_are_the_squads_own_and_an_deload_week_is_not_scolded_for_few_sets() -> None:
    week = (item("back_squat", sets=4), item("romanian_deadlift", 2), item("ball_curl", 2))
    assert "sets_low" in codes(*week)
    low = {f"sets_{name}_low": 0 for name in ("hamstrings", "quads", "glutes", "adductors", "calves")}
    assert "sets_low" not in codes(*week, **low)
    assert "sets_high" in codes(*week, **low, sets_quads_high=3)
    assert "sets_low" not in codes(*(replace(one, deload=True) for one in week))
    assert audit_week([], RULES) == []


def test_speed_is_not_hard_and_a_stiff_leg_pull_settles_on_the_floor() -> None:
    fast = item("back_squat", sets=8, left=4, fast=True)
    assert count_week([fast], RULES).sets.get(Muscle.QUADS, 0) == 0
    pulls = [item("stiff_leg_deadlift", sets=8), item("stiff_leg_deficit", 2, sets=8), item("deadlift", 4, sets=8)]
    assert "hinge_session" not in codes(*pulls)
    assert "hinge_session" in codes(item("romanian_deadlift", sets=8))


def test_strain_counts_what_the_sport_asks_already() -> None:
    week = [item("front_squat", day, 6) for day in range(4)]
    assert "strain" in codes(*week, sport_knee_strain=3, strain_week=60)
    assert "strain" not in codes(*week, sport_knee_strain=0, sport_groin_strain=0, strain_week=200)


@given(
    st.lists(
        st.tuples(st.sampled_from(sorted(movements())), st.integers(0, 6), st.integers(1, 8), st.integers(0, 6)),
        max_size=12,
    )
)
def test_any_week_is_judged_the_same_twice_and_gravest_first(rows) -> None:  # type: ignore[no-untyped-def]
    items = [item(code, day, sets, left) for code, day, sets, left in rows]
    found = audit_week(items, RULES)
    assert found == audit_week(items, RULES)
    order = ["stop", "watch", "note"]
    assert [order.index(f.severity) for f in found] == sorted(order.index(f.severity) for f in found)
    assert all(cost >= 0 for cost in count_week(items, RULES).back_by_day.values())
