"""The squat as geometry: with which lean of the trunk somebody stands in a set-up (rules 2.11).

Seen from the side, quasi-static. x forward, y up, in cm; the origin is the heel of a flat foot on the floor. Lean and
shin are degrees from upright, depth is degrees of the thigh under level. The trunk is a straight line; stance width,
turn-out, a rounding back and the speed of the bar are not in it.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.rules import Rules
from backsquat.core.technique.body import (
    ANKLE_BACK,
    ARM,
    ARMS_MASS,
    BACK,
    BALL,
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
from backsquat.core.working import Step, Working

Point = tuple[float, float]
GRAVITY = 9.81
STILL_CM = 1.0  # the centre so little behind mid-foot is over it


class HeldPosture(StrEnum):
    """Where a load is, as far as balance tells it apart."""

    NOTHING = "nothing"  # arms stretched ahead
    BACK_HIGH = "back_high"
    BACK_LOW = "back_low"
    FRONT = "front"
    OVERHEAD = "overhead"
    GOBLET = "goblet"
    BESIDE = "beside"


@dataclass(frozen=True)
class ArmHold:
    """Where on the trunk a load sits: along it from the hip, before it, and from there straight over and out (shares)."""

    along: float  # of the trunk
    ahead: float = 0.0  # of height, at right angles to the trunk
    over: float = 0.0  # of height, straight up whatever the trunk does
    out: float = 0.0  # of height, level and forwards


HOLDS = {  # usual practice; arms overhead, beside the body and ahead are straight
    HeldPosture.NOTHING: ArmHold(1.0, out=0.37),
    HeldPosture.BACK_HIGH: ArmHold(1.02, ahead=-0.03),
    HeldPosture.BACK_LOW: ArmHold(0.9, ahead=-0.055),
    HeldPosture.FRONT: ArmHold(1.0, ahead=0.055),
    HeldPosture.OVERHEAD: ArmHold(1.0, over=0.386),
    HeldPosture.GOBLET: ArmHold(0.8, ahead=0.14),
    HeldPosture.BESIDE: ArmHold(1.0, over=-0.386),
}
ELBOWS = {  # for the drawing alone
    HeldPosture.NOTHING: ArmHold(1.0, out=0.18),
    HeldPosture.BACK_HIGH: ArmHold(0.62, ahead=-0.03),
    HeldPosture.BACK_LOW: ArmHold(0.58, ahead=-0.07),
    HeldPosture.FRONT: ArmHold(0.93, ahead=0.17),
    HeldPosture.OVERHEAD: ArmHold(1.0, over=0.19),
    HeldPosture.GOBLET: ArmHold(0.52, ahead=0.09),
    HeldPosture.BESIDE: ArmHold(1.0, over=-0.18),
}
BOUNDS = {  # of what is asked: low, high
    "load_kg": (0.0, 400.0), "wedge_mm": (0.0, 60.0), "ankle_deg": (5.0, 60.0), "depth_deg": (-60.0, 40.0),
    "shin_share": (0.0, 1.0),
}  # fmt: skip


@dataclass(frozen=True)
class Squat:
    """A set-up to look at. `depth_deg` is the thigh under level; `shin_share` how much of the ankle is used."""

    held: HeldPosture = HeldPosture.BACK_HIGH
    load_kg: float = 0.0
    wedge_mm: float = 0.0
    ankle_deg: float = 33.0
    depth_deg: float = 0.0
    shin_share: float = 1.0

    @property
    def kg(self) -> float:
        """What is held; nothing weighs nothing."""
        return 0.0 if self.held is HeldPosture.NOTHING else self.load_kg


class StandingPosture(StrEnum):
    """How somebody stands in a posture."""

    STANDS = "stands"
    HEELS = "heels"  # as far as the trunk goes the centre stays behind mid-foot, over the foot still
    TIPS = "tips"  # backwards


@dataclass(frozen=True)
class Posture:
    """Points in cm by name, angles in degrees, arms in cm, moments in N·m for both legs together.

    `hip_arm_cm` and `knee_arm_cm` are the distances from the plumb line through the common centre; `back_arm_cm` that
    from the lower back to the centre of what it carries. `centre_share` says where the centre falls over the foot:
    0 heel, 1 toes. `limit` is what kept the trunk from leaning further, `spare_ankle` whether the ankle was not
    needed whole.
    """

    points: Mapping[str, Point]
    shin_deg: float
    lean_deg: float
    depth_deg: float
    hip_arm_cm: float
    knee_arm_cm: float
    back_arm_cm: float
    hip_moment: float
    knee_moment: float
    back_moment: float
    centre_share: float
    standing: StandingPosture
    limit: str
    spare_ankle: bool
    working: Working

    @property
    def hip_deg(self) -> float:
        """The angle between trunk and thigh."""
        return 90 - self.depth_deg - self.lean_deg

    @property
    def knee_deg(self) -> float:
        """How far the knee is bent from straight."""
        return 90 + self.shin_deg + self.depth_deg


@dataclass(frozen=True)
class Foot:
    """A foot on its wedge: its points in cm, and how steep the sole is."""

    heel: Point
    ball: Point
    toe: Point
    ankle: Point
    slope_deg: float

    @property
    def middle(self) -> float:
        """Mid-foot along the floor, cm."""
        return (self.heel[0] + self.toe[0]) / 2


def foot_on(body: Body, wedge_mm: float) -> Foot:
    """The foot turned about its ball by a wedge under the heel."""
    lever = body.foot_cm * BALL
    slope = math.asin(min(wedge_mm / 10 / lever, 0.9))

    def turned(along: float, up: float) -> Point:
        x = along - lever
        return lever + x * math.cos(slope) + up * math.sin(slope), up * math.cos(slope) - x * math.sin(slope)

    return Foot(
        turned(0, 0),
        (lever, 0.0),
        (body.foot_cm, 0.0),
        turned(body.foot_cm * ANKLE_BACK, body.ankle_cm),
        math.degrees(slope),
    )


def step(start: Point, angle_deg: float, length: float) -> Point:
    """The point at a distance, an angle in degrees from straight up, forwards."""
    angle = math.radians(angle_deg)
    return start[0] + length * math.sin(angle), start[1] + length * math.cos(angle)


def between(one: Point, other: Point, share: float) -> Point:
    """The point a share of the way from one to the other."""
    return one[0] + share * (other[0] - one[0]), one[1] + share * (other[1] - one[1])


@dataclass(frozen=True)
class _Balance:
    """Moments about mid-foot as the trunk leans: sine·sin(lean) + cosine·cos(lean) + rest, in kg·cm."""

    sine: float
    cosine: float
    rest: float
    total_kg: float

    def off(self, lean_deg: float) -> float:
        """How far the common centre is before mid-foot, cm."""
        lean = math.radians(lean_deg)
        return (self.sine * math.sin(lean) + self.cosine * math.cos(lean) + self.rest) / self.total_kg

    def lean(self) -> float | None:
        """The lean that brings it over mid-foot, degrees; none where no lean does."""
        reach = math.hypot(self.sine, self.cosine)
        if abs(self.rest) > reach:
            return None if self.rest < 0 else -90.0
        return math.degrees(math.asin(-self.rest / reach) - math.atan2(self.cosine, self.sine))


def _legs(body: Body, foot: Foot, shin_deg: float, depth_deg: float) -> tuple[Point, Point]:
    knee = step(foot.ankle, shin_deg, body.shank_cm)
    return knee, step(knee, -90 - depth_deg, body.thigh_cm)


def _balance(body: Body, squat: Squat, foot: Foot, shin_deg: float) -> _Balance:
    knee, hip = _legs(body, foot, shin_deg, squat.depth_deg)
    middle, hold, mass = foot.middle, HOLDS[squat.held], body.mass_kg
    below = (
        (FOOT_MASS * mass, (foot.heel[0] + foot.toe[0]) / 2),
        (SHANK_MASS * mass, between(foot.ankle, knee, SHANK_CENTRE)[0]),
        (THIGH_MASS * mass, between(knee, hip, THIGH_CENTRE)[0]),
        (UPPER_MASS * mass + squat.kg, hip[0]),
    )
    return _Balance(
        body.trunk_cm * (UPPER_MASS * mass * UPPER_CENTRE + squat.kg * hold.along),
        body.height_cm * squat.kg * hold.ahead,
        sum(kg * (x - middle) for kg, x in below) + _arms_ahead(body, squat.held),
        mass + squat.kg,
    )


def _arms_ahead(body: Body, held: HeldPosture) -> float:
    """What arms stretched ahead add about any point behind them, in kg·cm; every load else holds them."""
    return body.mass_kg * ARMS_MASS * body.height_cm * ARM / 2 if held is HeldPosture.NOTHING else 0.0


def squat_posture(body: Body, squat: Squat, rules: Rules) -> Posture:
    """How this body stands in this set-up. ImpossibleInput where the set-up is none."""
    inside(squat, BOUNDS)
    foot = foot_on(body, squat.wedge_mm)
    most_shin = min(squat.ankle_deg + foot.slope_deg, rules.knee_bend_most - 90 - squat.depth_deg)
    shin = most_shin * squat.shin_share
    lean = _balance(body, squat, foot, shin).lean()
    spare = lean is not None and lean < 0
    if spare:  # nobody leans back for balance: the shin stays more upright instead
        shin, lean = _shin_for(0.0, lambda one: _balance(body, squat, foot, one), shin), 0.0
    balance = _balance(body, squat, foot, shin)
    bounds = {"lean": rules.lean_most, "fold": 90 - squat.depth_deg - rules.fold_least}
    limit = min(bounds, key=lambda name: bounds[name])
    if lean is not None and lean <= bounds[limit]:
        limit = ""
    else:
        lean = bounds[limit]
    return _posture(body, squat, foot, shin, lean, balance, (limit, spare), rules)


def _shin_for(lean_deg: float, balance_at: Callable[[float], _Balance], most: float) -> float:
    """The shin with which this lean balances, by halving; what is more upright moves the centre back."""
    low, high = -30.0, most
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (low, middle) if balance_at(middle).off(lean_deg) > 0 else (middle, high)
    return (low + high) / 2


def _posture(
    body: Body,
    squat: Squat,
    foot: Foot,
    shin: float,
    lean: float,
    balance: _Balance,
    why: tuple[str, bool],
    rules: Rules,
) -> Posture:
    knee, hip = _legs(body, foot, shin, squat.depth_deg)
    shoulder = step(hip, lean, body.trunk_cm)
    load = load_at(body, squat.held, hip, lean)
    off = balance.off(lean)
    line = foot.middle + off
    upper = between(hip, shoulder, UPPER_CENTRE)
    back, above = between(hip, shoulder, BACK), between(hip, shoulder, OVER_BACK_CENTRE)
    mass, kg = body.mass_kg, squat.kg
    arms = _arms_ahead(body, squat.held)
    over_back = mass * OVER_BACK_MASS * (above[0] - back[0]) + kg * (load[0] - back[0]) + arms
    over_hip = mass * UPPER_MASS * (upper[0] - hip[0]) + kg * (load[0] - hip[0]) + arms
    over_knee = over_hip + (mass * UPPER_MASS + kg) * (hip[0] - knee[0])
    over_knee += mass * THIGH_MASS * (between(knee, hip, THIGH_CENTRE)[0] - knee[0])
    carried = over_back / (mass * OVER_BACK_MASS + kg)
    share = (line - foot.heel[0]) / (foot.toe[0] - foot.heel[0])
    standing = (
        StandingPosture.STANDS
        if off > -STILL_CM
        else StandingPosture.HEELS
        if share >= rules.heels_share
        else StandingPosture.TIPS
    )
    points = {
        "heel": foot.heel,
        "ball": foot.ball,
        "toe": foot.toe,
        "ankle": foot.ankle,
        "knee": knee,
        "hip": hip,
        "shoulder": shoulder,
        "head": step(shoulder, lean, body.height_cm * HEAD_UP),
        "load": load,
        "elbow": on_trunk(body, ELBOWS[squat.held], hip, lean),
        "back": back,
        "middle": (foot.middle, 0.0),
        "line": (line, 0.0),
        "floor": (0.0, 0.0),
        "carried": (back[0] + carried, back[1]),
    }
    return Posture(
        points,
        shin,
        lean,
        squat.depth_deg,
        line - hip[0],
        knee[0] - line,
        carried,
        over_hip * GRAVITY / 100,
        -over_knee * GRAVITY / 100,
        over_back * GRAVITY / 100,
        share,
        standing,
        why[0],
        why[1],
        _working(body, squat, foot, (shin, lean), off),
    )


def load_at(body: Body, held: HeldPosture, hip: Point, lean_deg: float) -> Point:
    """Where the middle of a load is, given the hip and the lean of the trunk."""
    return on_trunk(body, HOLDS[held], hip, lean_deg)


def on_trunk(body: Body, hold: ArmHold, hip: Point, lean_deg: float) -> Point:
    """A place on a trunk that leans so far from this hip."""
    along = step(hip, lean_deg, body.trunk_cm * hold.along)
    ahead = step(along, lean_deg + 90, body.height_cm * hold.ahead)
    return ahead[0] + body.height_cm * hold.out, ahead[1] + body.height_cm * hold.over


def _working(body: Body, squat: Squat, foot: Foot, angles: tuple[float, float], off: float) -> Working:
    shin, lean = angles
    return Working(
        (
            Step(
                "linkage_shin",
                {"ankle": squat.ankle_deg, "slope": foot.slope_deg, "wedge": squat.wedge_mm, "share": squat.shin_share},
                shin,
                "°",
            ),
            Step(
                "linkage_legs",
                {"shank": body.shank_cm, "thigh": body.thigh_cm, "depth": squat.depth_deg},
                _legs(body, foot, shin, squat.depth_deg)[1][0] - foot.middle,
                "cm",
            ),
            Step(
                "linkage_upper",
                {"mass": body.mass_kg * UPPER_MASS, "load": squat.kg, "trunk": body.trunk_cm},
                body.mass_kg + squat.kg,
                "kg",
            ),
            Step("linkage_lean", {"off": off}, lean, "°"),
        )
    )
