"""The words of a health record, looked for at every address there is, asked and sent to, by everybody who may not read
them: pages, pieces, packs, files, papers, answers to what was typed wrong. From the address map, not from a list.
"""

import io
import re
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select
from werkzeug.test import TestResponse

import backsquat.pages.papers as papers
from backsquat.storage.models import Base, SetEntry, Stop
from tests.demo_club import athlete_id, live_cell, reading, user_id
from tests.draws import some
from tests.pages.test_every_page import PAGES
from tests.pages.test_own_phone import on_phone
from tests.sweep import BODY, IDS, addresses, filled_up, ids_of_demo

MARIT, OTHER = "Marit Holm", "Beatriz Solheim"
NOTE = "numb since zanzibar"  # a word that stands nowhere else
WORDS = ("zanzibar", "electric", "5 of 10", r"[^a-z]neck")
OFFERED = (  # what stands on a page whoever looks, and whatever was said
    r"<(?:option|input)(?![^>]*\b(?:selected|checked)\b)[^>]*>(?:<span>)?[^<]*",  # choices nobody took
    r'<button name="said"[^>]*>[^<]*',  # how it feels, to be tapped
    r"[Ss]harp, electric(?:,| or) numb",  # the cautions
    r"link-limb is-\w+",  # a line of a drawing
)
OUT = {"accounts.sign_out", "accounts.demo_sign_in", "accounts.everywhere"}  # after them nobody is asking any more


def known_addresses(app: Flask) -> list[str]:
    marit, cell = athlete_id(app, MARIT), live_cell(app, MARIT, 2)
    own = [f"/athletes/{marit}", f"/athletes/{marit}/edit", f"/ladders/{marit}", f"/screen/athlete/{marit}"]
    own += [f"/floor/?athlete={marit}", f"/floor/?athlete={marit}&lift={cell.exercise_id}", f"/health-list/{marit}"]
    own += [f"/block/3?lift={cell.exercise_id}&cell={cell.id}", f"/block/3/athletes/{marit}", f"/athletes/{marit}/test"]
    own += ["/floor/pack", "/floor/paper/card", "/floor/paper/wall", "/export/log.csv", "/export/sheet.csv?block=3"]
    own += [f"/floor/paper/card?athlete={marit}", f"/movements/choose?athlete={marit}", f"/session/?athlete={marit}"]
    with reading(app) as db:
        sets = db.scalars(select(SetEntry).where(SetEntry.athlete_id == marit).order_by(SetEntry.id.desc())).first()
        stop = db.scalars(select(Stop.id).order_by(Stop.id.desc())).first()
    if sets is not None:
        where = f"athlete={marit}&lift={cell.exercise_id}"
        own += [f"/floor/?{where}&correct={sets.id}", f"/athletes/{marit}/test?correct={sets.id}"]
        own += [f"/floor/?{where}&just={sets.id}", f"/athletes/{marit}/test/{sets.id}"]
    return [*PAGES, *own, f"/floor/stopped/{stop}", f"/health-list/stops/{stop}/clear"]


def assistant(app: Flask) -> FlaskClient:
    client = app.test_client()
    client.post(f"/demo-sign-in/{user_id(app, 'lund')}")
    return client


def without_a_second_factor(app: Flask) -> FlaskClient:
    """The head coach, who has signed in with a password alone."""
    client = app.test_client()
    client.post("/demo-sign-in/1")
    return client


def written_down(app: Flask, floor: FlaskClient, coach: FlaskClient) -> None:
    """A set that stops, and a note."""
    cell = live_cell(app, MARIT, 2)
    pain = {"pain": "5", "pain_region": "neck", "pain_character": "electric", "painful": "1"}
    data = {"load": str(cell.load_amount), "reps": str(cell.reps), "client_id": "w", **pain}
    assert floor.post(f"/floor/cells/{cell.id}/sets", data=data).status_code in (200, 204, 302)
    note = {"words": NOTE, "region": "neck"}
    assert coach.post(f"/health-list/{athlete_id(app, MARIT)}/notes", data=note).status_code == 302


def ids_about(app: Flask, who: str) -> dict[str, list[Any]]:
    """For every argument of an address the newest row that is this athlete's; any row where none is anybody's."""
    found, athlete = ids_of_demo(app, 1), athlete_id(app, who)
    tables = {table.name: table for table in Base.metadata.sorted_tables}
    with reading(app) as db:
        for argument, of in IDS.items():
            table = tables.get(of)
            if table is not None and "athlete_id" in table.c:
                mine = select(table.c.id).where(table.c.athlete_id == athlete).order_by(table.c.id.desc())
                found[argument] = list(db.scalars(mine.limit(1))) or found[argument]
        cell = live_cell(app, who, 2)
        found |= {"athlete_id": [athlete], "cell_id": [cell.id], "exercise_id": [cell.exercise_id], "block_id": [3]}
    return found


def text_of(answer: TestResponse) -> str:
    """All that can be read in an answer: a page without what it offers everybody, a zip or workbook unpacked."""
    if answer.data[:2] == b"PK":
        with zipfile.ZipFile(io.BytesIO(answer.data)) as file:
            return " ".join(file.read(name).decode("utf-8", "replace") for name in file.namelist())
    text = " ".join(answer.data.decode("utf-8", "replace").split())
    return re.sub("|".join(OFFERED), "", text)


def asked_everywhere(app: Flask, client: FlaskClient, *, send: bool) -> Iterator[tuple[str, str]]:
    """(what was asked, all that came back), for every address by both methods."""
    ids = ids_about(app, MARIT)
    for path in some(known_addresses(app), 2):
        yield f"GET {path}", text_of(client.get(path))
    for rule, path, body in addresses(app, ids):
        if rule.endpoint in OUT:
            continue
        if "GET" in (rule.methods or ()):
            yield f"GET {path}", text_of(client.get(f"{path}?athlete={ids['athlete_id'][0]}"))
        if send and "POST" in (rule.methods or ()):
            for sent in (body, {"athlete": body["athlete"]}):  # as a form sends it, and with nothing filled in
                yield f"POST {path}", text_of(client.post(path, data=sent))
    for rule in app.url_map.iter_rules():
        if rule.arguments or rule.endpoint in OUT | {"static"}:
            continue
        if "GET" in (rule.methods or ()):
            yield f"GET {rule.rule}", text_of(client.get(rule.rule))
        if send and "POST" in (rule.methods or ()):
            yield f"POST {rule.rule}", text_of(client.post(rule.rule, data=BODY | {"ids": "1"}))


def found_in(text: str) -> dict[str, int]:
    return {word: count for word in WORDS if (count := len(re.findall(word, text)))}


def another_athlete(app: Flask) -> FlaskClient:
    coach = app.test_client()
    coach.post("/demo-sign-in/1")
    return on_phone(app, coach, OTHER)


def nobody(app: Flask) -> FlaskClient:
    return app.test_client()


ROLES: tuple[tuple[Callable[[Flask], FlaskClient], bool], ...] = (
    (assistant, False),
    (without_a_second_factor, True),
    (another_athlete, False),
    (nobody, False),
)


@pytest.mark.parametrize(("role", "strict"), ROLES)
def test_no_address_says_a_word_of_a_health_record_to_who_may_not_read_it(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch, role: Callable[[Flask], FlaskClient], strict: bool
) -> None:
    monkeypatch.setattr(papers, "as_pdf", lambda page, *_rest: page.encode())  # what is laid out, before it is drawn
    filled_up(app)
    asked, other = app.extensions["settings"], role(app)

    def heard(*, send: bool) -> dict[str, dict[str, int]]:
        app.extensions["settings"] = replace(asked, second_factor=strict)
        try:
            return {path: found_in(text) for path, text in asked_everywhere(app, other, send=send)}
        finally:
            app.extensions["settings"] = asked

    before = heard(send=False)  # what stands there of other things
    written_down(app, assistant(app) if strict else client, client)  # who said it may read it
    after = heard(send=False)
    more = {
        path: {word: count for word, count in found.items() if count > before.get(plain(path), {}).get(word, 0)}
        for path, found in after.items()
    }
    assert not {path: found for path, found in more.items() if found}
    sent = {path: found for path, found in heard(send=True).items() if path.startswith("POST")}
    assert not {path: found for path, found in sent.items() if found}
    assert len(after) > 90 and len(sent) > 100, "the whole map was asked"


def plain(path: str) -> str:
    """The address without the newest rows in it, for what stood there before they were."""
    return re.sub(r"[?&](correct|just)=\d+", "", path)


def test_who_treats_finds_every_word_of_it(app: Flask, client: FlaskClient) -> None:
    """The search finds what is there: each word that was looked for stands somewhere for a coach who may read it."""
    filled_up(app)
    written_down(app, client, client)
    told = " ".join(text for _, text in asked_everywhere(app, client, send=False))
    assert all(re.search(word, told) for word in WORDS)


def test_no_athlete_is_named_to_another(app: Flask) -> None:
    filled_up(app)
    phone = another_athlete(app)
    named = [path for path, text in asked_everywhere(app, phone, send=True) if MARIT in text]
    assert not named


def test_a_coach_without_a_second_factor_writes_an_injury_down_and_cannot_read_why(app: Flask) -> None:
    """Recording is never harder than reading: nobody stays under a bar because a code was not at hand."""
    asked = app.extensions["settings"]
    coach = without_a_second_factor(app)
    app.extensions["settings"] = replace(asked, second_factor=True)
    try:
        marit = athlete_id(app, MARIT)
        assert "Record an absence" in coach.get(f"/health-list/{marit}").text
        said = coach.post(f"/health-list/{marit}/away", data={"first_on": "2026-11-20", "why": "injury"})
        assert said.status_code == 302
        page = coach.get(f"/health-list/{marit}").text
        assert "Away since 20 Nov" in page and "injury" not in page.split("Time away")[1].split("</section>")[0]
        assert "/account" in (coach.post(f"/health-list/{marit}/limits", data={}).location or ""), "needs the factor"
    finally:
        app.extensions["settings"] = asked
