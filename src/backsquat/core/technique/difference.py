"""What another set-up does to a squat, and what would let somebody stand who does not."""

from dataclasses import dataclass, replace
from enum import StrEnum

from backsquat.core.rules import Rules
from backsquat.core.technique.body import Body
from backsquat.core.technique.linkage import BOUNDS, Posture, Squat, Standing, squat_posture

LEAN_DEG, ARM_CM, MOMENT_SHARE = 0.5, 0.5, 0.02  # less than this is the same
WEDGES_MM = tuple(range(5, int(BOUNDS["wedge_mm"][1]) + 1, 5))
DEPTH_STEP = 5.0


class What(StrEnum):
    """What changes from one set-up to another."""

    LEAN = "lean"
    ARMS = "arms"
    BACK = "back"
    SAME = "same"


@dataclass(frozen=True)
class Change:
    """A number before and after; for the arms also the knee's."""

    what: What
    before: float
    after: float
    knee_before: float = 0.0
    knee_after: float = 0.0


def differences(before: Posture, after: Posture) -> list[Change]:
    """What a coach would see and feel of it, the trunk first; one entry SAME where there is nothing."""
    found = []
    if abs(after.lean_deg - before.lean_deg) >= LEAN_DEG:
        found.append(Change(What.LEAN, before.lean_deg, after.lean_deg))
    hip, knee = after.hip_arm_cm - before.hip_arm_cm, after.knee_arm_cm - before.knee_arm_cm
    if max(abs(hip), abs(knee)) >= ARM_CM:
        arms = before.hip_arm_cm, after.hip_arm_cm, before.knee_arm_cm, after.knee_arm_cm
        found.append(Change(What.ARMS, *arms))
    if abs(after.back_moment - before.back_moment) >= MOMENT_SHARE * max(abs(before.back_moment), 1.0):
        found.append(Change(What.BACK, before.back_moment, after.back_moment))
    return found or [Change(What.SAME, before.lean_deg, after.lean_deg)]


@dataclass(frozen=True)
class Mend:
    """The least change of one thing with which somebody stands: its name in `Squat`, and the value."""

    name: str
    value: float


def mends(body: Body, squat: Squat, rules: Rules) -> list[Mend]:
    """What would let this body stand over mid-foot: a higher wedge, or less depth. Nothing where it stands."""

    def stands(other: Squat) -> bool:
        return squat_posture(body, other, rules).standing is Standing.STANDS

    if stands(squat):
        return []
    found = []
    wedge = next((mm for mm in WEDGES_MM if mm > squat.wedge_mm and stands(replace(squat, wedge_mm=float(mm)))), None)
    if wedge is not None:
        found.append(Mend("wedge_mm", float(wedge)))
    depth = squat.depth_deg - DEPTH_STEP
    while depth >= BOUNDS["depth_deg"][0]:
        if stands(replace(squat, depth_deg=depth)):
            found.append(Mend("depth_deg", depth))
            break
        depth -= DEPTH_STEP
    return found
