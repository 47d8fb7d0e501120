"""Distances to start from, from the lengths of a body: stance, box, step, bench; a coach and a mirror move them."""

from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.technique.body import ANKLE_BACK, Body
from backsquat.core.technique.split import HEEL_UP

SHOULDERS = 0.259  # of height, Winter 2009
SEAT = 0.05  # flesh under the hip joint, of height


class Distance(StrEnum):
    """What is measured out."""

    SQUAT_STANCE = "squat_stance"
    WIDE_STANCE = "wide_stance"
    SPLIT_SHORT = "split_short"
    SPLIT_LONG = "split_long"
    BOX_LEVEL = "box_level"
    STEP_LOW = "step_low"
    STEP_HIGH = "step_high"
    BENCH = "bench"


ON_THE_FLOOR = (Distance.SQUAT_STANCE, Distance.WIDE_STANCE, Distance.SPLIT_SHORT, Distance.SPLIT_LONG)


@dataclass(frozen=True)
class Mark:
    """A distance in whole cm."""

    what: Distance
    cm: int


def starting_distances(body: Body) -> list[Mark]:
    """Where to start, in whole cm.

    Squat stance: heels as wide as the shoulders, a third more for wide. Split stance, from the front heel to the ball
    of the rear foot: long, front shin upright, thigh level, rear knee under the hip; short, the rear knee an eighth of
    a thigh ahead of it. Box: thigh level with the shin somewhat forward. Step: thigh 30 degrees short of level, and
    level. Bench for thrusts: trunk level over upright shins.
    """
    front = body.foot_cm * ANKLE_BACK  # the ankle before the heel
    behind = (body.shank_cm**2 - (body.height_cm * HEEL_UP * 0.5) ** 2) ** 0.5
    long = body.thigh_cm + behind - front
    found = {
        Distance.SQUAT_STANCE: body.height_cm * SHOULDERS,
        Distance.WIDE_STANCE: body.height_cm * SHOULDERS * 4 / 3,
        Distance.SPLIT_SHORT: long - body.thigh_cm / 8,
        Distance.SPLIT_LONG: long,
        Distance.BOX_LEVEL: body.ankle_cm + body.shank_cm * 0.966 - body.height_cm * SEAT,
        Distance.STEP_LOW: body.thigh_cm * 0.5,
        Distance.STEP_HIGH: body.thigh_cm,
        Distance.BENCH: body.ankle_cm + body.shank_cm - body.height_cm * SEAT,
    }
    return [Mark(what, round(cm)) for what, cm in found.items()]
