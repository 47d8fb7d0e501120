"""What is done on the floor besides sets: ramp sets and drills ticked, work skipped, taken up again, let go."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any
from uuid import uuid4

from flask import flash, redirect, request
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere
from backsquat.core.loads.mass import Unit
from backsquat.core.numbers import read_decimal
from backsquat.core.sessions.running import PRESENCE, ActKind
from backsquat.core.strength.speed import read_speeds
from backsquat.pages.floor.routes import after, blueprint
from backsquat.pages.request import acting, allow, clock, database, inside, membership, number, reader, squad_library
from backsquat.storage.models import BlockSession, Cell, SessionAct
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.plan.cells import movement_of
from backsquat.work.plan.timed import held_session
from backsquat.work.policy import Act
from backsquat.work.record.outside import log_level_work
from backsquat.work.record.record import SetFacts
from backsquat.work.record.waiting import session_on_floor, skip_work
from backsquat.work.sessions.acts import act_of, do_act, take_act_back
from backsquat.work.sessions.blocks import cell_of
from backsquat.work.sessions.presence import say_presence
from backsquat.work.squad.athletes import athlete_of

TICKED = (ActKind.RAMP, ActKind.TRIAL)
SETS_MOST = 10


@blueprint.post("/cells/<int:cell_id>/tick")
@allow(Act.LOG_OWN)
def tick(cell_id: int) -> ResponseReturnValue:
    """A ramp set, or a trial rep for the feet, is done."""
    what = request.form.get("what", "")
    if what not in {kind.value for kind in TICKED}:
        raise NotThere("act")
    cell, held = _where(cell_id)
    facts = ramp_facts(request.form) if what == ActKind.RAMP.value else {}
    with database().writing() as db:
        do_act(acting(db), ActKind(what), cell.athlete_id, held, cell.week, cell.exercise_id, facts)
    return after(cell, lift=True)


def ramp_facts(sent: Mapping[str, str]) -> dict[str, Any]:
    """Which ramp set, and where a sensor watched it its load and speeds; speeds that cannot be are left out."""
    number = sent.get("n", "")
    facts: dict[str, Any] = {"n": int(number) if number.isdecimal() and len(number) < 4 else 0}
    try:
        speeds, load_kg = read_speeds(sent.get("speeds", "")), float(read_decimal(sent.get("load_kg", "") or "0"))
    except ValueError:
        return facts
    return facts | ({"speeds": list(speeds), "load_kg": load_kg} if speeds and load_kg > 0 else {})


@blueprint.post("/cells/<int:cell_id>/skip")
@allow(Act.LOG_OWN)
def skip(cell_id: int) -> ResponseReturnValue:
    """Left out today, or what is left of it, with the reason: it goes on the athlete's shelf."""
    cell, exercise, _block = cell_of(reader(), membership().squad_id, cell_id)
    movement = movement_of(squad_library(), exercise, cell)
    try:
        with database().writing() as db:
            held = session_on_floor(exercise, cell.week)
            reason = skip_work(acting(db), cell, exercise, held, request.form.get("reason", ""))
    except ImpossibleInput as error:
        flash(problem_words(error.problems[0]), "problem")
        return after(cell, lift=True)
    flash(f"{movement.name} left out: {reason}. It waits on the shelf.")
    return after(cell)


def _where(cell_id: int) -> tuple[Cell, BlockSession]:
    """The cell, and the session the floor does it in."""
    cell, exercise, _block = cell_of(reader(), membership().squad_id, cell_id)
    return cell, session_on_floor(exercise, cell.week)


@blueprint.post("/sessions/<int:session_id>/athletes/<int:athlete_id>/warm-up")
@allow(Act.LOG_OWN)
def warmed_up(session_id: int, athlete_id: int) -> ResponseReturnValue:
    """The warm-up of one athlete is done."""
    held, _block = held_session(reader(), membership().squad_id, session_id)
    with database().writing() as db:
        do_act(acting(db), ActKind.DRILL, athlete_id, held, request.form.get("in_week", 0, type=number))
    return after(None)


@blueprint.post("/sessions/<int:session_id>/athletes/<int:athlete_id>/presence")
@allow(Act.LOG)
def presence(session_id: int, athlete_id: int) -> ResponseReturnValue:
    """Here, late or absent: the turns go on without who is not there."""
    said = request.form.get("what", "")
    if said not in {kind.value for kind in PRESENCE}:
        raise NotThere("act")
    held, _block = held_session(reader(), membership().squad_id, session_id)
    week = request.form.get("in_week", 0, type=number)
    with database().writing() as db:
        say_presence(acting(db), athlete_id, held, week, ActKind(said))
        name = athlete_of(db, membership().squad_id, athlete_id).name
    flash(f"{name} is {said}.")
    return after(None)


@blueprint.post("/acts/<int:act_id>/back")
@allow(Act.LOG_OWN)
def act_back(act_id: int) -> ResponseReturnValue:
    """It was not so: a tick or a skip is taken back."""
    with database().writing() as db:
        act = take_act_back(acting(db), act_id)
        athlete_id, exercise_id = act.athlete_id, act.exercise_id
    return after(Cell(athlete_id=athlete_id, exercise_id=exercise_id), lift=bool(exercise_id), stay=True)


@blueprint.post("/shelf/<int:act_id>/take")
@allow(Act.LOG)
def take_up(act_id: int) -> ResponseReturnValue:
    """Work of an earlier session is done today: its sets are logged as they went, and the shelf is empty of it."""
    skipped = act_of(acting(reader()), act_id)
    held, week = _here(skipped)
    try:
        load = read_decimal(request.form.get("load", "") or "0")
    except ValueError:
        load = Decimal(-1)
    reps = min(request.form.get("reps", -1, type=number), 99)  # not said is not nought
    sets = min(max(request.form.get("sets", 1, type=number), 1), SETS_MOST)
    today = clock().today()
    left = request.form.get("reserve_reps", type=number)
    done = [SetFacts(str(uuid4()), load, Unit.KG, reps, reps, left, today) for _ in range(sets)]
    movement = str(skipped.facts.get("movement", ""))
    try:
        with database().writing() as db:
            log_level_work(acting(db), skipped.athlete_id, movement, done)
            do_act(acting(db), ActKind.TAKEN, skipped.athlete_id, held, week, None, {"of": act_id}, closes=skipped)
    except ImpossibleInput as error:
        flash(problem_words(error.problems[0]), "problem")
    else:
        flash(f"{squad_library().get(movement).name}: {sets} × {reps} logged.")
    return after(Cell(athlete_id=skipped.athlete_id), stay=True)


@blueprint.post("/shelf/<int:act_id>/let-go")
@allow(Act.LOG)
def let_go(act_id: int) -> ResponseReturnValue:
    """Nobody will do it any more."""
    skipped = act_of(acting(reader()), act_id)
    held, week = _here(skipped)
    with database().writing() as db:
        do_act(acting(db), ActKind.LET_GO, skipped.athlete_id, held, week, None, {"of": act_id}, closes=skipped)
    flash("Let go.")
    if there := inside(request.form.get("back", ""), "/session/"):
        return redirect(there)
    return after(Cell(athlete_id=skipped.athlete_id), stay=True)


def _here(skipped: SessionAct) -> tuple[BlockSession, int]:
    """The session and week that are open on the floor; those of the skipped work where the page did not say."""
    wanted = number(request.form.get("session", "").partition(".")[0] or "0")
    if wanted:
        return held_session(reader(), membership().squad_id, wanted)[0], request.form.get("in_week", 0, type=number)
    return held_session(reader(), membership().squad_id, skipped.session_id)[0], skipped.week
