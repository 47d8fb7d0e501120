"""What only some movements have told of their sets: directions of a lunge, bands with their pulls."""

import datetime as dt

from flask import Flask
from flask.testing import FlaskClient

from backsquat.library.shelf import movements
from backsquat.storage.models import SetEntry
from tests.demo_club import entries
from tests.pages.test_floor_list import on_monday, shown, sides, tell


def test_directions_are_planned_in_their_order_and_aimed_at_from_last_time(app: Flask, client: FlaskClient) -> None:
    client.post(
        "/block/3/exercises", data={"day": "0", "what": "Lunge wheel", "progression": "window", "role": "assistance"}
    )
    client.post("/block/3/publish")
    exercise = on_monday(app, "lunge_wheel").exercise_id
    assert "Directions, in their" in client.get(f"/session/exercises/{exercise}").text
    answer = client.post(f"/session/exercises/{exercise}", data={"direction": ["side", "ahead", ""], "wedge_mm": ""})
    assert answer.status_code == 302
    client.post("/block/3/publish")
    wheel = on_monday(app, "lunge_wheel")
    page = shown(client, athlete=wheel.athlete_id, lift=wheel.exercise_id)
    assert page.index('aria-label="side, left, cm"') < page.index('aria-label="ahead, left, cm"')
    assert 'aria-label="back, left, cm"' not in page and "side, ahead, in this order" in page
    said = {"reach_0_left": "80", "reach_0_right": "78", "reach_2_left": "60", "reach_2_right": "60"}
    assert sides(client, wheel, 1, 5, 5, load="0", reach_fault_2="knees_in", **said) == 302
    page = shown(client, athlete=wheel.athlete_id, lift=wheel.exercise_id)
    assert "Reach in cm, left / right: side 55 / 55, ahead 80 / 78" in page
    packed = client.get("/floor/pack").get_json()
    turns = [turn for held in packed["sessions"] for mine in held["athletes"].values() for turn in mine["work"]]
    mine = [turn for turn in turns if "Reach in cm, left / right: side 55 / 55, ahead 80 / 78" in turn.get("card", "")]
    assert mine and mine[0]["hints"] == {
        "reach_0_left": "80", "reach_0_right": "78", "reach_2_left": "55", "reach_2_right": "55",
    }  # fmt: skip


def test_a_band_is_kept_with_its_pulls_and_the_next_one_said_when_it_was_enough(
    app: Flask, client: FlaskClient
) -> None:
    client.post(
        "/block/3/exercises", data={"day": "0", "what": "Nordic", "progression": "window", "role": "assistance"}
    )
    client.post("/block/3/publish")
    nordic = on_monday(app, "nordic")
    page = shown(client, athlete=nordic.athlete_id, lift=nordic.exercise_id)
    assert 'value="thick|-35|-15"' in page and "thin, resists 5 kg at the bottom, 15 at the top" in page
    reps = str(movements()["nordic"].work.high)
    tell(client, nordic, 1, load="0", reps=reps, band="thick|-35|-15")
    (entry,) = entries(app, nordic.id)
    assert {name: entry.notes[name] for name in entry.notes if name.startswith("band")} == {
        "band": "thick", "band_bottom_kg": -35.0, "band_top_kg": -15.0
    }  # fmt: skip
    with app.extensions["database"].writing() as db:  # it was last week
        db.get_one(SetEntry, entry.id).done_on -= dt.timedelta(days=7)
    words = "Band last time: thick, helped 35 kg at the bottom and 15 at the top. It was enough: thin is next"
    assert words in shown(client, athlete=nordic.athlete_id, lift=nordic.exercise_id)
    tell(client, nordic, 2, load="0", reps=reps, band="thick|-9999|1")
    assert len(entries(app, nordic.id)) == 1, "no band pulls like that"


def test_reach_in_eight_directions_is_kept_a_side_and_drawn(app: Flask, client: FlaskClient) -> None:
    client.post(
        "/block/3/exercises", data={"day": "0", "what": "Lunge wheel", "progression": "window", "role": "assistance"}
    )
    client.post("/block/3/publish")
    wheel = on_monday(app, "lunge_wheel")
    page = shown(client, athlete=wheel.athlete_id, lift=wheel.exercise_id)
    assert 'name="reach_7_right"' in page
    reach = {f"reach_{n}_{side}": str(60 + n) for n in range(8) for side in ("left", "right")}
    assert sides(client, wheel, 1, 5, 5, load="0", **reach) == 302
    assert sides(client, wheel, 2, 5, 5, load="0", reach_0_left="71,5", left_supported="y") == 302
    first, second = entries(app, wheel.id)
    assert first.notes["reach"]["open side"] == [67.0, 67.0] and second.notes["reach"] == {"ahead": [71.5, None]}
    athlete = client.get(f"/athletes/{wheel.athlete_id}").text
    assert "Lunge reach" in athlete and "is-supported" in athlete and "is-newest" in athlete
    for wrong in ("900", "far", "0"):
        bad = client.post(
            f"/floor/cells/{wheel.id}/sets",
            data={
                "load": "0", "left_reps": "5", "right_reps": "5", "client_id": f"bad{wrong}", "reach_1_left": wrong,
                "athlete": str(wheel.athlete_id), "lift": str(wheel.exercise_id),
            },
        )  # fmt: skip
        assert bad.status_code == 422 and "A reach is above 0" in bad.text and f'value="{wrong}"' in bad.text
