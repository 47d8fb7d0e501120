"""The physio's list, and one athlete's limits, absences and stops."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.core.readiness.verdict import OpenStop, TimeAway
from backsquat.core.rules import Rules
from backsquat.storage.models import Absence as AbsenceRow
from backsquat.storage.models import Athlete, Limit, PainReport, SetEntry, User
from backsquat.storage.models import Stop as StopRow
from backsquat.work.log.sets import newest_days
from backsquat.work.readiness.load import absences_by_athlete, open_stops
from backsquat.work.squad.athletes import athlete_of, squad_athletes


@dataclass(frozen=True)
class Watch:
    """Pain under the line, noted lately: with a set or by itself."""

    athlete: Athlete
    done_on: dt.date
    region: str
    character: str
    level: int | None
    movement: str  # empty: in none in particular


class Whereabouts(StrEnum):
    """Why somebody is on the list of returns."""

    AWAY = "away"
    EASED = "eased"  # in an eased week
    UNSEEN = "unseen"  # nothing logged for long


@dataclass(frozen=True)
class Back:
    """Somebody away, on the eased way back, or not seen for long."""

    athlete: Athlete
    state: Whereabouts
    absence: TimeAway | None = None
    week: int = 0  # of the eased weeks, from 1
    last_on: dt.date | None = None  # the newest set


@dataclass(frozen=True)
class PhysioList:
    stops: list[tuple[OpenStop, Athlete]]
    watches: list[Watch]
    returns: list[Back]
    limits: list[tuple[Limit, Athlete]]


def physio_list(db: Session, squad_id: int, today: dt.date, rules: Rules) -> PhysioList:
    """Everything open, in a fixed number of queries."""
    athletes = squad_athletes(db, squad_id)
    by_id = {athlete.id: athlete for athlete in athletes}
    stopped = open_stops(db, list(by_id))
    stops = [(stop, athlete) for athlete in athletes for stop in stopped.get(athlete.id, ())]
    noted = db.scalars(
        select(SetEntry)
        .where(
            SetEntry.athlete_id.in_(list(by_id)),
            SetEntry.pain > 0,
            SetEntry.standing,
            SetEntry.done_on > today - dt.timedelta(days=rules.watch_days),
            SetEntry.done_on <= today,
        )
        .order_by(SetEntry.done_on.desc(), SetEntry.id.desc())
    )
    reports = db.scalars(
        select(PainReport)
        .where(
            PainReport.athlete_id.in_(list(by_id)),
            PainReport.done_on > today - dt.timedelta(days=rules.watch_days),
            PainReport.id.not_in(select(StopRow.report_id).where(StopRow.report_id.is_not(None))),
        )
        .order_by(PainReport.done_on.desc(), PainReport.id.desc())
    )
    stopping = {stop.set_id for stop, _ in stops}
    watches = [
        *(
            _watch(by_id[e.athlete_id], e, (e.pain_region, e.pain_character, e.pain))
            for e in noted
            if e.id not in stopping
        ),
        *(_watch(by_id[one.athlete_id], one, (one.region, one.character, one.level)) for one in reports),
    ]
    watches.sort(key=lambda watch: watch.done_on, reverse=True)
    returns = _returns(db, athletes, absences_by_athlete(db, list(by_id)), today, rules)
    limits = db.scalars(
        select(Limit)
        .where(Limit.athlete_id.in_(list(by_id)), ~Limit.ended, Limit.until_on.is_(None) | (Limit.until_on >= today))
        .order_by(Limit.from_on)
    )
    return PhysioList(stops, watches, returns, [(limit, by_id[limit.athlete_id]) for limit in limits])


def _watch(athlete: Athlete, row: SetEntry | PainReport, said: tuple[str, str, int | None]) -> Watch:
    return Watch(athlete, row.done_on, *said, row.movement)


def _returns(
    db: Session, athletes: Sequence[Athlete], away: dict[int, list[TimeAway]], today: dt.date, rules: Rules
) -> list[Back]:
    last = newest_days(db, [athlete.id for athlete in athletes], today)
    found = []
    for athlete in athletes:
        mine = away.get(athlete.id, [])
        still = next((a for a in mine if a.back_on is None or a.back_on > today), None)
        eased = next((a for a in mine if a.back_on and a.back_on <= today and _week(a, today) < len(a.weeks)), None)
        day = last.get(athlete.id)
        if still:
            found.append(Back(athlete, Whereabouts.AWAY, still))
        elif eased:
            found.append(Back(athlete, Whereabouts.EASED, eased, _week(eased, today) + 1))
        elif day and (today - day).days >= rules.absence_short_days:
            found.append(Back(athlete, Whereabouts.UNSEEN, last_on=day))
    return found


def _week(absence: TimeAway, today: dt.date) -> int:
    return (today - (absence.back_on or today)).days // 7


def limits_of(db: Session, athlete_id: int) -> list[tuple[Limit, str]]:
    rows = db.execute(
        select(Limit, User.name)
        .join(User, Limit.by_id == User.id)
        .where(Limit.athlete_id == athlete_id)
        .order_by(Limit.ended, Limit.from_on.desc())
        .limit(12)
    )
    return [(row, name) for row, name in rows]


def absences_of(db: Session, athlete_id: int) -> list[AbsenceRow]:
    rows = db.scalars(
        select(AbsenceRow)
        .where(AbsenceRow.athlete_id == athlete_id, ~AbsenceRow.withdrawn)
        .order_by(AbsenceRow.first_on.desc())
        .limit(8)
    )
    return list(rows)


def stop_of(db: Session, squad_id: int, stop_id: int) -> tuple[StopRow, Athlete]:
    """A stop with its athlete, if of this squad."""
    stop = db.get(StopRow, stop_id)
    if stop is None:
        raise NotThere("stop")
    return stop, athlete_of(db, squad_id, stop.athlete_id)


def stops_of(db: Session, athlete_id: int) -> list[tuple[StopRow, str]]:
    """The newest stops, with who corrected or took back the report behind each, if anybody did."""
    rows = db.execute(
        select(StopRow, User.name)
        .outerjoin(User, StopRow.report_changed_by_id == User.id)
        .where(StopRow.athlete_id == athlete_id)
        .order_by(StopRow.id.desc())
        .limit(8)
    )
    return [(row, name or "") for row, name in rows]
