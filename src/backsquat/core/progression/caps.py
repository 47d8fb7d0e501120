"""How far a prescription may go (rules 2.3, caps; ACSM 2009).

What is limited is the *implied max*: load, reps and reserve put through the formula, against the
current estimate, +5 % a week for newcomers and +2.5 % for others. Besides, one step at the same
reps and reserve is at most +10 %. The smallest step the room has is always allowed, and marked.
"""

from dataclasses import dataclass

from backsquat.core.numbers import sure
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, Formula, load_for_kg, maximum_kg
from backsquat.core.working import Fact, Step


@dataclass(frozen=True)
class Cap:
    """The heaviest load in kg for one exposure, and how its working says it."""

    most_kg: float
    estimate_kg: float
    rise_share: float  # allowed rise of the implied max above the estimate
    reps: float  # r′ of the prescription
    formula: Formula
    carried_kg: float = 0.0  # body mass moved with the load: what rises is the moved mass
    manner_share: float = 1.0  # of a plain load: with a pause less weighs as much

    def implied_max_kg(self, load_kg: float) -> float:
        """Implied plain maximum of the moved mass."""
        return maximum_kg(load_kg / self.manner_share + self.carried_kg, self.reps, self.formula)

    def allows(self, load_kg: float) -> bool:
        """Whether a load in kg is within the cap."""
        return load_kg <= self.most_kg + 1e-6

    def step(self, load_kg: float) -> Step:
        """The line of working: how far a load in kg implies a higher max than the estimate."""
        rise = 100 * (self.implied_max_kg(load_kg) / max(self.estimate_kg + self.carried_kg, 1e-9) - 1)
        facts: dict[str, Fact] = {"rise_percent": rise, "limit_percent": 100 * self.rise_share}
        return Step("cap", facts, self.most_kg, "kg")


def cap_for(
    *,
    estimate_kg: float,
    weeks_ahead: float,
    reps: float,
    same_reps_kg: float | None,
    newcomer: bool,
    rules: Rules,
    carried_kg: float = 0.0,
    formula: Formula | None = None,
    manner_share: float = 1.0,
) -> Cap:
    """The cap `weeks_ahead` (from 1) after the estimate; `same_reps_kg` is the last load at the same reps.

    `formula`: the squad's, unless the athlete's own is given. `manner_share`: what a load is of a plain one, by how it
    is done; a manner that is said to be easier than the whole lift allows nothing above the whole lift's cap.
    """
    harder = min(manner_share, 1.0)
    formula = formula or FORMULAS[rules.formula]
    sure("estimate_kg", estimate_kg)
    sure("same_reps_kg", same_reps_kg or 0.0)
    weekly = rules.rise_a_week_newcomer if newcomer else rules.rise_a_week_trained
    rise = weekly * max(weeks_ahead, 0)
    moved = load_for_kg((estimate_kg + carried_kg) * (1 + rise), reps, formula)
    most_kg = (moved - carried_kg) * harder
    if same_reps_kg is not None:
        most_kg = min(most_kg, (same_reps_kg + carried_kg) * (1 + rules.step_cap) - carried_kg)
    return Cap(most_kg, estimate_kg, rise, reps, formula, carried_kg, harder)
