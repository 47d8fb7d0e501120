"""The current estimate and the planning max made from it (rules 2.2).

Method. Each day's counted sets give one value, their trust-weighted mean. The current estimate
is the mean of the days in the window (28 days), each weighted by its sets' trust and by age
(half after 14 days): one lucky set moves it little, an old one less. Sets whose reserve was
capped, easy weeks foremost, only say "at least" and are left out while anything better is there.
With nothing in the window the same is done at the newest record, and the estimate is stale:
not lower, but planned from with more caution.
"""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

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


def current_estimate(records: Sequence[SetRecord], today: dt.date, rules: Rules) -> CurrentEstimate | None:
    """The estimate on `today` from all records up to it, or None where no set says anything."""
    counted = [(record, estimate_set(record, rules)) for record in records if record.done_on <= today]
    counted = [(record, estimate) for record, estimate in counted if estimate.max_kg is not None]
    if not counted:
        return None
    newest = max(record.done_on for record, _ in counted)
    window = dt.timedelta(days=rules.estimate_window_days)
    stale = today - newest >= window
    reference = newest if stale else today
    recent = [pair for pair in counted if reference - pair[0].done_on < window]
    better = [pair for pair in recent if not pair[1].at_least and pair[0].effort is not Effort.EASY]
    return _weigh(better or recent, reference, stale, rules)


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
