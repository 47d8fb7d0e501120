"""Forms of the block: its weeks and exercises, one exercise with its progression's parameters, one load."""

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
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.progression.parameters import ParameterLine, lines
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.sessions.moves import REST_MOST_S
from backsquat.library.templates import EXERCISES_MOST, WEEKS_MOST, TemplateEntry
from backsquat.pages.fields import AmountField, DayField, JobForm, Needed, TextField, WholeField
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.ui.phrases.exercises import OWN_LEVEL, name_of
from backsquat.ui.phrases.names import meant, near
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.plan.blocks import BlockFacts, ExerciseFacts
from backsquat.work.plan.progression_settings import ProgressionSetting

SPARE_LINES = 2


def what_names(library: Library) -> dict[str, tuple[str, str]]:
    """What an exercise can hold by the name it is chosen under: movement code, or ladder code."""
    names = {movement.name: (movement.code, "") for movement in library.in_use()}
    for movement in library.in_use():
        for alias in movement.aliases:
            names.setdefault(alias, (movement.code, ""))
    return names | {OWN_LEVEL.format(ladder.name): ("", ladder.code) for ladder in library.ladders.values()}


@dataclass
class ExerciseLine:
    """One line of the exercises as it was typed, with the problems beside it."""

    day: str = ""
    what: str = ""
    progression: str = "window"
    role: str = "main"
    superset: str = ""
    sets: str = ""
    given: dict[str, Any] = field(default_factory=dict)  # parameters that came with a template
    errors: dict[str, str] = field(default_factory=dict)

    @property
    def given_text(self) -> str:
        return json.dumps(self.given)

    @property
    def filled(self) -> bool:
        return bool(self.what.strip())

    def facts(self, names: Mapping[str, tuple[str, str]]) -> ExerciseFacts | None:
        """The facts, or None with `errors` filled."""
        self.errors = {problem.field: problem_words(problem) for problem in self._misread(names)}
        name = meant(self.what, names)
        movement, ladder = names[name] if name else ("", "")
        parameters = {name: value for name, value in self.given.items() if name not in BESIDE}
        if self.sets.strip() and "sets" not in self.errors:
            parameters["sets"] = int(self.sets)
        progression = "ladder" if ladder else self.progression
        if not self.errors:
            for problem in _impossible(progression, parameters):
                where = problem.field if problem.field == "sets" else "what"
                self.errors.setdefault(where, problem_words(problem))
        if self.errors:
            return None
        superset = min(int(self.superset), 9) if self.superset.strip() else 0
        facts = ExerciseFacts(
            int(self.day), movement, progression, parameters, ladder, ExerciseRole(self.role), superset
        )
        return replace(facts, **_beside(self.given))

    def _misread(self, names: Mapping[str, tuple[str, str]]) -> Iterator[Problem]:
        """What cannot be read, field by field."""
        if meant(self.what, names) is None:
            perhaps = near(self.what, names)
            code = "exercise_what_near" if perhaps else "exercise_what"
            yield Problem("what", code, {"text": self.what.strip(), "names": "; ".join(perhaps)})
        if self.day not in {str(n) for n in range(len(WEEKDAYS))}:
            yield Problem("day", "missing")
        if self.progression not in PROGRESSIONS or self.role not in set(ExerciseRole):
            yield Problem("progression", "missing")
        for name, text in (("sets", self.sets), ("superset", self.superset)):
            if text.strip() and not (text.strip().isdecimal() and len(text) < 4):
                yield Problem(name, "not_whole")


def _impossible(progression: str, parameters: Mapping[str, Any]) -> Sequence[Problem]:
    """What the progression finds impossible about the numbers."""
    try:
        PROGRESSIONS[progression].read(parameters)
    except ImpossibleInput as error:
        return error.problems
    except (TypeError, ValueError):
        return (Problem("what", "not_a_number"),)
    return ()


BESIDE = ("circuit", "own_rest_s", "manner")  # what came with a template besides parameters


def _beside(given: Mapping[str, Any]) -> dict[str, Any]:
    """What a template says of an exercise besides its parameters; nonsense counts as not said."""
    rest, manner = given.get("own_rest_s", 0), given.get("manner", {})
    try:
        kept = manner_from(manner).to_plain() if isinstance(manner, dict) else {}
    except (ImpossibleInput, TypeError, ValueError):
        kept = {}
    sound = isinstance(rest, int) and 0 <= rest <= REST_MOST_S
    return {"circuit": bool(given.get("circuit")), "rest_s": rest if sound else 0, "manner": kept}


def line_from(typed: Mapping[str, str], given: dict[str, Any], ending: str = "") -> ExerciseLine:
    """A line from the fields whose names end so."""

    def text(name: str) -> str:
        return typed.get(name + ending, "")[:80]

    return ExerciseLine(
        text("day"), text("what"), text("progression"), text("role"), text("superset"), text("sets"), given
    )


def lines_of(template: TemplateEntry, library: Library) -> list[ExerciseLine]:
    found = []
    for exercise in template.exercises:
        given: dict[str, Any] = {name: value for name, value in exercise.parameters.items() if name != "sets"}
        extra = {"circuit": exercise.circuit, "own_rest_s": exercise.rest_s, "manner": exercise.manner}
        given |= {name: value for name, value in extra.items() if value}
        sets = str(exercise.parameters.get("sets", ""))
        superset = str(exercise.superset or "")
        what = name_of(library, exercise.movement, exercise.ladder)
        found.append(ExerciseLine(str(exercise.day), what, exercise.progression, exercise.role, superset, sets, given))
    return found


class BlockForm(JobForm):
    """A block: its weeks and what is done on which day under which progression."""

    name = TextField("Name", validators=[Needed()], most=40)
    first_week = DayField("First week (a Monday)", validators=[Needed()])
    weeks = WholeField("Weeks", validators=[Needed()])
    purpose = TextField("Purpose", most=40)
    in_season = BooleanField("In season: the loads stay, with about half the sets")

    def __init__(
        self,
        library: Library,
        exercises: list[ExerciseLine],
        typed: Sequence[ExerciseFacts] | None = None,
        **kwargs: Any,
    ) -> None:
        super().__init__(**kwargs)
        self.typed = typed  # exercises of a typed text, none while a line is not understood; None: lines are filled in
        self.names = what_names(library)
        self.exercises = exercises

    def read_exercises(self, typed: Mapping[str, str]) -> None:
        """The lines as they came in."""
        self.exercises = []
        for n in range(EXERCISES_MOST):
            if f"what_{n}" not in typed:
                continue
            try:
                given = json.loads(typed.get(f"given_{n}", "{}")[:2000])
            except ValueError:
                given = {}
            self.exercises.append(line_from(typed, given if isinstance(given, dict) else {}, f"_{n}"))

    def shown(self) -> list[ExerciseLine]:
        """The lines with some spare ones to fill in."""
        used = [line for line in self.exercises if line.filled]
        last = used[-1].day if used else "0"
        return used + [ExerciseLine(day=last) for _ in range(min(SPARE_LINES, EXERCISES_MOST - len(used)))]

    def problems(self) -> Iterable[Problem]:
        if self.weeks.data is not None and not 1 <= self.weeks.data <= WEEKS_MOST:
            yield Problem("weeks", "weeks_range", {"most": WEEKS_MOST})
        if self.typed is not None:
            if not self.typed:
                yield Problem("exercises", "typed_lines")
            return
        # Every line is read, so that all problems stand beside their fields at once.
        read = [line.facts(self.names) for line in self.exercises if line.filled]
        if None in read:
            yield Problem("exercises", "exercise_lines")

    def facts(self) -> BlockFacts:
        exercises = self.typed or [
            found for line in self.exercises if line.filled and (found := line.facts(self.names))
        ]
        return BlockFacts(
            self.name.data,
            self.first_week.data,
            self.weeks.data,
            self.in_season.data,
            tuple(exercises),
            self.purpose.data or "",
        )


class SpanForm(JobForm):
    """A block that is there: its name and weeks."""

    name = TextField("Name", validators=[Needed()], most=40)
    first_week = DayField("First week (a Monday)", validators=[Needed()])
    weeks = WholeField("Weeks", validators=[Needed()])
    purpose = TextField("Purpose", most=40)


@dataclass
class ParameterForm:
    """Every parameter of an exercise's progression as typed, with the problem beside each."""

    progression: str
    typed: dict[str, str]
    errors: dict[str, str] = field(default_factory=dict)

    def lines(self) -> Iterator[ParameterLine]:
        return lines(PROGRESSIONS[self.progression].kind)

    def read(self) -> dict[str, Any] | None:
        """What differs from the progression's defaults, or None with `errors` filled."""
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
                PROGRESSIONS[self.progression].read(found)
            except ImpossibleInput as error:
                for problem in error.problems:
                    self.errors.setdefault(problem.field, problem_words(problem))
        return None if self.errors else found


MATTERING = frozenset(
    ("sets", "low", "high", "reps", "weeks", "stages", "stage_weeks", "start_s", "top_s", "rest_s", "rest_first_s",
     "rest_last_s", "reserve_reps", "start_reserve_reps", "load_share", "deload_every")
)  # fmt: skip


def parted(form: ParameterForm) -> tuple[list[ParameterLine], list[ParameterLine]]:
    """(what a coach usually sets, or has set, or typed wrong; the rest, as it usually is)."""
    shown: list[ParameterLine] = []
    rest: list[ParameterLine] = []
    for line in form.lines():
        usual = form.typed.get(line.name, "") in ("", parameter_text(line.default))
        (rest if usual and line.name not in MATTERING and line.name not in form.errors else shown).append(line)
    return shown, rest


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


def parameter_form(setting: ProgressionSetting, progression: str) -> ParameterForm:
    """The form filled with what a setting was given over the progression's defaults."""
    own = setting.given if progression == setting.code else {}
    return ParameterForm(
        progression,
        {line.name: parameter_text(own.get(line.name, line.default)) for line in lines(PROGRESSIONS[progression].kind)},
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
