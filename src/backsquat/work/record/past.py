"""A log kept elsewhere, taken in: sets of past days as they were written down; one undoable act, the same log once."""

import datetime as dt
import hashlib
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.loads.mass import Unit
from backsquat.storage.models import Athlete, BodyMass, Change, SetEntry
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.log.beliefs import bring_up_to_date
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.record.record import Lifter, SetFacts, keep_past, lifter, never_happened
from backsquat.work.squad.athletes import athlete_of, rules_for


@dataclass(frozen=True)
class PastSet:
    """One set of a log: in which line it stood, whose, what, when."""

    place: int
    athlete_id: int
    movement: str
    done_on: dt.date
    load: Decimal
    unit: Unit
    reps: int
    reserve_reps: int | None


@dataclass(frozen=True)
class PastImported:
    """What came of it: the change to undo, sets stored, sets that were here already, what was wrong by line."""

    change: Change | None
    stored: int
    known: int
    left: dict[int, list[Problem]]


def import_past(context: WorkContext, sets: Sequence[PastSet]) -> PastImported:
    """Keep every set that can have been so. A line of which one cannot is left whole."""
    require(context.actor, Act.KEEP_ATHLETES)
    left: dict[int, list[Problem]] = {}
    entries: list[SetEntry] = []
    known = 0
    names = _client_ids(sets)
    for (athlete_id, code), mine in _by_lift(sets).items():
        athlete = athlete_of(context.db, context.squad_id, athlete_id)
        movement = context.library.get(code)
        facts = {id(one): _facts(one, names[id(one)]) for one in mine}
        who, masses = lifter(context, athlete, movement, list(facts.values())), _masses(context.db, athlete)
        for one in mine:
            _weighed(who, masses, one.done_on)
            try:
                entry = keep_past(context, who, facts[id(one)])
            except ImpossibleInput as error:
                left.setdefault(one.place, []).extend(error.problems)
                continue
            known += entry is None
            entries += [entry] if entry is not None else []
    context.db.flush()
    _follow(context, entries)
    change = None
    if entries:
        about: dict[str, Any] = {"what": "log_imported", "subject": "log_imported", "subject_id": context.squad_id}
        change = remember(context, **about, before={"sets": [entry.id for entry in entries]})
    return PastImported(change, len(entries), known, left)


def _by_lift(sets: Sequence[PastSet]) -> dict[tuple[int, str], list[PastSet]]:
    found: dict[tuple[int, str], list[PastSet]] = defaultdict(list)
    for one in sorted(sets, key=lambda one: one.done_on):
        found[one.athlete_id, one.movement].append(one)
    return found


def _client_ids(sets: Sequence[PastSet]) -> dict[int, str]:
    """A name for each set by what it says and its number among the same of its day: a log opened twice is kept once."""
    seen: Counter[str] = Counter()
    found = {}
    for one in sets:
        said = f"{one.athlete_id} {one.movement} {one.done_on} {one.load.normalize()} {one.unit} {one.reps}"
        seen[said] += 1
        found[id(one)] = "past-" + hashlib.sha256(f"{said} {seen[said]}".encode()).hexdigest()[:32]
    return found


def _facts(one: PastSet, client_id: str) -> SetFacts:
    return SetFacts(client_id, one.load, one.unit, one.reps, one.reps, one.reserve_reps, one.done_on)


def _masses(db: Session, athlete: Athlete) -> list[tuple[dt.date, float]]:
    rows = select(BodyMass.measured_on, BodyMass.mass_kg).where(BodyMass.athlete_id == athlete.id)
    ordered = db.execute(rows.order_by(BodyMass.measured_on, BodyMass.id))
    return [(day, float(mass_kg)) for day, mass_kg in ordered]


def _weighed(who: Lifter, masses: Sequence[tuple[dt.date, float]], day: dt.date) -> None:
    """The body mass nearest before the day; the first known one where there is none before."""
    before = [mass_kg for measured_on, mass_kg in masses if measured_on <= day]
    who.body_kg = before[-1] if before else masses[0][1] if masses else None


def _follow(context: WorkContext, entries: Iterable[SetEntry]) -> None:
    """What is believed of each lift from the first of its days on, and what is planned from it."""
    first: dict[tuple[int, str], dt.date] = {}
    for entry in entries:
        key = (entry.athlete_id, entry.movement)
        first[key] = min(first.get(key, entry.done_on), entry.done_on)
    for (athlete_id, movement), day in first.items():
        own = rules_for(context.db.get_one(Athlete, athlete_id), context.rules)
        bring_up_to_date(context.db, athlete_id, movement, day, own)
    for athlete_id in dict.fromkeys(athlete_id for athlete_id, _ in first):
        refresh_athlete(context, athlete_id)


@restores("log_imported")
def take_back_log(context: WorkContext, change: Change) -> None:
    """Undo: each of the sets that still stands is said never to have been lifted."""
    require(context.actor, Act.KEEP_ATHLETES)
    rows = context.db.scalars(select(SetEntry).where(SetEntry.id.in_(change.before["sets"]), SetEntry.standing)).all()
    for entry in rows:
        never_happened(context, entry)
        entry.client_id = f"{entry.client_id}-{entry.id}"  # the log may be opened again
    context.db.flush()
    _follow(context, rows)
