"""Screens: lines, sides, changes against the test's error, pattern or range, the wedge."""

import datetime as dt
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.readiness.screens import (
    Known,
    Result,
    ResultKind,
    change_since,
    due,
    gap_between,
    pattern_or_range,
    screen_findings,
    wedge_advice,
)
from backsquat.library.battery import screens
from backsquat.library.shelf import movements
from tests.factories import RULES, TODAY


def known(**values: float) -> Known:
    """knee_to_wall_left=8 → that screen and side."""
    found = {}
    for name, value in values.items():
        stem, _, side = name.rpartition("_")
        key = (stem, side) if side in ("left", "right") else (name, "")
        found[key] = Result(value, TODAY)
    return found


def codes(found: Known, checks: list[tuple[float, bool]] | None = None) -> list[str]:
    return [finding.code for finding in screen_findings(list(screens().values()), found, checks or [], RULES)]


def test_the_battery_holds_what_it_must() -> None:
    wanted = {
        "brace",
        "toe_rock",
        "knee_to_wall",
        "feet_straight",
        "lying_squat",
        "standing_squat",
        "deep_squat_hold",
        "overhead_wall",
        "trunk_landing",
        "trunk_pickup",
        "hip_extension",
        "balance",
        "one_leg_hinge",
        "reach_ahead",
        "side_squat",
        "bridge_hold",
        "jump",
        "pelvis",
        "side_shift",
        "knees_track",
        "counterbalanced_squat",
    }
    assert wanted <= set(screens())
    assert {screen.kind for screen in screens().values()} >= set(ResultKind) - {ResultKind.REPS}
    assert all(drill in movements() for screen in screens().values() for drill in screen.drills)


@pytest.mark.parametrize(
    ("lying", "standing", "code"),
    [(1, 0, "pattern_missing"), (0, 0, "range_missing"), (0, 1, "range_missing"), (1, 1, "shape_sound")],
)
def test_pattern_or_range(lying: int, standing: int, code: str) -> None:
    finding = pattern_or_range(known(lying_squat=lying, standing_squat=standing), RULES)
    assert finding and finding.code == code


def test_the_pair_says_nothing_before_it_is_whole() -> None:
    assert pattern_or_range(known(), RULES) is None
    assert pattern_or_range(known(standing_squat=1), RULES) is None
    short = known(lying_squat=1, standing_squat=1, knee_to_wall_left=8.9, knee_to_wall_right=10)
    found = pattern_or_range(short, RULES)
    assert found and found.code == "shape_sound_ankles_short"


def test_ankles_short_and_apart() -> None:
    found = screen_findings(list(screens().values()), known(knee_to_wall_left=8, knee_to_wall_right=11), [], RULES)
    assert [f.code for f in found] == ["wedge_lend", "ankle_short", "side_gap"]
    assert found[1].facts["where"] == "left 8 cm"
    assert found[2].facts["side"] == "left" and found[2].facts["by"] == 3
    assert codes(known(knee_to_wall_left=9, knee_to_wall_right=10.9)) == []


@pytest.mark.parametrize(
    ("checks", "code", "mm"),
    [
        ([(30, True)], "wedge_keep", 30), ([(30, True), (30, True)], "wedge_lower", 20),
        ([(30, True), (30, False)], "wedge_lend", 40), ([(10, True), (10, True)], "wedge_lower", 0), ([(10, False)], "wedge_lend", 20),
        ([(30, True), (20, True)], "wedge_keep", 20),
    ],
)  # fmt: skip
def test_the_wedge_goes_down_after_two_sound_checks_at_it(checks: list[tuple[float, bool]], code: str, mm: int) -> None:
    finding = wedge_advice(known(), checks, RULES)
    assert finding and (finding.code, finding.facts["mm"]) == (code, mm)


def test_a_squad_without_wedges_is_never_offered_one() -> None:
    rules = replace(RULES, wedge_allowed=0)
    assert wedge_advice(known(knee_to_wall_left=5), [], rules) is None
    assert wedge_advice(known(knee_to_wall_left=5), [(0, False)], rules) is None


def test_less_is_better_where_the_screen_says_so() -> None:
    shift = screens()["side_shift"]
    assert shift.passes(1) and not shift.passes(2)
    assert gap_between(screens()["side_squat"], known(side_squat_left=50, side_squat_right=41)) == ("left", 9)
    assert gap_between(screens()["balance"], known(balance_left=50, balance_right=30)) == ("right", 20)
    assert screens()["jump"].passes(1) is None


def test_a_change_within_the_error_is_not_real() -> None:
    screen, before = screens()["knee_to_wall"], Result(10, TODAY - dt.timedelta(days=28))
    small = change_since(screen, Result(10.8, TODAY), before)
    large = change_since(screen, Result(11.5, TODAY), before)
    assert small and not small.real and small.better
    assert large and large.real and large.since == before.done_on
    assert change_since(screen, Result(1, TODAY), None) is None
    worse = change_since(screens()["pelvis"], Result(2, TODAY), Result(1, TODAY))
    assert worse and worse.better is False


def test_due_again_after_the_interval_and_never_by_itself_for_settings() -> None:
    everything = list(screens().values())
    fresh = {(s.code, side): Result(1, TODAY - dt.timedelta(days=27)) for s in everything for side in s.sides}
    assert due(everything, fresh, TODAY, RULES) == []
    old = {key: Result(1, TODAY - dt.timedelta(days=28)) for key in fresh}
    waiting = {screen.code for screen in due(everything, old, TODAY, RULES)}
    assert "brace" in waiting and "squat_wedge" not in waiting and "reach_ahead" not in waiting
    del fresh["balance", "left"]
    assert [screen.code for screen in due(everything, fresh, TODAY, RULES)] == ["balance"]


@given(
    st.dictionaries(
        st.sampled_from(sorted((s.code, side) for s in screens().values() for side in s.sides)),
        st.floats(0, 200, allow_nan=False),
        max_size=20,
    )
)
def test_any_results_give_findings_that_can_be_said(values: dict[tuple[str, str], float]) -> None:
    from backsquat.pages.screen.phrases import drills_of, finding_words

    found = {key: Result(value, TODAY) for key, value in values.items()}
    for finding in screen_findings(list(screens().values()), found, [(20, True)], RULES):
        assert "{" not in finding_words(finding)
        assert all(code in movements() for code, _ in drills_of(finding, str))


@given(st.sampled_from(sorted(screens())), st.floats(allow_nan=True, allow_infinity=True))
def test_only_possible_values_are_taken(code: str, value: float) -> None:
    screen = screens()[code]
    if screen.possible(value):
        assert 0 <= value <= 900
        assert screen.kind not in (ResultKind.YES_NO, ResultKind.GRADE) or value == int(value)
