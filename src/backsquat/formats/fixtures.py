"""Lines of a match list: the day, whether it is one that counts, whom it is against, in what, and where."""

import datetime as dt
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from backsquat.core.season.calendar import DaySpan
from backsquat.formats.lines import CellReader, Note
from backsquat.formats.values import read_away, read_day, read_words, read_yes


@dataclass(frozen=True)
class MatchLine:
    """One line as it would be stored; `known`: there is a match on that day already."""

    cells: tuple[str, ...]
    played_on: dt.date | None = None
    important: bool = False
    away: bool = False
    opponent: str = ""
    competition: str = ""
    known: bool = False
    doubts: tuple[Note, ...] = ()
    problems: tuple[Note, ...] = ()

    @property
    def good(self) -> bool:
        """Whether it can be stored."""
        return not self.problems


def read_matches(
    rows: Sequence[Sequence[str]], kinds: Sequence[str], here: Collection[dt.date], season: DaySpan
) -> list[MatchLine]:
    """Every line read; a day is a match's once."""
    found: list[MatchLine] = []
    seen = set(here)
    for cells in rows:
        reader = CellReader(cells, kinds, season.last_week)
        day = reader.read("day", lambda text: read_day(text, season.last_week))
        important = reader.read("important", read_yes) is True
        away = reader.read("away", read_away) is True
        opponent, competition = (reader.read(name, read_words) or "" for name in ("opponent", "competition"))
        if day is None and not reader.problems:
            reader.problems.append(Note("day_missing"))
        if day is not None and not 0 <= season.index(day) < season.weeks:
            reader.problems.append(Note("outside_season", facts={"day": day.isoformat()}))
        known = day in seen
        if day is not None:
            seen.add(day)
        noted = tuple(reader.doubts), tuple(reader.problems)
        found.append(MatchLine(tuple(cells), day, important, away, opponent, competition, known, *noted))
    return found
