"""Reading the room form: fixed fields, and as many lines of bars and plates as there are."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal, InvalidOperation

from backsquat.core.errors import Problem
from backsquat.core.loads.mass import Unit
from backsquat.core.loads.room import FULL_DIAMETER_MM, Room
from backsquat.features.phrases import problem_words
from backsquat.features.room.operations import BarFacts, PlateFacts, RoomFacts, room_problems

LINES_MOST = 24
SPARE_LINES = 2
NEW_ROOM = {
    "name": "", "unit": "kg", "collars": "0", "racks": "1", "bar_name_0": "Bar", "bar_amount_0": "20",
}  # fmt: skip


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
        used = [n for n in range(LINES_MOST) if self.value(f"{prefix}_amount_{n}").strip()]
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
                        self.value(f"bar_code_{n}")[:20] or f"bar{n}", title, self._amount(f"bar_amount_{n}")
                    )
                )
                bar_at.append(n)
            if self.value(f"plate_amount_{n}").strip():
                wide = self._whole(f"plate_diameter_{n}", FULL_DIAMETER_MM)
                plates.append(
                    PlateFacts(self._amount(f"plate_amount_{n}"), self._whole(f"plate_pairs_{n}", 1), wide)
                )
                plate_at.append(n)
        facts = RoomFacts(
            name, unit, self._amount("collars"), self._whole("racks", 1), tuple(bars), tuple(plates),
            tuple(self.has),
        )  # fmt: skip
        for problem in room_problems(facts):
            stem, _, place = problem.field.rpartition("_")
            at = {"bar_amount": bar_at, "plate_amount": plate_at, "plate_pairs": plate_at}.get(stem)
            where = f"{stem}_{at[int(place)]}" if at is not None else problem.field
            self.errors.setdefault(where, problem_words(problem))
        return None if self.errors else facts

    def _amount(self, name: str) -> Decimal:
        text = self.value(name).strip().replace(",", ".") or "0"
        try:
            value = Decimal(text)
            if not value.is_finite() or abs(value) >= 10**6:
                raise InvalidOperation
            return value
        except InvalidOperation:
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


def form_of(room: Room | None, has: list[str]) -> RoomForm:
    """The form filled with the room as it is, or with a start for a new one."""
    if room is None:
        return RoomForm(NEW_ROOM)
    typed = {
        "name": room.name,
        "unit": room.unit.value,
        "collars": room.collars.text,
        "racks": str(room.racks),
    }
    for n, bar in enumerate(room.bars):
        typed |= {f"bar_code_{n}": bar.code, f"bar_name_{n}": bar.name, f"bar_amount_{n}": bar.mass.text}
    for n, plate in enumerate(room.plates):
        typed |= {
            f"plate_amount_{n}": plate.mass.text, f"plate_pairs_{n}": str(plate.pairs),
            f"plate_diameter_{n}": str(plate.diameter_mm),
        }  # fmt: skip
    return RoomForm(typed, has=has)
