"""The squad, its rules, cautions, and the one undo for things with a present state."""

from collections.abc import Sequence

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotAllowed, Problem
from backsquat.core.roles import Role
from backsquat.core.rules import lines as rule_lines
from backsquat.core.rules import parse
from backsquat.pages.pulse import felt, shown_ids
from backsquat.pages.request import (
    acting,
    allow,
    allow_anyone,
    context,
    database,
    inside,
    membership,
    reader,
    said_with_undo,
    squad_library,
)
from backsquat.pages.seen import changed_since, seen_of
from backsquat.pages.squad.phrases import CAUTIONS, CHANGED, WAY, rule_groups
from backsquat.ui.phrases.changes import undone_words
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.journal import undo
from backsquat.work.log.recount import change_rule, recount
from backsquat.work.overview.first_steps import FirstStep, first_steps
from backsquat.work.overview.squad import SquadLine, squad_lines
from backsquat.work.policy import Act, may
from backsquat.work.privacy.person import due_for_erasure
from backsquat.work.squad.athletes import archived_athletes

blueprint = Blueprint("squad", __name__, template_folder="templates")


@blueprint.get("/")
@allow(Act.SEE)
def index() -> ResponseReturnValue:
    here = context()
    codes, everyone = squad_lines(reader(), here)
    only = request.args.get("show") == "needs-me"
    needing = [line for line in everyone if line.needs_me]
    return render_template(
        "squad/squad.html",
        context=here,
        way=first_steps(reader(), here.squad.id) if membership().role is Role.COACH else None,
        way_steps=way_steps(),
        **felt(shown_ids()),
        lifts=[squad_library().get(code) for code in codes],
        lines=needing if only else everyone,
        everyone=len(everyone),
        needing=len(needing),
        together=said_together(everyone),
        only=only,
        archived=archived_athletes(reader(), here.squad.id),
        erasable=due_for_erasure(reader(), here.squad.id, here.today, here.rules),
    )


MANY = 6


def said_together(lines: Sequence[SquadLine]) -> dict[str, int]:
    """What waits for so many that it is said once above the list and not beside each: what → for how many."""
    found = {
        "missed": sum(1 for line in lines if line.missed),
        "untested": sum(1 for line in lines if line.untested and not line.readiness_check),
    }
    return {what: count for what, count in found.items() if count >= MANY and 2 * count > len(lines)}


def way_steps() -> list[tuple[str, str, str, str]]:
    """The steps of a new squad: what each is called, what it is for, where it is done."""
    pages = {
        FirstStep.ROOM: url_for("room.index"),
        FirstStep.ATHLETES: url_for("imports.index"),
        FirstStep.WHO_MAY: url_for("screen.index"),
        FirstStep.TESTS: url_for("imports.everybody"),
        FirstStep.BLOCK: url_for("block.new"),
        FirstStep.FLOOR: url_for("block.index"),
    }
    return [(step.value, *WAY[step], pages[step]) for step in FirstStep]


@blueprint.route("/rules", methods=["GET", "POST"])
@allow(Act.SEE)  # everybody may read where a number comes from
def rules() -> ResponseReturnValue:
    """Every default with its source, and this squad's own values."""
    name, typed, problem = request.form.get("name", ""), request.form.get("value", ""), ""
    if request.method == "POST":
        if not may(membership().role, Act.PLAN):
            raise NotAllowed("role")
        try:
            if changed_since({"value": _value(name)}):
                raise ImpossibleInput(Problem("value", "meanwhile"))
            value = None if "default" in request.form else parse(name, typed)
            with database().writing() as db:
                change_id = change_rule(acting(db), name, value).id
            recount(database(), membership().squad_id)
            said_with_undo("Rule changed for this squad.", change_id)
            return redirect(url_for("squad.rules", q=request.form.get("q") or request.args.get("q")))
        except ImpossibleInput as error:
            problem = problem_words(error.problems[0])
    every = list(rule_lines(context().rules))
    wanted = request.values.get("q", "").strip()[:60]
    groups = rule_groups(every, wanted)
    opened = {title for title, group in groups if wanted or any(line.name == name for line in group)}
    page = render_template(
        "squad/rules.html",
        context=context(),
        groups=groups,
        opened=opened | {CHANGED},
        wanted=wanted,
        problem=problem,
        problem_at=name,
        seen={line.name: seen_of({"value": line.value}) for line in every},
        typed=typed,
        pairs=lambda choices: [(choice, choice) for choice in choices],
    )
    return page, 422 if problem else 200


def _value(name: str) -> object:
    return getattr(context().rules, name, None)


@blueprint.post("/undo/<int:change_id>")
@allow(Act.SEE)
def undo_change(change_id: int) -> ResponseReturnValue:
    with database().writing() as db:
        change = undo(acting(db), change_id)
        words = undone_words(change.what, change.facts, squad_library())
    recount(database(), membership().squad_id)  # where a rule came back
    flash(words)
    return redirect(inside(request.form.get("back", "")) or url_for("squad.index"))


@blueprint.get("/cautions")
@allow_anyone
def cautions() -> ResponseReturnValue:
    return render_template("squad/cautions.html", cautions=CAUTIONS)


@blueprint.get("/health")
@allow_anyone
def health() -> ResponseReturnValue:
    """Says that the application and its database answer; for whoever watches over the installation."""
    ok = database().answers()
    return {"ok": ok}, 200 if ok else 503
