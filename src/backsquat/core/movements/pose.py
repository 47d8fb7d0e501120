"""The side view of a body as a chain of lengths and angles, for the figures of the library.

Origin: the front ankle. x to the right (the way the figure faces), y up, lengths in shares of
body height (Winter 2009: shank 0.246, thigh 0.245, head-arms-trunk 0.47, upper arm 0.186, forearm
and hand 0.2). An angle is the direction from one joint to the next, in degrees clockwise from
straight up: 0 up, 90 to the right, 180 down.

        0
    −90 ┼ 90      shin: ankle → knee · thigh: knee → hip · trunk: hip → shoulder
       180        rear: hip → rear knee, rear knee → rear ankle · arm: shoulder → elbow → hand
"""

import math
from dataclasses import dataclass

SHANK, THIGH, TRUNK, HEAD, UPPER_ARM, FOREARM, FOOT = 0.246, 0.245, 0.288, 0.13, 0.15, 0.15, 0.12
Point = tuple[float, float]


@dataclass(frozen=True)
class Pose:
    """Angles in degrees; `rear` is left out where both legs do the same."""

    shin: float
    thigh: float
    trunk: float
    arm: tuple[float, float] | None = None  # None: as the load is held
    rear: tuple[float, float] | None = None
    props: tuple[str, ...] = ()  # what the body touches and how high it is: "bench rear_ankle 0.23", "rail hand"
    toes: float | None = None  # direction of the foot; None: flat ahead
    lift: float = 0.0  # height of the lowest point above the floor: in the air

    @property
    def touched(self) -> "tuple[Prop, ...]":
        """What the body touches."""
        return tuple(Prop.read(text) for text in self.props)


@dataclass(frozen=True)
class Prop:
    """A thing a joint rests on, or stands by; its height in shares of body height, None where that is not drawn."""

    kind: str
    joint: str
    height: float | None = None

    @classmethod
    def read(cls, text: str) -> "Prop":
        """From the words of the data: kind, joint, and the height where there is one."""
        kind, joint, height = (*text.split(), "", "")[:3]
        return cls(kind, joint, float(height) if height else None)

    @property
    def holds(self) -> str:
        """The joint that lies on it, and so sets how high the body is; none where it only stands by."""
        return "" if self.height is None else {"belly": "hip", "behind": ""}.get(self.joint, self.joint)


def step(start: Point, angle: float, length: float) -> Point:
    """The point at a distance (figure units) and an angle in degrees from straight up."""
    return start[0] + length * math.sin(math.radians(angle)), start[1] + length * math.cos(math.radians(angle))


ARMS = {  # upper arm and forearm relative to the trunk, by where the load is held
    "nothing held": (150.0, 120.0), "a hand on support": (70.0, 60.0), "beside the body": None,
    "on one side": None, "at the chest": (160.0, 30.0), "front rack": (75.0, -25.0),
    "on the upper back": (205.0, 330.0), "overhead": (0.0, 0.0), "hanging from straight arms": None,
    "on the hips": (175.0, 140.0), "in the elbow crooks": (160.0, 40.0), "by the machine": (175.0, 90.0),
}  # fmt: skip


def joints(pose: Pose, held: str = "nothing held") -> dict[str, Point]:
    """The points of the body by name: what it lies on as high as that is, else the lowest at y = 0."""
    points: dict[str, Point] = {"ankle": (0.0, 0.0)}
    points["toe"] = step(points["ankle"], 90 if pose.toes is None else pose.toes, FOOT)
    points["knee"] = step(points["ankle"], pose.shin, SHANK)
    points["hip"] = step(points["knee"], pose.thigh, THIGH)
    points["shoulder"] = step(points["hip"], pose.trunk, TRUNK)
    points["head"] = step(points["shoulder"], pose.trunk, HEAD * 0.75)
    arm = pose.arm or _arm(pose, held)
    points["elbow"] = step(points["shoulder"], arm[0], UPPER_ARM)
    points["hand"] = step(points["elbow"], arm[1], FOREARM)
    if pose.rear:
        points["rear_knee"] = step(points["hip"], pose.rear[0], THIGH)
        points["rear_ankle"] = step(points["rear_knee"], pose.rear[1], SHANK)
    rest = next((prop for prop in pose.touched if prop.holds), None)
    if rest and rest.height is not None:
        raised = rest.height - points[rest.holds][1]
    else:
        raised = pose.lift - min(y for _, y in points.values())
    return {name: (x, y + raised) for name, (x, y) in points.items()}


def _arm(pose: Pose, held: str) -> tuple[float, float]:
    relative = ARMS[held]
    if relative is None:  # the load hangs straight down, whatever the trunk does
        return 180.0, 180.0
    return pose.trunk + relative[0], pose.trunk + relative[1]
