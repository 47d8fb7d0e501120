"""What is handed out as tables: of each column its head, with its unit, and what stands in it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from backsquat.core.movements.library import Library
from backsquat.formats.written import Value, Written
from backsquat.pages.exports.phrases import NUMBER_BY, STATES
from backsquat.work.exports.log import LoggedLine
from backsquat.work.exports.plan import PlanLine

Line = TypeVar("Line")


@dataclass(frozen=True)
class Reader:
    """For whom a table is written: the movements' names there, and whether pain may be read of."""

    library: Library
    trusted_with_health: bool

    def name(self, code: str) -> str:
        """A movement's name; its code where the library holds it no more."""
        found = self.library.movements.get(code)
        return found.name if found else code

    def faults(self, line: LoggedLine) -> str:
        """What was seen, in the words of the movement."""
        movement = self.library.movements.get(line.entry.movement)
        seen = [(movement.fault(code) if movement else None, code) for code in line.entry.faults]
        return ", ".join(fault.look if fault else code for fault, code in seen)


@dataclass(frozen=True)
class Column(Generic[Line]):
    """A head, and what of a line stands under it."""

    head: str
    value: Callable[[Line, Reader], Value]


def written(title: str, columns: Sequence[Column[Line]], lines: Sequence[Line], reader: Reader) -> Written:
    """The lines as a table of these columns."""
    rows = [[column.value(line, reader) for column in columns] for line in lines]
    return Written(title, [column.head for column in columns], rows)


LOG: tuple[Column[LoggedLine], ...] = (
    Column("date", lambda line, _: line.entry.done_on),
    Column("athlete", lambda line, _: line.athlete),
    Column("movement", lambda line, reader: reader.name(line.entry.movement)),
    Column("effort", lambda line, _: line.entry.effort.value),
    Column("block", lambda line, _: line.block or ""),
    Column("week of block", lambda line, _: None if line.week is None else line.week + 1),
    Column("set", lambda line, _: line.entry.set_number),
    Column("side", lambda line, _: line.entry.side),
    Column("load", lambda line, _: line.entry.load_amount),
    Column("unit", lambda line, _: line.entry.load_unit),
    Column("load (kg)", lambda line, _: line.entry.load_kg),
    Column("body moved (kg)", lambda line, _: line.entry.carried_kg),
    Column("reps", lambda line, _: line.entry.reps),
    Column("held (s)", lambda line, _: line.entry.hold_s),
    Column("reps to depth", lambda line, _: line.entry.reps_to_depth),
    Column("depth", lambda line, _: line.entry.depth_standard.replace("_", " ")),
    Column("RIR", lambda line, _: line.entry.reserve_reps),
    Column("faults", lambda line, reader: reader.faults(line)),
    Column("pain (0-10)", lambda line, reader: line.entry.pain if reader.trusted_with_health else None),
    Column("pain where", lambda line, reader: line.entry.pain_region if reader.trusted_with_health else ""),
    Column("estimated max (kg)", lambda line, _: line.entry.estimate_kg),
    Column("logged by", lambda line, _: line.logged_by),
    Column("logged at", lambda line, _: line.entry.at),
)
SHEET: tuple[Column[PlanLine], ...] = (
    Column("date", lambda line, _: line.day),
    Column("week of block", lambda line, _: line.week),
    Column("session", lambda line, _: line.session),
    Column("order", lambda line, _: line.order),
    Column("athlete", lambda line, _: line.athlete),
    Column("movement", lambda line, reader: reader.name(line.movement)),
    Column("state", lambda line, _: STATES[line.state]),
    Column("sets", lambda line, _: line.sets),
    Column("reps", lambda line, _: line.reps),
    Column("hold (s)", lambda line, _: line.hold_s),
    Column("RIR", lambda line, _: line.reserve_reps),
    Column("load", lambda line, _: line.load),
    Column("unit", lambda line, _: line.unit),
    Column("load (kg)", lambda line, _: line.load_kg),
    Column("published", lambda line, _: line.published),
    Column("number by", lambda line, _: NUMBER_BY[line.origin]),
)
