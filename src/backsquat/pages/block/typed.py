"""A session typed as it is said: read line by line, shown as it is understood, stored when every line is."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.library import Library
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.sessions.typed import TypedExercise
from backsquat.formats.typed_session import TEXT_MOST, typed_session
from backsquat.pages.block.choices import exercise_choices
from backsquat.pages.block.forms import what_names
from backsquat.pages.block.head import blueprint
from backsquat.pages.block.phrases import typed_words
from backsquat.pages.request import (
    acting,
    allow,
    context,
    database,
    forget_reader,
    number,
    reader,
    said_with_undo,
    squad_library,
)
from backsquat.ui.phrases.exercises import name_of
from backsquat.ui.phrases.names import meant, meant_by_words, might_mean
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.plan.arrangement import add_exercises
from backsquat.work.plan.blocks import ExerciseFacts
from backsquat.work.plan.typed_work import typed_facts
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of
from backsquat.work.squad.columns import MOVEMENT_WORDS, heads_of


@dataclass(frozen=True)
class UnderstoodLine:
    """A line as it is understood: an exercise, or what is to be said differently; `perhaps` are names near it."""

    typed: TypedExercise
    facts: ExerciseFacts | None = None
    name: str = ""
    problem: str = ""
    perhaps: Sequence[str] = ()

    @property
    def words(self) -> str:
        return typed_words(self.facts) if self.facts else ""


@dataclass(frozen=True)
class UnderstoodText:
    """A typed text, line by line."""

    text: str
    lines: Sequence[UnderstoodLine]

    @property
    def facts(self) -> list[ExerciseFacts]:
        """The exercises; none while a line is not understood."""
        found = [line.facts for line in self.lines if line.facts is not None]
        return found if len(found) == len(self.lines) else []


Roles = Mapping[int, Sequence[ExerciseRole]]  # by weekday those that stand there already


def understood(text: str, weekday: int | None = None, standing: Roles | None = None) -> UnderstoodText:
    """A text read against this squad's library. `weekday`: the day of lines above the first day named."""
    library, names = squad_library(), typed_names()
    roles = {day: list(found) for day, found in (standing or {}).items()}
    lines = []
    for typed in typed_session(text):
        line = _line(typed, weekday, roles, names, library)
        if line.facts:
            roles.setdefault(line.facts.weekday, []).append(line.facts.role)
        lines.append(line)
    return UnderstoodText(text[:TEXT_MOST], lines)


def typed_names() -> dict[str, tuple[str, str]]:
    """Names a movement or ladder can be typed by: its own, and the words in which the squad's lists write it."""
    library, found = squad_library(), what_names(squad_library())
    own = heads_of(reader(), context().squad.id, MOVEMENT_WORDS)
    found |= {word: (code, "") for word, code in own.items() if code in library.movements}
    return found | {f"own {ladder.name}": ("", ladder.code) for ladder in library.ladders.values()}


def _line(
    typed: TypedExercise,
    weekday: int | None,
    roles: dict[int, list[ExerciseRole]],
    names: Mapping[str, tuple[str, str]],
    library: Library,
) -> UnderstoodLine:
    day = weekday if typed.weekday is None else typed.weekday
    name = meant_by_words(typed.name, names)
    if not typed.name or name is None:
        perhaps = might_mean(typed.name, names)
        code = "typed_nothing" if not typed.name else "typed_many" if perhaps else "typed_unknown"
        return UnderstoodLine(
            typed, problem=problem_words(Problem("what", code, {"text": typed.name})), perhaps=perhaps
        )
    if day is None:
        return UnderstoodLine(typed, problem=problem_words(Problem("day", "typed_day")))
    if typed.progression:
        known = {one.name: code for code, one in PROGRESSIONS.items()}
        code = known.get(meant(typed.progression, known) or "", typed.progression)
        if code not in PROGRESSIONS:
            return UnderstoodLine(
                typed, problem=problem_words(Problem("progression", "typed_progression", {"text": typed.progression}))
            )
        typed = replace(typed, progression=code)
    try:
        facts = typed_facts(typed, names[name], day, roles.get(day, ()), library)
    except ImpossibleInput as error:
        return UnderstoodLine(typed, problem=problem_words(error.problems[0]))
    return UnderstoodLine(typed, facts, name_of(library, facts.movement, facts.ladder))


def _piece(found: UnderstoodText) -> dict[str, object]:
    """What the piece below a typed text shows."""
    return {"understood": found, "text_most": TEXT_MOST, **exercise_choices()}


@blueprint.post("/typed")
@allow(Act.PLAN)
def read_typed() -> ResponseReturnValue:
    """The text as it is understood so far; nothing is stored."""
    day = request.form.get("weekday", type=number)
    roles: Roles = {}
    if block_id := request.form.get("block", type=number):
        roles = _standing(block_id)
    found = understood(request.form.get("typed", ""), day if day in range(7) else None, roles)
    return render_template("block/_understood.html", **_piece(found))


def _standing(block_id: int) -> Roles:
    block = block_of(reader(), context().squad.id, block_id)
    roles: dict[int, list[ExerciseRole]] = {}
    for exercise in block.exercises:
        roles.setdefault(exercise.weekday, []).append(exercise.role)
    return roles


@blueprint.post("/<int:block_id>/typed")
@allow(Act.PLAN)
def add_typed(block_id: int) -> ResponseReturnValue:
    """The exercises of a typed text, all of them or none, as one change."""
    day = request.form.get("weekday", type=number)
    found = understood(request.form.get("typed", ""), day if day in range(7) else None, _standing(block_id))
    problem = "" if found.lines else problem_words(Problem("typed", "missing"))
    if found.facts:
        try:
            with database().writing() as db:
                change_id = add_exercises(acting(db), block_id, found.facts).id
        except ImpossibleInput as error:
            problem = problem_words(error.problems[0])
        else:
            forget_reader()
            said_with_undo(f"Added as a draft: {', '.join(line.name for line in found.lines)}.", change_id)
            return redirect(url_for("block.exercises", block_id=block_id))
    block = block_of(reader(), context().squad.id, block_id)
    page = render_template(
        "block/typed.html", block=block, day=day, context=context(), problem=problem, **_piece(found)
    )
    return page, 422
