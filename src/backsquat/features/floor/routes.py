"""The floor: see who is up and what is on the bar, log a set, get the next number."""

from decimal import Decimal
from json import dumps
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere
from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.mass import Unit
from backsquat.core.loads.rounding import grains
from backsquat.core.progression.decision import Answers
from backsquat.core.readiness.flags import SCALES, CheckIn
from backsquat.features.athletes.flags import check_in, check_ins
from backsquat.features.blocks.drawing import bar_picture
from backsquat.features.blocks.operations import cell_of
from backsquat.features.blocks.planning import movement_of
from backsquat.features.desk import (
    ASSISTANT,
    COACH,
    actor,
    allow,
    clock,
    database,
    desk,
    forget_reader,
    membership,
    reader,
    squad_library,
    squad_rules,
)
from backsquat.features.floor.forms import SetForm
from backsquat.features.floor.operations import correct_set, end_exercise, log_set, withdraw_set
from backsquat.features.floor.queries import (
    Floor,
    choose_session,
    floor_of,
    last_fault,
    last_load,
    sessions_in_week,
    steered_load,
)
from backsquat.features.movements.phrases import SETUP_WORDS
from backsquat.features.phrases import problem_words
from backsquat.features.review.operations import answer_week
from backsquat.features.review.phrases import OVERRIDE_WORDS, RUNG_OVERRIDES, WOULD_CHANGE, sentence
from backsquat.features.review.queries import answer_to
from backsquat.features.room.rooms import rooms_of
from backsquat.storage.models import SetEntry

blueprint = Blueprint("floor", __name__, url_prefix="/floor", template_folder="templates")
SCALE_WORDS = {  # name → words, what the lowest answer means, what the highest
    "sleep": ("Sleep", "badly", "well"), "soreness": ("Soreness", "none", "much"), "stress": ("Stress", "none", "much"),
    "back": ("Lower back sore", "not", "very"),
}  # fmt: skip
LOADS_AROUND = 8  # achievable loads offered below and above the planned one


@blueprint.get("/")
@allow(COACH, ASSISTANT)
def index() -> ResponseReturnValue:
    return _page()


def _floor() -> Floor | None:
    here = desk()
    sessions = sessions_in_week(reader(), here.squad.id, here.week)
    chosen = choose_session(sessions, request.values.get("lift", ""), here.today)
    if chosen is None:
        return None
    return floor_of(
        reader(), sessions, chosen, rooms_of(reader(), here.squad.id), here.rules, now=clock().now(),
        rack=request.values.get("rack", type=int), athlete_id=request.values.get("athlete", type=int),
    )  # fmt: skip


def _page(
    form: SetForm | None = None, correcting: SetEntry | None = None, status: int = 200
) -> ResponseReturnValue:
    floor = _floor()
    if floor is None:
        return render_template("floor/none.html", desk=desk()), 200
    wanted = request.args.get("correct", type=int)
    if wanted and floor.up and correcting is None:
        correcting = next((entry for entry in floor.up.entries if entry.id == wanted), None)
    whole = not request.headers.get("HX-Request")
    template = "floor/floor.html" if whole else "floor/_floor.html"
    return render_template(template, floor=floor, desk=desk(), **_turn(floor, form, correcting)), status


def _turn(floor: Floor, form: SetForm | None, correcting: SetEntry | None) -> dict[str, Any]:
    """What the card of the lifter needs: the bar, the quick form, the full form, rest left, the decision."""
    up = floor.up
    if up is None:
        return {}
    load, cell, movement = up.load, up.cell, up.movement
    usual = last_load(reader(), up.athlete.id, movement.code) if up.on_rung else None
    planned = cell.load_amount if not up.on_rung else usual.load_amount if usual else Decimal(0)
    hold_s = cell.hold_s or cell.inputs.get("hold_s")
    steered = steered_load(floor, up)
    if steered:
        planned, load = steered.load.total.amount, steered.load
    quick = SetForm(desk().today, formdata=None).offer(movement)
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
            "pain_place": source.pain_place if source else "",
            "pain_character": source.pain_character if source else "dull",
        }
        form = SetForm(desk().today, formdata=None, data=data)
    form.offer(movement)
    came = check_ins(reader(), [up.athlete.id], floor.chosen.day, floor.chosen.day)
    return {
        "conventions": CONVENTIONS, "steered": steered, "setup_words": SETUP_WORDS,
        "movement": movement, "planned": planned, "hold_s": hold_s,
        "bar_load": load, "bar_svg": bar_picture(up.room, load) if load and up.room else None,
        "quick": quick, "set_form": form, "correcting": correcting, "rest_left": up.rest_left_s, "loads": _loads(floor),
        "fault": squad_library().fault(movement.code, last_fault(reader(), up.athlete.id, movement.code, floor.chosen.day)),
        "scales": SCALES, "scale_words": SCALE_WORDS, "checked": came.get(up.athlete.id),
        **_decision(floor),
    }  # fmt: skip


def _loads(floor: Floor) -> list[str]:
    """Loads of the room around the planned one, for the form's list."""
    load = floor.up.load if floor.up else None
    if load is None or floor.up is None or floor.up.room is None:
        return []
    loads = loads_on(floor.up.room, load.rig)
    place = loads.grains.index(grains(load.kg)) if grains(load.kg) in loads.grains else 0
    around = loads.loads[max(0, place - LOADS_AROUND) : place + LOADS_AROUND + 1]
    return [item.total.text for item in around]


def _decision(floor: Floor) -> dict[str, Any]:
    row = floor.up.decision if floor.up else None
    if row is None:
        return {"decision": None}
    return {
        "decision": row,
        "sentence": sentence(row.code, row.reason, row.facts, row.effect, row.movement, squad_library()),
        "would_change": WOULD_CHANGE[row.would_change],
        "overrides": RUNG_OVERRIDES if floor.up and floor.up.on_rung else OVERRIDE_WORDS,
        "answer": answer_to(reader(), row.id),
    }


def _after(lift: int, rack: str | None, athlete_id: int | None) -> ResponseReturnValue:
    """Show the floor again: as a fragment to htmx, by redirect otherwise."""
    place = {"lift": lift, "rack": rack, "athlete": athlete_id}
    target = url_for("floor.index", **{name: value for name, value in place.items() if value is not None})  # type: ignore[arg-type]
    if request.headers.get("HX-Request"):
        forget_reader()
        return "", 204, {"HX-Location": dumps({"path": target, "target": "#floor", "swap": "outerHTML"})}
    return redirect(target)


@blueprint.post("/athletes/<int:athlete_id>/check-in")
@allow(COACH, ASSISTANT)
def come(athlete_id: int) -> ResponseReturnValue:
    """How an athlete comes to today's session: sleep, soreness, stress, lower back."""
    given = {name: request.form.get(name, type=int) for name in SCALES}
    place = {name: request.form.get(name, type=int) for name in ("lift", "rack")}
    if None in given.values():
        flash("Choose one of each line: sleep, soreness, stress and lower back.", "problem")
    else:
        facts = CheckIn(clock().today(), **{name: value or 0 for name, value in given.items()})
        try:
            with database().writing() as session:
                change_id = check_in(session, actor(), athlete_id, facts).id
            flash(f"Checked in. Advice only: it counts towards an easy week.|{change_id}", "undo")
        except ImpossibleInput as error:
            flash(problem_words(error.problems[0]), "problem")
    return redirect(url_for("floor.index", athlete=athlete_id, **place))  # type: ignore[arg-type]


@blueprint.post("/cells/<int:cell_id>/sets")
@allow(COACH, ASSISTANT)
def log(cell_id: int) -> ResponseReturnValue:
    cell, slot, _block = cell_of(reader(), membership().squad_id, cell_id)
    form = SetForm(clock().today()).offer(movement_of(squad_library(), slot, cell))

    def write() -> tuple[int | None, bool]:
        with database().writing() as session:
            done = log_set(session, actor(), cell_id, form.facts(Unit(cell.load_unit)), squad_rules())
            return done.entry.id, bool(done.stop or done.decision)

    result = form.submitted(write)
    if result is None:
        return _page(form, status=422)
    if not request.headers.get("HX-Request"):
        flash("Set logged.")
    return _after(slot.id, request.form.get("rack"), cell.athlete_id if result[1] else None)


@blueprint.post("/sets/<int:entry_id>/correct")
@allow(COACH, ASSISTANT)
def correct(entry_id: int) -> ResponseReturnValue:
    entry = reader().get(SetEntry, entry_id)
    if entry is None or entry.cell_id is None:
        raise NotThere("set")
    cell, slot, _block = cell_of(reader(), membership().squad_id, entry.cell_id)
    form = SetForm(clock().today()).offer(movement_of(squad_library(), slot, cell))

    def write() -> int:
        with database().writing() as session:
            return correct_set(
                session, actor(), entry_id, form.facts(Unit(cell.load_unit)), squad_rules()
            ).entry.id

    if form.submitted(write) is None:
        return _page(form, entry, 422)
    return _after(slot.id, request.form.get("rack"), cell.athlete_id)


@blueprint.post("/sets/<int:entry_id>/take-back")
@allow(COACH, ASSISTANT)
def take_back(entry_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        entry = withdraw_set(session, actor(), entry_id, squad_rules())
        _cell, slot, _block = cell_of(session, membership().squad_id, entry.cell_id or 0)
    return _after(slot.id, request.form.get("rack"), entry.athlete_id)


@blueprint.post("/cells/<int:cell_id>/end")
@allow(COACH, ASSISTANT)
def end(cell_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        row = end_exercise(session, actor(), cell_id, squad_rules())
        _cell, slot, _block = cell_of(session, membership().squad_id, cell_id)
    return _after(slot.id, request.form.get("rack"), row.athlete_id)


@blueprint.post("/cells/<int:cell_id>/answers")
@allow(COACH)
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
