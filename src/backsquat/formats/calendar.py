"""Calendars written as iCalendar (RFC 5545): whole days, since nobody says here at what hour they begin."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from icalendar import Calendar, Event


@dataclass(frozen=True)
class Entry:
    """A day of a calendar. `key` stays the same when it moves, so that programs move it too."""

    key: str
    day: dt.date
    title: str
    text: str = ""


def as_calendar(name: str, entries: Sequence[Entry], made_at: dt.datetime, place: str) -> bytes:
    """The calendar as a file; `place` tells keys of two installations apart."""
    calendar = Calendar()
    calendar.add("prodid", "-//Back Squat//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    calendar.add("refresh-interval", dt.timedelta(hours=1), parameters={"VALUE": "DURATION"})
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.key}@{place}")
        event.add("dtstamp", made_at.replace(tzinfo=dt.UTC))
        event.add("dtstart", entry.day)
        event.add("dtend", entry.day + dt.timedelta(days=1))
        event.add("summary", entry.title)
        event.add("transp", "TRANSPARENT")
        if entry.text:
            event.add("description", entry.text)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
