"""The slots of a block with their schools, for everybody or for single athletes."""

from collections import Counter
from typing import Any

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere
from backsquat.core.progression.cell import SlotRole
from backsquat.core.progression.schools import SCHOOLS
from backsquat.pages.block.choices import slot_choices
from backsquat.pages.block.forms import ParameterForm, SlotLine, line_from, parameter_form, what_names
from backsquat.pages.block.head import block_head, blueprint, standing
from backsquat.pages.request import (
    actor,
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
from backsquat.storage.models import BlockSlot
from backsquat.ui.phrases.problems import PROBLEMS, problem_words
from backsquat.work.journal import last_change
from backsquat.work.plan.blocks import SlotFacts
from backsquat.work.plan.cells import standing_of
from backsquat.work.plan.exposure_rows import row_of, same_lift
from backsquat.work.plan.school_settings import athlete_settings, setting_of
from backsquat.work.plan.slots import add_slot, change_slot, give_setting, move_slot, remove_slot, take_setting
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of, slot_of
from backsquat.work.squad.athletes import squad_athletes


@blueprint.get("/<int:block_id>/slots")
@allow(Act.PLAN)
def slots(block_id: int, line: SlotLine | None = None, problem: str = "", status: int = 200) -> ResponseReturnValue:
    """The block's days: what is done when, under which school."""
    block = block_of(reader(), context().squad.id, block_id)
    own = athlete_settings(reader(), [slot.id for slot in block.slots])
    page = render_template(
        "block/slots.html",
        own_count=Counter(slot_id for slot_id, _ in own),
        line=line or SlotLine(day=str(block.slots[0].weekday)),
        problem=problem,
        leaving=[slot for slot in block.every_slot if slot.removed and slot.moved],
        standing=standing(block.slots[0], *standing_of(reader(), block)),
        **block_head(block),
        **slot_choices(),
    )
    return page, status


@blueprint.post("/<int:block_id>/slots")
@allow(Act.PLAN)
def put_in(block_id: int) -> ResponseReturnValue:
    """One more slot."""
    line = line_from(request.form, {})
    facts = line.facts(what_names(squad_library()))
    if facts is None:
        return slots(block_id, line, status=422)
    try:
        with database().writing() as session:
            slot_id = add_slot(session, actor(), block_id, facts, context().rules).id
    except ImpossibleInput as error:
        return slots(block_id, line, problem_words(error.problems[0]), 422)
    forget_reader()
    row = _row(slot_id)
    if len(row) > 1:  # those it goes on with climb otherwise from now on
        return _what_it_does("Exercise added as a draft.", block_id, row, [])
    said_with_undo("Exercise added as a draft.", _last(block_id))
    return redirect(url_for("block.show", block_id=block_id, lift=slot_id))


def _row(slot_id: int) -> list[int]:
    """The slot and those that climb as one row with it."""
    slot, block = slot_of(reader(), context().squad.id, slot_id)
    return [one.id for one in row_of(slot, same_lift(block, slot), {})]


def _last(block_id: int) -> int:
    forget_reader()
    change = last_change(reader(), context().squad.id, "slots", block_id)
    return change.id if change else 0


@blueprint.post("/slots/<int:slot_id>/out")
@allow(Act.PLAN)
def take_out(slot_id: int) -> ResponseReturnValue:
    """One slot less."""
    others = _row(slot_id)[1:]
    try:
        with database().writing() as session:
            block_id = remove_slot(session, actor(), slot_id).id
    except ImpossibleInput as error:
        _slot, block = slot_of(reader(), context().squad.id, slot_id)
        return slots(block.id, problem=problem_words(error.problems[0]), status=422)
    if others:
        return _what_it_does("Exercise removed; what was logged stays.", block_id, others, [])
    said_with_undo("Exercise removed; what was logged stays.", _last(block_id))
    return redirect(url_for("block.slots", block_id=block_id))


@blueprint.post("/slots/<int:slot_id>/move")
@allow(Act.PLAN)
def move(slot_id: int) -> ResponseReturnValue:
    """Earlier or later in its session."""
    with database().writing() as session:
        change = move_slot(session, actor(), slot_id, -1 if request.form.get("way") == "earlier" else 1)
        change_id = change.id if change else None
    if change_id:
        said_with_undo("Moved. The floor has it so once you publish.", change_id)
    return redirect(url_for("block.slots", block_id=slot_of(reader(), context().squad.id, slot_id)[1].id))


@blueprint.route("/slots/<int:slot_id>", methods=["GET", "POST"])
@allow(Act.PLAN)
def slot(slot_id: int) -> ResponseReturnValue:
    """One slot: its school with every parameter, for everybody or for single athletes.

    `school` in the address looks at another school, `athlete` at what that athlete follows.
    """
    row, block = slot_of(reader(), context().squad.id, slot_id)
    own = {athlete_id: setting for (_, athlete_id), setting in athlete_settings(reader(), [row.id]).items()}
    chosen = (request.form if request.method == "POST" else request.args).getlist("athlete", type=number)
    setting = next((own[athlete_id] for athlete_id in chosen if athlete_id in own), setting_of(row))
    school = request.values.get("school", setting.code)
    if school not in SCHOOLS or (school == "ladder") != bool(row.ladder):
        raise NotThere("school")
    form, problem = parameter_form(setting, school), ""
    if request.method == "POST":
        form = ParameterForm(school, {line.name: request.form.get(line.name, "")[:80] for line in form.lines()})
        found = form.read()
        if changed_since(_known(row)):
            problem = PROBLEMS["meanwhile"]
        elif found is not None:
            before = _row(slot_id)
            try:
                _keep_slot(row, school, found, chosen)
            except ImpossibleInput as error:
                problem = problem_words(error.problems[0])
            else:
                concerned = chosen if request.form.get("for") == "some" else []
                forget_reader()
                concerns = dict.fromkeys([slot_id, *before, *_row(slot_id)])
                return _what_it_does("Exercise changed.", block.id, list(concerns), concerned)
    page = render_template(
        "block/slot.html",
        slot=row,
        seen=seen_of(_known(row)),
        school=school,
        form=form,
        problem=problem,
        own=own,
        chosen=chosen,
        for_some=request.values.get("for") == "some" or (bool(chosen) and request.method == "GET"),
        athletes=squad_athletes(reader(), context().squad.id),
        **block_head(block),
        **slot_choices(),
    )
    return page, 422 if form.errors or problem else 200


def _known(row: BlockSlot) -> dict[str, Any]:
    return {"slot": (row.session_id, row.role, row.stack, row.variation, row.school, row.parameters)}


def _keep_slot(row: BlockSlot, school: str, found: dict[str, Any], chosen: list[int]) -> None:
    """What the slot's form asks for: for everybody, or for those who were chosen."""
    with database().writing() as session:
        if request.form.get("for") == "some":
            give_setting(session, actor(), row.id, chosen, school, found)
            return
        role = request.form.get("role", row.role.value)
        if role not in set(SlotRole):
            raise NotThere("role")
        facts = SlotFacts(
            weekday=_whole("day", row.weekday, 6),
            movement=row.movement,
            school=school,
            parameters=found,
            ladder=row.ladder,
            role=SlotRole(role),
            stack=_whole("stack", row.stack, 9),
            variation=request.form.get("variation", "").strip()[:60],
        )
        change_slot(session, actor(), row.id, facts)


@blueprint.post("/slots/<int:slot_id>/athletes/<int:athlete_id>/back")
@allow(Act.PLAN)
def setting_back(slot_id: int, athlete_id: int) -> ResponseReturnValue:
    """An athlete follows the slot's school again."""
    with database().writing() as session:
        block_id = take_setting(session, actor(), slot_id, athlete_id).block_id
    forget_reader()
    return _what_it_does("Back to the exercise's progression.", block_id, _row(slot_id), [athlete_id])


def _what_it_does(words: str, block_id: int, slot_ids: list[int], athletes: list[int]) -> ResponseReturnValue:
    """To the difference the change makes, for those it concerns."""
    said_with_undo(f"{words} This is what it does to the loads.", _last(block_id))
    target = url_for("block.difference", block_id=block_id, slot=slot_ids, lift=slot_ids[0], athlete=athletes)
    return redirect(target)


def _whole(name: str, otherwise: int, most: int) -> int:
    value = request.form.get(name, type=number)
    return otherwise if value is None else min(max(value, 0), most)
