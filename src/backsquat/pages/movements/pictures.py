"""Pictures of a movement, and frames of clips: added by the coach, seen on its page and on cards."""

from flask import Response, redirect, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.formats.pictures import BYTES_MOST, picture_of
from backsquat.pages.movements.routes import blueprint
from backsquat.pages.request import acting, allow, context, database, reader, said_with_undo, takes
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.library.pictures import FRAMES_MOST, FramePixels, add_picture, drop_picture, frame_pixels
from backsquat.work.policy import Act

SIDE_PX = 480  # a frame of a card is a few centimetres


@blueprint.get("/pictures/<int:frame_id>")
@allow(Act.SEE)
def frame(frame_id: int) -> ResponseReturnValue:
    """One frame."""
    found = frame_pixels(reader(), context().squad.id, [frame_id])
    if frame_id not in found:
        raise NotThere("picture")
    return Response(found[frame_id], mimetype="image/jpeg")


@blueprint.post("/<code>/pictures")
@allow(Act.PLAN)
@takes(BYTES_MOST + 100_000)
def add(code: str) -> ResponseReturnValue:
    """One picture, or frames of a clip; each is made again from its pixels."""
    files = [one for one in request.files.getlist("picture") if one.filename]
    try:
        if not files:
            raise ImpossibleInput(Problem("picture", "picture_missing"))
        if request.form.get("agreed") != "yes":
            raise Refused("not_agreed")
        made = [picture_of(one.read(BYTES_MOST + 1), SIDE_PX) for one in files[: FRAMES_MOST + 1]]
        frames = [FramePixels(one.content, one.width, one.height) for one in made]
        with database().writing() as db:
            change = add_picture(acting(db), code, frames, request.form.get("words", ""))
        said_with_undo("Picture kept: it stands here and on cards.", change)
    except ImpossibleInput as error:
        said_with_undo(problem_words(error.problems[0]), None)
    return redirect(url_for("movements.show", code=code))


@blueprint.post("/pictures/<int:picture_id>/drop")
@allow(Act.PLAN)
def drop(picture_id: int) -> ResponseReturnValue:
    """Take it away."""
    with database().writing() as db:
        change = drop_picture(acting(db), picture_id)
    said_with_undo("Picture taken away.", change)
    return redirect(url_for("movements.show", code=request.form.get("code", "")))
