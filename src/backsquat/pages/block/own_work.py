"""Other work for one athlete in the place of the squad's: another movement, or nothing, from a week on."""

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.pages.block.forms import what_names
from backsquat.pages.block.head import block_head, blueprint, exercise_name
from backsquat.pages.request import acting, allow, context, database, number, reader, said_with_undo, squad_library
from backsquat.ui.phrases.changes import change_words
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.plan.own_work import give_work, take_work
from backsquat.work.plan.progression_settings import OwnWork, athlete_settings
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import exercise_of
from backsquat.work.squad.athletes import athlete_of

WEEKS_MOST = 60


@blueprint.get("/exercises/<int:exercise_id>/own-work/<int:athlete_id>")
@allow(Act.PLAN)
def own_work(
    exercise_id: int, athlete_id: int, errors: dict[str, str] | None = None, status: int = 200
) -> ResponseReturnValue:
    """What the athlete does there, and the form to change it."""
    exercise, block = exercise_of(reader(), context().squad.id, exercise_id)
    athlete, library = athlete_of(reader(), context().squad.id, athlete_id), squad_library()
    setting = athlete_settings(reader(), [exercise.id]).get((exercise.id, athlete_id))
    now = setting.own_work if setting else None
    movement = library.movements.get(now.movement) if now else None
    typed = {
        "what": request.args.get("what", movement.name if movement else "")[:80],
        "sets": str(now.sets) if now and now.sets else "",
    }
    page = render_template(
        "block/own_work.html",
        exercise=exercise,
        athlete=athlete,
        now=now,
        movement=movement,
        own_name=exercise_name(exercise),
        names=sorted(name for name, (code, _) in what_names(library).items() if code),
        typed=request.form if errors else typed,
        week=_week(),
        errors=errors or {},
        standing=None,
        **block_head(block),
    )
    return page, status


def _week() -> int:
    """The week of the block, from 0, from which it is to hold."""
    return min(max(request.values.get("from_week", 0, type=number) or 0, 0), WEEKS_MOST)


@blueprint.post("/exercises/<int:exercise_id>/own-work/<int:athlete_id>")
@allow(Act.PLAN)
def set_own_work(exercise_id: int, athlete_id: int) -> ResponseReturnValue:
    """Another movement, nothing, or the squad's work again; the loads follow as drafts."""
    form = request.form
    try:
        with database().writing() as db:
            if form.get("do") == "squad":
                change = take_work(acting(db), exercise_id, athlete_id)
            else:
                change = give_work(acting(db), exercise_id, athlete_id, _said(), _week())
            words = change_words(change.what, change.facts, squad_library())
            change_id, block_id = change.id, change.subject_id
    except ImpossibleInput as error:
        return own_work(exercise_id, athlete_id, {one.field: problem_words(one) for one in error.problems}, 422)
    said_with_undo(f"{words}.", change_id)
    return redirect(url_for("block.show", block_id=block_id, lift=exercise_id))


def _said() -> OwnWork:
    """What the form says; ImpossibleInput where there is no such movement."""
    if request.form.get("do") == "nothing":
        return OwnWork()
    sets, found = request.form.get("sets", "").strip(), what_names(squad_library())
    names = {name.lower(): code for name, (code, _) in found.items() if code}
    code = names.get(request.form.get("what", "").strip().lower(), "")
    problems = [] if code else [Problem("what", "no_such_movement")]
    if sets and not sets.isdecimal():
        problems.append(Problem("sets", "sets_range", {"most": 8}))
    if problems:
        raise ImpossibleInput(*problems)
    return OwnWork(code, int(sets[:3]) if sets else 0)
