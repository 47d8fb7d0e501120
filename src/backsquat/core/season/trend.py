"""The robust trend of an estimate over weeks: Theil–Sen with Sen's interval.

Slope = median of the slopes of all pairs of points; line through the median residual
(Theil 1950, Sen 1968). The interval of the slope follows Sen: the pair slopes of rank
(N ± z·√Var S) ÷ 2 with Var S = n(n−1)(2n+5) ÷ 18. A bad week or a lucky one moves neither much.
"""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import sqrt
from statistics import NormalDist, median

from backsquat.core.numbers import sure


@dataclass(frozen=True)
class Point:
    """A value on a day."""

    on: dt.date
    value: float


@dataclass(frozen=True)
class Trend:
    """A line in value per day, with the low and high slope of its interval; `at` reads it."""

    origin: dt.date
    level: float  # value at origin
    slope: float
    slope_low: float
    slope_high: float
    last: Point
    scatter: float = 0.0  # of the points about the line: 1.4826 × the median distance, a standard deviation of most

    def at(self, day: dt.date) -> float:
        """The line's value on a day."""
        return self.level + self.slope * (day - self.origin).days

    def reaches(self, target: float, slope: float) -> dt.date | None:
        """The day a line of `slope` from the trend's value at the last point meets `target`, if ever."""
        now = self.at(self.last.on)
        if now >= target:
            return self.last.on
        if slope <= 0:
            return None
        days = (target - now) / slope
        return self.last.on + dt.timedelta(days=round(days)) if days < 3650 else None


def theil_sen(points: Sequence[Point], interval: float) -> Trend | None:
    """The trend of two or more points on different days; None otherwise."""
    for point in points:
        sure("value", point.value)
    slopes = sorted(
        (b.value - a.value) / (b.on - a.on).days
        for a, b in combinations(sorted(points, key=lambda point: point.on), 2)
        if a.on != b.on
    )
    if not slopes:
        return None
    origin = min(point.on for point in points)
    slope = median(slopes)
    level = median(point.value - slope * (point.on - origin).days for point in points)
    sure("interval", interval, 0.01, 0.99)
    n, pairs = len(points), len(slopes)
    reach = NormalDist().inv_cdf(0.5 + interval / 2) * sqrt(n * (n - 1) * (2 * n + 5) / 18)
    low = slopes[max(0, round((pairs - reach) / 2) - 1)]
    high = slopes[min(pairs - 1, round((pairs + reach) / 2))]
    scatter = 1.4826 * median(abs(point.value - level - slope * (point.on - origin).days) for point in points)
    return Trend(origin, level, slope, low, high, max(points, key=lambda point: point.on), scatter)
