"""Readiness checks and ladders through the web: refused with reasons, the road, the readiness check passed, levels earned and taken back."""

import datetime as dt

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Athlete, DecisionRow, Exercise, LevelMove, ReadinessClearance, SetEntry, Stop
from tests.demo_club import athlete_id, current_cells, live_cell, reading

SQUAT = 5  # the exercise of the back squat in the newest block
LEG_PRESS = {"movement": "leg_press", "load": "40", "client_id": "b"}

PASS = {
    "brace": "yes", "standing_squat": "yes", "squat_wedge": "0", "knees_track": "yes", "pelvis": "0", "side_shift": "0",
    "deep_squat_hold": "20", "counterbalanced_squat": "15", "witnessed_test": "yes",
}  # fmt: skip


def screen(client: FlaskClient, person: int, **values: str) -> None:
    data = {f"v:{code}:": value for code, value in values.items()}
    client.post(f"/screen/athlete/{person}", data=data | {"day": "2026-11-23"}, headers={"X-Autosave": "1"})


def level(app: Flask, person: int, ladder: str = "squat_to_bar") -> LevelMove:
    with reading(app) as db:
        found = db.scalars(
            select(LevelMove)
            .where(LevelMove.athlete_id == person, LevelMove.ladder == ladder)
            .order_by(LevelMove.id.desc())
        ).first()
        assert found
        return found


def test_a_newcomer_is_not_offered_the_bar_and_a_test_all_the_same_opens_nothing(
    app: Flask, client: FlaskClient
) -> None:
    alma = athlete_id(app, "Alma Brekke")
    page = client.get(f"/ladders/{alma}").text
    assert "Ready for the bar" in page and "not tested" in page and "guardian&#39;s consent on file" in page
    test_set = {
        "movement": "back_squat",
        "load": "20",
        "reps": "5",
        "reserve_reps": "2",
        "done_on": "2026-11-23",
        "client_id": "a",
    }
    assert "Not ready for the bar yet" in client.get(f"/athletes/{alma}/test").text
    kept = client.post(f"/athletes/{alma}/test", data=test_set, follow_redirects=True)
    assert kept.status_code == 200 and "Kept, and marked" in kept.text
    assert "not yet" in client.get(f"/ladders/{alma}").text.split("Ready for the bar")[1][:80]
    assert {cell.load_kg for cell in current_cells(app, "Alma Brekke", SQUAT)} == {None}
    allowed = client.post(f"/athletes/{alma}/test", data=test_set | LEG_PRESS)
    assert allowed.status_code == 302, "the readiness check stands before bars only"


def test_screens_lead_to_levels_and_the_plan_follows(app: Flask, client: FlaskClient) -> None:
    alma = athlete_id(app, "Alma Brekke")
    screen(client, alma, lying_squat="yes", standing_squat="no", brace="yes")
    client.post(f"/ladders/{alma}/place")
    assert level(app, alma).movement == "press_down_squat"
    cell = live_cell(app, "Alma Brekke", 2)
    assert (cell.state, cell.movement, cell.load_kg) == ("level", "press_down_squat", None)
    floor = client.get(f"/floor/?athlete={alma}").text
    assert "Press-down squat" in floor and "own level ·" in floor
    assert "Alma Brekke" in client.get("/block/").text


def test_the_readiness_check_opens_when_every_line_passes_and_then_asks_for_a_test(
    app: Flask, client: FlaskClient
) -> None:
    liv = athlete_id(app, "Liv Aasen")
    screen(client, liv, **PASS)
    page = client.get(f"/ladders/{liv}").text
    assert 'is-done">ready' in page and "The road to the bar" not in page
    assert "Record a test set" in client.get(f"/athletes/{liv}").text
    done = client.post(
        f"/athletes/{liv}/test",
        data={
            "movement": "back_squat",
            "load": "35",
            "reps": "5",
            "reserve_reps": "2",
            "done_on": "2026-11-23",
            "client_id": "b",
        },
    )
    assert done.status_code == 302


def test_an_override_needs_a_reason_and_can_be_ended(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, "Liv Aasen")
    without = client.post(f"/ladders/{liv}/override", data={"readiness_check": "barbell", "reason": "  "})
    assert without.status_code == 422 and "Say why" in without.text
    client.post(f"/ladders/{liv}/override", data={"readiness_check": "barbell", "reason": "lifted for years elsewhere"})
    page = client.get(f"/ladders/{liv}").text
    assert "Cleared 23 Nov by R. Amari: lifted for years elsewhere" in page and 'is-done">ready' in page
    client.post(f"/ladders/{liv}/override", data={"readiness_check": "barbell", "end": "1"})
    assert 'is-behind">not yet' in client.get(f"/ladders/{liv}").text
    assert (
        client.post(f"/ladders/{liv}/override", data={"readiness_check": "garden", "reason": "because"}).status_code
        == 404
    )
    with reading(app) as db:
        assert db.scalars(select(ReadinessClearance).where(ReadinessClearance.athlete_id == liv)).one().ended, (
            "kept, not removed"
        )


def test_a_minor_without_consent_is_asked_for_no_machine_until_a_guardian_agrees(
    app: Flask, client: FlaskClient
) -> None:
    """Machines are on no ladder and behind no readiness check: they were planned all the same."""
    alma = athlete_id(app, "Alma Brekke")
    with reading(app) as db:
        curl = db.scalars(select(Exercise.id).where(Exercise.block_id == 3, Exercise.movement == "lying_curl")).one()

    def row() -> str:
        return client.get(f"/block/3?lift={curl}").text.split("Alma Brekke</a>")[1].split("</tr>")[0]

    def planned() -> set[str]:
        return {cell.movement for cell in current_cells(app, "Alma Brekke", curl) if cell.week > 2}

    def asked() -> set[str]:
        found = client.get("/floor/pack").get_json()["sessions"]
        return {w["movement"] for one in found for w in one["athletes"].get(str(alma), {"work": []})["work"]}

    assert planned() == {"ball_curl"} and "no consent: no weight" in row()
    assert "Alma Brekke no guardian&#39;s consent" in client.get(f"/block/3?lift={curl}").text
    assert asked() >= {"ball_curl", "calf_raise"} and not asked() & {"lying_curl", "plank_row"}
    about = {"name": "Alma Brekke", "born_on": "2010-05-04", "position": "right wing", "newcomer": "y"}
    client.post(f"/athletes/{alma}/edit", data=about | {"consent": "y", "guardian": "G. Brekke", "body_mass_kg": "55"})
    client.post("/block/3/replan", data={"exercise": str(curl)})
    client.post("/block/3/publish")
    assert planned() == {""} and "no consent" not in row() and "lying_curl" in asked()
    client.post(f"/athletes/{alma}/edit", data=about | {"guardian": "", "body_mass_kg": "55"})  # withdrawn
    assert "lying_curl" not in asked() and "no consent: no weight" in row()
    with app.extensions["database"].writing() as db:  # as where the age of consent is a rule said again
        db.get_one(Athlete, athlete_id(app, "Ines Okafor")).born_on = dt.date(2009, 1, 1)
    typed = client.post(f"/block/cells/{current_cells(app, 'Ines Okafor', curl)[-1].id}", data={"load": "10"})
    assert typed.status_code == 409 and "No guardian&#39;s consent for Ines Okafor" in typed.text


def test_an_override_does_not_reach_a_minor_without_consent(app: Flask, client: FlaskClient) -> None:
    alma = athlete_id(app, "Alma Brekke")
    client.post(
        f"/ladders/{alma}/override", data={"readiness_check": "barbell", "reason": "trains with us since spring"}
    )
    assert 'is-behind">not yet' in client.get(f"/ladders/{alma}").text


def log_floor(client: FlaskClient, cell_id: int, n: int, **changes: str) -> int:
    data = {
        "load": "14",
        "reps": "12",
        "reserve_reps": "2",
        "pain_character": "dull",
        "client_id": f"set-{cell_id}-{n}",
    }
    return client.post(f"/floor/cells/{cell_id}/sets", data=data | changes).status_code


def test_the_floor_logs_a_levels_work_and_proposes_the_next(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, "Liv Aasen")
    client.post(
        f"/ladders/{liv}/work",
        data={
            "ladder": "squat_to_bar",
            "movement": "goblet_squat",
            "sets": "3",
            "amount": "12",
            "load": "14",
            "left": "2",
            "pain": "0",
            "client_id": "earlier",
        },
    )
    with app.extensions["database"].writing() as db:  # as if it had been last week
        for entry in db.scalars(select(SetEntry).where(SetEntry.client_id.startswith("earlier"))):
            entry.done_on = entry.done_on.replace(day=20)
    cell = live_cell(app, "Liv Aasen", 2)
    for n in range(cell.sets):
        assert log_floor(client, cell.id, n) == 302
    page = client.get(f"/floor/?athlete={liv}").text
    assert "Harder level: 3 × 10–12 clean in 2 sessions in a row. Squat with two dumb-bells is next." in page
    with reading(app) as db:
        decision = db.scalars(select(DecisionRow).where(DecisionRow.cell_id == cell.id)).one()
    client.post(f"/review/decisions/{decision.id}")
    assert level(app, liv).movement == "dumbbell_squat"
    assert live_cell(app, "Liv Aasen", 4).movement == "dumbbell_squat", "the floor follows at once"
    assert live_cell(app, "Liv Aasen", 2).movement == "goblet_squat", "what was done stays"


def test_a_level_decision_can_be_taken_otherwise_with_a_reason(app: Flask, client: FlaskClient) -> None:
    liv, cell = athlete_id(app, "Liv Aasen"), live_cell(app, "Liv Aasen", 2)
    for n in range(cell.sets):
        log_floor(client, cell.id, n, fault="knees_in")
    with reading(app) as db:
        decision = db.scalars(select(DecisionRow).where(DecisionRow.cell_id == cell.id)).one()
    assert decision.code == "easier level"
    assert client.post(f"/review/decisions/{decision.id}", data={"code": "stay", "reason": ""}).status_code == 422
    client.post(f"/review/decisions/{decision.id}", data={"code": "stay", "reason": "new shoes"})
    assert level(app, liv).movement == "goblet_squat"


def test_electric_pain_on_a_level_stops_it_like_anywhere(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Liv Aasen", 2)
    data = {"pain": "2", "pain_region": "knee", "pain_character": "electric", "painful": "1"}
    assert log_floor(client, cell.id, 0, **data) == 302
    liv = athlete_id(app, "Liv Aasen")
    with reading(app) as db:
        stop = db.scalars(select(Stop).where(Stop.athlete_id == liv)).one()
    assert stop.region == "knee" and "leg_press" in stop.locked and "romanian_deadlift" not in stop.locked
    assert "Log a day's work" not in client.get(f"/ladders/{liv}").text.split("Squat to the bar")[1][:2000]
    work = {"ladder": "squat_to_bar", "movement": "goblet_squat", "sets": "1", "amount": "5", "load": "0"}
    said = client.post(f"/ladders/{liv}/work", data=work, follow_redirects=True).text
    assert "Marked: stopped at the time" in said, "a device that was slow loses no set"
    assert "locked by pain" in client.get(f"/movements/leg_press?athlete={liv}").text


@pytest.mark.parametrize(
    ("change", "words"),
    [({"sets": "99"}, "Sets go from"), ({"amount": "x"}, "whole number"), ({"load": "-3"}, "Write a number"),
     ({"amount": "40"}, "Reps go from"), ({"pain": "3"}, "Say where"), ({"load": "nan"}, "Write a number"),
     ({"sets": "0"}, "Sets go from"), ({"pain": "0", "pain_character": "electric"}, "Give the pain a number"),
     ({"pain": "", "pain_region": "knee"}, "Give the pain a number")],
)  # fmt: skip
def test_bad_work_is_refused_beside_its_form(
    app: Flask, client: FlaskClient, change: dict[str, str], words: str
) -> None:
    liv = athlete_id(app, "Liv Aasen")
    data = {
        "ladder": "squat_to_bar",
        "movement": "goblet_squat",
        "sets": "3",
        "amount": "12",
        "load": "14",
        "client_id": "c",
    }
    response = client.post(f"/ladders/{liv}/work", data=data | change)
    assert response.status_code == 422 and words in response.text


def test_moving_by_hand_needs_a_reason_and_is_undone(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, "Liv Aasen")
    move = {"ladder": "squat_to_bar", "movement": "press_down_squat"}
    assert client.post(f"/ladders/{liv}/move", data=move).status_code == 422
    page = client.post(f"/ladders/{liv}/move", data=move | {"reason": "form gone"}, follow_redirects=True).text
    assert level(app, liv).movement == "press_down_squat" and "form gone" in page
    change = page.split('action="/undo/')[1].split('"')[0].split("?")[0]
    client.post(f"/undo/{change}")
    assert (level(app, liv).movement, level(app, liv).way) == ("goblet_squat", "taken back")
    barred = client.post(
        f"/ladders/{liv}/move", data={"ladder": "squat_to_bar", "movement": "back_squat", "reason": "eager"}
    )
    assert barred.status_code == 409
    for nonsense in ({"ladder": "x", "movement": "back_squat"}, {"ladder": "hinge", "movement": "goblet_squat"}):
        assert client.post(f"/ladders/{liv}/move", data=nonsense | {"reason": "r"}).status_code == 404


def test_the_demo_has_one_half_way_and_one_just_through(app: Flask, client: FlaskClient) -> None:
    half = client.get(f"/ladders/{athlete_id(app, 'Liv Aasen')}").text
    assert "4 sessions in 10 days" in half and "The road to the bar" in half
    through = client.get(f"/ladders/{athlete_id(app, 'Hanne Roos')}").text
    assert "9 sessions in 29 days" in through and 'is-done">ready' in through
    assert live_cell(app, "Hanne Roos", 2).load_kg
