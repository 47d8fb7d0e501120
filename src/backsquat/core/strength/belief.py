"""What is believed about one athlete's maximum in one lift, and how surely: a filter over every set (rules 2.2).

Method. An extended Kalman filter (Kalman 1960; Jazwinski 1970) in the logarithm of the moved mass. It carries four
numbers from set to set with how sure each is: the maximum; how good today is (shared by the sets of a day, so that
four sets of one evening are not four evenings); the athlete's own curve (what a rep costs in load, 1 as in the squad's
formula); and the own bias of the reported reserve (reps said to be left that are not). Curve and bias start from a
population and are learnt slowly (partial update, Brink 2017). What a set says is wide where many reps were left,
narrow near failure. Days widen the belief. A set that only says "at least" (more left than counts, nobody said, reps
short of depth, a deload week) is a censored observation: it raises a maximum that lies under it and teaches nothing
else (Tobit Kalman filter, Allik et al. 2016); one that the belief has already says nothing, so that equal sessions lift
nobody. What was asked, made and not rated says weakly, both ways, that about so many were left as were asked. A surprise
upwards is clipped at two spreads (Huber 1964): it moves the belief as far as that and no further, never less for
being larger; what falls short counts whole, for that is who must not be under a bar. More than was expected never
lowers the maximum, whatever curve would explain it too, and it is never below what was moved to depth in the window.
"""

import datetime as dt
import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from statistics import NormalDist
from typing import Any

from backsquat.core.movements.movement import Family
from backsquat.core.numbers import sure
from backsquat.core.rules import Rules
from backsquat.core.strength.estimate import why_not_counted
from backsquat.core.strength.formulas import FORMULAS, MOST_REPS, own_formula, reps_for
from backsquat.core.strength.record import Effort, SetRecord

NORMAL = NormalDist()
FIRST_SPREAD = 0.25  # of the maximum, before anything is known
FIRST_AT_LEAST = 0.10  # the same where the first set of all says only "at least"
SLOWLY = 0.2  # of the filter's own gain for curve and bias: hardly seen in sets alike, they would follow every luck
GAIN_WEEKS = 1.0  # as long after a day with sets somebody who trains may be taken to have gained
OFF = 2.0  # spreads at which a surprise upwards is clipped
LEAST_NOISE = 0.008  # even a true single is off by what a bar and a belt make of it
EXPECTED_MOST = 25.0  # reps: lighter sets say nothing that a formula could read
CURVES = (0.6, 1.6)  # of an own curve: outside no lifter was seen
BIAS_MOST = 4.0
CURVE_DRIFT, BIAS_DRIFT = 0.01, 0.05  # of a week, one spread: traits change slowly
WIDTHS = 1.2816  # spreads either way that hold four in five
MAX, TODAY, CURVE, BIAS = range(4)
Four = tuple[float, float, float, float]
Matrix = tuple[Four, Four, Four, Four]


@dataclass(frozen=True)
class Belief:
    """The maximum of the moved mass as ln kg (`mean[MAX]`), with the other three, on `day`, and their covariance.

    `newest_on` is the last day whose sets said something firm, `bound` the most that was shown "at least" that day.
    """

    day: dt.date
    newest_on: dt.date
    mean: Four
    spread: Matrix
    sets: int = 0  # of this day, in order: later ones are lifted tired
    bound: float = -math.inf
    firm: bool = False  # whether any set so far was more than "at least"
    moved: float = -math.inf  # ln of the most that was moved to depth, on `moved_on`: the maximum is not below it
    moved_on: dt.date = dt.date.min

    @property
    def sd(self) -> float:
        """How sure the maximum is: one spread, as a share of it."""
        return math.sqrt(self.spread[MAX][MAX])

    @property
    def curve(self) -> float:
        """The own curve: what a rep costs in load against the formula; under 1 more reps at a share of the maximum."""
        return self.mean[CURVE]

    def max_kg(self, carried_kg: float) -> float:
        """The maximum in kg as the load is written, without what is carried of the body."""
        return math.exp(self.mean[MAX]) - carried_kg

    def to_plain(self) -> dict[str, Any]:
        """Plain data for keeping; `from_plain` reads it back."""
        return {
            "day": self.day.isoformat(),
            "newest_on": self.newest_on.isoformat(),
            "mean": list(self.mean),
            "spread": [list(row) for row in self.spread],
            "sets": self.sets,
            "bound": self.bound if math.isfinite(self.bound) else None,
            "firm": self.firm,
            "moved": self.moved if math.isfinite(self.moved) else None,
            "moved_on": self.moved_on.isoformat(),
        }

    @classmethod
    def from_plain(cls, kept: dict[str, Any]) -> "Belief":
        """The belief kept as plain data."""
        first, second, third, fourth = (tuple(row) for row in kept["spread"])
        return cls(
            dt.date.fromisoformat(kept["day"]),
            dt.date.fromisoformat(kept["newest_on"]),
            tuple(kept["mean"]),
            (first, second, third, fourth),
            kept["sets"],
            -math.inf if kept["bound"] is None else kept["bound"],
            kept["firm"],
            -math.inf if kept.get("moved") is None else kept["moved"],  # beliefs of before had none
            dt.date.fromisoformat(kept.get("moved_on", dt.date.min.isoformat())),
        )


def on_day(belief: Belief, day: dt.date, rules: Rules) -> Belief:
    """The belief as of a later day: a usual week's gain at most, less sure; today's form begins again."""
    days = (day - belief.day).days
    if days <= 0:
        return belief
    weeks = days / 7
    (xx, _, xc, xb), _, (_, _, cc, cb), (_, _, _, bb) = belief.spread
    xx += rules.max_drift_week**2 * weeks
    cc += CURVE_DRIFT**2 * weeks
    bb += BIAS_DRIFT**2 * weeks
    spread = ((xx, 0.0, xc, xb), (0.0, rules.day_spread**2, 0.0, 0.0), (xc, 0.0, cc, cb), (xb, 0.0, cb, bb))
    gained = (
        math.log1p(rules.gain_trained * min(weeks, GAIN_WEEKS)) if (belief.day - belief.newest_on).days < 7 else 0.0
    )
    mean = (belief.mean[MAX] + gained, 0.0, belief.mean[CURVE], belief.mean[BIAS])
    later = replace(belief, day=day, mean=mean, spread=spread, sets=0, bound=-math.inf)
    old = (day - belief.moved_on).days >= rules.estimate_window_days
    return replace(later, moved=-math.inf, moved_on=dt.date.min) if old else later


@dataclass(frozen=True)
class SaidReserve:
    """What one set says: so many reps to failure at a moved mass, so surely; `at_least`: this many or more."""

    moved_kg: float
    reps: float  # done and left
    left: float  # of these
    at_least: bool
    unsaid: bool = False  # made as asked, and nobody said what was left: `left` is what was asked

    def noise_reps(self, rules: Rules) -> float:
        """How far the reps may be off: the guess of what is left grows worse the more is left."""
        told = rules.reserve_error_reps + rules.reserve_error_grows * self.left
        return max(told, rules.unsaid_error_reps) if self.unsaid else told


def said_by(record: SetRecord, rules: Rules) -> SaidReserve | None:
    """What a set says about the maximum; None where it says nothing."""
    if why_not_counted(record, rules) or record.reps_to_depth > rules.belief_reps:
        return None
    carried = record.carried_kg or 0.0
    sure("load_kg", record.load_kg + carried)
    sure("reserve_reps", record.reserve_reps or 0, 0)
    full = record.reps_to_depth == record.reps
    said = record.reserve_reps or 0
    left = min(said, rules.belief_reserve_reps) if full else 0
    moved_kg, deload = record.load_kg + carried, record.effort is Effort.DELOAD
    if record.failed and full and not deload:
        return SaidReserve(moved_kg, float(record.reps), 0.0, at_least=False)
    unsaid = record.reserve_reps is None or record.reserve_at_least
    at_least = unsaid or not full or said > left or deload
    return SaidReserve(moved_kg, float(record.reps_to_depth + left), float(left), at_least)


def made_as_asked(record: SetRecord, said: SaidReserve, rules: Rules) -> SaidReserve | None:
    """What a set says that was made as asked and not rated: about so many left as were asked; None of any other set."""
    asked = record.asked_reserve
    full = record.reps_to_depth == record.reps and record.effort is Effort.WORK
    if record.reserve_reps is not None or asked is None or record.asked_reps is None or record.failed or not full:
        return None
    left = float(min(asked, rules.belief_reserve_reps))
    return SaidReserve(said.moved_kg, record.reps + left, left, at_least=False, unsaid=True)


def believe(belief: Belief | None, record: SetRecord, rules: Rules) -> tuple[Belief | None, float]:
    """The belief after one more set, in the order they were lifted, and the share with which the set moved it."""
    said = said_by(record, rules)
    if said is None:
        return belief, 0.0
    if belief is None:
        return _first(said, record, rules), 1.0
    belief = on_day(belief, record.done_on, rules)
    if not belief.firm:  # until something firm was shown, the most that was shown is what is believed
        begin = _first(said, record, rules)
        if belief.moved > begin.moved:
            begin = _not_below(replace(begin, moved=belief.moved, moved_on=belief.moved_on))
        more = not said.at_least or begin.mean[MAX] > belief.mean[MAX]
        return (begin, 1.0) if more else (belief, 0.0)
    tired = min(belief.sets * rules.tired_a_set, rules.tired_most)
    belief = replace(belief, sets=belief.sets + 1)
    level, slope, noise = _expected(
        belief, said if said.at_least else _clipped(belief, said, tired, rules), tired, rules
    )
    belief = _shown(belief, said, record)
    if weak := made_as_asked(record, said, rules):
        after, share = _measured(belief, *_expected(belief, weak, tired, rules))
        return _not_below(after), share
    if said.at_least:
        if level <= max(belief.bound, belief.mean[MAX] + belief.mean[TODAY]):
            return _not_below(belief), 0.0
        after, share = _censored(replace(belief, bound=level), level, slope, noise)
        return _not_below(after), share
    after, share = _measured(belief, level, slope, noise)
    return _not_below(replace(after, newest_on=record.done_on, firm=True)), share


def _clipped(belief: Belief, said: SaidReserve, tired: float, rules: Rules) -> SaidReserve:
    """A set that surprises by more than OFF spreads, as the lighter one that surprises by just so many.

    What the belief does with the whole of it would depend on how sure a set of that load is, so that a larger surprise
    could move it less. Downwards nothing is clipped: who did far less than was believed is believed at once.
    """

    def over(share: float) -> float:
        level, slope, noise = _expected(belief, replace(said, moved_kg=said.moved_kg * share), tired, rules)
        total = _dot(slope, _times(belief.spread, slope)) + noise * noise
        return (level - belief.mean[MAX] - belief.mean[TODAY]) / math.sqrt(total) - OFF

    if over(1.0) <= 0:
        return said
    low, high = 0.5, 1.0
    while over(low) > 0:
        low /= 2
    for _ in range(20):
        middle = (low + high) / 2
        low, high = (middle, high) if over(middle) <= 0 else (low, middle)
    return replace(said, moved_kg=said.moved_kg * low)


def _shown(belief: Belief, said: SaidReserve, record: SetRecord) -> Belief:
    """With what the set moved to depth, where that is the most of the window."""
    moved = math.log(said.moved_kg)
    return replace(belief, moved=moved, moved_on=record.done_on) if moved >= belief.moved else belief


def _not_below(belief: Belief) -> Belief:
    """Nobody's maximum is below what they have moved, for as long as `on_day` remembers it."""
    if belief.mean[MAX] >= belief.moved:
        return belief
    return replace(belief, mean=(belief.moved, *belief.mean[1:]))


def _first(said: SaidReserve, record: SetRecord, rules: Rules) -> Belief:
    """Before anything else: the population's curve and no bias; the maximum this set implies, widely."""
    curve_spread = rules.curve_spread * (rules.hinge_curve if record.family is Family.HINGE else 1)
    level = math.log(said.moved_kg) + math.log(FORMULAS[rules.formula].factor(said.reps))
    begin = Belief(
        record.done_on,
        record.done_on,
        (level, 0.0, 1.0, 0.0),
        _diagonal(FIRST_SPREAD, rules.day_spread, curve_spread, rules.reserve_bias_spread),
        sets=1,
    )
    begin = _shown(begin, said, record)
    if said.at_least:
        return replace(
            begin, spread=_diagonal(FIRST_AT_LEAST, rules.day_spread, curve_spread, rules.reserve_bias_spread)
        )
    level, slope, noise = _expected(begin, said, 0.0, rules)
    return _not_below(replace(_measured(begin, level, slope, noise)[0], firm=True))


def _expected(belief: Belief, said: SaidReserve, tired: float, rules: Rules) -> tuple[float, Four, float]:
    """ln of the fresh maximum the set implies by the own curve and bias; its slope in the four; its noise.

    What a rep is worth is taken where the belief expects the reps, not where they were said to be: reps carry the
    noise, and a slope taken at noisy reps flattens every curve.
    """
    formula = own_formula(FORMULAS[rules.formula], round(belief.mean[CURVE], 3))
    bias = belief.mean[BIAS] if said.left else 0.0
    shown = min(max(said.reps - bias, 1.0) + tired, MOST_REPS - 1)
    level = belief.mean[MAX] + belief.mean[TODAY]
    expected = reps_for(said.moved_kg, math.exp(level), formula)
    at = min(expected, EXPECTED_MOST) if expected > 1 else shown
    factor, plain = formula.factor(at), FORMULAS[rules.formula].factor(at)
    near = max(at, 2.5)  # under two reps a formula runs straight to the single and is steeper than lifters are
    a_rep = (formula.factor(near + 0.5) - formula.factor(near - 0.5)) / formula.factor(near)
    slope = (1.0, 1.0, -(plain - 1) / factor, a_rep if said.left else 0.0)
    noise = math.hypot(a_rep * said.noise_reps(rules), LEAST_NOISE)
    if expected > 1:
        return math.log(said.moved_kg) + math.log(factor) + a_rep * (shown - at), slope, noise
    return math.log(said.moved_kg) + math.log(factor), slope, noise


def _measured(belief: Belief, level: float, slope: Four, noise: float) -> tuple[Belief, float]:
    off = level - belief.mean[MAX] - belief.mean[TODAY]
    across = _times(belief.spread, slope)
    total = _dot(slope, across) + noise * noise
    slow = SLOWLY / total
    gain = (max(across[MAX], 0.0) / total, across[TODAY] / total, across[CURVE] * slow, across[BIAS] * slow)
    return _moved(belief, across, gain, off, total), min(gain[MAX], 1.0)


def _censored(belief: Belief, level: float, slope: Four, noise: float) -> tuple[Belief, float]:
    """The part of the belief over the level is left, the part under it is not; curve and bias are only reckoned with."""
    over = belief.mean[MAX] + belief.mean[TODAY] - level
    across = _times(belief.spread, slope)
    total = _dot(slope, across) + noise * noise
    spread = math.sqrt(total)
    at = max(over / spread, -OFF)
    if at > OFF:
        return belief, 0.0
    above = NORMAL.pdf(at) / NORMAL.cdf(at)
    told = above * (above + at)  # how much of an observation it is
    gain = (max(across[MAX], 0.0) * told / total, max(across[TODAY], 0.0) * told / total, 0.0, 0.0)
    return _moved(belief, across, gain, spread / (above + at), total / told), min(gain[MAX], 1.0)


def _moved(belief: Belief, across: Four, gain: Four, off: float, total: float) -> Belief:
    """Mean and covariance after an observation with these gains (Joseph's form: right for any gain)."""
    (a, b, c, d), (p, q, r, s), m = gain, across, belief.mean
    curve = min(max(m[CURVE] + c * off, CURVES[0]), CURVES[1])
    bias = min(max(m[BIAS] + d * off, -BIAS_MOST), BIAS_MOST)
    (xx, xt, xc, xb), (_, tt, tc, tb), (_, _, cc, cb), (_, _, _, bb) = belief.spread
    xx += -2 * a * p + a * a * total
    xt += -a * q - b * p + a * b * total
    xc += -a * r - c * p + a * c * total
    xb += -a * s - d * p + a * d * total
    tt += -2 * b * q + b * b * total
    tc += -b * r - c * q + b * c * total
    tb += -b * s - d * q + b * d * total
    cc += -2 * c * r + c * c * total
    cb += -c * s - d * r + c * d * total
    bb += -2 * d * s + d * d * total
    spread = ((xx, xt, xc, xb), (xt, tt, tc, tb), (xc, tc, cc, cb), (xb, tb, cb, bb))
    return replace(belief, mean=(m[MAX] + a * off, m[TODAY] + b * off, curve, bias), spread=spread)


def _dot(one: Four, other: Four) -> float:
    return one[0] * other[0] + one[1] * other[1] + one[2] * other[2] + one[3] * other[3]


def _times(spread: Matrix, slope: Four) -> Four:
    return _dot(spread[0], slope), _dot(spread[1], slope), _dot(spread[2], slope), _dot(spread[3], slope)


def _diagonal(x: float, t: float, c: float, b: float) -> Matrix:
    return ((x * x, 0.0, 0.0, 0.0), (0.0, t * t, 0.0, 0.0), (0.0, 0.0, c * c, 0.0), (0.0, 0.0, 0.0, b * b))


def beliefs_of(
    records: Iterable[SetRecord], rules: Rules, start: Belief | None = None
) -> list[tuple[SetRecord, Belief, float]]:
    """Every set that said something, in order, with the belief after it and the share with which it moved it."""
    belief, found = start, []
    for record in sorted(records, key=lambda record: (record.done_on, record.set_id)):
        after, share = believe(belief, record, rules)
        if after is not None and after is not belief:
            found.append((record, after, share))
        belief = after
    return found
