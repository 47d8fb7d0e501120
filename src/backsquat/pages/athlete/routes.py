"""An athlete's page, the test set, milestones, clearance, and the facts form."""

from collections.abc import Iterable
from json import dumps
from typing import Any

from flask import Blueprint, Response, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import Doubtful, Problem
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.readiness.checklist import age_years
from backsquat.core.season.milestone import MilestoneKind
from backsquat.core.strength.estimate import estimate_set
from backsquat.core.strength.record import Effort
from backsquat.pages.athlete.drawing import lift_pictures, reach_pictures
from backsquat.pages.athlete.forms import AthleteForm, MilestoneForm, TestSetForm, as_form
from backsquat.pages.athlete.phrases import copies_words, done_words, erased_words, log_lines, planned_words
from backsquat.pages.request import (
    acting,
    allow,
    context,
    database,
    forget_reader,
    inside,
    may_open,
    number,
    own_athlete,
    reader,
    said_with_undo,
    settings,
    squad_library,
    trusted_with_health,
)
from backsquat.pages.seen import changed_since, seen_of
from backsquat.storage.convert import record_from_row
from backsquat.storage.keeping import copies_of
from backsquat.storage.models import Athlete, SetEntry
from backsquat.ui.drawing.sides import draw_sides
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.ui.phrases.estimates import NOT_COUNTED, TRUST
from backsquat.ui.phrases.flags import FLAGS
from backsquat.ui.phrases.set_up import SETUP_WORDS
from backsquat.work.library.screens import screens_of
from backsquat.work.log.depth import DEPTHS, depths_of
from backsquat.work.log.estimates import numbers
from backsquat.work.log.left_right import sides_of
from backsquat.work.log.sets import best_of_each, entries_of, recorded_lifts, set_of
from backsquat.work.policy import Act
from backsquat.work.privacy.person import erase_person, export_person
from backsquat.work.readiness.load import readiness_one
from backsquat.work.record.athlete import keep_athlete
from backsquat.work.record.depth import choose_depth
from backsquat.work.record.outside import correct_test, log_test, withdraw_test
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.season.milestones import WITH_LIFT, add_milestone, drop_milestone, judged, milestones_of, with_lift
from backsquat.work.sessions.blocks import lifts_of
from backsquat.work.squad.athletes import archive_athlete, athlete_of, body_masses, squad_athletes
from backsquat.work.squad.consents import consents_of
from backsquat.work.squad.growth import growth_of, heights_of, measure
from backsquat.work.squad.passes import own_accounts
from backsquat.work.squad.set_ups import note_set_up, set_ups
from backsquat.work.technique.onward import verdicts_of

FACT_WORDS = {
    "name": "the name", "born_on": "the birthday", "position": "the position", "newcomer": "whether new to lifting",
    "consent": "the guardian's consent", "body_mass_kg": "the body mass",
    "height_cm": "the height",
}  # fmt: skip
blueprint = Blueprint("athlete", __name__, url_prefix="/athletes", template_folder="templates")
LOG_ROWS = 40


def _athlete(athlete_id: int) -> Athlete:
    return athlete_of(reader(), context().squad.id, athlete_id)


def _lift_choices(codes: Iterable[str]) -> list[tuple[str, str]]:
    return [(code, squad_library().get(code).name) for code in dict.fromkeys(codes)]


@blueprint.get("/<int:athlete_id>")
@allow(Act.SEE)
def show(athlete_id: int) -> ResponseReturnValue:
    """One athlete's page."""
    return _page(_athlete(athlete_id))


def _page(athlete: Athlete, milestone_form: MilestoneForm | None = None, status: int = 200) -> ResponseReturnValue:
    here, db = context(), reader()
    ready = readiness_one(db, athlete, here.today, here.rules)
    mass, chosen = ready.body_mass_kg, request.args.get("lift", "")
    codes = dict.fromkeys([*lifts_of(db, here.squad.id, here.week), *recorded_lifts(db, athlete.id)])
    lifts = numbers(db, athlete, codes, here.records_from, here.today, here.rules)
    lift = next((item for item in lifts if item.movement == chosen), lifts[0])
    every = milestones_of(db, [athlete.id])
    milestones = with_lift(every, lift.movement)
    others = [one for one in every if MilestoneKind(one.kind) not in WITH_LIFT]
    screens = [s for s in screens_of(db, here.squad.id).values() if not s.retired]
    sides = sides_of(db, ready, screens, here.today, here.rules)
    pictures = lift_pictures(db, here, athlete, lift, milestones[0] if milestones else None, ready)
    page = render_template(
        "athlete/athlete.html",
        context=here,
        athlete=athlete,
        age=age_years(athlete.born_on, here.today),
        mass=mass,
        growth=growth_of(db, [athlete.id], here.today, here.rules).get(athlete.id),
        ready=ready,
        readiness_check=ready.readiness_check(squad_library().get(lift.movement)),
        stops=ready.stops,
        library=squad_library(),
        set_up=set_ups(db, [athlete.id]).get((athlete.id, lift.movement), {}),
        setup_words=SETUP_WORDS,
        apart=rooms_of(db, here.squad.id).apart(athlete.id, here.today),
        weekdays=WEEKDAYS,
        sides=sides,
        sides_svg=draw_sides(sides) if sides else None,
        **reach_pictures(db, athlete.id),
        depths=depths_of(db, athlete.id),
        depth_choices=DEPTHS,
        lifts=lifts,
        lift=lift,
        milestone=milestones[0] if milestones else None,
        other_milestones=judged(db, here, {athlete.id: ready}, others),
        milestone_form=milestone_form or MilestoneForm(here.today, _lift_choices(codes), formdata=None),
        trust=TRUST,
        log=log_lines(
            entries_of(db, athlete.id, here.today, LOG_ROWS),
            squad_library(),
            own_accounts(db),
            trusted_with_health(),
            verdicts_of(db, athlete.id, here.rules),
        ),
        planned_words=planned_words,
        done_words=done_words,
        **pictures,
    )
    return page, status


@blueprint.route("/new", methods=["GET", "POST"])
@allow(Act.KEEP_ATHLETES)
def new() -> ResponseReturnValue:
    """Somebody new in the squad."""
    return _facts_page(None)


@blueprint.route("/<int:athlete_id>/edit", methods=["GET", "POST"])
@allow(Act.KEEP_ATHLETES)
def edit(athlete_id: int) -> ResponseReturnValue:
    """Other facts of an athlete."""
    return _facts_page(_athlete(athlete_id))


def _facts_page(athlete: Athlete | None) -> ResponseReturnValue:
    here = context()
    known: dict[str, Any] = {}
    if athlete:
        mass = body_masses(reader(), [athlete.id], here.today).get(athlete.id)
        names = ("name", "born_on", "position", "newcomer", "consent")
        heights = heights_of(reader(), [athlete.id], here.today).get(athlete.id)
        known = {name: getattr(athlete, name) for name in names} | {"body_mass_kg": mass}
        known["height_cm"] = heights[-1].value if heights else None
    form = AthleteForm(here.today, data=known)

    def write() -> int:
        changed = [FACT_WORDS[name] for name in changed_since(known)]
        if changed and "seen" not in form.confirmed:
            raise Doubtful(Problem("seen", "changed_meanwhile", {"who": "somebody else", "what": ", ".join(changed)}))
        with database().writing() as db:
            known_id = athlete.id if athlete else None
            kept = keep_athlete(acting(db), form.facts(), known_id)
            if form.height_cm.data is not None:
                measure(acting(db), kept.id, form.height_cm.data, here.today)
            return kept.id

    athlete_id = form.submitted(write)
    if athlete_id:
        if athlete is None:
            flash("Athlete added. Next: the screens, and whether they are ready for the bar.")
            return redirect(url_for("ladders.show", athlete_id=athlete_id))
        flash("Changes saved.")
        return redirect(url_for("athlete.show", athlete_id=athlete_id))
    page = render_template(
        "athlete/facts.html",
        context=here,
        form=form,
        seen=seen_of(known),
        athlete=athlete,
        consents=consents_of(reader(), athlete.id) if athlete else [],
    )
    return page, 422 if form.errors or form.asked else 200


@blueprint.get("/<int:athlete_id>/everything.json")
@allow(Act.EXPORT)
def everything(athlete_id: int) -> ResponseReturnValue:
    """Everything kept about one person, to hand out to them."""
    with database().writing() as db:
        found = export_person(acting(db), athlete_id)
    headers = {"Content-Disposition": f"attachment; filename=athlete-{athlete_id}.json"}
    return Response(dumps(found, ensure_ascii=False, indent=1), mimetype="application/json", headers=headers)


@blueprint.post("/<int:athlete_id>/erase")
@allow(Act.EXPORT)
def erase(athlete_id: int) -> ResponseReturnValue:
    """Everything about one person gone for good; the name is typed to confirm it."""
    _athlete(athlete_id)
    with database().writing() as db:
        count = erase_person(acting(db), athlete_id, request.form.get("name", ""))
    forget_reader()  # nothing of this request reads on while the file is written again
    swept = database().rewrite()
    flash(erased_words(count, swept=swept))
    flash(copies_words(copies_of(settings().database)))
    return redirect(url_for("squad.index"))


@blueprint.post("/<int:athlete_id>/archive")
@allow(Act.KEEP_ATHLETES)
def archive(athlete_id: int) -> ResponseReturnValue:
    """Out of plans and lists with the log kept, or back again."""
    back = "back" in request.form
    name = _athlete(athlete_id).name
    with database().writing() as db:
        change_id = archive_athlete(acting(db), athlete_id, active=back).id
    said_with_undo(f"{name} is {'back in the squad' if back else 'put away; the log is kept'}.", change_id)
    return redirect(url_for("squad.index"))


@blueprint.post("/<int:athlete_id>/test/<int:entry_id>/take-back")
@allow(Act.LOG)
def take_test_back(athlete_id: int, entry_id: int) -> ResponseReturnValue:
    """The test never happened."""
    with database().writing() as db:
        withdraw_test(acting(db), athlete_id, entry_id)
    flash("Test taken back: it stays in the log as such, and the plan follows as a draft.")
    return redirect(url_for("athlete.show", athlete_id=athlete_id))


@blueprint.route("/<int:athlete_id>/test", methods=["GET", "POST"])
@allow(Act.LOG)
def test(athlete_id: int) -> ResponseReturnValue:
    """Record a test set, or what one really was; afterwards the same page shows what it says."""
    here, athlete = context(), _athlete(athlete_id)
    correcting = _test_to_correct(athlete.id)
    room = rooms_of(reader(), here.squad.id).on(athlete.id, here.today)
    library = squad_library()
    wanted = request.args.get("lift", "back_squat")
    testable = [movement for movement in library.in_use() if movement.body_share is not None]
    known = as_form(correcting) if correcting else {"done_on": here.today, "movement": wanted}
    form = TestSetForm(here.today, testable, data=known)
    ready = readiness_one(reader(), athlete, here.today, here.rules)

    def write() -> tuple[int, list[str]]:
        with database().writing() as db:
            facts = form.facts(room.unit)
            if correcting:
                entry = correct_test(acting(db), athlete_id, correcting.id, facts).entry
            else:
                entry = log_test(acting(db), athlete_id, form.movement.data, facts).entry
            return entry.id, list(entry.flags)

    kept = form.submitted(write)
    if kept:
        if kept[1]:
            flash(f"Kept, and marked: {', '.join(FLAGS[flag] for flag in kept[1])}.")
        return redirect(url_for("athlete.tested", athlete_id=athlete_id, entry_id=kept[0]))
    page = render_template(
        "athlete/test.html",
        context=here,
        athlete=athlete,
        form=form,
        room=room,
        entry=None,
        correcting=correcting,
        ready=ready,
        readiness_check=ready.readiness_check(library.movements.get(form.movement.data or wanted, testable[0])),
        stops=ready.stops,
        library=library,
        conventions=CONVENTIONS,
    )
    return page, 422 if form.errors or form.asked else 200


def _test_to_correct(athlete_id: int) -> SetEntry | None:
    """The test named in the address, where it stands."""
    wanted = request.args.get("correct", type=number)
    entry = set_of(reader(), athlete_id, wanted) if wanted else None
    return (
        entry
        if entry and may_open(entry) and entry.standing and entry.effort is Effort.TEST and entry.cell_id is None
        else None
    )


@blueprint.get("/<int:athlete_id>/test/<int:entry_id>")
@allow(Act.LOG)
def tested(athlete_id: int, entry_id: int) -> ResponseReturnValue:
    """What a recorded test set says: the estimate, its working and how far to trust it."""
    here, athlete = context(), _athlete(athlete_id)
    entry = set_of(reader(), athlete.id, entry_id)
    lift = numbers(reader(), athlete, [entry.movement], here.records_from, here.today, here.rules)[0]
    return render_template(
        "athlete/tested.html",
        context=here,
        athlete=athlete,
        entry=entry,
        lift=lift,
        following=_untested(athlete.id, entry.movement),
        trust=TRUST,
        estimate=estimate_set(record_from_row(entry), here.rules),
        not_counted=NOT_COUNTED,
    )


def _untested(athlete_id: int, movement: str) -> Athlete | None:
    """Whose test of a lift is next: the first after this athlete, by name, of whom there is no estimate yet."""
    athletes = sorted(squad_athletes(reader(), context().squad.id), key=lambda one: one.name)
    known = best_of_each(reader(), [one.id for one in athletes])
    place = next((n for n, one in enumerate(athletes) if one.id == athlete_id), 0)
    ahead = [*athletes[place + 1 :], *athletes[:place]]
    return next((one for one in ahead if (one.id, movement) not in known), None)


@blueprint.post("/<int:athlete_id>/milestones")
@allow(Act.PLAN)
def set_milestone(athlete_id: int) -> ResponseReturnValue:
    """A milestone for one athlete."""
    athlete = _athlete(athlete_id)
    recorded = [*lifts_of(reader(), context().squad.id, context().week), *recorded_lifts(reader(), athlete.id)]
    form = MilestoneForm(context().today, _lift_choices(recorded))

    def write() -> bool:
        with database().writing() as db:
            add_milestone(
                acting(db),
                athlete_id,
                form.movement.data,
                MilestoneKind(form.kind.data),
                form.amount.data,
                form.due_on.data,
            )
        return True

    if form.submitted(write) is None:
        return _page(athlete, form, 422)
    flash("Milestone set.")
    return redirect(url_for("athlete.show", athlete_id=athlete_id, lift=form.movement.data))


@blueprint.post("/<int:athlete_id>/set-up")
@allow(Act.LOG_OWN)
def set_up(athlete_id: int) -> ResponseReturnValue:
    """Remember stance, box, wedge and the like, from the athlete's page or the floor."""
    form = request.form
    with database().writing() as db:
        note_set_up(acting(db), athlete_id, form.get("movement", ""), form.get("field", ""), form.get("value", ""))
    back, page = inside(form.get("back", ""), "/floor/"), "athlete.show" if own_athlete() is None else "athlete.me"
    about = {"lift": form.get("movement")} | ({"athlete_id": athlete_id} if page == "athlete.show" else {})
    return redirect(back or url_for(page, **about))  # type: ignore[arg-type]


@blueprint.post("/<int:athlete_id>/depth")
@allow(Act.KEEP_ATHLETES)
def depth(athlete_id: int) -> ResponseReturnValue:
    """Another depth standard: a new record line from today."""
    form = request.form
    box = form.get("box_mm", "").strip()
    with database().writing() as db:
        choice = choose_depth(
            acting(db),
            athlete_id,
            form.get("movement", ""),
            form.get("depth", ""),
            int(box) if box.isdecimal() and len(box) < 5 else None,
        )
    flash(f"Depth standard now: {choice.words}. A new record line starts; expect a lower load and test again.")
    return redirect(url_for("athlete.show", athlete_id=athlete_id, lift=choice.movement))


@blueprint.post("/milestones/<int:milestone_id>/drop")
@allow(Act.PLAN)
def drop(milestone_id: int) -> ResponseReturnValue:
    """Take a milestone away."""
    with database().writing() as db:
        change = drop_milestone(acting(db), milestone_id)
    said_with_undo("Milestone dropped.", change.id)
    return redirect(inside(request.form.get("back", ""), "/athletes/") or url_for("squad.index"))
