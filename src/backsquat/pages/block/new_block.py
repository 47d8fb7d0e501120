"""Making a block from a template; templates kept and shared."""

import json

from flask import Response, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.formats.typed_session import TEXT_MOST
from backsquat.library.templates import EXERCISES_MOST, WEEKS_MOST, as_plain, from_json, shipped
from backsquat.pages.block.choices import exercise_choices
from backsquat.pages.block.forms import BlockForm, lines_of, suggested
from backsquat.pages.block.head import blueprint
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
from backsquat.work.journal import last_change
from backsquat.work.library.block_templates import TEMPLATE, keep_template, squad_templates
from backsquat.work.library.own_entries import retire_entry
from backsquat.work.plan.blocks import create_block, template_of
from backsquat.work.plan.exercise_plan import room_of
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of, squad_blocks

EMPTY, TYPED, LIKE = "empty", "typed", "like"  # from nothing: lines to fill in, or a text; from another block
PLACEHOLDER = """Monday
4 x 6 back squat RIR 2 rest 3 min
superset, rest 90:
3 x 8-10 goblet squat
3 x 12 ball curl

Thursday
3 x 8 romanian deadlift RIR 2"""

FILE_MOST = 64_000  # bytes of a shared template


@blueprint.route("/new", methods=["GET", "POST"])
@allow(Act.PLAN)
def new() -> ResponseReturnValue:
    here, library = context(), squad_library()
    room_of(reader(), here.squad.id)
    blocks = squad_blocks(reader(), here.squad.id)
    templates = squad_templates(reader(), here.squad.id)
    code = request.values.get("template", "strength")
    template = templates.get(code) or shipped()["strength"]
    if like := request.args.get("like", type=number):  # another block: its lines, to be changed
        template, code = template_of(block_of(reader(), here.squad.id, like)), LIKE
    first = suggested(max(here.week, here.today), blocks, here.season.last_week, template)
    weeks = request.args.get("weeks", type=number)
    if weeks and 1 <= weeks <= WEEKS_MOST:
        first["weeks"] = weeks
    exercises = [] if code in (EMPTY, TYPED) else lines_of(template, library)
    found = understood(request.form.get("typed", "")) if code == TYPED else None
    if code in (EMPTY, TYPED):
        first["name"] = ""
    form = BlockForm(library, exercises, None if found is None else found.facts, data=first)
    if request.method == "POST" and found is None:
        form.read_exercises(request.form)

    def write() -> int:
        with database().writing() as db:
            return create_block(acting(db), form.facts(), here.season).id

    block_id = form.submitted(write)
    if block_id:
        forget_reader()
        week = block_of(reader(), here.squad.id, block_id).first_week
        made = last_change(reader(), here.squad.id, "blocks", block_id)
        words = "Draft made: every load is worked out and rounded to this room. Publish it for the floor."
        said_with_undo(words, made)
        return redirect(url_for("block.show", block_id=block_id, week=week.isoformat()))
    return render_template(
        "block/new.html",
        form=form,
        context=here,
        templates=templates,
        code=code,
        template=template,
        exercises_most=EXERCISES_MOST,
        typed_placeholder=PLACEHOLDER,
        understood=found,
        text_most=TEXT_MOST,
        **exercise_choices(),
    ), 422 if form.errors else 200


@blueprint.post("/<int:block_id>/template")
@allow(Act.PLAN)
def keep(block_id: int) -> ResponseReturnValue:
    """Keep the block as a template of the squad's own."""
    block = block_of(reader(), context().squad.id, block_id)
    entry = template_of(block, request.form.get("words", "").strip()[:240])
    name = request.form.get("name", "").strip()[:40] or block.name
    with database().writing() as db:
        change = keep_template(acting(db), entry.model_copy(update={"name": name}))
    said_with_undo(f"Kept as the template {name}.", change.id)
    return redirect(url_for("block.exercises", block_id=block_id))


@blueprint.get("/templates/<code>.json")
@allow(Act.PLAN)
def export(code: str) -> ResponseReturnValue:
    """A template as an open file to share."""
    entry = squad_templates(reader(), context().squad.id).get(code)
    if entry is None:
        raise NotThere("template")
    text = json.dumps(as_plain(entry), indent=2, ensure_ascii=False)
    name = "".join(c if c.isascii() and c.isalnum() else "-" for c in entry.name.lower())
    return Response(
        text, mimetype="application/json", headers={"Content-Disposition": f'attachment; filename="{name}.json"'}
    )


@blueprint.post("/templates")
@allow(Act.PLAN)
def bring_in() -> ResponseReturnValue:
    """A shared template from a file; what is wrong is said place by place and nothing is kept."""
    upload = request.files.get("file")
    text = upload.read(FILE_MOST + 1).decode("utf-8", "replace") if upload else ""
    if not text or len(text) > FILE_MOST:
        flash("Choose a template file of at most 64 kB.", "problem")
        return redirect(url_for("block.new"))
    entry = from_json(text)
    if not isinstance(entry, list):
        library = squad_library()
        unknown = [
            f"exercises.{n}: {exercise.movement or exercise.ladder} is not in this squad's library"
            for n, exercise in enumerate(entry.exercises)
            if exercise.movement not in ({"", *library.movements}) or exercise.ladder not in ({"", *library.ladders})
        ]
        if not unknown:
            with database().writing() as db:
                change = keep_template(acting(db), entry)
            said_with_undo(f"Template {entry.name} brought in.", change.id)
            return redirect(url_for("block.new", template=change.before["code"]))
        entry = unknown
    flash("This file cannot be used. " + " · ".join(entry), "problem")
    return redirect(url_for("block.new"))


@blueprint.post("/templates/<code>/drop")
@allow(Act.PLAN)
def drop(code: str) -> ResponseReturnValue:
    if code not in squad_templates(reader(), context().squad.id) or code in shipped():
        raise NotThere("template")
    with database().writing() as db:
        change = retire_entry(acting(db), TEMPLATE, code, True)
    said_with_undo("Template put away.", change.id)
    return redirect(url_for("block.new"))
