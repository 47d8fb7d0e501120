"""A coach of several squads shows one at a time; seasons follow each other, and everything else goes on."""

import datetime as dt
from pathlib import Path

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import delete, func, select

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.storage.models import Athlete, Match, Membership, Season, Squad
from tests.conftest import put_data
from tests.demo_club import athlete_id, reading, undo_of, user_id

NEW = {"club": "Kestrel Point", "squad": "under 19", "first_on": "2026-08-05", "weeks": "40"}


def test_one_more_squad_is_empty_and_shown_until_another_is_opened(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    page = client.post("/squads", data=NEW, follow_redirects=True).text
    assert "Kestrel Point · under 19" in page and "Nobody here yet" in page and "Describe the room" in page
    assert client.get(f"/athletes/{athlete_id(app, 'Marit Holm')}").status_code == 404  # the other squad's
    client.post("/athletes/new", data={"name": "Una Vale", "born_on": "2008-02-01", "newcomer": "y", "consent": "y"})
    una = athlete_id(app, "Una Vale")
    assert client.get(f"/athletes/{una}").status_code == 200
    assert client.post("/squads/1/open").status_code == 302
    assert client.get(f"/athletes/{una}").status_code == 404 and "Marit Holm" in client.get("/").text
    with reading(app) as db:
        squad = db.scalars(select(Squad).where(Squad.name == "under 19")).one()
        roles = db.scalars(select(Membership.role).where(Membership.squad_id == squad.id)).all()
        assert [role.value for role in roles] == ["coach"]
    assert "under 19" not in assistant.get("/squads").text
    assert assistant.post(f"/squads/{squad.id}/open").status_code == 404  # nobody opens what they are not of
    assert assistant.post("/squads", data=NEW).status_code == 403
    other = app.test_client()  # another browser of the same coach shows its own
    other.post("/demo-sign-in/1")
    other.post(f"/squads/{squad.id}/open")
    assert "under 19" in other.get("/squads").text and "Marit Holm" in client.get("/").text


def test_what_is_wrong_with_a_squad_is_said(app: Flask, client: FlaskClient) -> None:
    for wrong in ({"club": " "}, {"squad": "x" * 61}, {"weeks": "0"}, {"weeks": "900"}, {"first_on": "soon"}):
        answer = client.post("/squads", data=NEW | wrong)
        assert answer.status_code == 422 and 'class="problem' in answer.text, wrong
    with reading(app) as db:
        assert db.scalar(select(func.count(Squad.id))) == 1


def test_a_page_of_the_other_squad_writes_nothing_into_this_one(demo_file: Path, tmp_path: Path) -> None:
    app = create_app(Config(tmp_path, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    put_data(app, demo_file)
    client = app.test_client()

    def token(page: str) -> str:
        return page.split('name="csrf_token"')[1].split('value="')[1].split('"')[0]

    client.post("/demo-sign-in/1", data={"csrf_token": token(client.get("/sign-in").get_data(as_text=True))})
    old = token(client.get("/athletes/new").get_data(as_text=True))
    client.post("/squads", data=NEW | {"csrf_token": old})
    answer = client.post("/athletes/new", data={"name": "Una Vale", "born_on": "2000-02-01", "csrf_token": old})
    assert answer.status_code >= 400
    with reading(app) as db:
        assert not db.scalars(select(Athlete).where(Athlete.name == "Una Vale")).all()
    app.extensions["database"].close()


def test_what_waits_on_a_device_belongs_to_one_squad(client: FlaskClient) -> None:
    before = client.get("/floor/pack").get_json()["place"]
    client.post("/squads", data=NEW)
    assert client.get("/floor/pack").get_json()["place"] != before
    client.post("/squads/1/open")
    assert client.get("/floor/pack").get_json()["place"] == before


def test_the_next_season_begins_when_it_does_and_everything_goes_on(app: Flask, client: FlaskClient) -> None:
    assert (
        client.post("/squads/season", data={"next_first_on": "2027-03-01", "next_weeks": "40"}).status_code == 422
    )  # runs into
    page = client.post(
        "/squads/season", data={"next_first_on": "2027-07-07", "next_weeks": "42"}, follow_redirects=True
    ).text
    assert "The season is there" in page
    today, then = client.get("/").text, client.get("/?week=2027-07-05").text
    assert "Week 21" in today and "November wave" in today  # the season that is on stays the one that is shown
    assert "Week 1 · 5 Jul" in then and "November wave" not in then and "Marit Holm" in then
    last = client.get("/?week=2027-05-03").text
    assert 'aria-label="Season after"' in last and "week=2027-07-05" in last
    assert 'aria-label="Season before"' in then
    with reading(app) as db:
        season = db.scalars(select(Season).order_by(Season.id.desc())).first()
        assert season is not None and season.first_week == dt.date(2027, 7, 5)
    with app.extensions["database"].writing() as db:
        db.add(Match(season_id=season.id, played_on=dt.date(2027, 9, 1)))
    assert client.post(undo_of(page)).status_code == 409
    with app.extensions["database"].writing() as db:
        db.delete(db.scalars(select(Match).where(Match.season_id == season.id)).one())
    assert client.post(undo_of(page)).status_code == 302
    with reading(app) as db:
        assert db.scalar(select(func.count(Season.id))) == 1
    assert user_id(app, "amari")


def test_whoever_is_taken_out_of_the_shown_squad_is_told_and_writes_into_no_other(
    app: Flask, client: FlaskClient
) -> None:
    client.post("/squads", data=NEW)
    with app.extensions["database"].writing() as db:
        other = db.scalars(select(Squad).where(Squad.name == "under 19")).one()
        db.execute(delete(Membership).where(Membership.squad_id == other.id))
    athlete = {"name": "Una Vale", "born_on": "2008-02-01", "newcomer": "y", "consent": "y"}
    answer = client.post("/athletes/new", data=athlete)
    assert answer.status_code == 409 and "You are not in that squad any more" in answer.text
    with reading(app) as db:
        assert not db.scalars(select(Athlete).where(Athlete.name == "Una Vale")).all()
    assert "Marit Holm" in client.get("/").text and "not in the squad" not in client.get("/").text


def test_it_is_said_once_where_a_page_is_opened(app: Flask, client: FlaskClient) -> None:
    client.post("/squads", data=NEW)
    with app.extensions["database"].writing() as db:
        other = db.scalars(select(Squad).where(Squad.name == "under 19")).one()
        db.execute(delete(Membership).where(Membership.squad_id == other.id))
    assert "You are not in the squad you had open any more. This is Kestrel Point, first team." in client.get("/").text
    assert "any more. This is" not in client.get("/").text


def test_a_week_of_the_next_season_is_looked_at_and_milestones_stay_what_they_are(client: FlaskClient) -> None:
    client.post("/squads/season", data={"next_first_on": "2027-07-05", "next_weeks": "42"})

    now, then = client.get("/").text, client.get("/?week=2027-07-05").text
    assert "on course" in now and now.count("on course") == then.count("on course")
    assert "no data" not in then
    assert client.get("/athletes/1?week=2027-07-05").text.count("weeks with a record") == 0


def test_a_squad_without_a_room_is_shown_the_way_to_it(client: FlaskClient) -> None:
    client.post("/squads", data={"club": "Kestrel Point", "squad": "second", "first_on": "2026-09-07", "weeks": "40"})
    page = client.get("/block/new")
    assert page.status_code == 409 and 'href="/room/">Describe the room</a>' in page.text
