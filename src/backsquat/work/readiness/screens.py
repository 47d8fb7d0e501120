"""Results of screens: recorded, newest, in series. A value is only ever added."""

import datetime as dt
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import takewhile

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.movement import Family
from backsquat.core.readiness.screens import MOST, Known, Result, Screen, ScreenChange, change_since
from backsquat.storage.models import Athlete, ScreenResult, SetEntry, User
from backsquat.work.context import WorkContext
from backsquat.work.library.screens import screens_of
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of

NOTE_MOST = 200


@dataclass(frozen=True)
class Value:
    """One value as it was typed: None takes the day's value back."""

    screen: str
    side: str
    value: float | None
    note: str = ""


def record_result(context: WorkContext, athlete_id: int, value: Value, done_on: dt.date) -> ScreenResult | None:
    """Keep one value of a screen on a day. Nothing is written where it stands already."""
    return record_results(context, athlete_id, [value], done_on)[0]


def record_results(
    context: WorkContext, athlete_id: int, values: Sequence[Value], done_on: dt.date
) -> list[ScreenResult | None]:
    """The same for what was found on one day, all or none."""
    require(context.actor, Act.SCREEN)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    screens = screens_of(context.db, context.squad_id)
    for value in values:
        _check(screens.get(value.screen), value, athlete, done_on, context.today)
    rows = context.db.scalars(_ON_DAY, {"athlete": athlete_id, "day": done_on})
    standing = {(row.screen, row.side): row for row in rows}
    kept = [_keep(context, athlete_id, value, done_on, standing) for value in values]
    context.db.flush()
    return kept


def _check(screen: Screen | None, value: Value, athlete: Athlete, done_on: dt.date, today: dt.date) -> None:
    """Raises where a value cannot be."""
    if screen is None or value.side not in screen.sides:
        raise NotThere("screen")
    if done_on > today:
        raise ImpossibleInput(Problem("done_on", "in_future", {"today": today.isoformat()}))
    if done_on < athlete.born_on:
        raise ImpossibleInput(Problem("done_on", "before_birth"))
    if value.value is not None and not screen.possible(value.value):
        raise ImpossibleInput(Problem(value.screen, "screen_range", {"most": MOST[screen.kind], "unit": screen.unit}))


def _keep(
    context: WorkContext,
    athlete_id: int,
    value: Value,
    done_on: dt.date,
    standing: Mapping[tuple[str, str], ScreenResult],
) -> ScreenResult | None:
    before, note = standing.get((value.screen, value.side)), value.note.strip()[:NOTE_MOST]
    if before is None and value.value is None:
        return None
    if before and (before.value, before.note) == (value.value, note):
        return before
    if before:
        before.replaced = True
        context.db.flush()
    row = ScreenResult(
        athlete_id=athlete_id,
        screen=value.screen,
        side=value.side,
        value=value.value,
        note=note,
        done_on=done_on,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(row)
    return row


_ON_DAY = select(ScreenResult).where(
    ScreenResult.athlete_id == bindparam("athlete"), ScreenResult.done_on == bindparam("day"), ~ScreenResult.replaced
)
_RESULTS = (  # made once: asked at every door
    select(
        ScreenResult.athlete_id, ScreenResult.screen, ScreenResult.side, ScreenResult.value,
        func.max(ScreenResult.done_on),  # SQLite takes the value from the row of the highest day
    )
    .where(
        ScreenResult.athlete_id.in_(bindparam("ids", expanding=True)), ~ScreenResult.replaced,
        ScreenResult.value.is_not(None), ScreenResult.done_on <= bindparam("until"),
    )
    .group_by(ScreenResult.athlete_id, ScreenResult.screen, ScreenResult.side)
)  # fmt: skip


def newest_results(db: Session, athlete_ids: Sequence[int], until: dt.date) -> dict[int, dict[tuple[str, str], Result]]:
    """Each athlete's newest standing result of every screen and side, up to a day."""
    rows = db.execute(_RESULTS, {"ids": athlete_ids, "until": until})
    found: dict[int, dict[tuple[str, str], Result]] = defaultdict(dict)
    for athlete_id, screen, side, value, day in rows:
        if value is not None:
            found[athlete_id][screen, side] = Result(value, day)
    return found


@dataclass
class Series:
    """All standing values of one screen and side, oldest first."""

    screen: Screen
    side: str
    results: list[Result] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    by: list[str] = field(default_factory=list)

    def before(self, day: dt.date) -> Result | None:
        return next((result for result in reversed(self.results) if result.done_on < day), None)

    def on(self, day: dt.date) -> Result | None:
        return next((result for result in self.results if result.done_on == day), None)

    @property
    def newest(self) -> Result | None:
        return self.results[-1] if self.results else None

    @property
    def change(self) -> ScreenChange | None:
        if len(self.results) < 2:
            return None
        return change_since(self.screen, self.results[-1], self.results[-2])


def series_of(
    db: Session, athlete_ids: Sequence[int], screens: Mapping[str, Screen], until: dt.date
) -> dict[int, dict[tuple[str, str], Series]]:
    """Every athlete's series of each screen and side, also where nothing was ever done."""
    found = {
        athlete_id: {(screen.code, side): Series(screen, side) for screen in screens.values() for side in screen.sides}
        for athlete_id in athlete_ids
    }
    rows = db.execute(
        select(ScreenResult, User.name)
        .join(User, ScreenResult.by_id == User.id)
        .where(
            ScreenResult.athlete_id.in_(athlete_ids),
            ~ScreenResult.replaced,
            ScreenResult.value.is_not(None),
            ScreenResult.done_on <= until,
        )
        .order_by(ScreenResult.done_on, ScreenResult.id)
    )
    for row, name in rows:
        series = found[row.athlete_id].get((row.screen, row.side))
        if series is not None and row.value is not None:
            series.results.append(Result(row.value, row.done_on))
            series.notes.append(row.note)
            series.by.append(name)
    return found


def squat_checks(series: Mapping[tuple[str, str], Series], on_floor: Sequence[Result] = ()) -> list[tuple[float, bool]]:
    """The standing squats in order of date: the wedge under the heels in mm, and whether the shape held.

    `on_floor`: days of clean squats on the floor: they speak for the wedge that was in use then.
    """
    shape, wedge = series.get(("standing_squat", "")), series.get(("squat_wedge", ""))
    if shape is None or not shape.results:
        return []
    seen = [*shape.results, *(one for one in on_floor if one.done_on > shape.results[0].done_on)]
    checks = []
    for result in sorted(seen, key=lambda one: one.done_on):
        known = [w.value for w in (wedge.results if wedge else []) if w.done_on <= result.done_on]
        checks.append((known[-1] if known else 0.0, bool(result.value)))
    return checks


def squats_on_floor(db: Session, athlete_id: int, until: dt.date) -> list[Result]:
    """The days of clean squats in a row up to the newest: every rep to depth, without a fault and without pain.

    A shallow rep of a heavy set is no word against the wedge; it only begins the row again.
    """
    clean = func.min(
        (SetEntry.reps_to_depth == SetEntry.reps) & (SetEntry.fault == "") & (SetEntry.pain == 0) & (SetEntry.reps > 0)
    )
    days = db.execute(
        select(SetEntry.done_on, clean)
        .where(SetEntry.athlete_id == athlete_id, SetEntry.family == Family.SQUAT, SetEntry.standing)
        .where(SetEntry.hold_s.is_(None), SetEntry.done_on <= until)
        .group_by(SetEntry.done_on)
        .order_by(SetEntry.done_on)
    )
    row = takewhile(lambda day: bool(day[1]), reversed(days.all()))
    return [Result(1.0, day) for day, _ in row]


def known_of(series: Mapping[tuple[str, str], Series]) -> Known:
    """The newest value of each, as the rules take it."""
    return {key: item.newest for key, item in series.items() if item.newest is not None}
