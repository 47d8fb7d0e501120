"""Forms of the block: its weeks and slots, one slot with its school's parameters, one load."""

import datetime as dt
import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from wtforms import BooleanField, SelectField

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.library import Library
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.cell import SlotRole
from backsquat.core.progression.parameters import ParameterLine, lines
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.sessions.moves import REST_MOST_S
from backsquat.library.templates import SLOTS_MOST, WEEKS_MOST, TemplateEntry
from backsquat.pages.fields import AmountField, DayField, JobForm, Needed, TextField, WholeField
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.ui.phrases.names import meant, near
from backsquat.ui.phrases.problems import problem_words
from backsquat.ui.phrases.slots import OWN_RUNG, name_of
from backsquat.work.plan.blocks import BlockFacts, SlotFacts
from backsquat.work.plan.school_settings import SchoolSetting

SPARE_LINES = 2


def what_names(library: Library) -> dict[str, tuple[str, str]]:
    """What a slot can hold by the name it is chosen under: movement code, or ladder code."""
    names = {movement.name: (movement.code, "") for movement in library.in_use()}
    for movement in library.in_use():
        for alias in movement.aliases:
            names.setdefault(alias, (movement.code, ""))
    return names | {OWN_RUNG.format(ladder.name): ("", ladder.code) for ladder in library.ladders.values()}


@dataclass
class SlotLine:
    """One line of the slots as it was typed, with the problems beside it."""

    day: str = ""
    what: str = ""
    school: str = "window"
    role: str = "main"
    stack: str = ""
    sets: str = ""
    given: dict[str, Any] = field(default_factory=dict)  # parameters that came with a template
    errors: dict[str, str] = field(default_factory=dict)

    @property
    def given_text(self) -> str:
        return json.dumps(self.given)

    @property
    def filled(self) -> bool:
        return bool(self.what.strip())

    def facts(self, names: Mapping[str, tuple[str, str]]) -> SlotFacts | None:
        """The facts, or None with `errors` filled."""
        self.errors = {problem.field: problem_words(problem) for problem in self._misread(names)}
        name = meant(self.what, names)
        movement, ladder = names[name] if name else ("", "")
        parameters = {name: value for name, value in self.given.items() if name not in BESIDE}
        if self.sets.strip() and "sets" not in self.errors:
            parameters["sets"] = int(self.sets)
        school = "ladder" if ladder else self.school
        if not self.errors:
            for problem in _impossible(school, parameters):
                where = problem.field if problem.field == "sets" else "what"
                self.errors.setdefault(where, problem_words(problem))
        if self.errors:
            return None
        stack = min(int(self.stack), 9) if self.stack.strip() else 0
        facts = SlotFacts(int(self.day), movement, school, parameters, ladder, SlotRole(self.role), stack)
        return replace(facts, **_beside(self.given))

    def _misread(self, names: Mapping[str, tuple[str, str]]) -> Iterator[Problem]:
        """What cannot be read, field by field."""
        if meant(self.what, names) is None:
            perhaps = near(self.what, names)
            code = "slot_what_near" if perhaps else "slot_what"
            yield Problem("what", code, {"text": self.what.strip(), "names": "; ".join(perhaps)})
        if self.day not in {str(n) for n in range(len(WEEKDAYS))}:
            yield Problem("day", "missing")
        if self.school not in SCHOOLS or self.role not in set(SlotRole):
            yield Problem("school", "missing")
        for name, text in (("sets", self.sets), ("stack", self.stack)):
            if text.strip() and not (text.strip().isdecimal() and len(text) < 4):
                yield Problem(name, "not_whole")


def _impossible(school: str, parameters: Mapping[str, Any]) -> Sequence[Problem]:
    """What the school finds impossible about the numbers."""
    try:
        SCHOOLS[school].read(parameters)
    except ImpossibleInput as error:
        return error.problems
    except (TypeError, ValueError):
        return (Problem("what", "not_a_number"),)
    return ()


BESIDE = ("circuit", "own_rest_s", "manner")  # what came with a template besides parameters


def _beside(given: Mapping[str, Any]) -> dict[str, Any]:
    """What a template says of a slot besides its parameters; nonsense counts as not said."""
    rest, manner = given.get("own_rest_s", 0), given.get("manner", {})
    try:
        kept = manner_from(manner).to_plain() if isinstance(manner, dict) else {}
    except (ImpossibleInput, TypeError, ValueError):
        kept = {}
    sound = isinstance(rest, int) and 0 <= rest <= REST_MOST_S
    return {"circuit": bool(given.get("circuit")), "rest_s": rest if sound else 0, "manner": kept}


def line_from(typed: Mapping[str, str], given: dict[str, Any], ending: str = "") -> SlotLine:
    """A line from the fields whose names end so."""

    def text(name: str) -> str:
        return typed.get(name + ending, "")[:80]

    return SlotLine(text("day"), text("what"), text("school"), text("role"), text("stack"), text("sets"), given)


def lines_of(template: TemplateEntry, library: Library) -> list[SlotLine]:
    found = []
    for slot in template.slots:
        given: dict[str, Any] = {name: value for name, value in slot.parameters.items() if name != "sets"}
        extra = {"circuit": slot.circuit, "own_rest_s": slot.rest_s, "manner": slot.manner}
        given |= {name: value for name, value in extra.items() if value}
        sets = str(slot.parameters.get("sets", ""))
        stack = str(slot.stack or "")
        what = name_of(library, slot.movement, slot.ladder)
        found.append(SlotLine(str(slot.day), what, slot.school, slot.role, stack, sets, given))
    return found


class BlockForm(JobForm):
    """A block: its weeks and what is done on which day under which school."""

    name = TextField("Name", validators=[Needed()], most=40)
    first_week = DayField("First week (a Monday)", validators=[Needed()])
    weeks = WholeField("Weeks", validators=[Needed()])
    purpose = TextField("Purpose", most=40)
    in_season = BooleanField("In season: the loads stay, with about half the sets")

    def __init__(self, library: Library, slots: list[SlotLine], **kwargs: Any) -> None:
        super().__init__(**kwargs)
        self.names = what_names(library)
        self.slots = slots

    def read_slots(self, typed: Mapping[str, str]) -> None:
        """The lines as they came in."""
        self.slots = []
        for n in range(SLOTS_MOST):
            if f"what_{n}" not in typed:
                continue
            try:
                given = json.loads(typed.get(f"given_{n}", "{}")[:2000])
            except ValueError:
                given = {}
            self.slots.append(line_from(typed, given if isinstance(given, dict) else {}, f"_{n}"))

    def shown(self) -> list[SlotLine]:
        """The lines with some spare ones to fill in."""
        used = [line for line in self.slots if line.filled]
        last = used[-1].day if used else "0"
        return used + [SlotLine(day=last) for _ in range(min(SPARE_LINES, SLOTS_MOST - len(used)))]

    def problems(self) -> Iterable[Problem]:
        if self.weeks.data is not None and not 1 <= self.weeks.data <= WEEKS_MOST:
            yield Problem("weeks", "weeks_range", {"most": WEEKS_MOST})
        # Every line is read, so that all problems stand beside their fields at once.
        read = [line.facts(self.names) for line in self.slots if line.filled]
        if None in read:
            yield Problem("slots", "slot_lines")

    def facts(self) -> BlockFacts:
        slots = [found for line in self.slots if line.filled and (found := line.facts(self.names))]
        return BlockFacts(
            self.name.data,
            self.first_week.data,
            self.weeks.data,
            self.in_season.data,
            tuple(slots),
            self.purpose.data or "",
        )


@dataclass
class ParameterForm:
    """Every parameter of a slot's school as typed, with the problem beside each."""

    school: str
    typed: dict[str, str]
    errors: dict[str, str] = field(default_factory=dict)

    def lines(self) -> Iterator[ParameterLine]:
        return lines(SCHOOLS[self.school].kind)

    def read(self) -> dict[str, Any] | None:
        """What differs from the school's defaults, or None with `errors` filled."""
        self.errors.clear()
        found: dict[str, Any] = {}
        for line in self.lines():
            text = self.typed.get(line.name, "").strip().replace(",", ".")
            try:
                value = parameter_value(line, text)
            except ValueError:
                self.errors[line.name] = problem_words(Problem(line.name, _unreadable(line)))
                continue
            if value is not None and value != line.default:
                found[line.name] = value
        if not self.errors:
            try:
                SCHOOLS[self.school].read(found)
            except ImpossibleInput as error:
                for problem in error.problems:
                    self.errors.setdefault(problem.field, problem_words(problem))
        return None if self.errors else found


def parameter_text(value: Any) -> str:
    """A parameter as it stands in its field: 8/3 6/2 4/2 for pairs."""
    if isinstance(value, (tuple, list)):
        return " ".join("/".join(str(number) for number in pair) for pair in value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def parameter_value(line: ParameterLine, text: str) -> Any:
    """The value of a parameter from its text; None where it is empty; ValueError where it cannot be read."""
    if not text:
        return None
    if isinstance(line.default, tuple):
        parts = re.split(r"[\s;]+", text)
        if not all(re.fullmatch(r"\d{1,2}/\d{1,2}", part) for part in parts):
            raise ValueError
        return [[int(number) for number in part.split("/")] for part in parts]
    if isinstance(line.default, str):
        if not re.fullmatch(r"\d{1,2}(-\d{1,2}){3}", text):
            raise ValueError
        return text
    value = type(line.default)(text)
    if value != value or abs(value) > 10**6:
        raise ValueError
    return value


def _unreadable(line: ParameterLine) -> str:
    if isinstance(line.default, tuple):
        return "wave_format"
    if isinstance(line.default, str):
        return "tempo_format"
    return "not_whole" if isinstance(line.default, int) else "not_a_number"


def parameter_form(setting: SchoolSetting, school: str) -> ParameterForm:
    """The form filled with what a setting was given over the school's defaults."""
    own = setting.given if school == setting.code else {}
    return ParameterForm(
        school, {line.name: parameter_text(own.get(line.name, line.default)) for line in lines(SCHOOLS[school].kind)}
    )


class CellForm(JobForm):
    load = AmountField("Load", validators=[Needed()])
    bar = SelectField("Bar", validate_choice=False)


def suggested(from_day: dt.date, blocks: Iterable[Any], last_week: dt.date, template: TemplateEntry) -> dict[str, Any]:
    """Values a new block starts with: the first free Monday from the day on, the template's weeks or what is left."""
    first = from_day + dt.timedelta(days=-from_day.weekday() % 7)
    for block in blocks:
        end = block.first_week + dt.timedelta(weeks=block.weeks)
        if block.first_week <= first < end:
            first = end
    room = (last_week - first).days // 7 + 1
    following = [b.first_week for b in blocks if b.first_week > first]
    if following:
        room = min(room, (min(following) - first).days // 7)
    return {
        "name": template.name,
        "first_week": first,
        "weeks": max(1, min(template.weeks, room)),
        "purpose": template.purpose,
        "in_season": template.in_season,
    }
