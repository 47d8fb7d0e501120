"""Sending: to athletes their own cards, to staff the wall sheet and the open stops; what waits, what was sent."""

import datetime as dt
import json
from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import Any

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotAllowed, NotThere, Refused
from backsquat.core.roles import Role
from backsquat.pages.floor.paper import chosen, laid_out, on_paper
from backsquat.pages.floor.phrases import sent_words, stop_lines
from backsquat.pages.floor.routes import blueprint
from backsquat.pages.papers import in_one_file
from backsquat.pages.request import (
    acting,
    allow,
    clock,
    context,
    database,
    number,
    reader,
    said_with_undo,
    settings,
    squad_library,
    trusted_with_health,
)
from backsquat.storage.models import Message
from backsquat.ui.phrases.days import daydate_words
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.exports.post import (
    ON_ITS_WAY,
    Addressee,
    MessageKind,
    SaidMessage,
    To,
    keep_addresses,
    messages_of,
    people,
    queue,
    take_back,
)
from backsquat.work.health.lists import physio_list
from backsquat.work.policy import Act, may

BESIDE = "The file opens on any phone or computer and works without a network."


@blueprint.get("/send")
@allow(Act.SEND)
def send() -> ResponseReturnValue:
    """Everybody with their address and what there is to send."""
    return _page()


def _page(problems: Mapping[str, str] | None = None, status: int = 200) -> ResponseReturnValue:
    """`problems`: of addresses, by field; what was typed then stands where it was typed."""
    packed = on_paper()
    everybody = people(acting(reader()))
    page = render_template(
        "floor/send.html",
        context=context(),
        athletes=[one for one in everybody if one.role is Role.ATHLETE],
        staff=[one for one in everybody if one.role is not Role.ATHLETE],
        days={one.to: _days(packed, one.to.athlete_id) for one in everybody if one.to.athlete_id},
        sees_stops={one.to for one in everybody if may(one.role, Act.TREAT)},
        trusted=trusted_with_health(),
        batches=_batches(messages_of(acting(reader()))),
        names={(one.to.athlete_id or None, one.to.user_id or None): one.name for one in everybody},
        post=settings().post,
        problems=problems or {},
        typed=request.form,
        on_its_way=ON_ITS_WAY,
    )
    return page, status


def _batches(messages: Sequence[Message]) -> list[list[Message]]:
    """What was sent in one go, the newest first."""
    return [list(batch) for _, batch in groupby(messages, key=lambda one: (one.at, one.kind, one.subject))]


def _days(packed: dict[str, Any], athlete_id: int) -> str:
    return ", ".join(f"{one['day_words'][:3]} {one['day'][8:]}" for one in chosen(packed, None, athlete_id))


@blueprint.post("/send")
@allow(Act.SEND)
def sending() -> ResponseReturnValue:
    """Keep the addresses that were typed, then let what was asked for wait for its turn."""
    here, what = context(), request.form.get("what", "")
    if what not in {"keep", *MessageKind}:
        raise NotThere("act")
    if what == MessageKind.STOPS and not trusted_with_health():
        raise NotAllowed("role")
    if what != "keep" and settings().post is None:
        raise Refused("no_post")
    everybody = people(acting(reader()))
    ticked = set(request.form.getlist("to"))
    asked = [one for one in everybody if _name(one) in ticked]
    letters = {} if what == "keep" else _letters(MessageKind(what), asked)
    typed = {one.to: request.form[name] for one in everybody if (name := f"address-{_name(one)}") in request.form}
    try:
        with database().writing() as db:
            kept = keep_addresses(acting(db), typed)
            found = None if what == "keep" else queue(acting(db), MessageKind(what), letters, clock().real())
    except ImpossibleInput as error:
        return _page({problem.field: problem_words(problem) for problem in error.problems}, 422)
    nothing = [one.name for one in asked if one.to not in letters] if what != "keep" else []
    said_with_undo(sent_words(what, kept, found, nothing, asked), None)
    return redirect(url_for("floor.send", week=here.week))


def _name(person: Addressee) -> str:
    return f"{person.to.athlete_id}-{person.to.user_id}"


def _letters(kind: MessageKind, asked: list[Addressee]) -> dict[To, SaidMessage]:
    """What each of these gets; who is not in it has nothing to get. Made for one person from that person's list."""
    if kind is MessageKind.STOPS:
        said = _stops()
        return {one.to: said for one in asked if one.to.user_id}
    packed = on_paper()
    if kind is MessageKind.WALL:
        sheet = _said(packed, "wall", None, "Wall sheet")
        return {one.to: sheet for one in asked if sheet and one.to.user_id}
    found = {one.to: _said(packed, "card", one.to.athlete_id, "Your card") for one in asked if one.to.athlete_id}
    return {to: said for to, said in found.items() if said}


def _said(packed: dict[str, Any], kind: str, athlete_id: int | None, subject: str) -> SaidMessage | None:
    sessions = chosen(packed, None, athlete_id)
    if not sessions:
        return None
    days = " and ".join(daydate_words(dt.date.fromisoformat(one["day"])) for one in sessions)
    text = f"{context().squad.name}: {days}.\n{BESIDE}"
    work = [[one["day"], [[mine["name"], mine["rack"], mine["work"]] for mine in one["people"]]] for one in sessions]
    same = json.dumps(work, sort_keys=True, default=str)
    page = in_one_file(laid_out(kind, sessions, packed, as_file=True))
    return SaidMessage(f"{subject}, {days}", text, f"{kind}-{sessions[0]['day']}.html", page, same)


def _stops() -> SaidMessage:
    here = context()
    found = physio_list(reader(), here.squad.id, here.today, here.rules)
    lines = stop_lines(found.stops, squad_library())
    return SaidMessage(f"Open stops, {here.squad.name}", "\n".join(lines) or "Nobody is stopped.")


@blueprint.post("/send/take-back")
@allow(Act.SEND)
def taken_back() -> ResponseReturnValue:
    """What has not gone yet is not sent."""
    ids = [number(one) for one in request.form.getlist("message") if one.isdecimal()]
    with database().writing() as db:
        count = take_back(acting(db), ids)
    said_with_undo(f"{count} taken back." if count else "It had gone already.", None)
    return redirect(url_for("floor.send", week=context().week))
