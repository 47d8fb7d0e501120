"""Where finding the load begins for somebody never seen with a movement (rules 2.2, 2.5).

Low, and only a beginning: by the usual share of a known lift, by a share of body mass, or the lightest there is. A
pattern that is itself to be learnt (overhead, front, a one-arm rack) begins with the empty bar, a bell with half of it.
"""

from backsquat.core.loads.achievable import Load, Loads
from backsquat.core.loads.room import RigKind
from backsquat.core.loads.rounding import grains
from backsquat.core.movements.movement import BARS, Movement
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, load_for_kg

PLATES_KG = 5.0  # to which a first load of plates on a machine is rounded down


def first_load(
    movement: Movement, loads: Loads, body_mass_kg: float | None, max_by_ratio_kg: float | None, rules: Rules
) -> Load | None:
    """The load to take first; None for what takes none. `max_by_ratio_kg`: its maximum by a known lift, None: unknown.

    Never over what ratio or share give, but where even the lightest load is.
    """
    if not movement.takes_load:
        return None
    wanted_kg = None
    if not (movement.new_pattern and movement.implement in BARS):
        wanted_kg = _wanted_kg(movement, body_mass_kg, max_by_ratio_kg, rules)
    if wanted_kg is not None and loads.empty.rig.kind is RigKind.SLED:
        wanted_kg -= wanted_kg % PLATES_KG  # a beginning is no matter of the smallest plates
    found = loads.at_most(grains(wanted_kg)) if wanted_kg is not None else None
    return found if found is not None and found.kg >= loads.lightest.kg else loads.lightest


def _wanted_kg(
    movement: Movement, body_mass_kg: float | None, max_by_ratio_kg: float | None, rules: Rules
) -> float | None:
    carried_kg = movement.carried_kg(body_mass_kg)
    if max_by_ratio_kg is not None and carried_kg is not None:
        reps = movement.work.high + rules.trial_reserve
        load_kg = load_for_kg(max_by_ratio_kg + carried_kg, reps, FORMULAS[rules.formula]) - carried_kg
        return load_kg * (rules.finding_first_share if movement.new_pattern else rules.ratio_first_week)
    if movement.start_share is not None and body_mass_kg is not None:
        return body_mass_kg * movement.start_share
    return None
