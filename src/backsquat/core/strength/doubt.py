"""Sets that are possible and hardly likely: asked before they count, never refused (usual practice)."""

from backsquat.core.errors import Problem
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, maximum_kg


def doubts(
    movement: Movement, load_kg: float, reps: int, body_kg: float | None, best_kg: float | None, rules: Rules
) -> list[Problem]:
    """What is asked about a set: far above what bodies of that mass do, or far from this athlete's own best.

    `load_kg` as it is written, `best_kg` the best estimate on record, written the same way.
    """
    implied_kg = maximum_kg(load_kg, float(reps), FORMULAS[rules.formula])
    facts: dict[str, str | float | int] = {"load": f"{load_kg:g}", "reps": reps}
    found = []
    most = rules.doubt_body_masses * (
        1 if movement.convention != "machine" and movement.family is not Family.THRUST else 2
    )
    if body_kg and implied_kg * movement.hands > most * body_kg:
        found.append(Problem("load", "doubt_mass", facts | {"masses": f"{implied_kg * movement.hands / body_kg:.1f}"}))
    elif best_kg and best_kg > 0 and implied_kg > best_kg * (1 + rules.doubt_over_best):
        percent = round(100 * (implied_kg / best_kg - 1))
        found.append(Problem("load", "doubt_best", facts | {"best": f"{best_kg:.0f}", "percent": percent}))
    return found
