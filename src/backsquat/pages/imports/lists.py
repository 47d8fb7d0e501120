"""The kinds of lists: how each is read against what is here, how its good lines are stored, what is said of it."""

import datetime as dt
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any
from uuid import uuid4

from sqlalchemy.orm import Session

from backsquat.core.errors import Problem
from backsquat.core.readiness.checklist import age_years, lacks_consent
from backsquat.core.strength.doubt import doubts
from backsquat.formats.columns import KnownWords, ListKind
from backsquat.formats.fixtures import MatchLine, read_matches
from backsquat.formats.lines import ListLine, Note, read_lines
from backsquat.formats.past import PastLine, read_past
from backsquat.formats.values import SetRead
from backsquat.pages.request import acting, clock, context, reader, squad_library, squad_rules
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.library.screens import screens_of
from backsquat.work.log.sets import best_of_each
from backsquat.work.record.import_list import Incoming, import_list
from backsquat.work.record.past import PastSet, import_past
from backsquat.work.record.record import SetFacts
from backsquat.work.season.matches import MatchFacts, add_matches, match_days
from backsquat.work.squad.athletes import body_masses, squad_athletes
from backsquat.work.squad.columns import MOVEMENT_WORDS, NAME_WORDS, heads_of, remember_heads

AnyLine = ListLine | PastLine | MatchLine


ASKED_MOST = 40


@dataclass(frozen=True)
class Words:
    """What words of a list mean, as somebody has answered: in small letters → movement; as written → athlete."""

    movements: dict[str, str] = field(default_factory=dict)
    names: dict[str, int] = field(default_factory=dict)

    def remember(self, db: Session) -> None:
        """For the next list of the squad."""
        remember_heads(acting(db), MOVEMENT_WORDS, self.movements)
        remember_heads(acting(db), NAME_WORDS, {word: str(one) for word, one in self.names.items()})


@dataclass(frozen=True)
class AskedWord:
    """A word of the list that stands in many lines and is answered once. `of`: movement or name; `means`: as answered,
    or as it was read meanwhile.
    """

    of: str
    word: str
    lines: int
    means: str
    written: str  # as it stands in the list


def asked_words(lines: Sequence[AnyLine], words: Words) -> list[AskedWord]:
    """The words nobody here knows, those of most lines first; and those that were answered, with the answer."""
    counts: dict[tuple[str, str], int] = {}
    written: dict[tuple[str, str], str] = {}
    means: dict[tuple[str, str], str] = {("movement", word): code for word, code in words.movements.items()}
    means |= {("name", word): str(one) for word, one in words.names.items()}
    codes = movement_names()
    for line in lines:
        if isinstance(line, PastLine):
            for key, read_as, text in _unknown_in(line):
                counts[key] = counts.get(key, 0) + 1
                written.setdefault(key, text)
                if read_as:
                    means.setdefault(key, codes.get(read_as, ""))
    found = [
        AskedWord(*key, counts.get(key, 0), means.get(key, ""), written.get(key, key[1])) for key in {**counts, **means}
    ]
    return sorted(found, key=lambda one: (-one.lines, one.word))[:ASKED_MOST]


def _unknown_in(line: PastLine) -> Iterator[tuple[tuple[str, str], str, str]]:
    """((of, word), as which movement it was read meanwhile, as it is written)."""
    for note in (*line.problems, *line.doubts):
        if note.code in ("movement_unknown", "movement_close"):
            text = note.facts["text"]
            yield ("movement", text.casefold().strip()), note.facts.get("name", ""), text
        if note.code == "not_here":
            yield ("name", note.facts["name"]), "", note.facts["name"]


@dataclass(frozen=True)
class Stored:
    """What came of the good lines: the change to undo, a sentence, what was wrong with those that were not taken."""

    change_id: int | None
    words: str
    refused: Mapping[int, Sequence[Problem]]


def known(kind: ListKind) -> KnownWords:
    """What heads of this squad's lists can name."""
    return KnownWords(movement_names(), _screen_names(), heads_of(reader(), context().squad.id, kind.value))


def movement_names() -> dict[str, str]:
    """Name, alias or the squad's own word in small letters → code."""
    library, found = squad_library(), dict[str, str]()
    for movement in library.in_use():
        for name in (movement.name, *movement.aliases):
            found.setdefault(name.casefold(), movement.code)
    own = heads_of(reader(), context().squad.id, MOVEMENT_WORDS)
    return found | {word: code for word, code in own.items() if code in library.movements}


def _screen_names() -> dict[str, str]:
    screens = screens_of(reader(), context().squad.id)
    return {screen.name.casefold(): code for code, screen in screens.items() if not screen.retired}


def _here(words: Words) -> dict[str, int]:
    """Name, or how the squad's own lists write it → id. Who is here by the full name is never taken for another."""
    names = {athlete.name: athlete.id for athlete in squad_athletes(reader(), context().squad.id)}
    by_number = {str(one): one for one in names.values()}
    kept = heads_of(reader(), context().squad.id, NAME_WORDS)
    said = {word: by_number[one] for word, one in kept.items() if one in by_number} | words.names
    return {word: one for word, one in said.items() if one in names.values()} | names


def _athletes(kinds: Sequence[str], rows: Sequence[Sequence[str]], words: Words) -> Sequence[AnyLine]:
    today = clock().today()
    here = {athlete.id: athlete for athlete in squad_athletes(reader(), context().squad.id)}
    lines = read_lines(rows, kinds, _here(words), today)
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


def _past(kinds: Sequence[str], rows: Sequence[Sequence[str]], words: Words) -> Sequence[AnyLine]:
    lines = read_past(rows, kinds, _here(words), movement_names() | words.movements, clock().today())
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


def _matches(kinds: Sequence[str], rows: Sequence[Sequence[str]], _words: Words) -> Sequence[AnyLine]:
    here = context()
    return read_matches(rows, kinds, {day for day, _ in match_days(reader(), here.season_id)}, here.season)


def _store_athletes(db: Session, lines: Sequence[AnyLine]) -> Stored:
    told = {n: line for n, line in enumerate(lines) if isinstance(line, ListLine) and line.says}
    done = import_list(acting(db), [_incoming(line) for line in told.values()])
    places = list(told)
    parts = [f"{many(done.new, 'athlete')} added", f"{done.changed} changed", f"{many(done.tests, 'test')} kept"]
    parts += [f"{many(done.screens, 'screen result')} kept"] if done.screens else []
    refused = {places[place]: problems for place, problems in done.left.items()}
    return Stored(done.change.id if done.change else None, ", ".join(parts) + ".", refused)


def _incoming(line: ListLine) -> Incoming:
    about: dict[str, Any] = {name: getattr(line, name) for name in ("name", "athlete_id", "born_on", "mass_kg")}
    about |= {name: getattr(line, name) for name in ("position", "newcomer", "consent", "guardian", "screens")}
    day = line.tested_on or clock().today()
    return Incoming(**about, tests=tuple((code, _facts(found, day)) for code, found in line.tests), day=day)


def _facts(found: SetRead, day: dt.date) -> SetFacts:
    return SetFacts(str(uuid4()), found.load, found.unit, found.reps, found.reps, found.reserve_reps, day)


def _store_past(db: Session, lines: Sequence[AnyLine]) -> Stored:
    sets = [
        PastSet(n, line.athlete_id, code, line.done_on, one.load, one.unit, one.reps, one.reserve_reps)
        for n, line in enumerate(lines)
        if isinstance(line, PastLine) and line.athlete_id and line.done_on
        for code, one in line.sets
    ]
    done = import_past(acting(db), sets)
    words = f"{many(done.stored, 'set')} kept." + (f" {done.known} were here already." if done.known else "")
    return Stored(done.change.id if done.change else None, words, done.left)


def _store_matches(db: Session, lines: Sequence[AnyLine]) -> Stored:
    days: dict[dt.date, MatchFacts] = {}
    for line in lines:
        if isinstance(line, MatchLine) and line.played_on:
            said = MatchFacts(line.played_on, line.important, line.away, line.opponent, line.competition)
            before = days.get(line.played_on, said)
            days[line.played_on] = replace(before, important=before.important or said.important)
    change, count = add_matches(acting(db), context().season_id, list(days.values()))
    here = f" {len(lines) - count} were here already." if len(lines) > count else ""
    return Stored(change.id if change else None, f"{many(count, 'match', 'es')} added.{here}", {})


def many(count: int, what: str, more: str = "s") -> str:
    """3 athletes"""
    return f"{count} {what}{'' if count == 1 else more}"


Read = Callable[[Sequence[str], Sequence[Sequence[str]], Words], Sequence[AnyLine]]
READ: dict[ListKind, Read] = {ListKind.ATHLETES: _athletes, ListKind.SETS: _past, ListKind.MATCHES: _matches}
STORE: dict[ListKind, Callable[[Session, Sequence[AnyLine]], Stored]] = {
    ListKind.ATHLETES: _store_athletes,
    ListKind.SETS: _store_past,
    ListKind.MATCHES: _store_matches,
}
