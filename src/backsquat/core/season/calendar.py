"""Weeks of a season: each is known by its Monday."""

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

WEEK = dt.timedelta(days=7)


@lru_cache(maxsize=4096)  # asked of every set and session of a season
def monday_of(day: dt.date) -> dt.date:
    """The Monday of a day's week."""
    return day - dt.timedelta(days=day.weekday())


def next_monday(day: dt.date) -> dt.date:
    """The first Monday from a day on, the day itself where it is one."""
    return monday_of(day + WEEK - dt.timedelta(days=1))


def last_day(first_on: dt.date, weeks: int) -> dt.date:
    """The Sunday that ends so many weeks, the first of them the week of a day."""
    return monday_of(first_on) + weeks * WEEK - dt.timedelta(days=1)


@dataclass(frozen=True)
class DaySpan:
    """Some weeks in a row, from a Monday."""

    first_week: dt.date
    weeks: int

    def __iter__(self) -> Iterator[dt.date]:
        return (self.first_week + n * WEEK for n in range(self.weeks))

    def __contains__(self, week: dt.date) -> bool:
        return 0 <= self.index(week) < self.weeks

    def index(self, day: dt.date) -> int:
        """Which week, from 0, the day falls in; outside the span below 0 or from `weeks` on."""
        return (monday_of(day) - self.first_week).days // 7

    @property
    def last_week(self) -> dt.date:
        """The Monday of the last week."""
        return self.first_week + (self.weeks - 1) * WEEK

    def overlaps(self, other: "DaySpan") -> bool:
        """Whether some week lies in both."""
        return self.first_week <= other.last_week and other.first_week <= self.last_week

    def clamp(self, week: dt.date) -> dt.date:
        """The week of a day, kept inside the span: its Monday."""
        return min(max(monday_of(week), self.first_week), self.last_week)
