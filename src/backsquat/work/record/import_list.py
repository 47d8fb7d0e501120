"""A list of athletes taken in: who is new, what is new of those who are here, tests, screens; one undoable act."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from sqlalchemy import delete, func, select

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.storage.models import Athlete, BodyMass, Change, ScreenResult, SetEntry
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.screens import Value, record_result, record_results
from backsquat.work.record.outside import log_test
from backsquat.work.record.record import SetFacts, take_entry_back
from backsquat.work.squad.athletes import FACTS, AthleteFacts, athlete_of, restore_athlete, save_athlete, weigh_on


@dataclass(frozen=True)
class Incoming:
    """One line: who, what is known of them, their tests as (movement, set). None: nothing was said of it."""

    name: str
    athlete_id: int | None
    born_on: dt.date | None
    mass_kg: Decimal | None = None
    position: str = ""
    newcomer: bool | None = None
    consent: bool | None = None
    guardian: str = ""
    tests: tuple[tuple[str, SetFacts], ...] = ()
    screens: tuple[tuple[str, str, float], ...] = ()  # screen, side, value
    day: dt.date | None = None  # of the body mass and the screens; today without one


@dataclass(frozen=True)
class Imported:
    """What came of it: the change to undo, and what was wrong with the lines that were not taken, by their place."""

    change: Change | None
    new: int
    changed: int
    tests: int
    screens: int
    left: dict[int, list[Problem]]


def import_list(context: WorkContext, lines: Sequence[Incoming]) -> Imported:
    """Store every line that can be; one that cannot leaves the others, and nothing of itself."""
    require(context.actor, Act.KEEP_ATHLETES)
    left: dict[int, list[Problem]] = {}
    new: dict[str, int] = {}
    before: dict[int, dict[str, object]] = {}
    tests: list[int] = []
    found: list[int] = []
    newest = context.db.scalar(select(func.max(BodyMass.id))) or 0
    for place, line in enumerate(lines):
        try:
            with context.db.begin_nested():
                athlete, was = _person(context, line, new)
                logged = [log_test(context, athlete.id, code, facts).entry.id for code, facts in line.tests]
                values = [Value(code, side, value) for code, side, value in line.screens]
                rows = record_results(context, athlete.id, values, line.day or context.today) if values else []
                if line.mass_kg is not None and line.day not in (None, context.today):
                    weigh_on(context, athlete.id, line.mass_kg, line.day)
        except ImpossibleInput as error:
            left[place] = list(error.problems)
            continue
        if was is None:
            new.setdefault(line.name, athlete.id)
        elif athlete.id not in new.values():
            before.setdefault(athlete.id, was)
        tests += logged
        found += [row.id for row in rows if row is not None]
    for athlete_id in (*new.values(), *before):
        refresh_athlete(context, athlete_id)
    kept = {"new": list(new.values()), "before": {str(id): was for id, was in before.items()}, "tests": tests}
    weighed = select(BodyMass.id).where(BodyMass.id > newest, BodyMass.athlete_id.not_in(new.values()))
    kept |= {"screens": found, "masses": list(context.db.scalars(weighed))}  # who is put away keeps theirs
    done = bool(new or before)
    change = (
        remember(context, what="imported", subject="imported", subject_id=context.squad_id, before=kept)
        if done
        else None
    )
    return Imported(change, len(new), len(before), len(tests), len(found), left)


def _person(context: WorkContext, line: Incoming, new: dict[str, int]) -> tuple[Athlete, dict[str, object] | None]:
    """Whoever the line is about, with what is new of them; and what was known before (None: nobody)."""
    known_id = line.athlete_id or new.get(line.name)
    if known_id is None:
        if line.born_on is None:
            raise ImpossibleInput(Problem("born_on", "missing"))
        facts = AthleteFacts(
            line.name,
            line.born_on,
            line.mass_kg if line.day in (None, context.today) else None,
            line.position,
            line.newcomer is not False,
            bool(line.consent),
            line.guardian,
        )
        return save_athlete(context, facts), None
    athlete = athlete_of(context.db, context.squad_id, known_id)
    was: dict[str, object] = {name: getattr(athlete, name) for name in FACTS}
    was["born_on"] = athlete.born_on.isoformat()
    facts = AthleteFacts(
        athlete.name,
        line.born_on or athlete.born_on,
        line.mass_kg if line.day in (None, context.today) else None,
        line.position or athlete.position,
        athlete.newcomer if line.newcomer is None else line.newcomer,
        athlete.consent if line.consent is None else line.consent,
        line.guardian,
    )
    return save_athlete(context, facts, athlete.id), was


@restores("imported")
def take_back_list(context: WorkContext, change: Change) -> None:
    """Undo: who was new is put away with the log kept, the others are what they were, the tests are taken back."""
    require(context.actor, Act.KEEP_ATHLETES)
    for entry_id in change.before["tests"]:
        entry = context.db.get(SetEntry, entry_id)
        if entry is not None and entry.standing:
            take_entry_back(context, entry)
    context.db.execute(delete(BodyMass).where(BodyMass.id.in_(change.before.get("masses", []))))
    for row in context.db.scalars(select(ScreenResult).where(ScreenResult.id.in_(change.before.get("screens", [])))):
        if not row.replaced:
            record_result(context, row.athlete_id, Value(row.screen, row.side, None), row.done_on)
    was = change.before["before"] | {str(athlete_id): {"active": False} for athlete_id in change.before["new"]}
    for athlete_id, facts in was.items():
        restore_athlete(context, Change(subject_id=int(athlete_id), before=facts))
    context.db.flush()
    for athlete_id in change.before["before"]:
        refresh_athlete(context, int(athlete_id))
