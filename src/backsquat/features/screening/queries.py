"""Screens of a squad and what was found: newest results, histories, what is due."""

import datetime as dt
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.readiness.screens import Change, Known, Result, Screen, change_since
from backsquat.library import battery
from backsquat.library.battery import ScreenEntry
from backsquat.storage.models import LibraryEntry, ScreenResult, User

SCREEN = "screen"


def screens_of(session: Session, squad_id: int) -> dict[str, Screen]:
    """The default battery with the squad's own screens and changes laid over it; retired ones included."""
    key = ("screens", squad_id)
    if key not in session.info:
        found = dict(battery.screens())
        rows = session.execute(
            select(LibraryEntry.code, LibraryEntry.entry, LibraryEntry.retired)
            .where(LibraryEntry.squad_id == squad_id, LibraryEntry.kind == SCREEN, LibraryEntry.current)
            .order_by(LibraryEntry.id)
        )
        for code, entry, retired in rows:
            if entry:
                found[code] = ScreenEntry.model_validate(entry).screen(own=True, retired=retired)
            elif code in battery.entries():
                found[code] = battery.entries()[code].screen(retired=retired)
        session.info[key] = found
    return session.info[key]  # type: ignore[no-any-return]


_RESULTS = (  # made once: asked at every door
    select(
        ScreenResult.athlete_id, ScreenResult.screen, ScreenResult.side, ScreenResult.value, ScreenResult.done_on
    )
    .where(
        ScreenResult.athlete_id.in_(bindparam("ids", expanding=True)), ~ScreenResult.replaced,
        ScreenResult.value.is_not(None), ScreenResult.done_on <= bindparam("until"),
    )
    .order_by(ScreenResult.athlete_id, ScreenResult.screen, ScreenResult.side, ScreenResult.done_on)
)  # fmt: skip


def newest_results(
    session: Session, athlete_ids: Sequence[int], until: dt.date
) -> dict[int, dict[tuple[str, str], Result]]:
    """Each athlete's newest standing result of every screen and side, up to a day."""
    rows = session.execute(_RESULTS, {"ids": athlete_ids, "until": until})
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
    def change(self) -> Change | None:
        if len(self.results) < 2:
            return None
        return change_since(self.screen, self.results[-1], self.results[-2])


def series_of(
    session: Session, athlete_ids: Sequence[int], screens: Mapping[str, Screen], until: dt.date
) -> dict[int, dict[tuple[str, str], Series]]:
    """Every athlete's series of each screen and side, also where nothing was ever done."""
    found = {
        athlete_id: {
            (screen.code, side): Series(screen, side) for screen in screens.values() for side in screen.sides
        }
        for athlete_id in athlete_ids
    }
    rows = session.execute(
        select(ScreenResult, User.name)
        .join(User, ScreenResult.by_id == User.id)
        .where(
            ScreenResult.athlete_id.in_(athlete_ids), ~ScreenResult.replaced, ScreenResult.value.is_not(None),
            ScreenResult.done_on <= until,
        )
        .order_by(ScreenResult.done_on, ScreenResult.id)
    )  # fmt: skip
    for row, name in rows:
        series = found[row.athlete_id].get((row.screen, row.side))
        if series is not None and row.value is not None:
            series.results.append(Result(row.value, row.done_on))
            series.notes.append(row.note)
            series.by.append(name)
    return found


def squat_checks(series: Mapping[tuple[str, str], Series]) -> list[tuple[float, bool]]:
    """The standing squats in order of date: the wedge under the heels in mm, and whether the shape held."""
    shape, wedge = series.get(("standing_squat", "")), series.get(("squat_wedge", ""))
    if shape is None:
        return []
    checks = []
    for result in shape.results:
        known = [w.value for w in (wedge.results if wedge else []) if w.done_on <= result.done_on]
        checks.append((known[-1] if known else 0.0, bool(result.value)))
    return checks


def known_of(series: Mapping[tuple[str, str], Series]) -> Known:
    """The newest value of each, as the rules take it."""
    return {key: item.newest for key, item in series.items() if item.newest is not None}
