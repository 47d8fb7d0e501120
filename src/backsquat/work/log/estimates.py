"""Estimates from logged sets, read for one athlete or for a whole squad in the same few queries."""

import datetime as dt
import json
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from sqlalchemy import BindParameter, ColumnElement, ScalarSelect, Select, String, bindparam, func, select, type_coerce
from sqlalchemy.orm import Session

from backsquat.core.readiness.absence import start_share
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import monday_of
from backsquat.core.strength.belief import Belief
from backsquat.core.strength.current import (
    Counted,
    CurrentEstimate,
    CurrentValue,
    believed_estimate,
    believed_value,
    current_estimate,
    current_value,
    is_firm,
)
from backsquat.core.strength.estimate import Trust, bare_estimate
from backsquat.core.strength.record import SetRecord
from backsquat.storage.cache import cached_each
from backsquat.storage.convert import RECORD_COLUMNS, record_from_row, record_from_values
from backsquat.storage.database import days_before
from backsquat.storage.models import Athlete, BeliefDay, DepthChoice, SetEntry
from backsquat.work.log.sets import newest_days
from backsquat.work.squad.athletes import own_rules

_IDS: BindParameter[int] = bindparam("ids", expanding=True)
_MOVEMENT: BindParameter[str] = bindparam("movement")
_TODAY: BindParameter[dt.date] = bindparam("today")
_LINES = (  # made once, as the windows below: every plan asks for them
    select(DepthChoice.athlete_id, func.max(DepthChoice.from_on))
    .where(DepthChoice.athlete_id.in_(_IDS), DepthChoice.movement == _MOVEMENT, DepthChoice.from_on <= _TODAY)
    .group_by(DepthChoice.athlete_id)
)


def _window(columns: Sequence[Any], days: int) -> Select[Any]:
    """Each athlete's sets behind a current estimate: all from the window before the newest firm one on.

    One statement: that day comes from the estimate index for each athlete, then its window is read.
    Who has no firm set is read from the newest set that counts.
    """
    counts = (
        SetEntry.movement == _MOVEMENT,
        SetEntry.standing,
        SetEntry.estimate_kg.is_not(None),
        SetEntry.done_on <= _TODAY,
    )

    def newest(*more: ColumnElement[bool]) -> ScalarSelect[dt.date]:
        # From the end of the athlete's stretch of the index: one step, however long the history.
        found = select(SetEntry.done_on).where(SetEntry.athlete_id == Athlete.id, *counts, *more)
        return found.order_by(SetEntry.done_on.desc()).limit(1).correlate(Athlete).scalar_subquery()

    day = func.coalesce(newest(SetEntry.firm.is_(True)), newest()).label("day")
    last = select(Athlete.id, day).where(Athlete.id.in_(_IDS)).subquery()
    of_athlete = (SetEntry.athlete_id == last.c.id) & (SetEntry.done_on > days_before(last.c.day, days))
    return select(SetEntry.athlete_id, *columns).join(last, of_athlete).where(*counts)


@lru_cache
def _records(days: int) -> Select[Any]:
    return _window(RECORD_COLUMNS, days)


@lru_cache
def _counted(days: int) -> Select[Any]:
    columns = (SetEntry.done_on, SetEntry.id, SetEntry.estimate_kg, SetEntry.trust, SetEntry.firm, SetEntry.carried_kg)
    return _window(columns, days)


def _newest_belief() -> Any:
    """Each athlete's newest row up to a day, of the depth standard that holds."""
    day = (
        select(BeliefDay.done_on)
        .where(BeliefDay.movement == _MOVEMENT, BeliefDay.athlete_id == Athlete.id, BeliefDay.done_on <= _TODAY)
        .order_by(BeliefDay.done_on.desc())
        .limit(1)
        .correlate(Athlete)
        .scalar_subquery()
    )
    last = select(Athlete.id, day.label("day")).where(Athlete.id.in_(_IDS)).subquery()
    mine = (BeliefDay.athlete_id == last.c.id) & (BeliefDay.done_on == last.c.day)
    kept = type_coerce(BeliefDay.belief, String)  # as it is written: most were read before
    columns = (BeliefDay.athlete_id, BeliefDay.done_on, BeliefDay.carried_kg, kept)
    found = select(*columns).join(last, mine)
    return found.where(BeliefDay.movement == _MOVEMENT)


_NEWEST_BELIEF = _newest_belief()
_SHARES = (
    select(BeliefDay.athlete_id, BeliefDay.done_on, BeliefDay.shares)
    .where(
        BeliefDay.movement == _MOVEMENT,
        BeliefDay.athlete_id.in_(_IDS),
        BeliefDay.done_on <= _TODAY,
        BeliefDay.done_on >= bindparam("first"),
    )
    .order_by(BeliefDay.athlete_id, BeliefDay.done_on)
)
_OF_SETS = select(SetEntry.athlete_id, *RECORD_COLUMNS).where(SetEntry.id.in_(bindparam("sets", expanding=True)))


def record_lines(db: Session, athlete_ids: Sequence[int], movement: str, today: dt.date) -> dict[int, dt.date]:
    """Where an athlete's depth standard was changed: the day from which sets count, for a new standard is a new line."""
    asked = {"ids": list(athlete_ids), "movement": movement, "today": today}
    rows = db.execute(_LINES, asked)
    return {athlete_id: day for athlete_id, day in rows if day}


def estimates(
    db: Session,
    athlete_ids: Sequence[int],
    movement: str,
    today: dt.date,
    rules: Rules,
    own: Mapping[int, Rules] | None = None,
) -> dict[int, CurrentEstimate]:
    """Current estimates with their working, by athlete; who has none is left out.

    `own` are the athletes' own rules, where the caller knows them.
    """
    found = _estimates(db, athlete_ids, movement, today, rules, own)
    values = _after_time_away(db, {one: estimate.value for one, estimate in found.items()}, today, rules)
    return {one: replace(estimate, value=values[one]) for one, estimate in found.items()}


def _estimates(
    db: Session,
    athlete_ids: Sequence[int],
    movement: str,
    today: dt.date,
    rules: Rules,
    own: Mapping[int, Rules] | None,
) -> dict[int, CurrentEstimate]:
    if rules.estimator == "belief":
        return _believed(db, athlete_ids, movement, today, rules)
    found: dict[int, list[SetRecord]] = defaultdict(list)
    lines = record_lines(db, athlete_ids, movement, today)
    asked = {"ids": list(athlete_ids), "movement": movement, "today": today}
    for athlete_id, *values in db.execute(_records(rules.estimate_window_days), asked):
        record = record_from_values(*values)
        if record.done_on >= lines.get(athlete_id, record.done_on):
            found[athlete_id].append(record)
    own = own_rules(db, athlete_ids, rules) if own is None else own
    current = {
        athlete_id: current_estimate(records, today, own.get(athlete_id, rules))
        for athlete_id, records in found.items()
    }
    return {athlete_id: estimate for athlete_id, estimate in current.items() if estimate}


def _beliefs(
    db: Session, athlete_ids: Sequence[int], movement: str, today: dt.date, lines: Mapping[int, dt.date]
) -> dict[int, tuple[Belief, float]]:
    """The newest belief of each athlete up to a day, with what was carried of the body; `lines` as `record_lines`."""
    asked = {"ids": list(athlete_ids), "movement": movement, "today": today}
    return {
        athlete_id: (_belief(kept), carried_kg)
        for athlete_id, day, carried_kg, kept in db.execute(_NEWEST_BELIEF, asked)
        if day >= lines.get(athlete_id, day)
    }


@lru_cache(maxsize=4096)
def _belief(kept: str) -> Belief:
    """The belief as it is written. It changes only by being written again, so that none is read twice."""
    return Belief.from_plain(json.loads(kept))


def _believed(
    db: Session, athlete_ids: Sequence[int], movement: str, today: dt.date, rules: Rules
) -> dict[int, CurrentEstimate]:
    lines = record_lines(db, athlete_ids, movement, today)
    known = _beliefs(db, athlete_ids, movement, today, lines)
    if not known:
        return {}
    window = dt.timedelta(days=rules.estimate_window_days)
    first = {
        athlete_id: max(belief.newest_on - window, lines.get(athlete_id, dt.date.min))
        for athlete_id, (belief, _) in known.items()
    }
    asked = {"ids": list(known), "movement": movement, "today": today, "first": min(first.values())}
    shares: dict[int, list[tuple[int, float]]] = defaultdict(list)
    for athlete_id, day, sets in db.execute(_SHARES, asked):
        if day > first[athlete_id] or day == lines.get(athlete_id):
            shares[athlete_id] += [(set_id, share) for set_id, share in sets]
    wanted = [set_id for sets in shares.values() for set_id, _ in sets]
    records = {values[0]: record_from_values(*values) for _, *values in db.execute(_OF_SETS, {"sets": wanted})}
    return {
        athlete_id: believed_estimate(
            belief, carried_kg, [(records[set_id], share) for set_id, share in shares[athlete_id]], today, rules
        )
        for athlete_id, (belief, carried_kg) in known.items()
    }


def current_values(
    db: Session, athlete_ids: Sequence[int], movement: str, today: dt.date, rules: Rules
) -> dict[int, CurrentValue]:
    """The same numbers without working, from what is kept beside the sets: for whole squads."""

    def read(ids: list[int]) -> dict[int, CurrentValue]:
        return _after_time_away(db, _current_values(db, ids, movement, today, rules), today, rules)

    return cached_each(db, ("current", movement, today, rules), athlete_ids, read)


def _current_values(
    db: Session, athlete_ids: Sequence[int], movement: str, today: dt.date, rules: Rules
) -> dict[int, CurrentValue]:
    if rules.estimator == "belief":
        known = _beliefs(db, athlete_ids, movement, today, record_lines(db, athlete_ids, movement, today))
        return {
            athlete_id: believed_value(belief, carried_kg, today, rules)
            for athlete_id, (belief, carried_kg) in known.items()
        }
    trusts, lines = tuple(Trust), record_lines(db, athlete_ids, movement, today)
    found: dict[int, list[Counted]] = defaultdict(list)
    asked = {"ids": list(athlete_ids), "movement": movement, "today": today}
    rows = db.execute(_counted(rules.estimate_window_days), asked)
    for athlete_id, day, set_id, kg, trust, firm, carried_kg in rows:
        if day >= lines.get(athlete_id, day):
            found[athlete_id].append(Counted(day, set_id, kg, trusts[trust], firm, carried_kg or 0.0))
    current = {athlete_id: current_value(sets, today, rules) for athlete_id, sets in found.items()}
    return {athlete_id: value for athlete_id, value in current.items() if value}


def _after_time_away(
    db: Session, values: dict[int, CurrentValue], today: dt.date, rules: Rules
) -> dict[int, CurrentValue]:
    """With what may be left of them where somebody has not trained at all for long; a lift rotated out loses nothing."""
    old = [one for one, value in values.items() if (today - value.newest_on).days >= rules.absence_short_days]
    away = {one: (today - day).days for one, day in newest_days(db, old, today).items()} if old else {}
    fallen = {one: (days, share) for one, days in away.items() if (share := start_share(days, rules)) < 1}
    return values | {
        one: replace(values[one], away_days=days, away_share=share) for one, (days, share) in fallen.items()
    }


@dataclass(frozen=True)
class WeekBest:
    """The best estimate of one athlete's week; not `firm`: only "at least", left out of trends.

    `believed_kg` is what was believed of the maximum at the end of that week; the best itself by the plain way.
    """

    week: dt.date
    kg: float
    trust: Trust
    firm: bool
    believed_kg: float


_FIRST: BindParameter[dt.date] = bindparam("first")
_BELIEVED = (
    select(BeliefDay.athlete_id, BeliefDay.done_on, BeliefDay.max_kg)
    .where(BeliefDay.movement == _MOVEMENT, BeliefDay.athlete_id.in_(_IDS))
    .where(BeliefDay.done_on >= _FIRST, BeliefDay.done_on <= _TODAY)
    .order_by(BeliefDay.done_on)
)
_DAYS = (SetEntry.athlete_id, SetEntry.done_on, SetEntry.firm)
_BEST = (  # by day, in the order of the estimate index, so that nothing is sorted or counted up by SQLite
    select(*_DAYS, func.max(SetEntry.estimate_kg), func.max(SetEntry.trust))
    .where(SetEntry.movement == _MOVEMENT, SetEntry.athlete_id.in_(_IDS))
    .where(SetEntry.standing, SetEntry.estimate_kg.is_not(None))
    .where(SetEntry.done_on >= _FIRST, SetEntry.done_on <= _TODAY)
    .group_by(*_DAYS)
    .order_by(*_DAYS)
)


def weekly_best(
    db: Session, athlete_ids: Sequence[int], movement: str, first: dt.date, today: dt.date
) -> dict[int, list[WeekBest]]:
    """Best estimate per athlete and week from `first` on, oldest first; a firm one where there is any."""

    def read(ids: list[int]) -> dict[int, list[WeekBest]]:
        return _weekly_best(db, ids, movement, first, today)

    return cached_each(db, ("weekly best", movement, first, today), athlete_ids, read)


def _weekly_best(
    db: Session, athlete_ids: Sequence[int], movement: str, first: dt.date, today: dt.date
) -> dict[int, list[WeekBest]]:
    lines = record_lines(db, athlete_ids, movement, today)
    asked = {"ids": list(athlete_ids), "movement": movement, "today": today, "first": first}
    believed = {(a, monday_of(day)): kg for a, day, kg in db.execute(_BELIEVED, asked)}
    found: dict[int, dict[dt.date, WeekBest]] = defaultdict(dict)
    for athlete_id, day, firm, kg, trust in db.execute(_BEST, asked):
        if day < lines.get(athlete_id, day):
            continue
        week, weeks = monday_of(day), found[athlete_id]
        known = weeks.get(week)
        if known is None or (firm, kg or 0.0) > (known.firm, known.kg):
            weeks[week] = WeekBest(week, kg or 0.0, Trust(trust), firm, believed.get((athlete_id, week), kg or 0.0))
    return {athlete_id: list(weeks.values()) for athlete_id, weeks in found.items()}


@dataclass(frozen=True)
class Numbers:
    """One lift of one athlete as the page shows it."""

    movement: str
    current: CurrentEstimate | None
    weeks: list[WeekBest]


def numbers(
    db: Session, athlete: Athlete, codes: Iterable[str], first: dt.date, today: dt.date, rules: Rules
) -> list[Numbers]:
    return [
        Numbers(
            code,
            estimates(db, [athlete.id], code, today, rules).get(athlete.id),
            weekly_best(db, [athlete.id], code, first, today).get(athlete.id, []),
        )
        for code in codes
    ]


def put_estimate(entry: SetEntry, rules: Rules) -> None:
    """Keep the set's estimate beside it, for lists and trends; the set itself is what counts."""
    record = record_from_row(entry)
    estimate = bare_estimate(record, rules)
    entry.firm = is_firm(record, estimate)
    entry.estimate_kg, entry.trust = estimate.max_kg, estimate.trust.value
