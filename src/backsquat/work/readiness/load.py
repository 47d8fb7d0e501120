"""What each athlete may do: read for any number of athletes in a fixed number of queries.

The rules that judge it are `core/readiness/verdict.py`; here rows become what they look at.
"""

import datetime as dt
import json
from collections import defaultdict
from collections.abc import Mapping, Sequence
from functools import partial
from typing import Any

from sqlalchemy import BindParameter, Select, String, bindparam, cast, func, literal, select, text, true, union_all
from sqlalchemy.orm import Session

from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import BARS, Family, ReadinessCheck
from backsquat.core.readiness.absence import AwayReason, EasedWeek
from backsquat.core.readiness.checklist import GROWS_OLD, Override
from backsquat.core.readiness.limits import ActiveLimit as CoreLimit
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.core.readiness.road import road_movements
from backsquat.core.readiness.screens import Known
from backsquat.core.readiness.verdict import LevelHeld, Person, Readiness, Reason
from backsquat.core.readiness.verdict import OpenStop as CoreStop
from backsquat.core.readiness.verdict import TimeAway as CoreAbsence
from backsquat.core.rules import Rules
from backsquat.storage.cache import cached_each
from backsquat.storage.database import day_of, each_of
from backsquat.storage.models import Absence, Athlete, LevelMove, Limit, ReadinessClearance, SetEntry, Stop, User
from backsquat.work.context import library_of
from backsquat.work.readiness.screens import newest_results
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.squad.athletes import body_masses, rules_for
from backsquat.work.squad.growth import growth_of

# Statements are made once: they are asked at every door, and making one takes longer than running it.
_IDS: BindParameter[int] = bindparam("ids", expanding=True)
_DAY: BindParameter[dt.date] = bindparam("day")
_STOPS = select(Stop).where(Stop.athlete_id.in_(_IDS), ~Stop.withdrawn, Stop.cleared_on.is_(None)).order_by(Stop.id)
_LIMITS = select(Limit).where(Limit.athlete_id.in_(_IDS), ~Limit.ended).order_by(Limit.id)
_ABSENCES = (
    select(Absence)
    .where(Absence.athlete_id.in_(_IDS), ~Absence.withdrawn)
    .order_by(Absence.first_on.desc(), Absence.id.desc())
)
_LEVELS = select(  # columns: plain rows are read faster than entities
    LevelMove.athlete_id,
    LevelMove.ladder,
    LevelMove.level,
    LevelMove.movement,
    LevelMove.at,
    LevelMove.way,
    LevelMove.reason,
).where(
    LevelMove.id.in_(
        select(func.max(LevelMove.id))
        .where(LevelMove.athlete_id.in_(_IDS), day_of(LevelMove.at) <= _DAY)
        .group_by(LevelMove.athlete_id, LevelMove.ladder)
    )
)
_OVERRIDES = (
    select(ReadinessClearance, User.name)
    .join(User, ReadinessClearance.by_id == User.id)
    .where(ReadinessClearance.athlete_id.in_(_IDS), ~ReadinessClearance.ended, day_of(ReadinessClearance.at) <= _DAY)
    .order_by(ReadinessClearance.id)
)


_TESTS = (  # the index of tests is used only where the query says its condition in the same words
    select(SetEntry.athlete_id, SetEntry.movement, SetEntry.done_on, SetEntry.flags)
    .where(SetEntry.athlete_id.in_(_IDS), text("set_entries.effort = 'test'"), SetEntry.standing)
    .where(SetEntry.estimate_kg.is_not(None), SetEntry.done_on <= _DAY, SetEntry.pain <= bindparam("pain"))
    .order_by(SetEntry.done_on)
)
_BEHIND = each_of(bindparam("movements"))
_BEHIND_READINESS_CHECKS = (  # one look into the log for each of a few movements
    select(Athlete.id, _BEHIND.c.value)
    .join(_BEHIND, true())
    .where(
        Athlete.id.in_(_IDS),
        select(SetEntry.id)
        .where(SetEntry.movement == _BEHIND.c.value, SetEntry.athlete_id == Athlete.id, SetEntry.standing)
        .where(SetEntry.estimate_kg.is_not(None), SetEntry.done_on <= _DAY, cast(SetEntry.flags, String) == "[]")
        .correlate(Athlete, _BEHIND)
        .exists(),
    )
)

_CLEAN = (
    select(SetEntry.athlete_id, SetEntry.movement, SetEntry.done_on, SetEntry.flags)
    .where(SetEntry.athlete_id.in_(_IDS), SetEntry.movement.in_(bindparam("movements", expanding=True)))
    .where(SetEntry.standing, SetEntry.done_on > bindparam("since"), SetEntry.done_on <= _DAY)
    .where(~SetEntry.fault_breaking, ~SetEntry.supported, SetEntry.reps_to_depth == SetEntry.reps, SetEntry.reps > 0)
    .distinct()
)

# Flags of a set that shows nothing; a level not earned is no such flag, as a test is how it is shown.
DOUBTED = "doubted"  # as the log marks what is hardly likely (`work/record/record.py`)
AGAINST = {Reason.STOPPED.value, Reason.AWAY.value, Reason.BARRED.value, Reason.NOT_READY.value}


def readiness_of(
    db: Session, squad_id: int, athletes: Sequence[Athlete], today: dt.date, rules: Rules
) -> dict[int, Readiness]:
    """Readiness of some athletes of a squad by id; the queries are as few for sixty as for one."""
    by_id = {athlete.id: athlete for athlete in athletes}

    def read(ids: list[int]) -> dict[int, Readiness]:
        return _readiness_of(db, squad_id, [by_id[one] for one in ids], today, rules)

    return cached_each(db, ("readiness", squad_id, today, rules), by_id, read, unchanged=True)


def _readiness_of(
    db: Session, squad_id: int, athletes: Sequence[Athlete], today: dt.date, rules: Rules
) -> dict[int, Readiness]:
    ids = [athlete.id for athlete in athletes]
    asked = {"ids": ids, "day": today}
    library, rooms = library_of(db, squad_id), rooms_of(db, squad_id)
    stops, absences = open_stops(db, ids), absences_by_athlete(db, ids)
    limits, levels, overrides = _limits(db, ids), _levels(db, asked), _overrides(db, asked)
    known, masses = newest_results(db, ids, today), body_masses(db, ids, today)
    road = _road(db, _still_on_the_road(ids, known, overrides), library, today, rules)
    lifted = _lifted_before(db, stops, library)
    unplaced = [a for a in ids if PLACED - levels.get(a, {}).keys()]
    soundly = _soundly(db, unplaced, library, today)
    lately = _lately(db, _old(known, today, rules), library, today, rules)
    bar_days = _bar_days(db, unplaced, library, today, rules)
    growing = {athlete_id for athlete_id, one in growth_of(db, ids, today, rules).items() if one.fast}
    shown = _shown(db, asked | {"pain": rules.earned_pain})
    return {
        athlete.id: Readiness(
            person=_person(athlete, athlete.id in growing),
            today=today,
            rules=rules_for(athlete, rules),
            library=library,
            stops=tuple(stops.get(athlete.id, ())),
            limits=tuple(limits.get(athlete.id, ())),
            absences=tuple(absences.get(athlete.id, ())),
            levels=levels.get(athlete.id, {}),
            known=known.get(athlete.id, {}),
            body_mass_kg=masses.get(athlete.id),
            overrides=overrides.get(athlete.id, {}),
            road=road.get(athlete.id, (0, 0)),
            lifted_before=athlete.id in lifted,
            bar_days=bar_days.get(athlete.id, {}),
            soundly=frozenset(soundly.get(athlete.id, ())),
            lately=frozenset(lately.get(athlete.id, ())),
            shown=shown.get(athlete.id, {}),
            equipment_on=partial(rooms.equipment_on, athlete.id),
            room_on=partial(rooms.id_on, athlete.id),
        )
        for athlete in athletes
    }


def _person(athlete: Athlete, growing: bool) -> Person:
    return Person(athlete.id, athlete.name, athlete.born_on, athlete.newcomer, athlete.consent, growing)


def readiness_one(db: Session, athlete: Athlete, today: dt.date, rules: Rules) -> Readiness:
    """The same for one athlete."""
    return readiness_of(db, athlete.squad_id, [athlete], today, rules)[athlete.id]


def open_stops(db: Session, athlete_ids: Sequence[int]) -> dict[int, list[CoreStop]]:
    """Pain stops that no clearance has ended, oldest first, by athlete."""
    found: dict[int, list[CoreStop]] = defaultdict(list)
    for row in db.scalars(_STOPS, {"ids": athlete_ids}):
        found[row.athlete_id].append(core_stop(row))
    return found


def core_stop(row: Stop) -> CoreStop:
    """A stop as the rules see it."""
    family = Family(row.family) if row.family else None
    about = (row.id, row.set_id, row.movement, row.region, row.level, row.character, row.at)
    return CoreStop(*about, family, frozenset(row.locked))


def core_limit(row: Limit) -> CoreLimit:
    """A limit as the rules see it."""
    return CoreLimit(
        scope=Scope(row.scope),
        what=row.what,
        kind=LimitKind(row.kind),
        load_kg=row.load_kg,
        words=row.words,
        from_on=row.from_on,
        until_on=row.until_on,
        set_by=row.set_by,
    )


def core_absence(row: Absence) -> CoreAbsence:
    """Time away as the rules see it, with the weeks of an accepted return."""
    weeks = tuple(EasedWeek(week.load_share, week.sets_share) for week in row.weeks)
    return CoreAbsence(row.id, row.first_on, row.back_on, AwayReason(row.why), row.movement, row.region, weeks)


def _limits(db: Session, ids: Sequence[int]) -> dict[int, list[CoreLimit]]:
    found: dict[int, list[CoreLimit]] = defaultdict(list)
    for row in db.scalars(_LIMITS, {"ids": ids}):
        found[row.athlete_id].append(core_limit(row))
    return found


def absences_by_athlete(db: Session, ids: Sequence[int]) -> dict[int, list[CoreAbsence]]:
    """Time away of each athlete, newest first."""
    found: dict[int, list[CoreAbsence]] = defaultdict(list)
    for row in db.scalars(_ABSENCES, {"ids": ids}):
        found[row.athlete_id].append(core_absence(row))
    return found


def _levels(db: Session, asked: Mapping[str, object]) -> dict[int, dict[str, LevelHeld]]:
    """Where each athlete stands on each ladder on a day."""
    found: dict[int, dict[str, LevelHeld]] = defaultdict(dict)
    for athlete_id, ladder, level, movement, at, way, reason in db.execute(_LEVELS, asked):
        found[athlete_id][ladder] = LevelHeld(level, movement, at, way, reason)
    return found


PLACED = {"hinge", "thrust"}  # ladders on which a level says more than what was lifted before


def _soundly(db: Session, ids: Sequence[int], library: Library, today: dt.date) -> dict[int, set[ReadinessCheck]]:
    """Behind which readiness checks somebody has lifted clean sets with nothing against them."""
    readiness_checks = {
        code: movement.readiness_checks for code, movement in library.movements.items() if movement.readiness_checks
    }
    found: dict[int, set[ReadinessCheck]] = defaultdict(set)
    if ids:
        rows = db.execute(
            _BEHIND_READINESS_CHECKS, {"ids": ids, "day": today, "movements": json.dumps(list(readiness_checks))}
        )
        for athlete_id, movement in rows:
            found[athlete_id] |= set(readiness_checks[movement])
    return found


def proven_days(
    db: Session, ids: Sequence[int], movements: Sequence[str], today: dt.date, rules: Rules
) -> dict[int, dict[str, int]]:
    """Days with clean sets of each movement, far enough back, with nothing against them: (athlete, movement) → days."""
    days: dict[int, dict[str, set[dt.date]]] = defaultdict(lambda: defaultdict(set))
    asked = {"ids": list(ids), "movements": list(movements), "day": today}
    asked["since"] = today - dt.timedelta(days=rules.proven_days)
    for athlete_id, movement, day, flags in db.execute(_CLEAN, asked):
        if not (AGAINST | {DOUBTED}) & set(flags):
            days[athlete_id][movement].add(day)
    return {athlete_id: {code: len(held) for code, held in mine.items()} for athlete_id, mine in days.items()}


def _bar_days(
    db: Session, ids: Sequence[int], library: Library, today: dt.date, rules: Rules
) -> dict[int, dict[Family, int]]:
    """Days of the most-lifted squat and hinge on a bar, of those whose level does not say more."""
    if not ids:
        return {}
    bars = {
        code: movement.family
        for code, movement in library.movements.items()
        if movement.implement in BARS and movement.family in (Family.SQUAT, Family.HINGE)
    }
    found: dict[int, dict[Family, int]] = defaultdict(dict)
    for athlete_id, mine in proven_days(db, ids, list(bars), today, rules).items():
        for code, days in mine.items():
            found[athlete_id][bars[code]] = max(days, found[athlete_id].get(bars[code], 0))
    return found


def _old(known: Mapping[int, Known], today: dt.date, rules: Rules) -> list[int]:
    """Whose screens behind a readiness check have grown old, so that lifting since has to speak for them."""
    line = today - dt.timedelta(days=rules.retest_days)
    return [a for a, mine in known.items() if any(k[0] in GROWS_OLD and r.done_on <= line for k, r in mine.items())]


SCREENED = (
    ReadinessCheck.BARBELL,
    ReadinessCheck.PULL,
    ReadinessCheck.OVERHEAD,
)  # the readiness checks with screens before them


def _lifted_behind(readiness_check: ReadinessCheck) -> Select[str, int]:
    """Who has lifted behind a readiness check since a day, with nothing against it."""
    bars: BindParameter[str] = bindparam(f"bars_{readiness_check.name}", expanding=True)
    sound = (SetEntry.movement.in_(bars), SetEntry.standing, cast(SetEntry.flags, String) == "[]")
    lately = (SetEntry.done_on > bindparam("since"), SetEntry.done_on <= _DAY)
    lifted = select(SetEntry.id).where(SetEntry.athlete_id == Athlete.id, *lately, *sound).correlate(Athlete)
    return select(literal(readiness_check.value), Athlete.id).where(Athlete.id.in_(_IDS), lifted.exists())


_LATELY = union_all(*(_lifted_behind(readiness_check) for readiness_check in SCREENED))


def _lately(
    db: Session, ids: Sequence[int], library: Library, today: dt.date, rules: Rules
) -> dict[int, set[ReadinessCheck]]:
    """Behind which readiness checks somebody has lifted within the retest interval, with nothing against it."""
    found: dict[int, set[ReadinessCheck]] = defaultdict(set)
    if not ids:
        return found
    asked: dict[str, Any] = {"ids": list(ids), "day": today, "since": today - dt.timedelta(days=rules.retest_days)}
    for readiness_check in SCREENED:
        asked[f"bars_{readiness_check.name}"] = [
            code for code, m in library.movements.items() if readiness_check in m.readiness_checks
        ]
    for code, athlete_id in db.execute(_LATELY, asked):
        found[athlete_id].add(ReadinessCheck(code))
    return found


def _shown(db: Session, asked: Mapping[str, object]) -> dict[int, dict[str, dt.date]]:
    """Movements shown in a test with clean sets, and the last day of each."""
    found: dict[int, dict[str, dt.date]] = defaultdict(dict)
    for athlete_id, movement, day, flags in db.execute(_TESTS, asked):
        if not AGAINST & set(flags):
            found[athlete_id][movement] = day
    return found


def _overrides(db: Session, asked: Mapping[str, object]) -> dict[int, dict[ReadinessCheck, Override]]:
    found: dict[int, dict[ReadinessCheck, Override]] = defaultdict(dict)
    for row, name in db.execute(_OVERRIDES, asked):
        found[row.athlete_id][ReadinessCheck(row.readiness_check)] = Override(name, row.at.date(), row.reason)
    return found


def _still_on_the_road(
    ids: Sequence[int],
    known: Mapping[int, Mapping[tuple[str, str], object]],
    overrides: Mapping[int, Mapping[ReadinessCheck, Override]],
) -> list[int]:
    """Who has neither an override nor a witnessed test: for the others nobody need count sessions."""
    shown = {a for a in ids if getattr(known.get(a, {}).get(("witnessed_test", "")), "value", 0)}
    return [a for a in ids if a not in shown and ReadinessCheck.BARBELL not in overrides.get(a, {})]


def _road(
    db: Session, ids: Sequence[int], library: Library, today: dt.date, rules: Rules
) -> dict[int, tuple[int, int]]:
    """Days with sound work on the road to the bar, and the days from the first to the last.

    What was lifted against a stop, a limit or a readiness check not passed is kept, but opens none.
    """
    if not ids:
        return {}
    days: dict[int, set[dt.date]] = defaultdict(set)
    rows = db.execute(
        select(SetEntry.athlete_id, SetEntry.done_on, SetEntry.flags)
        .where(
            SetEntry.athlete_id.in_(ids),
            SetEntry.movement.in_(road_movements(library)),
            SetEntry.standing,
            SetEntry.done_on <= today,
            ~SetEntry.fault_breaking,
            SetEntry.pain <= rules.earned_pain,
        )
        .distinct()
    )
    for athlete_id, day, flags in rows:
        if not AGAINST & set(flags):
            days[athlete_id].add(day)
    return {athlete_id: (len(mine), (max(mine) - min(mine)).days) for athlete_id, mine in days.items()}


def _lifted_before(db: Session, stops: Mapping[int, Sequence[CoreStop]], library: Library) -> set[int]:
    """Who had lifted a bar before the oldest stop that is open: it keeps the readiness check from being passed only for
    those who never did.
    """
    if not stops:
        return set()
    bars = [code for code, movement in library.movements.items() if movement.implement in BARS]
    firsts = {athlete_id: min(stop.at.date() for stop in mine) for athlete_id, mine in stops.items()}
    rows = db.execute(
        select(SetEntry.athlete_id, func.min(SetEntry.done_on), SetEntry.flags)
        .where(SetEntry.athlete_id.in_(firsts), SetEntry.movement.in_(bars), SetEntry.standing)
        .group_by(SetEntry.athlete_id, SetEntry.flags)
    )
    return {
        athlete_id for athlete_id, day, flags in rows if day and day <= firsts[athlete_id] and not AGAINST & set(flags)
    }
