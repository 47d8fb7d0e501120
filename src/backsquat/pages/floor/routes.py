"""The floor: one running list for every athlete; see what comes now, log a set, get the next."""

from dataclasses import dataclass
from functools import partial
from json import dumps
from typing import Any
from uuid import uuid4

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.loads.mass import Unit
from backsquat.core.pain import stopping_levels
from backsquat.core.progression.decision import Answers, Code
from backsquat.core.readiness.flags import SCALES, CheckInValues
from backsquat.core.strength.record import RESERVE_MOST
from backsquat.pages.floor.card import card, decision_of
from backsquat.pages.floor.forms import SetForm
from backsquat.pages.floor.phrases import gone_words, kept_off_groups, set_notes_words, shelf_words, steered_words
from backsquat.pages.pulse import felt
from backsquat.pages.request import (
    acting,
    allow,
    clock,
    context,
    database,
    forget_reader,
    may_open,
    membership,
    number,
    own_athlete,
    own_sessions,
    reader,
    said_with_undo,
    squad_library,
    trusted_with_health,
    wants_piece,
)
from backsquat.storage.models import Cell, DecisionRow, SetEntry
from backsquat.ui.phrases.decisions import sentence
from backsquat.ui.phrases.flags import FLAGS
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.problems import problem_words
from backsquat.ui.phrases.sessions import clock_words, item_dose
from backsquat.work.decisions.propose import answer_week
from backsquat.work.floor.floor import Asked, Floor, floor_of
from backsquat.work.floor.sessions import choose_session, sessions_in_week
from backsquat.work.health.check_ins import check_in
from backsquat.work.log.sets import entry_of, floor_used, standing_set
from backsquat.work.plan.cells import movement_of
from backsquat.work.policy import Act
from backsquat.work.record.floor import correct_set, end_exercise, log_set, say_reserve, withdraw_set
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.sessions.blocks import cell_of, exercise_of, next_planned, squad_blocks
from backsquat.work.squad.athletes import athlete_of, rules_for
from backsquat.work.squad.passes import own_accounts


@dataclass(frozen=True)
class Just:
    """The set that was logged just now, the exercise it is of (None: of none), and whether to ask for its reserve."""

    entry: SetEntry
    name: str
    lift: int | None
    ask: bool


TO_THE_TOP = "outerHTML show:window:top"  # a form far down was sent: what comes now stands at the top

blueprint = Blueprint("floor", __name__, url_prefix="/floor", template_folder="templates")


@blueprint.get("/")
@allow(Act.LOG_OWN)
def index() -> ResponseReturnValue:
    """Today, or the next session of the week."""
    return page()


def _floor() -> Floor | None:
    here = context()
    sessions = own_sessions(sessions_in_week(reader(), here.squad.id, here.week))
    exercise = request.values.get("lift", "")
    chosen = choose_session(sessions, request.values.get("session", ""), here.today, exercise)
    if chosen is None:
        return None
    asked = Asked(
        rack=request.values.get("rack", "")[:20],
        athlete_id=request.values.get("athlete", type=number),
        exercise_id=next((one for one in chosen.exercises if str(one) == exercise), None),
        after_id=request.args.get("after", type=number),
    )
    rooms = rooms_of(reader(), here.squad.id)
    return floor_of(reader(), sessions, chosen, rooms, here.rules, now=clock().now(), asked=asked, only=own_athlete())


def none_page(endpoint: str = "floor.index", kind: str | None = None) -> ResponseReturnValue:
    """A week without a session, and the way to the page asked for in the next one."""
    here = context()
    ahead = next_planned(squad_blocks(reader(), here.squad.id), here.week)
    if ahead and not own_sessions(sessions_in_week(reader(), here.squad.id, ahead)):
        ahead = None  # nothing of it is published, or nothing is for who looks
    address = url_for(endpoint, week=ahead.isoformat(), kind=kind) if ahead else ""
    return render_template("floor/none.html", context=here, ahead=ahead, address=address), 200


def page(form: SetForm | None = None, correcting: SetEntry | None = None, status: int = 200) -> ResponseReturnValue:
    """The floor as it stands; with the form of a set that was not kept, or of one that is corrected."""
    floor = _floor()
    if floor is None:
        return none_page()
    wanted = request.args.get("correct", type=number)
    if wanted and floor.up and correcting is None:
        correcting = next((entry for entry in floor.up.entries if entry.id == wanted and may_open(entry)), None)
    template = "floor/_floor.html" if wants_piece() else "floor/floor.html"
    return render_template(template, **_floor_page(floor), **card(floor, form, correcting)), status


def _floor_page(floor: Floor) -> dict[str, Any]:
    began, shown = floor.began_at, [one.athlete.id for one in floor.here.lists] if floor.here else []
    own = rules_for(floor.mine.athlete, context().rules) if floor.mine else context().rules
    return {
        "shown_ids": shown,
        **felt(shown),
        "stopping_levels": stopping_levels(own),
        "floor": floor,
        "piece": wants_piece(),
        # Asked in the first week of a block only: later somebody has used it.
        "first_use": floor.chosen.week == 0 and not floor_used(reader(), context().squad.id),
        "context": context(),
        "own_accounts": own_accounts(reader()),
        "now_min": int((clock().now() - began).total_seconds() // 60) if began else None,
        "kept_off_groups": lambda kept: kept_off_groups(kept, squad_library()),
        "steered_words": steered_words,
        "set_notes_words": partial(set_notes_words, with_health=trusted_with_health() or own_athlete() is not None),
        "just": _just(),
        "gone_words": gone_words,
        "shelf_words": lambda act: shelf_words(act, squad_library()),
        "clock": clock_words,
        "dose": item_dose,
        "decided": lambda turn: "" if own_athlete() else decision_of(turn).get("sentence", ""),
    }


def _just() -> Just | None:
    """The set the address names as logged just now, while it stands."""
    number_of = request.args.get("just", type=number)
    entry = standing_set(reader(), number_of) if number_of else None
    if entry is None or own_athlete() not in (None, entry.athlete_id):
        return None
    who = athlete_of(reader(), context().squad.id, entry.athlete_id)
    ask = entry.reserve_reps is None and not entry.pain and entry.hold_s is None and entry.reps > 0
    lift = (
        cell_of(reader(), context().squad.id, entry.cell_id)[0].exercise_id
        if entry.cell_id and may_open(entry)
        else None
    )
    return Just(entry, who.name, lift, ask and entry.at.date() == clock().today())


def after(cell: Cell | None, *, stay: bool = False, lift: bool = False, just: int | None = None) -> ResponseReturnValue:
    """Show the floor again: as a fragment to htmx, by redirect otherwise.

    `stay`: with the same athlete; `lift`: at the same piece of work. Else whoever comes now. `just`: the set logged.
    """
    where: dict[str, Any] = {name: request.form.get(name) for name in ("session", "rack")} | {"just": just}
    if cell is not None and cell.exercise_id is not None and not where["session"]:
        exercise, _block = exercise_of(reader(), membership().squad_id, cell.exercise_id)
        where["session"] = next((held.session_id for held in exercise.on_floor if held.week == cell.week), None)
    if cell is not None:
        where["athlete" if stay or lift else "after"] = cell.athlete_id
        where["lift"] = cell.exercise_id if lift else None
    target = url_for("floor.index", **{name: value for name, value in where.items() if value})
    if request.headers.get("HX-Request"):
        forget_reader()
        return "", 204, {"HX-Location": dumps({"path": target, "target": "#floor", "swap": TO_THE_TOP})}
    return redirect(target)


@blueprint.post("/athletes/<int:athlete_id>/check-in")
@allow(Act.LOG_OWN)
def come(athlete_id: int) -> ResponseReturnValue:
    """How an athlete comes to today's session: sleep, soreness, stress, lower back."""
    given = {name: request.form.get(name, type=number) for name in SCALES}
    where = {name: request.form.get(name) for name in ("session", "lift", "rack")}
    if None in given.values():
        flash("Choose one of each line: sleep, soreness, stress and lower back.", "problem")
    else:
        facts = CheckInValues(clock().today(), **{name: value or 0 for name, value in given.items()})
        try:
            with database().writing() as db:
                change_id = check_in(acting(db), athlete_id, facts).id
            said_with_undo("Checked in. Advice only: it counts towards a deload week.", change_id)
        except ImpossibleInput as error:
            flash(problem_words(error.problems[0]), "problem")
    return redirect(url_for("floor.index", athlete=athlete_id, **where))  # type: ignore[arg-type]


@blueprint.post("/cells/<int:cell_id>/sets")
@allow(Act.LOG_OWN)
def log(cell_id: int) -> ResponseReturnValue:
    """Log the next set of a cell."""
    cell, exercise, _block = cell_of(reader(), membership().squad_id, cell_id)
    form = SetForm(clock().today()).offer(movement_of(squad_library(), exercise, cell))

    def write() -> tuple[bool, bool, list[str], int]:
        with database().writing() as db:
            done = log_set(acting(db), cell_id, form.facts(Unit(cell.load_unit)))
            _say_decided(done.decision)
            return bool(done.stop), bool(done.entry.side), list(done.entry.flags), done.entry.id

    result = form.submitted(write)
    if result is None:
        return page(form, status=422)
    stopped, half, flags, entry_id = result
    if flags:
        flash(f"Kept, and marked: {', '.join(FLAGS[flag] for flag in flags)}.")
    elif not request.headers.get("HX-Request"):
        flash("Set logged.")
    return after(cell, stay=stopped or half or bool(flags), lift=stopped, just=entry_id)


def _say_decided(row: DecisionRow | None) -> None:
    """What was decided of a piece of work that is complete, said above what comes next."""
    if row is None or row.code is Code.STOP:
        return
    words = sentence(row.code, row.reason, row.facts, row.following, row.movement, squad_library(), why=False)
    who = athlete_of(reader(), membership().squad_id, row.athlete_id).name.split(" ")[0]
    flash(f"{who}, {in_text(squad_library().get(row.movement).name)}: {words}")


@blueprint.post("/sets/<int:entry_id>/correct")
@allow(Act.LOG_OWN)
def correct(entry_id: int) -> ResponseReturnValue:
    """What really happened, in the stead of what was logged."""
    entry = entry_of(reader(), entry_id)
    cell, exercise, _block = cell_of(reader(), membership().squad_id, entry.cell_id or 0)
    form = SetForm(clock().today()).offer(movement_of(squad_library(), exercise, cell))

    def write() -> int:
        with database().writing() as db:
            return correct_set(acting(db), entry_id, form.facts(Unit(cell.load_unit))).entry.id

    if form.submitted(write) is None:
        return page(form, entry, 422)
    return after(cell, lift=True)


@blueprint.post("/sets/<int:entry_id>/reserve")
@allow(Act.LOG_OWN)
def reserve(entry_id: int) -> ResponseReturnValue:
    """What was left in the set that was logged just now."""
    left = request.form.get("left", type=number)
    if left is None or not 0 <= left <= RESERVE_MOST:
        raise ImpossibleInput(Problem("reserve_reps", "reserve_range", {"most": RESERVE_MOST}))
    client_id = request.form.get("client_id", "")[:64] or str(uuid4())
    with database().writing() as db:
        done = say_reserve(acting(db), entry_id, left, client_id)
        _say_decided(done.decision)
        cell, _exercise, _block = cell_of(db, membership().squad_id, done.entry.cell_id or 0)
        db.expunge(cell)
    return after(cell)


@blueprint.post("/sets/<int:entry_id>/take-back")
@allow(Act.LOG_OWN)
def take_back(entry_id: int) -> ResponseReturnValue:
    """The set never happened."""
    with database().writing() as db:
        entry = withdraw_set(acting(db), entry_id)
        cell, _exercise, _block = cell_of(db, membership().squad_id, entry.cell_id or 0)
        db.expunge(cell)
    return after(cell, stay=True)


@blueprint.post("/cells/<int:cell_id>/end")
@allow(Act.LOG_OWN)
def end(cell_id: int) -> ResponseReturnValue:
    """Judge the exposure although sets are missing."""
    with database().writing() as db:
        row = end_exercise(acting(db), cell_id)
        _say_decided(row)
    cell, _exercise, _block = cell_of(reader(), membership().squad_id, cell_id)
    return after(cell)


@blueprint.post("/cells/<int:cell_id>/answers")
@allow(Act.PLAN)
def answers(cell_id: int) -> ResponseReturnValue:
    """The coach's three answers to an earned week: sound, sure, too easy."""
    said = Answers(*(request.form.get(name) == "yes" for name in ("sound", "sure", "too_easy")))
    with database().writing() as db:
        row = answer_week(acting(db), cell_id, said)
        _cell, exercise, _block = cell_of(db, membership().squad_id, cell_id)
        athlete_id = row.athlete_id
    if request.form.get("back") == "review":
        return redirect(url_for("review.index"))
    return redirect(url_for("floor.index", lift=exercise.id, rack=request.form.get("rack"), athlete=athlete_id))
