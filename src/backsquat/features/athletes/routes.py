"""An athlete's page, the test set, milestones, clearance, and the facts form."""

from collections.abc import Iterable
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.readiness.gate import age_years
from backsquat.core.season.milestone import MilestoneKind
from backsquat.core.strength.estimate import estimate_set
from backsquat.features.athletes.drawing import lift_pictures
from backsquat.features.athletes.forms import AthleteForm, MilestoneForm, TestSetForm
from backsquat.features.athletes.operations import (
    SetFacts,
    add_milestone,
    drop_milestone,
    log_test,
    save_athlete,
)
from backsquat.features.athletes.queries import (
    athlete_of,
    entries_of,
    milestones_of,
    numbers,
    recorded_lifts,
    sides_of,
)
from backsquat.features.athletes.readiness import readiness_one
from backsquat.features.athletes.readings import body_masses
from backsquat.features.athletes.set_up import DEPTHS, choose_depth, depths_of, note_set_up, set_ups
from backsquat.features.blocks.operations import refresh_athlete
from backsquat.features.blocks.phrases import WEEKDAYS
from backsquat.features.blocks.queries import lifts_of
from backsquat.features.desk import (
    ASSISTANT,
    COACH,
    STAFF,
    actor,
    allow,
    database,
    desk,
    reader,
    squad_library,
    squad_rules,
)
from backsquat.features.movements.phrases import SETUP_WORDS
from backsquat.features.phrases import NOT_COUNTED, TRUST
from backsquat.features.review.phrases import milestone_words
from backsquat.features.room.rooms import rooms_of
from backsquat.features.screening.queries import screens_of
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import Athlete, SetEntry
from backsquat.ui.drawing.sides import draw_sides

blueprint = Blueprint("athletes", __name__, url_prefix="/athletes", template_folder="templates")
LOG_ROWS = 40


def _athlete(athlete_id: int) -> Athlete:
    return athlete_of(reader(), desk().squad.id, athlete_id)


def _lift_choices(codes: Iterable[str]) -> list[tuple[str, str]]:
    return [(code, squad_library().get(code).name) for code in dict.fromkeys(codes)]


@blueprint.get("/<int:athlete_id>")
@allow(*STAFF)
def show(athlete_id: int) -> ResponseReturnValue:
    return _page(_athlete(athlete_id))


def _page(
    athlete: Athlete, milestone_form: MilestoneForm | None = None, status: int = 200
) -> ResponseReturnValue:
    here, session = desk(), reader()
    ready = readiness_one(session, athlete, here.today, here.rules)
    mass, chosen = ready.body_mass_kg, request.args.get("lift", "")
    codes = dict.fromkeys(
        [*lifts_of(session, here.squad.id, here.week), *recorded_lifts(session, athlete.id)]
    )
    lifts = numbers(session, athlete, codes, here.season.first_week, here.today, here.rules)
    lift = next((item for item in lifts if item.movement == chosen), lifts[0])
    milestones = [m for m in milestones_of(session, [athlete.id]) if m.movement == lift.movement]
    screens = [s for s in screens_of(session, here.squad.id).values() if not s.retired]
    sides = sides_of(session, ready, screens, here.today, here.rules)
    pictures = lift_pictures(session, here, athlete, lift, milestones[0] if milestones else None, ready)
    page = render_template(
        "athletes/athlete.html", desk=here, athlete=athlete, age=age_years(athlete.born_on, here.today), mass=mass,
        ready=ready, gate=ready.gate(squad_library().get(lift.movement)), stops=ready.stops, library=squad_library(),
        set_up=set_ups(session, [athlete.id]).get((athlete.id, lift.movement), {}), setup_words=SETUP_WORDS,
        apart=rooms_of(session, here.squad.id).apart(athlete.id, here.today), weekdays=WEEKDAYS,
        sides=sides, sides_svg=draw_sides(sides) if sides else None,
        depths=depths_of(session, athlete.id), depth_choices=DEPTHS,
        lifts=lifts, lift=lift, milestone=milestones[0] if milestones else None, milestone_words=milestone_words,
        milestone_form=milestone_form or MilestoneForm(here.today, _lift_choices(codes), formdata=None), trust=TRUST,
        entries=entries_of(session, athlete.id, here.today, LOG_ROWS), **pictures,
    )  # fmt: skip
    return page, status


@blueprint.route("/new", methods=["GET", "POST"])
@allow(COACH)
def new() -> ResponseReturnValue:
    return _facts_page(None)


@blueprint.route("/<int:athlete_id>/edit", methods=["GET", "POST"])
@allow(COACH)
def edit(athlete_id: int) -> ResponseReturnValue:
    return _facts_page(_athlete(athlete_id))


def _facts_page(athlete: Athlete | None) -> ResponseReturnValue:
    here = desk()
    known: dict[str, Any] = {}
    if athlete:
        mass = body_masses(reader(), [athlete.id], here.today).get(athlete.id)
        names = ("name", "born_on", "position", "newcomer", "consent")
        known = {name: getattr(athlete, name) for name in names} | {"body_mass_kg": mass}
    form = AthleteForm(here.today, data=known)

    def write() -> int:
        with database().writing() as session:
            saved = save_athlete(session, actor(), form.facts(), athlete.id if athlete else None)
            refresh_athlete(session, actor(), saved.id, here.rules)
            return saved.id

    athlete_id = form.submitted(write)
    if athlete_id:
        if athlete is None:
            flash("Athlete added. Next: the screens and the gate before any bar.")
            return redirect(url_for("ladders.show", athlete_id=athlete_id))
        flash("Changes kept.")
        return redirect(url_for("athletes.show", athlete_id=athlete_id))
    return render_template(
        "athletes/facts.html", desk=here, form=form, athlete=athlete
    ), 422 if form.errors else 200


@blueprint.route("/<int:athlete_id>/test", methods=["GET", "POST"])
@allow(COACH, ASSISTANT)
def test(athlete_id: int) -> ResponseReturnValue:
    """Record a test set; afterwards the same page shows what it says."""
    here, athlete = desk(), _athlete(athlete_id)
    room = rooms_of(reader(), here.squad.id).on(athlete.id, here.today)
    library = squad_library()
    wanted = request.args.get("lift", "back_squat")
    testable = [movement for movement in library.in_use() if movement.body_share is not None]
    form = TestSetForm(here.today, testable, data={"done_on": here.today, "movement": wanted})
    ready = readiness_one(reader(), athlete, here.today, here.rules)

    def write() -> int:
        facts = SetFacts(
            client_id=str(form.client_id.data)[:64], load=form.load.data, unit=room.unit, reps=form.reps.data,
            reps_to_depth=form.reps.data if form.reps_to_depth.data is None else form.reps_to_depth.data,
            reserve_reps=form.reserve_reps.data, done_on=form.done_on.data,
        )  # fmt: skip
        with database().writing() as session:
            entry = log_test(session, actor(), athlete_id, form.movement.data, facts, here.rules)
            refresh_athlete(session, actor(), athlete_id, here.rules)
            return entry.id

    entry_id = form.submitted(write)
    if entry_id:
        return redirect(url_for("athletes.tested", athlete_id=athlete_id, entry_id=entry_id))
    page = render_template(
        "athletes/test.html", desk=here, athlete=athlete, form=form, room=room, entry=None,
        ready=ready, gate=ready.gate(library.movements.get(form.movement.data or wanted, testable[0])),
        stops=ready.stops, library=library, conventions=CONVENTIONS,
    )  # fmt: skip
    return page, 422 if form.errors else 200


@blueprint.get("/<int:athlete_id>/test/<int:entry_id>")
@allow(COACH, ASSISTANT)
def tested(athlete_id: int, entry_id: int) -> ResponseReturnValue:
    """What a recorded test set says: the estimate, its working and how far to trust it."""
    here, athlete = desk(), _athlete(athlete_id)
    entry = reader().get(SetEntry, entry_id)
    if entry is None or entry.athlete_id != athlete.id:
        raise NotThere("set")
    lift = numbers(reader(), athlete, [entry.movement], here.season.first_week, here.today, here.rules)[0]
    return render_template(
        "athletes/tested.html", desk=here, athlete=athlete, entry=entry, lift=lift, trust=TRUST,
        estimate=estimate_set(record_from_row(entry), here.rules), not_counted=NOT_COUNTED,
    )  # fmt: skip


@blueprint.post("/<int:athlete_id>/milestones")
@allow(COACH)
def set_milestone(athlete_id: int) -> ResponseReturnValue:
    athlete = _athlete(athlete_id)
    recorded = [*lifts_of(reader(), desk().squad.id, desk().week), *recorded_lifts(reader(), athlete.id)]
    form = MilestoneForm(desk().today, _lift_choices(recorded))

    def write() -> bool:
        with database().writing() as session:
            add_milestone(
                session, actor(), athlete_id, form.movement.data, MilestoneKind(form.kind.data), form.amount.data,
                form.due_on.data,
            )  # fmt: skip
        return True

    if form.submitted(write) is None:
        return _page(athlete, form, 422)
    flash("Milestone set.")
    return redirect(url_for("athletes.show", athlete_id=athlete_id, lift=form.movement.data))


@blueprint.post("/<int:athlete_id>/set-up")
@allow(COACH, ASSISTANT)
def set_up(athlete_id: int) -> ResponseReturnValue:
    """Remember stance, box, wedge and the like, from the athlete's page or the floor."""
    form = request.form
    with database().writing() as session:
        note_set_up(
            session,
            actor(),
            athlete_id,
            form.get("movement", ""),
            form.get("field", ""),
            form.get("value", ""),
        )
    back = form.get("back", "")
    inside = back.startswith("/floor/")
    return redirect(
        back if inside else url_for("athletes.show", athlete_id=athlete_id, lift=form.get("movement"))
    )


@blueprint.post("/<int:athlete_id>/depth")
@allow(COACH)
def depth(athlete_id: int) -> ResponseReturnValue:
    """Another depth standard: a new record line from today."""
    form = request.form
    box = form.get("box_mm", "").strip()
    with database().writing() as session:
        choice = choose_depth(
            session, actor(), athlete_id, form.get("movement", ""), form.get("depth", ""),
            int(box) if box.isdecimal() and len(box) < 5 else None, squad_rules(),
        )  # fmt: skip
    flash(f"Depth standard now: {choice.words}. A new record line starts; expect a lower load and test anew.")
    return redirect(url_for("athletes.show", athlete_id=athlete_id, lift=choice.movement))


@blueprint.post("/milestones/<int:milestone_id>/drop")
@allow(COACH)
def drop(milestone_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        change = drop_milestone(session, actor(), milestone_id)
    flash(f"Milestone dropped.|{change.id}", "undo")
    return redirect(
        request.form.get("back", "") if request.form.get("back", "").startswith("/athletes/") else "/"
    )
