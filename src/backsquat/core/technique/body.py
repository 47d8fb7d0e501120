"""A body as segments seen from the side: lengths by height or measured, masses by body mass.

Shares of height and mass, and centres of mass, after Winter (2009), *Biomechanics and Motor Control of Human Movement*,
tables 4.1 and figure 4.1; where the ankle stands over the foot is usual practice. Both legs count as one.
"""

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.rules import Rules


class SegmentLength(StrEnum):
    """What can be measured on a body; where it is not, height tells."""

    FOOT = "foot"
    SHANK = "shank"
    THIGH = "thigh"
    TRUNK = "trunk"


SHARES = {
    SegmentLength.FOOT: 0.152,
    SegmentLength.SHANK: 0.246,
    SegmentLength.THIGH: 0.245,
    SegmentLength.TRUNK: 0.288,
}  # of height
ANKLE_UP = 0.039  # the ankle over the ground, of height
ANKLE_BACK = 0.25  # of the foot from the heel
BALL = 0.73  # of the foot from the heel: what the foot turns about on a wedge
HEAD_UP, ARM = 0.11, 0.386  # from the shoulder, of height; the arm down to a closed hand
FOOT_MASS, SHANK_MASS, THIGH_MASS, UPPER_MASS = 0.029, 0.093, 0.2, 0.678  # of body mass, both sides
SHANK_CENTRE, THIGH_CENTRE, UPPER_CENTRE = 0.567, 0.567, 0.626  # from the lower end of each
ARMS_MASS = 0.1  # of body mass, both
BACK = 0.25  # where the lower back is, of the trunk from the hip
OVER_BACK_MASS, OVER_BACK_CENTRE = 0.536, 0.73  # what stands above it, its centre of the trunk from the hip
HEIGHT_CM, MASS_KG = (100.0, 230.0), (20.0, 250.0)
LENGTH_CM = {
    SegmentLength.FOOT: (15.0, 40.0),
    SegmentLength.SHANK: (25.0, 65.0),
    SegmentLength.THIGH: (25.0, 65.0),
    SegmentLength.TRUNK: (30.0, 75.0),
}


@dataclass(frozen=True)
class Body:
    """Lengths in cm, masses in kg. `measured` names the lengths that are not from the height."""

    height_cm: float
    mass_kg: float
    foot_cm: float
    shank_cm: float
    thigh_cm: float
    trunk_cm: float
    measured: frozenset[SegmentLength] = field(default_factory=frozenset)

    @property
    def ankle_cm(self) -> float:
        """Height of the ankle over the sole."""
        return self.height_cm * ANKLE_UP

    @property
    def arm_cm(self) -> float:
        """From the shoulder to a closed hand."""
        return self.height_cm * ARM

    def length(self, what: SegmentLength) -> float:
        """One of the lengths by its name, in cm."""
        return {
            SegmentLength.FOOT: self.foot_cm,
            SegmentLength.SHANK: self.shank_cm,
            SegmentLength.THIGH: self.thigh_cm,
            SegmentLength.TRUNK: self.trunk_cm,
        }[what]


def body_of(height_cm: float, mass_kg: float, own: Mapping[SegmentLength, float] | None = None) -> Body:
    """A body of this height and mass; `own` are lengths in cm that were measured. ImpossibleInput where one cannot be."""
    own = dict(own or {})
    bounds: dict[str, tuple[float, tuple[float, float]]] = {
        "height_cm": (height_cm, HEIGHT_CM),
        "body_mass_kg": (mass_kg, MASS_KG),
        **{f"{what}_cm": (own[what], LENGTH_CM[what]) for what in own},
    }
    wrong = [
        Problem(name, "between", {"low": low, "high": high})
        for name, (value, (low, high)) in bounds.items()
        if not (math.isfinite(value) and low <= value <= high)
    ]
    if wrong:
        raise ImpossibleInput(*wrong)
    lengths = {what: own.get(what, height_cm * share) for what, share in SHARES.items()}
    return Body(
        height_cm,
        mass_kg,
        lengths[SegmentLength.FOOT],
        lengths[SegmentLength.SHANK],
        lengths[SegmentLength.THIGH],
        lengths[SegmentLength.TRUNK],
        frozenset(own),
    )


def inside(values: object, bounds: Mapping[str, tuple[float, float]]) -> None:
    """ImpossibleInput naming every value of an object that is outside its bounds, or is no number."""
    wrong = [
        Problem(name, "between", {"low": low, "high": high})
        for name, (low, high) in bounds.items()
        if not (math.isfinite(getattr(values, name)) and low <= getattr(values, name) <= high)
    ]
    if wrong:
        raise ImpossibleInput(*wrong)


def ankle_of(body: Body, walls_cm: Collection[float], rules: Rules) -> float:
    """How far the ankles bend: the stiffer of those measured, the usual where none is."""
    return ankle_bend(body, min(walls_cm), rules) if walls_cm else rules.ankle_bend_usual


def ankle_bend(body: Body, wall_cm: float, rules: Rules) -> float:
    """How far the ankle bends, degrees of the shin from upright, from the distance of the big toe to the wall.

    The kneecap touches the wall with the heel down: ankle, knee and wall make a triangle. Approximate: within some
    four degrees of an inclinometer on the shin.
    """
    ahead = wall_cm + body.foot_cm * (1 - ANKLE_BACK) - body.height_cm * rules.knee_ahead_share
    return math.degrees(math.asin(min(max(ahead / body.shank_cm, 0.0), 0.95)))
