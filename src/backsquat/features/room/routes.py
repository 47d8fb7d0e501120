"""The room: what stands in it and which loads follow."""

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Refused
from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.room import Room
from backsquat.features.blocks.planning import room_of
from backsquat.features.desk import ASSISTANT, COACH, actor, allow, database, desk, reader
from backsquat.features.phrases import problem_words
from backsquat.features.room.forms import RoomForm, form_of
from backsquat.features.room.operations import check_station, save_room, station_checks, station_names
from backsquat.library.shelf import equipment
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

blueprint = Blueprint("room", __name__, url_prefix="/room", template_folder="templates")


def _room() -> Room | None:
    try:
        return room_of(reader(), desk().squad.id)
    except Refused:
        return None


def _page(form: RoomForm, room: Room | None, status: int = 200, problem: str = "") -> ResponseReturnValue:
    answers = []
    if room and not form.errors:
        for bar in room.bars:
            loads = loads_on(room, bar)
            answers.append((bar, loads))
    row = reader().get(RoomRow, desk().squad.room_id) if desk().squad.room_id else None
    page = render_template(
        "room/room.html", form=form, room=room, answers=answers, desk=desk(), equipment=equipment(), machines=MACHINES,
        stations=station_names(row), checks=station_checks(reader(), row.id) if row else {}, problem=problem,
    )  # fmt: skip
    return page, status


@blueprint.get("/")
@allow(COACH, ASSISTANT)
def index() -> ResponseReturnValue:
    room = _room()
    return _page(form_of(room, _equipment()), room)


@blueprint.post("/stations")
@allow(COACH, ASSISTANT)
def station() -> ResponseReturnValue:
    """Mark a station ready or unsafe."""
    back = request.form.get("back", "")
    try:
        with database().writing() as session:
            row = check_station(
                session, actor(), request.form.get("station", ""), request.form.get("ready") == "1",
                request.form.get("found", ""),
            )  # fmt: skip
    except ImpossibleInput as error:
        room = _room()
        return _page(form_of(room, _equipment()), room, 422, problem_words(error.problems[0]))
    flash(f"{row.station} is ready." if row.ready else f"{row.station} is marked unsafe: {row.found}.")
    return redirect(back if back.startswith("/floor/") else url_for("room.index"))


def _equipment() -> list[str]:
    row = reader().get(RoomRow, desk().squad.room_id) if desk().squad.room_id else None
    return list(row.equipment) if row else []


@blueprint.post("/")
@allow(COACH)
def save() -> ResponseReturnValue:
    form = RoomForm(request.form, has=request.form.getlist("equipment"))
    facts = form.read()
    if facts is None:
        return _page(form, _room(), 422)
    with database().writing() as session:
        change = save_room(session, actor(), facts)
    flash(f"Room kept. Plans keep their numbers until you plan them anew.|{change.id}", "undo")
    return redirect(url_for("room.index"))
