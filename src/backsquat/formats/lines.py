"""Lines of a list of athletes: what each column holds, and what each line says, with what is doubtful or wrong about it."""

import datetime as dt
import difflib
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import TypeVar

from backsquat.formats.table import NO_VALUE, ROWS_MOST, Table
from backsquat.formats.values import (
    Read,
    SetRead,
    Unreadable,
    plain_name,
    read_day,
    read_mass,
    read_set,
    read_yes,
    same_name,
)

T = TypeVar("T")
HEAD_WITHIN, CLOSE = 15, 0.82
TEST = "test:"  # before the code of a movement
WORDS = {  # column → what its head may say, in a few languages of the sport
    "name": ("name", "athlete", "player", "spieler", "spielerin", "navn", "nom", "full name", "who"),
    "first": ("first name", "first", "given name", "vorname", "forename"),
    "last": ("last name", "last", "surname", "family name", "nachname"),
    "born": ("born", "birthday", "date of birth", "dob", "birth date", "born on", "geburtstag", "birth"),
    "mass": ("body mass", "bodyweight", "body weight", "weight", "bw", "mass", "gewicht"),
    "position": ("position", "pos", "role"),
    "newcomer": ("newcomer", "beginner", "new to lifting", "novice"),
    "consent": ("consent", "guardian consent", "parent ok", "parental consent"),
    "guardian": ("guardian", "parent"),
    "tested": ("tested", "tested on", "test date", "date", "datum"),
}
KINDS = (*WORDS, "")


@dataclass(frozen=True)
class Note:
    """Something doubtful or wrong in a line: in which column, and facts for the sentence."""

    code: str
    column: int = -1
    facts: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Line:
    """One line as it would be stored. `athlete_id`: somebody who is here already."""

    cells: tuple[str, ...]
    name: str = ""
    athlete_id: int | None = None
    born_on: dt.date | None = None
    mass_kg: Decimal | None = None
    position: str = ""
    newcomer: bool | None = None
    consent: bool | None = None
    guardian: str = ""
    tested_on: dt.date | None = None
    tests: tuple[tuple[str, SetRead], ...] = ()
    doubts: tuple[Note, ...] = ()
    problems: tuple[Note, ...] = ()

    @property
    def good(self) -> bool:
        """Whether it can be stored."""
        return not self.problems


def guess(head: str, movements: Mapping[str, str]) -> str:
    """What a column holds by its head; empty where that is not known. `movements`: name or alias → code."""
    plain = " ".join(re.sub(r"[^\w ]", " ", head.casefold().replace("_", " ")).split())
    for kind, words in WORDS.items():
        if plain in words:
            return kind
    bare = re.sub(r"\b(1rm|rm|max|test|kg|lb|lbs|best|e1rm)\b", "", plain).strip()
    if bare in movements:
        return TEST + movements[bare]
    if bare == "squat" and "back squat" in movements:
        return TEST + movements["back squat"]
    if bare in ("rdl", "deadlift") and "romanian deadlift" in movements and bare == "rdl":
        return TEST + movements["romanian deadlift"]
    for kind, words in WORDS.items():
        if any(plain.startswith(f"{word} ") for word in words):
            return kind
    return ""


def laid_out(table: Table, movements: Mapping[str, str]) -> tuple[list[str], list[tuple[str, ...]]]:
    """What the columns hold, and the lines under their heads; heads may stand some lines down."""
    known = [[guess(cell, movements) for cell in row] for row in table.rows[:HEAD_WITHIN]]
    best = max(range(len(known)), key=lambda n: len({kind for kind in known[n] if kind}))
    if len({kind for kind in known[best] if kind}) < 1:
        return [""] * len(table.rows[0]), list(table.rows[:ROWS_MOST])
    kinds, seen = [], set[str]()
    for kind in known[best]:
        kinds.append("" if kind in seen else kind)
        seen.add(kind)
    return kinds, list(table.rows[best + 1 :][:ROWS_MOST])


def read_lines(
    rows: Sequence[Sequence[str]], kinds: Sequence[str], here: Mapping[str, int], today: dt.date
) -> list[Line]:
    """Every line read; `here`: names of those in the squad → id. A second line of one name adds to the first."""
    known, lines = {same_name(name): (name, id) for name, id in here.items()}, list[Line]()
    seen: dict[str, int] = {}
    for number, cells in enumerate(rows):
        line, key = _Reader(cells, kinds, today).line(known), ""
        if line.name and line.athlete_id is None:
            key = same_name(line.name)
            if key in seen:
                said = Note("twice", facts={"line": str(seen[key] + 1)})
                line = replace(line, name=lines[seen[key]].name, doubts=(*line.doubts, said))
            elif line.born_on is None:
                line = replace(line, problems=(*line.problems, Note("born_missing")))
        if key and line.good:
            seen.setdefault(key, number)
        lines.append(line)
    return lines


class _Reader:
    """Reads one line, cell by cell."""

    def __init__(self, cells: Sequence[str], kinds: Sequence[str], today: dt.date) -> None:
        self.cells, self.kinds, self.today = tuple(cells), kinds, today
        self.doubts: list[Note] = []
        self.problems: list[Note] = []

    def _at(self, kind: str) -> tuple[int, str]:
        n = self.kinds.index(kind) if kind in self.kinds else -1
        text = self.cells[n].strip() if 0 <= n < len(self.cells) else ""
        if text == NO_VALUE:
            self.problems.append(Note("no_value", n))
            return n, ""
        return n, text

    def _read(self, kind: str, read: Callable[[str], Read[T]]) -> T | None:
        n, text = self._at(kind)
        if not text:
            return None
        try:
            found = read(text)
        except Unreadable as error:
            self.problems.append(Note(str(error), n, {"text": text}))
            return None
        self.doubts += [Note(code, n, {"text": text}) for code in found.doubts]
        return found.value

    def line(self, known: Mapping[str, tuple[str, int]]) -> Line:
        """The line as it would be stored."""
        name, athlete_id = self._name(known)
        tests = [
            (kind.removeprefix(TEST), found)
            for kind in self.kinds
            if kind.startswith(TEST) and (found := self._read(kind, read_set)) is not None
        ]
        return Line(
            self.cells,
            name,
            athlete_id,
            born_on=self._read("born", lambda text: read_day(text, self.today)),
            mass_kg=self._read("mass", read_mass),
            position=self._at("position")[1],
            newcomer=self._read("newcomer", read_yes),
            consent=self._read("consent", read_yes),
            guardian=self._at("guardian")[1],
            tested_on=self._read("tested", lambda text: read_day(text, self.today)),
            tests=tuple(tests),
            doubts=tuple(self.doubts),
            problems=tuple(self.problems),
        )

    def _name(self, known: Mapping[str, tuple[str, int]]) -> tuple[str, int | None]:
        n, text = self._at("name")
        if not text:
            parts = [self._at("first")[1], self._at("last")[1]]
            text = " ".join(part for part in parts if part)
        if not text:
            self.problems.append(Note("name_missing"))
            return "", None
        name, key = plain_name(text), same_name(text)
        if key in known:
            return known[key]
        close = difflib.get_close_matches(key, known, n=1, cutoff=CLOSE)
        if close:
            self.doubts.append(Note("name_close", n, {"name": known[close[0]][0]}))
        return name, None
