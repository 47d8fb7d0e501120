"""The squat as geometry: it does what coaches see, and its sums are those of a hand."""

import math
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.errors import ImpossibleInput
from backsquat.core.rules import Rules
from backsquat.core.technique.body import Body, SegmentLength, ankle_bend, ankle_of, body_of
from backsquat.core.technique.difference import (
    SetUpChange,
    SetUpPart,
    differences,
    fixes,
    hinge_differences,
    split_differences,
)
from backsquat.core.technique.distances import Distance, starting_distances
from backsquat.core.technique.hinge import Hinge, hinge_posture
from backsquat.core.technique.linkage import HeldPosture, Posture, Squat, StandingPosture, between, squat_posture
from backsquat.core.technique.split import Split, split_posture

RULES = Rules()
LOADED = [held for held in HeldPosture if held is not HeldPosture.NOTHING]
heights = st.floats(150, 205)
bodies = st.builds(body_of, heights, st.floats(45, 130))
squats = st.builds(
    Squat, st.sampled_from(LOADED), st.floats(5, 200), st.floats(0, 40), st.floats(20, 45), st.floats(-30, 20)
)


def lean(body: Body, squat: Squat) -> float:
    return squat_posture(body, squat, RULES).lean_deg


def longer(body: Body, what: SegmentLength, by_cm: float) -> Body:
    return body_of(
        body.height_cm, body.mass_kg, {one: body.length(one) + by_cm * (one is what) for one in SegmentLength}
    )


# --- what coaches see, whoever it is


@given(bodies, squats, st.floats(5, 20))
def test_a_higher_wedge_never_makes_the_trunk_lean_more(body: Body, squat: Squat, more_mm: float) -> None:
    assert lean(body, replace(squat, wedge_mm=squat.wedge_mm + more_mm)) <= lean(body, squat) + 1e-6


@given(bodies, squats, st.floats(1, 10))
def test_a_stiffer_ankle_leans_or_tips(body: Body, squat: Squat, less_deg: float) -> None:
    stiff = squat_posture(body, replace(squat, ankle_deg=squat.ankle_deg - less_deg), RULES)
    assert stiff.lean_deg >= lean(body, squat) - 1e-6 or stiff.standing is not StandingPosture.STANDS


@given(bodies, squats, st.floats(1, 6))
def test_longer_thighs_lean_more_or_tip(body: Body, squat: Squat, longer_cm: float) -> None:
    long = squat_posture(longer(body, SegmentLength.THIGH, longer_cm), squat, RULES)
    assert (
        long.lean_deg >= lean(longer(body, SegmentLength.THIGH, 0), squat) - 1e-6
        or long.standing is not StandingPosture.STANDS
    )


@given(bodies, squats)
def test_in_front_is_more_upright_than_high_on_the_back_and_that_than_low(body: Body, squat: Squat) -> None:
    leans = [
        lean(body, replace(squat, held=held))
        for held in (HeldPosture.FRONT, HeldPosture.BACK_HIGH, HeldPosture.BACK_LOW)
    ]
    assert leans == sorted(leans)


@given(bodies, squats)
def test_level_thighs_are_the_farthest_reach(body: Body, squat: Squat) -> None:
    """Above and below level the hip is nearer to the plumb line."""
    level = squat_posture(body, replace(squat, depth_deg=0.0), RULES)
    high = squat_posture(body, replace(squat, depth_deg=-30.0), RULES)
    assert high.hip_arm_cm <= level.hip_arm_cm + 1e-6 or StandingPosture.STANDS not in (high.standing, level.standing)


@given(bodies, squats)
def test_who_stands_has_the_common_centre_over_mid_foot_and_bones_of_the_right_length(body: Body, squat: Squat) -> None:
    found = squat_posture(body, squat, RULES)
    points = found.points
    assert math.isclose(math.dist(points["ankle"], points["knee"]), body.shank_cm)
    assert math.isclose(math.dist(points["knee"], points["hip"]), body.thigh_cm)
    assert math.isclose(math.dist(points["hip"], points["shoulder"]), body.trunk_cm)
    assert found.standing is not StandingPosture.STANDS or points["line"][0] > points["middle"][0] - 1.0
    assert 0 <= found.lean_deg <= RULES.lean_most and found.knee_deg <= RULES.knee_bend_most + 1e-6
    assert points["shoulder"][0] >= points["hip"][0] - 1e-6


@given(bodies, squats)
def test_the_centre_is_where_the_parts_say(body: Body, squat: Squat) -> None:
    """Summed again from the drawn points: feet, shanks, thighs, all above, and the load."""
    points = squat_posture(body, squat, RULES).points
    parts = [
        (0.029 * body.mass_kg, (points["heel"][0] + points["toe"][0]) / 2),
        (0.093 * body.mass_kg, between(points["ankle"], points["knee"], 0.567)[0]),
        (0.2 * body.mass_kg, between(points["knee"], points["hip"], 0.567)[0]),
        (0.678 * body.mass_kg, between(points["hip"], points["shoulder"], 0.626)[0]),
        (squat.kg, points["load"][0]),
    ]
    centre = sum(kg * x for kg, x in parts) / sum(kg for kg, _ in parts)
    assert math.isclose(centre, points["line"][0], abs_tol=1e-6)


# --- one posture by hand


def test_the_statics_of_one_posture_by_hand() -> None:
    """A body of round numbers: foot 26, shank 40, thigh 40, trunk 50 cm, 70 kg, 70 kg high on the back.

    Ankle at 6.5 and 6.5 cm (0.039 × 166.7). Shin 30°: knee at 26.5, thigh level: hip at −13.5. Mid-foot 13.
    Rest about mid-foot: feet 0, shanks 6.51 × (6.5 + 0.567 × 20 − 13) = 31.5, thighs 14 × (26.5 − 0.567 × 40 − 13)
    = −128.5, all above with the load 117.46 × −26.5 = −3112.7; together −3209.7.
    sine: 50 × (47.46 × 0.626 + 70 × 1.02) = 5055.5; cosine: 166.7 × 70 × −0.03 = −350.
    lean = asin(3209.7 / 5067.6) + atan(350 / 5055.5) = 39.3° + 4.0°.
    """
    own = {SegmentLength.FOOT: 26.0, SegmentLength.SHANK: 40.0, SegmentLength.THIGH: 40.0, SegmentLength.TRUNK: 50.0}
    found = squat_posture(body_of(6.5 / 0.039, 70.0, own), Squat(HeldPosture.BACK_HIGH, 70.0, ankle_deg=30.0), RULES)
    assert found.shin_deg == pytest.approx(30.0)
    assert found.points["knee"][0] == pytest.approx(26.5) and found.points["hip"][0] == pytest.approx(-13.5)
    assert found.lean_deg == pytest.approx(43.3, abs=0.1)
    assert found.hip_arm_cm == pytest.approx(26.5, abs=0.05) and found.knee_arm_cm == pytest.approx(13.5, abs=0.05)
    above = 47.46 * 0.626 * 50 * math.sin(math.radians(found.lean_deg))  # about the hip, kg·cm
    load = 70 * (51 * math.sin(math.radians(found.lean_deg)) - 5 * math.cos(math.radians(found.lean_deg)))
    assert found.hip_moment == pytest.approx((above + load) * 9.81 / 100, rel=0.002)
    over_knee = 14 * 22.68 + 117.46 * 40 - above - load
    assert found.knee_moment == pytest.approx(over_knee * 9.81 / 100, rel=0.002)


def test_numbers_a_coach_would_believe() -> None:
    """A woman of 172 cm and 68 kg with 60 kg: within what is published for trunk lean at level thighs."""
    body = body_of(172, 68)
    leans = {
        held: lean(body, Squat(held, 60, 0, 35))
        for held in (HeldPosture.FRONT, HeldPosture.BACK_HIGH, HeldPosture.BACK_LOW)
    }
    assert 20 < leans[HeldPosture.FRONT] < 35 < leans[HeldPosture.BACK_HIGH] < 48 < leans[HeldPosture.BACK_LOW] + 5 < 60
    assert 32 < ankle_bend(body, 10, RULES) < 40 and ankle_bend(body, 4, RULES) < ankle_bend(body, 12, RULES)


def test_a_stiff_ankle_tips_and_a_wedge_fixes_it() -> None:
    body, stiff = body_of(172, 68, {SegmentLength.THIGH: 48}), Squat(HeldPosture.NOTHING, ankle_deg=8, depth_deg=10)
    assert squat_posture(body, stiff, RULES).standing is not StandingPosture.STANDS
    found = {fix.name: fix.value for fix in fixes(body, stiff, RULES)}
    assert found, "something would let this body stand"
    for name, value in found.items():
        assert squat_posture(body, replace(stiff, **{name: value}), RULES).standing is StandingPosture.STANDS
        less = value - 5 if name == "wedge_mm" else value + 5
        assert squat_posture(body, replace(stiff, **{name: less}), RULES).standing is not StandingPosture.STANDS
    assert fixes(body, Squat(HeldPosture.FRONT, 40), RULES) == []


def test_what_a_wedge_does_is_said_the_trunk_first() -> None:
    body, flat = body_of(172, 68), Squat(HeldPosture.BACK_HIGH, 60)
    was, now = (squat_posture(body, one, RULES) for one in (flat, replace(flat, wedge_mm=30)))
    found = differences(was, now)
    assert [one.what for one in found] == [SetUpPart.LEAN, SetUpPart.ARMS, SetUpPart.BACK]
    assert found[0].after < found[0].before and found[1].knee_after > found[1].knee_before
    assert differences(was, was) == [SetUpChange(SetUpPart.SAME, 0.0, 0.0)]


def test_what_a_hanging_bar_and_a_longer_stance_do_is_said() -> None:
    body = body_of(172, 68)
    close, hanging = (hinge_posture(body, Hinge(60, 70, 20, near)) for near in (True, False))
    assert [one.what for one in hinge_differences(close, hanging)] == [SetUpPart.BACK, SetUpPart.DRIFT]
    assert [one.what for one in hinge_differences(close, close)] == [SetUpPart.SAME]
    short, long = (
        split_posture(body, Split(stance_cm=cm, lean_deg=lean, shin_deg=shin, depth_deg=-5), RULES)
        for cm, lean, shin in ((74, 0, 15), (82, 20, 0))
    )
    found = {one.what: one for one in split_differences(short, long)}
    assert found[SetUpPart.FOR_HIPS].after > found[SetUpPart.FOR_HIPS].before and SetUpPart.FRONT in found
    assert [one.what for one in split_differences(short, short)] == [SetUpPart.FRONT]


def test_the_stiffer_ankle_counts_and_the_usual_where_nobody_measured() -> None:
    body = body_of(172, 68)
    assert ankle_of(body, [12.0, 7.5], RULES) == ankle_bend(body, 7.5, RULES)
    assert ankle_of(body, [], RULES) == RULES.ankle_bend_usual


def test_nothing_weighs_nothing() -> None:
    body = body_of(172, 68)
    assert lean(body, Squat(HeldPosture.NOTHING, 90)) == lean(body, Squat(HeldPosture.NOTHING, 0))


# --- hinge and split squat


@given(bodies, st.floats(10, 90), st.floats(0, 40), st.floats(5, 200))
def test_a_bar_left_to_hang_loads_the_lower_back_more(body: Body, down: float, bend: float, load_kg: float) -> None:
    close, hanging = (hinge_posture(body, Hinge(load_kg, down, bend, near)) for near in (True, False))
    assert close.drift_cm == pytest.approx(0) and hanging.drift_cm > 0
    assert hanging.back_moment >= close.back_moment - 1e-6
    assert len({round(x, 6) for x, _ in close.path}) == 1, "kept close it travels straight"


@given(bodies, st.floats(5, 80), st.floats(0, 60))
def test_more_lean_sends_the_hips_back_and_the_bar_down(body: Body, down: float, bend: float) -> None:
    upper, lower = (hinge_posture(body, Hinge(60, angle, bend)) for angle in (down, down + 10))
    assert lower.hip_arm_cm > upper.hip_arm_cm and lower.bar_cm < upper.bar_cm


def test_a_longer_stance_with_a_lean_is_for_the_hips_a_short_upright_one_for_the_thighs() -> None:
    body = body_of(172, 68)
    short = split_posture(body, Split(load_kg=20, stance_cm=72, lean_deg=0, shin_deg=18, depth_deg=-5), RULES)
    long = split_posture(body, Split(load_kg=20, stance_cm=88, lean_deg=20, shin_deg=0, depth_deg=-5), RULES)
    assert not short.limit and not long.limit
    assert long.hip_moment > short.hip_moment and long.knee_moment < short.knee_moment
    assert long.front_share > short.front_share


@pytest.mark.parametrize(
    ("changes", "limit"),
    [({"stance_cm": 125, "shin_deg": 20}, "reach"), ({"stance_cm": 60, "depth_deg": 18}, "floor"),
     ({"stance_cm": 103}, "open"), ({"lean_deg": 60, "shin_deg": 45, "stance_cm": 80, "depth_deg": -10,
                                     "held": HeldPosture.GOBLET, "load_kg": 200}, "ahead")],
)  # fmt: skip
def test_what_cannot_be_is_said(changes: dict[str, Any], limit: str) -> None:
    assert split_posture(body_of(172, 68), replace(Split(lean_deg=0), **changes), RULES).limit == limit


def test_a_starting_stance_can_be_stood_in() -> None:
    for height in (155, 172, 190):
        body = body_of(height, 70)
        cm = {mark.what: mark.cm for mark in starting_distances(body)}
        for what in (Distance.SPLIT_SHORT, Distance.SPLIT_LONG):
            stance = Split(stance_cm=cm[what], depth_deg=-5, shin_deg=5, lean_deg=10)
            assert not split_posture(body, stance, RULES).limit, (height, what)
        assert cm[Distance.SPLIT_SHORT] < cm[Distance.SPLIT_LONG] and cm[Distance.STEP_LOW] < cm[Distance.STEP_HIGH]


# --- nonsense


@pytest.mark.parametrize("wrong", [math.nan, math.inf, -1e9, 1e9])
def test_nonsense_is_named(wrong: float) -> None:
    body = body_of(172, 68)
    for call in (
        lambda: body_of(wrong, 68),
        lambda: body_of(172, wrong),
        lambda: body_of(172, 68, {SegmentLength.THIGH: wrong}),
        lambda: squat_posture(body, Squat(wedge_mm=wrong), RULES),
        lambda: squat_posture(body, Squat(depth_deg=wrong), RULES),
        lambda: hinge_posture(body, Hinge(lean_deg=wrong)),
        lambda: split_posture(body, Split(stance_cm=wrong), RULES),
    ):
        with pytest.raises(ImpossibleInput):
            call()


@given(bodies, squats)
def test_working_ends_in_the_lean(body: Body, squat: Squat) -> None:
    found: Posture = squat_posture(body, squat, RULES)
    assert found.working.steps[-1].output == found.lean_deg and len(found.working.steps) == 4
