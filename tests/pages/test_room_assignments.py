"""Several rooms: who trains where, and what becomes of their loads."""

import datetime as dt

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.config import DEMO_DAY
from backsquat.storage.models import Cell, RoomAssignment, RoomRow
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.plan.cells import bring_back
from tests.demo_club import ROOM, athlete_id, current_cells, reading, undo_of

SQUAT, CURL = 5, 8  # exercises of the November wave
POUNDS = ("45", "25", "10", "5", "2.5")
TWO_WEEKS = {"first_on": "2026-12-07", "last_on": "2026-12-20", "weekday": ""}


def progression(app: Flask) -> int:
    with reading(app) as db:
        return db.scalars(select(RoomRow.id).where(RoomRow.name == "School hall")).one()


def stay(client: FlaskClient, app: Flask, name: str = "Marit Holm", **changes: str):  # type: ignore[no-untyped-def]
    data = {"room": str(progression(app)), "athlete": str(athlete_id(app, name)) if name else ""} | TWO_WEEKS | changes
    return client.post("/room/assignments", data=data)


def loads(app: Flask, exercise: int, name: str = "Marit Holm") -> list[tuple[int, str, str, float | None]]:
    cells = current_cells(app, name, exercise)
    return [(c.week, f"{c.load_amount}" if c.load_amount else c.state, c.load_unit, c.load_kg) for c in cells]


def test_two_weeks_in_a_pounds_room_and_back(app: Flask, client: FlaskClient) -> None:
    before = loads(app, SQUAT)
    page = client.get(stay(client, app).headers["Location"]).text
    assert "numbers follow as a draft" in page
    after = loads(app, SQUAT)
    moved = [week for week, _, unit, _ in after if unit == "lb"]
    assert moved == [4, 5], "Mondays 7 and 14 December, nothing before or after"
    with reading(app) as db:
        held = db.get_one(Cell, current_cells(app, "Marit Holm", SQUAT)[4].id)
        assert held.room_id == progression(app) and held.bar == "bar45" and held.live is False
        assert all(mass in POUNDS for mass in held.side)
        assert held.working[-3]["code"] == "room" and held.working[-3]["facts"]["room"] == "School hall"
    for week in moved:
        assert abs((after[week][3] or 0) - (before[week][3] or 0)) <= 2.5, "the nearest there is, steps of 5 lb"
    assert [row for row in after if row[0] not in moved] == [row for row in before if row[0] not in moved]

    said = client.get(f"/athletes/{athlete_id(app, 'Marit Holm')}").text
    assert "Trains in" in said and "School hall" in said and "every day from 7 Dec to 20 Dec" in said
    page = client.get(f"/block/3?lift={SQUAT}&cell={current_cells(app, 'Marit Holm', SQUAT)[4].id}").text
    assert "School hall" in page and '<span class="own-reps">lb</span>' in page

    # Ended, everything is as it was; undone, they are away again; undone twice is refused.
    with reading(app) as db:
        newest = db.scalars(select(RoomAssignment.id).order_by(RoomAssignment.id.desc())).first()
    page = client.post(f"/room/assignments/{newest}/end", follow_redirects=True).text
    assert loads(app, SQUAT) == before
    client.post(undo_of(page))
    assert loads(app, SQUAT) == after
    assert client.post(undo_of(page)).status_code == 409


def test_what_the_other_room_cannot_rig_has_its_stand_in(app: Flask, client: FlaskClient) -> None:
    assert loads(app, CURL)[4][1] not in ("level", "no_room")
    said = client.get(stay(client, app).headers["Location"]).text
    cells = current_cells(app, "Marit Holm", CURL)
    assert {c.state for c in cells[4:6]} <= {"level", "no_room"} and cells[6].state not in ("level", "no_room")
    there = next(c for c in cells[4:6])
    assert there.stands_in == "room" and "lying_curl" not in there.movement
    shown = client.get(f"/block/3?lift={CURL}&cell={there.id}").text
    assert "not in this room" in shown
    client.post(undo_of(said))
    assert loads(app, CURL)[4][1] not in ("level", "no_room")


def test_the_coachs_own_load_goes_along_and_comes_back(app: Flask, client: FlaskClient) -> None:
    cell = current_cells(app, "Marit Holm", SQUAT)[5]
    client.post(f"/block/cells/{cell.id}", data={"load": "101", "bar": cell.bar})
    client.post(f"/block/cells/{cell.id}", data={"load": "102.5", "bar": cell.bar})
    stay(client, app)
    there = current_cells(app, "Marit Holm", SQUAT)[5]
    assert there.origin == "coach" and (str(there.load_amount), there.load_unit) == ("225", "lb")
    client.get("/block/3/replan?exercise=5")
    client.post("/block/3/replan", data={"exercise": "5"})
    assert current_cells(app, "Marit Holm", SQUAT)[5].id == there.id, "planning again leaves it alone there too"
    # Typed there, it is one of that room's loads, in pounds.
    bad = client.post(f"/block/cells/{there.id}", data={"load": "227", "bar": there.bar})
    assert bad.status_code == 422 and "nearest are 225 and 230" in bad.text
    with reading(app) as db:
        newest = db.scalars(select(RoomAssignment.id).order_by(RoomAssignment.id.desc())).first()
    client.post(f"/room/assignments/{newest}/end")
    back = current_cells(app, "Marit Holm", SQUAT)[5]
    assert back.origin == "coach" and float(back.load_kg or 0) == 102.5


def test_undo_of_an_older_edit_does_not_bring_a_load_of_the_other_room(app: Flask, client: FlaskClient) -> None:
    cell = current_cells(app, "Marit Holm", SQUAT)[5]
    client.post(f"/block/cells/{cell.id}", data={"load": "102.5", "bar": cell.bar})
    stay(client, app)
    undo = client.get(f"/block/3?lift={SQUAT}").text.split('action="/block/3/undo/')[1].split('"')[0]
    edit = int(undo) - 1  # the stay is the newest by now
    assert client.post(f"/block/3/undo/{edit}").status_code == 409
    assert current_cells(app, "Marit Holm", SQUAT)[5].load_unit == "lb"
    assert "Marit Holm: in " in client.post(f"/block/3/undo/{undo}", follow_redirects=True).text
    there = current_cells(app, "Marit Holm", SQUAT)[5]
    assert (there.load_unit, there.load_kg) == ("kg", 102.5)
    client.post(f"/block/3/undo/{edit}")
    assert current_cells(app, "Marit Holm", SQUAT)[5].load_kg == cell.load_kg


def test_whatever_is_undone_a_load_of_the_room_somebody_left_is_never_written_again(
    app: Flask, client: FlaskClient
) -> None:
    before = current_cells(app, "Marit Holm", SQUAT)
    stay(client, app)
    moved = current_cells(app, "Marit Holm", SQUAT)
    gone = [old.id for old, new in zip(before, moved, strict=True) if old.id != new.id]
    assert gone, "two weeks are in the other room now"
    with app.extensions["database"].writing() as db:
        actor = Actor(1, 1, dt.datetime.combine(DEMO_DAY, dt.time(20)))
        assert bring_back(WorkContext(db, actor), 3, gone).new == []
    assert [cell.id for cell in current_cells(app, "Marit Holm", SQUAT)] == [cell.id for cell in moved]


def test_the_squad_moves_and_an_athletes_own_line_holds_before(app: Flask, client: FlaskClient) -> None:
    own = {"room": "1"}
    stay(client, app, "Ines Okafor", **own)
    stay(client, app, "")
    assert {unit for week, _, unit, kg in loads(app, SQUAT) if week in (4, 5) and kg} == {"lb"}
    assert {unit for _, _, unit, kg in loads(app, SQUAT, "Ines Okafor") if kg} == {"kg"}


def test_planning_again_and_new_blocks_know_the_room(app: Flask, client: FlaskClient) -> None:
    stay(client, app, last_on="")
    client.post("/block/3/replan", data={})
    after = loads(app, SQUAT)
    assert {unit for week, _, unit, kg in after if week >= 4 and kg} == {"lb"}
    with reading(app) as db:
        assert all(
            c.working for c in db.scalars(select(Cell).where(Cell.room_id == progression(app), Cell.load_kg > 0))
        )
    data = {
        "name": "New",
        "first_week": "2027-01-11",
        "weeks": "4",
        "day_0": "0",
        "what_0": "Back squat",
        "progression_0": "fixed",
        "role_0": "main",
        "sets_0": "",
        "superset_0": "",
    }
    client.post("/block/new", data=data)
    with reading(app) as db:
        made = db.scalars(select(Cell).where(Cell.athlete_id == athlete_id(app, "Marit Holm")).order_by(Cell.id.desc()))
        newest = next(cell for cell in made if cell.load_kg)
    assert newest.load_unit == "lb" and newest.room_id == progression(app)


def test_the_floor_puts_each_in_their_own_room(app: Flask, client: FlaskClient) -> None:
    stay(client, app, first_on="2026-11-23", last_on="", weekday="0")
    page = client.get(f"/floor/?lift={SQUAT}&athlete={athlete_id(app, 'Marit Holm')}").text
    assert "trains in School hall: publish the plan that follows" in page, "no number for a bar that is not there"
    client.post("/block/3/publish", data={"lift": SQUAT})
    page = client.get(f"/floor/?lift={SQUAT}&athlete={athlete_id(app, 'Marit Holm')}").text
    assert "School hall, rack 1" in page and "lb ×" in page
    data = {"room": str(progression(app)), "station": "Rack 1", "ready": "0", "found": "hook bent", "back": "/floor/"}
    client.post("/room/stations", data=data)
    page = client.get(f"/floor/?lift={SQUAT}&athlete={athlete_id(app, 'Marit Holm')}").text
    assert "hook bent" in page and "School hall, rack 2" in page and "Rack 1" in page


@pytest.mark.parametrize(
    ("changes", "status", "words"),
    [
        ({"first_on": "2026-11-20"}, 422, "From today on"), ({"first_on": ""}, 422, "fill this in"),
        ({"first_on": "soon"}, 422, "year-month-day"), ({"last_on": "2026-12-01"}, 422, "cannot be before the first"),
        ({"last_on": "2030-12-01"}, 422, "two years"), ({"room": "999"}, 404, ""), ({"athlete": "9999"}, 404, ""),
        ({"athlete": "9" * 30}, 302, ""), ({"weekday": "12"}, 302, ""),
    ],
)  # fmt: skip
def test_stays_that_make_no_sense(
    app: Flask, client: FlaskClient, changes: dict[str, str], status: int, words: str
) -> None:
    response = stay(client, app, **changes)
    assert response.status_code == status and words in response.text
    if status == 422:
        assert f'value="{changes.get("first_on", TWO_WEEKS["first_on"])}"' in response.text, "what was typed stays"


def test_rooms_are_added_changed_and_taken_off_the_list(app: Flask, client: FlaskClient) -> None:
    page = client.post("/room/", data=ROOM | {"name": "Hotel", "room": "further"}, follow_redirects=True).text
    made = undo_of(page)
    assert page.count("Hotel") >= 2 and "Harbour hall" in page
    with reading(app) as db:
        hotel = db.scalars(select(RoomRow).where(RoomRow.name == "Hotel")).one().id
    said = client.post("/room/", data=ROOM | {"name": "Hotel Astra", "room": str(hotel)}, follow_redirects=True).text
    client.post(undo_of(said))
    assert "Hotel Astra" not in client.get("/room/").text
    stay(client, app, room=str(hotel))
    refused = client.post(made)
    assert refused.status_code == 409 and "Somebody is to train there" in refused.text
    client.post("/room/", data=ROOM | {"name": "Hotel Astra", "room": str(hotel)})
    assert "Hotel Astra" in client.get("/room/").text and "Harbour hall" in client.get("/room/").text
    assert client.post(f"/room/{hotel}/away").status_code == 409, "somebody is to train there"
    assert client.post("/room/1/away").status_code == 409, "the squad's own stays"
    assert client.post(f"/room/{progression(app)}/away").status_code == 409
    with reading(app) as db:
        newest = db.scalars(select(RoomAssignment.id).order_by(RoomAssignment.id.desc())).first()
    client.post(f"/room/assignments/{newest}/end")
    page = client.post(f"/room/{hotel}/away", follow_redirects=True).text
    assert client.get("/room/").text.count("Hotel Astra") == 0 and client.get(f"/room/?room={hotel}").status_code == 404
    client.post(undo_of(page))
    assert "Hotel Astra" in client.get("/room/").text


def test_who_may_say_who_trains_where(app: Flask, client: FlaskClient) -> None:
    client.post("/sign-out")
    client.post("/demo-sign-in/2")  # an assistant
    assert stay(client, app).status_code == 403
    page = client.get("/room/").text
    assert "Who trains where" in page and "Trains there" not in page


def test_a_load_the_coach_put_over_the_cap_goes_along_over_the_cap(app: Flask, client: FlaskClient) -> None:
    cell = current_cells(app, "Marit Holm", SQUAT)[5]
    client.post(f"/block/cells/{cell.id}", data={"load": "125", "bar": cell.bar})
    assert cell.cap_kg and current_cells(app, "Marit Holm", SQUAT)[5].over_cap
    stay(client, app)
    there = current_cells(app, "Marit Holm", SQUAT)[5]
    assert there.load_kg and cell.cap_kg < there.load_kg <= 125 and there.load_unit == "lb"
