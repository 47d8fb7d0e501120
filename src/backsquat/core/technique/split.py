"""The split squat as geometry: what length of stance, lean and shin do to the front leg, and how open the rear hip is.

The same body and signs as in `linkage.py`; the front foot's heel is the origin. Length of stance: from the front heel
back to the ball of the rear foot.
"""

import math
from dataclasses import dataclass

from backsquat.core.rules import Rules
from backsquat.core.technique.body import (
    HEAD_UP,
    SHANK_CENTRE,
    SHANK_MASS,
    THIGH_CENTRE,
    THIGH_MASS,
    UPPER_CENTRE,
    UPPER_MASS,
    Body,
    inside,
)
from backsquat.core.technique.linkage import (
    ELBOWS,
    GRAVITY,
    HeldPosture,
    Point,
    between,
    foot_on,
    load_at,
    on_trunk,
    step,
)

SPLIT_BOUNDS = {
    "load_kg": (0.0, 250.0), "stance_cm": (20.0, 160.0), "lean_deg": (-10.0, 60.0), "depth_deg": (-60.0, 20.0),
    "shin_deg": (-20.0, 45.0), "front_mm": (0.0, 300.0), "rear_mm": (0.0, 600.0),
}  # fmt: skip
HEEL_UP = 0.07  # the rear ankle over its ball, of height, with the heel up
KNEE_CM = 5.0  # the middle of a knee that rests on the floor


@dataclass(frozen=True)
class Split:
    """A split squat to look at; `front_mm` and `rear_mm` are what the front foot, or the rear one, stands on."""

    held: HeldPosture = HeldPosture.BESIDE
    load_kg: float = 0.0
    stance_cm: float = 80.0
    lean_deg: float = 10.0
    depth_deg: float = 0.0
    shin_deg: float = 10.0
    front_mm: float = 0.0
    rear_mm: float = 0.0


@dataclass(frozen=True)
class SplitPosture:
    """Points in cm; arms in cm from the plumb line over the front mid-foot; moments in N·m of the front leg.

    `front_share` is the share of body and load on the front foot; `rear_hip_deg` the angle of trunk and rear thigh,
    180 in line, more where the hip is open past that. `limit` says what cannot be: the rear leg does not reach, the
    knee is in the floor, the rear hip opens farther than hips do, or the body falls ahead of the front foot.
    """

    points: dict[str, Point]
    shin_deg: float
    lean_deg: float
    hip_arm_cm: float
    knee_arm_cm: float
    hip_moment: float
    knee_moment: float
    front_share: float
    rear_hip_deg: float
    rear_knee_cm: float
    limit: str


def split_posture(body: Body, split: Split, rules: Rules) -> SplitPosture:
    """How the split squat stands. ImpossibleInput where it is none."""
    inside(split, SPLIT_BOUNDS)
    up = split.front_mm / 10
    flat = foot_on(body, 0.0)
    flat_points = {"heel": flat.heel, "ball": flat.ball, "toe": flat.toe, "ankle": flat.ankle}
    foot = {name: (x, y + up) for name, (x, y) in flat_points.items()}
    knee = step(foot["ankle"], split.shin_deg, body.shank_cm)
    hip = step(knee, -90 - split.depth_deg, body.thigh_cm)
    shoulder = step(hip, split.lean_deg, body.trunk_cm)
    rear_ball = (-split.stance_cm, split.rear_mm / 10)
    rear_ankle = (rear_ball[0], rear_ball[1] + HEEL_UP * body.height_cm)
    rear_knee, reaches = _bent(hip, rear_ankle, body.thigh_cm, body.shank_cm)
    load = load_at(body, split.held, hip, split.lean_deg)
    front_x, mass = (foot["heel"][0] + foot["toe"][0]) / 2, body.mass_kg
    upper = between(hip, shoulder, UPPER_CENTRE)
    parts = (
        (SHANK_MASS / 2 * mass, between(foot["ankle"], knee, SHANK_CENTRE)),
        (SHANK_MASS / 2 * mass, between(rear_ankle, rear_knee, SHANK_CENTRE)),
        (THIGH_MASS / 2 * mass, between(knee, hip, THIGH_CENTRE)),
        (THIGH_MASS / 2 * mass, between(rear_knee, hip, THIGH_CENTRE)),
        (UPPER_MASS * mass, upper),
        (split.load_kg, load),
    )
    whole = sum(kg for kg, _ in parts)
    centre = sum(kg * x for kg, (x, _) in parts) / whole
    share = (centre - rear_ball[0]) / (front_x - rear_ball[0])
    force = min(max(share, 0.0), 1.0) * whole * GRAVITY / 100
    rear_hip = _from_upright(hip, rear_knee) - split.lean_deg
    cannot = {
        "reach": not reaches,
        "floor": rear_knee[1] < KNEE_CM,
        "open": rear_hip > 180 + rules.rear_hip_most,
        "ahead": share > 1,
    }
    points = {
        **foot,
        "knee": knee,
        "hip": hip,
        "shoulder": shoulder,
        "load": load,
        "rear_knee": rear_knee,
        "rear_ankle": rear_ankle,
        "rear_ball": rear_ball,
        "head": step(shoulder, split.lean_deg, body.height_cm * HEAD_UP),
        "middle": (front_x, up),
        "line": (centre, 0.0),
        "elbow": on_trunk(body, ELBOWS[split.held], hip, split.lean_deg),
        "floor": (0.0, 0.0),
    }
    return SplitPosture(
        points,
        split.shin_deg,
        split.lean_deg,
        front_x - hip[0],
        knee[0] - front_x,
        force * (front_x - hip[0]),
        force * (knee[0] - front_x),
        share,
        rear_hip,
        rear_knee[1],
        next((name for name, so in cannot.items() if so), ""),
    )


def _from_upright(start: Point, end: Point) -> float:
    """The direction from one point to another, degrees forwards from straight up, 0 to 360."""
    return math.degrees(math.atan2(end[0] - start[0], end[1] - start[1])) % 360


def _bent(hip: Point, ankle: Point, thigh: float, shank: float) -> tuple[Point, bool]:
    """The rear knee, ahead of the line from hip to ankle; straight on the way there where the leg is too short."""
    far = math.dist(hip, ankle)
    if far >= thigh + shank:
        return between(hip, ankle, thigh / (thigh + shank)), far == thigh + shank
    along = (thigh**2 - shank**2 + far**2) / (2 * far)
    aside = math.sqrt(max(thigh**2 - along**2, 0.0))
    x, y = (ankle[0] - hip[0]) / far, (ankle[1] - hip[1]) / far
    return (hip[0] + along * x - aside * y, hip[1] + along * y + aside * x), True
