"""Exercises, templates, quick edits, progressions on the floor and in review, week check, versions, milestones for everybody."""

import io
import json

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.library.shelf import movements
from backsquat.library.templates import shipped
from backsquat.pages.block.forms import lines_of
from backsquat.storage.models import Block, Cell, DecisionRow, Exercise, LibraryEntry, RoomRow, SetEntry, WeekAnswer
from backsquat.work.context import library_of
from tests.demo_club import athlete_id, current_cells, reading

FREE = "2027-01-11"
HOLD = next(m.name for m in movements().values() if m.work.seconds and not m.readiness_checks)


def plan(
    client: FlaskClient, app: Flask, *lines: tuple[str, str, str], weeks: int = 4, monday: str = FREE, **more: str
) -> Block:
    """A block of (day, what, progression) lines."""
    data = {"name": "Own", "first_week": monday, "weeks": str(weeks)}
    for n, (day, what, progression) in enumerate(lines):
        data |= {
            f"day_{n}": day,
            f"what_{n}": what,
            f"progression_{n}": progression,
            f"role_{n}": "main",
            f"sets_{n}": "",
            f"superset_{n}": "",
        }
    response = client.post("/block/new", data=data | more)
    assert response.status_code == 302
    with reading(app) as db:
        return db.scalars(select(Block).order_by(Block.id.desc())).first()  # type: ignore[return-value]


def cells(app: Flask, exercise_id: int, name: str = "Marit Holm") -> list[Cell]:
    return current_cells(app, name, exercise_id)


# --- templates and exercises


@pytest.mark.parametrize("code", shipped())
def test_every_shipped_template_makes_a_block_for_the_whole_squad(app: Flask, client: FlaskClient, code: str) -> None:
    page = client.get(f"/block/new?template={code}&week={FREE}").text
    assert shipped()[code].name in page
    with reading(app) as db:
        lines = lines_of(shipped()[code], library_of(db, 1))
    data = {"name": "T", "first_week": FREE, "weeks": str(min(shipped()[code].weeks, 11))}
    for n, line in enumerate(lines):
        data |= {
            f"day_{n}": line.day,
            f"what_{n}": line.what,
            f"progression_{n}": line.progression,
            f"role_{n}": line.role,
            f"sets_{n}": line.sets,
            f"superset_{n}": line.superset,
            f"given_{n}": line.given_text,
        }
    assert client.post("/block/new", data=data).status_code == 302
    with reading(app) as db:
        block = db.scalars(select(Block).order_by(Block.id.desc())).first()
        assert block and len(block.exercises) == len(shipped()[code].exercises)
        states = set(db.scalars(select(Cell.state).where(Cell.exercise_id.in_([s.id for s in block.exercises]))))
    assert states & {"load", "level", "work"}
    for exercise in block.exercises:
        assert client.get(f"/block/{block.id}?lift={exercise.id}").status_code == 200
    assert client.get(f"/block/{block.id}/athletes/1").status_code == 200


def test_the_place_in_the_session_gives_the_window_and_says_so(app: Flask, client: FlaskClient) -> None:
    block = plan(
        client,
        app,
        ("0", movements()["bench_thrust_bar"].name, "window"),
        ("0", "Rear-foot-elevated split squat, dumb-bells beside", "window"),
        ("0", "Back squat", "window"),
    )
    windows = [(exercise.parameters["low"], exercise.parameters["high"]) for exercise in block.exercises]
    assert windows == [(8, 15), (6, 10), (8, 12)]
    page = client.get(f"/block/{block.id}/exercises").text
    assert "placed last: more reps, slow" in page and "second in the session" in page


def test_a_exercise_is_put_in_taken_out_and_undone(app: Flask, client: FlaskClient) -> None:
    line = {
        "day": "2",
        "what": "Own level: Copenhagen plank",
        "progression": "window",
        "role": "spare",
        "sets": "",
        "superset": "2",
    }
    assert client.post("/block/3/exercises", data=line | {"what": "Moon"}).status_code == 422
    page = client.post("/block/3/exercises", data=line, follow_redirects=True).text
    assert "Exercise added as a draft" in page
    with reading(app) as db:
        exercise = db.scalars(select(Exercise).where(Exercise.ladder == "groin_plank")).one()
        assert (exercise.progression, exercise.role, exercise.superset) == ("ladder", "spare", 2)
        states = set(db.scalars(select(Cell.state).where(Cell.exercise_id == exercise.id)))
    assert states <= {"level", "no_level"}
    page = client.post(f"/block/exercises/{exercise.id}/out", follow_redirects=True).text
    change = page.split('action="/undo/')[1].split('"')[0].split("?")[0]
    assert f"lift={exercise.id}" not in client.get("/block/").text
    client.post(f"/undo/{change}")
    assert f"lift={exercise.id}" in client.get("/block/").text
    # the past of the exercise is empty, not planned
    with reading(app) as db:
        assert min(db.scalars(select(Cell.week).where(Cell.exercise_id == exercise.id))) == 2


def test_the_last_exercise_stays(app: Flask, client: FlaskClient) -> None:
    block = plan(client, app, ("0", "Back squat", "wave"))
    response = client.post(f"/block/exercises/{block.exercises[0].id}/out")
    assert response.status_code == 422 and "one exercise at least" in response.text


def test_another_progression_shows_the_difference_and_changes_nothing_before_it_is_taken(
    app: Flask, client: FlaskClient
) -> None:
    block = plan(client, app, ("0", "Back squat", "wave"))
    exercise = block.exercises[0].id
    before = [cell.id for cell in cells(app, exercise)]
    bad = client.post(
        f"/block/exercises/{exercise}", data={"progression": "fixed", "reps": "99", "sets": "x", "tempo": "fast"}
    )
    assert bad.status_code == 422
    for words in ("from 1 to 15", "Write a whole number", "Four numbers", 'value="99"', 'value="fast"'):
        assert words in bad.text or words == "from 1 to 15"
    page = client.post(
        f"/block/exercises/{exercise}", data={"progression": "fixed", "reps": "5"}, follow_redirects=True
    ).text
    assert "numbers would change" in page
    assert [cell.id for cell in cells(app, exercise)] == before
    client.post(f"/block/{block.id}/replan", data={"exercise": exercise, "from_week": "2"})
    after = cells(app, exercise)
    assert [cell.id for cell in after[:2]] == before[:2] and after[2].id != before[2] and after[2].reps == 5


def test_templates_travel_as_json_and_a_bad_file_is_explained(app: Flask, client: FlaskClient) -> None:
    client.post("/block/3/template", data={"name": "Ours", "words": "in autumn"})
    with reading(app) as db:
        code = db.scalars(select(LibraryEntry.code).where(LibraryEntry.kind == "template")).one()
    answer = client.get(f"/block/templates/{code}.json")
    entry = json.loads(answer.text)
    assert answer.headers["Content-Disposition"].startswith("attachment") and len(entry["exercises"]) == 12
    for text, words in (
        ("{", "cannot be used"),
        ("[]", "cannot be used"),
        (json.dumps(entry | {"weeks": 0}), "weeks"),
        (json.dumps(entry | {"exercises": [{"day": 9, "movement": "back_squat"}]}), "exercises.0.day"),
        (json.dumps(entry | {"exercises": [{"day": 0, "movement": "moon_squat"}]}), "not in this squad"),
        (
            json.dumps(entry | {"exercises": [{"day": 0, "movement": "back_squat", "parameters": {"sets": 99}}]}),
            "exercises.0",
        ),
        ("x" * 70_000, "at most 64 kB"),
        ("", "at most 64 kB"),
    ):
        data = {"file": (io.BytesIO(text.encode()), "t.json")}
        assert words in client.post("/block/templates", data=data, follow_redirects=True).text, text[:60]
    data = {"file": (io.BytesIO(answer.data), "t.json")}
    page = client.post("/block/templates", data=data, follow_redirects=True).text
    assert "Template Ours brought in" in page and page.count("<b>Ours</b>") == 2
    client.post(f"/block/templates/{code}/drop")
    assert client.get("/block/new").text.count("<b>Ours</b>") == 1
    assert client.post("/block/templates/strength/drop").status_code == 404
    assert client.get("/block/templates/nothing.json").status_code == 404


# --- quick edits


def test_many_loads_in_one_change_or_none(app: Flask, client: FlaskClient) -> None:
    here = cells(app, 5)
    ids = " ".join(str(cell.id) for cell in here[4:7])

    def send(loads: str, which: str = ids):  # type: ignore[no-untyped-def]
        return client.post("/block/3/edits?lift=5", data={"cells": which, "loads": loads})

    for loads, which, status in (
        ("90 91 90", ids, 422),
        ("90 90", ids, 422),
        ("90 x 90", ids, 422),
        ("nan 90 90", ids, 422),
        ("1e9 90 90", ids, 422),
        ("90", str(here[0].id), 409),
        ("90", "999999", 404),
        ("", "", 422),
        ("-5 90 90", ids, 422),
    ):
        response = send(loads, which)
        assert response.status_code == status, (loads, response.text[:200])
    assert [cell.id for cell in cells(app, 5)] == [cell.id for cell in here], "all or none"
    answer = send("90 92.5 95").json
    assert {cell.load_kg for cell in cells(app, 5)[4:7]} == {90, 92.5, 95}
    assert set(answer["cells"]) >= set(ids.split()) and "data-load" in answer["cells"][ids.split()[0]]
    assert "Publish" in answer["acts"], "what can be done now comes with the answer"
    undo = answer["acts"].split('action="')[1].split('"')[0]
    assert client.post(undo).status_code == 302
    assert [cell.load_kg for cell in cells(app, 5)] == [cell.load_kg for cell in here]
    redo = undo.replace("undo", "redo")
    assert client.post(redo).status_code == 302
    assert cells(app, 5)[5].load_kg == 92.5
    assert client.post(redo).status_code == 409


def test_nobody_stopped_or_limited_gets_a_load_by_quick_edit(app: Flask, client: FlaskClient) -> None:
    client.post(
        f"/health-list/{athlete_id(app, 'Ines Okafor')}/limits",
        data={
            "target": "movement:back_squat",
            "kind": "load at most",
            "load_kg": "60",
            "from_on": "2026-11-23",
            "until_on": "",
            "words": "",
            "set_by": "M. Ferro",
            "role": "physio",
            "set_role": "physio",
        },
    )
    here = cells(app, 5, "Ines Okafor")[4]
    if (here.load_kg or 0) <= 60:
        response = client.post("/block/3/edits?lift=5", data={"cells": str(here.id), "loads": "80"})
        assert response.status_code == 422 and "at most 60 kg" in response.json["problem"]
    stopped = cells(app, 5, "Beatriz Solheim")[4]
    response = client.post("/block/3/edits?lift=5", data={"cells": str(stopped.id), "loads": "80"})
    assert response.status_code == 409
    assert cells(app, 5, "Beatriz Solheim")[4].id == stopped.id


# --- progressions on the floor


def today_block(client: FlaskClient, app: Flask, what: str, progression: str, **given: object) -> Exercise:
    """An exercise of today's session in the running block, published."""
    line = {"day": "0", "what": what, "progression": progression, "role": "second", "sets": "3", "superset": ""}
    assert client.post("/block/3/exercises", data=line).status_code == 302
    client.post("/block/3/publish")
    with reading(app) as db:
        return db.scalars(select(Exercise).order_by(Exercise.id.desc())).first()  # type: ignore[return-value]


def do_sets(client: FlaskClient, cell: Cell, load: str, reps: str, lefts: list[int], **more: str) -> None:
    for n, left in enumerate(lefts):
        data = {
            "client_id": f"{cell.id}-{n}-{load}",
            "load": load,
            "reps": reps,
            "reserve_reps": str(left),
            "pain": "0",
            "pain_character": "dull",
        }
        response = client.post(f"/floor/cells/{cell.id}/sets", data=data | more)
        assert response.status_code == 302


def newest_decision(app: Flask, cell: Cell) -> DecisionRow:
    with reading(app) as db:
        return db.scalars(
            select(DecisionRow).where(DecisionRow.cell_id == cell.id).order_by(DecisionRow.id.desc())
        ).first()  # type: ignore[return-value]


def test_a_rep_window_on_the_floor_adds_a_rep_and_the_sheet_follows(app: Flask, client: FlaskClient) -> None:
    exercise = today_block(client, app, "Front squat", "window")
    cell = cells(app, exercise.id)[0]
    assert cell.state == "load" and cell.by_ratio and cell.week == 2
    assert {c.week for c in cells(app, exercise.id) if c.kind == "deload"} == {3, 7}, (
        "with the squats, not by its own count"
    )
    assert "never tested" in client.get(f"/block/3?lift={exercise.id}&cell={cell.id}").text
    do_sets(client, cell, f"{cell.load_amount}", str(cell.reps), [3, 3, 2])
    decision = newest_decision(app, cell)
    assert (decision.code, decision.reason) == ("up", "window_reps")
    client.post(f"/review/decisions/{decision.id}")
    following = [c for c in cells(app, exercise.id) if c.kind == "work"][1]
    assert (following.reps, following.load_kg) == (cell.reps + 1, cell.load_kg)
    assert {c.week for c in cells(app, exercise.id) if c.kind == "deload"} == {3, 7}
    late = client.post(f"/review/decisions/{decision.id}")
    assert late.status_code == 409, "answered once"


def test_an_earned_week_asks_its_three_questions(app: Flask, client: FlaskClient) -> None:
    exercise = today_block(client, app, "Front squat", "earned")
    cell = cells(app, exercise.id)[0]
    do_sets(client, cell, f"{cell.load_amount}", "6", [3, 3, 3])
    assert newest_decision(app, cell).reason == "earned_ask"
    marit = athlete_id(app, "Marit Holm")
    floor = client.get(f"/floor/?lift={exercise.id}&athlete={marit}").text
    assert "Sound?" in floor and "Too easy?" in floor
    assert "Sound?" in client.get("/review/").text
    client.post(
        f"/floor/cells/{cell.id}/answers", data={"sound": "yes", "sure": "yes", "too_easy": "yes", "back": "floor"}
    )
    decision = newest_decision(app, cell)
    assert (decision.code, decision.reason) == ("up", "earned_up")
    client.post(f"/review/decisions/{decision.id}")
    assert (cells(app, exercise.id)[1].load_kg or 0) > (cell.load_kg or 0)
    with reading(app) as db:
        assert db.scalars(select(WeekAnswer)).one().by_id == 1


def test_the_first_set_steers_the_later_ones_on_the_floor(app: Flask, client: FlaskClient) -> None:
    exercise = today_block(client, app, "Romanian deadlift", "effort")
    cell = cells(app, exercise.id)[0]
    marit = athlete_id(app, "Marit Holm")
    page = f"/floor/?lift={exercise.id}&athlete={marit}"
    do_sets(client, cell, f"{cell.load_amount}", str(cell.reps), [0])
    low = client.get(page).text
    assert "−6 % after the first set" in low
    asked = float(low.split('name="load" value="')[1].split('"')[0])
    assert asked < float(cell.load_amount or 0)


def test_work_without_a_load_is_logged_and_its_reps_grow(app: Flask, client: FlaskClient) -> None:
    exercise = today_block(client, app, "Ball curl, two legs", "window")
    cell = cells(app, exercise.id)[0]
    assert cell.state == "work" and cell.load_kg is None
    assert f"3 × {cell.reps}" in client.get(f"/block/3?lift={exercise.id}").text
    do_sets(client, cell, "0", str(cell.reps), [3, 3, 3])
    decision = newest_decision(app, cell)
    assert decision.reason == "window_reps"
    client.post(f"/review/decisions/{decision.id}")
    assert (
        cells(app, exercise.id)[1].reps in (cell.reps, cell.reps + 1)
        and cells(app, exercise.id)[2].reps == cell.reps + 1
    )


def test_a_hold_is_logged_in_seconds_and_grows(app: Flask, client: FlaskClient) -> None:
    exercise = today_block(client, app, HOLD, "holds")
    cell = cells(app, exercise.id)[0]
    assert (cell.state, cell.hold_s) == ("work", 15)
    do_sets(client, cell, "0", "1", [2, 2, 2], hold_s="15")
    decision = newest_decision(app, cell)
    assert decision.reason == "hold_longer"
    client.post(f"/review/decisions/{decision.id}")
    assert [c.hold_s for c in cells(app, exercise.id)][:3] == [15, 20, 25]


def test_help_of_a_band_is_less_than_nothing(app: Flask, client: FlaskClient) -> None:
    exercise = today_block(client, app, movements()["nordic_band"].name, "window")
    cell = cells(app, exercise.id)[0]
    do_sets(client, cell, "-15", "8", [2])
    with reading(app) as db:
        entry = db.scalars(select(SetEntry).where(SetEntry.cell_id == cell.id)).one()
        assert entry.load_kg == -15
    bad = {"client_id": "b", "load": "-500", "reps": "8", "pain": "0", "pain_character": "dull"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=bad).status_code == 422
    squat = cells(app, 5)[2]
    assert client.post(f"/floor/cells/{squat.id}/sets", data=bad | {"load": "-15"}).status_code == 422


def test_a_limit_puts_something_like_it_in_place_with_the_reason(app: Flask, client: FlaskClient) -> None:
    data = {
        "target": "movement:back_squat",
        "kind": "not at all",
        "load_kg": "",
        "from_on": "2026-11-24",
        "until_on": "",
        "words": "",
        "set_by": "M. Ferro",
        "role": "physio",
        "set_role": "physio",
    }
    client.post(f"/health-list/{athlete_id(app, 'Ines Okafor')}/limits", data=data)
    cell = cells(app, 5, "Ines Okafor")[4]
    assert cell.state == "level" and cell.movement not in ("", "back_squat") and cell.stands_in == "limit"
    sheet = client.get("/block/?lift=5").text
    assert "stands in" in sheet.split("Ines Okafor</a>")[1].split("</tr>")[0]
    assert "instead of back squat: a limit" in client.get(f"/block/?lift=5&cell={cell.id}").text


def test_publish_counts_what_differs_and_says_nothing_when_nothing_does(app: Flask, client: FlaskClient) -> None:
    cell = cells(app, 5)[4]
    assert cell.live and cell.load_amount is not None
    for load, words in ((cell.load_amount + 5, "Publish 1 change<"), (cell.load_amount, "To the floor")):
        now = cells(app, 5)[4]
        data = {"load": f"{load:g}", "bar": cell.bar}
        assert client.post(f"/block/cells/{now.id}", data=data).status_code == 302
        assert words in client.get("/block/3?lift=5").text, load


def test_what_the_room_lacks_is_said_while_planning(client: FlaskClient, app: Flask) -> None:
    assert "in this room: something like it stands in" not in client.get("/block/new?template=strength").text
    with app.extensions["database"].writing() as db:
        room = db.scalars(select(RoomRow).order_by(RoomRow.id)).first()
        assert room is not None
        room.equipment = [code for code in room.equipment if code != "ball"]
    page = client.get("/block/new?template=strength").text
    assert "no large ball in this room: something like it stands in" in page
