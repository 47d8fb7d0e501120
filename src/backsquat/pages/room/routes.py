"""The rooms: what stands in them, which loads follow, and who trains where."""

from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.achievable import loads_on
from backsquat.library.shelf import equipment
from backsquat.library.usual_rooms import usual_rooms
from backsquat.pages.request import acting, allow, context, database, inside, number, reader, said_with_undo
from backsquat.pages.room.forms import AssignmentForm, RoomForm, form_like, form_of
from backsquat.pages.seen import changed_since, seen_of
from backsquat.storage.convert import room_from_row
from backsquat.storage.models import RoomRow
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.ui.phrases.problems import PROBLEMS, problem_words
from backsquat.work.plan.room_assignments import assign_room, end_assignment, take_away
from backsquat.work.policy import Act
from backsquat.work.rooms.describe import check_station, save_room
from backsquat.work.rooms.rooms import room_row, rooms_of, station_checks, station_names
from backsquat.work.squad.athletes import squad_athletes

MACHINES = ("lying_curl", "seated_curl", "standing_curl", "knee_extension", "leg_press", "hack", "belt_squat", "cable")
FURTHER = "further"  # instead of a room's number: one more room

blueprint = Blueprint("room", __name__, url_prefix="/room", template_folder="templates")


def _row() -> RoomRow | None:
    """The room the page is about: the one asked for, the squad's own, or none yet."""
    if request.values.get("room") == FURTHER:
        return None
    return room_row(reader(), context().squad.id, request.values.get("room", type=number))


def _page(
    form: RoomForm | None = None, status: int = 200, problem: str = "", assignment_form: AssignmentForm | None = None
) -> ResponseReturnValue:
    here, row = context(), _row()
    rooms = rooms_of(reader(), here.squad.id)
    room = room_from_row(row) if row else None
    like = usual_rooms().get(request.args.get("like", "")) if row is None else None
    form = form or (form_like(like) if like else form_of(room, list(row.equipment) if row else []))
    answers = [(bar, loads_on(room, bar)) for bar in room.bars] if room and not form.errors else []
    checks = station_checks(reader(), [row.id]) if row else {}
    athletes = squad_athletes(reader(), here.squad.id)
    kept = [r for r in rooms.rows.values() if not r.removed]
    page = render_template(
        "room/room.html",
        form=form,
        seen=seen_of(_known(row)),
        room=room,
        row=row,
        answers=answers,
        context=here,
        equipment=equipment(),
        machines=MACHINES,
        stations=station_names(row),
        problem=problem,
        further=FURTHER,
        usual={} if row else usual_rooms(),
        like=request.args.get("like", ""),
        checks={station: check for (_, station), check in checks.items()},
        rooms=kept,
        own_id=rooms.own_id,
        weekdays=WEEKDAYS,
        athletes=athletes,
        names={a.id: a.name for a in athletes},
        assignments=[s for s in rooms.assignments if s.last_on is None or s.last_on >= here.today],
        assignment_form=assignment_form
        or AssignmentForm({"room": str(row.id) if row else "", "first_on": here.today.isoformat()}),
    )
    return page, status


def _known(row: RoomRow | None) -> dict[str, Any]:
    return {"room": (room_from_row(row), sorted(row.equipment))} if row else {}


@blueprint.get("/")
@allow(Act.CHECK_STATION)
def index() -> ResponseReturnValue:
    return _page()


@blueprint.post("/stations")
@allow(Act.CHECK_STATION)
def station() -> ResponseReturnValue:
    """Mark a station ready or unsafe."""
    back = request.form.get("back", "")
    try:
        with database().writing() as db:
            row = check_station(
                acting(db),
                request.form.get("station", ""),
                request.form.get("ready") == "1",
                request.form.get("found", ""),
                request.form.get("room", type=number),
            )
    except ImpossibleInput as error:
        return _page(status=422, problem=problem_words(error.problems[0]))
    flash(f"{row.station} is ready." if row.ready else f"{row.station} is marked unsafe: {row.found}.")
    return redirect(inside(back, "/floor/") or url_for("room.index", room=row.room_id))


@blueprint.post("/")
@allow(Act.DESCRIBE_ROOM)
def save() -> ResponseReturnValue:
    form = RoomForm(request.form, has=request.form.getlist("equipment"))
    facts = form.read()
    if facts is None:
        return _page(form, 422)
    if changed_since(_known(_row())):
        return _page(form, 422, PROBLEMS["meanwhile"])
    further = request.form.get("room") == FURTHER
    with database().writing() as db:
        change = save_room(acting(db), facts, request.form.get("room", type=number), further=further)
    said_with_undo("Room saved. Plans keep their numbers until you plan them again.", change.id)
    return redirect(url_for("room.index", room=change.subject_id))


@blueprint.post("/<int:room_id>/away")
@allow(Act.DESCRIBE_ROOM)
def away(room_id: int) -> ResponseReturnValue:
    with database().writing() as db:
        change = take_away(acting(db), room_id)
    said_with_undo("Room taken off the list; what was lifted there stays.", change.id)
    return redirect(url_for("room.index"))


@blueprint.post("/assignments")
@allow(Act.DESCRIBE_ROOM)
def assign() -> ResponseReturnValue:
    """Somebody, or everybody, trains in a room for a while."""
    form = AssignmentForm(request.form)
    facts = form.read()
    if facts is None:
        return _page(status=422, assignment_form=form)
    try:
        with database().writing() as db:
            change, count = assign_room(acting(db), facts)
            change_id = change.id
    except ImpossibleInput as error:
        form.errors = {problem.field: problem_words(problem) for problem in error.problems}
        return _page(status=422, assignment_form=form)
    said_with_undo(f"{_follows(count)}", change_id)
    return redirect(url_for("room.index", room=facts.room_id))


@blueprint.post("/assignments/<int:assignment_id>/end")
@allow(Act.DESCRIBE_ROOM)
def end(assignment_id: int) -> ResponseReturnValue:
    with database().writing() as db:
        change, count = end_assignment(acting(db), assignment_id)
        change_id = change.id
    said_with_undo(f"Ended. {_follows(count)}", change_id)
    return redirect(url_for("room.index"))


def _follows(count: int) -> str:
    if not count:
        return "Kept. Nothing that is planned changes."
    cells = "1 number follows" if count == 1 else f"{count} numbers follow"
    return f"Kept. {cells} as a draft with the loads of that room: look the block over, then publish."
