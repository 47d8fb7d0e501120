"""The rooms: what stands in them, which loads follow, and who trains where."""

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.achievable import loads_on
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.blocks.phrases import WEEKDAYS
from backsquat.features.desk import ASSISTANT, COACH, actor, allow, database, desk, reader
from backsquat.features.phrases import problem_words
from backsquat.features.room.forms import RoomForm, StayForm, form_of
from backsquat.features.room.operations import (
    check_station,
    room_row,
    save_room,
    station_checks,
    station_names,
)
from backsquat.features.room.rooms import rooms_of
from backsquat.features.room.stays import add_stay, end_stay, take_away
from backsquat.library.shelf import equipment
from backsquat.storage.convert import room_from_row
from backsquat.storage.models import RoomRow

MACHINES = (
    "lying_curl",
    "seated_curl",
    "standing_curl",
    "knee_extension",
    "leg_press",
    "hack",
    "belt_squat",
    "cable",
)
FURTHER = "further"  # in place of a room's number: one more room

blueprint = Blueprint("room", __name__, url_prefix="/room", template_folder="templates")


def _row() -> RoomRow | None:
    """The room the page is about: the one asked for, the squad's own, or none yet."""
    if request.values.get("room") == FURTHER:
        return None
    return room_row(reader(), desk().squad.id, request.values.get("room", type=int))


def _page(
    form: RoomForm | None = None, status: int = 200, problem: str = "", stay_form: StayForm | None = None
) -> ResponseReturnValue:
    here, row = desk(), _row()
    rooms = rooms_of(reader(), here.squad.id)
    room = room_from_row(row) if row else None
    form = form or form_of(room, list(row.equipment) if row else [])
    answers = [(bar, loads_on(room, bar)) for bar in room.bars] if room and not form.errors else []
    checks = station_checks(reader(), [row.id]) if row else {}
    athletes = squad_athletes(reader(), here.squad.id)
    kept = [r for r in rooms.rows.values() if not r.removed]
    page = render_template(
        "room/room.html", form=form, room=room, row=row, answers=answers, desk=here, equipment=equipment(),
        machines=MACHINES, stations=station_names(row), problem=problem, further=FURTHER,
        checks={station: check for (_, station), check in checks.items()},
        rooms=kept, own_id=rooms.own_id, weekdays=WEEKDAYS, athletes=athletes, names={a.id: a.name for a in athletes},
        stays=[s for s in rooms.stays if s.last_on is None or s.last_on >= here.today],
        stay_form=stay_form or StayForm({"room": str(row.id) if row else "", "first_on": here.today.isoformat()}),
    )  # fmt: skip
    return page, status


@blueprint.get("/")
@allow(COACH, ASSISTANT)
def index() -> ResponseReturnValue:
    return _page()


@blueprint.post("/stations")
@allow(COACH, ASSISTANT)
def station() -> ResponseReturnValue:
    """Mark a station ready or unsafe."""
    back = request.form.get("back", "")
    try:
        with database().writing() as session:
            row = check_station(
                session, actor(), request.form.get("station", ""), request.form.get("ready") == "1",
                request.form.get("found", ""), request.form.get("room", type=int),
            )  # fmt: skip
    except ImpossibleInput as error:
        return _page(status=422, problem=problem_words(error.problems[0]))
    flash(f"{row.station} is ready." if row.ready else f"{row.station} is marked unsafe: {row.found}.")
    return redirect(back if back.startswith("/floor/") else url_for("room.index", room=row.room_id))


@blueprint.post("/")
@allow(COACH)
def save() -> ResponseReturnValue:
    form = RoomForm(request.form, has=request.form.getlist("equipment"))
    facts = form.read()
    if facts is None:
        return _page(form, 422)
    further = request.form.get("room") == FURTHER
    with database().writing() as session:
        change = save_room(session, actor(), facts, request.form.get("room", type=int), further=further)
    flash(f"Room kept. Plans keep their numbers until you plan them anew.|{change.id}", "undo")
    return redirect(url_for("room.index", room=change.subject_id))


@blueprint.post("/<int:room_id>/away")
@allow(COACH)
def away(room_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        change = take_away(session, actor(), room_id)
    flash(f"Room taken off the list; what was lifted there stays.|{change.id}", "undo")
    return redirect(url_for("room.index"))


@blueprint.post("/stays")
@allow(COACH)
def stay() -> ResponseReturnValue:
    """Somebody, or everybody, trains in a room for a while."""
    form = StayForm(request.form)
    facts = form.read()
    if facts is None:
        return _page(status=422, stay_form=form)
    try:
        with database().writing() as session:
            change, count = add_stay(session, actor(), facts, desk().rules)
            change_id = change.id
    except ImpossibleInput as error:
        form.errors = {problem.field: problem_words(problem) for problem in error.problems}
        return _page(status=422, stay_form=form)
    flash(f"{_follows(count)}|{change_id}", "undo")
    return redirect(url_for("room.index", room=facts.room_id))


@blueprint.post("/stays/<int:stay_id>/end")
@allow(COACH)
def stay_over(stay_id: int) -> ResponseReturnValue:
    with database().writing() as session:
        change, count = end_stay(session, actor(), stay_id, desk().rules)
        change_id = change.id
    flash(f"Ended. {_follows(count)}|{change_id}", "undo")
    return redirect(url_for("room.index"))


def _follows(count: int) -> str:
    if not count:
        return "Kept. Nothing that is planned changes."
    places = "1 place follows" if count == 1 else f"{count} places follow"
    return f"Kept. {places} as a draft with the loads of that room: look the block over, then publish."
