"""Coming back after time away (rules 2.9): counted in days without training.

Under `absence_short_days` the missed exposure is simply repeated. Then loads start lower, the sets
of the first weeks are cut (CSCCa and NSCA 2019: about half, then −30, then −20 %), and after a long
absence the athlete goes one level or stage back. Longer still: screened again, and the longer away, the lower the start
and the longer the way back. After illness or injury somebody qualified has to say yes first.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.numbers import sure
from backsquat.core.rules import Rules
from backsquat.core.working import Fact, Step, Working


class AwayReason(StrEnum):
    """Why somebody is away: what it was decides who has to say yes to the return."""

    AWAY = "away"
    ILLNESS = "illness"
    INJURY = "injury"
    PAIN = "pain stop"


NEEDS_CLEARANCE = frozenset(AwayReason) - {AwayReason.AWAY}


@dataclass(frozen=True)
class EasedWeek:
    """One week back: load and sets as shares of the plan's."""

    load_share: float
    sets_share: float


@dataclass(frozen=True)
class ReEntry:
    """`weeks` from the day back on; `stage_back` one level or stage lower; `screen` before any load."""

    weeks: tuple[EasedWeek, ...]
    stage_back: bool
    screen: bool
    needs_clearance: bool
    working: Working


def start_share(days_away: int, rules: Rules) -> float:
    """What is left of a load or a maximum after so many days without training, as a share: what a return starts with.

    About three weeks cost little, after that it goes by the week (Bosquet et al. 2013; the sizes are usual practice).
    """
    if days_away < rules.absence_short_days:
        return 1.0
    if days_away < rules.absence_long_days:
        return rules.absence_short_load
    further = max(days_away - rules.absence_screen_days, 0)
    return max(rules.absence_long_load - rules.absence_fall_week * further / 7, rules.absence_least_load)


def re_entry(days_away: int, missed: int, why: AwayReason, rules: Rules) -> ReEntry:
    """What the rule proposes after `days_away` days and `missed` planned sessions not done."""
    sure("days_away", days_away, 0)
    sure("missed", missed, 0)
    clearance = why != AwayReason.AWAY  # whatever else it was, by whatever name: somebody qualified says yes first
    facts: dict[str, Fact] = {"days": days_away, "missed": missed}
    volumes = (rules.return_volume_1, rules.return_volume_2, rules.return_volume_3)
    load = start_share(days_away, rules)
    if days_away < rules.absence_short_days:
        step = Step("away_short", facts | {"line": rules.absence_short_days})
        return ReEntry((), False, False, clearance, Working((step,)))
    if days_away < rules.absence_long_days:
        count = 1
    else:
        count = 3 + math.ceil(max(days_away - rules.absence_screen_days, 0) / rules.absence_more_days)
    screen = days_away >= rules.absence_screen_days
    stage_back = days_away >= rules.absence_long_days
    weeks = tuple(
        EasedWeek(load + (1 - load) * n / count, volumes[n] if n < len(volumes) else 1.0) for n in range(count)
    )  # the load comes back evenly
    steps = [
        Step("away", facts, days_away, "days"),
        Step("return_load", {"share": load}, 100 * load, "%"),
        Step("return_sets", {f"week_{n}": 100 * week.sets_share for n, week in enumerate(weeks, 1)}, count, "weeks"),
    ]
    if stage_back:
        steps.append(Step("level_back", {"line": rules.absence_long_days}))
    if screen:
        steps.append(Step("screen_first", {"line": rules.absence_screen_days}))
    return ReEntry(weeks, stage_back, screen, clearance, Working(tuple(steps)))
