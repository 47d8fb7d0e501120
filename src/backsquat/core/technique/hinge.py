"""The hinge as geometry: how far back the hips go for a lean and a bend of the knees, and the way of the bar.

The same body and signs as in `linkage.py`. The load hangs from straight arms: held close, so that it travels over
mid-foot, or left to hang straight down from the shoulders, where it drifts ahead and the lower back pays for it.
"""

import math
from dataclasses import dataclass

from backsquat.core.technique.body import (
    BACK,
    FOOT_MASS,
    HEAD_UP,
    OVER_BACK_CENTRE,
    OVER_BACK_MASS,
    SHANK_CENTRE,
    SHANK_MASS,
    THIGH_CENTRE,
    THIGH_MASS,
    UPPER_CENTRE,
    UPPER_MASS,
    Body,
    inside,
)
from backsquat.core.technique.linkage import GRAVITY, Foot, Point, between, foot_on, step

HINGE_BOUNDS = {"load_kg": (0.0, 400.0), "lean_deg": (0.0, 95.0), "knee_deg": (0.0, 120.0)}
PLATE_CM = 22.5  # half a large plate: how high the bar lies on the floor
PATH = 12  # points of the way of the bar
SHIN_DEG = (-35.0, 45.0)


@dataclass(frozen=True)
class Hinge:
    """A hinge to look at: the lean of the trunk and the bend of the knees, degrees; the bar held close or hanging."""

    load_kg: float = 0.0
    lean_deg: float = 70.0
    knee_deg: float = 20.0
    close: bool = True


@dataclass(frozen=True)
class HingePosture:
    """Points in cm, the way of the bar from standing to here, arms in cm, moments in N·m. `reaches`: the arms do."""

    points: dict[str, Point]
    path: tuple[Point, ...]
    shin_deg: float
    lean_deg: float
    knee_deg: float
    hip_arm_cm: float
    back_arm_cm: float
    hip_moment: float
    back_moment: float
    drift_cm: float
    bar_cm: float
    stands: bool
    reaches: bool

    @property
    def on_the_floor(self) -> bool:
        """Whether large plates would touch the floor before this."""
        return self.bar_cm <= PLATE_CM


def hinge_posture(body: Body, hinge: Hinge) -> HingePosture:
    """Where the hips go, and the bar. ImpossibleInput where the hinge is none."""
    inside(hinge, HINGE_BOUNDS)
    foot = foot_on(body, 0.0)
    path = tuple(
        _bar(body, foot, hinge, _points(body, foot, hinge, n / PATH)[0]["shoulder"])[0] for n in range(PATH + 1)
    )
    points, shin, stands = _points(body, foot, hinge, 1.0)
    bar, reaches = _bar(body, foot, hinge, points["shoulder"])
    hip, shoulder = points["hip"], points["shoulder"]
    upper, back = between(hip, shoulder, UPPER_CENTRE), between(hip, shoulder, BACK)
    above, mass, kg = between(hip, shoulder, OVER_BACK_CENTRE), body.mass_kg, hinge.load_kg
    over_back = mass * OVER_BACK_MASS * (above[0] - back[0]) + kg * (bar[0] - back[0])
    over_hip = mass * UPPER_MASS * (upper[0] - hip[0]) + kg * (bar[0] - hip[0])
    points |= {
        "load": bar,
        "hand": bar,
        "back": back,
        "head": step(shoulder, hinge.lean_deg, body.height_cm * HEAD_UP),
        "middle": (foot.middle, 0.0),
        "line": (foot.middle, 0.0),
        "elbow": between(shoulder, bar, 0.5),
        "floor": (0.0, 0.0),
    }
    return HingePosture(
        points,
        path,
        shin,
        hinge.lean_deg,
        hinge.knee_deg,
        foot.middle - hip[0],
        over_back / (mass * OVER_BACK_MASS + kg),
        over_hip * GRAVITY / 100,
        over_back * GRAVITY / 100,
        bar[0] - foot.middle,
        bar[1],
        stands,
        reaches,
    )


def _bar(body: Body, foot: Foot, hinge: Hinge, shoulder: Point) -> tuple[Point, bool]:
    """Where the bar is, and whether straight arms reach there."""
    if not hinge.close:
        return (shoulder[0], shoulder[1] - body.arm_cm), True
    aside = shoulder[0] - foot.middle
    if abs(aside) >= body.arm_cm:
        return (foot.middle, shoulder[1]), False
    return (foot.middle, shoulder[1] - math.sqrt(body.arm_cm**2 - aside**2)), True


def _points(body: Body, foot: Foot, hinge: Hinge, share: float) -> tuple[dict[str, Point], float, bool]:
    """The joints a share of the way down, the shin, and whether it can be stood."""
    lean, bend = hinge.lean_deg * share, hinge.knee_deg * share

    def at(shin: float) -> tuple[Point, Point, Point]:
        knee = step(foot.ankle, shin, body.shank_cm)
        hip = step(knee, shin - bend, body.thigh_cm)
        return knee, hip, step(hip, lean, body.trunk_cm)

    def off(shin: float) -> float:
        knee, hip, shoulder = at(shin)
        mass, load_x = body.mass_kg, foot.middle if hinge.close else shoulder[0]
        parts = (
            (FOOT_MASS * mass, foot.middle),
            (SHANK_MASS * mass, between(foot.ankle, knee, SHANK_CENTRE)[0]),
            (THIGH_MASS * mass, between(knee, hip, THIGH_CENTRE)[0]),
            (UPPER_MASS * mass, between(hip, shoulder, UPPER_CENTRE)[0]),
            (hinge.load_kg, load_x),
        )
        return sum(kg * (x - foot.middle) for kg, x in parts)

    low, high = SHIN_DEG
    stands = off(low) <= 0 <= off(high)
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (low, middle) if off(middle) > 0 else (middle, high)
    shin = (low + high) / 2
    knee, hip, shoulder = at(shin)
    joints = {
        "heel": foot.heel,
        "ball": foot.ball,
        "toe": foot.toe,
        "ankle": foot.ankle,
        "knee": knee,
        "hip": hip,
        "shoulder": shoulder,
    }
    return joints, shin, stands
