"""The current estimate, how sure it is, and the planning max made from it (rules 2.2).

Two ways, of which a squad chooses one. *Belief*: the filter in `belief.py` over every set, with its width. *Plain*: the
trust-weighted mean of the days in the window (28 days), each day weighing half after 14; sets that only say "at least"
raise it where they show more, as one day among the others, and never lower it; its width is that of its best trust.

Everything said about how far a number can be believed is read from the width: half the range that holds four in five.
`stale` says one thing more: that nothing firm was shown in the window; `firm`, that anything ever was.
"""

import datetime as dt
import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from backsquat.core.rules import Rules
from backsquat.core.strength.belief import WIDTHS, Belief, beliefs_of, on_day
from backsquat.core.strength.chance import KnownStrength
from backsquat.core.strength.estimate import BareEstimate, Trust, bare_estimate, logged_step
from backsquat.core.strength.record import Effort, SetRecord
from backsquat.core.working import Fact, Step, Working

SHOWN_DAYS = 3  # days that counted most, in the working


class Counted(NamedTuple):
    """What one set says by the plain formula, without the set: enough for the current value of many athletes at once."""

    done_on: dt.date
    set_id: int
    max_kg: float
    trust: Trust
    firm: bool
    carried_kg: float = 0.0


@dataclass(frozen=True)
class CurrentValue:
    """`max_kg` as the load is written, as of a day; `spread` is one spread of the moved maximum, as a share of it.

    `max_kg` is what was shown last, and what plans are made from: a return eases them. What may be left of it after
    `away_days` without any training is `today_kg`, and the range is of that.
    """

    max_kg: float
    spread: float
    trust: Trust
    newest_on: dt.date  # the last day with a firm set; with any, where there is none
    stale: bool
    carried_kg: float = 0.0
    belief: Belief | None = None  # None: the plain way
    firm: bool = True  # False: every set only says "at least"
    away_days: int = 0  # since the athlete trained at all, where it is long enough to cost something
    away_share: float = 1.0  # what is left of the maximum after these

    @property
    def today_kg(self) -> float:
        """The maximum as it may be today: lower only after time without any training."""
        return self._moved_kg - self.carried_kg

    @property
    def low_kg(self) -> float:
        """Where the range that holds four in five begins."""
        return self._moved_kg * math.exp(-WIDTHS * self.spread) - self.carried_kg

    @property
    def high_kg(self) -> float:
        """Where it ends."""
        return self._moved_kg * math.exp(WIDTHS * self.spread) - self.carried_kg

    @property
    def _moved_kg(self) -> float:
        return (self.max_kg + self.carried_kg) * self.away_share

    @cached_property
    def known(self) -> KnownStrength:
        """What chances are worked out from."""
        if self.belief is not None:
            return KnownStrength.of(self.belief)
        return KnownStrength(math.log(max(self.max_kg + self.carried_kg, 1e-6)), self.spread**2)


@dataclass(frozen=True)
class CurrentEstimate:
    """A current value with its working."""

    value: CurrentValue
    working: Working

    @property
    def max_kg(self) -> float:
        """The maximum today, in kg as the load is written."""
        return self.value.max_kg

    @property
    def today_kg(self) -> float:
        """The same as it may be today, after time without training."""
        return self.value.today_kg

    @property
    def trust(self) -> Trust:
        """How far it can be believed, read from its width."""
        return self.value.trust

    @property
    def newest_on(self) -> dt.date:
        """The day of the newest set that was firm."""
        return self.value.newest_on

    @property
    def stale(self) -> bool:
        """Whether nothing firm was shown in the window."""
        return self.value.stale


@dataclass(frozen=True)
class PlanningMax:
    """What plans are made from: the estimate in kg times the share of caution, with its working."""

    max_kg: float
    share: float
    working: Working


def is_firm(record: SetRecord, estimate: BareEstimate) -> bool:
    """Whether the estimate says "this much" and not only "at least this much"."""
    return estimate.max_kg is not None and not estimate.at_least and record.effort is not Effort.DELOAD


def trust_of(spread: float, rules: Rules) -> Trust:
    """The grade of a width: half the range that holds four in five."""
    width = WIDTHS * spread
    for grade, most in ((Trust.GOOD, rules.width_good), (Trust.FAIR, rules.width_fair), (Trust.WEAK, rules.width_weak)):
        if width <= most:
            return grade
    return Trust.NONE


def spread_of(trust: Trust, rules: Rules) -> float:
    """One spread that a grade of the plain way stands for."""
    widths = (rules.width_weak, rules.width_weak, rules.width_fair, rules.width_good)
    return widths[trust] / WIDTHS


def believed_value(belief: Belief, carried_kg: float, today: dt.date, rules: Rules) -> CurrentValue:
    """The current value on `today` from a belief of that day or before; `carried_kg` of the newest set."""
    belief = on_day(belief, today, rules)
    max_kg = belief.max_kg(carried_kg)
    stale = (today - belief.newest_on).days >= rules.estimate_window_days or not belief.firm
    trust = max(trust_of(belief.sd, rules), Trust.WEAK)
    return CurrentValue(max_kg, belief.sd, trust, belief.newest_on, stale, carried_kg, belief, belief.firm)


def current_value(counted: Sequence[Counted], today: dt.date, rules: Rules) -> CurrentValue | None:
    """The plain way: the current value on `today` from all counted sets up to it, or None where there is none."""
    counted = [one for one in counted if one.done_on <= today]
    if not counted:
        return None
    window = dt.timedelta(days=rules.estimate_window_days)
    base = [one for one in counted if one.firm] or counted
    last = max(base, key=lambda one: (one.done_on, one.set_id))
    reference = today if today - last.done_on < window else last.done_on
    recent = [one for one in base if reference - one.done_on < window]
    max_kg = _weigh(recent, reference, rules)
    trust = max(one.trust for one in recent)
    stale = today - last.done_on >= window
    if base is not counted and not stale:  # what shows at least more counts as one day among the others
        more = [one for one in counted if not one.firm and today - one.done_on < window and one.max_kg > max_kg]
        max_kg = _weigh([*recent, *more], reference, rules)
    firm = any(one.firm for one in counted)
    return CurrentValue(max_kg, spread_of(trust, rules), trust, last.done_on, stale, last.carried_kg, firm=firm)


def _weigh(recent: Sequence[Counted], reference: dt.date, rules: Rules) -> float:
    """The mean of the days, each weighted by its sets' trust and its age."""
    weights = (0.0, rules.trust_weak_weight, rules.trust_fair_weight, rules.trust_good_weight)
    days: dict[dt.date, list[Counted]] = defaultdict(list)
    for one in recent:
        days[one.done_on].append(one)
    total = total_weight = 0.0
    for day, sets in days.items():
        trust_sum = sum(weights[one.trust] for one in sets) or 1e-9  # a squad may weigh a grade with nought
        value = sum(weights[one.trust] * one.max_kg for one in sets) / trust_sum
        if trust_sum <= 1e-9:
            value = sum(one.max_kg for one in sets) / len(sets)
        weight = 0.5 ** ((reference - day).days / rules.estimate_half_life_days) * trust_sum / len(sets)
        total, total_weight = total + weight * value, total_weight + weight
    return total / total_weight


def current_estimate(records: Sequence[SetRecord], today: dt.date, rules: Rules) -> CurrentEstimate | None:
    """The estimate on `today` from all records up to it, or None where no set says anything."""
    records = [record for record in records if record.done_on <= today]
    return _plain(records, today, rules) if rules.estimator == "plain" else _believed(records, today, rules)


def _believed(records: Sequence[SetRecord], today: dt.date, rules: Rules) -> CurrentEstimate | None:
    steps = beliefs_of(records, rules)
    if not steps:
        return None
    newest, belief, _ = steps[-1]
    return believed_estimate(
        belief, newest.carried_kg or 0.0, [(record, share) for record, _, share in steps], today, rules
    )


def believed_estimate(
    belief: Belief, carried_kg: float, shares: Sequence[tuple[SetRecord, float]], today: dt.date, rules: Rules
) -> CurrentEstimate:
    """The estimate from a belief, with the working: `shares` are the newest sets in order, with how far each moved it."""
    value = believed_value(belief, carried_kg, today, rules)
    weights, rest = [], 1.0
    for record, share in reversed(shares):
        weights.append((record, rest * share))
        rest *= 1 - share
    return CurrentEstimate(value, Working((*_days(weights), _belief_step(value, len(shares)))))


def _days(weights: Sequence[tuple[SetRecord, float]]) -> tuple[Step, ...]:
    """The days that counted most, newest last: each shown by its own heaviest-counting set."""
    total = sum(weight for _, weight in weights) or 1.0
    days: dict[dt.date, list[tuple[SetRecord, float]]] = defaultdict(list)
    for record, weight in weights:
        days[record.done_on].append((record, weight))
    shares = {day: sum(weight for _, weight in sets) / total for day, sets in days.items()}
    shown = sorted(sorted(shares, key=lambda day: -shares[day])[:SHOWN_DAYS])
    steps = []
    for day in shown:
        best = max(days[day], key=lambda item: item[1])[0]
        plain = logged_step(best)
        facts = dict(plain.facts) | {"share": shares[day], "sets": len(days[day])}
        steps.append(Step("counted_day", facts, plain.output, plain.unit))
    return tuple(steps)


def _belief_step(value: CurrentValue, sets: int) -> Step:
    belief = value.belief
    assert belief is not None
    facts: dict[str, Fact] = {
        "low_kg": value.low_kg,
        "high_kg": value.high_kg,
        "curve": round(belief.curve, 2),
        "bias": round(belief.mean[3], 1),
        "sets": sets,
        "stale": int(value.stale),
        "firm": int(value.firm),
        "newest_on": value.newest_on.isoformat(),
    }
    return Step("belief", facts, value.max_kg, "kg")


def _plain(records: Sequence[SetRecord], today: dt.date, rules: Rules) -> CurrentEstimate | None:
    counted = []
    for record in records:
        bare = bare_estimate(record, rules)
        if bare.max_kg is not None:
            firm = is_firm(record, bare)
            carried = record.carried_kg or 0.0
            counted.append(Counted(record.done_on, record.set_id, bare.max_kg, bare.trust, firm, carried))
    value = current_value(counted, today, rules)
    if value is None:
        return None
    days = {one.done_on for one in counted}
    facts: dict[str, Fact] = {"sets": len(counted), "days": len(days), "low_kg": value.low_kg, "high_kg": value.high_kg}
    if value.stale:
        facts["newest_on"] = value.newest_on.isoformat()
    best = max(counted, key=lambda one: (one.firm, one.trust, one.done_on, one.max_kg))
    shown = next(record for record in records if record.set_id == best.set_id)
    return CurrentEstimate(value, Working((logged_step(shown), Step("current_estimate", facts, value.max_kg, "kg"))))


def planning_max(current: CurrentEstimate, *, newcomer: bool, rules: Rules, growing: bool = False) -> PlanningMax:
    """Current estimate × caution share: newcomers, and who grows fast, plan lower; the graver caution counts.

    How unsure the estimate is shows in the chance of every set.
    """
    cautions = [(1.0, "fresh")]
    cautions += [(rules.caution_newcomer, "newcomer")] if newcomer else []
    cautions += [(rules.caution_growing, "growing")] if growing else []
    share, caution = min(reversed(cautions), key=lambda one: one[0])
    max_kg = current.max_kg * share
    step = Step("planning_max", {"share": share, "caution": caution}, max_kg, "kg")
    return PlanningMax(max_kg, share, current.working.then(step))
