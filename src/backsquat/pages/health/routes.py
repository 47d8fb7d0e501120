"""The physio's list, one athlete's limits and health, clearance of a stop."""

import datetime as dt
from typing import Any

from flask import Blueprint, current_app, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.movements.movement import Region
from backsquat.core.readiness.absence import AwayReason
from backsquat.core.readiness.limits import ActiveLimit as LimitFacts
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.core.roles import Role
from backsquat.pages.health.forms import AwayForm, BackForm, ClearForm, LimitForm
from backsquat.pages.request import (
    acting,
    actor,
    allow,
    context,
    database,
    forget_reader,
    inside,
    membership,
    reader,
    said_with_undo,
    squad_library,
    trusted_with_health,
)
from backsquat.storage.database import Busy
from backsquat.storage.models import Stop
from backsquat.ui.phrases.days import day_words
from backsquat.ui.phrases.problems import problem_words, refusal_words
from backsquat.work.health.absences import come_back, go_away, proposal, withdraw_absence
from backsquat.work.health.limits import add_limit, end_limit
from backsquat.work.health.lists import Back, Whereabouts, absences_of, limits_of, physio_list, stop_of, stops_of
from backsquat.work.health.notes import add_note, end_note, log_reading, notes_of, readings_of
from backsquat.work.health.stops import Clearance, clear_stop, set_pain_line
from backsquat.work.journal import last_change
from backsquat.work.log.marked import OF_HEALTH, marked_sets
from backsquat.work.policy import Act, may
from backsquat.work.readiness.load import readiness_one
from backsquat.work.squad.athletes import athlete_of

blueprint = Blueprint("health", __name__, url_prefix="/health-list", template_folder="templates")


@blueprint.get("/")
@allow(Act.TREAT)
def index() -> ResponseReturnValue:
    """Open stops, watches, returns and limits of the squad."""
    here = context()
    found = physio_list(reader(), here.squad.id, here.today, here.rules)
    return render_template(
        "health/list.html",
        context=here,
        found=found,
        limit_words=limit_words,
        back_words=back_words,
        marked=marked_sets(reader(), here.squad.id, here.today, OF_HEALTH),
    )


def back_words(back: Back) -> str:
    """Why somebody is on the list of returns."""
    if back.state is Whereabouts.AWAY and back.absence:
        return f"away since {day_words(back.absence.first_on)}, {back.absence.why}"
    if back.state is Whereabouts.EASED and back.absence:
        why = back.absence.why
        after = "after time away" if why is AwayReason.AWAY else f"after {why}"
        return f"eased week {back.week} of {len(back.absence.weeks)} {after}"
    return f"no set logged since {day_words(back.last_on)}: away?" if back.last_on else ""


def limit_words(limit: Any) -> str:
    """no squats · back squat at most 60 kg · knee: to thigh level"""
    library = squad_library()
    what = limit.what
    if limit.scope == Scope.MOVEMENT.value and what in library.movements:
        what = library.movements[what].name
    elif limit.scope == Scope.REGION.value:
        what = f"what loads the {what}"
    else:
        what = f"family {what}" if limit.scope == Scope.FAMILY.value else what
    said = {
        LimitKind.NOT_AT_ALL.value: "not at all",
        LimitKind.LOAD.value: f"at most {limit.load_kg or 0:g} kg",
        LimitKind.RANGE.value: limit.words,
        LimitKind.SIDE.value: limit.words,
    }
    return f"{what}: {said[limit.kind]}"


@blueprint.get("/<int:athlete_id>")
@allow(Act.SEE)
def show(athlete_id: int) -> ResponseReturnValue:
    return _page(athlete_id)


def _page(athlete_id: int, status: int = 200, **forms: Any) -> ResponseReturnValue:
    here = context()
    athlete = athlete_of(reader(), here.squad.id, athlete_id)
    ready = readiness_one(reader(), athlete, here.today, here.rules)
    who = f"{current_user.name}, {membership().role.value}"
    back_on = forms["back"].back_on.data if "back" in forms else None
    absent = ready.absent
    plan = None
    if absent:
        plan = proposal(reader(), athlete_id, absent.first_on, absent.why, back_on or here.today, here.rules)
    trusted = trusted_with_health()  # health notes are for these only
    if trusted:
        _say_read(athlete_id)
    page = render_template(
        "health/athlete.html",
        context=here,
        athlete=athlete,
        ready=ready,
        absent=absent,
        plan=plan,
        trusted=trusted,
        may_say=may(membership().role, Act.SAY_INJURED),
        stops=stops_of(reader(), athlete_id),
        limits=limits_of(reader(), athlete_id),
        limit_words=limit_words,
        absences=absences_of(reader(), athlete_id),
        notes=notes_of(reader(), athlete_id) if trusted else [],
        readings=readings_of(reader(), athlete_id) if trusted else [],
        regions=list(Region),
        library=squad_library(),
        limit_form=forms.get("limit")
        or LimitForm(here.today, squad_library(), formdata=None, data={"from_on": here.today, "set_by": who}),
        away_form=forms.get("away") or AwayForm(here.today, formdata=None, data={"first_on": here.today}),
        back_form=forms.get("back") or BackForm(here.today, formdata=None, data={"back_on": here.today}),
        line_problem=forms.get("line_problem", ""),
        who=who,
        note_problem=forms.get("note_problem", ""),
        refused=forms.get("refused", ""),
    )
    return page, status


def _say_read(athlete_id: int) -> None:
    """Every reading leaves a line; where the disk takes none, who treats reads all the same, and the server's log has it."""
    try:
        with database().writing() as db:
            log_reading(acting(db), athlete_id)
    except Busy:
        line = "health notes of athlete %d read by person %d: no line could be stored"
        current_app.logger.warning(line, athlete_id, actor().user_id)


@blueprint.post("/<int:athlete_id>/limits")
@allow(Act.TREAT)
def limit(athlete_id: int) -> ResponseReturnValue:
    form = LimitForm(context().today, squad_library())

    def write() -> int:
        with database().writing() as db:
            return add_limit(acting(db), athlete_id, form.facts()).id

    limit_id = form.submitted(write)
    if limit_id is None:
        return _page(athlete_id, 422, limit=form)
    _flash_undo("Limit set. The weeks to come follow it; look the block over and publish.", "limit", limit_id)
    return redirect(url_for("health.show", athlete_id=athlete_id))


def _flash_undo(words: str, subject: str, subject_id: int) -> None:
    """Say what was done, with the way back."""
    forget_reader()
    change = last_change(reader(), membership().squad_id, subject, subject_id)
    if change:
        said_with_undo(words, change.id)
    else:
        flash(words)


@blueprint.post("/limits/<int:limit_id>/end")
@allow(Act.TREAT)
def limit_end(limit_id: int) -> ResponseReturnValue:
    with database().writing() as db:
        change = end_limit(acting(db), limit_id)
    said_with_undo("Limit ended.", change.id)
    return redirect(_back())


def _back() -> str:
    """Only back to our own pages."""
    return inside(request.form.get("back", ""), "/health-list/") or url_for("health.index")


@blueprint.post("/<int:athlete_id>/away")
@allow(Act.SAY_INJURED)
def away(athlete_id: int) -> ResponseReturnValue:
    form = AwayForm(context().today)

    def write() -> int:
        with database().writing() as db:
            return go_away(acting(db), athlete_id, form.first_on.data, AwayReason(form.why.data)).id

    absence_id = form.submitted(write)
    if absence_id is None:
        return _page(athlete_id, 422, away=form)
    _flash_undo("Away. Nothing is loaded until the return is recorded here.", "absence", absence_id)
    return redirect(url_for("health.show", athlete_id=athlete_id))


@blueprint.post("/<int:athlete_id>/back/<int:absence_id>")
@allow(Act.TREAT)
def back(athlete_id: int, absence_id: int) -> ResponseReturnValue:
    """Accept the eased return; a look at another day's proposal first, where only that was asked."""
    form = BackForm(context().today)
    if "look" in request.form:
        form.validate()
        return _page(athlete_id, back=form)

    def write() -> int:
        with database().writing() as db:
            _, plan = come_back(acting(db), absence_id, form.back_on.data, form.cleared.data or "")
        return len(plan.weeks) + 1

    try:
        done = form.submitted(write)
    except Refused as error:  # shown in place, so that nothing typed is lost
        return _page(athlete_id, 409, back=form, refused=". ".join(refusal_words(error)))
    if done is None:
        return _page(athlete_id, 422, back=form)
    eased = done - 1
    words = f"Back. {eased} eased {'week' if eased == 1 else 'weeks'}: the block is replanned as a draft; publish it."
    _flash_undo(words, "return", absence_id)
    return redirect(url_for("health.show", athlete_id=athlete_id))


@blueprint.post("/absences/<int:absence_id>/withdraw")
@allow(Act.TREAT)
def withdraw(absence_id: int) -> ResponseReturnValue:
    with database().writing() as db:
        change = withdraw_absence(acting(db), absence_id)
    said_with_undo("Absence taken back.", change.id)
    return redirect(_back())


@blueprint.post("/<int:athlete_id>/pain-line")
@allow(Act.TREAT)
def pain_line(athlete_id: int) -> ResponseReturnValue:
    """Another line from which pain stops this athlete."""
    text = request.form.get("pain_line", "").strip()
    try:
        if text and not (text.isdecimal() and len(text) < 4):
            raise ImpossibleInput(Problem("pain_line", "not_whole"))
        with database().writing() as db:
            change = set_pain_line(acting(db), athlete_id, int(text) if text else None, request.form.get("by", ""))
    except ImpossibleInput as error:
        return _page(athlete_id, 422, line_problem=problem_words(error.problems[0]))
    said_with_undo("Pain line set.", change.id)
    return redirect(url_for("health.show", athlete_id=athlete_id))


@blueprint.post("/<int:athlete_id>/notes")
@allow(Act.TREAT)
def note(athlete_id: int) -> ResponseReturnValue:
    try:
        with database().writing() as db:
            add_note(acting(db), athlete_id, request.form.get("words", ""), request.form.get("region", ""))
    except ImpossibleInput as error:
        return _page(athlete_id, 422, note_problem=problem_words(error.problems[0]))
    flash("Noted. Only coach and physio see it, and who reads it is logged.")
    return redirect(url_for("health.show", athlete_id=athlete_id))


@blueprint.post("/notes/<int:note_id>/end")
@allow(Act.TREAT)
def note_end(note_id: int) -> ResponseReturnValue:
    with database().writing() as db:
        end_note(acting(db), note_id)
    flash("Set aside; it stays on record.")
    return redirect(_back())


@blueprint.route("/stops/<int:stop_id>/clear", methods=["GET", "POST"])
@allow(Act.TREAT)
def clear(stop_id: int) -> ResponseReturnValue:
    """Record who cleared the athlete; the application never clears anyone itself."""
    here = context()
    stop, athlete = stop_of(reader(), here.squad.id, stop_id)
    known: dict[str, Any] = {"on": here.today}
    if membership().role is Role.PHYSIO:
        known |= {"by": current_user.name, "role": "physio"}
    form = ClearForm(here.today, data=known)

    def write() -> int:
        facts = Clearance(form.by.data, form.role.data, form.on.data, form.limits.data)
        with database().writing() as db:
            _, plan = clear_stop(acting(db), stop_id, facts, _limit(form, stop))
        return len(plan.weeks)

    weeks = form.submitted(write)
    if weeks:
        eased = "one eased week follows" if weeks == 1 else f"{weeks} eased weeks follow"
        flash(f"Clearance recorded: {eased}, as a draft; publish the block.")
        return redirect(url_for("health.show", athlete_id=athlete.id))
    page = render_template("health/clear.html", context=here, athlete=athlete, stop=stop, form=form)
    return page, 422 if form.errors else 200


def _limit(form: ClearForm, stop: Stop) -> LimitFacts | None:
    """The limit the clearance comes with: on what loads the place, in kg."""
    if form.most_kg.data is None:
        return None
    until: dt.date | None = form.until_on.data
    who = f"{form.by.data}, {form.role.data}"
    return LimitFacts(
        Scope.REGION, stop.region, LimitKind.LOAD, float(form.most_kg.data), form.limits.data, form.on.data, until, who
    )
