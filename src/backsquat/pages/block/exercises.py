"""The exercises of a block with their progressions, for everybody or for single athletes."""

from collections import Counter
from typing import Any

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.sessions.moves import Move, MoveKind
from backsquat.formats.typed_session import TEXT_MOST
from backsquat.pages.block.choices import exercise_choices
from backsquat.pages.block.forms import ExerciseLine, ParameterForm, line_from, parameter_form, parted, what_names
from backsquat.pages.block.head import block_head, blueprint, standing
from backsquat.pages.block.typed import understood
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
from backsquat.pages.seen import changed_since, seen_of
from backsquat.storage.models import Exercise
from backsquat.ui.phrases.names import meant_by_words, might_mean
from backsquat.ui.phrases.problems import PROBLEMS, problem_words
from backsquat.work.journal import last_change
from backsquat.work.plan.arrangement import arrange
from backsquat.work.plan.blocks import ExerciseFacts
from backsquat.work.plan.cells import standing_of
from backsquat.work.plan.exercises import (
    add_exercise,
    change_exercise,
    give_setting,
    move_exercise,
    remove_exercise,
    take_setting,
)
from backsquat.work.plan.exposure_rows import row_of, same_lift
from backsquat.work.plan.progression_settings import athlete_settings, setting_of
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of, exercise_of
from backsquat.work.squad.athletes import squad_athletes


@blueprint.get("/<int:block_id>/exercises")
@allow(Act.PLAN)
def exercises(
    block_id: int, line: ExerciseLine | None = None, problem: str = "", status: int = 200
) -> ResponseReturnValue:
    """The block's days: what is done when, under which progression."""
    block = block_of(reader(), context().squad.id, block_id)
    own = athlete_settings(reader(), [exercise.id for exercise in block.exercises])
    page = render_template(
        "block/exercises.html",
        own_count=Counter(exercise_id for exercise_id, _ in own),
        line=line or ExerciseLine(day=str(block.exercises[0].weekday)),
        problem=problem,
        leaving=[exercise for exercise in block.every_exercise if exercise.removed and exercise.moved],
        standing=standing(block.exercises[0], *standing_of(reader(), block)),
        **block_head(block),
        understood=understood(""),
        text_most=TEXT_MOST,
        **exercise_choices(),
    )
    return page, status


@blueprint.post("/<int:block_id>/exercises")
@allow(Act.PLAN)
def put_in(block_id: int) -> ResponseReturnValue:
    """One more exercise."""
    line = line_from(request.form, {})
    facts = line.facts(what_names(squad_library()))
    if facts is None:
        return exercises(block_id, line, status=422)
    try:
        with database().writing() as db:
            exercise_id = add_exercise(acting(db), block_id, facts).id
    except ImpossibleInput as error:
        return exercises(block_id, line, problem_words(error.problems[0]), 422)
    forget_reader()
    row = _row(exercise_id)
    if len(row) > 1:  # those it goes on with climb otherwise from now on
        return _what_it_does("Exercise added as a draft.", block_id, row, [])
    said_with_undo("Exercise added as a draft.", _last(block_id))
    return redirect(url_for("block.show", block_id=block_id, lift=exercise_id))


def _row(exercise_id: int) -> list[int]:
    """The exercise and those that climb as one row with it."""
    exercise, block = exercise_of(reader(), context().squad.id, exercise_id)
    return [one.id for one in row_of(exercise, same_lift(block, exercise), {})]


def _last(block_id: int) -> int:
    forget_reader()
    change = last_change(reader(), context().squad.id, "exercises", block_id)
    return change.id if change else 0


@blueprint.post("/exercises/<int:exercise_id>/out")
@allow(Act.PLAN)
def take_out(exercise_id: int) -> ResponseReturnValue:
    """One exercise less."""
    others = _row(exercise_id)[1:]
    try:
        with database().writing() as db:
            block_id = remove_exercise(acting(db), exercise_id).id
    except ImpossibleInput as error:
        _exercise, block = exercise_of(reader(), context().squad.id, exercise_id)
        return exercises(block.id, problem=problem_words(error.problems[0]), status=422)
    if others:
        return _what_it_does("Exercise removed; what was logged stays.", block_id, others, [])
    said_with_undo("Exercise removed; what was logged stays.", _last(block_id))
    return redirect(url_for("block.exercises", block_id=block_id))


@blueprint.post("/exercises/<int:exercise_id>/move")
@allow(Act.PLAN)
def move(exercise_id: int) -> ResponseReturnValue:
    """Earlier or later in its session."""
    with database().writing() as db:
        change = move_exercise(acting(db), exercise_id, -1 if request.form.get("way") == "earlier" else 1)
        change_id = change.id if change else None
    if change_id:
        said_with_undo("Moved. The floor has it so once you publish.", change_id)
    return redirect(url_for("block.exercises", block_id=exercise_of(reader(), context().squad.id, exercise_id)[1].id))


@blueprint.route("/exercises/<int:exercise_id>", methods=["GET", "POST"])
@allow(Act.PLAN)
def exercise(exercise_id: int) -> ResponseReturnValue:
    """One exercise: its progression with every parameter, for everybody or for single athletes.

    `progression` in the address looks at another progression, `athlete` at what that athlete follows.
    """
    row, block = exercise_of(reader(), context().squad.id, exercise_id)
    own = {athlete_id: setting for (_, athlete_id), setting in athlete_settings(reader(), [row.id]).items()}
    chosen = (request.form if request.method == "POST" else request.args).getlist("athlete", type=number)
    setting = next((own[athlete_id] for athlete_id in chosen if athlete_id in own), setting_of(row))
    progression = request.values.get("progression", setting.code)
    if progression not in PROGRESSIONS or PROGRESSIONS[progression].own_levels != bool(row.ladder):
        raise NotThere("progression")
    form, problem = parameter_form(setting, progression), ""
    if request.method == "POST":
        form = ParameterForm(progression, {line.name: request.form.get(line.name, "")[:80] for line in form.lines()})
        found = form.read()
        if changed_since(_known(row)):
            problem = PROBLEMS["meanwhile"]
        elif found is not None:
            before = _row(exercise_id)
            try:
                _keep_exercise(row, progression, found, chosen)
            except ImpossibleInput as error:
                problem = problem_words(error.problems[0])
            else:
                concerned = chosen if request.form.get("for") == "some" else []
                forget_reader()
                concerns = dict.fromkeys([exercise_id, *before, *_row(exercise_id)])
                return _what_it_does("Exercise changed.", block.id, list(concerns), concerned)
    open_lines, folded_lines = parted(form)
    page = render_template(
        "block/exercise.html",
        open_lines=open_lines,
        folded_lines=folded_lines,
        movement_names=sorted(name for name, (code, _) in what_names(squad_library()).items() if code),
        exercise=row,
        seen=seen_of(_known(row)),
        progression=progression,
        form=form,
        problem=problem,
        own=own,
        chosen=chosen,
        for_some=request.values.get("for") == "some" or (bool(chosen) and request.method == "GET"),
        athletes=squad_athletes(reader(), context().squad.id),
        **block_head(block),
        **exercise_choices(),
    )
    return page, 422 if form.errors or problem else 200


@blueprint.post("/exercises/<int:exercise_id>/exchange")
@allow(Act.PLAN)
def exchange(exercise_id: int) -> ResponseReturnValue:
    """Another movement in its place, for everybody, as a draft."""
    row, block = exercise_of(reader(), context().squad.id, exercise_id)
    typed, names = request.form.get("into", "")[:80], what_names(squad_library())
    movements = {name: found for name, found in names.items() if found[0]}
    name = meant_by_words(typed, movements)
    if name is None:
        perhaps = might_mean(typed, movements)
        code = "exercise_what_near" if perhaps else "exercise_what"
        problem = Problem("into", code, {"text": typed, "names": "; ".join(perhaps)})
        return exercises(block.id, problem=problem_words(problem), status=422)
    into = squad_library().get(movements[name][0])
    with database().writing() as db:
        change = arrange(acting(db), row.session_id, Move(MoveKind.SWAP, row.id, into=into))
        change_id = change.id if change else None
    forget_reader()
    said_with_undo(f"{into.name} in its place, as a draft.", change_id)
    return redirect(url_for("block.exercises", block_id=block.id))


def _known(row: Exercise) -> dict[str, Any]:
    return {"exercise": (row.session_id, row.role, row.superset, row.variation, row.progression, row.parameters)}


def _keep_exercise(row: Exercise, progression: str, found: dict[str, Any], chosen: list[int]) -> None:
    """What the exercise's form asks for: for everybody, or for those who were chosen."""
    with database().writing() as db:
        if request.form.get("for") == "some":
            give_setting(acting(db), row.id, chosen, progression, found)
            return
        role = request.form.get("role", row.role.value)
        if role not in set(ExerciseRole):
            raise NotThere("role")
        facts = ExerciseFacts(
            weekday=_whole("day", row.weekday, 6),
            movement=row.movement,
            progression=progression,
            parameters=found,
            ladder=row.ladder,
            role=ExerciseRole(role),
            superset=_whole("superset", row.superset, 9),
            variation=request.form.get("variation", "").strip()[:60],
        )
        change_exercise(acting(db), row.id, facts)


@blueprint.post("/exercises/<int:exercise_id>/athletes/<int:athlete_id>/back")
@allow(Act.PLAN)
def setting_back(exercise_id: int, athlete_id: int) -> ResponseReturnValue:
    """An athlete follows the exercise's progression again."""
    with database().writing() as db:
        block_id = take_setting(acting(db), exercise_id, athlete_id).block_id
    forget_reader()
    return _what_it_does("Back to the exercise's progression.", block_id, _row(exercise_id), [athlete_id])


def _what_it_does(words: str, block_id: int, exercise_ids: list[int], athletes: list[int]) -> ResponseReturnValue:
    """To the difference the change makes, for those it concerns."""
    said_with_undo(f"{words} This is what it does to the loads.", _last(block_id))
    target = url_for(
        "block.difference", block_id=block_id, exercise=exercise_ids, lift=exercise_ids[0], athlete=athletes
    )
    return redirect(target)


def _whole(name: str, otherwise: int, most: int) -> int:
    value = request.form.get(name, type=number)
    return otherwise if value is None else min(max(value, 0), most)
