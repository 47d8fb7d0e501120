"""Reading the room form: fixed fields, and as many lines of bars and plates as there are."""

import datetime as dt
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from decimal import Decimal

from backsquat.core.errors import Problem
from backsquat.core.loads.mass import Unit
from backsquat.core.loads.room import FULL_DIAMETER_MM, Bells, RigKind, Room
from backsquat.core.numbers import plain_day, read_decimal
from backsquat.library.usual_rooms import UsualRoom
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.plan.room_assignments import AssignmentFacts
from backsquat.work.rooms.describe import BandFacts, BarFacts, PlateFacts, RoomFacts, StackFacts, room_problems

LINES_MOST = 24
SPARE_LINES = 2
NEW_ROOM = {
    "name": "", "unit": "kg", "collars": "0", "racks": "1", "bar_name_0": "Bar", "bar_amount_0": "20",
}  # fmt: skip


@dataclass
class AssignmentForm:
    """Who trains in a room, from when to when, as it was typed."""

    typed: Mapping[str, str]
    errors: dict[str, str] = field(default_factory=dict)

    def value(self, name: str) -> str:
        return self.typed.get(name, "").strip()

    def read(self) -> AssignmentFacts | None:
        """The facts, or None with `errors` filled."""
        first_on, last_on = self._day("first_on"), self._day("last_on")
        if first_on is None and "first_on" not in self.errors:
            self.errors["first_on"] = problem_words(Problem("first_on", "missing"))
        numbers = {name: self._number(name) for name in ("room", "athlete", "weekday")}
        if self.errors or first_on is None:
            return None
        weekday = numbers["weekday"]
        return AssignmentFacts(
            numbers["room"] or 0,
            numbers["athlete"],
            first_on,
            last_on,
            weekday if weekday is not None and 0 <= weekday <= 6 else None,
        )

    def _day(self, name: str) -> dt.date | None:
        if not self.value(name):
            return None
        try:
            return plain_day(self.value(name))
        except ValueError:
            self.errors[name] = problem_words(Problem(name, "not_a_date"))
            return None

    def _number(self, name: str) -> int | None:
        text = self.value(name)
        return int(text) if text.isdecimal() and len(text) < 12 else None


@dataclass
class RoomForm:
    """What was typed, kept as it is, with the problems beside each field."""

    typed: Mapping[str, str]
    errors: dict[str, str] = field(default_factory=dict)
    has: list[str] = field(default_factory=list)  # codes of equipment ticked

    def value(self, name: str) -> str:
        return self.typed.get(name, "")

    def lines(self, prefix: str) -> range:
        """Line numbers to show: all that hold something, and some spare ones."""
        used = self._used({"stack": "stack_low", "band": "band_long"}.get(prefix, f"{prefix}_amount"))
        return range(min(LINES_MOST, (max(used) + 1 if used else 0) + SPARE_LINES))

    def read(self) -> RoomFacts | None:
        """The facts, or None with `errors` filled: what cannot be read and what is impossible, all at once."""
        self.errors.clear()
        name = self.value("name").strip()
        if not name:
            self.errors["name"] = problem_words(Problem("name", "missing"))
        elif len(name) > 60:
            self.errors["name"] = problem_words(Problem("name", "too_long", {"most": 60}))
        unit = Unit.LB if self.value("unit") == "lb" else Unit.KG
        bars, bar_at, plates, plate_at = [], [], [], []
        for n in range(LINES_MOST):
            if self.value(f"bar_amount_{n}").strip():
                title = self.value(f"bar_name_{n}").strip()[:40] or "Bar"
                bars.append(
                    BarFacts(
                        self.value(f"bar_code_{n}")[:20] or f"bar{n}",
                        title,
                        self._amount(f"bar_amount_{n}"),
                        self.value(f"bar_trap_{n}") == "1",
                    )
                )
                bar_at.append(n)
            if self.value(f"plate_amount_{n}").strip():
                wide = self._whole(f"plate_diameter_{n}", FULL_DIAMETER_MM)
                plates.append(PlateFacts(self._amount(f"plate_amount_{n}"), self._whole(f"plate_pairs_{n}", 1), wide))
                plate_at.append(n)
        facts = RoomFacts(
            name,
            unit,
            self._amount("collars"),
            self._whole("racks", 1),
            tuple(bars),
            tuple(plates),
            tuple(self.has),
            self._bells("dumbbells", 2),
            self._bells("kettlebells", 1),
            tuple(self._stacks()),
            tuple(self._bands()),
            self._bells("bags", 1),
        )
        for problem in room_problems(facts):
            stem, _, place = problem.field.rpartition("_")
            at = {
                "bar_amount": bar_at,
                "plate_amount": plate_at,
                "plate_pairs": plate_at,
                "stack_low": self._used("stack_low"),
                "band_short": self._used("band_long"),
            }.get(stem)
            where = f"{stem}_{at[int(place)]}" if at is not None else problem.field
            self.errors.setdefault(where, problem_words(problem))
        return None if self.errors else facts

    def _used(self, stem: str) -> list[int]:
        return [n for n in range(LINES_MOST) if self.value(f"{stem}_{n}").strip()]

    def _bells(self, name: str, usual: int) -> tuple[tuple[Decimal, int], ...]:
        """A line of masses, `12*1` for another number than usual; the problem beside it where it cannot be read."""
        found: dict[Decimal, int] = {}
        for word in self.value(name).replace(",", ".").replace(";", " ").split():
            mass, _, count = word.partition("*")
            try:
                amount, number = read_decimal(mass), int(count or usual)
                if not 0 < number <= 40:
                    raise ValueError
            except ValueError:
                self.errors[name] = problem_words(Problem(name, "bells"))
                return ()
            found[amount] = found.get(amount, 0) + number
        return tuple(sorted(found.items()))

    def _stacks(self) -> Iterator[StackFacts]:
        for n in self._used("stack_low"):
            amounts = [self._amount(f"stack_{part}_{n}") for part in ("low", "step", "high", "extra")]
            yield StackFacts(self.value(f"stack_code_{n}")[:40] or "cable", *amounts)

    def _bands(self) -> Iterator[BandFacts]:
        for n in self._used("band_long"):
            name = self.value(f"band_name_{n}").strip()[:30] or f"Band {n + 1}"
            yield BandFacts(name, self._amount(f"band_short_{n}"), self._amount(f"band_long_{n}"))

    def _amount(self, name: str) -> Decimal:
        text = self.value(name).strip().replace(",", ".") or "0"
        try:
            value = read_decimal(text)
            if abs(value) >= 10**6:
                raise ValueError
            return value
        except ValueError:
            self.errors[name] = problem_words(Problem(name, "not_a_number"))
            return Decimal(1)

    def _whole(self, name: str, otherwise: int) -> int:
        text = self.value(name).strip()
        if not text:
            return otherwise
        if not (text.lstrip("-").isdecimal() and len(text) < 8):
            self.errors[name] = problem_words(Problem(name, "not_whole"))
            return otherwise
        return int(text)


def form_like(usual: UsualRoom) -> RoomForm:
    """The form filled with a usual room, to be changed."""
    typed = {
        name: getattr(usual, name) for name in ("name", "unit", "collars", "racks", "dumbbells", "kettlebells", "bags")
    }
    for n, bar in enumerate(usual.bars):
        typed |= {f"bar_name_{n}": bar[0], f"bar_amount_{n}": bar[1], f"bar_trap_{n}": "1" if len(bar) > 2 else ""}
    for n, (mass, pairs) in enumerate(usual.plates):
        typed |= {f"plate_amount_{n}": mass, f"plate_pairs_{n}": str(pairs)}
    return RoomForm(typed, has=list(usual.equipment))


def form_of(room: Room | None, has: list[str]) -> RoomForm:
    """The form filled with the room as it is, or with a start for a new one."""
    if room is None:
        return RoomForm(NEW_ROOM)
    typed = {"name": room.name, "unit": room.unit.value, "collars": room.collars.text, "racks": str(room.racks)}
    for n, bar in enumerate(room.bars):
        typed |= {f"bar_code_{n}": bar.code, f"bar_name_{n}": bar.name, f"bar_amount_{n}": bar.mass.text}
        typed[f"bar_trap_{n}"] = "1" if bar.kind is RigKind.TRAP_BAR else ""
    for n, plate in enumerate(room.plates):
        typed |= {
            f"plate_amount_{n}": plate.mass.text,
            f"plate_pairs_{n}": str(plate.pairs),
            f"plate_diameter_{n}": str(plate.diameter_mm),
        }
    typed |= {"dumbbells": _bells_text(room.dumbbells, 2), "kettlebells": _bells_text(room.kettlebells, 1)}
    typed |= {"bags": _bells_text(room.bags, 1)}
    for n, stack in enumerate(room.stacks):
        typed |= {
            f"stack_code_{n}": stack.code,
            f"stack_low_{n}": stack.low.text,
            f"stack_step_{n}": stack.step.text,
            f"stack_high_{n}": stack.high.text,
            f"stack_extra_{n}": stack.add_on.text if stack.add_on.grains else "",
        }
    for n, band in enumerate(room.bands):
        typed |= {f"band_name_{n}": band.name, f"band_short_{n}": band.short.text, f"band_long_{n}": band.long.text}
    return RoomForm(typed, has=has)


def _bells_text(bells: Iterable[Bells], usual: int) -> str:
    return " ".join(bell.mass.text if bell.count == usual else f"{bell.mass.text}*{bell.count}" for bell in bells)
