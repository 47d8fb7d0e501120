"""Red flags: signs that ask for a deload week before the calendar does (rules 2.3).

Four signs: misses in a week, low check-ins, a lower back that grows sorer, an estimate that fell.
One alone is watched; two together ask for a deload week. Advice: the coach decides.
"""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from backsquat.core.errors import Problem
from backsquat.core.findings import Finding, Severity
from backsquat.core.rules import Rules

SCALES = {"sleep": (1, 5), "soreness": (1, 5), "stress": (1, 5), "back": (0, 10)}  # lowest, highest answer


@dataclass(frozen=True)
class CheckInValues:
    """How somebody came to a session: sleep 1 badly to 5 very well; soreness and stress 1 none to 5 much; back 0–10."""

    done_on: dt.date
    sleep: int
    soreness: int
    stress: int
    back: int = 0

    @property
    def score(self) -> float:
        """1 at worst, 5 at best: the mean of sleep and of soreness and stress turned round."""
        return (self.sleep + (6 - self.soreness) + (6 - self.stress)) / 3


def check_in_problems(check_in: CheckInValues) -> list[Problem]:
    """Answers outside their scales, each with its field."""
    return [
        Problem(name, "out_of_range", {"low": low, "high": high})
        for name, (low, high) in SCALES.items()
        if not low <= getattr(check_in, name) <= high
    ]


@dataclass(frozen=True)
class Drop:
    """A main lift's estimate now and as it stood some days before, both from fresh sets."""

    movement: str
    before_kg: float
    now_kg: float


@dataclass(frozen=True)
class Signs:
    """What is known of one athlete: missed exposures of the last week, check-ins oldest first, estimates that moved."""

    missed: int = 0
    check_ins: Sequence[CheckInValues] = ()
    drops: Sequence[Drop] = ()


def red_flags(signs: Signs, today: dt.date, rules: Rules) -> tuple[Finding, ...]:
    """The flags that stand on a day, each with what it was seen by."""
    found = []

    def flag(code: str, **facts: str | float | int) -> None:
        found.append(Finding(code, Severity.WATCH, facts))

    if signs.missed >= rules.flag_misses:
        flag("flag_misses", missed=signs.missed)
    first = today - dt.timedelta(days=rules.flag_days)
    recent = [one for one in signs.check_ins if first < one.done_on <= today]
    low = [one for one in recent if one.score <= rules.flag_low_score + 1e-9]
    if len(low) >= rules.flag_low_times:
        flag("flag_low", times=len(low), of=len(recent), days=rules.flag_days)
    backs = [one.back for one in recent[-3:]]
    rising = len(backs) == 3 and backs[0] <= backs[1] <= backs[2]
    if rising and backs[2] - backs[0] >= rules.flag_back_rise:
        flag("flag_back", words=", ".join(map(str, backs)))
    for drop in signs.drops:
        share = 1 - drop.now_kg / drop.before_kg if drop.before_kg > 0 else 0.0
        if share >= rules.flag_estimate_drop - 1e-9:
            flag(
                "flag_estimate",
                movement=drop.movement,
                percent=round(100 * share, 1),
                before_kg=drop.before_kg,
                now_kg=drop.now_kg,
            )
            break  # one flag, however many lifts
    return tuple(found)


def asks_for_deload_week(flags: Sequence[Finding], rules: Rules) -> bool:
    """Enough signs together; the same sign twice counts once."""
    return len({flag.code for flag in flags}) >= rules.flags_needed
