"""The same said of several athletes at once, from the list of who may squat."""

from collections.abc import Sequence

from flask import flash, redirect, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotAllowed, NotThere
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.readiness.checklist import readiness_check_findings
from backsquat.core.rules import Rules
from backsquat.pages.request import acting, allow, context, database, membership, number, said_with_undo
from backsquat.pages.screen.routes import blueprint, due_page
from backsquat.ui.phrases.problems import problem_words, refusal_words
from backsquat.ui.phrases.readiness_checks import finding_words
from backsquat.work.ladders.many import ManyDone, let_through, place_all, put_on_level
from backsquat.work.policy import Act, may

WORDS = {"through": "cleared", "place": "placed by their screens", "level": "put on the level"}


@blueprint.post("/many")
@allow(Act.SCREEN)
def many() -> ResponseReturnValue:
    """Let the ticked ones past a readiness check, put them on a level, or place them by their screens."""
    what, ids = (
        request.form.get("what", ""),
        [number(one) for one in request.form.getlist("athlete") if one.isdecimal()],
    )
    if what not in WORDS:
        raise NotThere("act")
    if what == "through" and not may(membership().role, Act.KEEP_ATHLETES):
        raise NotAllowed("role")
    rules = context().rules
    try:
        with database().writing() as db:
            done = _act(db, what, ids, rules)
    except ImpossibleInput as error:
        return due_page(problem_words(error.problems[0]), 422)
    if done.names:
        said_with_undo(f"{len(done.names)} {WORDS[what]}.", done.change)
    for name, view in done.still_shut:
        left = " and ".join(map(finding_words, readiness_check_findings(view)))
        flash(f"{name}: cleared, but not ready for the bar yet: {left}.")
    for name, refusal in done.refused:
        flash(f"{name}: {refusal_words(refusal)[0]}")
    return redirect(url_for("screen.index"))


def _act(db: Session, what: str, ids: Sequence[int], rules: Rules) -> ManyDone:
    reason = request.form.get("reason", "")
    if what == "place":
        return place_all(acting(db), ids)
    if what == "level":
        ladder, _, movement = request.form.get("level", "").partition(":")
        return put_on_level(acting(db), ids, (ladder, movement), reason)
    readiness_check = request.form.get("readiness_check", "")
    if readiness_check not in {one.value for one in ReadinessCheck}:
        raise NotThere("readiness_check")
    return let_through(acting(db), ids, ReadinessCheck(readiness_check), reason)
