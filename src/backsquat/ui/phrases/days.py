"""Days and dates as a coach writes them."""

import datetime as dt

WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


SHORT_DAYS = tuple(day[:3] for day in WEEKDAYS)


def day_words(day: dt.date | str) -> str:
    """23 Nov"""
    day = dt.date.fromisoformat(day) if isinstance(day, str) else day
    return f"{day.day} {day:%b}"


def moment_words(at: dt.datetime) -> str:
    """23 Nov 18:04"""
    return f"{at.day} {at:%b} {at:%H:%M}"


def daydate_words(day: dt.date) -> str:
    """Mon 23 Nov"""
    return f"{day:%a} {day.day} {day:%b}"


def long_day_words(day: dt.date | str) -> str:
    """Monday 23 November"""
    day = dt.date.fromisoformat(day) if isinstance(day, str) else day
    return f"{day:%A} {day.day} {day:%B}"
