"""The sheet's quick edits and what is put on it after it stands."""

from typing import Any

from flask import jsonify, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.numbers import read_decimal
from backsquat.pages.block.drawing import draw_cells
from backsquat.pages.block.head import block_head, blueprint, chosen_exercise
from backsquat.pages.request import acting, allow, context, database, forget_reader, number, reader
from backsquat.ui.phrases.problems import problem_words, refusal_words
from backsquat.work.plan.cells import standing_of
from backsquat.work.plan.edit import edit_cells
from backsquat.work.plan.exercise_plan import room_of
from backsquat.work.plan.sheet import milestone_notes, rows_with
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of


@blueprint.get("/<int:block_id>/milestones")
@allow(Act.READ_PLAN)
def milestones(block_id: int) -> ResponseReturnValue:
    """The milestone of each athlete for the sheet's movement."""
    here = context()
    exercise = chosen_exercise(block_of(reader(), here.squad.id, block_id), loaded=False)
    notes = milestone_notes(reader(), here.squad.id, exercise, here.today, here.records_from, here.rules)
    return render_template("block/_milestones.html", notes=notes)


@blueprint.post("/<int:block_id>/edits")
@allow(Act.PLAN)
def edit(block_id: int) -> ResponseReturnValue:
    """Many loads at once from the sheet: `cells` and `loads` in the same order. Answers with the new cells."""
    cells, loads = request.form.get("cells", ""), request.form.get("loads", "")
    try:
        ids = [number(word) for word in cells.split()]
        amounts = [read_decimal(word) for word in loads.split()]
        if not all(abs(amount) < 10**6 for amount in amounts):
            raise ValueError
    except ValueError:
        return jsonify(problem=problem_words(Problem("load", "not_a_number"))), 422
    if len(ids) != len(amounts):
        return jsonify(problem=problem_words(Problem("load", "not_a_number"))), 422
    try:
        with database().writing() as db:
            new_ids, _ = edit_cells(acting(db), block_id, dict(zip(ids, amounts, strict=True)))
    except ImpossibleInput as error:
        return jsonify(problem=problem_words(error.problems[0])), 422
    except Refused as error:
        return jsonify(problem=". ".join(refusal_words(error))), 409
    forget_reader()
    return jsonify(_answered(block_id, dict(zip(ids, new_ids, strict=True))))


def _answered(block_id: int, replaced: dict[int, int]) -> dict[str, Any]:
    """The new cells drawn, by the id of the cell each replaces, and what can be done with the sheet now."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    exercise = chosen_exercise(block, loaded=False)
    link = url_for("block.show", block_id=block.id, lift=exercise.id, cell="CELL")
    rows = rows_with(reader(), here.squad.id, block, exercise, list(replaced.values()), here.today, here.rules)
    unit = room_of(reader(), here.squad.id).unit
    old_of = {new: old for old, new in replaced.items()}
    drafts, published = standing_of(reader(), block)
    drawn = [pair for row in rows for pair in draw_cells(row, open_id=0, published=True, link=link, unit=unit)]
    return {
        "cells": {str(old_of.get(cell.id, cell.id)): picture for cell, picture in drawn if cell.id},
        "acts": render_template(
            "block/_acts.html", exercise_id=exercise.id, drafts=drafts, published=published, **block_head(block)
        ),
    }
