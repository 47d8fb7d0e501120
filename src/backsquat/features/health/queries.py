"""The physio's list and one athlete's limits, absences and notes."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.progression.row import State
from backsquat.core.rules import Rules
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.athletes.readiness import readiness_of
from backsquat.storage.models import (
    Absence,
    Athlete,
    Block,
    BlockSlot,
    Cell,
    HealthNote,
    Limit,
    Reading,
    SetEntry,
    Stop,
    User,
)

WATCH_DAYS = 14


@dataclass(frozen=True)
class Watch:
    """Pain under the line, noted lately."""

    athlete: Athlete
    entry: SetEntry


@dataclass(frozen=True)
class Back:
    """Somebody away, on the eased way back, or not seen for long."""

    athlete: Athlete
    words: str
    absence: Absence | None


@dataclass(frozen=True)
class PhysioList:
    stops: list[tuple[Stop, Athlete]]
    watches: list[Watch]
    returns: list[Back]
    limits: list[tuple[Limit, Athlete]]


def physio_list(session: Session, squad_id: int, today: dt.date, rules: Rules) -> PhysioList:
    """Everything open, in a fixed number of queries."""
    athletes = squad_athletes(session, squad_id)
    by_id = {athlete.id: athlete for athlete in athletes}
    ready = readiness_of(session, squad_id, athletes, today, rules)
    stops = [(stop, athlete) for athlete in athletes for stop in ready[athlete.id].stops]
    noted = session.scalars(
        select(SetEntry)
        .where(
            SetEntry.athlete_id.in_(list(by_id)), SetEntry.pain > 0, ~SetEntry.replaced, ~SetEntry.withdrawn,
            SetEntry.done_on > today - dt.timedelta(days=WATCH_DAYS), SetEntry.done_on <= today,
        )
        .order_by(SetEntry.done_on.desc(), SetEntry.id.desc())
    )  # fmt: skip
    stopping = {stop.set_id for stop, _ in stops}
    watches = [Watch(by_id[entry.athlete_id], entry) for entry in noted if entry.id not in stopping]
    returns = _returns(session, athletes, {a: r.away for a, r in ready.items()}, today, rules)
    limits = session.scalars(
        select(Limit)
        .where(
            Limit.athlete_id.in_(list(by_id)), ~Limit.ended,
            Limit.until_on.is_(None) | (Limit.until_on >= today),
        )
        .order_by(Limit.from_on)
    )  # fmt: skip
    return PhysioList(stops, watches, returns, [(limit, by_id[limit.athlete_id]) for limit in limits])


def _returns(
    session: Session,
    athletes: Sequence[Athlete],
    away: dict[int, tuple[Absence, ...]],
    today: dt.date,
    rules: Rules,
) -> list[Back]:
    newest = session.execute(
        select(SetEntry.athlete_id, func.max(SetEntry.done_on))
        .where(SetEntry.athlete_id.in_([athlete.id for athlete in athletes]), SetEntry.done_on <= today)
        .group_by(SetEntry.athlete_id)
    )
    last = {athlete_id: day for athlete_id, day in newest if day}
    found = []
    for athlete in athletes:
        mine = away[athlete.id]
        still = next((a for a in mine if a.back_on is None or a.back_on > today), None)
        eased = next(
            (a for a in mine if a.back_on and a.back_on <= today and _week(a, today) < len(a.weeks)), None
        )
        day = last.get(athlete.id)
        if still:
            found.append(
                Back(athlete, f"away since {still.first_on.day} {still.first_on:%b}, {still.why}", still)
            )
        elif eased and eased.back_on:
            week, of = _week(eased, today) + 1, len(eased.weeks)
            what = f"after {eased.why}" if eased.why != "away" else "after time away"
            found.append(Back(athlete, f"eased week {week} of {of} {what}", eased))
        elif day and (today - day).days >= rules.absence_short_days:
            found.append(Back(athlete, f"no set logged since {day.day} {day:%b}: away?", None))
    return found


def _week(absence: Absence, today: dt.date) -> int:
    return (today - (absence.back_on or today)).days // 7


def missed_sessions(session: Session, athlete_id: int, first_on: dt.date, back_on: dt.date) -> int:
    """Published sessions with something to do in the days away for which nothing was logged."""
    logged = (
        select(SetEntry.id)
        .where(SetEntry.cell_id == Cell.id, ~SetEntry.replaced, ~SetEntry.withdrawn)
        .exists()
    )
    rows = session.execute(
        select(Block.first_week, Cell.week, BlockSlot.weekday)
        .select_from(Cell)
        .join(BlockSlot, Cell.slot_id == BlockSlot.id)
        .join(Block, BlockSlot.block_id == Block.id)
        .where(
            Cell.athlete_id == athlete_id, Cell.live, ~logged,
            Cell.state.in_([State.LOAD.value, State.RUNG.value, State.UNDER_BAR.value]),
        )
    )  # fmt: skip
    days = [first + dt.timedelta(weeks=week, days=weekday) for first, week, weekday in rows]
    return sum(first_on <= day < back_on for day in days)


def limits_of(session: Session, athlete_id: int) -> list[tuple[Limit, str]]:
    rows = session.execute(
        select(Limit, User.name)
        .join(User, Limit.by_id == User.id)
        .where(Limit.athlete_id == athlete_id)
        .order_by(Limit.ended, Limit.from_on.desc())
        .limit(12)
    )
    return [(row, name) for row, name in rows]


def absences_of(session: Session, athlete_id: int) -> list[Absence]:
    rows = session.scalars(
        select(Absence)
        .where(Absence.athlete_id == athlete_id, ~Absence.withdrawn)
        .order_by(Absence.first_on.desc())
        .limit(8)
    )
    return list(rows)


def stops_of(session: Session, athlete_id: int) -> list[Stop]:
    rows = session.scalars(
        select(Stop).where(Stop.athlete_id == athlete_id, ~Stop.withdrawn).order_by(Stop.id.desc()).limit(8)
    )
    return list(rows)


def notes_of(session: Session, athlete_id: int) -> list[tuple[HealthNote, str]]:
    rows = session.execute(
        select(HealthNote, User.name)
        .join(User, HealthNote.by_id == User.id)
        .where(HealthNote.athlete_id == athlete_id)
        .order_by(HealthNote.ended, HealthNote.id.desc())
    )
    return [(row, name) for row, name in rows]


def readings_of(session: Session, athlete_id: int, most: int = 8) -> list[tuple[Reading, str]]:
    rows = session.execute(
        select(Reading, User.name)
        .join(User, Reading.by_id == User.id)
        .where(Reading.athlete_id == athlete_id)
        .order_by(Reading.id.desc())
        .limit(most)
    )
    return [(row, name) for row, name in rows]
