"""An exercise's day, order and going wait for Publish; the past keeps its day; what moves a plan is one history."""

import datetime as dt

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select, update

from backsquat.core.roles import Role
from backsquat.storage.models import Block, Cell, Exercise, ExerciseWeek, SetEntry
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.floor.sessions import sessions_in_week
from backsquat.work.plan.blocks import ExerciseFacts
from backsquat.work.plan.cells import publish
from backsquat.work.plan.exercises import change_exercise
from backsquat.work.sessions.blocks import session_day, to_come
from tests.demo_club import athlete_id, current_cells, live_cell, reading

SQUAT, HINGE = 5, 7  # of the November wave, Mondays and Wednesdays; the demo's today is Monday of its third week
THIS_WEEK = dt.date(2026, 11, 23)


def coach(now: dt.datetime) -> Actor:
    return Actor(1, 1, now, Role.COACH)


def on_floor(app: Flask, weeks_on: int = 0) -> list[tuple[str, str]]:
    """What the floor has in a week: day and movement, in order."""
    with reading(app) as db:
        found = sessions_in_week(db, 1, THIS_WEEK + dt.timedelta(weeks=weeks_on))
        return [(item.day.strftime("%a"), exercise.movement) for item in found for exercise in item.exercises.values()]


def to_day(client: FlaskClient, exercise: int, day: int) -> str:
    data = {"day": str(day), "role": "main", "progression": "wave"}
    return client.post(f"/block/exercises/{exercise}", data=data, follow_redirects=True).text


def newest(client: FlaskClient, way: str = "undo") -> str:
    """The address of the button, and what it says."""
    page = client.get(f"/block/3?lift={SQUAT}").text
    return page.split(f'action="/block/3/{way}/')[1].split('"')[0].split("?")[0]


def label(client: FlaskClient, way: str = "Undo") -> str:
    page = client.get(f"/block/3?lift={SQUAT}").text
    return page.split(f'title="{"Undo" if way == "Undo" else "Do again"}: ')[1].split('"')[0]


def test_another_day_reaches_the_floor_with_publish_and_the_past_keeps_its_own(app: Flask, client: FlaskClient) -> None:
    before = {weeks: on_floor(app, weeks) for weeks in (-1, 0, 1)}
    assert ("Wed", "romanian_deadlift") in before[1]
    assert "To the floor" in client.get(f"/block/3?lift={HINGE}").text, "nothing waits"
    to_day(client, HINGE, 4)
    assert {weeks: on_floor(app, weeks) for weeks in (-1, 0, 1)} == before
    page = client.get(f"/block/3?lift={HINGE}").text
    assert "1 change</button>" in page
    assert "the floor once" in client.get("/block/3/exercises").text
    client.post("/block/3/publish")
    assert on_floor(app, -1) == before[-1], "the past keeps the day it had"
    for weeks in (0, 1):
        assert ("Fri", "romanian_deadlift") in on_floor(app, weeks)
        assert ("Wed", "romanian_deadlift") not in on_floor(app, weeks)
    with reading(app) as db:
        exercise = db.get_one(Exercise, HINGE)
        assert [session_day(exercise, week).weekday() for week in range(4)] == [2, 2, 4, 4], "the sheet says the same"


def test_an_undo_before_publishing_leaves_nothing_to_publish(app: Flask, client: FlaskClient) -> None:
    to_day(client, HINGE, 4)
    assert label(client) == "Romanian deadlift changed"
    page = client.post(f"/block/3/undo/{newest(client)}", follow_redirects=True).text
    assert "Undone: Romanian deadlift changed." in page and "To the floor" in page
    assert client.post("/block/3/publish").status_code == 409
    again = newest(client, "redo")
    assert "Done again: Romanian deadlift changed." in client.post(f"/block/3/redo/{again}", follow_redirects=True).text
    client.post("/block/3/publish")
    assert ("Fri", "romanian_deadlift") in on_floor(app, 1)


def test_a_session_that_has_begun_stays_where_it_is(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {"client_id": "one", "load": f"{cell.load_amount}", "reps": "3", "reserve_reps": "2", "pain": "0"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
    to_day(client, SQUAT, 1)
    client.post("/block/3/publish")
    assert ("Mon", "back_squat") in on_floor(app) and ("Tue", "back_squat") in on_floor(app, 1)
    with reading(app) as db:
        entry = db.scalars(select(SetEntry).where(SetEntry.client_id == "one")).one()
        assert entry.done_on == THIS_WEEK
    two = data | {"client_id": "two"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=two).status_code == 302
    with reading(app) as db:
        assert db.scalars(select(SetEntry).where(SetEntry.client_id == "two")).one().done_on == THIS_WEEK


def test_a_day_that_has_passed_this_week_begins_next_week(app: Flask, client: FlaskClient) -> None:
    to_day(client, HINGE, 0)  # today, still to come
    client.post("/block/3/publish")
    assert ("Mon", "romanian_deadlift") in on_floor(app) and ("Wed", "romanian_deadlift") in on_floor(app, -1)
    with app.extensions["database"].writing() as db:
        block = db.get_one(Block, 3)
        wednesday = coach(dt.datetime(2026, 11, 25, 12))
        change_exercise(WorkContext(db, wednesday), SQUAT, ExerciseFacts(1, "back_squat", "wave"))  # Tuesday has passed
        publish(WorkContext(db, wednesday), block.id)
    assert ("Mon", "back_squat") in on_floor(app) and ("Tue", "back_squat") in on_floor(app, 1)


def test_order_waits_for_publish_and_has_an_undo(app: Flask, client: FlaskClient) -> None:
    to_day(client, HINGE, 0)
    client.post("/block/3/publish")
    before = on_floor(app, 1)
    page = client.post(f"/block/exercises/{HINGE}/move", data={"way": "earlier"}, follow_redirects=True).text
    assert "once you publish" in page
    assert on_floor(app, 1) == before and label(client) == "Romanian deadlift moved"
    client.post("/block/3/publish")
    assert on_floor(app, 1) != before and on_floor(app, -1) != on_floor(app, 1)
    client.post(f"/block/3/undo/{newest(client)}")
    assert on_floor(app, 1) != before, "the undo waits too"
    client.post("/block/3/publish")
    assert on_floor(app, 1) == before
    top = client.post(f"/block/exercises/{SQUAT}/move", data={"way": "earlier"}, follow_redirects=True).text
    assert "once you publish" not in top, "nothing moved, nothing to undo"


def test_taken_out_it_is_on_the_floor_until_publish_and_its_past_stays(app: Flask, client: FlaskClient) -> None:
    client.post(f"/block/exercises/{HINGE}/out")
    assert "until you publish" in client.get("/block/3/exercises").text
    assert ("Wed", "romanian_deadlift") in on_floor(app)
    client.post("/block/3/publish")
    assert not any(movement == "romanian_deadlift" for _, movement in on_floor(app))
    assert ("Wed", "romanian_deadlift") in on_floor(app, -1)


def test_a_block_that_is_over_moves_no_more(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        old = db.scalars(select(Block).where(Block.first_week < dt.date(2026, 11, 1)).order_by(Block.id)).first()
        assert old is not None
        exercise = old.exercises[0]
        day, progression = exercise.weekday, exercise.progression
    data = {"day": str((day + 1) % 7), "role": "main", "progression": progression}
    response = client.post(f"/block/exercises/{exercise.id}", data=data)
    assert response.status_code == 422 and "keeps its day" in response.text


@pytest.mark.parametrize("day", ["9", "-1", "x", ""])
def test_nonsense_for_a_day_is_no_error(app: Flask, client: FlaskClient, day: str) -> None:
    data = {"day": day, "role": "main", "progression": "wave"}
    assert client.post(f"/block/exercises/{HINGE}", data=data).status_code in (302, 422)


# --- one history


def test_undo_takes_back_the_newest_whatever_it_is_and_redo_only_what_was_just_undone(
    app: Flask, client: FlaskClient
) -> None:
    cell = current_cells(app, "Marit Holm", SQUAT)[4]
    client.post(f"/block/cells/{cell.id}", data={"load": "95", "bar": cell.bar})
    assert label(client) == "Marit Holm, week 5: 95 kg"
    to_day(client, HINGE, 4)
    marit = athlete_id(app, "Marit Holm")
    client.post("/block/3/check/ease?week=2026-12-07", data={"athlete": str(marit)})
    assert label(client) == "Marit Holm: week 5 made a deload week"
    for said in ("Marit Holm: week 5 made a deload week", "Romanian deadlift changed", "Marit Holm, week 5: 95 kg"):
        assert label(client) == said
        client.post(f"/block/3/undo/{newest(client)}")
    assert current_cells(app, "Marit Holm", SQUAT)[4].load_kg == cell.load_kg
    assert label(client, "Redo") == "Marit Holm, week 5: 95 kg", "in the order they were done"
    first = newest(client, "redo")
    client.post(f"/block/3/redo/{first}")
    assert label(client, "Redo") == "Romanian deadlift changed"
    other = current_cells(app, "Petra Skov", SQUAT)[4]
    client.post(f"/block/cells/{other.id}", data={"load": "80", "bar": other.bar})
    assert "Do again: " not in client.get(f"/block/3?lift={SQUAT}").text, "something else was done since"
    client.post(f"/block/3/undo/{newest(client)}")
    assert label(client, "Redo") == "Petra Skov, week 5: 80 kg", "never what was undone before that"
    assert client.post(f"/block/3/redo/{int(first) + 1}").status_code == 409


def test_joining_a_block_is_named_undone_and_gone_from_the_floor_with_publish(app: Flask, client: FlaskClient) -> None:
    facts = {"name": "Signe Aalto", "born_on": "2001-03-04", "body_mass_kg": "68", "position": "", "newcomer": ""}
    client.post("/athletes/new", data=facts)
    signe = athlete_id(app, "Signe Aalto")
    client.post("/block/3/replan", data={"athlete": str(signe)})
    assert label(client) == "Signe Aalto joins the block"
    client.post("/block/3/publish")
    with reading(app) as db:
        there = select(Cell).join(
            ExerciseWeek, (ExerciseWeek.exercise_id == Cell.exercise_id) & (ExerciseWeek.week == Cell.week)
        )
        assert db.scalars(there.where(Cell.athlete_id == signe, Cell.live)).all()
    page = client.post(f"/block/3/undo/{newest(client)}", follow_redirects=True).text
    assert "Undone: Signe Aalto joins the block." in page
    assert not current_cells(app, "Signe Aalto", SQUAT)
    client.post("/block/3/publish")
    with reading(app) as db:
        assert not db.scalars(select(Cell).where(Cell.athlete_id == signe, Cell.live)).all()
    client.post(f"/block/3/redo/{newest(client, 'redo')}")
    assert current_cells(app, "Signe Aalto", SQUAT)


# --- a move that waits, seen from the floor


def test_a_set_of_today_is_todays_although_the_exercise_is_moved_on_the_sheet(app: Flask, client: FlaskClient) -> None:
    to_day(client, SQUAT, 4)  # Friday, as a draft: the floor lifts today
    cell = live_cell(app, "Marit Holm", 2)
    data = {"client_id": "now", "load": f"{cell.load_amount}", "reps": "3", "reserve_reps": "2", "pain": "0"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
    with reading(app) as db:
        assert db.scalars(select(SetEntry.done_on).where(SetEntry.client_id == "now")).one() == THIS_WEEK


def test_what_the_floor_had_and_has_passed_is_planned_no_more(app: Flask, client: FlaskClient) -> None:
    to_day(client, SQUAT, 4)
    with reading(app) as db:
        exercise = db.get_one(Exercise, SQUAT)
        assert session_day(exercise, 2) == dt.date(2026, 11, 27)
        assert to_come(exercise, 2, THIS_WEEK), "today the floor still has it"
        assert not to_come(exercise, 2, dt.date(2026, 11, 25)), (
            "on Wednesday the floor's Monday is past, whatever the sheet says"
        )
        assert to_come(exercise, 3, dt.date(2026, 11, 25))


def test_a_exercise_taken_out_keeps_what_has_begun_today(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {"client_id": "one", "load": f"{cell.load_amount}", "reps": "3", "reserve_reps": "2", "pain": "0"}
    client.post(f"/floor/cells/{cell.id}/sets", data=data)
    client.post(f"/block/exercises/{SQUAT}/out")
    client.post("/block/3/publish")
    assert ("Mon", "back_squat") in on_floor(app), "they are in the middle of it"
    assert ("Mon", "back_squat") not in on_floor(app, 1)


def test_a_exercise_taken_out_keeps_its_past_although_nobody_came(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        db.execute(update(SetEntry).values(standing=False))
    client.post(f"/block/exercises/{HINGE}/out")
    client.post("/block/3/publish")
    assert ("Wed", "romanian_deadlift") in on_floor(app, -1)
    assert ("Wed", "romanian_deadlift") not in on_floor(app)
