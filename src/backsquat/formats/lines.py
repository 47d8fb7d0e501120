"""Lines of a list of athletes: what each column holds, and what each line says, with what is doubtful or wrong about it."""

import datetime as dt
import difflib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import TypeVar

from backsquat.formats.columns import SCREEN, TEST
from backsquat.formats.table import NO_VALUE
from backsquat.formats.values import (
    Read,
    SetRead,
    Unreadable,
    plain_name,
    read_day,
    read_mass,
    read_set,
    read_value,
    read_yes,
    same_name,
)

T = TypeVar("T")
CLOSE = 0.82


@dataclass(frozen=True)
class Note:
    """Something doubtful or wrong in a line: in which column, and facts for the sentence."""

    code: str
    column: int = -1
    facts: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class ListLine:
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
    screens: tuple[tuple[str, str, float], ...] = ()  # code, side, value
    doubts: tuple[Note, ...] = ()
    problems: tuple[Note, ...] = ()

    @property
    def good(self) -> bool:
        """Whether it can be stored."""
        return not self.problems

    @property
    def says(self) -> bool:
        """Whether it says anything besides whose line it is."""
        said = (self.born_on, self.mass_kg, self.position, self.guardian, self.tests, self.screens)
        return self.athlete_id is None or any(said) or self.newcomer is not None or self.consent is not None


def read_lines(
    rows: Sequence[Sequence[str]], kinds: Sequence[str], here: Mapping[str, int], today: dt.date
) -> list[ListLine]:
    """Every line read; `here`: names of those in the squad → id. A second line of one name adds to the first."""
    known, lines = {same_name(name): (name, id) for name, id in here.items()}, list[ListLine]()
    seen: dict[str, int] = {}
    for number, cells in enumerate(rows):
        line, key = CellReader(cells, kinds, today).line(known), ""
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


class CellReader:
    """Reads one line, cell by cell, and gathers what is doubtful and wrong about it."""

    def __init__(self, cells: Sequence[str], kinds: Sequence[str], today: dt.date) -> None:
        self.cells, self.kinds, self.today = tuple(cells), kinds, today
        self.doubts: list[Note] = []
        self.problems: list[Note] = []

    def at(self, kind: str) -> tuple[int, str]:
        """The column of a kind and what stands in it."""
        n = self.kinds.index(kind) if kind in self.kinds else -1
        text = self.cells[n].strip() if 0 <= n < len(self.cells) else ""
        if text == NO_VALUE:
            self.problems.append(Note("no_value", n))
            return n, ""
        return n, text

    def read(self, kind: str, read: Callable[[str], Read[T]]) -> T | None:
        """What is meant by it; None where nothing stands there, or nothing that can be read."""
        n, text = self.at(kind)
        if not text:
            return None
        try:
            found = read(text)
        except Unreadable as error:
            self.problems.append(Note(str(error), n, {"text": text}))
            return None
        self.doubts += [Note(code, n, {"text": text}) for code in found.doubts]
        return found.value

    def line(self, known: Mapping[str, tuple[str, int]]) -> ListLine:
        """The line as it would be stored."""
        name, athlete_id = self.who(known)
        tests = [
            (kind.removeprefix(TEST), found)
            for kind in self.kinds
            if kind.startswith(TEST) and (found := self.read(kind, read_set)) is not None
        ]
        screens = [
            (code, side, value)
            for kind in self.kinds
            if kind.startswith(SCREEN) and (value := self.read(kind, read_value)) is not None
            for code, _, side in [kind.removeprefix(SCREEN).partition(":")]
        ]
        return ListLine(
            self.cells,
            name,
            athlete_id,
            born_on=self.read("born", lambda text: read_day(text, self.today)),
            mass_kg=self.read("mass", read_mass),
            position=self.at("position")[1],
            newcomer=self.read("newcomer", read_yes),
            consent=self.read("consent", read_yes),
            guardian=self.at("guardian")[1],
            tested_on=self.read("tested", lambda text: read_day(text, self.today)),
            tests=tuple(tests),
            screens=tuple(screens),
            doubts=tuple(self.doubts),
            problems=tuple(self.problems),
        )

    def who(self, known: Mapping[str, tuple[str, int]]) -> tuple[str, int | None]:
        """Whose line it is: the name, and the id of somebody who is here already."""
        n, text = self.at("name")
        if not text:
            parts = [self.at("first")[1], self.at("last")[1]]
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
