"""A missed session is seen, holds the next number back, and is answered in one act; an open decision likewise."""

import datetime as dt

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select, update

from backsquat.storage.models import Block, Cell, DecisionRow, Exercise, MissedAnswer, SetEntry
from tests.demo_club import athlete_id, current_cells, live_cell, reading, undo_of

AYLA = "Ayla Demirel"
HINGES = 6  # the November block's exercise of Romanian deadlifts, on Wednesdays
TOMORROW = dt.date(2026, 11, 25)


def hinge_session(app: Flask) -> int:
    with reading(app) as db:
        block = db.scalars(select(Block).where(Block.name == "November wave")).one()
        return next(exercise.session_id for exercise in block.exercises if exercise.movement == "romanian_deadlift")


def hinge_cells(app: Flask, name: str = AYLA) -> list[Cell]:
    with reading(app) as db:
        block = db.scalars(select(Block).where(Block.name == "November wave")).one()
        exercise = next(exercise.id for exercise in block.exercises if exercise.movement == "romanian_deadlift")
    return current_cells(app, name, exercise)


def answer(client: FlaskClient, app: Flask, choice: str, *athletes: int) -> str:
    data = {"choice": choice, "athlete": [str(one) for one in athletes]}
    return client.post(f"/review/missed/{hinge_session(app)}", data=data, follow_redirects=True).text


def test_who_stayed_away_is_seen_on_squad_review_and_sheet(app: Flask, client: FlaskClient) -> None:
    line = client.get("/?show=needs-me").text.split(">Ayla Demirel</a>")[1].split("</tr>")[0]
    assert "1 missed" in line
    review = client.get("/review/").text
    assert "Ayla Demirel was planned and logged nothing." in review and "Romanian deadlift" in review
    exercise = hinge_cells(app)[0].exercise_id
    row = client.get(f"/block/?lift={exercise}").text.split(">Ayla Demirel</a>")[1].split("</tr>")[0]
    week = row.split(f'data-cell="{hinge_cells(app)[1].id}"')[1].split("</td>")[0]
    assert ">missed<" in week
    away = client.get(f"/block/?lift={exercise}").text.split(">Jorunn Petit</a>")[1].split("</tr>")[0]
    assert ">missed<" not in away, "who was away has missed nothing"


def test_who_has_come_since_is_not_asked_about_before(app: Flask, client: FlaskClient) -> None:
    """The sets of the first Wednesday become those of the second: the first is missed, and she has come since."""
    ayla = athlete_id(app, AYLA)
    assert "planned and logged nothing" in client.get("/review/").text
    with app.extensions["database"].writing() as db:
        same_day = select(Cell.id, Cell.exercise_id, Cell.week).where(Cell.athlete_id == ayla, Cell.live)
        cells = {(exercise, week): cell for cell, exercise, week in db.execute(same_day)}
        for cell, exercise, week in db.execute(same_day).all():
            if week == 0 and (exercise, 1) in cells:
                entries = select(SetEntry).where(SetEntry.cell_id == cell, SetEntry.athlete_id == ayla)
                for entry in db.scalars(entries):
                    entry.cell_id, entry.done_on = cells[exercise, 1], entry.done_on + dt.timedelta(weeks=1)
    assert "Ayla Demirel was planned and logged nothing." not in client.get("/review/").text


def test_until_it_is_answered_the_floor_offers_no_more_than_what_was_missed(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        climbs = db.get_one(Cell, hinge_cells(app)[2].id)
        climbs.load_kg, climbs.load_amount = (climbs.load_kg or 0) + 5, (climbs.load_amount or 0) + 5
    cells = hinge_cells(app)
    assert (cells[2].load_kg or 0) > (cells[1].load_kg or 0), "the plan climbs"
    address = f"/floor/?lift={cells[2].exercise_id}&athlete={athlete_id(app, AYLA)}"
    page = client.get(address).text
    missed = f"{cells[1].load_amount:g}"
    assert f"Missed 18 Nov, not answered yet. {missed} instead of {cells[2].load_amount:g} until it is." in page
    assert [cell.id for cell in hinge_cells(app)] == [cell.id for cell in cells], "nothing is replanned by itself"
    answer(client, app, "leave", athlete_id(app, AYLA))
    assert "not answered yet" not in client.get(address).text
    assert f"{cells[2].load_amount:g}" in client.get(address).text


def test_the_one_tap_of_the_floor_logs_the_held_number(app: Flask, client: FlaskClient) -> None:
    before, now = live_cell(app, "Ines Okafor", 1), live_cell(app, "Ines Okafor", 2)
    with app.extensions["database"].writing() as db:
        exercises = select(Exercise.id).where(
            Exercise.session_id
            == select(Exercise.session_id).where(Exercise.id == before.exercise_id).scalar_subquery()
        )
        cells = select(Cell.id).where(
            Cell.exercise_id.in_(exercises), Cell.week == 1, Cell.athlete_id == before.athlete_id
        )
        db.execute(update(SetEntry).where(SetEntry.cell_id.in_(cells)).values(standing=False))
    assert (now.load_kg or 0) > (before.load_kg or 0)
    page = client.get(f"/floor/?lift={now.exercise_id}&athlete={now.athlete_id}").text
    assert f'name="load" value="{before.load_amount:g}"' in page
    data = {"client_id": "held", "load": f"{before.load_amount:g}", "reps": "4", "reserve_reps": "2", "pain": "0"}
    assert client.post(f"/floor/cells/{now.id}/sets", data=data).status_code == 302
    after = client.get(f"/floor/?lift={now.exercise_id}&athlete={now.athlete_id}").text
    assert "Missed" not in after.split('class="upnext')[0], "who has begun has answered it by coming"


def test_repeated_the_missed_work_comes_first_and_one_undo_puts_all_back(app: Flask, client: FlaskClient) -> None:
    before = hinge_cells(app)
    page = answer(client, app, "repeat", athlete_id(app, AYLA))
    after = hinge_cells(app)
    working = [n for n in range(2, 8) if before[n].kind == "work"]
    asked = [(cell.load_kg, cell.sets, cell.reps) for cell in before]
    moved = [(cell.load_kg, cell.sets, cell.reps) for cell in after]
    assert moved[working[0]] == asked[1], "the missed work"
    assert [moved[n] for n in working[1:]] == [asked[n] for n in working[:-1]], "the rest moves one session on"
    assert all(moved[n] == asked[n] for n in range(8) if n not in working), "deload weeks stay where they are"
    assert all(after[n].live and after[n].origin == "decision" for n in working)
    assert "was planned and logged nothing" not in client.get("/review/").text
    client.post(undo_of(page))
    back = hinge_cells(app)
    assert [(cell.load_kg, cell.sets, cell.reps) for cell in back] == asked and all(cell.live for cell in back)
    assert "Ayla Demirel was planned and logged nothing." in client.get("/review/").text


def test_eased_the_first_of_it_is_lighter_and_shorter(app: Flask, client: FlaskClient) -> None:
    before = hinge_cells(app)
    answer(client, app, "ease", athlete_id(app, AYLA))
    first = hinge_cells(app)[2]
    assert 0 < (first.load_kg or 0) <= 0.95 * (before[1].load_kg or 0) + 1e-9
    assert first.sets == -(-before[1].sets // 2)


def test_a_session_the_whole_squad_missed_is_one_line_and_one_answer(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        cells = select(Cell.id).where(
            Cell.exercise_id.in_([cell.exercise_id for cell in hinge_cells(app)]), Cell.week == 1
        )
        other = db.scalars(select(Block).where(Block.name == "November wave")).one()
        exercises = [exercise.id for exercise in other.exercises if exercise.session_id == hinge_session(app)]
        cells = select(Cell.id).where(Cell.exercise_id.in_(exercises), Cell.week == 1)
        db.execute(update(SetEntry).where(SetEntry.cell_id.in_(cells)).values(standing=False))
    page = client.get("/review/").text
    assert page.count("were planned.") == 1 and "Nobody came:" in page and "logged nothing" not in page
    people = [int(part.split('"')[0]) for part in page.split('name="athlete" value="')[1:]]
    assert len(people) > 10
    done = answer(client, app, "leave", *people)
    assert f"{len(people)} answered" in done and "Nobody came:" not in client.get("/review/").text


def test_an_answer_for_nobody_nonsense_and_twice(app: Flask, client: FlaskClient) -> None:
    assert "nobody was ticked" in answer(client, app, "repeat")
    where = f"/review/missed/{hinge_session(app)}"
    ayla = str(athlete_id(app, AYLA))
    assert client.post(where, data={"choice": "forget", "athlete": ayla}).status_code == 404
    assert client.post("/review/missed/999999", data={"choice": "leave", "athlete": ayla}).status_code == 409
    assert client.post(where, data={"choice": "leave", "athlete": "x"}).status_code == 302
    assert client.post(where, data={"choice": "leave", "athlete": ayla}).status_code == 302
    assert client.post(where, data={"choice": "repeat", "athlete": ayla}).status_code == 409
    with reading(app) as db:
        assert [row.answer for row in db.scalars(select(MissedAnswer))] == ["leave"]


def waiting(app: Flask, name: str) -> tuple[DecisionRow, Cell]:
    with reading(app) as db:
        row, cell = db.execute(
            select(DecisionRow, Cell)
            .join(Cell, DecisionRow.cell_id == Cell.id)
            .where(DecisionRow.athlete_id == athlete_id(app, name), ~DecisionRow.settled)
        ).first()  # type: ignore[misc]
        return row, cell


def open_decision(app: Flask, name: str, code: str, next_kg: float) -> str:
    """The waiting decision made one of this code; the address of the floor's next card of that exercise."""
    row, cell = waiting(app, name)
    with app.extensions["database"].writing() as db:
        held = db.get_one(DecisionRow, row.id)
        held.code, held.following = code, {**held.following, "next_kg": next_kg, "next_load": f"{next_kg:g}"}  # type: ignore[assignment]
    return f"/floor/?lift={cell.exercise_id}&athlete={athlete_id(app, name)}"


def test_an_unanswered_down_holds_on_the_floor_until_it_is_answered(app: Flask, client: FlaskClient) -> None:
    row, cell = waiting(app, "Tove Lindqvist")
    following = next(one for one in current_cells(app, "Tove Lindqvist", cell.exercise_id) if one.week == cell.week + 1)
    lower = (following.load_kg or 0) - 5
    address = open_decision(app, "Tove Lindqvist", "down", lower)
    page = client.get(address).text
    assert f"{lower:g} instead of {following.load_amount:g} until it is." in page and "Not answered since" in page
    assert client.post("/rules", data={"open_decisions": "say"}).status_code in (302, 422)
    client.post(f"/review/decisions/{row.id}", data={"code": "up", "reason": "looked strong"})
    assert "until it is." not in client.get(address).text


def test_an_unanswered_raise_is_said_and_never_applies_itself(app: Flask, client: FlaskClient) -> None:
    _row, cell = waiting(app, "Tove Lindqvist")
    following = next(one for one in current_cells(app, "Tove Lindqvist", cell.exercise_id) if one.week == cell.week + 1)
    address = open_decision(app, "Tove Lindqvist", "up", (following.load_kg or 0) + 10)
    page = client.get(address).text
    assert "Not answered since" in page and "until it is." not in page
    assert f"{following.load_amount:g}" in page


def test_the_coachs_own_load_since_is_the_coachs_word(app: Flask, client: FlaskClient) -> None:
    cells = hinge_cells(app)
    own = {"load": f"{(cells[2].load_amount or 0) + 5:g}", "bar": cells[2].bar}
    assert client.post(f"/block/cells/{cells[2].id}", data=own).status_code == 302
    client.post("/block/3/publish")
    page = client.get(f"/floor/?lift={cells[2].exercise_id}&athlete={athlete_id(app, AYLA)}").text
    assert "Missed 18 Nov" in page and "until it is." not in page
    assert live_cell(app, AYLA, 2, "romanian_deadlift").load_amount == (cells[2].load_amount or 0) + 5


def test_what_waits_to_be_published_is_neither_moved_nor_published_by_an_answer(
    app: Flask, client: FlaskClient
) -> None:
    with app.extensions["database"].writing() as db:  # as planning again leaves it: a draft beside a live number
        live = db.get_one(Cell, hinge_cells(app)[4].id)
        columns = {name: getattr(live, name) for name in (c.key for c in Cell.__table__.columns) if name != "id"}
        live.current = False
        db.flush()
        db.add(Cell(**columns | {"live": False, "version_id": None, "replaces_id": live.id, "sets": live.sets + 1}))
    page = answer(client, app, "repeat", athlete_id(app, AYLA))
    waiting = hinge_cells(app)[4]
    assert not waiting.live and waiting.replaces_id == live.id
    assert live_cell(app, AYLA, 4, "romanian_deadlift").id == live.id
    client.post(undo_of(page))
    assert not hinge_cells(app)[4].live
