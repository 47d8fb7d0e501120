"""What is written about somebody's health shows nowhere to who may not read it: every page read before and after."""

import re
from collections.abc import Callable, Sequence
from dataclasses import replace

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import SetEntry, Stop
from tests.demo_club import athlete_id, live_cell, reading, user_id
from tests.pages.test_every_page import PAGES

WHO, WORDS = "Marit Holm", ("neck", "electric", "5 of 10", "zanzibar")  # place, character, number, a note's own word


FEW = ("/", "/review/", "/block/", "/floor/", "/season/", "/screen/", "/milestones/")


def addresses(app: Flask, pages: Sequence[str] = PAGES) -> list[str]:
    marit, cell = athlete_id(app, WHO), live_cell(app, WHO, 2)
    own = [f"/athletes/{marit}", f"/athletes/{marit}/edit", f"/ladders/{marit}", f"/screen/athlete/{marit}"]
    own += [f"/floor/?athlete={marit}", f"/floor/?athlete={marit}&lift={cell.slot_id}", f"/health-list/{marit}"]
    own += [f"/block/3?lift={cell.slot_id}&cell={cell.id}", f"/block/3/athletes/{marit}", f"/athletes/{marit}/test"]
    own += ["/floor/pack", "/floor/paper/card", "/floor/paper/wall", "/hand-out/log.csv", "/hand-out/sheet.csv?block=3"]
    own += [f"/floor/paper/card?athlete={marit}", f"/movements/choose?athlete={marit}", f"/session/?athlete={marit}"]
    with reading(app) as session:
        sets = session.scalars(
            select(SetEntry).where(SetEntry.athlete_id == marit).order_by(SetEntry.id.desc())
        ).first()
        stop = session.scalars(select(Stop.id).order_by(Stop.id.desc())).first()
    if sets is not None:
        where = f"athlete={marit}&lift={cell.slot_id}"
        own += [f"/floor/?{where}&correct={sets.id}", f"/athletes/{marit}/test?correct={sets.id}"]
        own += [f"/floor/?{where}&just={sets.id}", f"/athletes/{marit}/test/{sets.id}"]
    return [*pages, *own, f"/floor/stopped/{stop}", f"/health-list/stops/{stop}/clear"]


def read(client: FlaskClient, paths: list[str]) -> dict[str, dict[str, int]]:
    """Page → how often each word stands on it."""
    return {path: {word: len(re.findall(word, client.get(path).text)) for word in WORDS} for path in paths}


def plain(path: str) -> str:
    """The page without the set that is named in its address: what stood there before there was one."""
    return re.sub(r"[?&](correct|just)=\d+", "", path)


def write_down(app: Flask, client: FlaskClient, floor: FlaskClient) -> None:
    """A set that stops, with electric pain in the neck, logged on the floor; a note of the one who treats."""
    cell = live_cell(app, WHO, 2)
    pain = {"pain": "5", "pain_region": "neck", "pain_character": "electric", "painful": "1"}
    data = {"load": str(cell.load_amount), "reps": str(cell.reps), "client_id": "w", **pain}
    assert floor.post(f"/floor/cells/{cell.id}/sets", data=data).status_code in (200, 204, 302)
    note = {"words": "numb since zanzibar", "region": "neck"}
    assert client.post(f"/health-list/{athlete_id(app, WHO)}/notes", data=note).status_code in (200, 302)


def assistant(app: Flask) -> FlaskClient:
    client = app.test_client()
    client.post(f"/demo-sign-in/{user_id(app, 'lund')}")
    return client


def without_a_second_factor(app: Flask) -> FlaskClient:
    """The head coach, who has signed in with a password alone."""
    client = app.test_client()
    client.post("/demo-sign-in/1")
    return client


@pytest.mark.parametrize(("role", "strict"), [(assistant, False), (without_a_second_factor, True)])
def test_no_page_says_more_of_a_health_record_to_who_may_not_read_it(
    app: Flask, client: FlaskClient, role: Callable[[Flask], FlaskClient], strict: bool
) -> None:
    other, asked = role(app), app.extensions["settings"]

    def seen(paths: list[str]) -> dict[str, dict[str, int]]:
        app.extensions["settings"] = replace(asked, second_factor=strict)
        found = read(other, paths)
        app.extensions["settings"] = asked
        return found

    pages = FEW if strict else PAGES  # a head coach without the factor gets none of the pages about health
    before = seen(addresses(app, pages))
    write_down(app, client, client if role is assistant else assistant(app))  # who said it may read it
    paths = addresses(app, pages)
    after = seen(paths)
    more = {
        path: {word: count for word, count in found.items() if count > before.get(plain(path), {}).get(word, 0)}
        for path, found in after.items()
    }
    assert not {path: found for path, found in more.items() if found}
    told = read(client, [f"/athletes/{athlete_id(app, WHO)}", f"/health-list/{athlete_id(app, WHO)}", "/review/"])
    assert all(found["neck"] > after[path]["neck"] for path, found in told.items()), "who treats reads it"
    assert any(found["zanzibar"] for found in told.values())


def test_a_coach_without_a_second_factor_writes_an_injury_down_and_cannot_read_why(app: Flask) -> None:
    """Recording is never harder than reading: nobody stays under a bar because a code was not at hand."""
    asked = app.extensions["settings"]
    coach = without_a_second_factor(app)
    app.extensions["settings"] = replace(asked, second_factor=True)
    try:
        marit = athlete_id(app, WHO)
        assert "Record an absence" in coach.get(f"/health-list/{marit}").text
        said = coach.post(f"/health-list/{marit}/away", data={"first_on": "2026-11-20", "why": "injury"})
        assert said.status_code == 302
        page = coach.get(f"/health-list/{marit}").text
        assert "Away since 20 Nov" in page and "injury" not in page.split("Time away")[1].split("</section>")[0]
        assert "/account" in (coach.post(f"/health-list/{marit}/limits", data={}).location or ""), "needs the factor"
    finally:
        app.extensions["settings"] = asked
