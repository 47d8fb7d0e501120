"""Wording of an athlete's page."""

import datetime as dt
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

from backsquat.core.movements.library import Library
from backsquat.core.technique.still import Depth
from backsquat.storage.keeping import OldCopy
from backsquat.storage.models import SetEntry
from backsquat.ui.phrases.days import day_words
from backsquat.ui.phrases.technique import VERDICT
from backsquat.work.plan.history import WeekDone


def erased_words(rows: int, *, swept: bool) -> str:
    """That somebody is erased, and whether the file still holds traces."""
    if swept:
        return f"Erased: {rows} rows, and the data file was written once more without them."
    return f"Erased: {rows} rows. The file could not be written once more: traces stay until something overwrites them."


def copies_words(copies: Sequence[OldCopy]) -> str:
    """Which copies made before still hold the data, and until when."""
    if not copies:
        return "No copy of the data lies beside it. Copies kept elsewhere still hold what was erased."
    said = [
        f"{one.name} {f'until {day_words(one.gone_on)}' if one.gone_on else 'until it is deleted'}" for one in copies
    ]
    still = "copy made before still holds it" if len(copies) == 1 else "copies made before still hold it"
    return f"{len(copies)} {still}: {', '.join(said)}. Delete them, or wait; what is kept elsewhere too."


def planned_words(week: WeekDone) -> str:
    """3 × 6 × 82.5"""
    return f"{week.sets} × {week.reps} × {week.load}"


def done_words(week: WeekDone) -> str:
    """18 reps in 3 sets, top 82.5"""
    if not week.done_sets:
        return "nothing logged"
    return f"{week.done_reps} reps in {week.done_sets} sets, top {week.top_kg:g}"


@dataclass(frozen=True)
class LogLine:
    """What was lifted of a movement on a day: its sets as they were done, what was seen of them, the best estimate."""

    done_on: dt.date
    movement: str
    sets: tuple[SetEntry, ...]
    notes: tuple[str, ...]
    best_kg: float | None


def log_lines(
    entries: Sequence[SetEntry],
    library: Library,
    alone: Collection[int],
    with_health: bool,
    in_pictures: Mapping[tuple[dt.date, str], Depth],
) -> list[LogLine]:
    """The log, newest day first, a line a lift and day; pain only for whoever may read of it."""
    found = []
    for (day, movement), group in groupby(entries, key=lambda entry: (entry.done_on, entry.movement)):
        sets = tuple(reversed(list(group)))
        notes = [words for entry in sets for words in _notes(entry, library, alone, with_health)]
        if (day, movement) in in_pictures:
            notes.append(f"depth in a picture: {VERDICT[in_pictures[day, movement]]}")
        best = max((entry.estimate_kg for entry in sets if entry.estimate_kg), default=None)
        found.append(LogLine(day, movement, sets, tuple(dict.fromkeys(notes)), best))
    return found


def _notes(entry: SetEntry, library: Library, alone: Collection[int], with_health: bool) -> list[str]:
    found = ["logged alone"] if entry.by_id in alone else []
    fault = library.fault(entry.movement, entry.fault) if entry.fault else None
    found += [fault.look] if fault else []
    if entry.pain and with_health:
        found.append(f"pain {entry.pain}, {entry.pain_region}, {entry.pain_character}")
    return found
