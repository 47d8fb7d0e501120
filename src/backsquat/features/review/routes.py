"""Review: what waits for a decision, with evidence; what was decided this week; open stops."""

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.progression.decision import Code
from backsquat.features.desk import COACH, actor, allow, database, desk, reader
from backsquat.features.phrases import problem_words
from backsquat.features.review.operations import OVERRIDES, answer
from backsquat.features.review.phrases import OVERRIDE_WORDS, RUNG_OVERRIDES
from backsquat.features.review.queries import stops_of_squad, taken_in_week, waiting

blueprint = Blueprint("review", __name__, url_prefix="/review", template_folder="templates")


def _page(
    problem: str = "", decision_id: int | None = None, reason: str = "", status: int = 200
) -> ResponseReturnValue:
    here = desk()
    page = render_template(
        "review/review.html", desk=here, waiting=waiting(reader(), here.squad.id),
        taken=taken_in_week(reader(), here.squad.id, here.week), stops=stops_of_squad(reader(), here.squad.id),
        overrides=OVERRIDE_WORDS, rung_overrides=RUNG_OVERRIDES, problem=problem, problem_at=decision_id, reason=reason,
    )  # fmt: skip
    return page, status


@blueprint.get("/")
@allow(COACH)
def index() -> ResponseReturnValue:
    return _page()


@blueprint.post("/decisions/<int:decision_id>")
@allow(COACH)
def decide(decision_id: int) -> ResponseReturnValue:
    """Accept, or decide otherwise with a reason."""
    code, reason = request.form.get("code", ""), request.form.get("reason", "")[:200]
    try:
        if code and code not in {option.value for option in (*OVERRIDES, *RUNG_OVERRIDES)}:
            raise ImpossibleInput(Problem("code", "not_a_choice", {"choices": ", ".join(OVERRIDES)}))
        with database().writing() as session:
            held = answer(
                session, actor(), decision_id, desk().rules, code=Code(code) if code else None, reason=reason
            )
    except ImpossibleInput as error:
        return _page(problem_words(error.problems[0]), decision_id, reason, 422)
    flash("Accepted." if held.accepted else f"Decided: {held.code}. Your reason stays with it.")
    back = request.form.get("back", "")
    # Only back to our own pages.
    return redirect(back if back.startswith("/floor/") else url_for("review.index"))
