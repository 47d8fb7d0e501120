"""What a sensor on the bar has said of one athlete's work today, and the day's maximum from it."""

from backsquat.core.progression.speed import SpeedParameters
from backsquat.core.rules import Rules
from backsquat.core.sessions.running import ActKind
from backsquat.core.strength.set_notes import set_notes_from
from backsquat.core.strength.speed import DayMaximum, day_maximum, speed_at_maximum
from backsquat.work.floor.turn import Turn
from backsquat.work.plan.progression_settings import setting_of


def by_speed(turn: Turn, rules: Rules) -> DayMaximum | None:
    """The day's maximum by the ramp sets and sets of this piece of work that a sensor saw; None while there are too few."""
    ramp = [
        (float(act.facts["load_kg"]), tuple(act.facts["speeds"]))
        for act in turn.acts
        if act.what is ActKind.RAMP and act.facts.get("speeds")
    ]
    sets = [(entry.load_kg, set_notes_from(entry.notes).speeds_ms) for entry in turn.entries]
    return day_maximum([*ramp, *sets], speed_at_maximum(turn.movement.family, rules), rules)


def drop_of(turn: Turn, rules: Rules) -> tuple[float, bool]:
    """The drop at which a watched set ends, and whether its progression says so or the set only may."""
    parameters = (turn.setting or setting_of(turn.exercise)).parameters
    if isinstance(parameters, SpeedParameters):
        return parameters.drop_share, True
    return rules.speed_drop, False
