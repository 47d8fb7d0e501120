"""What a picture says, judged against figures whose angles are known: drawn from the linkage, clicked some way off."""

import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.errors import ImpossibleInput
from backsquat.core.rules import Rules
from backsquat.core.technique.body import body_of
from backsquat.core.technique.linkage import HeldPosture, Posture, Squat, squat_posture
from backsquat.core.technique.split import Split, split_posture
from backsquat.core.technique.still import (
    SPOTS,
    AngleReading,
    Depth,
    Judged,
    Measure,
    Spot,
    StillKind,
    TakenStill,
    judged,
    measure,
    verdict,
)
from backsquat.devices.drawn import Shot, draw

RULES = Rules()
TRUE = {Measure.TRUNK: "lean_deg", Measure.SHIN: "shin_deg", Measure.KNEE: "knee_deg", Measure.HIP: "hip_deg"}
shots = st.builds(
    Shot, px_per_cm=st.floats(2.2, 5.0), tilt_deg=st.floats(-8, 8), faces_right=st.booleans(), plate_cm=st.just(45.0)
)
postures = st.builds(
    lambda height, held, wedge, depth, ankle: squat_posture(
        body_of(height, 68), Squat(held, 60, wedge, ankle, depth), RULES
    ),
    st.floats(155, 190),
    st.sampled_from((HeldPosture.BACK_HIGH, HeldPosture.FRONT, HeldPosture.BACK_LOW)),
    st.floats(0, 30),
    st.floats(-30, 20),
    st.floats(25, 42),
)


def marked(
    posture: Posture, shot: Shot, chance: random.Random | None = None, kind: StillKind = StillKind.SQUAT
) -> TakenStill:
    """A drawn picture with its points, exact or clicked as far off as is reckoned with."""
    drawn, sd = draw(posture.points, shot), RULES.click_share * shot.height

    def clicked(value: float, most: float) -> float:
        return min(max(value + (chance.gauss(0, sd) if chance else 0), 0), most)

    points = {
        spot: (clicked(x, shot.width), clicked(y, shot.height))
        for spot, (x, y) in drawn.points.items()
        if spot in SPOTS[kind]
    }
    return TakenStill(kind, shot.width, shot.height, shot.faces_right, points, shot.plate_cm)


@given(postures, shots)
def test_exact_points_give_the_true_angles_whatever_the_camera_did(posture: Posture, shot: Shot) -> None:
    found = measure(marked(posture, shot), RULES)
    for what, name in TRUE.items():
        assert found.readings[what].value == pytest.approx(getattr(posture, name), abs=0.05), what
    depth = math.sin(math.radians(posture.depth_deg))
    assert found.readings[Measure.DEPTH].value == pytest.approx(depth, abs=0.002)
    assert found.tilt and found.tilt.value == pytest.approx(shot.tilt_deg, abs=0.05)
    bar = posture.points["load"][0] - (posture.points["heel"][0] + posture.points["toe"][0]) / 2
    assert found.readings[Measure.BAR_OFF].value == pytest.approx(bar, abs=0.1)


def test_clicks_as_far_off_as_reckoned_with_stay_inside_what_is_said() -> None:
    """Nineteen of twenty, over random postures, tilts, scales and sides; each measure for itself."""
    chance, inside, seen = random.Random(2011), dict.fromkeys([*TRUE, Measure.DEPTH], 0), 400
    for _ in range(seen):
        body = body_of(chance.uniform(155, 190), 68)
        squat = Squat(HeldPosture.BACK_HIGH, 60, chance.uniform(0, 30), chance.uniform(25, 42), chance.uniform(-30, 20))
        posture = squat_posture(body, squat, RULES)
        shot = Shot(chance.uniform(2.5, 5), chance.uniform(-6, 6), chance.random() < 0.5, plate_cm=45.0)
        readings = measure(marked(posture, shot, chance), RULES).readings
        true = {what: getattr(posture, name) for what, name in TRUE.items()}
        true[Measure.DEPTH] = math.sin(math.radians(posture.depth_deg))
        for what, value in true.items():
            inside[what] += readings[what].low <= value <= readings[what].high
    shares = {what: count / seen for what, count in inside.items()}
    assert all(0.91 <= share <= 0.99 for share in shares.values()), shares


def test_a_tilt_nobody_sees_would_lie_and_a_line_fixes_it() -> None:
    posture = squat_posture(body_of(172, 68), Squat(HeldPosture.BACK_HIGH, 60, 0, 34, 4), RULES)
    taken = marked(posture, Shot(tilt_deg=6.0))
    without = {spot: point for spot, point in taken.points.items() if spot not in (Spot.LEVEL_A, Spot.LEVEL_B)}
    lied = measure(TakenStill(taken.kind, taken.width, taken.height, True, without), RULES)
    assert abs(lied.readings[Measure.TRUNK].value - posture.lean_deg) > 5.9 and lied.tilt is None
    assert measure(taken, RULES).readings[Measure.TRUNK].value == pytest.approx(posture.lean_deg, abs=0.05)


def test_near_the_line_it_is_too_close_to_call_and_a_smaller_body_in_the_picture_less_sure() -> None:
    body = body_of(172, 68)
    found = {}
    for depth in (-12, -1, 1, 12):
        posture = squat_posture(body, Squat(HeldPosture.BACK_HIGH, 60, 10, 36, depth), RULES)
        found[depth] = measure(marked(posture, Shot()), RULES).depth
    assert found == {-12: Depth.SHORT, -1: Depth.CLOSE, 1: Depth.CLOSE, 12: Depth.DEEP}
    posture = squat_posture(body, Squat(HeldPosture.BACK_HIGH, 60, 10, 36, 5), RULES)
    near, far = (measure(marked(posture, Shot(px_per_cm=px)), RULES) for px in (5.0, 2.0))
    assert near.depth is Depth.DEEP and far.depth is Depth.CLOSE
    assert far.readings[Measure.TRUNK].off > near.readings[Measure.TRUNK].off


@pytest.mark.parametrize(("value", "off", "says"), [(0.1, 0.05, "deep"), (0.05, 0.05, "close"), (-0.1, 0.05, "short")])
def test_the_verdict_goes_by_the_ends(value: float, off: float, says: str) -> None:
    assert verdict(AngleReading(value, off)).value == says


def test_the_rear_hip_and_the_lock_out() -> None:
    posture = split_posture(body_of(172, 68), Split(stance_cm=85, lean_deg=8, shin_deg=8, depth_deg=-4), RULES)
    drawn = draw(posture.points, Shot(px_per_cm=4.0))
    points = {spot: at for spot, at in drawn.points.items() if spot in SPOTS[StillKind.SPLIT_SQUAT]}
    found = measure(TakenStill(StillKind.SPLIT_SQUAT, 800, 960, True, points), RULES)
    assert found.readings[Measure.REAR_HIP].value == pytest.approx(posture.rear_hip_deg, abs=0.1)
    line = {
        Spot.SHOULDER: (100.0, 500.0),
        Spot.HIP: (300.0, 500.0),
        Spot.KNEE: (500.0, 500.0),
        Spot.ANKLE: (500.0, 700.0),
    }

    def lock_out(hip_px: float) -> float:
        moved = line | {Spot.HIP: (300.0, 500.0 + hip_px)}
        return measure(TakenStill(StillKind.THRUST, 800, 960, True, moved), RULES).readings[Measure.LOCK_OUT].value

    def judged_at(hip_px: float) -> Judged | None:
        moved = line | {Spot.HIP: (300.0, 500.0 + hip_px)}
        return measure(TakenStill(StillKind.THRUST, 800, 960, True, moved), RULES).judged

    assert judged_at(-40) == Judged(Measure.LOCK_OUT, Depth.DEEP) and judged_at(60) == Judged(
        Measure.LOCK_OUT, Depth.SHORT
    )
    assert lock_out(0) == pytest.approx(0) and lock_out(40) < -10 and lock_out(-40) > 10
    mirrored = {spot: (800 - x, y + (40 if spot is Spot.HIP else 0)) for spot, (x, y) in line.items()}
    left = measure(TakenStill(StillKind.THRUST, 800, 960, False, mirrored), RULES).readings[Measure.LOCK_OUT].value
    assert left == pytest.approx(lock_out(40))


@pytest.mark.parametrize(
    ("kind", "value", "says"),
    [
        (StillKind.SPLIT_SQUAT, 190.0, Judged(Measure.REAR_HIP, Depth.DEEP)),
        (StillKind.SPLIT_SQUAT, 181.0, Judged(Measure.REAR_HIP, Depth.CLOSE)),
        (StillKind.SPLIT_SQUAT, 160.0, Judged(Measure.REAR_HIP, Depth.SHORT)),
        (StillKind.THRUST, -2.0, Judged(Measure.LOCK_OUT, Depth.DEEP)),
        (StillKind.THRUST, -12.0, Judged(Measure.LOCK_OUT, Depth.SHORT)),
        (StillKind.HINGE, -12.0, None),
    ],
)
def test_a_picture_is_judged_by_the_standard_of_its_kind_and_no_hip_extension_by_depth(
    kind: StillKind, value: float, says: Judged | None
) -> None:
    measure_of = {StillKind.SPLIT_SQUAT: Measure.REAR_HIP}.get(kind, Measure.LOCK_OUT)
    readings = {Measure.DEPTH: AngleReading(-0.5, 0.02), measure_of: AngleReading(value, 2.0)}
    assert judged(kind, readings, RULES) == says


def test_nothing_is_said_of_what_is_not_placed() -> None:
    found = measure(TakenStill(StillKind.SQUAT, 800, 960, True, {Spot.HIP: (300.0, 500.0)}), RULES)
    assert not found.readings and found.depth is None and Spot.SHOULDER in found.missing


@pytest.mark.parametrize(
    ("points", "code"),
    [
        ({Spot.HIP: (900.0, 10.0)}, "outside_picture"),
        ({Spot.HIP: (math.nan, 10.0)}, "outside_picture"),
        ({Spot.HIP: (300.0, 300.0), Spot.KNEE: (301.0, 300.0)}, "too_near"),
        ({Spot.REAR_KNEE: (300.0, 300.0)}, "not_of_kind"),
    ],
)
def test_points_that_cannot_be_are_named(points: dict[Spot, tuple[float, float]], code: str) -> None:
    with pytest.raises(ImpossibleInput) as raised:
        measure(TakenStill(StillKind.SQUAT, 800, 960, True, points), RULES)
    assert [problem.code for problem in raised.value.problems] == [code]
