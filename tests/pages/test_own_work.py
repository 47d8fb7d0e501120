"""Other work for one athlete in the place of the squad's, and the road to the bar beside the squad."""

import datetime as dt
import re

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.cell import StandIn, State
from backsquat.core.readiness.road import road_movements
from backsquat.storage.models import Block, Cell, Exercise, ExerciseWeek, SessionDay
from backsquat.work.context import library_of
from tests.demo_club import athlete_id, current_cells, let_through, reading

TODAY = dt.date(2026, 11, 23)


def exercise_of(app: Flask, movement: str, block: str = "November wave") -> tuple[int, int]:
    """Exercise and block of a movement."""
    with reading(app) as db:
        found = db.execute(
            select(Exercise.id, Exercise.block_id)
            .join(Block, Block.id == Exercise.block_id)
            .where(Exercise.movement == movement, Block.name == block, ~Exercise.removed)
        )
        return found.first()  # type: ignore[return-value]


def said(cells: list[Cell]) -> list[tuple[State, str, float | None]]:
    return [(cell.state, cell.movement, cell.load_kg) for cell in cells]


def floor_of(client: FlaskClient, app: Flask, exercise: int, week: int, athlete: int) -> str:
    with reading(app) as db:
        held, day = db.execute(
            select(ExerciseWeek.session_id, SessionDay.held_on)
            .join(
                SessionDay, (SessionDay.session_id == ExerciseWeek.session_id) & (SessionDay.week == ExerciseWeek.week)
            )
            .where(ExerciseWeek.exercise_id == exercise, ExerciseWeek.week == week)
        ).one()
    return client.get(f"/floor/paper/card?week={day}&session={held}.{week}&athlete={athlete}").text


def test_another_movement_from_a_week_on_and_the_way_back(app: Flask, client: FlaskClient) -> None:
    (exercise, block), marit = exercise_of(app, "back_squat"), athlete_id(app, "Marit Holm")
    before = said(current_cells(app, "Marit Holm", exercise))
    coming = [n for n, cell in enumerate(current_cells(app, "Marit Holm", exercise))]
    address, first = f"/block/exercises/{exercise}/own-work/{marit}", len(before) - 2
    assert "Does what the squad does there" in client.get(address).text
    given = client.post(address, data={"what": "goblet squat", "sets": "2", "from_week": str(first), "do": "give"})
    assert given.status_code == 302 and coming
    after = current_cells(app, "Marit Holm", exercise)
    assert said(after)[:first] == before[:first], "the weeks before stay"
    for cell in after[first:]:
        assert (cell.state, cell.movement, cell.stands_in) == (State.LEVEL, "goblet_squat", StandIn.CHOSEN)
        assert cell.sets <= 2
    sheet = client.get(f"/block/{block}?lift={exercise}").text
    assert "Goblet squat" in sheet and "your choice" in sheet
    client.post(f"/block/{block}/replan", data={"from_week": "0"})
    assert said(current_cells(app, "Marit Holm", exercise))[first:] == said(after)[first:], "planning again knows of it"
    assert client.post(address, data={"do": "squad"}).status_code == 302
    back = current_cells(app, "Marit Holm", exercise)
    assert all(cell.state is State.LOAD and not cell.movement for cell in back[first:])


def test_undo_brings_the_very_numbers_back(app: Flask, client: FlaskClient) -> None:
    (exercise, _), marit = exercise_of(app, "back_squat"), athlete_id(app, "Marit Holm")
    before = said(current_cells(app, "Marit Holm", exercise))
    address = f"/block/exercises/{exercise}/own-work/{marit}"
    page = client.post(address, data={"what": "Goblet squat", "do": "give"}, follow_redirects=True).text
    after = said(current_cells(app, "Marit Holm", exercise))
    assert after != before and "other work in the place of Back squat" in page
    undo = re.search(r'action="(/block/\d+/undo/\d+)"', page)
    assert undo and client.post(undo[1]).status_code == 302
    assert said(current_cells(app, "Marit Holm", exercise)) == before
    assert "Does what the squad does there" in client.get(address).text
    redo = re.search(r'action="(/block/\d+/redo/\d+)"', client.get("/block/").text)
    assert redo and client.post(redo[1]).status_code == 302
    assert said(current_cells(app, "Marit Holm", exercise)) == after


def test_left_out_is_neither_asked_nor_missed(app: Flask, client: FlaskClient) -> None:
    (exercise, block), marit = exercise_of(app, "back_squat"), athlete_id(app, "Marit Holm")
    assert client.post(f"/block/exercises/{exercise}/own-work/{marit}", data={"do": "nothing"}).status_code == 302
    cells = current_cells(app, "Marit Holm", exercise)
    week = next(cell.week for cell in cells if cell.state is State.LEFT_OUT)
    assert "left out here" in client.get(f"/block/{block}?lift={exercise}").text
    assert client.post(f"/block/{block}/publish").status_code == 302
    card = floor_of(client, app, exercise, week, marit)
    assert "Back squat" not in card and client.get("/floor/").status_code == 200
    assert client.get(f"/block/{block}/check").status_code in (200, 404)


@pytest.mark.parametrize(
    ("name", "form", "words"),
    [
        ("Liv Aasen", {"what": "Front squat"}, "not open to Liv Aasen"),
        ("Marit Holm", {"what": "Unicycle"}, "No movement of this name"),
        ("Marit Holm", {"what": "Goblet squat", "sets": "99"}, "Sets go from 1 to 8"),
        ("Marit Holm", {"what": "Goblet squat", "sets": "two"}, "Sets go from 1 to 8"),
    ],
)
def test_what_cannot_be_given_is_told_and_nothing_typed_is_lost(
    app: Flask, client: FlaskClient, name: str, form: dict[str, str], words: str
) -> None:
    exercise, _ = exercise_of(app, "back_squat")
    before = said(current_cells(app, name, exercise))
    answer = client.post(f"/block/exercises/{exercise}/own-work/{athlete_id(app, name)}", data=form | {"do": "give"})
    assert answer.status_code == 422 and words in answer.text and f'value="{form["what"]}"' in answer.text
    assert said(current_cells(app, name, exercise)) == before


def test_the_road_is_run_beside_the_squad_and_ends_at_the_bar(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, "Liv Aasen")
    assert "Put Liv on the road" in client.get(f"/ladders/{liv}").text
    page = client.post(f"/ladders/{liv}/road", follow_redirects=True).text
    assert "put on the road to the bar" in page
    with reading(app) as db:
        rows = db.execute(
            select(Exercise.session_id, Cell)
            .join(Exercise, Exercise.id == Cell.exercise_id)
            .join(Block, Block.id == Exercise.block_id)
            .where(Block.name == "November wave", Cell.athlete_id == liv, Cell.current, ~Exercise.removed)
        ).all()
        road = road_movements(library_of(db, 1))
    new = [(held, cell) for held, cell in rows if not cell.live]
    asked = {(held, cell.week) for held, cell in new}
    assert asked
    for held, week in asked:
        work = [cell for where, cell in new if (where, cell.week) == (held, week) and cell.state is State.LEVEL]
        assert 1 <= len(work) <= 3 and sum(cell.sets for cell in work) <= 12
        assert all(cell.movement in road and cell.stands_in is StandIn.CHOSEN for cell in work)
    assert "Take off the road" in client.get(f"/ladders/{liv}").text
    exercise, block = exercise_of(app, "back_squat")
    let_through(client, liv)  # the bar is open now
    client.post(f"/block/{block}/replan", data={"from_week": "0"})
    coming = [cell for cell in current_cells(app, "Liv Aasen", exercise) if not cell.live]
    assert coming and all(cell.stands_in is not StandIn.CHOSEN for cell in coming), "the road ends by itself"


def test_who_comes_off_the_road_does_what_the_squad_does(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, "Liv Aasen")

    def everything() -> list[tuple[int, int, str, int, str]]:
        with reading(app) as db:
            cells = db.scalars(select(Cell).where(Cell.athlete_id == liv, Cell.current))
            return sorted((one.exercise_id, one.week, one.movement, one.sets, one.state.value) for one in cells)

    before = everything()
    client.post(f"/ladders/{liv}/road")
    assert everything() != before
    assert client.post(f"/ladders/{liv}/road", data={"off": "y"}).status_code == 302
    assert everything() == before
    assert "No road to be run" in client.post(f"/ladders/{athlete_id(app, 'Marit Holm')}/road").text


def test_nobody_but_a_planner_gives_other_work(app: Flask, assistant: FlaskClient) -> None:
    exercise, _ = exercise_of(app, "back_squat")
    marit = athlete_id(app, "Marit Holm")
    assert assistant.post(f"/block/exercises/{exercise}/own-work/{marit}", data={"do": "nothing"}).status_code == 403
    assert assistant.post(f"/ladders/{marit}/road").status_code == 403


def test_an_exercise_of_own_levels_nobody_is_placed_for_shows_its_first_level(app: Flask, client: FlaskClient) -> None:
    _, block = exercise_of(app, "back_squat")
    line = {
        "day": "0",
        "what": "Own level: Overhead",
        "progression": "window",
        "role": "assistance",
        "sets": "3",
        "superset": "",
    }
    answer = client.post(f"/block/{block}/exercises", data={f"{name}_0": value for name, value in line.items()} | line)
    assert answer.status_code in (302, 303), answer.text
    page = client.get("/session/?week=2026-11-30").text
    assert "Overhead stick squat, facing the wall, 3 × 8" in page
