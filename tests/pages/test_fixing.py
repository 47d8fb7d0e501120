"""Mistakes can be fixed: a test corrected or taken back, an athlete put away and brought back."""

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import SetEntry, Stop
from tests.demo_club import athlete_id, current_cells, reading, undo_of
from tests.pages.test_athlete import NEW, TEST, add


def squats_of(app: Flask, athlete: int) -> list[SetEntry]:
    with reading(app) as db:
        return list(
            db.scalars(
                select(SetEntry)
                .where(SetEntry.athlete_id == athlete, SetEntry.movement == "back_squat")
                .order_by(SetEntry.id)
            )
        )


def test_a_test_is_corrected_and_the_plan_follows(app: Flask, client: FlaskClient) -> None:
    noor = athlete_id(app, "Noor Visser")
    client.post(f"/athletes/{noor}/test", data=TEST)
    (wrong,) = squats_of(app, noor)
    before = [cell.load_kg or 0 for cell in current_cells(app, "Noor Visser", 5)[2:]]
    page = client.get(f"/athletes/{noor}/test/{wrong.id}").text
    assert "Correct it" in page and "Take it back" in page
    form = client.get(f"/athletes/{noor}/test?correct={wrong.id}").text
    assert 'value="80"' in form and "Correct the test of" in form
    right = TEST | {"load": "60", "client_id": "right"}
    assert client.post(f"/athletes/{noor}/test?correct={wrong.id}", data=right).status_code == 302
    first, second = squats_of(app, noor)
    assert (first.standing, second.standing, second.corrects_id) == (False, True, first.id)
    after = [cell.load_kg or 0 for cell in current_cells(app, "Noor Visser", 5)[2:]]
    assert all(0 < now < then for now, then in zip(after, before, strict=True)), "the plan follows, as a draft"
    assert not any(cell.live for cell in current_cells(app, "Noor Visser", 5)[2:])
    client.post(f"/athletes/{noor}/test?correct={wrong.id}", data=right)
    assert len(squats_of(app, noor)) == 2, "sent twice it is one correction"


def test_a_test_taken_back_leaves_no_load_behind(app: Flask, client: FlaskClient) -> None:
    noor = athlete_id(app, "Noor Visser")
    client.post(f"/athletes/{noor}/test", data=TEST | {"pain": "6", "pain_region": "knee", "pain_character": "sharp"})
    client.post(f"/athletes/{noor}/test", data=TEST | {"client_id": "t-2"})
    hurt, sound = squats_of(app, noor)
    assert client.post(f"/athletes/{noor}/test/{sound.id}/take-back").status_code == 302
    assert client.post(f"/athletes/{noor}/test/{sound.id}/take-back").status_code == 409
    assert not any(entry.standing for entry in squats_of(app, noor) if entry.id != hurt.id)
    assert {cell.load_kg for cell in current_cells(app, "Noor Visser", 5)[2:]} == {None}
    with reading(app) as db:
        assert db.scalars(select(Stop).where(Stop.set_id == hurt.id)).one().withdrawn is False
    other = athlete_id(app, "Marit Holm")
    assert client.post(f"/athletes/{other}/test/{hurt.id}/take-back").status_code == 404


def test_an_athlete_is_put_away_and_brought_back_with_the_whole_log(app: Flask, client: FlaskClient) -> None:
    tove = athlete_id(app, "Tove Lindqvist")
    logged = len(squats_of(app, tove))
    page = client.post(f"/athletes/{tove}/archive", follow_redirects=True).text
    assert "Tove Lindqvist is put away; the log is kept." in page and "Put away: 1" in page
    assert "Tove Lindqvist</a>" not in page.split("<tbody>")[1].split("</tbody>")[0]
    for path in ("/block/", "/review/", "/floor/", "/milestones/", "/health-list/", "/screen/"):
        main = client.get(path).text.split("<main")[-1]
        assert "Tove" not in main, path
    assert client.get(f"/athletes/{tove}").status_code == 200 and len(squats_of(app, tove)) == logged
    assert client.post(f"/athletes/{tove}/archive").status_code == 409
    back = client.post(f"/athletes/{tove}/archive", data={"back": "1"}, follow_redirects=True).text
    assert "Tove Lindqvist is back in the squad." in back and "Put away" not in back
    assert "Tove" in client.get("/review/").text
    client.post(undo_of(back))
    assert "Put away: 1" in client.get("/").text


def test_who_was_added_by_mistake_is_put_away_and_a_taken_name_is_not_given_twice(
    app: Flask, client: FlaskClient
) -> None:
    new = add(client, app)
    client.post(f"/athletes/{new}/archive")
    client.post("/athletes/new", data=NEW | {"name": "Somebody Else"})
    with reading(app) as db:
        from backsquat.storage.models import Athlete

        name = db.get_one(Athlete, new).name
    assert client.post(f"/athletes/{athlete_id(app, 'Somebody Else')}/edit", data={
        "name": name, "born_on": "2001-02-03", "body_mass_kg": "70", "position": "pivot"}).status_code == 302  # fmt: skip
    assert client.post(f"/athletes/{new}/archive", data={"back": "1"}).status_code == 409
