"""What readiness is made from: stops, limits, absences, rungs, results, masses, overrides, read for many at once."""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from functools import cached_property

from sqlalchemy import BindParameter, bindparam, func, select
from sqlalchemy.orm import Session

from backsquat.core.movements.movement import BARS, Gate
from backsquat.core.readiness.gate import (
    GateView,
    Override,
)
from backsquat.core.readiness.limits import Limit as CoreLimit
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.core.readiness.road import BASE, SERVES
from backsquat.core.readiness.screens import Result
from backsquat.core.rules import Rules
from backsquat.features.movements.queries import Library, library_of
from backsquat.features.room.rooms import rooms_of
from backsquat.features.screening.queries import newest_results
from backsquat.storage.models import (
    Absence,
    BodyMass,
    GateOverride,
    Limit,
    RungMove,
    SetEntry,
    Stop,
    User,
)


class Parts:
    """What is read of some athletes, each part once and only when it is asked for."""

    def __init__(
        self, session: Session, squad_id: int, ids: Sequence[int], today: dt.date, rules: Rules
    ) -> None:
        self.session, self.squad_id, self.ids, self.today, self.rules = session, squad_id, ids, today, rules
        self.library = library_of(session, squad_id)
        self.views: dict[tuple[int, Gate], GateView] = {}  # worked out from the parts below

    def equipment(self, athlete_id: int, day: dt.date) -> frozenset[str]:
        """What the room has in which the athlete trains on a day."""
        return rooms_of(self.session, self.squad_id).equipment(self.room_id(athlete_id, day))

    def room_id(self, athlete_id: int, day: dt.date) -> int | None:
        return rooms_of(self.session, self.squad_id).id_on(athlete_id, day)

    @cached_property
    def stops(self) -> dict[int, list[Stop]]:
        return open_stops(self.session, self.ids)

    @cached_property
    def limits(self) -> dict[int, list[CoreLimit]]:
        return _limits(self.session, self.ids)

    @cached_property
    def away(self) -> dict[int, list[Absence]]:
        return _absences(self.session, self.ids)

    @cached_property
    def rungs(self) -> dict[int, dict[str, RungMove]]:
        return _rungs(self.session, self.ids, self.today)

    @cached_property
    def results(self) -> dict[int, dict[tuple[str, str], Result]]:
        return newest_results(self.session, self.ids, self.today)

    @cached_property
    def masses(self) -> dict[int, float]:
        return body_masses(self.session, self.ids, self.today)

    @cached_property
    def overrides(self) -> dict[tuple[int, str], Override]:
        return _overrides(self.session, self.ids, self.today)

    @cached_property
    def road(self) -> dict[int, tuple[int, int]]:
        """Sessions on the road, of those who have neither an override nor a witnessed test."""
        shown = {
            a for a in self.ids if (w := self.results.get(a, {}).get(("witnessed_test", ""))) and w.value
        }
        ids = [a for a in self.ids if a not in shown and (a, Gate.BARBELL.value) not in self.overrides]
        return _road(self.session, ids, self.library, self.today, self.rules)

    @cached_property
    def lifted(self) -> set[int]:
        """Who lifted a bar before the stop that is open: a stop keeps the gate shut only for those who never did."""
        bars = [code for code, m in self.library.movements.items() if m.implement in BARS]
        firsts = {a: min(stop.at.date() for stop in stops) for a, stops in self.stops.items()}
        rows = self.session.execute(
            select(SetEntry.athlete_id, func.min(SetEntry.done_on))
            .where(SetEntry.athlete_id.in_(firsts), SetEntry.movement.in_(bars), ~SetEntry.replaced)
            .group_by(SetEntry.athlete_id)
        )
        return {athlete_id for athlete_id, day in rows if day and day <= firsts[athlete_id]}


# Statements are made once: they are asked at every door, and making one takes longer than running it.
_IDS: BindParameter[int] = bindparam("ids", expanding=True)
_DAY: BindParameter[dt.date] = bindparam("day")
_STOPS = (
    select(Stop)
    .where(Stop.athlete_id.in_(_IDS), ~Stop.withdrawn, Stop.cleared_on.is_(None))
    .order_by(Stop.id)
)
_LIMITS = select(Limit).where(Limit.athlete_id.in_(_IDS), ~Limit.ended).order_by(Limit.id)
_AWAY = (
    select(Absence)
    .where(Absence.athlete_id.in_(_IDS), ~Absence.withdrawn)
    .order_by(Absence.first_on.desc(), Absence.id.desc())
)
_NEWEST_MASS = (
    select(BodyMass.athlete_id, func.max(BodyMass.id).label("id"))
    .where(BodyMass.athlete_id.in_(_IDS), BodyMass.measured_on <= _DAY)
    .group_by(BodyMass.athlete_id)
).subquery()
_MASSES = select(BodyMass.athlete_id, BodyMass.mass_kg).join(_NEWEST_MASS, BodyMass.id == _NEWEST_MASS.c.id)
_RUNGS = select(RungMove).where(
    RungMove.id.in_(
        select(func.max(RungMove.id))
        .where(RungMove.athlete_id.in_(_IDS), func.date(RungMove.at) <= _DAY)
        .group_by(RungMove.athlete_id, RungMove.ladder)
    )
)
_OVERRIDES = (
    select(GateOverride, User.name)
    .join(User, GateOverride.by_id == User.id)
    .where(GateOverride.athlete_id.in_(_IDS), ~GateOverride.ended, func.date(GateOverride.at) <= _DAY)
    .order_by(GateOverride.id)
)


def open_stops(session: Session, athlete_ids: Sequence[int]) -> dict[int, list[Stop]]:
    found: dict[int, list[Stop]] = defaultdict(list)
    for stop in session.scalars(_STOPS, {"ids": athlete_ids}):
        found[stop.athlete_id].append(stop)
    return found


def body_masses(session: Session, athlete_ids: Sequence[int], today: dt.date) -> dict[int, float]:
    """Each athlete's newest body mass in kg up to today."""
    rows = session.execute(_MASSES, {"ids": athlete_ids, "day": today})
    return {athlete_id: float(mass_kg) for athlete_id, mass_kg in rows}


def _limits(session: Session, ids: Sequence[int]) -> dict[int, list[CoreLimit]]:
    found: dict[int, list[CoreLimit]] = defaultdict(list)
    for row in session.scalars(_LIMITS, {"ids": ids}):
        found[row.athlete_id].append(core_limit(row))
    return found


def core_limit(row: Limit) -> CoreLimit:
    return CoreLimit(
        Scope(row.scope),
        row.what,
        LimitKind(row.kind),
        row.load_kg,
        row.words,
        row.from_on,
        row.until_on,
        row.set_by,
    )


def _absences(session: Session, ids: Sequence[int]) -> dict[int, list[Absence]]:
    found: dict[int, list[Absence]] = defaultdict(list)
    for row in session.scalars(_AWAY, {"ids": ids}):
        found[row.athlete_id].append(row)
    return found


def _rungs(session: Session, ids: Sequence[int], today: dt.date) -> dict[int, dict[str, RungMove]]:
    """Where each athlete stands on each ladder on a day."""
    found: dict[int, dict[str, RungMove]] = defaultdict(dict)
    for row in session.scalars(_RUNGS, {"ids": ids, "day": today}):
        found[row.athlete_id][row.ladder] = row
    return found


def _overrides(session: Session, ids: Sequence[int], today: dt.date) -> dict[tuple[int, str], Override]:
    rows = session.execute(_OVERRIDES, {"ids": ids, "day": today})
    return {(row.athlete_id, row.gate): Override(name, row.at.date(), row.reason) for row, name in rows}


def road_movements(library: Library) -> frozenset[str]:
    """What counts as a session on the road to the bar: its own items and the rungs below the bar."""
    codes = {code for group in (*SERVES.values(), *BASE) for code in group}
    codes |= {
        code for name in ("squat_to_bar", "hinge") for rung in library.ladders[name].rungs for code in rung
    }
    return frozenset(code for code in codes if (m := library.movements.get(code)) and m.implement not in BARS)


def _road(
    session: Session, ids: Sequence[int], library: Library, today: dt.date, rules: Rules
) -> dict[int, tuple[int, int]]:
    """Days with sound work on the road to the bar, and the days from the first to the last."""
    if not ids:
        return {}
    codes = road_movements(library)
    rows = session.execute(
        select(
            SetEntry.athlete_id,
            func.count(SetEntry.done_on.distinct()),
            func.min(SetEntry.done_on),
            func.max(SetEntry.done_on),
        )
        .where(
            SetEntry.athlete_id.in_(ids), SetEntry.movement.in_(codes), SetEntry.done_on <= today,
            ~SetEntry.replaced, ~SetEntry.withdrawn, ~SetEntry.fault_breaking, SetEntry.pain <= rules.earned_pain,
        )
        .group_by(SetEntry.athlete_id)
    )  # fmt: skip
    return {
        athlete_id: (count, (last - first).days) for athlete_id, count, first, last in rows if first and last
    }
