"""The floor: see who is up and what is on the bar, log a set, get the next number."""

from decimal import Decimal
from json import dumps
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.mass import Unit
from backsquat.core.loads.rounding import grains
from backsquat.core.progression.decision import Answers
from backsquat.core.progression.prescription import Kind
from backsquat.core.readiness.flags import SCALES, CheckIn
from backsquat.pages.drawing import bar_picture
from backsquat.pages.floor.forms import SetForm
from backsquat.pages.floor.phrases import SCALE_WORDS, hold_words, kept_off_words, steered_words, turn_notes
from backsquat.pages.request import (
    actor,
    allow,
    clock,
    context,
    database,
    forget_reader,
    membership,
    number,
    reader,
    said_with_undo,
    squad_library,
    squad_rules,
    wants_piece,
)
from backsquat.storage.models import SetEntry
from backsquat.ui.phrases.decisions import WOULD_CHANGE, sentence
from backsquat.ui.phrases.flags import FLAGS
from backsquat.ui.phrases.problems import problem_words
from backsquat.ui.phrases.set_up import SETUP_WORDS
from backsquat.work.decisions.propose import answer_week
from backsquat.work.decisions.waiting import answer_to
from backsquat.work.floor.floor import Floor, Turn, floor_of
from backsquat.work.floor.sessions import choose_session, sessions_in_week
from backsquat.work.floor.steering import steered_load
from backsquat.work.health.check_ins import check_in, check_ins
from backsquat.work.log.sets import entry_of, last_fault, last_load
from backsquat.work.plan.cells import movement_of
from backsquat.work.plan.chances import Chances, SetChance
from backsquat.work.policy import Act
from backsquat.work.record.floor import correct_set, end_exercise, log_set, withdraw_set
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.sessions.blocks import cell_of

blueprint = Blueprint("floor", __name__, url_prefix="/floor", template_folder="templates")
LOADS_AROUND = 8  # achievable loads offered below and above the planned one


@blueprint.get("/")
@allow(Act.LOG)
def index() -> ResponseReturnValue:
    """Today, or the next session of the week."""
    return _page()


def _floor() -> Floor | None:
    here = context()
    sessions = sessions_in_week(reader(), here.squad.id, here.week)
    chosen = choose_session(sessions, request.values.get("lift", ""), here.today)
    if chosen is None:
        return None
    return floor_of(
        reader(),
        sessions,
        chosen,
        rooms_of(reader(), here.squad.id),
        here.rules,
        now=clock().now(),
        rack=request.values.get("rack", type=number),
        athlete_id=request.values.get("athlete", type=number),
    )


def _page(form: SetForm | None = None, correcting: SetEntry | None = None, status: int = 200) -> ResponseReturnValue:
    floor = _floor()
    if floor is None:
        return render_template("floor/none.html", context=context()), 200
    wanted = request.args.get("correct", type=number)
    if wanted and floor.up and correcting is None:
        correcting = next((entry for entry in floor.up.entries if entry.id == wanted), None)
    template = "floor/_floor.html" if wants_piece() else "floor/floor.html"
    return render_template(template, **_floor_page(floor), **_turn(floor, form, correcting)), status


def _floor_page(floor: Floor) -> dict[str, Any]:
    return {"floor": floor, "context": context(), "kept_off_words": kept_off_words, "steered_words": steered_words}


def _likely(up: Turn, load: Load | None) -> SetChance | None:
    """What the load on the bar is expected to leave; None where nothing is loaded or known, or it is no work."""
    if load is None or up.cell.kind is not Kind.WORK or up.on_rung:
        return None
    here, cell = context(), up.cell
    chances = Chances.of(reader(), [up.athlete], up.movement.code, here.today, here.rules)
    return chances.on(up.athlete.id, here.today, load.kg, cell.sets, cell.reps)


def _turn(floor: Floor, form: SetForm | None, correcting: SetEntry | None) -> dict[str, Any]:
    """What the card of the lifter needs: the bar, the quick form, the full form, rest left, the decision."""
    up = floor.up
    if up is None:
        return {}
    load, cell, movement = up.load, up.cell, up.movement
    usual = last_load(reader(), up.athlete.id, movement.code) if up.on_rung else None
    offered = load.total.amount if load else cell.load_amount
    planned = offered if not up.on_rung else usual.load_amount if usual else Decimal(0)
    hold_s = cell.hold_s or None
    steered = steered_load(floor.chosen.slot, up)
    if steered:
        planned, load = steered.load.total.amount, steered.load
    quick = SetForm(context().today, formdata=None).offer(movement)
    if form is None:
        source = correcting
        data = {
            "load": source.load_amount if source else planned,
            "hold_s": source.hold_s if source else hold_s,
            "supported": source.supported if source else False,
            "side": source.side if source else "",
            "reps": source.reps if source else cell.reps,
            "reserve_reps": source.reserve_reps if source else cell.reserve_reps,
            "short_reps": (source.reps - source.reps_to_depth) if source else 0,
            "fault": source.fault if source else "",
            "pain": source.pain or None if source else None,
            "pain_region": source.pain_region if source else "",
            "pain_character": source.pain_character if source else "dull",
        }
        form = SetForm(context().today, formdata=None, data=data)
    form.offer(movement)
    shown = load if steered else floor.bar
    came = check_ins(reader(), [up.athlete.id], floor.chosen.day, floor.chosen.day)
    return {
        "conventions": CONVENTIONS,
        "steered": steered,
        "likely": _likely(up, load),
        "setup_words": SETUP_WORDS,
        "notes": turn_notes(up),
        "hold_note": hold_words(up.hold, up.planned, squad_library()) if up.hold else "",
        "movement": movement,
        "planned": planned,
        "hold_s": hold_s,
        "bar_load": load,
        "bar_svg": bar_picture(up.room, shown) if shown and up.room else None,
        "quick": quick,
        "set_form": form,
        "correcting": correcting,
        "rest_left": up.rest_left_s,
        "loads": _loads(floor),
        "fault": squad_library().fault(
            movement.code, last_fault(reader(), up.athlete.id, movement.code, floor.chosen.day)
        ),
        "scales": SCALES,
        "scale_words": SCALE_WORDS,
        "checked": came.get(up.athlete.id),
        **_decision(floor),
    }


def _loads(floor: Floor) -> list[str]:
    """Loads of the room around the planned one, for the form's list."""
    load = floor.up.load if floor.up else None
    if load is None or floor.up is None or floor.up.room is None:
        return []
    loads = loads_on(floor.up.room, load.rig)
    here = loads.grains.index(grains(load.kg)) if grains(load.kg) in loads.grains else 0
    around = loads.loads[max(0, here - LOADS_AROUND) : here + LOADS_AROUND + 1]
    return [item.total.text for item in around]


def _decision(floor: Floor) -> dict[str, Any]:
    row = floor.up.decision if floor.up else None
    if row is None:
        return {"decision": None}
    return {
        "decision": row,
        "sentence": sentence(row.code, row.reason, row.facts, row.following, row.movement, squad_library()),
        "would_change": WOULD_CHANGE[row.would_change],
        "answer": answer_to(reader(), row.id),
    }


def _after(lift: int, rack: str | None, athlete_id: int | None) -> ResponseReturnValue:
    """Show the floor again: as a fragment to htmx, by redirect otherwise."""
    where = {"lift": lift, "rack": rack, "athlete": athlete_id}
    target = url_for("floor.index", **{name: value for name, value in where.items() if value is not None})  # type: ignore[arg-type]
    if request.headers.get("HX-Request"):
        forget_reader()
        return "", 204, {"HX-Location": dumps({"path": target, "target": "#floor", "swap": "outerHTML"})}
    return redirect(target)


@blueprint.post("/athletes/<int:athlete_id>/check-in")
@allow(Act.LOG)
def come(athlete_id: int) -> ResponseReturnValue:
    """How an athlete comes to today's session: sleep, soreness, stress, lower back."""
    given = {name: request.form.get(name, type=number) for name in SCALES}
    where = {name: request.form.get(name, type=number) for name in ("lift", "rack")}
    if None in given.values():
        flash("Choose one of each line: sleep, soreness, stress and lower back.", "problem")
    else:
        facts = CheckIn(clock().today(), **{name: value or 0 for name, value in given.items()})
        try:
            with database().writing() as session:
                change_id = check_in(session, actor(), athlete_id, facts).id
            said_with_undo("Checked in. Advice only: it counts towards an easy week.", change_id)
        except ImpossibleInput as error:
            flash(problem_words(error.problems[0]), "problem")
    return redirect(url_for("floor.index", athlete=athlete_id, **where))  # type: ignore[arg-type]


@blueprint.post("/cells/<int:cell_id>/sets")
@allow(Act.LOG)
def log(cell_id: int) -> ResponseReturnValue:
    """Log the next set of a cell."""
    cell, slot, _block = cell_of(reader(), membership().squad_id, cell_id)
    form = SetForm(clock().today()).offer(movement_of(squad_library(), slot, cell))

    def write() -> tuple[bool, list[str]]:
        with database().writing() as session:
            done = log_set(session, actor(), cell_id, form.facts(Unit(cell.load_unit)), squad_rules())
            return bool(done.stop or done.decision), list(done.entry.flags)

    result = form.submitted(write)
    if result is None:
        return _page(form, status=422)
    judged, flags = result
    if flags:
        flash(f"Kept, and marked: {', '.join(FLAGS[flag] for flag in flags)}.")
    elif not request.headers.get("HX-Request"):
        flash("Set logged.")
    return _after(slot.id, request.form.get("rack"), cell.athlete_id if judged or flags else None)


@blueprint.post("/sets/<int:entry_id>/correct")
@allow(Act.LOG)
def correct(entry_id: int) -> ResponseReturnValue:
    """What really happened, in the stead of what was logged."""
    entry = entry_of(reader(), entry_id)
    cell, slot, _block = cell_of(reader(), membership().squad_id, entry.cell_id or 0)
    form = SetForm(clock().today()).offer(movement_of(squad_library(), slot, cell))

    def write() -> int:
        with database().writing() as session:
            return correct_set(session, actor(), entry_id, form.facts(Unit(cell.load_unit)), squad_rules()).entry.id

    if form.submitted(write) is None:
        return _page(form, entry, 422)
    return _after(slot.id, request.form.get("rack"), cell.athlete_id)


@blueprint.post("/sets/<int:entry_id>/take-back")
@allow(Act.LOG)
def take_back(entry_id: int) -> ResponseReturnValue:
    """The set never happened."""
    with database().writing() as session:
        entry = withdraw_set(session, actor(), entry_id, squad_rules())
        _cell, slot, _block = cell_of(session, membership().squad_id, entry.cell_id or 0)
    return _after(slot.id, request.form.get("rack"), entry.athlete_id)


@blueprint.post("/cells/<int:cell_id>/end")
@allow(Act.LOG)
def end(cell_id: int) -> ResponseReturnValue:
    """Judge the exposure although sets are missing."""
    with database().writing() as session:
        row = end_exercise(session, actor(), cell_id, squad_rules())
        _cell, slot, _block = cell_of(session, membership().squad_id, cell_id)
    return _after(slot.id, request.form.get("rack"), row.athlete_id)


@blueprint.post("/cells/<int:cell_id>/answers")
@allow(Act.PLAN)
def answers(cell_id: int) -> ResponseReturnValue:
    """The coach's three answers to an earned week: sound, sure, too easy."""
    said = Answers(*(request.form.get(name) == "yes" for name in ("sound", "sure", "too_easy")))
    with database().writing() as session:
        row = answer_week(session, actor(), cell_id, said, squad_rules())
        _cell, slot, _block = cell_of(session, membership().squad_id, cell_id)
        athlete_id = row.athlete_id
    if request.form.get("back") == "review":
        return redirect(url_for("review.index"))
    return redirect(url_for("floor.index", lift=slot.id, rack=request.form.get("rack"), athlete=athlete_id))
