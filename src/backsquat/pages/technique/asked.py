"""What the sliders ask for: read from the address, kept inside their bounds; nonsense is the default."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from backsquat.core.technique.body import LENGTH_CM, Body, SegmentLength, body_of
from backsquat.core.technique.hinge import HINGE_BOUNDS, Hinge
from backsquat.core.technique.linkage import BOUNDS, HeldPosture, Squat
from backsquat.core.technique.split import SPLIT_BOUNDS, Split


class Lift(StrEnum):
    """What is looked at."""

    SQUAT = "squat"
    HINGE = "hinge"
    SPLIT = "split"


@dataclass(frozen=True)
class Slider:
    """One number that is slid: its name in the address and in the set-up, and where it goes in which steps."""

    name: str
    low: float
    high: float
    step: float
    share: float = 1.0  # what is shown is so many times what is kept


def _slider(bounds: Mapping[str, tuple[float, float]], name: str, step: float, **more: float) -> Slider:
    share = more.pop("share", 1.0)
    low, high = (value * share for value in bounds[name])
    return Slider(name, more.get("low", low), more.get("high", high), step, share)


SLIDERS: dict[Lift, tuple[Slider, ...]] = {
    Lift.SQUAT: (
        _slider(BOUNDS, "wedge_mm", 5),
        _slider(BOUNDS, "ankle_deg", 1),
        _slider(BOUNDS, "depth_deg", 1, low=-40, high=35),
        _slider(BOUNDS, "shin_share", 5, share=100),
        _slider(BOUNDS, "load_kg", 2.5, high=250),
    ),
    Lift.HINGE: (
        _slider(HINGE_BOUNDS, "lean_deg", 1),
        _slider(HINGE_BOUNDS, "knee_deg", 1),
        _slider(HINGE_BOUNDS, "load_kg", 2.5, high=300),
    ),
    Lift.SPLIT: (
        _slider(SPLIT_BOUNDS, "stance_cm", 1, low=40, high=130),
        _slider(SPLIT_BOUNDS, "lean_deg", 1),
        _slider(SPLIT_BOUNDS, "shin_deg", 1),
        _slider(SPLIT_BOUNDS, "depth_deg", 1),
        _slider(SPLIT_BOUNDS, "front_mm", 10),
        _slider(SPLIT_BOUNDS, "rear_mm", 10),
        _slider(SPLIT_BOUNDS, "load_kg", 1, high=120),
    ),
}
OF_BODY = (SegmentLength.THIGH, SegmentLength.SHANK)
PINNED = "was_"
HOLDS_OF = {
    Lift.SQUAT: tuple(HeldPosture),
    Lift.HINGE: (),
    Lift.SPLIT: (
        HeldPosture.NOTHING,
        HeldPosture.BESIDE,
        HeldPosture.GOBLET,
        HeldPosture.FRONT,
        HeldPosture.BACK_HIGH,
        HeldPosture.OVERHEAD,
    ),
}
SetUp = Squat | Hinge | Split


def number_in(text: str, low: float, high: float, otherwise: float) -> float:
    """A number of the address between two; where there is none, the other."""
    try:
        value = float(text)
    except ValueError:
        return otherwise
    return min(max(value, low), high) if math.isfinite(value) else otherwise


def set_up_of(lift: Lift, args: Mapping[str, str], start: SetUp, before: str = "") -> SetUp:
    """One set-up as the address says it; `before` the names of the pinned one stands `was_`."""
    changed: dict[str, object] = {
        slider.name: number_in(
            args.get(before + slider.name, ""), slider.low, slider.high, getattr(start, slider.name) * slider.share
        )
        / slider.share
        for slider in SLIDERS[lift]
    }
    held = args.get(before + "held", "")
    if held in set(HOLDS_OF[lift]):
        changed["held"] = HeldPosture(held)
    if lift is Lift.HINGE and args.get(before + "close", "") in ("0", "1"):
        changed["close"] = args[before + "close"] == "1"
    return replace(start, **changed)  # type: ignore[arg-type]


def body_in(args: Mapping[str, str], known: Body) -> Body:
    """The body with the lengths of the sliders."""
    own = {what: known.length(what) for what in known.measured}
    for what in OF_BODY:
        low, high = LENGTH_CM[what]
        value = number_in(args.get(f"{what}_cm", ""), low, high, known.length(what))
        if abs(value - known.length(what)) > 0.05:
            own[what] = value
    return body_of(known.height_cm, known.mass_kg, own)


def in_address(set_up: SetUp, lift: Lift, before: str = "") -> dict[str, str]:
    """A set-up as the address says it."""
    said = {before + slider.name: f"{getattr(set_up, slider.name) * slider.share:g}" for slider in SLIDERS[lift]}
    if not isinstance(set_up, Hinge):
        said[before + "held"] = set_up.held.value
    else:
        said[before + "close"] = "1" if set_up.close else "0"
    return said
