"""Reading logged sets: those that stand, by athlete, movement or cell."""

import datetime as dt
from collections.abc import Sequence

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.core.readiness.verdict import LevelHeld
from backsquat.core.strength.record import SetRecord
from backsquat.storage.cache import cached_each
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import Athlete, Cell, PainReport, SetEntry


def recorded_lifts(db: Session, athlete_id: int) -> list[str]:
    """Movements of which the athlete has a set that counts, those done last first."""
    rows = db.execute(
        select(SetEntry.movement, func.max(SetEntry.done_on))
        .where(SetEntry.athlete_id == athlete_id, SetEntry.standing, SetEntry.estimate_kg.is_not(None))
        .group_by(SetEntry.movement)
        .order_by(func.max(SetEntry.done_on).desc())
    )
    return [movement for movement, _ in rows]


def entries_of(db: Session, athlete_id: int, until: dt.date, most: int) -> list[SetEntry]:
    """The newest standing sets up to a day, newest first."""
    rows = db.scalars(
        select(SetEntry)
        .where(SetEntry.athlete_id == athlete_id, SetEntry.standing, SetEntry.done_on <= until)
        .order_by(SetEntry.done_on.desc(), SetEntry.id.desc())
        .limit(most)
    )
    return list(rows)


# Statements are made once: they are asked with every set, and making one takes longer than running it.
_OF_CELL = (
    select(SetEntry)
    .where(SetEntry.cell_id == bindparam("cell"), SetEntry.standing)
    .order_by(SetEntry.set_number, SetEntry.id)
)
_OF_CLIENTS = select(SetEntry).where(SetEntry.client_id.in_(bindparam("clients", expanding=True)))
_OF_MOVEMENT = (
    SetEntry.athlete_id == bindparam("athlete"),
    SetEntry.movement == bindparam("movement"),
    SetEntry.standing,
)
_DAY_BEFORE = (
    select(SetEntry.done_on)
    .where(*_OF_MOVEMENT, SetEntry.done_on < bindparam("day"))
    .order_by(SetEntry.done_on.desc())
    .limit(1)
)
_PAIN_ON = select(SetEntry.id).where(*_OF_MOVEMENT, SetEntry.done_on == bindparam("day"), SetEntry.pain > 0)
_SAID_ON = select(PainReport.id).where(
    PainReport.athlete_id == bindparam("athlete"),
    PainReport.movement == bindparam("movement"),
    PainReport.done_on == bindparam("day"),
)
_LOGGED_CELLS = (
    select(Cell.exercise_id, Cell.athlete_id, Cell.week)
    .join(SetEntry, SetEntry.cell_id == Cell.id)
    .where(Cell.exercise_id.in_(bindparam("exercises", expanding=True)), SetEntry.standing)
    .distinct()
)


def sets_of(db: Session, cell_id: int) -> list[SetEntry]:
    """The standing sets of a cell in order."""
    return list(db.scalars(_OF_CELL, {"cell": cell_id}))


def level_sets(db: Session, athlete_id: int, movement: str, since: LevelHeld | None) -> list[SetRecord]:
    """Standing sets of a movement since the athlete came onto its level."""
    rows = db.scalars(
        select(SetEntry)
        .where(
            SetEntry.athlete_id == athlete_id,
            SetEntry.movement == movement,
            SetEntry.standing,
            SetEntry.done_on >= (since.at.date() if since else dt.date.min),
        )
        .order_by(SetEntry.done_on, SetEntry.id)
    )
    return [record_from_row(row) for row in rows]


def pain_last_time(db: Session, athlete_id: int, movement: str, day: dt.date) -> bool:
    """Whether the training day before this one, of the same movement, noted pain."""
    asked = {"athlete": athlete_id, "movement": movement, "day": day}
    last = db.execute(_DAY_BEFORE, asked).scalar()
    return last is not None and any(db.execute(q, asked | {"day": last}).first() for q in (_PAIN_ON, _SAID_ON))


LOOK_BACK_DAYS = 60  # what was done or told before that is no "last time" any more: card and device say the same


def last_load(db: Session, athlete_id: int, movement: str, before: dt.date) -> SetEntry | None:
    """The newest standing set of a movement before a day: what a level's work starts from."""
    return db.scalars(
        select(SetEntry)
        .where(SetEntry.athlete_id == athlete_id, SetEntry.movement == movement, SetEntry.standing)
        .where(SetEntry.done_on < before, SetEntry.done_on >= before - dt.timedelta(days=LOOK_BACK_DAYS))
        .order_by(SetEntry.done_on.desc(), SetEntry.id.desc())
        .limit(1)
    ).first()


def set_of(db: Session, athlete_id: int, entry_id: int) -> SetEntry:
    """One logged set of an athlete; NotThere where it is somebody else's."""
    entry = db.get(SetEntry, entry_id)
    if entry is None or entry.athlete_id != athlete_id:
        raise NotThere("set")
    return entry


def entry_of(db: Session, entry_id: int) -> SetEntry:
    """A logged set of a planned cell; NotThere where there is none."""
    entry = db.get(SetEntry, entry_id)
    if entry is None or entry.cell_id is None:
        raise NotThere("set")
    return entry


def standing_set(db: Session, entry_id: int) -> SetEntry | None:
    """A set of a planned cell that was neither corrected nor taken back; None otherwise."""
    entry = db.get(SetEntry, entry_id)
    return entry if entry is not None and entry.standing and entry.cell_id is not None else None


def stored_before(db: Session, client_ids: Sequence[str]) -> dict[str, SetEntry]:
    """The entries these client ids have made already: a set sent twice is stored once."""
    return {entry.client_id: entry for entry in db.scalars(_OF_CLIENTS, {"clients": list(client_ids)})}


_BEST = select(func.max(SetEntry.estimate_kg)).where(*_OF_MOVEMENT, SetEntry.estimate_kg.is_not(None))


def best_on_record(db: Session, athlete_id: int, movement: str) -> float | None:
    """The best estimate of a movement on record, as its load is written."""
    return db.scalar(_BEST, {"athlete": athlete_id, "movement": movement})


def best_of_each(db: Session, athlete_ids: Sequence[int]) -> dict[tuple[int, str], float]:
    """(athlete, movement) → the best estimate on record, for many at once."""
    rows = db.execute(
        select(SetEntry.athlete_id, SetEntry.movement, func.max(SetEntry.estimate_kg))
        .where(SetEntry.athlete_id.in_(athlete_ids), SetEntry.standing, SetEntry.estimate_kg.is_not(None))
        .group_by(SetEntry.athlete_id, SetEntry.movement)
    )
    return {(athlete_id, movement): best or 0.0 for athlete_id, movement, best in rows}


def floor_used(db: Session, squad_id: int) -> bool:
    """Whether any set of the squad was ever logged on the floor."""
    query = select(SetEntry.id).join(Athlete, Athlete.id == SetEntry.athlete_id)
    query = query.where(Athlete.squad_id == squad_id, SetEntry.cell_id.is_not(None))
    return db.scalars(query.limit(1)).first() is not None


def logged_cells(db: Session, exercise_ids: Sequence[int]) -> set[tuple[int, int, int]]:
    """(exercise, athlete, week) of every cell with a standing set: nothing there may change any more."""
    rows = db.execute(_LOGGED_CELLS, {"exercises": list(exercise_ids)})
    return {(exercise_id, athlete_id, week) for exercise_id, athlete_id, week in rows}


_LAST_DAY = (  # one step from the end of each athlete's stretch of the index, however long the history
    select(SetEntry.done_on)
    .where(SetEntry.athlete_id == Athlete.id, SetEntry.done_on <= bindparam("today"))
    .order_by(SetEntry.done_on.desc())
    .limit(1)
    .correlate(Athlete)
    .scalar_subquery()
)
_LAST_DAYS = select(Athlete.id, _LAST_DAY).where(Athlete.id.in_(bindparam("ids", expanding=True)))


def newest_days(db: Session, athlete_ids: Sequence[int], today: dt.date) -> dict[int, dt.date]:
    """The day of each athlete's newest set up to today; whoever has none is left out."""

    def read(ids: list[int]) -> dict[int, dt.date]:
        return {athlete_id: day for athlete_id, day in db.execute(_LAST_DAYS, {"ids": ids, "today": today}) if day}

    return cached_each(db, ("newest days", today), athlete_ids, read)
