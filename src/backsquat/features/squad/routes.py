"""The squad, its rules, cautions, and the one undo for things with a present state."""

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotAllowed
from backsquat.core.rules import lines as rule_lines
from backsquat.core.rules import parse
from backsquat.features.desk import (
    ANYONE,
    COACH,
    STAFF,
    actor,
    allow,
    database,
    desk,
    membership,
    reader,
    squad_library,
)
from backsquat.features.journal import undo
from backsquat.features.phrases import problem_words
from backsquat.features.review.phrases import milestone_words
from backsquat.features.squad.operations import change_rule
from backsquat.features.squad.phrases import CAUTIONS
from backsquat.features.squad.queries import squad_lines

blueprint = Blueprint("squad", __name__, template_folder="templates")


@blueprint.get("/")
@allow(*STAFF)
def index() -> ResponseReturnValue:
    here = desk()
    codes, everyone = squad_lines(reader(), here)
    only = request.args.get("show") == "needs-me"
    needing = [line for line in everyone if line.needs_me]
    return render_template(
        "squad/squad.html", desk=here, lifts=[squad_library().get(code) for code in codes],
        lines=needing if only else everyone, everyone=len(everyone),
        needing=len(needing), only=only, milestone_words=milestone_words,
    )  # fmt: skip


@blueprint.route("/rules", methods=["GET", "POST"])
@allow(*STAFF)  # everybody may read where a number comes from
def rules() -> ResponseReturnValue:
    """Every default with its source, and this squad's own values."""
    name, typed, problem = request.form.get("name", ""), request.form.get("value", ""), ""
    if request.method == "POST":
        if membership().role != COACH:
            raise NotAllowed("role")
        try:
            value = None if "default" in request.form else parse(name, typed)
            with database().writing() as session:
                change = change_rule(session, actor(), name, value)
            flash(f"Rule changed for this squad.|{change.id}", "undo")
            return redirect(url_for("squad.rules"))
        except ImpossibleInput as error:
            problem = problem_words(error.problems[0])
    return render_template(
        "squad/rules.html", desk=desk(), lines=list(rule_lines(desk().rules)), problem=problem, problem_at=name,
        typed=typed,
    ), 422 if problem else 200  # fmt: skip


@blueprint.post("/undo/<int:change_id>")
@allow(*STAFF)
def undo_change(change_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        undo(session, actor(), change_id, own_only=membership().role != COACH)
    flash("Undone.")
    back = request.form.get("back", "")
    inside = back.startswith("/") and not back.startswith(("//", "/\\"))
    return redirect(back if inside else url_for("squad.index"))


@blueprint.get("/cautions")
@allow(ANYONE)
def cautions() -> ResponseReturnValue:
    return render_template("squad/cautions.html", cautions=CAUTIONS)


@blueprint.get("/health")
@allow(ANYONE)
def health() -> ResponseReturnValue:
    """Says that the application answers; for whoever watches over the installation."""
    return {"ok": True}
