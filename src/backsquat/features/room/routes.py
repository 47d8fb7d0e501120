"""The room: what stands in it and which loads follow."""

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import Refused
from backsquat.core.loads.achievable import bar_loads
from backsquat.core.loads.room import Room
from backsquat.features.blocks.planning import room_of
from backsquat.features.desk import COACH, actor, allow, database, desk, reader
from backsquat.features.room.forms import RoomForm, form_of
from backsquat.features.room.operations import save_room

blueprint = Blueprint("room", __name__, url_prefix="/room", template_folder="templates")


def _room() -> Room | None:
    try:
        return room_of(reader(), desk().squad.id)
    except Refused:
        return None


def _page(form: RoomForm, room: Room | None, status: int = 200) -> ResponseReturnValue:
    answers = []
    if room and not form.errors:
        for bar in room.bars:
            loads = bar_loads(room, bar)
            answers.append((bar, loads))
    return render_template("room/room.html", form=form, room=room, answers=answers, desk=desk()), status


@blueprint.get("/")
@allow(COACH)
def index() -> ResponseReturnValue:
    room = _room()
    return _page(form_of(room), room)


@blueprint.post("/")
@allow(COACH)
def save() -> ResponseReturnValue:
    form = RoomForm(request.form)
    facts = form.read()
    if facts is None:
        return _page(form, _room(), 422)
    with database().writing() as session:
        change = save_room(session, actor(), facts)
    flash(f"Room kept. Plans keep their numbers until you plan them anew.|{change.id}", "undo")
    return redirect(url_for("room.index"))
