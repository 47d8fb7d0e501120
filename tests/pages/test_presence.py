"""Here, late, absent: said on the floor by those who run it, and the turns go on without who is not there."""

import re

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Athlete
from tests.demo_club import athlete_id, entries, live_cell, reading
from tests.pages.test_floor_list import MONDAY, shown, squatted, tell
from tests.pages.test_own_phone import on_phone

WEEK = "2"


def say(client: FlaskClient, app: Flask, name: str, what: str) -> int:
    path = f"/floor/sessions/{MONDAY}/athletes/{athlete_id(app, name)}/presence"
    return client.post(path, data={"what": what, "in_week": WEEK, "session": MONDAY}).status_code


def names(app: Flask) -> list[str]:
    with reading(app) as db:
        return list(db.scalars(select(Athlete.name)))


def squat(client: FlaskClient, app: Flask, name: str, n: int) -> None:
    cell = live_cell(app, name, 2)
    tell(client, cell, n, load=str(cell.load_amount), reps=str(cell.reps))


def strip(page: str) -> dict[str, str]:
    """By first name, what the strip of the rack says of them."""
    found = re.findall(r'<a class="lifter.*?<b>(.*?)</b> <small>(.*?)</small>', page)
    return {name: " ".join(re.sub("<[^>]+>", " ", words).split()) for name, words in found}


def up(page: str) -> str:
    return re.findall(r'<a class="lifter is-up.*?<b>(.*?)</b>', page)[0]


def test_who_is_absent_leaves_the_turns_and_comes_back_by_one_tap(app: Flask, assistant: FlaskClient) -> None:
    first = up(shown(assistant, rack=3))
    name = next(n for n in names(app) if n.startswith(first))
    assert say(assistant, app, name, "absent") == 302
    page = shown(assistant, rack=3)
    assert strip(page)[first] == "absent" and up(page) != first
    turned = shown(assistant, rack=3, athlete=athlete_id(app, name))
    assert f"{name} is absent." in turned and ">Here</button>" in turned
    assert say(assistant, app, name, "here") == 302
    assert up(shown(assistant, rack=3)) == first


def test_who_comes_late_joins_where_the_group_is(app: Flask, assistant: FlaskClient) -> None:
    there = list(strip(shown(assistant, rack=3)))
    late = next(n for n in names(app) if n.startswith(there[-1]))
    say(assistant, app, late, "late")
    for name in [n for n in names(app) if n.split(" ")[0] in there and n != late]:
        squat(assistant, app, name, 0)
        squat(assistant, app, name, 1)
    say(assistant, app, late, "here")
    assert up(shown(assistant, rack=3)) != there[-1], "in the order of the group"
    squat(assistant, app, late, 0)
    assert up(shown(assistant, rack=3)) != there[-1], "not set after set until caught up"


def test_a_set_logged_says_more_than_what_was_said(app: Flask, assistant: FlaskClient) -> None:
    say(assistant, app, "Ines Okafor", "absent")
    squatted(assistant, app, "Ines Okafor")
    assert strip(shown(assistant, rack=3))["Ines"] != "absent"
    assert len(entries(app, live_cell(app, "Ines Okafor", 2).id)) == live_cell(app, "Ines Okafor", 2).sets


def test_what_was_said_stands_and_is_asked_about_the_day_after(
    app: Flask, client: FlaskClient, assistant: FlaskClient, monkeypatch
) -> None:  # type: ignore[no-untyped-def]
    say(assistant, app, "Ines Okafor", "absent")
    say(assistant, app, "Ines Okafor", "absent")
    monkeypatch.setattr(app.extensions["clock"], "fixed_day", app.extensions["clock"].fixed_day.replace(day=25))
    page = " ".join(client.get("/review/").text.split())
    assert "Said absent on the floor: Ines Okafor." in page or "Said absent on the floor." in page


def test_who_may_say_it(app: Flask, client: FlaskClient, physio: FlaskClient, assistant: FlaskClient) -> None:
    assert say(on_phone(app, client, "Ines Okafor"), app, "Ines Okafor", "absent") == 403
    assert say(physio, app, "Ines Okafor", "absent") == 403
    assert say(assistant, app, "Ines Okafor", "gone") == 404
    pack = assistant.get("/floor/pack").get_json()
    assert not any(mine["awaited"] for held in pack["sessions"] for mine in held["athletes"].values())
    say(assistant, app, "Ines Okafor", "late")
    pack = assistant.get("/floor/pack").get_json()
    held = next(one for one in pack["sessions"] if one["id"] == str(MONDAY))
    assert held["athletes"][str(athlete_id(app, "Ines Okafor"))]["awaited"] == "late"


def test_a_rack_of_nobody_but_absent_offers_nobody_and_names_them(app: Flask, assistant: FlaskClient) -> None:
    there = list(strip(shown(assistant, rack=3)))
    for name in [n for n in names(app) if n.split(" ")[0] in there]:
        say(assistant, app, name, "absent")
    page = shown(assistant, rack=3)
    assert "Nobody else is left on this rack." in page and 'class="tap"' not in page
    assert "lifter is-up" not in shown(assistant, rack=3)
    assert 'data-rack="3"' not in shown(assistant), "the floor opens where somebody lifts"
