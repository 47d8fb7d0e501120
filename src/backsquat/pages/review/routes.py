"""Review: what waits for a decision, with evidence; what was decided this week; open stops."""

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.progression.decision import Code
from backsquat.core.progression.missed import MissedChoice
from backsquat.pages.request import actor, allow, context, database, number, reader, said_with_undo, squad_library
from backsquat.storage.models import DecisionRow
from backsquat.ui.phrases.decisions import OVERRIDE_WORDS, RUNG_OVERRIDES, WOULD_CHANGE, sentence
from backsquat.ui.phrases.problems import problem_words
from backsquat.ui.phrases.slots import name_of
from backsquat.work.decisions.answer import OVERRIDES, answer
from backsquat.work.decisions.waiting import stops_of_squad, taken_in_week, waiting
from backsquat.work.plan.missed import MissedGroup, answer_missed, missed_groups
from backsquat.work.policy import Act

MISSED_CHOICES = {  # → the button, what it does
    MissedChoice.REPEAT: ("Repeat it", "the missed work is done next time, and the rest moves one session on"),
    MissedChoice.EASE: ("Ease in", "the same, the first of it lighter and with fewer sets"),
    MissedChoice.LEAVE: ("Leave the plan", "the numbers stand as they are planned"),
}
blueprint = Blueprint("review", __name__, url_prefix="/review", template_folder="templates")


def _page(
    problem: str = "", decision_id: int | None = None, reason: str = "", status: int = 200
) -> ResponseReturnValue:
    here = context()
    page = render_template(
        "review/review.html",
        context=here,
        waiting=waiting(reader(), here.squad.id),
        missed=missed_groups(reader(), actor(), here.rules),
        missed_choices=MISSED_CHOICES,
        slot_names=slot_names,
        decision_words=decision_words,
        would_change=WOULD_CHANGE,
        taken=taken_in_week(reader(), here.squad.id, here.week),
        stops=stops_of_squad(reader(), here.squad.id),
        overrides=OVERRIDE_WORDS,
        rung_overrides=RUNG_OVERRIDES,
        problem=problem,
        problem_at=decision_id,
        reason=reason,
    )
    return page, status


def decision_words(row: DecisionRow) -> str:
    """A proposal as a sentence."""
    return sentence(row.code, row.reason, row.facts, row.following, row.movement, squad_library())


def slot_names(group: MissedGroup) -> list[str]:
    """What was to be done in a missed session."""
    slots = [slot for slot in group.block.slots if slot.session_id == group.session.id]
    return [name_of(squad_library(), slot.movement, slot.ladder) for slot in slots]


@blueprint.get("/")
@allow(Act.PLAN)
def index() -> ResponseReturnValue:
    """What waits, and what was decided this week."""
    return _page()


@blueprint.post("/decisions/<int:decision_id>")
@allow(Act.PLAN)
def decide(decision_id: int) -> ResponseReturnValue:
    """Accept, or decide otherwise with a reason."""
    code, reason = request.form.get("code", ""), request.form.get("reason", "")[:200]
    try:
        if code and code not in {option.value for option in (*OVERRIDES, *RUNG_OVERRIDES)}:
            raise ImpossibleInput(Problem("code", "not_a_choice", {"choices": ", ".join(OVERRIDES)}))
        with database().writing() as session:
            held = answer(
                session, actor(), decision_id, context().rules, code=Code(code) if code else None, reason=reason
            )
    except ImpossibleInput as error:
        return _page(problem_words(error.problems[0]), decision_id, reason, 422)
    flash("Accepted." if held.accepted else f"Decided: {held.code}. Your reason stays with it.")
    back = request.form.get("back", "")
    # Only back to our own pages.
    return redirect(back if back.startswith("/floor/") else url_for("review.index"))


@blueprint.post("/missed/<int:session_id>")
@allow(Act.PLAN)
def missed(session_id: int) -> ResponseReturnValue:
    """Repeat, ease or leave what these athletes missed."""
    wanted = request.form.get("choice", "")
    if wanted not in set(MissedChoice):
        raise NotThere("choice")
    athletes = request.form.getlist("athlete", type=number)
    if not athletes:
        flash("Choose for whom: nobody was ticked.", "problem")
        return redirect(url_for("review.index"))
    rules, choice = context().rules, MissedChoice(wanted)
    with database().writing() as session:
        change, count = answer_missed(session, actor(), session_id, athletes, choice, rules)
        change_id = change.id
    said_with_undo(f"{MISSED_CHOICES[choice][0]}: {count} answered.", change_id)
    return redirect(url_for("review.index"))
