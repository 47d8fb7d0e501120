"""Words of the technique pages."""

from collections.abc import Callable, Mapping

from backsquat.core.technique.body import SegmentLength
from backsquat.core.technique.difference import Fix, SetUpChange, SetUpPart
from backsquat.core.technique.distances import Distance
from backsquat.core.technique.hinge import HingePosture
from backsquat.core.technique.linkage import HeldPosture, Posture, Squat, StandingPosture
from backsquat.core.technique.split import SplitPosture
from backsquat.core.technique.still import AngleReading, Measure, Spot, StillKind
from backsquat.core.working import plain
from backsquat.pages.technique.asked import Lift

LIFTS = {Lift.SQUAT: "Squat", Lift.HINGE: "Hinge", Lift.SPLIT: "Split squat"}
HELD = {
    HeldPosture.NOTHING: "nothing, arms ahead",
    HeldPosture.BACK_HIGH: "back, high",
    HeldPosture.BACK_LOW: "back, low",
    HeldPosture.FRONT: "front rack",
    HeldPosture.OVERHEAD: "overhead",
    HeldPosture.GOBLET: "at the chest",
    HeldPosture.BESIDE: "beside the body",
}
SLIDER = {  # label, unit
    "wedge_mm": ("Heel wedge", "mm"), "ankle_deg": ("Ankle bends to", "°"), "depth_deg": ("Thigh under level", "°"),
    "shin_share": ("Ankle used", "%"), "load_kg": ("Load", "kg"), "lean_deg": ("Trunk leans", "°"),
    "knee_deg": ("Knees bent", "°"), "stance_cm": ("Length of stance", "cm"), "shin_deg": ("Front shin leans", "°"),
    "front_mm": ("Front foot raised", "mm"), "rear_mm": ("Rear foot raised", "mm"), "thigh_cm": ("Thigh", "cm"),
    "shank_cm": ("Shank", "cm"),
}  # fmt: skip
LENGTHS = {
    SegmentLength.FOOT: ("Foot", "heel to longest toe"),
    SegmentLength.SHANK: ("Shank", "outer ankle to outer knee"),
    SegmentLength.THIGH: ("Thigh", "outer knee to the bony point of the hip"),
    SegmentLength.TRUNK: ("Trunk", "bony point of the hip to the top of the shoulder"),
}
ROWS: dict[Lift, tuple[tuple[str, str, str, int], ...]] = {  # name, label, unit, decimals
    Lift.SQUAT: (
        ("lean_deg", "Trunk lean", "°", 0), ("shin_deg", "Shin", "°", 0), ("hip_deg", "Trunk to thigh", "°", 0),
        ("knee_deg", "Knee bent", "°", 0), ("hip_arm_cm", "Hip arm", "cm", 0), ("knee_arm_cm", "Knee arm", "cm", 0),
        ("back_arm_cm", "Back arm", "cm", 0), ("hip_moment", "Hips carry", "N·m", 0),
        ("knee_moment", "Knees carry", "N·m", 0), ("back_moment", "Back carries", "N·m", 0),
    ),
    Lift.HINGE: (
        ("lean_deg", "Trunk lean", "°", 0), ("shin_deg", "Shin", "°", 0), ("knee_deg", "Knee bent", "°", 0),
        ("hip_arm_cm", "Hip arm", "cm", 0), ("back_arm_cm", "Back arm", "cm", 0),
        ("hip_moment", "Hips carry", "N·m", 0), ("back_moment", "Back carries", "N·m", 0),
        ("bar_cm", "Bar over the floor", "cm", 0), ("drift_cm", "Bar before mid-foot", "cm", 0),
    ),
    Lift.SPLIT: (
        ("lean_deg", "Trunk lean", "°", 0), ("shin_deg", "Front shin lean", "°", 0),
        ("front_share", "On the front foot", "%", 0), ("hip_arm_cm", "Hip arm", "cm", 0),
        ("knee_arm_cm", "Knee arm", "cm", 0), ("hip_moment", "Front hip carries", "N·m", 0),
        ("knee_moment", "Front knee carries", "N·m", 0), ("rear_hip_deg", "Rear hip, 180 in line", "°", 0),
        ("rear_knee_cm", "Rear knee over the floor", "cm", 0),
    ),
}  # fmt: skip
IGNORED = {
    Lift.SQUAT: "Seen from the side, standing still: width of stance, turn-out, a rounding back and the speed of the bar "
    "are not in it. Lengths and masses are shares of height and body mass where nobody measured; angles are "
    "right within a few degrees, differences between the two better than that.",
    Lift.HINGE: "Seen from the side, standing still. The back is straight, arms are straight; what hamstrings allow, "
    "and the legs in the way of the bar, are not in it.",
    Lift.SPLIT: "Seen from the side, standing still, each foot pressed straight down. Width of stance, a rear leg that "
    "pushes and balance are not in it.",
}
STANDS = {
    StandingPosture.STANDS: "stands",
    StandingPosture.HEELS: "on the heels",
    StandingPosture.TIPS: "tips backwards",
}
LIMIT = {"lean": "the trunk is as far down as a squat goes", "fold": "the trunk meets the thighs", "": ""}
SPLIT_LIMIT = {
    "reach": "The rear leg does not reach: shorten the stance, or go less deep.",
    "floor": "The rear knee would be in the floor: lengthen the stance, or go less deep.",
    "open": "The rear hip would open farther than hips do: shorten the stance, or lean.",
    "ahead": "The body falls ahead of the front foot: lean less.",
}


def heading(lift: Lift, set_up: object) -> str:
    """A set-up in a few words, over its picture."""
    if isinstance(set_up, Squat):
        wedge = f"{set_up.wedge_mm:g} mm wedge" if set_up.wedge_mm else "flat"
        return f"{wedge} · {HELD[set_up.held]}"
    if lift is Lift.HINGE:
        return "bar kept close" if getattr(set_up, "close", True) else "bar left to hang"
    return f"{getattr(set_up, 'stance_cm', 0):g} cm stance · {HELD[getattr(set_up, 'held', HeldPosture.BESIDE)]}"


def stands_words(posture: object) -> str:
    """How somebody stands in a posture."""
    if isinstance(posture, Posture):
        words = STANDS[posture.standing]
        return (
            f"{words}: {LIMIT[posture.limit]}"
            if posture.limit and posture.standing is not StandingPosture.STANDS
            else words
        )
    if isinstance(posture, HingePosture):
        if not posture.stands:
            return "tips"
        if not posture.reaches:
            return "arms too short to keep it close"
        return "plates on the floor" if posture.on_the_floor else "stands"
    assert isinstance(posture, SplitPosture)
    return "cannot be" if posture.limit else "stands"


def _more(change: SetUpChange) -> bool:
    return change.after > change.before


OTHERS: dict[SetUpPart, Callable[[SetUpChange], str]] = {
    SetUpPart.DRIFT: lambda c: f"The bar hangs {plain(c.after, 0)} cm before mid-foot: draw it to the legs.",
    SetUpPart.FLOOR: lambda _: "Large plates are on the floor before that.",
    SetUpPart.FOR_HIPS: lambda c: f"More for the {'hips' if _more(c) else 'thighs'} than beside it.",
    SetUpPart.REAR_HIP: lambda c: (
        f"The rear hip is {plain(abs(c.after - c.before), 0)}° {'more open' if _more(c) else 'less open'}."
    ),
    SetUpPart.FRONT: lambda c: f"{plain(100 * c.after, 0)} % stands on the front foot.",
}


def change_words(change: SetUpChange) -> str:
    """What another set-up does, in a sentence."""
    was, now = plain(change.before, 0), plain(change.after, 0)
    if change.what is SetUpPart.SAME:
        return "No difference that anybody would see."
    if change.what is SetUpPart.LEAN:
        by = plain(abs(change.after - change.before), 0)
        return f"Trunk {by}° {'more upright' if change.after < change.before else 'further down'} ({was} → {now})."
    if change.what is SetUpPart.BACK:
        less = change.after < change.before
        share = plain(100 * abs(change.after - change.before) / max(abs(change.before), 1), 0)
        return f"The lower back carries {share} % {'less' if less else 'more'} ({was} → {now} N·m)."
    if change.what is not SetUpPart.ARMS:
        return OTHERS[change.what](change)
    hip, knee = change.after - change.before, change.knee_after - change.knee_before
    where = ": from hips and back to the thighs" if hip < 0 < knee else ": from the thighs to hips and back"
    where = where if hip * knee < 0 else ""
    arms = f"Hip arm {was} → {now} cm, knee arm {plain(change.knee_before, 0)} → {plain(change.knee_after, 0)} cm"
    return f"{arms}{where}."


def fix_words(fix: Fix) -> str:
    """What would let somebody stand."""
    if fix.name == "wedge_mm":
        return f"With a {fix.value:g} mm wedge it would stand."
    if fix.value < 0:
        return f"With the thigh {-fix.value:g}° short of level it would stand."
    return f"With the thigh {fix.value:g}° under level it would stand."


DISTANCES: Mapping[Distance, tuple[str, str]] = {
    Distance.SQUAT_STANCE: ("Squat, shoulder-wide", "middle of heel to middle of heel"),
    Distance.WIDE_STANCE: ("Squat, wide", "middle of heel to middle of heel"),
    Distance.SPLIT_SHORT: ("Split squat, short", "back of the front heel to the ball of the rear foot"),
    Distance.SPLIT_LONG: ("Split squat, long", "back of the front heel to the ball of the rear foot"),
    Distance.BOX_LEVEL: ("Box, thighs level", "height of the seat over the floor"),
    Distance.STEP_LOW: ("Step, to begin with", "height of the step"),
    Distance.STEP_HIGH: ("Step, thigh level", "height of the step"),
    Distance.BENCH: ("Bench for thrusts", "height under the shoulder blades"),
}
KINDS = {
    StillKind.SQUAT: "Squat, bottom", StillKind.SPLIT_SQUAT: "Split squat, bottom", StillKind.THRUST: "Thrust, top",
    StillKind.HINGE: "Hinge", StillKind.LANDING: "Landing", StillKind.PICKUP: "Pick-up from the floor",
    StillKind.READY: "The sport's own position",
}  # fmt: skip
SPOTS = {
    Spot.SHOULDER: "shoulder", Spot.HIP: "hip crease", Spot.KNEE: "top of the knee", Spot.ANKLE: "ankle",
    Spot.HEEL: "heel", Spot.TOE: "toe", Spot.BAR: "middle of the bar", Spot.REAR_KNEE: "rear knee",
    Spot.WAIST_BACK: "waistband, back", Spot.WAIST_FRONT: "waistband, front", Spot.LEVEL_A: "straight line, one end",
    Spot.LEVEL_B: "straight line, other end", Spot.PLATE_A: "plate, one edge", Spot.PLATE_B: "plate, other edge",
}  # fmt: skip
SPOT_HELP = {
    Spot.LEVEL_A: "something that is upright or level in truth: a rack's post, the floor line",
    Spot.PLATE_A: "straight across a plate of known size, edge to edge",
    Spot.WAIST_BACK: "only if the waistband shows how the pelvis lies",
}
SAYS = {
    Measure.TRUNK: ("Trunk lean", "°"), Measure.SHIN: ("Shin", "°"), Measure.KNEE: ("Knee bent", "°"),
    Measure.HIP: ("Trunk to thigh", "°"), Measure.DEPTH: ("Hip under knee", "% of the thigh"),
    Measure.LOCK_OUT: ("Lock-out, 0 is straight", "°"), Measure.REAR_HIP: ("Rear hip, 180 in line", "°"),
    Measure.PELVIS: ("Pelvis, front down", "°"), Measure.BAR_OFF: ("Bar before mid-foot", "cm"),
}  # fmt: skip
SHOWN_AS = {Measure.DEPTH: 100.0}


def reading_words(measure: Measure, reading: AngleReading) -> tuple[str, str]:
    """A value and how far it may be off, as they are shown."""
    share = SHOWN_AS.get(measure, 1.0)
    return plain(reading.value * share, 0), plain(max(reading.off * share, 1.0), 0)


def lock_out_words(reading: AngleReading) -> str:
    """What the line of knee, hip and shoulder says."""
    if abs(reading.value) <= reading.off:
        return "straight, as far as the picture tells"
    return "short of straight" if reading.value < 0 else "past straight: leaning back"
