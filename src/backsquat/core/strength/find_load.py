"""The first set finds the load, for bells and machines (rules 2.5): from one set with its load, reps and what
was left, the load at which the next lands in its window."""

from collections.abc import Sequence
from dataclasses import dataclass

from backsquat.core.numbers import sure
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, maximum_kg, reps_for
from backsquat.core.working import Step, Working

EVEN = 1e-9


@dataclass(frozen=True)
class FoundLoad:
    """The load for the next set, the reps it promises with the reserve asked, and how that came about."""

    load_kg: float
    reps: int
    working: Working


def find_load(
    trial: tuple[float, int, int],
    window: tuple[int, int],
    reserve_reps: int,
    loads_kg: Sequence[float],
    rules: Rules,
    carried_kg: float = 0.0,
) -> FoundLoad | None:
    """The load of `loads_kg` whose promised reps, `reserve_reps` left, lie in the window, nearest its middle.

    `trial`: load in kg, reps, what was left. More left than counts (`trial_reserve`) is taken as so many: the
    next set then errs to the light side and says so. None where there is no load, or nothing was lifted.
    """
    load_kg, reps, left = trial
    low, high = window
    sure("load_kg", load_kg, 0)
    sure("carried_kg", carried_kg, 0)
    if not loads_kg or load_kg + carried_kg <= 0 or reps < 1 or low < 1 or high < low:
        return None
    counted = min(left, rules.trial_reserve)
    formula = FORMULAS[rules.formula]
    max_kg = maximum_kg(load_kg + carried_kg, reps + counted, formula)
    middle = (low + high) / 2

    def promised(kg: float) -> float:
        return reps_for(kg + carried_kg, max_kg, formula) - reserve_reps + EVEN  # exactly so many are so many

    possible = [kg for kg in loads_kg if kg + carried_kg > 0]
    inside = [kg for kg in possible if low <= promised(kg) <= high]
    light = [kg for kg in possible if promised(kg) >= low]
    # In the window, near its middle; where no bell lands in it, rather too light than too heavy.
    best = (
        min(inside, key=lambda kg: abs(promised(kg) - middle))
        if inside
        else max(light, default=min(possible, default=0))
    )
    if not possible:
        return None
    facts: dict[str, str | float | int] = {"load_kg": load_kg, "reps": reps, "left": left, "counted": counted}
    here = int(min(max(promised(best), 1), 99))
    working = Working((Step("found_max", facts, round(max_kg - carried_kg, 1), "kg"),))
    return FoundLoad(best, here, working.then(Step("found_load", {"reps": here, "left": reserve_reps}, best, "kg")))
