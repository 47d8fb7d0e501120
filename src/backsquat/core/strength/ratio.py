"""A low start for a movement never tested: its usual share of a known lift (rules 2.2).

For movements that carry the body the share is said of the *external* load at about eight reps, all hands
together, and the body is put on it before it becomes a maximum: a ratio of maxima pushed through moved
mass gives absurdly light bells.
"""

from backsquat.core.movements.movement import Movement
from backsquat.core.numbers import sure
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, load_for_kg, maximum_kg
from backsquat.core.working import Fact, Step


def max_by_ratio(
    known_kg: float, share: float, movement: Movement, carried_kg: float, rules: Rules
) -> tuple[float, Step]:
    """The maximum in kg, as the movement's load is written, from a known lift's total maximum; with its working.

    `known_kg` is all hands together, `carried_kg` the body mass moved with each written load.
    """
    facts: dict[str, Fact] = {"share": share, "known_kg": known_kg, "hands": movement.hands}
    sure("known_kg", known_kg, 0)
    sure("share", share, 0)
    if not carried_kg:
        max_kg = known_kg * share / movement.hands
        return max_kg, Step("by_ratio", facts, max_kg, "kg")
    formula, reps = FORMULAS[rules.formula], float(rules.ratio_reps)
    external_kg = load_for_kg(known_kg, reps, formula) * share / movement.hands
    max_kg = maximum_kg(external_kg + carried_kg, reps, formula) - carried_kg
    facts |= {"reps": rules.ratio_reps, "external_kg": external_kg, "carried_kg": carried_kg}
    return max_kg, Step("by_ratio_carried", facts, max_kg, "kg")
