"""The kinds of lists: how each is read against what is here, how its good lines are stored, what is said of it."""

import datetime as dt
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any
from uuid import uuid4

from sqlalchemy.orm import Session

from backsquat.core.errors import Problem
from backsquat.core.readiness.gate import age_years, lacks_consent
from backsquat.core.strength.doubt import doubts
from backsquat.formats.columns import Known, ListKind
from backsquat.formats.fixtures import MatchLine, read_matches
from backsquat.formats.lines import Line, Note, read_lines
from backsquat.formats.past import PastLine, read_past
from backsquat.formats.values import SetRead
from backsquat.pages.request import actor, clock, context, reader, squad_library, squad_rules
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.library.screens import screens_of
from backsquat.work.log.sets import best_of_each
from backsquat.work.record.past import PastSet, take_in_past
from backsquat.work.record.record import SetFacts
from backsquat.work.record.take_in import Incoming, take_in
from backsquat.work.season.matches import MatchFacts, add_matches, match_days
from backsquat.work.squad.athletes import body_masses, squad_athletes
from backsquat.work.squad.columns import heads_of

AnyLine = Line | PastLine | MatchLine


@dataclass(frozen=True)
class Stored:
    """What came of the good lines: the change to undo, a sentence, what was wrong with those that were not taken."""

    change_id: int | None
    words: str
    refused: Mapping[int, Sequence[Problem]]


def known(kind: ListKind) -> Known:
    """What heads of this squad's lists can name."""
    return Known(movement_names(), _screen_names(), heads_of(reader(), context().squad.id, kind.value))


def movement_names() -> dict[str, str]:
    """Name or alias in small letters → code."""
    found: dict[str, str] = {}
    for movement in squad_library().in_use():
        for name in (movement.name, *movement.aliases):
            found.setdefault(name.casefold(), movement.code)
    return found


def _screen_names() -> dict[str, str]:
    screens = screens_of(reader(), context().squad.id)
    return {screen.name.casefold(): code for code, screen in screens.items() if not screen.retired}


def _here() -> dict[str, int]:
    return {athlete.name: athlete.id for athlete in squad_athletes(reader(), context().squad.id)}


def _athletes(kinds: Sequence[str], rows: Sequence[Sequence[str]]) -> Sequence[AnyLine]:
    today = clock().today()
    here = {athlete.id: athlete for athlete in squad_athletes(reader(), context().squad.id)}
    lines = read_lines(rows, kinds, _here(), today)
    agreed = {line.name for line in lines if line.consent}
    for n, line in enumerate(lines):
        notes, was = list(line.doubts), here[line.athlete_id] if line.athlete_id else None
        if was and line.born_on and was.born_on != line.born_on:
            notes.append(Note("born_other", facts={"day": was.born_on.isoformat()}))
        consent = line.name in agreed or (was is not None and was.consent and line.consent is None)
        if line.born_on and lacks_consent(line.born_on, consent, today, squad_rules()):
            notes.append(Note("minor", facts={"years": str(age_years(line.born_on, today))}))
        lines[n] = replace(line, doubts=tuple(notes))
    return lines


def _past(kinds: Sequence[str], rows: Sequence[Sequence[str]]) -> Sequence[AnyLine]:
    lines = read_past(rows, kinds, _here(), movement_names(), clock().today())
    ids = sorted({line.athlete_id for line in lines if line.athlete_id})
    masses = body_masses(reader(), ids, clock().today())
    best = best_of_each(reader(), ids)
    return [_asked(line, masses, best) for line in lines]


def _asked(line: PastLine, masses: Mapping[int, float], best: Mapping[tuple[int, str], float]) -> PastLine:
    """What the floor would ask about a set is said of one in a list too."""
    found: list[Note] = []
    for code, one in line.sets if line.athlete_id else ():
        movement = squad_library().get(code)
        load_kg = float(one.load) * (1 if one.unit.value == "kg" else 0.45359237)
        about = masses.get(line.athlete_id or 0), best.get((line.athlete_id or 0, code))
        asked = doubts(movement, load_kg, one.reps, *about, squad_rules()) if load_kg else []
        found += [Note("asked", facts={"text": problem_words(question)}) for question in asked[:1]]
    return replace(line, doubts=(*line.doubts, *found[:1]))


def _matches(kinds: Sequence[str], rows: Sequence[Sequence[str]]) -> Sequence[AnyLine]:
    here = context()
    return read_matches(rows, kinds, {day for day, _ in match_days(reader(), here.season_id)}, here.season)


def _store_athletes(session: Session, lines: Sequence[AnyLine]) -> Stored:
    told = {n: line for n, line in enumerate(lines) if isinstance(line, Line) and line.says}
    done = take_in(session, actor(), [_incoming(line) for line in told.values()], squad_rules())
    places = list(told)
    parts = [f"{many(done.new, 'athlete')} added", f"{done.changed} changed", f"{many(done.tests, 'test')} kept"]
    parts += [f"{many(done.screens, 'screen result')} kept"] if done.screens else []
    refused = {places[place]: problems for place, problems in done.left.items()}
    return Stored(done.change.id if done.change else None, ", ".join(parts) + ".", refused)


def _incoming(line: Line) -> Incoming:
    about: dict[str, Any] = {name: getattr(line, name) for name in ("name", "athlete_id", "born_on", "mass_kg")}
    about |= {name: getattr(line, name) for name in ("position", "newcomer", "consent", "guardian", "screens")}
    day = line.tested_on or clock().today()
    return Incoming(**about, tests=tuple((code, _facts(found, day)) for code, found in line.tests), day=day)


def _facts(found: SetRead, day: dt.date) -> SetFacts:
    return SetFacts(str(uuid4()), found.load, found.unit, found.reps, found.reps, found.reserve_reps, day)


def _store_past(session: Session, lines: Sequence[AnyLine]) -> Stored:
    sets = [
        PastSet(n, line.athlete_id, code, line.done_on, one.load, one.unit, one.reps, one.reserve_reps)
        for n, line in enumerate(lines)
        if isinstance(line, PastLine) and line.athlete_id and line.done_on
        for code, one in line.sets
    ]
    done = take_in_past(session, actor(), sets, squad_rules())
    words = f"{many(done.kept, 'set')} kept." + (f" {done.known} were here already." if done.known else "")
    return Stored(done.change.id if done.change else None, words, done.left)


def _store_matches(session: Session, lines: Sequence[AnyLine]) -> Stored:
    days: dict[dt.date, MatchFacts] = {}
    for line in lines:
        if isinstance(line, MatchLine) and line.played_on:
            said = MatchFacts(line.played_on, line.important, line.away, line.opponent, line.competition)
            before = days.get(line.played_on, said)
            days[line.played_on] = replace(before, important=before.important or said.important)
    change, count = add_matches(session, actor(), context().season_id, list(days.values()))
    here = f" {len(lines) - count} were here already." if len(lines) > count else ""
    return Stored(change.id if change else None, f"{many(count, 'match', 'es')} added.{here}", {})


def many(count: int, what: str, more: str = "s") -> str:
    """3 athletes"""
    return f"{count} {what}{'' if count == 1 else more}"


Read = Callable[[Sequence[str], Sequence[Sequence[str]]], Sequence[AnyLine]]
READ: dict[ListKind, Read] = {ListKind.ATHLETES: _athletes, ListKind.SETS: _past, ListKind.MATCHES: _matches}
STORE: dict[ListKind, Callable[[Session, Sequence[AnyLine]], Stored]] = {
    ListKind.ATHLETES: _store_athletes,
    ListKind.SETS: _store_past,
    ListKind.MATCHES: _store_matches,
}
