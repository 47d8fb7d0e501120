"""A rack is an identity: what opens or closes while people lift moves nobody who need not move, and says who did."""

import datetime as dt
import re

from flask import Flask
from flask.testing import FlaskClient

from backsquat.storage.models import StationCheck
from tests.demo_club import entries, live_cell
from tests.pages.test_floor_list import shown, tell

LIFTER = re.compile(r'<a class="lifter.*?<b>(.*?)</b>')


def racks(client: FlaskClient) -> dict[str, list[str]]:
    """By key of the rack, who lifts there."""
    page = shown(client)
    keys = re.findall(r"rack=([\w.]+)\"[^>]*aria-label=\"Rack", page)
    return {key: sorted(LIFTER.findall(shown(client, rack=key))) for key in keys}


def station(client: FlaskClient, number: int, ready: bool) -> None:
    said = {
        "station": f"Rack {number}",
        "ready": str(int(ready)),
        "found": "" if ready else "j-cup gone",
        "back": "/floor/",
    }
    assert client.post("/room/stations", data=said).status_code == 302


def first_set(app: Flask, client: FlaskClient) -> None:
    """Somebody lifts, a minute ago: what happens now happens in the middle of the session."""
    cell = live_cell(app, "Marit Holm", 2)
    tell(client, cell, 1, load=str(cell.load_amount), reps=str(cell.reps))
    assert entries(app, cell.id)
    later = app.extensions["clock"].now() + dt.timedelta(minutes=1)
    with app.extensions["database"].writing() as db:
        for check in db.query(StationCheck).filter(StationCheck.at > later - dt.timedelta(days=1)):
            check.at = later - dt.timedelta(days=1)


def later(app: Flask) -> None:
    """The checks made last were made after the first set, however quick the test is."""
    with app.extensions["database"].writing() as db:
        newest = db.query(StationCheck).order_by(StationCheck.id.desc()).first()
        assert newest
        newest.at = app.extensions["clock"].now() + dt.timedelta(minutes=2)


def test_a_rack_that_breaks_moves_only_who_was_there(app: Flask, client: FlaskClient) -> None:
    first_set(app, client)
    before = racks(client)
    station(client, 2, ready=False)
    later(app)
    after = racks(client)
    assert "2" in before and "2" not in after
    for key, there in after.items():
        assert set(before[key]) <= set(there), "who lifts on an open rack stays"
    page = shown(client)
    told = re.search(r"Rack 2 is unsafe: j-cup gone\. (.*?)Nobody is put there", page)
    assert told and {part.split(" → ")[0] for part in told[1].strip(". ").split(", ")} == set(before["2"])
    for part in told[1].strip(". ").split(", "):
        name, rack = part.split(" → ")
        assert name in after[rack.removeprefix("Rack ")]
    there = shown(client, rack="2")
    assert "Rack 2 is closed, or nobody is on it any more. This is rack" in there
    station(client, 2, ready=True)
    later(app)
    assert racks(client) == before, "put right again, everybody is where they were"


def test_a_rack_that_opens_in_the_middle_takes_nobody_from_another(app: Flask, client: FlaskClient) -> None:
    first_set(app, client)  # rack 4 was unsafe when it began
    before = racks(client)
    assert "4" not in before
    station(client, 4, ready=True)
    later(app)
    assert racks(client) == before
    station(client, 1, ready=False)
    later(app)
    after = racks(client)
    assert after.pop("4") == before.pop("1") and after == before, "a group goes whole to a rack nobody is on"


def test_before_anybody_lifts_the_groups_are_made_by_load(app: Flask, client: FlaskClient) -> None:
    before = racks(client)
    station(client, 4, ready=True)
    after = racks(client)
    assert set(after) == {*before, "4"} and max(map(len, after.values())) - min(map(len, after.values())) <= 1


def test_a_device_stays_at_its_rack_and_an_address_from_elsewhere_says_nothing_of_its_own(
    app: Flask, client: FlaskClient
) -> None:
    three = LIFTER.findall(shown(client, rack="3"))
    station(client, 4, ready=True)
    station(client, 4, ready=False)
    assert LIFTER.findall(shown(client, rack="3")) == three
    page = client.get("/floor/?rack=%3Cb%3Equaggle").text
    assert "quaggle" not in re.sub("<[^>]+>", "", page) and "That rack is closed" in page
