"""What a device takes along for when it has no line: the sessions about to come, and what was told last time."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.season.calendar import WEEK, monday_of
from backsquat.core.strength.set_notes import SetNotes, set_notes_from
from backsquat.storage.models import SetEntry
from backsquat.work.floor.sessions import FloorSession, sessions_in_week
from backsquat.work.log.sets import LOOK_BACK_DAYS

DAYS_AHEAD = 6


def sessions_ahead(db: Session, squad_id: int, today: dt.date) -> list[FloorSession]:
    """Today's sessions and those of the days to come, as they were published."""
    monday, last = monday_of(today), today + dt.timedelta(days=DAYS_AHEAD)
    weeks = [monday] if last < monday + WEEK else [monday, monday + WEEK]
    found = [one for week in weeks for one in sessions_in_week(db, squad_id, week)]
    return [one for one in found if today <= one.day <= last]


@dataclass(frozen=True)
class LastTime:
    """What is remembered of a movement from the sessions before: its load, and what was told of it."""

    load_amount: Decimal
    reps: int
    felt: str = ""
    note: str = ""
    fault: str = ""  # the newest that was seen
    clean: bool = True  # no fault in the set done last
    notes: SetNotes = field(default_factory=SetNotes)  # of the newest set of which anything was told


def last_times(
    db: Session, athlete_ids: Iterable[int], before: dt.date, movement: str = ""
) -> dict[tuple[int, str], LastTime]:
    """By athlete and movement (or of one movement alone), read for all of them at once."""
    asked = (
        select(
            SetEntry.athlete_id, SetEntry.movement, SetEntry.load_amount, SetEntry.reps, SetEntry.notes, SetEntry.fault
        )
        .where(
            SetEntry.athlete_id.in_(list(athlete_ids)),
            SetEntry.done_on < before,
            SetEntry.done_on >= before - dt.timedelta(days=LOOK_BACK_DAYS),
            SetEntry.standing,
        )
        .order_by(SetEntry.done_on.desc(), SetEntry.id.desc())
    )
    rows = db.execute(asked.where(SetEntry.movement == movement) if movement else asked)
    found: dict[tuple[int, str], list[Sequence[object]]] = defaultdict(list)
    for athlete_id, code, *rest in rows:
        found[athlete_id, code].append(rest)
    return {key: _newest(sets) for key, sets in found.items()}


def _newest(sets: Sequence[Sequence[object]]) -> LastTime:
    load, reps = sets[0][0], sets[0][1]
    notes = [set_notes_from(one[2]) for one in sets if one[2]]  # type: ignore[arg-type]
    return LastTime(
        Decimal(str(load)),
        int(str(reps)),
        felt=next((one.felt for one in notes if one.felt), ""),
        note=next((one.note for one in notes if one.note), ""),
        fault=next((str(one[3]) for one in sets if one[3]), ""),
        clean=not sets[0][3],
        notes=next((one for one in notes if one.band), SetNotes()),
    )
