"""What all pages of a block share: the blueprint, the head above them, the panel beside the sheet."""

from typing import Any

from flask import Blueprint, request

from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.ramp import needs_blocks, ramp_to
from backsquat.core.loads.rigs import rigs_for
from backsquat.core.progression.cell import State
from backsquat.pages.block.forms import CellForm
from backsquat.pages.block.phrases import ORIGINS, STAND_IN, short_state, state_words
from backsquat.pages.drawing import band_ranges, bar_picture
from backsquat.pages.fields import options
from backsquat.pages.request import context, reader, squad_library
from backsquat.storage.models import Block, Cell, Change, Exercise
from backsquat.ui.phrases.changes import change_words
from backsquat.ui.phrases.days import SHORT_DAYS
from backsquat.ui.phrases.exercises import name_of
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.working import chance_words
from backsquat.work.journal import last_of_plan
from backsquat.work.plan.cells import cell_load
from backsquat.work.plan.drafts import Draft
from backsquat.work.plan.exposure_rows import row_of, same_lift
from backsquat.work.plan.panel import Panel, panel_of
from backsquat.work.plan.rows import written
from backsquat.work.rooms.rooms import Rooms, rooms_of

blueprint = Blueprint("block", __name__, url_prefix="/block", template_folder="templates")
FEW = 3  # of more people alike, one remark for all of them


def exercise_name(exercise: Exercise) -> str:
    """The name an exercise is shown under."""
    return name_of(squad_library(), exercise.movement, exercise.ladder)


def row_days(block: Block) -> dict[int, str]:
    """By exercise the other days it goes on from as one row, in words; exercises that stand for themselves are not in it."""
    rows = {exercise.id: row_of(exercise, same_lift(block, exercise), {}) for exercise in block.exercises}
    days = {exercise_id: sorted(one.weekday for one in row[1:]) for exercise_id, row in rows.items()}
    return {
        exercise_id: " and ".join(SHORT_DAYS[day] for day in others) for exercise_id, others in days.items() if others
    }


def named(change: Change) -> str:
    """What a change did, in a few words."""
    return change_words(change.what, change.facts, squad_library())


def chosen_exercise(block: Block, *, loaded: bool = True) -> Exercise:
    """The exercise the page asks for; `loaded`: one with loads, where there is any."""
    wanted = request.values.get("lift", "")
    exercises = [exercise for exercise in block.exercises if not loaded or not exercise.ladder] or block.exercises
    return next((exercise for exercise in exercises if str(exercise.id) == wanted), exercises[0])


def block_head(block: Block) -> dict[str, Any]:
    """What every page of a block has above it."""
    squad_id = context().squad.id
    change, again = last_of_plan(reader(), squad_id, block.id)
    return {
        "context": context(),
        "block": block,
        "exercise_name": exercise_name,
        "short_days": SHORT_DAYS,
        "row_days": row_days(block),
        "few": FEW,
        "change": change,
        "again": again,
        "named": named,
        "cell_words": cell_words,
    }


def standing(exercise: Exercise, drafts: int, published: bool) -> dict[str, Any]:
    """What the acts above a page say: how much waits to be published; they come back to the exercise."""
    return {"exercise_id": exercise.id, "drafts": drafts, "published": published}


def panel_page(cell_id: int | None, form: CellForm | None = None) -> dict[str, Any]:
    """What the panel of a cell needs."""
    here = context()
    panel = panel_of(reader(), here.squad.id, cell_id, here.today, here.rules) if cell_id else None
    rooms = rooms_of(reader(), here.squad.id)
    known = {"panel": panel, "chance_words": chance_words, "unit": rooms.own.unit, "conventions": CONVENTIONS}
    return known if panel is None else known | _opened(panel, rooms, form)


def _opened(panel: Panel, rooms: Rooms, form: CellForm | None) -> dict[str, Any]:
    room = rooms.of_cell(panel.cell)
    load = cell_load(room, panel.movement, panel.cell)
    form = form or CellForm(formdata=None, data={"load": panel.cell.load_amount, "bar": panel.cell.bar})
    form.bar.choices = options(
        (rig.code, f"{rig.name}, {rig.mass.text} {rig.mass.unit}" if rig.mass.grains else rig.name)
        for rig in rigs_for(panel.movement, room)
    )
    on_floor = panel.movement.from_floor
    why = STAND_IN.get(panel.cell.stands_in, "")
    return {
        "cell_form": form,
        "bar_svg": bar_picture(room, load) if load and not panel.obstacle else None,
        "room": room,
        "bar_load": load,
        "ramp": ramp_to(load, loads_on(room, load.rig), from_floor=on_floor) if load else (),
        "band_ranges": band_ranges(room, load) if load else [],
        "blocks_needed": bool(load and on_floor and needs_blocks(load, room)),
        "state_words": state_words,
        "origins": ORIGINS,
        "stands_in": why.format(movement=in_text(exercise_name(panel.exercise))),
    }


def cell_words(cell: Cell | Draft) -> str:
    """A cell, or the draft of one, as it reads in a table of differences."""
    if cell.movement:
        return squad_library().get(cell.movement).name
    if cell.load_amount is not None:
        own = rooms_of(reader(), context().squad.id).own.unit
        unit = "" if cell.load_unit == own else f" {cell.load_unit}"
        return f"{written(cell.load_amount)}{unit} × {cell.reps}"
    if cell.state is State.WORK:
        return f"{cell.sets} × {f'{cell.hold_s} s' if cell.hold_s else cell.reps}"
    return short_state(cell.state)
