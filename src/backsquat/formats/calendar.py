"""Calendars as iCalendar (RFC 5545): written with whole days, since nobody says here at what hour they begin; and read."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from icalendar import Calendar, Event

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.version import PRODUCT


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
    calendar.add("prodid", f"-//{PRODUCT}//EN")
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


def days_in(text: str) -> list[list[str]]:
    """The events of a calendar as a table: day, what it is, of what kind, where. ImpossibleInput where it is none.

    What is repeated stands once, on its first day: lists of matches name each.
    """
    try:
        calendar = Calendar.from_ical(text)
    except (ValueError, IndexError, KeyError) as error:
        raise ImpossibleInput(Problem("file", "file_kind")) from error
    rows = [["date", "opponent", "competition", "where"]]
    for event in calendar.walk("VEVENT"):
        begins = getattr(event.get("dtstart"), "dt", None)
        if begins is None or str(event.get("status", "")).upper() == "CANCELLED":
            continue
        day = begins.date() if isinstance(begins, dt.datetime) else begins
        kinds = event.get("categories")
        kind = kinds.to_ical().decode("utf-8", "replace") if hasattr(kinds, "to_ical") else ""
        rows.append([day.isoformat(), str(event.get("summary", "")), kind, str(event.get("location", ""))])
    return rows
