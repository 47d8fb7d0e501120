"""Do milestones keep their word? On made-up athletes: how often a target is reached within the days that were said.

At several weeks of a long story targets a little and far above the trend are judged as the application judges them, and
the story is read on. A story that ends before the range does speaks neither for it nor against it, unless the target was
reached too early.
"""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from backsquat.core.progression.simulate import FIRST_DAY, SimulatedWeek
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import monday_of
from backsquat.core.season.milestone import range_of
from backsquat.core.season.trend import Point, theil_sen
from backsquat.core.strength.belief import Belief, believe
from backsquat.core.strength.current import believed_value, is_firm
from backsquat.core.strength.estimate import bare_estimate

STORY_WEEKS = 44
ASKED_IN = (8, 12, 18, 24)  # weeks of the story
TARGETS = (1.02, 1.04, 1.07, 1.11)  # of the trend's value then


@dataclass(frozen=True)
class Week:
    """The best firm estimate of a week, and what is believed at its end."""

    on: dt.date
    best_kg: float
    believed_kg: float


@dataclass(frozen=True)
class TrialOutcome:
    """A target that was judged: what came of it. `asked_in`: the week of the story; `share`: target over trend."""

    asked_in: int
    share: float
    inside: bool
    early: bool  # reached before the range began
    settled: bool = True  # reached, or its range over: the story went on long enough to tell


def weeks_of(story: Sequence[SimulatedWeek], rules: Rules) -> list[Week]:
    """The weeks of a story that say something."""
    found, belief = list[Week](), None
    for n, week in enumerate(story):
        day, best = FIRST_DAY + dt.timedelta(weeks=n, days=1), 0.0
        for record in week.sets:
            belief = believe(belief, record, rules)[0] or belief
            estimate = bare_estimate(record, rules)
            best = max(best, (estimate.max_kg or 0.0) if is_firm(record, estimate) else 0.0)
        if best and isinstance(belief, Belief):
            found.append(Week(monday_of(day), best, believed_value(belief, 0.0, day, rules).max_kg))
    return found


def outcomes(
    weeks: Sequence[Week], rules: Rules, first: dt.date = FIRST_DAY, length: int = STORY_WEEKS
) -> Iterable[TrialOutcome]:
    """Every target that could be judged in a story of so many weeks from its first day."""
    end = first + dt.timedelta(weeks=length)
    for asked_in in (n for n in ASKED_IN if n < length):
        now = first + dt.timedelta(weeks=asked_in)
        points = [Point(week.on, week.best_kg) for week in weeks if week.on < now]
        trend = theil_sen(points, rules.trend_interval) if len(points) >= rules.trend_points else None
        if trend is None:
            continue
        for share in TARGETS:
            target = share * trend.at(trend.last.on)
            if max(point.value for point in points) >= target:
                continue
            early, late = range_of(trend, target, rules)
            hit = next((week.on for week in weeks if week.on >= now and _reaches(week, target, rules)), None)
            too_early = hit is not None and (early is None or hit + dt.timedelta(days=6) < early)
            too_late = late is not None and (late < end if hit is None else hit > late)
            settled = hit is not None or (late is not None and late < end)
            yield TrialOutcome(asked_in, share, not too_early and not too_late, too_early, settled)


def _reaches(week: Week, target: float, rules: Rules) -> bool:
    return week.best_kg >= target and week.believed_kg >= rules.milestone_near * target


def table(found: Sequence[TrialOutcome]) -> str:
    """How often the range held: over all, by how far the target was, by how long the record."""
    rows = [_row("all", found)]
    for share in TARGETS:
        rows.append(_row(f"target {100 * (share - 1):.0f} % above the trend", [o for o in found if o.share == share]))
    for week in ASKED_IN:
        rows.append(_row(f"asked in week {week}", [o for o in found if o.asked_in == week]))
    return "\n".join(rows)


def row_of_demo(found: Sequence[TrialOutcome]) -> str:
    """One row more, for the demo club's own past; its season is short, so only what is settled is counted."""
    settled = [one for one in found if one.settled]
    name = f"the demo club's own past, settled (of {len(found)} asked)"
    return _row(name, settled) if settled else f"| {name} | | | | 0 |"


def _row(name: str, found: Sequence[TrialOutcome]) -> str:
    inside, early = (100 * sum(getattr(one, what) for one in found) / len(found) for what in ("inside", "early"))
    return f"| {name} | {inside:.0f} % | {early:.0f} % | {100 - inside - early:.0f} % | {len(found):,} |"
