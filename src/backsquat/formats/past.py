"""Lines of a log somebody kept: who, when, and the sets, a line each or a movement a column."""

import datetime as dt
import difflib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.mass import Unit
from backsquat.formats.columns import TEST
from backsquat.formats.lines import CLOSE, CellReader, Note
from backsquat.formats.table import NO_VALUE
from backsquat.formats.values import Read, SetRead, Unreadable, read_day, read_mass, read_sets, read_whole, same_name


@dataclass(frozen=True)
class PastLine:
    """One line as it would be stored: sets as (movement, set), in their order."""

    cells: tuple[str, ...]
    name: str = ""
    athlete_id: int | None = None
    done_on: dt.date | None = None
    sets: tuple[tuple[str, SetRead], ...] = ()
    doubts: tuple[Note, ...] = ()
    problems: tuple[Note, ...] = ()

    @property
    def good(self) -> bool:
        """Whether it can be stored."""
        return not self.problems


def read_past(
    rows: Sequence[Sequence[str]],
    kinds: Sequence[str],
    here: Mapping[str, int],
    movements: Mapping[str, str],
    today: dt.date,
) -> list[PastLine]:
    """Every line read. A name, day or movement that is left out is the one above, as people write it."""
    known = {same_name(name): (name, id) for name, id in here.items()}
    filled = filled_down(rows, kinds)
    read = (_line(CellReader(cells, kinds, today), known, movements) for cells in filled)
    return [replace(line, cells=tuple(cells)) for line, cells in zip(read, rows, strict=True)]


def filled_down(rows: Sequence[Sequence[str]], kinds: Sequence[str]) -> list[tuple[str, ...]]:
    """The lines with the name, day and movement of the one above where theirs are left out: theirs whatever goes."""
    above: dict[str, str] = {}
    found = []
    for cells in rows:
        filled = list(cells)
        for kind in ("name", "first", "last", "day", "movement"):
            place = kinds.index(kind) if kind in kinds else -1
            if 0 <= place < len(filled):
                filled[place] = filled[place].strip() or above.get(kind, "")
                above[kind] = filled[place]
        found.append(tuple(filled))
    return found


def _line(reader: CellReader, known: Mapping[str, tuple[str, int]], movements: Mapping[str, str]) -> PastLine:
    name, athlete_id = reader.who(known)
    if name and athlete_id is None:
        reader.problems.append(Note("not_here", facts={"name": name}))
    day = reader.read("day", lambda text: read_day(text, reader.today))
    if day is None and not reader.problems:
        reader.problems.append(Note("day_missing"))
    sets = [*_own_set(reader, movements), *_by_column(reader)]
    if not sets and not reader.problems:
        reader.problems.append(Note("set_missing"))
    return PastLine((), name, athlete_id, day, tuple(sets), tuple(reader.doubts), tuple(reader.problems))


def _by_column(reader: CellReader) -> list[tuple[str, SetRead]]:
    """Sets under the names of movements."""
    columns = [kind for kind in reader.kinds if kind.startswith(TEST)]
    return [(kind.removeprefix(TEST), one) for kind in columns for one in reader.read(kind, read_sets) or ()]


def _own_set(reader: CellReader, movements: Mapping[str, str]) -> list[tuple[str, SetRead]]:
    """The set of a line that names its movement: in one cell, or in load and reps."""
    place, text = reader.at("movement")
    written = reader.read("set", read_sets) or ()
    load, reps = reader.read("load", _load), reader.read("reps", read_whole)
    reserve, count = reader.read("reserve", read_whole), reader.read("sets", read_whole)
    if not text and not written and load is None:
        return []
    code = _movement(reader, place, text, movements)
    if load is not None and reps is None and not written:
        reader.problems.append(Note("reps_missing"))
        return []
    if load is not None and reps is not None:
        written = (SetRead(load[0], load[1], reps, reserve),) * max(1, min(count or 1, 12))
    return [(code, one) for one in written] if code else []


def _load(text: str) -> Read[tuple[Decimal, Unit]]:
    """A load with its unit; kg where none is written."""
    pounds = "lb" in text.lower()
    try:
        found = read_mass(text.lower().replace("lbs", "").replace("lb", "") if pounds else text)
    except (Unreadable, ImpossibleInput):
        raise Unreadable("number_unread") from None
    return Read((found.value, Unit.LB if pounds else Unit.KG))


def _movement(reader: CellReader, place: int, text: str, movements: Mapping[str, str]) -> str:
    plain = text.casefold().strip()
    if not plain or plain == NO_VALUE:
        reader.problems.append(Note("movement_missing", place))
        return ""
    if plain == "squat" and "back squat" in movements:
        plain = "back squat"
    if plain in movements:
        return movements[plain]
    close = difflib.get_close_matches(plain, movements, n=1, cutoff=CLOSE)
    if not close:
        reader.problems.append(Note("movement_unknown", place, {"text": text}))
        return ""
    reader.doubts.append(Note("movement_close", place, {"text": text, "name": close[0]}))
    return movements[close[0]]
