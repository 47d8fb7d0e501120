"""Is a young athlete growing fast just now? From measured heights, by the growth of a month.

Months of fast growth go with more injuries: in a season of young footballers those who grew 0.6 cm a month or more were
hurt more often (Kemper et al. 2015). It says what was measured, and neither maturity nor what will come. Heights are
read to about half a centimetre, so a short stretch says little and is not read.
"""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from backsquat.core.numbers import sure
from backsquat.core.rules import Rules
from backsquat.core.season.trend import Point

MONTH_DAYS = 30.44


@dataclass(frozen=True)
class Growth:
    """How fast somebody grew between two measurements; `fast`: beyond the line and beyond what a measurement is off."""

    from_on: dt.date
    to_on: dt.date
    cm: float
    cm_a_month: float
    fast: bool


def growth(heights: Sequence[Point], today: dt.date, rules: Rules) -> Growth | None:
    """The growth up to the newest height, over the shortest stretch long enough to be read; None where there is none.

    None too where the newest height is older than `growth_old_days`: it says nothing of today.
    """
    for point in heights:
        sure("height", point.value, 0, 300)
    known = sorted((point for point in heights if point.on <= today), key=lambda point: point.on)
    if not known or (today - known[-1].on).days > rules.growth_old_days:
        return None
    newest = known[-1]
    before = [point for point in known if (newest.on - point.on).days >= rules.growth_apart_days]
    if not before:
        return None
    cm, days = newest.value - before[-1].value, (newest.on - before[-1].on).days
    rate = cm / days * MONTH_DAYS
    fast = rate >= rules.growth_fast_cm and cm > rules.growth_error_cm
    return Growth(before[-1].on, newest.on, cm, rate, fast)
