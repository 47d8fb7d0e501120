"""What another set-up does to a squat, a hinge or a split squat, and what would let somebody stand who does not."""

from dataclasses import dataclass, replace
from enum import StrEnum

from backsquat.core.rules import Rules
from backsquat.core.technique.body import Body
from backsquat.core.technique.hinge import HingePosture
from backsquat.core.technique.linkage import BOUNDS, Posture, Squat, StandingPosture, squat_posture
from backsquat.core.technique.split import SplitPosture

LEAN_DEG, ARM_CM, MOMENT_SHARE, DRIFT_CM, REAR_DEG = 0.5, 0.5, 0.02, 2.0, 3.0  # less than this is the same
WEDGES_MM = tuple(range(5, int(BOUNDS["wedge_mm"][1]) + 1, 5))
DEPTH_STEP = 5.0


class SetUpPart(StrEnum):
    """What changes from one set-up to another."""

    LEAN = "lean"
    ARMS = "arms"
    BACK = "back"
    DRIFT = "drift"  # of the bar before mid-foot
    FLOOR = "floor"  # plates are on it before that
    FOR_HIPS = "for_hips"  # hip against knee arm of a split squat: more for the one, or the other
    REAR_HIP = "rear_hip"
    FRONT = "front"  # share on the front foot
    SAME = "same"


@dataclass(frozen=True)
class SetUpChange:
    """A number before and after; for the arms also the knee's."""

    what: SetUpPart
    before: float
    after: float
    knee_before: float = 0.0
    knee_after: float = 0.0


def differences(before: Posture, after: Posture) -> list[SetUpChange]:
    """What a coach would see and feel of it, the trunk first; one entry SAME where there is nothing."""
    found = []
    if abs(after.lean_deg - before.lean_deg) >= LEAN_DEG:
        found.append(SetUpChange(SetUpPart.LEAN, before.lean_deg, after.lean_deg))
    hip, knee = after.hip_arm_cm - before.hip_arm_cm, after.knee_arm_cm - before.knee_arm_cm
    if max(abs(hip), abs(knee)) >= ARM_CM:
        arms = before.hip_arm_cm, after.hip_arm_cm, before.knee_arm_cm, after.knee_arm_cm
        found.append(SetUpChange(SetUpPart.ARMS, *arms))
    return [*found, *_back(before.back_moment, after.back_moment)] or [SAME]


SAME = SetUpChange(SetUpPart.SAME, 0.0, 0.0)


def _back(before: float, after: float) -> list[SetUpChange]:
    """What the lower back carries, where that differs."""
    differs = abs(after - before) >= MOMENT_SHARE * max(abs(before), 1.0)
    return [SetUpChange(SetUpPart.BACK, before, after)] if differs else []


def hinge_differences(before: HingePosture, after: HingePosture) -> list[SetUpChange]:
    """The same of a hinge: the back, how far the bar hangs ahead, whether it comes to the floor."""
    found = _back(before.back_moment, after.back_moment)
    if abs(after.drift_cm) >= DRIFT_CM:
        found.append(SetUpChange(SetUpPart.DRIFT, before.drift_cm, after.drift_cm))
    if after.on_the_floor:
        found.append(SetUpChange(SetUpPart.FLOOR, before.bar_cm, after.bar_cm))
    return found or [SAME]


def split_differences(before: SplitPosture, after: SplitPosture) -> list[SetUpChange]:
    """The same of a split squat: for hips or thighs, how open the rear hip is, how much stands on the front foot."""
    found, arms = [], (before.hip_arm_cm - before.knee_arm_cm, after.hip_arm_cm - after.knee_arm_cm)
    if abs(arms[1] - arms[0]) >= 2 * ARM_CM:
        found.append(SetUpChange(SetUpPart.FOR_HIPS, *arms))
    if abs(after.rear_hip_deg - before.rear_hip_deg) >= REAR_DEG:
        found.append(SetUpChange(SetUpPart.REAR_HIP, before.rear_hip_deg, after.rear_hip_deg))
    return [*found, SetUpChange(SetUpPart.FRONT, before.front_share, after.front_share)]


@dataclass(frozen=True)
class Fix:
    """The least change of one thing with which somebody stands: its name in `Squat`, and the value."""

    name: str
    value: float


def fixes(body: Body, squat: Squat, rules: Rules) -> list[Fix]:
    """What would let this body stand over mid-foot: a higher wedge, or less depth. Nothing where it stands."""

    def stands(other: Squat) -> bool:
        return squat_posture(body, other, rules).standing is StandingPosture.STANDS

    if stands(squat):
        return []
    found = []
    wedge = next((mm for mm in WEDGES_MM if mm > squat.wedge_mm and stands(replace(squat, wedge_mm=float(mm)))), None)
    if wedge is not None:
        found.append(Fix("wedge_mm", float(wedge)))
    depth = squat.depth_deg - DEPTH_STEP
    while depth >= BOUNDS["depth_deg"][0]:
        if stands(replace(squat, depth_deg=depth)):
            found.append(Fix("depth_deg", depth))
            break
        depth -= DEPTH_STEP
    return found
