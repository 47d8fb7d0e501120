"""A squad made from nothing, with a coarse room: list taken in, a minor, somebody away, somebody stopped; paper and phones."""

import datetime as dt
import json
import re

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.roles import Role
from backsquat.storage.models import Athlete, Block, BlockSession, Cell, Match, Season, SessionDay, Squad
from backsquat.work.accounts.people import add_person
from tests.demo_club import reading
from tests.pages.test_imports import fields

COARSE = {
    "name": "Cellar", "unit": "kg", "collars": "0", "racks": "1", "bar_name_0": "Bar", "bar_amount_0": "20",
    "bar_code_0": "bar20", "plate_amount_0": "20", "plate_pairs_0": "4", "plate_amount_1": "2.5", "plate_pairs_1": "3",
}  # fmt: skip
LIST = """Name;Born;Consent;New to lifting;Back squat
Una Vale;1.2.2000;;no;100x5@8
Ola Fane;1.2.2001;;no;60x5@7
Mia Rook;1.2.2011;;yes;
Ida Sand;1.2.2002;;no;80x5@8
"""


@pytest.fixture
def coach(app: Flask) -> FlaskClient:
    """The head coach of a new squad with nothing in it."""
    with app.extensions["database"].writing() as db:
        squad = Squad(club="Fresh", name="start")
        db.add(squad)
        db.flush()
        db.add(Season(squad_id=squad.id, name="2026", first_week=dt.date(2026, 7, 6), weeks=40))
        user = add_person(
            db, sign_in="fresh", name="F. Resh", password=None, squad_id=squad.id, role=Role.COACH, cost=1
        )
        db.flush()
        number = user.id
    client = app.test_client()
    client.post(f"/demo-sign-in/{number}")
    return client


def ids(app: Flask) -> dict[str, int]:
    with reading(app) as db:
        names = [line.split(";")[0] for line in LIST.splitlines()[1:]]
        return {one.name: one.id for one in db.scalars(select(Athlete).where(Athlete.name.in_(names)))}


def test_nothing_at_all_is_said_on_every_new_page(coach: FlaskClient) -> None:
    for path in (
        "/floor/",
        "/floor/paper/card",
        "/floor/paper/wall",
        "/import/",
        "/",
        "/season/",
        "/season/trained",
        "/floor/send",
        "/milestones/",
        "/technique/",
    ):
        assert coach.get(path).status_code == 200, path
    pack = coach.get("/floor/pack").get_json()
    assert pack["sessions"] == [] and pack["movements"] == {}
    assert coach.get("/floor/pulse").get_json()["stops"] == 0
    assert "Import the list you have" in coach.get("/").text


def test_from_a_list_to_a_floor_without_a_line_in_a_coarse_room(app: Flask, coach: FlaskClient) -> None:
    assert coach.post("/room/", data=COARSE).status_code in (200, 302)
    page = coach.post("/import/", data={"pasted": LIST}).get_data(as_text=True)
    assert coach.post("/import/look", data=fields(page) | {"act": "store"}).status_code == 302
    who = ids(app)
    assert len(who) == 4
    for name in ("Una Vale", "Ola Fane", "Ida Sand"):
        about = {"readiness_check": "barbell", "reason": "seen lifting soundly elsewhere"}
        assert coach.post(f"/ladders/{who[name]}/override", data=about).status_code == 302
    coach.post(f"/health-list/{who['Ida Sand']}/away", data={"first_on": "2026-11-20", "why": "illness"})
    _block(app, coach)
    for path in ("/floor/", "/session/", "/floor/paper/card"):  # a week before the block: the way to its first
        before = coach.get(f"{path}?week=2026-11-16").text
        assert "No session in the week of 16 Nov" in before and "week=2026-11-23" in before, path
    assert "To the block" in coach.get("/floor/?week=2026-12-28").text  # nothing is planned after it
    assert "Who is up stands below with the load." in coach.get("/floor/").text  # the floor's first use
    pack = coach.get("/floor/pack").get_json()
    (today,) = [one for one in pack["sessions"] if one["day"] == "2026-11-23"]
    kept = {one["name"] for one in today["kept_off"]}
    assert {"Mia Rook", "Ida Sand"} <= kept  # a minor behind the readiness check, and somebody who is ill
    una = today["athletes"][str(who["Una Vale"])]["work"][0]
    assert float(una["load"]) in {20 + 5 * n for n in range(4)} | {60 + 5 * n for n in range(4)} | {100.0, 105.0}
    assert float(today["athletes"][str(who["Ola Fane"])]["work"][0]["load"]) < float(una["load"])
    wall = coach.get("/floor/paper/wall").text
    assert "Una Vale" in wall and "Mia Rook" not in wall.split("</table>")[0]
    assert coach.post(f"/athletes/{who['Mia Rook']}/phone").status_code == 409  # no guardian's consent
    phone = _phone(app, coach, who["Una Vale"])
    thing = {
        "client_id": "una-without-a-line", "what": "set", "cell": una["cell"], "athlete": who["Una Vale"],
        "tapped_ms": 1_000, "fields": {
            "load": [una["load"]], "reps": [str(una["reps"])], "pain": ["6"], "pain_region": ["knee"],
            "pain_character": ["sharp"], "painful": ["1"],
        },
    }  # fmt: skip
    parcel = {"format": 1, "place": pack["place"], "device_ms": 2_000, "things": [thing]}
    for _ in range(2):
        answer = phone.post("/floor/waiting", data=json.dumps(parcel), content_type="application/json").get_json()
        assert answer["answers"]["una-without-a-line"]["taken"]
    assert coach.get("/floor/pulse").get_json()["stops"] == 1
    assert "Who is up stands below with the load." not in coach.get("/floor/").text  # never again
    again = coach.get("/floor/pack").get_json()["sessions"][0]
    mine = again["athletes"][str(who["Una Vale"])]
    assert mine["steps"] == [] and mine["work"][0]["why_over"] == "stopped"
    for path in ("/floor/", "/", "/review/", "/health-list/", f"/athletes/{who['Una Vale']}", "/floor/paper/card"):
        assert coach.get(path).status_code == 200, path
    _week_of_a_match(app, coach, who)
    assert phone.get("/floor/").status_code == 200 and "Ola" not in phone.get("/athletes/me").text


def _week_of_a_match(app: Flask, coach: FlaskClient, who: dict[str, int]) -> None:
    """A match on Tuesday asks next Monday's session away; today's has begun and stays. Who is stopped stays stopped."""
    page = coach.post("/season/matches", data={"played_on": "2026-12-01"}, follow_redirects=True).text
    assert "is the day before a match" in page and "begun" in coach.get("/season/?week=2026-11-23").text
    coach.post("/season/fit", data={"week": "2026-11-30"})
    with reading(app) as db:
        days = db.scalars(select(SessionDay.held_on).where(SessionDay.held_on > dt.date(2026, 11, 29))).all()
    assert dt.date(2026, 12, 3) in days or dt.date(2026, 12, 4) in days
    ahead = coach.get("/floor/pack").get_json()["sessions"]
    una = [work for one in ahead for work in one["athletes"].get(str(who["Una Vale"]), {"work": []})["work"]]
    assert all(work["over"] for work in una)
    with reading(app) as db:
        match = db.scalars(select(Match.id).where(Match.played_on == dt.date(2026, 12, 1))).one()
    moved = coach.post("/season/matches/move", data={"match": match, "to": "2026-12-08"}, follow_redirects=True).text
    assert "what was fitted around its old day is taken back" in moved and "1 session on another day" in moved
    with reading(app) as db:
        mine = select(BlockSession.id).join(Block).where(Block.name == "First block")
        days = set(db.scalars(select(SessionDay.held_on).where(SessionDay.session_id.in_(mine))))
    assert dt.date(2026, 11, 30) in days and not days & {dt.date(2026, 12, 7), dt.date(2026, 12, 8)}
    ahead = coach.get("/floor/pack").get_json()["sessions"]
    una = [work for one in ahead for work in one["athletes"].get(str(who["Una Vale"]), {"work": []})["work"]]
    assert all(work["over"] for work in una)
    trained = coach.get("/season/trained").text
    assert "Ida Sand" in trained and "1 of 1" in trained.split("Una Vale")[1][:400]


def _block(app: Flask, coach: FlaskClient) -> None:
    """A block of squats on Mondays from this week, published."""
    form = {
        "name": "First block", "first_week": "2026-11-23", "weeks": "4",
        "day_0": "0", "what_0": "Back squat", "progression_0": "wave", "role_0": "main", "sets_0": "3", "superset_0": "",
    }  # fmt: skip
    assert coach.post("/block/new", data=form).status_code == 302
    with reading(app) as db:
        block = db.scalars(select(Block).where(Block.name == "First block")).one().id
    assert "A draft: look the loads over" in coach.get(f"/block/{block}").text  # said until it is published once
    coach.post(f"/block/{block}/publish", data={})
    assert "A draft: look the loads over" not in coach.get(f"/block/{block}").text
    with reading(app) as db:
        assert db.scalars(select(Cell.id).where(Cell.live).order_by(Cell.id.desc())).first()


def _phone(app: Flask, coach: FlaskClient, athlete: int) -> FlaskClient:
    page = coach.post(f"/athletes/{athlete}/phone").text
    found = re.search(r"<code>http://[^/]+(/come-in/[^<]+)</code>", page)
    assert found
    phone = app.test_client()
    assert phone.post(found.group(1)).status_code == 302
    return phone


def test_from_the_side_and_after_a_match_with_nothing_measured(app: Flask, coach: FlaskClient) -> None:
    """A minor, somebody ill, a coarse room: heights unknown are said, and nobody who does not lift is eased."""
    coach.post("/room/", data=COARSE)
    page = coach.post("/import/", data={"pasted": LIST}).get_data(as_text=True)
    coach.post("/import/look", data=fields(page) | {"act": "store"})
    who = ids(app)
    for athlete in who.values():
        for path in ("", "?lift=hinge", "?lift=split", "/stills", "/then", "/distances"):
            assert coach.get(f"/technique/{athlete}{path}").status_code == 200, path
        assert "Nobody has measured the height" in coach.get(f"/technique/{athlete}").text
    for name in ("Una Vale", "Ola Fane", "Ida Sand"):
        about = {"readiness_check": "barbell", "reason": "seen lifting soundly elsewhere"}
        coach.post(f"/ladders/{who[name]}/override", data=about)
    coach.post(f"/health-list/{who['Ida Sand']}/away", data={"first_on": "2026-11-20", "why": "illness"})
    coach.post("/season/matches", data={"played_on": "2026-11-22", "opponent": "Old Quay"})
    with reading(app) as db:
        match = db.scalars(select(Match.id).order_by(Match.id.desc())).first()
    typed = {f"minutes-{athlete}": "55" for athlete in who.values()}
    said = coach.post(f"/season/matches/{match}/minutes", data=typed, follow_redirects=True).text
    assert "Minutes of 4 kept." in said and "Nothing to do" in said, "there is no session to be made easier"
    _block(app, coach)
    said = coach.get(f"/season/matches/{match}/minutes").text
    eased = {name for name, athlete in who.items() if f'id="ease-{athlete}"' in said}
    assert "Una Vale" in eased and "Mia Rook" not in eased, (
        "a minor needs the readiness check has nothing to be made easier"
    )
    ticked = {"athlete": [str(athlete) for athlete in who.values()]}
    assert coach.post(f"/season/matches/{match}/ease", data=ticked).status_code == 302
