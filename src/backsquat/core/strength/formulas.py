"""Formulas between a set and the heaviest single it implies.

`r′` is reps done plus reps left in reserve. Each formula is a factor f with e1RM = w · f(r′), so
that the inverse, the load for a planned set, is w = e1RM ÷ f(r′).

Epley (1985):   f = 1 + r′ ÷ 30. By the equation one rep would give 1.033; a single *is* the
                maximum, so f(1) = 1. Between 1 and 2 (half reps in reserve) f runs straight from
                1 to 1 + 2 ÷ 30: no jump, and still rising.
Brzycki (1993): f = 36 ÷ (37 − r′), valid for r′ < 37; f(1) = 1 by itself.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from backsquat.core.numbers import sure

MOST_REPS = 36.0  # Brzycki's divisor reaches nought at 37


@dataclass(frozen=True)
class Formula:
    """A published formula, looked up by its code."""

    code: str
    name: str
    factor: Callable[[float], float]  # r′ → share of the load
    reps: Callable[[float], float]  # the way back: share of the load, 1 or more → r′


def _epley(reps: float) -> float:
    if reps <= 1:
        return 1.0
    if reps < 2:
        return 1.0 + (reps - 1.0) * 2.0 / 30.0
    return 1.0 + reps / 30.0


def _epley_reps(share: float) -> float:
    return 1.0 + (share - 1.0) * 15.0 if share < 1 + 2 / 30 else 30.0 * (share - 1.0)


def _brzycki_reps(share: float) -> float:
    return 37.0 - 36.0 / share


def _brzycki(reps: float) -> float:
    return 36.0 / (37.0 - min(max(reps, 1.0), MOST_REPS))


FORMULAS = {
    formula.code: formula
    for formula in (
        Formula("epley", "Epley 1985", _epley, _epley_reps),
        Formula("brzycki", "Brzycki 1993", _brzycki, _brzycki_reps),
    )
}


def own_formula(formula: Formula, curve: float) -> Formula:
    """The formula bent to an athlete: `curve` times as far over 1 at every number of reps; 1 leaves it as it is."""
    return _bent(formula.code, curve)


@lru_cache(maxsize=4096)
def _bent(code: str, curve: float) -> Formula:
    formula = FORMULAS[code]
    if sure("curve", curve, 0.1, 10) == 1:
        return formula
    return Formula(
        formula.code,
        formula.name,
        lambda reps: 1 + curve * (formula.factor(reps) - 1),
        lambda share: formula.reps(1 + (share - 1) / curve),
    )


def maximum_kg(load_kg: float, reps: float, formula: Formula) -> float:
    """Estimated one-rep maximum in kg of `load_kg` moved for r′ = `reps`."""
    return sure("load_kg", load_kg) * formula.factor(sure("reps", reps, 0))


def reps_for(load_kg: float, max_kg: float, formula: Formula) -> float:
    """Reps r′ that `load_kg` promises an athlete whose maximum is `max_kg`; 0 above it, at most 36."""
    if sure("load_kg", load_kg) <= 0:
        return MOST_REPS
    share = sure("max_kg", max_kg) / load_kg
    return 0.0 if share < 1 else min(formula.reps(share), MOST_REPS)


def load_for_kg(max_kg: float, reps: float, formula: Formula) -> float:
    """Load in kg for r′ = `reps` of an athlete whose maximum is `max_kg`; inverse of `maximum_kg`."""
    return sure("max_kg", max_kg) / formula.factor(sure("reps", reps, 0))
