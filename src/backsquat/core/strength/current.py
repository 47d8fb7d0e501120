"""The current estimate and the planning max made from it (rules 2.2).

Method. Each day's firm sets give one value, their trust-weighted mean. The current estimate is
the mean of the days in the window (28 days), each weighted by its sets' trust and by age (half
after 14 days): one lucky set moves it little, an old one less.

Sets that only say "at least" (the reserve was capped, or it was an easy week) are not firm: they
can raise the estimate, never lower it. Counting them as if they were firm makes a plan run away
downwards: light loads leave many reps, many reps cap the reserve, the estimate falls, the loads
fall. With no firm set in the window the newest firm window stands. With no counted set at all in
the last 28 days the estimate is stale: not lower, but planned from with more caution.
"""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

from backsquat.core.rules import Rules
from backsquat.core.strength.estimate import SetEstimate, Trust, estimate_set, trust_weight
from backsquat.core.strength.record import Effort, SetRecord
from backsquat.core.working import Step, Working, plain


@dataclass(frozen=True)
class CurrentEstimate:
    """`max_kg` as of a day; `newest_on` is the last day with a set behind it."""

    max_kg: float
    trust: Trust
    newest_on: dt.date
    stale: bool
    set_ids: tuple[int, ...]
    working: Working


@dataclass(frozen=True)
class PlanningMax:
    max_kg: float
    share: float
    working: Working


def is_firm(record: SetRecord, estimate: SetEstimate) -> bool:
    """Whether the estimate says "this much" and not only "at least this much"."""
    return estimate.max_kg is not None and not estimate.at_least and record.effort is not Effort.EASY


def current_estimate(records: Sequence[SetRecord], today: dt.date, rules: Rules) -> CurrentEstimate | None:
    """The estimate on `today` from all records up to it, or None where no set says anything."""
    counted = [(record, estimate_set(record, rules)) for record in records if record.done_on <= today]
    counted = [(record, estimate) for record, estimate in counted if estimate.max_kg is not None]
    if not counted:
        return None
    window = dt.timedelta(days=rules.estimate_window_days)
    newest = max(record.done_on for record, _ in counted)
    stale = today - newest >= window
    firm = [pair for pair in counted if is_firm(*pair)]
    base = firm or counted
    last = max(record.done_on for record, _ in base)
    reference = today if today - last < window else last
    current = _weigh([pair for pair in base if reference - pair[0].done_on < window], reference, stale, rules)
    if firm and not stale:
        at_least = [pair for pair in counted if not is_firm(*pair) and today - pair[0].done_on < window]
        current = _raise(current, at_least)
    return current


def _raise(current: CurrentEstimate, at_least: list[tuple[SetRecord, SetEstimate]]) -> CurrentEstimate:
    """Lift the estimate to what a set showed at least."""
    record, estimate = max(at_least, key=lambda pair: pair[1].max_kg or 0, default=(None, None))
    if record is None or estimate is None or (estimate.max_kg or 0) <= current.max_kg:
        return current
    shown = estimate.max_kg or 0.0
    words = (
        f"a set with more left than counts, {record.done_on.day} {record.done_on:%b}, showed at least this"
    )
    step = Step("At least", words, plain(shown), "kg")
    return replace(
        current, max_kg=shown, newest_on=max(current.newest_on, record.done_on),
        set_ids=(*current.set_ids, record.set_id), working=current.working.then(step),
    )  # fmt: skip


def _weigh(
    pairs: list[tuple[SetRecord, SetEstimate]], reference: dt.date, stale: bool, rules: Rules
) -> CurrentEstimate:
    days: dict[dt.date, list[tuple[SetRecord, SetEstimate]]] = defaultdict(list)
    for pair in pairs:
        days[pair[0].done_on].append(pair)
    total = weights = 0.0
    for day, sets in days.items():
        trusts = [trust_weight(estimate.trust, rules) for _, estimate in sets]
        value = sum(w * (estimate.max_kg or 0) for w, (_, estimate) in zip(trusts, sets, strict=True)) / sum(
            trusts
        )
        fade = 0.5 ** ((reference - day).days / rules.estimate_half_life_days)
        weight = fade * sum(trusts) / len(trusts)
        total, weights = total + weight * value, weights + weight
    max_kg = total / weights
    # The set shown first is the one that says most: best trust, then newest, then heaviest.
    shown, best = max(pairs, key=lambda pair: (pair[1].trust, pair[0].done_on, pair[1].max_kg or 0))
    words = (
        f"{len(pairs)} sets on {len(days)} days, weighted by trust and age" if len(pairs) > 1 else "one set"
    )
    if stale:
        words += f"; stale, newest {reference.day} {reference:%b %Y}"
    step = Step("Current estimate", words, plain(max_kg), "kg")
    ids = tuple(
        record.set_id for record, _ in sorted(pairs, key=lambda pair: (pair[0].done_on, pair[0].set_id))
    )
    return CurrentEstimate(
        max_kg, best.trust, max(days), stale, ids, estimate_set(shown, rules).working.then(step)
    )


def planning_max(current: CurrentEstimate, *, newcomer: bool, in_season: bool, rules: Rules) -> PlanningMax:
    """Current estimate × caution share. Where several cautions apply the lowest share holds; they do not multiply."""
    cautions = [
        (share, word)
        for applies, share, word in (
            (newcomer, rules.caution_newcomer, "newcomer"),
            (current.stale, rules.caution_stale, "stale record"),
            (in_season, rules.caution_in_season, "in season"),
        )
        if applies
    ]
    share, word = min(cautions, default=(1.0, "fresh"))
    max_kg = current.max_kg * share
    step = Step("Planning max", f"× {plain(share, 3)}, {word}", plain(max_kg), "kg")
    return PlanningMax(max_kg, share, current.working.then(step))
