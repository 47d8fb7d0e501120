"""The Block page: choose a slot, read and change the sheet, publish."""

from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.ramp import needs_blocks, ramp_to
from backsquat.core.loads.rigs import rigs_for
from backsquat.core.progression.audit import FROM_FLOOR
from backsquat.core.progression.row import State
from backsquat.features.athletes.queries import athlete_of, squad_athletes
from backsquat.features.blocks.drawing import band_ranges, bar_picture, cell_load, draw_place
from backsquat.features.blocks.editing import edit_cell
from backsquat.features.blocks.forms import CellForm, name_of
from backsquat.features.blocks.operations import Anew, block_of, publish, redo, redoable, replan, replanned
from backsquat.features.blocks.phrases import CHANGES, SHORT_DAYS, SHORT_STATES, STAND_IN, STATES
from backsquat.features.blocks.queries import (
    Sheet,
    athlete_block,
    block_in_week,
    panel_of,
    sheet_of,
    squad_blocks,
)
from backsquat.features.desk import ASSISTANT, COACH, actor, allow, database, desk, reader, squad_library
from backsquat.features.fields import options
from backsquat.features.journal import last_change, undo
from backsquat.features.room.rooms import rooms_of
from backsquat.storage.models import Block, BlockSlot

WORDED = ("movement", "load_amount", "load_unit", "reps", "sets", "state", "hold_s")

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


def slot_name(slot: BlockSlot) -> str:
    return name_of(squad_library(), slot.movement, slot.ladder)


def _sheet(block: Block) -> Sheet:
    here = desk()
    wanted = request.values.get("lift", "")
    slot = next((slot for slot in block.slots if str(slot.id) == wanted), block.slots[0])
    return sheet_of(reader(), here.squad.id, block, slot, here.today, here.rules)


def _panel(cell_id: int | None, form: CellForm | None = None) -> dict[str, Any]:
    """What the working panel of a cell needs."""
    here = desk()
    panel = panel_of(reader(), here.squad.id, cell_id, here.today, here.rules) if cell_id else None
    rooms = rooms_of(reader(), here.squad.id)
    room = rooms.own
    if panel is None:
        return {"panel": None, "unit": room.unit, "conventions": CONVENTIONS}
    room = rooms.of_cell(panel.cell)
    load = cell_load(room, panel.movement, panel.cell)
    form = form or CellForm(formdata=None, data={"load": panel.cell.load_amount, "bar": panel.cell.bar})
    form.bar.choices = options(
        (rig.code, f"{rig.name}, {rig.mass.text} {rig.mass.unit}" if rig.mass.grains else rig.name)
        for rig in rigs_for(panel.movement, room)
    )
    shown = bar_picture(room, load) if load and not panel.refused else None
    on_floor = panel.movement.code in FROM_FLOOR
    why = STAND_IN.get(panel.cell.inputs.get("why", ""), "") if panel.cell.movement else ""
    return {
        "panel": panel,
        "cell_form": form,
        "bar_svg": shown,
        "room": room,
        "bar_load": load,
        "conventions": CONVENTIONS,
        "ramp": ramp_to(load, loads_on(room, load.rig), from_floor=on_floor) if load else (),
        "band_ranges": band_ranges(room, load) if load else [],
        "blocks_needed": bool(load and on_floor and needs_blocks(load, room)),
        "unit": rooms.own.unit,
        "states": STATES,
        "stands_in": why.format(movement=slot_name(panel.slot).lower()),
    }


def _sheet_page(
    block: Block, form: CellForm | None = None, cell_id: int | None = None, status: int = 200
) -> ResponseReturnValue:
    cell_id = cell_id or request.args.get("cell", type=int)
    if request.headers.get("HX-Target") == "panel" and form is None:
        return render_template("blocks/_panel.html", desk=desk(), block=block, **_panel(cell_id))
    sheet = _sheet(block)
    cell_id = cell_id or _first_cell(sheet)
    page = render_template(
        "blocks/sheet.html",
        # Hundreds of links differ by their cell only: the address is worked out once.
        cell_link=url_for("blocks.show", block_id=block.id, lift=sheet.slot.id, cell="CELL"),
        sheet=sheet, week_index=(desk().week - block.first_week).days // 7,
        **block_head(block), **_panel(cell_id, form),
    )  # fmt: skip
    return page, status


def block_head(block: Block) -> dict[str, Any]:
    """What every page of a block has above it."""
    squad_id = desk().squad.id
    change = last_change(reader(), squad_id, "cells", block.id)
    return {
        "desk": desk(), "block": block, "draw_place": draw_place, "slot_name": slot_name, "short_days": SHORT_DAYS,
        "change": change, "changes": CHANGES,
        "again": redoable(reader(), squad_id, block.id, change), "place_words": place_words,
    }  # fmt: skip


def place_words(place: Any) -> str:
    """A place as it reads in a table of differences: a cell or the row of one."""
    given = place if isinstance(place, dict) else {name: getattr(place, name) for name in WORDED}
    if given["movement"]:
        return squad_library().get(given["movement"]).name
    if given["load_amount"] is not None:
        own = rooms_of(reader(), desk().squad.id).own.unit
        unit = "" if given["load_unit"] == own else f" {given['load_unit']}"
        return f"{given['load_amount'].normalize():f}{unit} × {given['reps']}"
    if given["state"] == State.WORK.value:
        return (
            f"{given['sets']} × {given['hold_s']} s"
            if given["hold_s"]
            else f"{given['sets']} × {given['reps']}"
        )
    return SHORT_STATES.get(given["state"], "no load")


def _first_cell(sheet: Sheet) -> int | None:
    """The cell shown at first: the chosen week's of the first athlete with a number."""
    week = (desk().week - sheet.block.first_week).days // 7
    for row in sheet.rows:
        for cell in row.cells:
            if cell.week == week and cell.kg is not None:
                return cell.id
    return next((cell.id for row in sheet.rows for cell in row.cells if cell.kg is not None), None)


@blueprint.get("/<int:block_id>/athletes/<int:athlete_id>")
@allow(COACH, ASSISTANT)
def athlete(block_id: int, athlete_id: int) -> ResponseReturnValue:
    """One athlete's whole block: every slot, every week."""
    here = desk()
    block = block_of(reader(), here.squad.id, block_id)
    who = athlete_of(reader(), here.squad.id, athlete_id)
    cell_id = request.args.get("cell", type=int)
    if request.headers.get("HX-Target") == "panel":
        return render_template("blocks/_panel.html", desk=here, block=block, **_panel(cell_id))
    lines = athlete_block(reader(), here.squad.id, block, who, here.today, here.rules)
    return render_template(
        "blocks/athlete.html", athlete=who, lines=lines, week_index=(here.week - block.first_week).days // 7,
        cell_link=url_for("blocks.athlete", block_id=block.id, athlete_id=who.id, cell="CELL"),
        **block_head(block), **_panel(cell_id),
    )  # fmt: skip


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


def _back(block_id: int) -> ResponseReturnValue:
    return redirect(url_for("blocks.show", block_id=block_id, lift=request.form.get("lift")))


@blueprint.post("/<int:block_id>/publish")
@allow(COACH)
def publish_block(block_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        number = publish(session, actor(), block_id).number
    flash(f"Published as version {number}: the floor uses these numbers now.")
    return _back(block_id)


def _anew() -> Anew:
    """What the form asks to plan anew: from which week, which slot, whom."""
    slot, athletes = request.values.get("slot", type=int), request.values.getlist("athlete", type=int)
    week = request.values.get("from_week", 0, type=int)
    return Anew(athletes or None, [slot] if slot else None, min(max(week, 0), 60))


@blueprint.get("/<int:block_id>/replan")
@allow(COACH)
def difference(block_id: int) -> ResponseReturnValue:
    """What planning anew would change, before anything does."""
    here, anew = desk(), _anew()
    block = block_of(reader(), here.squad.id, block_id)
    changes = replanned(reader(), actor(), block, here.rules, anew)
    names = {a.id: a.name for a in squad_athletes(reader(), here.squad.id)}
    return render_template(
        "blocks/difference.html", differing=changes, names=names, anew=anew,
        slot=request.args.get("slot", type=int), **block_head(block),
    )  # fmt: skip


@blueprint.post("/<int:block_id>/replan")
@allow(COACH)
def replan_block(block_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        changed = replan(session, actor(), block_id, desk().rules, _anew())
    flash(
        f"{changed} places planned anew as a draft; the past and your own loads stay. Look it over, then publish."
        if changed
        else "Nothing changes: the plan already follows from today's records."
    )
    return _back(block_id)


@blueprint.post("/<int:block_id>/undo/<int:change_id>")
@allow(COACH)
def undo_change(block_id: int, change_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        block_of(session, actor().squad_id, block_id)
        undo(session, actor(), change_id)
    flash("Undone.")
    return _back(block_id)


@blueprint.post("/<int:block_id>/redo")
@allow(COACH)
def redo_change(block_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        change = redo(session, actor(), block_id)
    flash(f"Done again: {CHANGES[change.what].lower()}")
    return _back(block_id)
