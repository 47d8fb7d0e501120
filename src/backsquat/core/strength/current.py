"""The current estimate and the planning max made from it (rules 2.2).

Method. Each day's firm sets give one value, their trust-weighted mean. The current estimate is
the mean of the days in the window (28 days), each weighted by its sets' trust and by age (half
after 14 days): one lucky set moves it little, an old one less.

Sets that only say "at least" (the reserve was capped, not said, or some reps were short of depth;
or it was an easy week) are not firm: they can raise the estimate, never lower it. Counting them as
if they were firm makes a plan run away downwards: light loads leave many reps, many reps cap the
reserve, the estimate falls, the loads fall. With no firm set in the window the newest firm window
stands. With no counted set at all in the last 28 days the estimate is stale: not lower, but planned
from with more caution.
"""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from backsquat.core.rules import Rules
from backsquat.core.strength.estimate import BareEstimate, Trust, bare_estimate, estimate_set
from backsquat.core.strength.record import Effort, SetRecord
from backsquat.core.working import Fact, Step, Working


class Counted(NamedTuple):
    """What one set says, without the set: enough for the current value of many athletes at once."""

    done_on: dt.date
    set_id: int
    max_kg: float
    trust: Trust
    firm: bool


@dataclass(frozen=True)
class CurrentValue:
    """`max_kg` as of a day; `newest_on` is the last day with a set behind it.

    `shown_id` is the set that says most; `raised_by` one that showed at least `max_kg`, if any did.
    """

    max_kg: float
    weighed_kg: float  # before any raise
    trust: Trust
    newest_on: dt.date
    stale: bool
    set_ids: tuple[int, ...]
    days: int
    shown_id: int
    raised_by: int | None = None


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
    def trust(self) -> Trust:
        """How far it can be trusted: as far as its best set."""
        return self.value.trust

    @property
    def newest_on(self) -> dt.date:
        """The day of the newest set behind it."""
        return self.value.newest_on

    @property
    def stale(self) -> bool:
        """Whether no set that counts lies in the window."""
        return self.value.stale

    @property
    def set_ids(self) -> tuple[int, ...]:
        """Ids of the sets behind it."""
        return self.value.set_ids


@dataclass(frozen=True)
class PlanningMax:
    """What plans are made from: the estimate in kg times the share of caution, with its working."""

    max_kg: float
    share: float
    working: Working


def is_firm(record: SetRecord, estimate: BareEstimate) -> bool:
    """Whether the estimate says "this much" and not only "at least this much"."""
    return estimate.max_kg is not None and not estimate.at_least and record.effort is not Effort.EASY


def current_value(counted: Sequence[Counted], today: dt.date, rules: Rules) -> CurrentValue | None:
    """The current value on `today` from all counted sets up to it, or None where there is none."""
    counted = [one for one in counted if one.done_on <= today]
    if not counted:
        return None
    window = dt.timedelta(days=rules.estimate_window_days)
    newest = max(one.done_on for one in counted)
    stale = today - newest >= window
    base = [one for one in counted if one.firm] or counted
    last = max(one.done_on for one in base)
    reference = today if today - last < window else last
    recent = [one for one in base if reference - one.done_on < window]
    weighed, days = _weigh(recent, reference, rules)
    # The set that says most: best trust, then newest, then heaviest.
    shown = max(recent, key=lambda one: (one.trust, one.done_on, one.max_kg))
    max_kg, ids, raised_by = weighed, tuple(sorted(one.set_id for one in recent)), None
    if not stale and base is not counted:
        at_least = [one for one in counted if not one.firm and today - one.done_on < window]
        best = max(at_least, key=lambda one: one.max_kg, default=None)
        if best and best.max_kg > weighed:
            max_kg, ids, raised_by = best.max_kg, (*ids, best.set_id), best.set_id
    newest_used = max(newest if raised_by else last, last)
    return CurrentValue(max_kg, weighed, shown.trust, newest_used, stale, ids, days, shown.set_id, raised_by)


def _weigh(recent: Sequence[Counted], reference: dt.date, rules: Rules) -> tuple[float, int]:
    """The mean of the days, each weighted by its sets' trust and its age; and how many days."""
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
    return total / total_weight, len(days)


def current_estimate(records: Sequence[SetRecord], today: dt.date, rules: Rules) -> CurrentEstimate | None:
    """The estimate on `today` from all records up to it, or None where no set says anything."""
    by_id = {record.set_id: record for record in records}
    counted = []
    for record in records:
        bare = bare_estimate(record, rules)
        if bare.max_kg is not None:
            firm = is_firm(record, bare)
            counted.append(Counted(record.done_on, record.set_id, bare.max_kg, bare.trust, firm))
    value = current_value(counted, today, rules)
    return CurrentEstimate(value, _explain(value, by_id, rules)) if value else None


def _explain(value: CurrentValue, records: dict[int, SetRecord], rules: Rules) -> Working:
    sets = len(value.set_ids) - (value.raised_by is not None)
    facts: dict[str, Fact] = {"sets": sets, "days": value.days}
    if value.stale:
        facts["newest_on"] = value.newest_on.isoformat()
    steps = [Step("current_estimate", facts, value.weighed_kg, "kg")]
    if value.raised_by is not None:
        shown_on = records[value.raised_by].done_on.isoformat()
        steps.append(Step("at_least", {"done_on": shown_on}, value.max_kg, "kg"))
    return estimate_set(records[value.shown_id], rules).working.then(*steps)


def planning_max(current: CurrentEstimate, *, newcomer: bool, in_season: bool, rules: Rules) -> PlanningMax:
    """Current estimate × caution share. Where several cautions apply the lowest share holds; they do not multiply."""
    cautions = [
        (share, caution)
        for applies, share, caution in (
            (newcomer, rules.caution_newcomer, "newcomer"),
            (current.stale, rules.caution_stale, "stale"),
            (in_season, rules.caution_in_season, "in_season"),
        )
        if applies
    ]
    share, caution = min(cautions, default=(1.0, "fresh"))
    max_kg = current.max_kg * share
    step = Step("planning_max", {"share": share, "caution": caution}, max_kg, "kg")
    return PlanningMax(max_kg, share, current.working.then(step))
