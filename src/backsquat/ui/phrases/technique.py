"""Words of the steps that lead to a posture, and of depth in a picture."""

from collections.abc import Callable, Mapping
from typing import Any

from backsquat.core.technique.still import Depth, Judged, Measure
from backsquat.core.working import plain

Facts = Mapping[str, Any]


def _shin(f: Facts) -> str:
    raised = f" and {plain(f['slope'], 0)}° of the sole on {plain(f['wedge'])} mm" if f["wedge"] else ""
    bends = f"{plain(100 * f['share'], 0)} % of the {plain(f['ankle'], 0)}° the ankle bends"
    return f"{bends}{raised}, unless calf and thigh meet"


TECHNIQUE_LABELS = {
    "linkage_shin": "Shin, from upright",
    "linkage_legs": "Hips, from mid-foot",
    "linkage_upper": "Stands on the foot",
    "linkage_lean": "Trunk lean that balances",
}
TECHNIQUE_WORDS: dict[str, Callable[[Facts], str]] = {
    "linkage_shin": _shin,
    "linkage_legs": lambda f: (
        f"shank {plain(f['shank'])} cm, thigh {plain(f['thigh'])} cm, {plain(f['depth'], 0)}° under level"
    ),
    "linkage_upper": lambda f: (
        f"head, arms and trunk {plain(f['mass'], 0)} kg on {plain(f['trunk'])} cm, with {plain(f['load'])} kg; and the legs"
    ),
    "linkage_lean": lambda f: (
        "the common centre is over mid-foot" if abs(f["off"]) < 0.05
        else f"as far as it goes: the centre stays {plain(abs(f['off']))} cm {'behind' if f['off'] < 0 else 'before'} it"
    ),
}  # fmt: skip
VERDICT = {Depth.DEEP: "deep", Depth.CLOSE: "too close to call", Depth.SHORT: "short"}
STANDARDS = {  # what the verdict is about, and how it is said where it is no depth
    Measure.DEPTH: ("Depth", "deep", "short"),
    Measure.REAR_HIP: ("Rear hip", "open", "short of in line"),
    Measure.LOCK_OUT: ("Lock-out", "straight", "short"),
}


def verdict_words(judged: Judged) -> str:
    """deep; rear hip open; lock-out too close to call"""
    about, passed, short = STANDARDS[judged.standard]
    words = {Depth.DEEP: passed, Depth.SHORT: short}.get(judged.verdict, VERDICT[judged.verdict])
    return words if judged.standard is Measure.DEPTH else f"{about.lower()} {words}"
