"""The defaults of looking at a body from the side: postures that can be held, pictures and how sure they are (rules 2.11).

They stand apart from `rules.py` for its length alone: `Rules` has them all.
"""

from dataclasses import dataclass

from backsquat.core.rule import OWN_DRAWN, USUAL, rule

RANGE = "usual practice, of the order of published ranges of joints"


@dataclass(frozen=True)
class TechniqueRules:
    """Angles in degrees, lengths in cm, unless a name says otherwise."""

    ankle_bend_usual: float = rule(
        33, "How far an ankle bends where nobody has measured it, shin from upright", "degrees", RANGE, 10, 55
    )
    knee_ahead_share: float = rule(
        0.03,
        "How far the kneecap stands before the middle of the knee, for the angle from knee to wall",
        "share of height",
        USUAL,
        0,
        0.06,
    )
    lean_most: float = rule(75, "Trunk lean beyond which a squat is none any more", "degrees", USUAL, 40, 90)
    fold_least: float = rule(
        20, "Angle between trunk and thigh at which they meet and the pelvis rolls under", "degrees", RANGE, 5, 60
    )
    knee_bend_most: float = rule(150, "How far a knee bends before calf and thigh meet", "degrees", RANGE, 110, 165)
    rear_hip_most: float = rule(
        35, "How far past a straight line the rear hip of a split squat opens, pelvis and all", "degrees", RANGE, 0, 60
    )
    rear_hip_open_deg: float = rule(
        180,
        "Angle of trunk and rear thigh from which the rear hip of a split squat counts as open",
        "degrees",
        USUAL,
        150,
        210,
    )
    lock_out_short_deg: float = rule(
        5, "How far short of a straight line a thrust still counts as locked out", "degrees", USUAL, 0, 20
    )
    heels_share: float = rule(
        0.2, "Share of the foot from the heel behind which nobody stands safely", "share of the foot", USUAL, 0, 0.5
    )
    click_share: float = rule(
        0.004,
        "How far a placed point may be off, one standard deviation",
        "share of the picture's height",
        OWN_DRAWN,
        0.001,
        0.02,
    )
    still_sure: float = rule(
        1.96, "Width of what is said about a picture: 1.96 holds in nineteen of twenty", "deviations", USUAL, 1, 3
    )
    plate_error: float = rule(
        0.03,
        "How much larger or smaller a plate may look than the body, nearer or farther than it is",
        "share",
        USUAL,
        0,
        0.15,
    )
    still_retest_days: int = rule(
        42, "Days after which a picture of somebody from the side is due again", "days", USUAL, 7, 180
    )
