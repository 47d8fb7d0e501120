"""How likely a set is made, from what is believed of the maximum (rules 2.2).

The last set of an exposure is the hardest, for sets tire: its chance is that of the whole. Capability at so many reps is
taken as normal in the logarithm of the moved mass; how sure the maximum and the own curve are, the days' good and bad
form and the gain expected of the weeks between go into it.
"""

import math
from dataclasses import dataclass

from backsquat.core.numbers import sure
from backsquat.core.rules import Rules
from backsquat.core.strength.belief import CURVE, LEAST_NOISE, MAX, NORMAL, Belief
from backsquat.core.strength.formulas import FORMULAS, MOST_REPS, Formula, load_for_kg, own_formula, reps_for

WEEKS_MOST = 1.0  # a plan is brought up to date after every session: what is further off is no less sure


@dataclass(frozen=True)
class KnownStrength:
    """A belief about a maximum as planning needs it; masses with what is carried of the body in them."""

    level: float  # ln kg of the moved mass
    variance: float
    curve: float = 1.0
    curve_variance: float = 0.0
    together: float = 0.0  # covariance of level and curve

    @classmethod
    def of(cls, belief: Belief) -> "KnownStrength":
        """From a belief on the day it is asked for."""
        spread = belief.spread
        return cls(belief.mean[MAX], spread[MAX][MAX], belief.mean[CURVE], spread[CURVE][CURVE], spread[MAX][CURVE])

    def formula(self, rules: Rules) -> Formula:
        """The squad's formula bent to the own curve."""
        return own_formula(FORMULAS[rules.formula], round(self.curve, 3))

    def _spread(self, reps: float, weeks_ahead: float, rules: Rules) -> float:
        plain = FORMULAS[rules.formula].factor(reps)
        slope = (plain - 1) / (1 + self.curve * (plain - 1))
        variance = self.variance - 2 * slope * self.together + slope * slope * self.curve_variance
        drift = rules.max_drift_week**2 * min(max(weeks_ahead, 0.0), WEEKS_MOST)
        return math.sqrt(max(variance, 0.0) + drift + rules.day_spread**2 + LEAST_NOISE**2)

    def chance(self, moved_kg: float, reps: int, sets: int, weeks_ahead: float, gain: float, rules: Rules) -> float:
        """Chance from 0 to 1 that the last of `sets` × `reps` is made; `gain` a week is expected meanwhile."""
        if sure("moved_kg", moved_kg) <= 0:
            return 1.0
        needed = last_set_reps(reps, sets, rules)
        level = self.level + math.log1p(gain * max(weeks_ahead, 0.0))
        over = level - math.log(moved_kg) - math.log(self.formula(rules).factor(needed))
        return NORMAL.cdf(over / self._spread(needed, weeks_ahead, rules))

    def most_kg(self, chance: float, reps: int, sets: int, weeks_ahead: float, gain: float, rules: Rules) -> float:
        """The heaviest moved mass with which `sets` × `reps` are made with at least `chance`."""
        needed = last_set_reps(reps, sets, rules)
        sure("chance", chance, 0.001, 0.999)
        level = self.level + math.log1p(gain * max(weeks_ahead, 0.0))
        level -= NORMAL.inv_cdf(chance) * self._spread(needed, weeks_ahead, rules)
        return load_for_kg(math.exp(level), needed, self.formula(rules))

    def left(self, moved_kg: float, reps: int, weeks_ahead: float, gain: float, rules: Rules) -> float:
        """Reps a first set of `reps` is expected to leave; under nought where it is more than there is."""
        level = self.level + math.log1p(gain * max(weeks_ahead, 0.0))
        if sure("moved_kg", moved_kg) <= 0:
            return MOST_REPS - reps
        return reps_for(moved_kg, math.exp(level), self.formula(rules)) - reps


def last_set_reps(reps: int, sets: int, rules: Rules) -> float:
    """What the last set asks of a fresh lifter: its reps and those the sets before have taken.

    Half a rep less than whole: formulas are drawn through whole reps, and who is half a rep short still makes the next.
    """
    sure("reps", reps, 1)
    sure("sets", sets, 1)
    return min(max(reps - 0.5 + min(max(sets - 1, 0) * rules.tired_a_set, rules.tired_most), 1.0), MOST_REPS)
