"""Another progression for single athletes, and a deload week out of turn."""

from uuid import uuid4

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Cell, DecisionRow, Exercise
from backsquat.work.plan.progression_settings import athlete_settings, setting_of
from tests.demo_club import athlete_id, current_cells, reading, undo_of


def cells(app: Flask, exercise_id: int, name: str = "Marit Holm") -> list[Cell]:
    return current_cells(app, name, exercise_id)


def give(client: FlaskClient, app: Flask, *names: str, progression: str = "fixed", exercise: int = 5, **more: str):  # type: ignore[no-untyped-def]
    data = {
        "progression": progression,
        "for": "some",
        "athlete": [str(athlete_id(app, name)) for name in names],
        "sets": "3",
    }
    return client.post(f"/block/exercises/{exercise}", data=data | more)


def test_single_athletes_follow_another_progression_and_come_back(app: Flask, client: FlaskClient) -> None:
    others, before = cells(app, 5, "Tove Lindqvist"), cells(app, 5)
    response = give(client, app, "Marit Holm", "Ines Okafor", reps="5")
    shown = client.get(response.headers["Location"]).text
    assert "Marit Holm" in shown and "Ines Okafor" in shown and "Tove Lindqvist" not in shown
    both = [str(athlete_id(app, name)) for name in ("Marit Holm", "Ines Okafor")]
    client.post("/block/3/replan", data={"exercise": "5", "athlete": both})
    after = cells(app, 5)
    assert [c.id for c in after[:2]] == [c.id for c in before[:2]], "the past stays"
    assert {c.reps for c in after[2:] if c.kind == "work"} == {5} and after[2].sets == 3
    assert [c.id for c in cells(app, 5, "Tove Lindqvist")] == [c.id for c in others], "nobody else's changes"
    sheet = client.get("/block/3?lift=5").text
    assert sheet.count("· Fixed step") == 2
    assert "2 on another" in client.get("/block/3/exercises").text
    assert "Fixed step" in client.get(f"/block/3/athletes/{athlete_id(app, 'Marit Holm')}").text
    # One of them back, and that undone.
    page = client.post(f"/block/exercises/5/athletes/{athlete_id(app, 'Marit Holm')}/back", follow_redirects=True).text
    assert "1 on another" in client.get("/block/3/exercises").text
    client.post(undo_of(page))
    assert "2 on another" in client.get("/block/3/exercises").text
    assert client.post("/block/exercises/5/athletes/999/back").status_code == 404


def test_the_own_progression_judges_what_its_athlete_did(app: Flask, client: FlaskClient) -> None:
    give(client, app, "Marit Holm", progression="earned")
    client.post("/block/3/replan", data={"exercise": "5"})
    client.post("/block/3/publish")
    for name in ("Marit Holm", "Ines Okafor"):
        cell = cells(app, 5, name)[2]
        for _ in range(cell.sets):
            data = {
                "load": str(cell.load_amount),
                "reps": str(cell.reps),
                "reserve_reps": "2",
                "client_id": str(uuid4()),
            }
            assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
        with reading(app) as db:
            row = db.scalars(
                select(DecisionRow).where(DecisionRow.cell_id == cell.id).order_by(DecisionRow.id.desc())
            ).first()
        assert row is not None and row.reason.startswith("earned") == (name == "Marit Holm"), (name, row.reason)


@pytest.mark.parametrize(
    ("changes", "status", "words"),
    [
        ({"athlete": []}, 422, "Choose whom"), ({"athlete": ["999"]}, 422, "Choose whom"), ({"sets": "99"}, 422, "from 1 to 10"),
        ({"sets": "x"}, 422, "whole number"), ({"progression": "ladder"}, 404, ""), ({"athlete": ["x"]}, 422, "Choose whom"),
    ],
)  # fmt: skip
def test_impossible_progressions_for_single_athletes(
    app: Flask, client: FlaskClient, changes: dict[str, str], status: int, words: str
) -> None:
    response = give(client, app, "Marit Holm", **changes)
    assert response.status_code == status and words in response.text


def test_a_set_less_is_a_set_less_under_every_progression(app: Flask, client: FlaskClient) -> None:
    give(client, app, "Marit Holm", progression="fixed", exercise=7, sets="3")
    client.post("/rules", data={"name": "hinge_sets_session", "value": "1"})
    page = client.get("/block/3/check").text
    assert "One set less of Romanian deadlift" in page
    form = page.split("One set less of Romanian deadlift")[0].rsplit("<form", 1)[1]
    data = {name: form.split(f'name="{name}" value="')[1].split('"')[0] for name in ("week", "code", "about")}

    def sets() -> list[int]:
        with reading(app) as db:
            own = athlete_settings(db, [7]).values()
            return [setting_of(db.get_one(Exercise, 7)).parameters.sets, *(c.parameters.sets for c in own)]

    before = sets()
    said = client.post("/block/3/check/fix", data=data, follow_redirects=True).text
    assert sets() == [n - 1 for n in before]
    client.post(undo_of(said))
    assert sets() == before


# --- a deload week out of turn


def test_two_red_flags_ask_for_an_deload_week_and_one_click_makes_it(app: Flask, client: FlaskClient) -> None:
    page = client.get("/block/3/check?week=2026-11-23").text
    assert "Rania Haddad" in page and "4 of 5 check-ins low in 14 days" in page and "3, 5, 5" in page
    assert page.index("An extra deload week") < page.index("finding-row is-note", page.index("An extra deload week"))
    beside = client.get(
        "/block/3/check?week=2026-11-23", headers={"HX-Request": "true", "HX-Target": "week-check"}
    ).text
    assert "Rania Haddad: 2 red flags, a deload week?" in beside and "Sanne" not in beside
    before = {exercise: cells(app, exercise, "Rania Haddad") for exercise in (5, 6, 7)}
    data = {"week": "2026-11-23", "athlete": str(athlete_id(app, "Rania Haddad"))}
    said = client.post("/block/3/check/ease", data=data, follow_redirects=True).text
    assert "Deload week for Rania Haddad" in said and "week 3 is a deload week already" in said
    for exercise, was in before.items():
        now = cells(app, exercise, "Rania Haddad")
        assert now[2].kind == "deload" and not now[2].live
        assert now[2].sets < was[2].sets or was[2].sets == 2, "two stay two"
        if was[2].load_kg:
            assert (now[2].load_kg or 0) <= 0.9 * was[2].load_kg + 1e-6
            assert any(step["code"] == "deload_week" and step["facts"]["flags"] for step in now[2].working)
        assert [c.id for c in now if c.week != 2] == [c.id for c in was if c.week != 2], "only that week"
    assert client.post("/block/3/check/ease", data=data).status_code == 409
    client.post(undo_of(said))
    assert cells(app, 5, "Rania Haddad")[2].kind == "work"
    client.post("/block/3/check/ease", data=data)
    client.post("/block/3/replan", data={})
    assert cells(app, 5, "Rania Haddad")[2].kind == "deload", "planning again leaves it easy"


def test_an_deload_week_for_nobody_or_in_the_past_is_refused(app: Flask, client: FlaskClient) -> None:
    who = str(athlete_id(app, "Marit Holm"))
    assert client.post("/block/3/check/ease", data={"week": "2026-11-09", "athlete": who}).status_code == 409
    assert client.post("/block/3/check/ease", data={"week": "2026-11-23", "athlete": "999"}).status_code == 404
    assert client.post("/block/3/check/ease", data={"week": "2026-11-23", "athlete": "x"}).status_code == 404


def test_a_second_day_under_the_fixed_step_makes_a_row_and_shows_what_it_does_to_the_first(
    app: Flask, client: FlaskClient
) -> None:
    line = {"what": "Front squat", "progression": "fixed", "role": "assistance", "sets": "3", "day": "0"}
    alone = client.post("/block/3/exercises", data=line, follow_redirects=True)
    assert "one row with" not in alone.text and "<h1>November wave" in alone.text
    pair = client.post("/block/3/exercises", data=line | {"day": "2"}, follow_redirects=True).text
    assert "This is what it does to the loads." in pair and "numbers would change" in pair
    with reading(app) as db:
        monday, wednesday = db.scalars(select(Exercise.id).where(Exercise.movement == "front_squat")).all()
    both = {"exercise": [str(monday), str(wednesday)]}
    client.post("/block/3/replan", data=both)
    weeks = zip(cells(app, monday)[1:], cells(app, wednesday), strict=False)
    work = [(m.load_kg, w.load_kg) for m, w in weeks if m.kind == w.kind == "work"]
    assert all(0 <= (m or 0) - (w or 0) <= 2.5 for m, w in work), "Monday goes on from the Wednesday before"
    sheet = client.get(f"/block/3?lift={monday}").text
    assert "one row with Wed: each session takes its step from the one before" in sheet
    assert "one row with Mon" in client.get("/block/3/exercises").text
    assert "a row of its own" in client.get(f"/block/exercises/{wednesday}").text
    changed = client.post(f"/block/exercises/{wednesday}", data={"progression": "fixed", "sets": "2", "day": "2"})
    assert changed.headers["Location"].count("exercise=") == 2, "also the day that climbs alone from now on"
    undo = undo_of(client.get(changed.headers["Location"]).text)
    assert "one row with" not in client.get(f"/block/3?lift={monday}").text
    client.post(undo)
    assert "one row with" in client.get(f"/block/3?lift={monday}").text, "undone"
    out = client.post(f"/block/exercises/{wednesday}/out")
    assert f"exercise={monday}" in out.headers["Location"], "what is left is looked at too"


def test_how_sets_end_stands_on_sheet_session_floor_card_and_wall(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        now = setting_of(db.get_one(Exercise, 5))
    given = {
        "progression": now.code,
        "sets": "3",
        "end_hold_s": "30",
        "last_to_failure": "1",
        "role": "main",
        "day": "0",
    }
    assert client.post("/block/exercises/5", data=given).status_code == 302
    client.post("/block/3/replan", data={"exercise": "5", "from_week": "0"})
    client.post("/block/3/publish")
    assert "+ 30 s" in client.get("/block/3?lift=5").text
    assert "last set to failure" in client.get("/session/?week=2026-11-23").text
    for kind in ("wall", "card"):
        page = client.get(f"/floor/paper/{kind}").text
        assert "then hold 30 s · last set to failure" in page, kind
    marit = athlete_id(app, "Marit Holm")
    assert "then hold 30 s · last set to failure" in client.get(f"/floor/?athlete={marit}&lift=5").text
    packed = client.get("/floor/pack").get_json()
    turns = [turn for held in packed["sessions"] for mine in held["athletes"].values() for turn in mine["work"]]
    assert any("then hold 30 s" in turn.get("card", "") for turn in turns)
    with reading(app) as db:
        assert db.get_one(Exercise, 5).parameters["end_hold_s"] == 30
