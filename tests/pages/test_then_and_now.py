"""Two dates of one athlete over each other, points suggested by a finder, and what the demo shows."""

import re
from collections.abc import Iterator
from dataclasses import replace

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.rules import Rules
from backsquat.core.technique.still import Measure, Spot, StillKind
from backsquat.devices.drawn import Shot
from backsquat.devices.pose_stand_in import PoseFinder
from backsquat.storage.models import StillMark
from tests.demo_club import athlete_id, reading
from tests.pages.test_technique import LIV, NOOR, added, count, figure, placed


def test_who_is_due_stands_first_and_who_was_never_seen_last(client: FlaskClient) -> None:
    page = client.get("/technique/").text
    names = ["Marit Holm", "Rania Haddad", "Liv Aasen", "Alma Brekke"]
    assert sorted(names, key=page.index) == names and "not asked" in page and "agreed" in page


def test_two_dates_over_each_other_and_the_sports_own_beside(app: Flask, client: FlaskClient) -> None:
    page = client.get("/technique/17/then").text
    assert "19 Nov, flat" in page and "over 14 Sep, 30 mm" in page and "The sport&#39;s own position" in page
    assert page.count("<image") == 3 and "Trunk lean over the season" in page
    assert "12 Oct, 20 mm" in client.get("/technique/17/then?old=2&new=3&what=shin").text
    assert client.get("/technique/17/then?old=99999&new=x&what=moon&kind=portrait").status_code == 200
    assert "No measured picture yet" in client.get(f"/technique/{athlete_id(app, NOOR)}/then").text


@pytest.fixture
def finder(app: Flask) -> Iterator[PoseFinder]:
    made = PoseFinder()
    made.start()
    before = app.extensions["settings"]
    app.extensions["settings"] = replace(before, finder=("127.0.0.1", made.port))
    yield made
    app.extensions["settings"] = before
    made.shutdown()
    made.server_close()


def test_suggested_points_are_shown_and_kept_by_nobody_but_the_coach(
    app: Flask, client: FlaskClient, finder: PoseFinder
) -> None:
    drawn = figure(10, Shot(tilt_deg=3, faces_right=False))
    still = added(client, athlete_id(app, LIV), drawn.content, faces="left")
    before = count(app, StillMark)
    page = client.get(f"/technique/stills/{still}?suggest=1").text
    assert "stand-in: reads the marks of drawn figures only" in page and count(app, StillMark) == before
    assert "Trunk lean" in page and "On to the screens" not in page, "said at once, recorded by nobody"
    for spot in (Spot.HIP, Spot.KNEE, Spot.SHOULDER, Spot.ANKLE):
        shown = re.search(rf'name="{spot.value}" aria-label="[^"]*" value="([\d.]+) ([\d.]+)"', page)
        assert shown, spot
        assert abs(float(shown[1]) - drawn.points[spot][0]) < 4 and abs(float(shown[2]) - drawn.points[spot][1]) < 4
    placed(client, still, drawn, finder="stand-in")
    with reading(app) as db:
        mark = db.scalars(select(StillMark).order_by(StillMark.id.desc())).first()
    assert mark and mark.suggested_by == "stand-in"


def test_a_finder_that_finds_nothing_or_is_not_there_leaves_the_hand(
    app: Flask, client: FlaskClient, finder: PoseFinder
) -> None:
    still = added(client, athlete_id(app, LIV), figure(10, Shot(marked=False)).content)
    assert "found nothing here. Place the points by hand." in client.get(f"/technique/stills/{still}?suggest=1").text
    before = app.extensions["settings"]
    app.extensions["settings"] = replace(before, finder=("127.0.0.1", 1))
    assert "not reached" in client.get(f"/technique/stills/{still}?suggest=1").text
    app.extensions["settings"] = replace(before, finder=None)
    assert client.get(f"/technique/stills/{still}?suggest=1").status_code == 409
    assert "Suggest points" not in client.get(f"/technique/stills/{still}").text


def test_the_demo_goes_from_wedge_to_flat(app: Flask) -> None:
    from backsquat.work.technique.stills import stills_of

    with reading(app) as db:
        seen = [one for one in stills_of(db, [17], Rules())[17] if one.still.kind == StillKind.SQUAT.value]
    assert [one.still.wedge_mm for one in reversed(seen)] == [30, 20, 0]
    trunk = [one.measured.readings[Measure.TRUNK].value for one in seen if one.measured]
    assert len(trunk) == 3 and all(25 < angle < 55 for angle in trunk)
