"""Wording of the library and of the reasons for and against a variant."""

from backsquat.core.movements.choice import ChoiceReason
from backsquat.core.movements.movement import Family

REASONS = {
    "goal_fits": "fits the aim: {goal}",
    "goal_off": "works elsewhere than the aim: {goal}",
    "sport_knee": "the sport already loads the front of the knee",
    "sport_groin": "the sport already loads the groin",
    "back_loaded": "bar on the back: spares the knee front the sport uses up",
    "back_history": "lower-back history, index {index:g}",
    "upright_spares": "upright trunk spares the lower back",
    "back_cost": "costs the lower back, index {index:g}",
    "leaner_upright": "leans {degrees:g}° in the screens: an upright trunk suits",
    "leaner_leans": "leans {degrees:g}° in the screens: this leans further",
    "ankles_short": "short ankles: needs a wedge",
    "short_with_hinges": "{sets} hinge sets this week stretch already: this loads the short end",
    "long_without_hinges": "{sets} hinge sets this week: this loads the hamstrings long",
    "on_level": "on the level that is earned",
    "above_level": "{steps} above the level that is earned",
    "below_level": "{steps} below the level that is earned",
    "skill": "takes long to learn, skill {skill} of 5",
    "rig": "takes {minutes:g} min to rig",
}


BLOCKED = {
    "stopped": "locked by pain", "barred": "barred by a limit", "not_ready": "needs the readiness check",
    "unearned": "above the own level", "retired": "retired",
}  # fmt: skip


PLURAL = {
    Family.SQUAT: "Squats", Family.HINGE: "Hinges", Family.SINGLE_LEG: "Single leg", Family.CURL: "Curls",
    Family.THRUST: "Thrusts", Family.EXTENSION: "Extensions", Family.CALF: "Calves", Family.GROIN: "Groin",
    Family.TRUNK: "Trunk", Family.SPEED: "Speed", Family.MOBILITY: "Mobility",
}  # fmt: skip


def reason_words(reason: ChoiceReason) -> str:
    return REASONS[reason.code].format(**reason.facts)


def emphasis_words(emphasis: float) -> str:
    if emphasis <= -1.25:
        return "thighs"
    if emphasis < -0.25:
        return "more thighs"
    if emphasis <= 0.25:
        return "thighs and hips"
    return "more hips" if emphasis < 1.25 else "hips and hamstrings"
