"""Review: what waits for a decision, with evidence; what was decided this week; open stops."""

from decimal import Decimal
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.numbers import read_decimal
from backsquat.core.progression.decision import Code
from backsquat.core.progression.missed import MissedChoice
from backsquat.pages.request import (
    acting,
    allow,
    context,
    database,
    inside,
    membership,
    number,
    reader,
    said_with_undo,
    squad_library,
    trusted_with_health,
    wants_piece,
)
from backsquat.storage.models import DecisionRow
from backsquat.ui.phrases.decisions import LEVEL_OVERRIDES, OVERRIDE_WORDS, WOULD_CHANGE, outcome_words, sentence
from backsquat.ui.phrases.exercises import name_of
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.decisions.answer import OVERRIDES, accept_as_planned, answer, outcomes
from backsquat.work.decisions.waiting import proposal, stops_of_squad, taken_in_week, waiting
from backsquat.work.log.marked import OF_PLAN, marked_sets
from backsquat.work.plan.missed import MissedGroup, answer_missed, missed_groups
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import cell_of

MISSED_CHOICES = {  # → the button, what it does
    MissedChoice.REPEAT: ("Repeat it", "the missed work is done next time, and the rest moves one session on"),
    MissedChoice.EASE: ("Ease in", "the same, the first of it lighter and with fewer sets"),
    MissedChoice.LEAVE: ("Leave the plan", "the numbers stand as they are planned"),
}
blueprint = Blueprint("review", __name__, url_prefix="/review", template_folder="templates")


@blueprint.get("/")
@allow(Act.PLAN)
def index() -> ResponseReturnValue:
    """What waits, and what was decided this week."""
    here = context()
    heads, repeats = waiting(reader(), here.squad.id)
    return render_template(
        "review/review.html",
        context=here,
        waiting=heads,
        repeats=repeats,
        missed=missed_groups(acting(reader())),
        missed_choices=MISSED_CHOICES,
        exercise_names=exercise_names,
        decision_words=decision_words,
        would_change=WOULD_CHANGE,
        taken=taken_in_week(reader(), here.squad.id, here.week),
        stops=stops_of_squad(reader(), here.squad.id),
        marked=marked_sets(reader(), here.squad.id, here.today, OF_PLAN),
    )


def decision_words(row: DecisionRow) -> str:
    """A proposal as a sentence; pain is named to who has given a second factor."""
    why = trusted_with_health()
    return sentence(row.code, row.reason, row.facts, row.following, row.movement, squad_library(), why=why)


def exercise_names(group: MissedGroup) -> list[str]:
    """What was to be done in a missed session."""
    return [name_of(squad_library(), exercise.movement, exercise.ladder) for exercise in group.exercises]


@blueprint.get("/decisions/<int:decision_id>/otherwise")
@allow(Act.PLAN)
def otherwise(decision_id: int) -> ResponseReturnValue:
    """The other answers there are, each with the number it leads to: a piece of Review or floor, or a page."""
    return _otherwise(decision_id, inside(request.args.get("back", ""), "/floor/"))


def _otherwise(
    decision_id: int, back: str, chosen: str = "", reason: str = "", problem: str = "", own: str = "", status: int = 200
) -> ResponseReturnValue:
    row, athlete = proposal(reader(), membership().squad_id, decision_id)
    found = outcomes(acting(reader()), decision_id)
    every = LEVEL_OVERRIDES if row.ladder else OVERRIDE_WORDS
    page = render_template(
        "review/_otherwise.html" if wants_piece() else "review/otherwise.html",
        context=context(),
        row=row,
        athlete=athlete,
        sentence=decision_words(row),
        choices={code: words for code, words in every.items() if code in found},
        leads={code: outcome_words(code, following, squad_library()) for code, following in found.items()},
        back=back,
        chosen=chosen,
        own_unit="" if row.ladder or not found else cell_of(reader(), membership().squad_id, row.cell_id)[0].load_unit,
        own_load=own,
        reason=reason,
        problem=problem,
    )
    return page, status


@blueprint.post("/decisions/<int:decision_id>")
@allow(Act.PLAN)
def decide(decision_id: int) -> ResponseReturnValue:
    """Accept, or decide differently with a reason."""
    code, reason = request.form.get("code", ""), request.form.get("reason", "")[:200]
    own = request.form.get("own_load", "")[:20] if code == "own" else ""
    back = inside(request.form.get("back", ""), "/floor/")
    try:
        if code and code not in {"own", *(option.value for option in (*OVERRIDES, *LEVEL_OVERRIDES))}:
            raise ImpossibleInput(Problem("code", "not_a_choice", {"choices": ", ".join(OVERRIDES)}))
        with database().writing() as db:
            said: dict[str, Any] = {"own_load": _load(own)} if code == "own" else {"code": Code(code) if code else None}
            held = answer(acting(db), decision_id, **said, reason=reason)
    except ImpossibleInput as error:
        return _otherwise(decision_id, back, code, reason, problem_words(error.problems[0]), own, 422)
    flash("Accepted." if held.accepted else f"Decided: {held.code}. Your reason stays with it.")
    return redirect(back or url_for("review.index"))


@blueprint.post("/as-planned")
@allow(Act.PLAN)
def accept_repeats() -> ResponseReturnValue:
    """Accept every proposal that only repeats the plan, of those the page showed."""
    shown = set(request.form.getlist("decision", type=number))
    with database().writing() as db:
        count = accept_as_planned(acting(db), shown)
    left = len(shown) - count
    flash(f"{count} accepted: the numbers stand as published." + (f" {left} changed meanwhile." if left else ""))
    return redirect(url_for("review.index"))


def _load(text: str) -> Decimal:
    try:
        return read_decimal(text)
    except ValueError:
        raise ImpossibleInput(Problem("load", "not_a_number")) from None


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
    choice = MissedChoice(wanted)
    with database().writing() as db:
        change, count = answer_missed(acting(db), session_id, athletes, choice)
        change_id = change.id
    said_with_undo(f"{MISSED_CHOICES[choice][0]}: {count} answered.", change_id)
    return redirect(url_for("review.index"))
