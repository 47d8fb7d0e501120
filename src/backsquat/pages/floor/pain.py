"""Pain reported on the floor or on one's own phone, and the screen of a stop."""

from uuid import uuid4

from flask import flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user

from backsquat.core.errors import ImpossibleInput
from backsquat.pages.floor.routes import after, blueprint
from backsquat.pages.request import (
    acting,
    actor,
    allow,
    clock,
    context,
    database,
    forget_reader,
    inside,
    number,
    own_athlete,
    reader,
    trusted_with_health,
)
from backsquat.ui.phrases.pain import pain_words
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.floor.stopped import after_stop
from backsquat.work.health.lists import stop_of
from backsquat.work.policy import Act, only_own
from backsquat.work.record.pain import report_pain
from backsquat.work.record.stops import PainFacts
from backsquat.work.sessions.blocks import cell_of


def read_said(said: str) -> tuple[str, int | None]:
    """What was tapped as character and number: "sharp" · "dull 4"; a word nobody offered is refused further on."""
    words, _, level = said.strip().rpartition(" ")
    if level.isdecimal() and len(level) < 4:
        return words, int(level)
    return said.strip(), None


@blueprint.post("/athletes/<int:athlete_id>/pain")
@allow(Act.LOG_OWN)
def pain(athlete_id: int) -> ResponseReturnValue:
    """Pain, in a session or not: place and what it is."""
    character, level = read_said(request.form.get("said", ""))
    client_id = request.form.get("client_id", "")[:64] or str(uuid4())
    facts = PainFacts(client_id, request.form.get("pain_region", ""), character, level)
    cell_id = request.form.get("cell", type=number)
    try:
        with database().writing() as db:
            done = report_pain(acting(db), athlete_id, facts, cell_id)
            stop_id, words = done.stop.id if done.stop else None, pain_words(done.report)
    except ImpossibleInput as error:
        flash(" ".join(problem_words(problem) for problem in error.problems), "problem")
        return _on(athlete_id, cell_id)
    if stop_id is None:
        flash(f"Noted: {words}. An easier version or a shorter range, and watch it; twice in a row needs a look.")
        return _on(athlete_id, cell_id)
    target = url_for("floor.stopped", stop_id=stop_id, week=None)
    if request.headers.get("HX-Request"):
        return "", 204, {"HX-Redirect": target}
    return redirect(target)


def _on(athlete_id: int, cell_id: int | None) -> ResponseReturnValue:
    """Back to where it was said."""
    if there := inside(request.form.get("back", ""), "/athletes/"):
        return redirect(there)
    forget_reader()
    if cell_id:
        return after(cell_of(reader(), context().squad.id, cell_id)[0], lift=True)
    return redirect(url_for("floor.index", athlete=athlete_id, week=None))


@blueprint.get("/stopped/<int:stop_id>")
@allow(Act.LOG_OWN)
def stopped(stop_id: int) -> ResponseReturnValue:
    """What stops, what may go on, whom to see: nothing else on the screen."""
    here = context()
    stop, athlete = stop_of(reader(), here.squad.id, stop_id)
    only_own(actor(), athlete.id)
    left = after_stop(reader(), athlete, here.today, here.rules)
    # What was said of the pain is for who said it or wrote it down, and for those who treat.
    told = trusted_with_health() or stop.by_id == current_user.id or own_athlete() == athlete.id
    about = {"left": left, "stopped_today": stop.at.date() == clock().today(), "told": told}
    return render_template("floor/stopped.html", context=here, stop=stop, athlete=athlete, **about)
