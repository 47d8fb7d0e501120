"""What a still picture from the side says: depth, angles, lock-out, each with how sure it is (rules 2.11).

Points are pixels of the picture, x to the right, y down. Whoever is in it faces left or right; angles come out the
same. A point may be off by `click_share` of the picture's height, one standard deviation; what is said holds within
`still_sure` of them. What the camera does besides being tilted (not square to the body, near and wide) is not in it.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.rules import Rules

Point = tuple[float, float]
PIXELS_MOST = 10_000
LEAST_PX = 12.0  # of two points that make a line: nearer together they say nothing


class StillKind(StrEnum):
    """What is in a picture."""

    SQUAT = "squat"
    SPLIT_SQUAT = "split_squat"
    THRUST = "thrust"
    HINGE = "hinge"
    LANDING = "landing"
    PICKUP = "pickup"
    READY = "ready"


class Spot(StrEnum):
    """A point that is placed in a picture."""

    SHOULDER = "shoulder"
    HIP = "hip"
    KNEE = "knee"
    ANKLE = "ankle"
    HEEL = "heel"
    TOE = "toe"
    BAR = "bar"
    REAR_KNEE = "rear_knee"
    WAIST_BACK = "waist_back"
    WAIST_FRONT = "waist_front"
    LEVEL_A = "level_a"
    LEVEL_B = "level_b"
    PLATE_A = "plate_a"
    PLATE_B = "plate_b"


BODY = (Spot.SHOULDER, Spot.HIP, Spot.KNEE, Spot.ANKLE)
WHEREVER = (Spot.WAIST_BACK, Spot.WAIST_FRONT, Spot.LEVEL_A, Spot.LEVEL_B, Spot.PLATE_A, Spot.PLATE_B)
FOOT = (Spot.HEEL, Spot.TOE)
SPOTS: dict[StillKind, tuple[Spot, ...]] = {
    StillKind.SQUAT: (*BODY, *FOOT, Spot.BAR, *WHEREVER),
    StillKind.SPLIT_SQUAT: (*BODY, *FOOT, Spot.REAR_KNEE, Spot.BAR, *WHEREVER),
    StillKind.THRUST: (*BODY, Spot.BAR, *WHEREVER),
    StillKind.HINGE: (*BODY, *FOOT, Spot.BAR, *WHEREVER),
    StillKind.LANDING: (*BODY, *FOOT, *WHEREVER),
    StillKind.PICKUP: (*BODY, *FOOT, *WHEREVER),
    StillKind.READY: (*BODY, *FOOT, *WHEREVER),
}


class Measure(StrEnum):
    """What is read from a picture; degrees, but for those that say otherwise."""

    TRUNK = "trunk"  # shoulder over hip, from upright
    SHIN = "shin"  # knee over ankle, from upright, forwards
    KNEE = "knee"  # bend of the knee from straight
    HIP = "hip"  # angle of trunk and thigh
    DEPTH = "depth"  # how far the hip crease is under the top of the knee, of the thigh
    LOCK_OUT = "lock_out"  # knee, hip and shoulder: 0 a straight line, minus short of it, plus leaning back
    REAR_HIP = "rear_hip"  # angle of trunk and rear thigh, 180 in line, more is open past it
    PELVIS = "pelvis"  # the line of the waistband against level, plus is front down
    BAR_OFF = "bar_off"  # the bar before mid-foot, cm with a plate to go by


M = Measure
SHOWN: dict[StillKind, tuple[Measure, ...]] = {  # in the order in which a coach asks
    StillKind.SQUAT: (M.DEPTH, M.TRUNK, M.SHIN, M.KNEE, M.HIP, M.PELVIS, M.BAR_OFF),
    StillKind.SPLIT_SQUAT: (M.REAR_HIP, M.TRUNK, M.SHIN, M.KNEE, M.DEPTH, M.PELVIS, M.BAR_OFF),
    StillKind.THRUST: (M.LOCK_OUT, M.KNEE, M.SHIN, M.PELVIS),
    StillKind.HINGE: (M.TRUNK, M.KNEE, M.SHIN, M.HIP, M.LOCK_OUT, M.PELVIS, M.BAR_OFF),
    StillKind.LANDING: (M.TRUNK, M.KNEE, M.SHIN, M.HIP, M.PELVIS),
    StillKind.PICKUP: (M.TRUNK, M.KNEE, M.SHIN, M.HIP, M.PELVIS),
    StillKind.READY: (M.TRUNK, M.KNEE, M.SHIN, M.HIP, M.PELVIS),
}


@dataclass(frozen=True)
class AngleReading:
    """A value, and how far it may be off to either side."""

    value: float
    off: float

    @property
    def low(self) -> float:
        """The lower end of what it may be."""
        return self.value - self.off

    @property
    def high(self) -> float:
        """The upper end of what it may be."""
        return self.value + self.off


class Depth(StrEnum):
    """Whether a rep was to its standard, as far as a picture can tell: depth, an open rear hip, a lock-out."""

    DEEP = "deep"  # to the standard
    CLOSE = "close"  # too close to call
    SHORT = "short"


@dataclass(frozen=True)
class TakenStill:
    """How a picture was taken and marked."""

    kind: StillKind
    width: int
    height: int
    faces_right: bool
    points: Mapping[Spot, Point]
    plate_cm: float = 0.0  # 0: no plate of known size


STANDARD = {  # what a picture of each kind is judged by; the others have no verdict
    StillKind.SQUAT: Measure.DEPTH,
    StillKind.SPLIT_SQUAT: Measure.REAR_HIP,
    StillKind.THRUST: Measure.LOCK_OUT,
}


@dataclass(frozen=True)
class Judged:
    """A verdict, and the measure it is about."""

    standard: Measure
    verdict: Depth


@dataclass(frozen=True)
class MeasuredAngle:
    """All readings, the verdict by the kind's own standard, tilt of the camera in degrees, px a cm where known."""

    readings: Mapping[Measure, AngleReading]
    judged: Judged | None
    tilt: AngleReading | None
    scale: AngleReading | None
    missing: tuple[Spot, ...]

    @property
    def depth(self) -> Depth | None:
        """The verdict on the depth of a squat; None of anything else."""
        return self.judged.verdict if self.judged and self.judged.standard is Measure.DEPTH else None


def measure(taken: TakenStill, rules: Rules) -> MeasuredAngle:
    """Everything the placed points say. ImpossibleInput where one is outside the picture or two are one."""
    _check(taken)
    sd = rules.click_share * taken.height
    tilt = _tilt(taken, sd, rules.still_sure)
    turned = _Turned(taken, sd, rules.still_sure, tilt)
    readings = {what: one for what in SHOWN[taken.kind] if (one := turned.read(what)) is not None}
    scale = _scale(taken, sd, rules)
    off = turned.bar_off(scale) if Measure.BAR_OFF in SHOWN[taken.kind] else None
    if off is not None:
        readings[Measure.BAR_OFF] = off
    missing = tuple(spot for spot in BODY if spot not in taken.points)
    return MeasuredAngle(readings, judged(taken.kind, readings, rules), tilt, scale, missing)


def judged(kind: StillKind, readings: Mapping[Measure, AngleReading], rules: Rules) -> Judged | None:
    """The verdict by the kind's own standard: depth, an open rear hip, a straight lock-out; None where it is not read."""
    standard = STANDARD.get(kind)
    reading = readings.get(standard) if standard else None
    if standard is None or reading is None:
        return None
    least = {Measure.REAR_HIP: rules.rear_hip_open_deg, Measure.LOCK_OUT: -rules.lock_out_short_deg}.get(standard, 0.0)
    return Judged(standard, verdict(AngleReading(reading.value - least, reading.off)))


def verdict(depth: AngleReading) -> Depth:
    """Of a reading against its standard at nought: deep where even its low end is past it, short where not even the
    high end is.
    """
    return Depth.DEEP if depth.low > 0 else Depth.SHORT if depth.high < 0 else Depth.CLOSE


def _check(taken: TakenStill) -> None:
    def inside(point: Point) -> bool:
        x, y = point
        return math.isfinite(x) and math.isfinite(y) and 0 <= x <= taken.width and 0 <= y <= taken.height

    wrong = [Problem(spot.value, "outside_picture") for spot, point in taken.points.items() if not inside(point)]
    wrong += [Problem(spot.value, "not_of_kind") for spot in taken.points if spot not in SPOTS[taken.kind]]
    if not (0 < taken.width <= PIXELS_MOST and 0 < taken.height <= PIXELS_MOST):
        wrong.append(Problem("picture", "picture_size"))
    if not wrong:
        for first, second in LINES:
            ends = taken.points.get(first), taken.points.get(second)
            if ends[0] and ends[1] and math.dist(ends[0], ends[1]) < LEAST_PX:
                wrong.append(Problem(second.value, "too_near", {"other": first.value}))
    if wrong:
        raise ImpossibleInput(*wrong)


LINES = (
    (Spot.SHOULDER, Spot.HIP), (Spot.HIP, Spot.KNEE), (Spot.KNEE, Spot.ANKLE), (Spot.HIP, Spot.REAR_KNEE),
    (Spot.HEEL, Spot.TOE), (Spot.WAIST_BACK, Spot.WAIST_FRONT), (Spot.LEVEL_A, Spot.LEVEL_B),
    (Spot.PLATE_A, Spot.PLATE_B),
)  # fmt: skip


def _tilt(taken: TakenStill, sd: float, sure: float) -> AngleReading | None:
    """How far the camera was turned, from a line that is level or upright in truth; degrees against the clock."""
    ends = taken.points.get(Spot.LEVEL_A), taken.points.get(Spot.LEVEL_B)
    if not (ends[0] and ends[1]):
        return None
    dx, dy = ends[1][0] - ends[0][0], ends[1][1] - ends[0][1]
    angle = math.degrees(math.atan2(dy, dx))
    return AngleReading((angle + 45) % 90 - 45, sure * _line_error(math.hypot(dx, dy), sd))


def _line_error(length: float, sd: float) -> float:
    """Standard deviation of a line's direction, degrees, from that of its ends."""
    return math.degrees(math.sqrt(2) * sd / length)


def _scale(taken: TakenStill, sd: float, rules: Rules) -> AngleReading | None:
    """Pixels a cm, from two points across a plate of known size; a nearer plate looks larger than it is."""
    ends = taken.points.get(Spot.PLATE_A), taken.points.get(Spot.PLATE_B)
    if not (ends[0] and ends[1]) or taken.plate_cm <= 0:
        return None
    across = math.dist(ends[0], ends[1])
    value = across / taken.plate_cm
    return AngleReading(value, value * (rules.still_sure * math.sqrt(2) * sd / across + rules.plate_error))


class _Turned:
    """A marked picture set upright and facing right; reads one measure after the other."""

    def __init__(self, taken: TakenStill, sd: float, sure: float, tilt: AngleReading | None) -> None:
        self.sd, self.sure, self.tilt_off = sd, sure, tilt.off if tilt else 0.0
        turn = math.radians(tilt.value) if tilt else 0.0
        side = 1 if taken.faces_right else -1
        self.points = {
            spot: (side * (x * math.cos(turn) + y * math.sin(turn)), y * math.cos(turn) - x * math.sin(turn))
            for spot, (x, y) in taken.points.items()
        }

    def line(self, low: Spot, high: Spot) -> tuple[float, float] | None:
        """Direction from one point to another, degrees forwards from straight up, and its standard deviation."""
        ends = self.points.get(low), self.points.get(high)
        if not (ends[0] and ends[1]):
            return None
        dx, dy = ends[1][0] - ends[0][0], ends[0][1] - ends[1][1]
        return math.degrees(math.atan2(dx, dy)), _line_error(math.hypot(dx, dy), self.sd)

    def read(self, what: Measure) -> AngleReading | None:
        """One measure, where its points are placed."""
        if what in UPRIGHT:
            found = self.line(*UPRIGHT[what])
            return None if found is None else self._upright(*found, level=what is Measure.PELVIS)
        if what in CORNERS:
            return self._corner(what)
        return self._depth() if what is Measure.DEPTH else None

    def _upright(self, angle: float, error: float, level: bool) -> AngleReading:
        value = (angle - (90 if level else 0) + 180) % 360 - 180
        return AngleReading(value, math.hypot(self.sure * error, self.tilt_off))

    def _corner(self, what: Measure) -> AngleReading | None:
        one, corner, other = CORNERS[what]
        first, second = self.line(corner, one), self.line(corner, other)
        if first is None or second is None:
            return None
        turn = (second[0] - first[0]) % 360  # from the trunk, or the shin, forwards round to the thigh
        middle = self.points[corner]
        arms = [math.dist(middle, self.points[end]) for end in (one, other)]
        apart = math.dist(self.points[one], self.points[other])
        error = math.degrees(self.sd * math.sqrt(arms[0] ** -2 + arms[1] ** -2 + (apart / (arms[0] * arms[1])) ** 2))
        return AngleReading(_SAID[what](turn), self.sure * error)

    def _depth(self) -> AngleReading | None:
        hip, knee = self.points.get(Spot.HIP), self.points.get(Spot.KNEE)
        if not (hip and knee):
            return None
        thigh = math.dist(hip, knee)
        level = abs(hip[0] - knee[0]) / thigh  # a tilted camera lifts one end of a level thigh, not of an upright one
        error = math.hypot(self.sure * math.sqrt(2) * self.sd / thigh, math.radians(self.tilt_off) * level)
        return AngleReading((hip[1] - knee[1]) / thigh, error)

    def bar_off(self, scale: AngleReading | None) -> AngleReading | None:
        """The bar before mid-foot in cm, where foot, bar and a plate are placed."""
        heel, toe, bar = (self.points.get(spot) for spot in (Spot.HEEL, Spot.TOE, Spot.BAR))
        if not (heel and toe and bar and scale):
            return None
        px = bar[0] - (heel[0] + toe[0]) / 2
        high = abs((heel[1] + toe[1]) / 2 - bar[1])
        error = math.hypot(self.sure * self.sd * math.sqrt(1.5), math.radians(self.tilt_off) * high) / scale.value
        return AngleReading(px / scale.value, math.hypot(error, px / scale.value * scale.off / scale.value))


UPRIGHT = {
    Measure.TRUNK: (Spot.HIP, Spot.SHOULDER), Measure.SHIN: (Spot.ANKLE, Spot.KNEE),
    Measure.PELVIS: (Spot.WAIST_BACK, Spot.WAIST_FRONT),
}  # fmt: skip
CORNERS = {
    Measure.KNEE: (Spot.ANKLE, Spot.KNEE, Spot.HIP), Measure.HIP: (Spot.SHOULDER, Spot.HIP, Spot.KNEE),
    Measure.LOCK_OUT: (Spot.SHOULDER, Spot.HIP, Spot.KNEE), Measure.REAR_HIP: (Spot.SHOULDER, Spot.HIP, Spot.REAR_KNEE),
}  # fmt: skip
_SAID = {
    Measure.KNEE: lambda turn: 180 - turn if turn <= 180 else turn - 180,
    Measure.HIP: lambda turn: min(turn, 360 - turn),
    Measure.LOCK_OUT: lambda turn: turn - 180,
    Measure.REAR_HIP: lambda turn: turn,
}
