"""The Block page: choose a lift, read and change the sheet, publish."""

import datetime as dt
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.progression.schools import SCHOOLS
from backsquat.features.blocks.drawing import bar_picture, cell_load, draw_place
from backsquat.features.blocks.forms import BlockForm, CellForm, suggested
from backsquat.features.blocks.operations import block_of, edit_cell, publish, replan
from backsquat.features.blocks.phrases import CHANGES, STATES, WEEKDAYS
from backsquat.features.blocks.planning import plannable, room_of
from backsquat.features.blocks.queries import Sheet, block_in_week, panel_of, sheet_of, squad_blocks
from backsquat.features.blocks.slots import create_block
from backsquat.features.desk import (
    ASSISTANT,
    COACH,
    actor,
    allow,
    database,
    desk,
    forget_reader,
    reader,
    squad_library,
)
from backsquat.features.fields import options
from backsquat.features.journal import last_change, undo
from backsquat.storage.models import Block

blueprint = Blueprint("blocks", __name__, url_prefix="/block", template_folder="templates")


@blueprint.get("/")
@allow(COACH, ASSISTANT)
def index() -> ResponseReturnValue:
    """The block of the chosen week; without one, what a block is for and how to make it."""
    here = desk()
    block = block_in_week(squad_blocks(reader(), here.squad.id), here.week)
    if block is None:
        return render_template("blocks/none.html", desk=here)
    return _sheet_page(block)


@blueprint.get("/<int:block_id>")
@allow(COACH, ASSISTANT)
def show(block_id: int) -> ResponseReturnValue:
    return _sheet_page(block_of(reader(), desk().squad.id, block_id))


def _sheet(block: Block) -> Sheet:
    here = desk()
    wanted = request.values.get("lift", "")
    slot = next((slot for slot in block.slots if str(slot.id) == wanted), block.slots[0])
    return sheet_of(reader(), here.squad.id, block, slot, here.today, here.rules)


def _panel(cell_id: int | None, form: CellForm | None = None) -> dict[str, Any]:
    """What the working panel of a cell needs."""
    here = desk()
    panel = panel_of(reader(), here.squad.id, cell_id, here.today, here.rules) if cell_id else None
    room = room_of(reader(), here.squad.id)
    if panel is None:
        return {"panel": None, "unit": room.unit}
    load = cell_load(room, panel.movement, panel.cell)
    form = form or CellForm(formdata=None, data={"load": panel.cell.load_amount, "bar": panel.cell.bar})
    form.bar.choices = options(
        (bar.code, f"{bar.name}, {bar.mass.text} {bar.mass.unit}") for bar in room.bars
    )
    shown = bar_picture(room, load) if load and not panel.refused else None
    return {
        "panel": panel,
        "cell_form": form,
        "bar_svg": shown,
        "room": room,
        "bar_load": load,
        "unit": room.unit,
        "states": STATES,
    }


def _sheet_page(
    block: Block, form: CellForm | None = None, cell_id: int | None = None, status: int = 200
) -> ResponseReturnValue:
    cell_id = cell_id or request.args.get("cell", type=int)
    if request.headers.get("HX-Target") == "panel" and form is None:
        return render_template("blocks/_panel.html", desk=desk(), block=block, **_panel(cell_id))
    sheet = _sheet(block)
    cell_id = cell_id or _first_cell(sheet)
    change = last_change(reader(), desk().squad.id, "cells", block.id)
    page = render_template(
        "blocks/sheet.html",
        # Hundreds of links differ by their cell only: the address is worked out once.
        cell_link=url_for("blocks.show", block_id=block.id, lift=sheet.slot.id, cell="CELL"),
        draw_place=draw_place,
        desk=desk(), block=block, sheet=sheet, change=change, changes=CHANGES, weekdays=WEEKDAYS,
        week_index=(desk().week - block.first_week).days // 7, **_panel(cell_id, form),
    )  # fmt: skip
    return page, status


def _first_cell(sheet: Sheet) -> int | None:
    """The cell shown at first: the chosen week's of the first athlete with a number."""
    week = (desk().week - sheet.block.first_week).days // 7
    for row in sheet.rows:
        for cell in row.cells:
            if cell.week == week and cell.kg is not None:
                return cell.id
    return next((cell.id for row in sheet.rows for cell in row.cells if cell.kg is not None), None)


@blueprint.route("/new", methods=["GET", "POST"])
@allow(COACH)
def new() -> ResponseReturnValue:
    here = desk()
    room_of(reader(), here.squad.id)
    blocks = squad_blocks(reader(), here.squad.id)
    form = BlockForm(
        plannable(squad_library()),
        data=suggested(max(here.week, here.today + dt.timedelta(days=1)), blocks, here.season.last_week),
    )
    if request.method == "POST":
        form.read_days(request.form)

    def write() -> int:
        with database().writing() as session:
            return create_block(session, actor(), form.facts(), here.season, here.rules).id

    block_id = form.submitted(write)
    if block_id:
        forget_reader()
        first = reader().get_one(Block, block_id).first_week
        flash("Draft made: every load is worked out and rounded to this room. Publish it for the floor.")
        return redirect(url_for("blocks.show", block_id=block_id, week=first.isoformat()))
    return render_template(
        "blocks/new.html", form=form, desk=here, weekdays=WEEKDAYS, schools=SCHOOLS
    ), 422 if form.errors else 200


@blueprint.post("/cells/<int:cell_id>")
@allow(COACH)
def change_cell(cell_id: int) -> ResponseReturnValue:
    here = desk()
    panel = panel_of(reader(), here.squad.id, cell_id, here.today, here.rules)
    if panel is None:
        raise NotThere("cell")
    form = CellForm()

    def write() -> int:
        with database().writing() as session:
            return edit_cell(session, actor(), cell_id, form.load.data, form.bar.data or "", here.rules)[0].id

    new_id = form.submitted(write)
    if new_id is None:
        return _sheet_page(panel.block, form, cell_id, 422)
    return redirect(url_for("blocks.show", block_id=panel.block.id, lift=panel.slot.id, cell=new_id))


@blueprint.post("/<int:block_id>/publish")
@allow(COACH)
def publish_block(block_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        number = publish(session, actor(), block_id).number
    flash(f"Published as version {number}: the floor uses these numbers now.")
    return redirect(url_for("blocks.show", block_id=block_id, lift=request.form.get("lift")))


@blueprint.post("/<int:block_id>/replan")
@allow(COACH)
def replan_block(block_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        changed = replan(session, actor(), block_id, desk().rules)
    flash(
        "Planned anew from today on; the past and your own loads stay. Look it over, then publish."
        if changed
        else "Nothing changes: the plan already follows from today's records."
    )
    return redirect(url_for("blocks.show", block_id=block_id, lift=request.form.get("lift")))


@blueprint.post("/<int:block_id>/undo/<int:change_id>")
@allow(COACH)
def undo_change(block_id: int, change_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        block_of(session, actor().squad_id, block_id)
        undo(session, actor(), change_id)
    flash("Undone.")
    return redirect(url_for("blocks.show", block_id=block_id, lift=request.form.get("lift")))
