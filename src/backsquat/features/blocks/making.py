"""Making a block from a template, its slots with their schools, templates kept and shared."""

import json
from collections import Counter
from typing import Any

from flask import Response, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere
from backsquat.core.progression.schools import SCHOOLS
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.blocks.courses import course_of, own_courses
from backsquat.features.blocks.forms import (
    BlockForm,
    ParameterForm,
    SlotLine,
    line_from,
    lines_of,
    parameter_form,
    parameter_text,
    suggested,
    what_names,
)
from backsquat.features.blocks.kept import TEMPLATE, keep_template, squad_templates
from backsquat.features.blocks.operations import block_of
from backsquat.features.blocks.phrases import ROLE_WORDS, WEEKDAYS, WINDOW_WHY, reps_words
from backsquat.features.blocks.planning import room_of
from backsquat.features.blocks.queries import squad_blocks
from backsquat.features.blocks.routes import block_head, blueprint
from backsquat.features.blocks.slots import (
    SlotFacts,
    add_slot,
    change_slot,
    create_block,
    give_course,
    move_slot,
    remove_slot,
    slot_of,
    take_course,
    template_of,
)
from backsquat.features.desk import COACH, actor, allow, database, desk, forget_reader, reader, squad_library
from backsquat.features.entries import retire_entry
from backsquat.features.journal import last_change
from backsquat.features.phrases import problem_words
from backsquat.library.templates import as_plain, from_json, shipped
from backsquat.storage.models import Block, BlockSlot

EMPTY = "empty"
FILE_MOST = 64_000  # bytes of a shared template


@blueprint.route("/new", methods=["GET", "POST"])
@allow(COACH)
def new() -> ResponseReturnValue:
    here, library = desk(), squad_library()
    room_of(reader(), here.squad.id)
    blocks = squad_blocks(reader(), here.squad.id)
    templates = squad_templates(reader(), here.squad.id)
    code = request.values.get("template", "strength")
    template = templates.get(code) or shipped()["strength"]
    first = suggested(max(here.week, here.today), blocks, here.season.last_week, template)
    slots = [] if code == EMPTY else lines_of(template, library)
    form = BlockForm(library, slots, data=first)
    if request.method == "POST":
        form.read_slots(request.form)

    def write() -> int:
        with database().writing() as session:
            return create_block(session, actor(), form.facts(), here.season, here.rules).id

    block_id = form.submitted(write)
    if block_id:
        forget_reader()
        week = reader().get_one(Block, block_id).first_week
        flash("Draft made: every load is worked out and rounded to this room. Publish it for the floor.")
        return redirect(url_for("blocks.show", block_id=block_id, week=week.isoformat()))
    return render_template(
        "blocks/new.html",
        form=form,
        desk=here,
        templates=templates,
        code=code,
        template=template,
        **_choices(),
    ), 422 if form.errors else 200


def _choices() -> dict[str, Any]:
    return {
        "weekdays": WEEKDAYS, "schools": SCHOOLS, "roles": ROLE_WORDS,
        "parameter_text": parameter_text, "whats": sorted(what_names(squad_library())), "window_why": WINDOW_WHY,
        "reps_words": reps_words, "course_of": course_of,
    }  # fmt: skip


@blueprint.get("/<int:block_id>/slots")
@allow(COACH)
def slots(
    block_id: int, line: SlotLine | None = None, problem: str = "", status: int = 200
) -> ResponseReturnValue:
    """The block's days: what is done when, under which school."""
    block = block_of(reader(), desk().squad.id, block_id)
    own = own_courses(reader(), [slot.id for slot in block.slots])
    page = render_template(
        "blocks/slots.html", own_count=Counter(slot_id for slot_id, _ in own),
        line=line or SlotLine(day=str(block.slots[0].weekday)), problem=problem,
        **block_head(block), **_choices(),
    )  # fmt: skip
    return page, status


@blueprint.post("/<int:block_id>/slots")
@allow(COACH)
def put_in(block_id: int) -> ResponseReturnValue:
    """One more slot."""
    line = line_from(request.form, {})
    facts = line.facts(what_names(squad_library()))
    if facts is None:
        return slots(block_id, line, status=422)
    try:
        with database().writing() as session:
            slot_id = add_slot(session, actor(), block_id, facts, desk().rules).id
    except ImpossibleInput as error:
        return slots(block_id, line, problem_words(error.problems[0]), 422)
    flash(f"Slot added as a draft.|{_last(block_id)}", "undo")
    return redirect(url_for("blocks.show", block_id=block_id, lift=slot_id))


def _last(block_id: int) -> int:
    forget_reader()
    change = last_change(reader(), desk().squad.id, "slots", block_id)
    return change.id if change else 0


@blueprint.post("/slots/<int:slot_id>/out")
@allow(COACH)
def take_out(slot_id: int) -> ResponseReturnValue:
    try:
        with database().writing() as session:
            block_id = remove_slot(session, actor(), slot_id).id
    except ImpossibleInput as error:
        _slot, block = slot_of(reader(), desk().squad.id, slot_id)
        return slots(block.id, problem=problem_words(error.problems[0]), status=422)
    flash(f"Slot taken out; what was logged stays.|{_last(block_id)}", "undo")
    return redirect(url_for("blocks.slots", block_id=block_id))


@blueprint.post("/slots/<int:slot_id>/move")
@allow(COACH)
def move(slot_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        block_id = move_slot(session, actor(), slot_id, -1 if request.form.get("way") == "earlier" else 1).id
    return redirect(url_for("blocks.slots", block_id=block_id))


@blueprint.route("/slots/<int:slot_id>", methods=["GET", "POST"])
@allow(COACH)
def slot(slot_id: int) -> ResponseReturnValue:
    """One slot: its school with every parameter, for everybody or for single athletes.

    `school` in the address looks at another school, `athlete` at what that athlete follows.
    """
    row, block = slot_of(reader(), desk().squad.id, slot_id)
    own = {athlete_id: course for (_, athlete_id), course in own_courses(reader(), [row.id]).items()}
    chosen = (request.form if request.method == "POST" else request.args).getlist("athlete", type=int)
    course = next((own[athlete_id] for athlete_id in chosen if athlete_id in own), course_of(row))
    school = request.values.get("school", course.code)
    if school not in SCHOOLS or (school == "ladder") != bool(row.ladder):
        raise NotThere("school")
    form, problem = parameter_form(course, school), ""
    if request.method == "POST":
        form = ParameterForm(
            school, {line.name: request.form.get(line.name, "")[:80] for line in form.lines()}
        )
        found = form.read()
        if found is not None:
            try:
                _keep_slot(row, school, found, chosen)
            except ImpossibleInput as error:
                problem = problem_words(error.problems[0])
            else:
                concerned = chosen if request.form.get("for") == "some" else []
                return _what_it_does("Slot changed.", block.id, slot_id, concerned)
    page = render_template(
        "blocks/slot.html", slot=row, school=school, form=form, problem=problem, own=own, chosen=chosen,
        for_some=request.values.get("for") == "some" or (bool(chosen) and request.method == "GET"),
        athletes=squad_athletes(reader(), desk().squad.id), **block_head(block), **_choices(),
    )  # fmt: skip
    return page, 422 if form.errors or problem else 200


def _keep_slot(row: BlockSlot, school: str, found: dict[str, Any], chosen: list[int]) -> None:
    """What the slot's form asks for: for everybody, or for those who were chosen."""
    with database().writing() as session:
        if request.form.get("for") == "some":
            give_course(session, actor(), row.id, chosen, school, found)
            return
        facts = SlotFacts(
            _whole("day", row.weekday, 6), row.movement, school, found, row.ladder,
            request.form.get("role", row.role), _whole("stack", row.stack, 9),
            request.form.get("variation", "").strip()[:60],
        )  # fmt: skip
        if facts.role not in ROLE_WORDS:
            raise NotThere("role")
        change_slot(session, actor(), row.id, facts)


@blueprint.post("/slots/<int:slot_id>/athletes/<int:athlete_id>/back")
@allow(COACH)
def course_back(slot_id: int, athlete_id: int) -> ResponseReturnValue:
    """An athlete follows the slot's school again."""
    with database().writing() as session:
        block_id = take_course(session, actor(), slot_id, athlete_id).block_id
    return _what_it_does("Back to the slot's school.", block_id, slot_id, [athlete_id])


def _what_it_does(words: str, block_id: int, slot_id: int, athletes: list[int]) -> ResponseReturnValue:
    """To the difference the change makes, for those it concerns."""
    flash(f"{words} This is what it does to the loads.|{_last(block_id)}", "undo")
    place = url_for("blocks.difference", block_id=block_id, slot=slot_id, lift=slot_id, athlete=athletes)
    return redirect(place)


def _whole(name: str, otherwise: int, most: int) -> int:
    value = request.form.get(name, type=int)
    return otherwise if value is None else min(max(value, 0), most)


@blueprint.post("/<int:block_id>/template")
@allow(COACH)
def keep(block_id: int) -> ResponseReturnValue:
    """Keep the block as a template of the squad's own."""
    block = block_of(reader(), desk().squad.id, block_id)
    entry = template_of(block, request.form.get("words", "").strip()[:240])
    name = request.form.get("name", "").strip()[:40] or block.name
    with database().writing() as session:
        change = keep_template(session, actor(), entry.model_copy(update={"name": name}))
    flash(f"Kept as the template {name}.|{change.id}", "undo")
    return redirect(url_for("blocks.slots", block_id=block_id))


@blueprint.get("/templates/<code>.json")
@allow(COACH)
def export(code: str) -> ResponseReturnValue:
    """A template as an open file to share."""
    entry = squad_templates(reader(), desk().squad.id).get(code)
    if entry is None:
        raise NotThere("template")
    text = json.dumps(as_plain(entry), indent=2, ensure_ascii=False)
    name = "".join(c if c.isascii() and c.isalnum() else "-" for c in entry.name.lower())
    return Response(
        text,
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.json"'},
    )


@blueprint.post("/templates")
@allow(COACH)
def bring_in() -> ResponseReturnValue:
    """A shared template from a file; what is wrong is said place by place and nothing is kept."""
    upload = request.files.get("file")
    text = upload.read(FILE_MOST + 1).decode("utf-8", "replace") if upload else ""
    if not text or len(text) > FILE_MOST:
        flash("Choose a template file of at most 64 kB.", "problem")
        return redirect(url_for("blocks.new"))
    entry = from_json(text)
    if not isinstance(entry, list):
        library = squad_library()
        unknown = [
            f"slots.{n}: {slot.movement or slot.ladder} is not in this squad's library"
            for n, slot in enumerate(entry.slots)
            if slot.movement not in ({"", *library.movements}) or slot.ladder not in ({"", *library.ladders})
        ]
        if not unknown:
            with database().writing() as session:
                change = keep_template(session, actor(), entry)
            flash(f"Template {entry.name} brought in.|{change.id}", "undo")
            return redirect(url_for("blocks.new", template=change.before["code"]))
        entry = unknown
    flash("This file cannot be used. " + " · ".join(entry), "problem")
    return redirect(url_for("blocks.new"))


@blueprint.post("/templates/<code>/drop")
@allow(COACH)
def drop(code: str) -> ResponseReturnValue:
    if code not in squad_templates(reader(), desk().squad.id) or code in shipped():
        raise NotThere("template")
    with database().writing() as session:
        change = retire_entry(session, actor(), TEMPLATE, code, True)
    flash(f"Template put away.|{change.id}", "undo")
    return redirect(url_for("blocks.new"))
