"""The Block page: choose an exercise, read and change the sheet, publish."""

from flask import flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.pages.block.drawing import draw_cells
from backsquat.pages.block.forms import CellForm
from backsquat.pages.block.head import block_head, blueprint, named, panel_page, standing
from backsquat.pages.block.phrases import SHEET_MARKS, filled_words, on_match_words, row_note, row_words, why_words
from backsquat.pages.block.span import dropped_page
from backsquat.pages.request import (
    acting,
    actor,
    allow,
    context,
    database,
    inside,
    membership,
    number,
    reader,
    squad_library,
    wants_piece,
)
from backsquat.storage.models import Block
from backsquat.ui.phrases.sessions import minutes_words
from backsquat.work.journal import redo, undo
from backsquat.work.plan.cells import publish
from backsquat.work.plan.difference import by_row
from backsquat.work.plan.edit import edit_cell
from backsquat.work.plan.filled import filled_of
from backsquat.work.plan.on_match_days import on_match_days
from backsquat.work.plan.panel import panel_of
from backsquat.work.plan.replan import ReplanScope, replan, replanned
from backsquat.work.plan.sheet import Sheet, athlete_block, sheet_of
from backsquat.work.plan.timed import over_time
from backsquat.work.policy import Act, may
from backsquat.work.sessions.blocks import block_in_week, block_of, squad_blocks
from backsquat.work.squad.athletes import athlete_of, squad_athletes


@blueprint.get("/")
@allow(Act.READ_PLAN)
def index() -> ResponseReturnValue:
    """The block of the chosen week; without one, what a block is for and how to make it."""
    here = context()
    block = block_in_week(squad_blocks(reader(), here.squad.id), here.week)
    if block is None:
        return render_template("block/none.html", context=here)
    return _sheet_page(block)


@blueprint.get("/<int:block_id>")
@allow(Act.READ_PLAN)
def show(block_id: int) -> ResponseReturnValue:
    """The sheet of a block."""
    block = block_of(reader(), context().squad.id, block_id)
    return dropped_page(block_id) if block.dropped else _sheet_page(block)


def _sheet(block: Block) -> Sheet:
    here = context()
    wanted = request.values.get("lift", "")
    exercise = next((exercise for exercise in block.exercises if str(exercise.id) == wanted), block.exercises[0])
    return sheet_of(reader(), here.squad.id, block, exercise, here.today, here.rules)


def _sheet_page(
    block: Block, form: CellForm | None = None, cell_id: int | None = None, status: int = 200
) -> ResponseReturnValue:
    cell_id = cell_id or request.args.get("cell", type=number)
    if wants_piece("panel") and form is None:
        return render_template("block/_panel.html", context=context(), block=block, **panel_page(cell_id))
    here, sheet = context(), _sheet(block)
    cell_id = cell_id or _first_cell(sheet)
    draft = not sheet.published and may(membership().role, Act.PLAN)
    page = render_template(
        "block/sheet.html",
        sheet_marks=SHEET_MARKS,
        on_match_days=on_match_days(reader(), here.squad.id, sheet.block, here.today, here.rules),
        on_match_words=on_match_words,
        # Hundreds of links differ by their cell only: the address is worked out once.
        cell_link=url_for("block.show", block_id=block.id, lift=sheet.exercise.id, cell="CELL"),
        sheet=sheet,
        filled=filled_of(reader(), block) if draft else [],
        over_time=over_time(reader(), block, here.today, here.rules) if draft else [],
        minutes_words=minutes_words,
        filled_words=lambda one: filled_words(one, squad_library()),
        standing=standing(sheet.exercise, sheet.drafts, sheet.published),
        week_index=(context().week - block.first_week).days // 7,
        draw_cells=draw_cells,
        row_note=row_note,
        row_words=row_words,
        **block_head(block),
        **panel_page(cell_id, form),
    )
    return page, status


def _first_cell(sheet: Sheet) -> int | None:
    """The cell shown at first: the chosen week's of the first athlete with a number."""
    week = (context().week - sheet.block.first_week).days // 7
    for row in sheet.rows:
        for cell in row.cells:
            if cell.week == week and cell.kg is not None:
                return cell.id
    return next((cell.id for row in sheet.rows for cell in row.cells if cell.kg is not None), None)


@blueprint.get("/<int:block_id>/athletes/<int:athlete_id>")
@allow(Act.READ_PLAN)
def athlete(block_id: int, athlete_id: int) -> ResponseReturnValue:
    """One athlete's whole block: every exercise, every week."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    who = athlete_of(reader(), here.squad.id, athlete_id)
    cell_id = request.args.get("cell", type=number)
    if wants_piece("panel"):
        return render_template("block/_panel.html", context=here, block=block, **panel_page(cell_id))
    lines = athlete_block(reader(), here.squad.id, block, who, here.today, here.rules)
    return render_template(
        "block/athlete.html",
        athlete=who,
        lines=lines,
        week_index=(here.week - block.first_week).days // 7,
        cell_link=url_for("block.athlete", block_id=block.id, athlete_id=who.id, cell="CELL"),
        draw_cells=draw_cells,
        row_note=row_note,
        row_words=row_words,
        **block_head(block),
        **panel_page(cell_id),
    )


@blueprint.post("/cells/<int:cell_id>")
@allow(Act.PLAN)
def change_cell(cell_id: int) -> ResponseReturnValue:
    """The coach's own load in one cell."""
    here = context()
    panel = panel_of(reader(), here.squad.id, cell_id, here.today, here.rules)
    if panel is None:
        raise NotThere("cell")
    form = CellForm()

    def write() -> int:
        with database().writing() as db:
            return edit_cell(acting(db), cell_id, form.load.data, form.bar.data or "")[0].id

    new_id = form.submitted(write)
    if new_id is None:
        return _sheet_page(panel.block, form, cell_id, 422)
    return redirect(url_for("block.show", block_id=panel.block.id, lift=panel.exercise.id, cell=new_id))


def _back(block_id: int) -> ResponseReturnValue:
    """To the session that asked for it, else to the sheet."""
    if there := inside(request.form.get("back", ""), "/session/"):
        return redirect(there)
    return redirect(url_for("block.show", block_id=block_id, lift=request.form.get("lift")))


@blueprint.post("/<int:block_id>/publish")
@allow(Act.PLAN)
def publish_block(block_id: int) -> ResponseReturnValue:
    """Give the sheet's numbers to the floor."""
    with database().writing() as db:
        version = publish(acting(db), block_id).number
    flash(f"Published as version {version}: the floor uses these numbers now.")
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    if clashes := on_match_days(reader(), here.squad.id, block, here.today, here.rules):
        flash(f"Nothing was moved, but look: {'; '.join(on_match_words(one) for one in clashes)}.")
    return _back(block_id)


def _scope() -> ReplanScope:
    """What the form asks to replan: from which week, which exercises, whom."""
    exercises, athletes = (
        request.values.getlist("exercise", type=number),
        request.values.getlist("athlete", type=number),
    )
    week = request.values.get("from_week", 0, type=number)
    rows = request.form.getlist("row") if "chosen" in request.form else None
    return ReplanScope(athletes or None, exercises or None, min(max(week, 0), 60), rows=rows)


@blueprint.get("/<int:block_id>/replan")
@allow(Act.PLAN)
def difference(block_id: int) -> ResponseReturnValue:
    """What planning again would change, before anything does."""
    here, scope = context(), _scope()
    block = block_of(reader(), here.squad.id, block_id)
    changes = replanned(acting(reader()), block, scope)
    names = {a.id: a.name for a in squad_athletes(reader(), here.squad.id)}
    return render_template(
        "block/difference.html",
        rows=by_row(changes),
        differing=[change for change in changes if not change.decided],
        why_words=why_words,
        names=names,
        scope=scope,
        exercises=scope.exercise_ids or [],
        **block_head(block),
    )


@blueprint.post("/<int:block_id>/replan")
@allow(Act.PLAN)
def replan_block(block_id: int) -> ResponseReturnValue:
    """Replan what the difference has shown."""
    with database().writing() as db:
        changed = replan(acting(db), block_id, _scope())
    flash(
        f"{changed} cells replanned as a draft; the past and your own loads stay. Look it over, then publish."
        if changed
        else "Nothing changes: nothing was ticked that differs from today's records."
    )
    return _back(block_id)


@blueprint.post("/<int:block_id>/undo/<int:change_id>")
@allow(Act.PLAN)
def undo_change(block_id: int, change_id: int) -> ResponseReturnValue:
    """Take back one change of the sheet."""
    with database().writing() as db:
        block_of(db, actor().squad_id, block_id)
        words = named(undo(acting(db), change_id))
    flash(f"Undone: {words}.")
    return _back(block_id)


@blueprint.post("/<int:block_id>/redo/<int:change_id>")
@allow(Act.PLAN)
def redo_change(block_id: int, change_id: int) -> ResponseReturnValue:
    """Do again what was undone last."""
    with database().writing() as db:
        block_of(db, actor().squad_id, block_id)
        words = named(redo(acting(db), change_id))
    flash(f"Done again: {words}.")
    return _back(block_id)
