"""The floor without a line: what a device takes along, what it hands in later, whether anything has changed since.

Also what makes the application one that can be put on a home screen: its manifest and its service worker.
"""

import json
from dataclasses import replace
from json import dumps
from typing import Any, Literal

from flask import Response, current_app, jsonify, make_response, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user
from flask_wtf.csrf import generate_csrf
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from werkzeug.datastructures import MultiDict

from backsquat.core.errors import BackSquatError, ImpossibleInput, NotAllowed, Refused
from backsquat.core.loads.mass import Unit
from backsquat.core.words import clean_plain
from backsquat.pages.floor.acts import ramp_facts
from backsquat.pages.floor.forms import SetForm
from backsquat.pages.floor.pack import FORMAT, pack, place
from backsquat.pages.floor.pain import read_said
from backsquat.pages.floor.routes import blueprint
from backsquat.pages.pulse import felt, shown_ids
from backsquat.pages.request import (
    acting,
    allow,
    allow_anyone,
    clock,
    database,
    forget_reader,
    membership,
    quiet,
    reader,
    squad_library,
)
from backsquat.storage.database import Busy
from backsquat.ui.phrases.flags import FLAGS
from backsquat.ui.phrases.problems import problem_words, refusal_words
from backsquat.work.plan.cells import movement_of
from backsquat.work.policy import Act
from backsquat.work.record.stops import PainFacts
from backsquat.work.record.waiting import Waited, WaitedKind, lifted_at, receive_act, receive_pain, receive_set
from backsquat.work.sessions.blocks import cell_of

AT_ONCE = 20  # a device hands in so many, then the next


class Thing(BaseModel):
    """One thing a device kept."""

    model_config = ConfigDict(extra="ignore")
    client_id: str = Field(min_length=8, max_length=64, pattern=r"^[\w-]+$")
    what: WaitedKind
    cell: int = Field(ge=1, lt=2**53)
    athlete: int = Field(ge=1, lt=2**53)
    tapped_ms: int = Field(ge=0, lt=2**53)
    mine: list[str] = Field(default_factory=list, max_length=200)  # sets of the cell this device has sent itself
    fields: dict[str, list[str]] = Field(default_factory=dict, max_length=60)


class Parcel(BaseModel):
    """What a device hands in: things in the order they were done."""

    model_config = ConfigDict(extra="ignore")
    format: Literal[1, 2]
    place: str = Field(max_length=64)
    device_ms: int = Field(ge=0, lt=2**53)
    things: list[Any] = Field(max_length=AT_ONCE)  # each checked by itself: a wrong one holds none up


@blueprint.get("/pack")
@allow(Act.LOG_OWN)
def take_along() -> ResponseReturnValue:
    """The sessions about to come, to be kept on the device."""
    return jsonify(pack())


@blueprint.get("/pulse")
@allow(Act.HEAR)
@quiet
def feel() -> ResponseReturnValue:
    """Whether anything has changed for these athletes (or for all that may be seen), and a good token for forms."""
    mine = shown_ids()
    wanted = {int(one) for one in request.args.get("athletes", "").split(",") if one.isdecimal() and len(one) < 16}
    shown = [one for one in mine if one in wanted] if wanted else mine
    asked = request.args.get("athletes", "") if shown else ""
    about = {"person": current_user.id, "place": place(), "format": FORMAT, "asked": asked, "token": generate_csrf()}
    return jsonify(**felt(shown), **about)


@blueprint.post("/waiting")
@allow(Act.LOG_OWN)
def hand_in() -> ResponseReturnValue:
    """What waited for the line: every thing in a transaction of its own, in order, each answered by its client id."""
    try:
        parcel = Parcel.model_validate(json.loads(request.get_data()))
    except (ValueError, RecursionError):  # ValidationError is one of the first
        return jsonify(problem="This did not arrive as it should. It stays on the device: save it to a file."), 400
    if parcel.place != place():
        return jsonify(problem="What waits was logged for other data than these. It stays on the device."), 409
    answers: dict[str, dict[str, Any]] = {}
    for sent in parcel.things:
        try:
            json.dumps(sent, ensure_ascii=False).encode()
            thing = Thing.model_validate(clean_plain(sent))
        except (ValidationError, ValueError):  # half a letter is no letter: it can be neither kept nor shown
            name = sent.get("client_id", "") if isinstance(sent, dict) else ""
            answers[str(name)[:64]] = {"taken": False, "words": "This cannot be read."}
            continue
        try:
            answers[thing.client_id] = _received(thing, parcel.device_ms)
        except Busy:  # the rest comes again: order is kept
            return jsonify(answers=answers), 503
        except Exception:  # a fault of ours with one of them: it stays on the device, the others go on
            if current_app.testing:
                raise
            current_app.logger.exception("a thing that waited could not be kept")
            answers[thing.client_id] = {"taken": False, "words": "Something went wrong on our side; it stays here."}
        forget_reader()
    return jsonify(answers=answers)


def _received(thing: Thing, device_ms: int) -> dict[str, Any]:
    """Keep one thing. Taken: with its marks. Not taken: with what is wrong; it stays on the device to be fixed."""
    try:
        flags = _kept(thing, device_ms)
    except ImpossibleInput as error:
        return {"taken": False, "words": " ".join(problem_words(problem) for problem in error.problems)}
    except Refused as error:
        return {"taken": False, "words": ". ".join(refusal_words(error))}
    except NotAllowed:  # of somebody else: it waits on the device for whoever may send it
        return {
            "taken": False,
            "waits": True,
            "words": "Logged for somebody else: it waits until they, or a coach, sign in.",
        }
    except BackSquatError:
        return {"taken": False, "words": "This is not there any more."}
    return {"taken": True, "words": ", ".join(FLAGS[flag] for flag in flags)}


def _kept(thing: Thing, device_ms: int) -> list[str]:
    one = Waited(thing.client_id, thing.what, thing.cell, thing.athlete, _facts(thing))
    if thing.what is WaitedKind.PAIN:
        character, level = read_said(_first(thing, "said"))
        when = lifted_at(clock().now(), device_ms, thing.tapped_ms)
        said = PainFacts(thing.client_id, _first(thing, "pain_region"), character, level, when)
        with database().writing() as db:
            receive_pain(acting(db), one, said)
        return []
    if thing.what is not WaitedKind.SET:
        with database().writing() as db:
            receive_act(acting(db), one)
        return []
    cell, exercise, _block = cell_of(reader(), membership().squad_id, thing.cell)
    sent = MultiDict((name, text[:400]) for name, texts in thing.fields.items() for text in texts[:10])
    sent["client_id"] = thing.client_id
    form = SetForm.of_device(clock().today(), sent).offer(movement_of(squad_library(), exercise, cell))
    if not form.validate():
        raise ImpossibleInput(*form.unreadable())
    when = lifted_at(clock().now(), device_ms, thing.tapped_ms)
    facts = replace(form.device_facts(Unit(cell.load_unit), when, thing.tapped_ms), own_ids=frozenset(thing.mine))
    with database().writing() as db:
        return list(receive_set(acting(db), one, facts).entry.flags)


def _first(thing: Thing, name: str) -> str:
    return next(iter(thing.fields.get(name, ())), "")[:80]


def _facts(thing: Thing) -> dict[str, Any]:
    first = {name: texts[0] for name, texts in thing.fields.items() if texts}
    return {"reason": first.get("reason", ""), "ramp": ramp_facts(first)}


@blueprint.get("/pocket")
@allow_anyone
def pocket() -> ResponseReturnValue:
    """The page a device shows when it has no line: nobody's data are in it, the device puts in what it took along."""
    return render_template("floor/pocket.html")


@blueprint.get("/no-line")
@allow_anyone
def no_line() -> ResponseReturnValue:
    """What a device shows of any other page without a line: only the floor is kept on it."""
    return render_template(
        "ui/bare.html",
        title="No line",
        advice="This page needs one. The floor is kept on this device and goes on without.",
        way=("/floor/", "To the floor"),
    )


@blueprint.get("/worker.js")
@allow_anyone
def worker() -> Response:
    """The service worker. A changed file makes it another one, which takes over without touching what is open."""
    files = [url_for("static", filename=name) for name in current_app.extensions["shell"]]
    script = render_template(
        "floor/worker.js", files=dumps(files), shell=url_for("floor.pocket"), elsewhere=url_for("floor.no_line")
    )
    answer = make_response(script)
    answer.mimetype = "text/javascript"
    answer.headers["Service-Worker-Allowed"] = "/"
    return answer


@blueprint.get("/manifest.webmanifest")
@allow_anyone
def manifest() -> Response:
    """What a phone needs to put the floor on its home screen."""
    icons = [_icon(192, "any"), _icon(512, "any"), _icon(512, "maskable")]
    answer = jsonify(
        id="/floor/",
        name="Back Squat",
        short_name="Back Squat",
        description="The floor: what is on the bar, and what was done, also without a line.",
        start_url=url_for("floor.index", week=None),
        scope="/",
        display="standalone",
        background_color="#14191c",
        theme_color="#14191c",
        icons=icons,
    )
    answer.mimetype = "application/manifest+json"
    return answer


def _icon(size: int, purpose: str) -> dict[str, str]:
    source = url_for("static", filename=f"icon-{size}.png")
    return {"src": source, "sizes": f"{size}x{size}", "type": "image/png", "purpose": purpose}
