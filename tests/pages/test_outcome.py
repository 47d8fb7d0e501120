"""What came of a block: what the log says of it, with names and without, on one page."""

import datetime as dt
import re
from dataclasses import replace

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select, update

from backsquat.core.progression.cell import LIFTED
from backsquat.core.rules import Rules
from backsquat.core.working import plain
from backsquat.library.battery import screens
from backsquat.storage.models import Athlete, Block, Cell, ScreenResult, SetEntry
from backsquat.work.log.estimates import current_values
from backsquat.work.overview.outcome import MeasuredOutcome
from tests.demo_club import athlete_id, reading
from tests.pages.test_exports import unpacked


def test_what_came_of_a_block_says_what_the_log_says(app: Flask, client: FlaskClient) -> None:
    """Sets counted one by one; a maximum before and after as the athlete's page would have had it on those days."""
    page = client.get("/block/2/outcome").text
    with reading(app) as db:
        block = db.get_one(Block, 2)
        exercises = {exercise.id for exercise in block.exercises if not exercise.spare}
        cells = db.scalars(select(Cell).where(Cell.exercise_id.in_(exercises), Cell.live, Cell.state.in_(LIFTED))).all()
        done = sum(
            1
            for cell in cells
            for _ in set(db.scalars(select(SetEntry.set_number).where(SetEntry.cell_id == cell.id, SetEntry.standing)))
        )
        marit = athlete_id(app, "Marit Holm")
        days = block.first_week, block.first_week + dt.timedelta(weeks=block.weeks, days=-1)
        before, after = (current_values(db, [marit], "back_squat", day, Rules())[marit].max_kg for day in days)
    assert f"{done} of {sum(cell.sets for cell in cells)}" in page
    row = page.split("As a table")[1].split("Marit Holm")[1][:160]
    assert f"{plain(before)} kg" in row and f"{plain(after)} kg" in row
    assert "tired from travel" in page and "Suri Valdez, 23 Sep" in page


def test_without_names_nobodys_name_is_on_the_page(app: Flask, client: FlaskClient, assistant: FlaskClient) -> None:
    page = client.get("/block/2/outcome?names=no").text
    with reading(app) as db:
        names = set(db.scalars(select(Athlete.name)))
    assert "Athlete 1" in page and not [name for name in names if name in page] and "tired from travel" not in page
    assert client.get("/block/2/outcome?names=no&pdf=a4").data[:4] == b"%PDF"
    assert assistant.get("/block/2/outcome").status_code == 403
    assert client.get("/block/999/outcome").status_code == 404


def test_what_came_of_a_block_says_jumps_and_sides(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        block = db.scalars(select(Block).where(Block.name == "Autumn wave")).one()
        db.execute(update(ScreenResult).where(ScreenResult.screen == "jump").values(replaced=True))
        for value, week in ((30.0, -1), (33.4, 7)):
            day = block.first_week + dt.timedelta(weeks=week, days=2)
            about = {"screen": "jump", "side": "", "note": "", "by_id": 1, "at": dt.datetime.combine(day, dt.time(9))}
            for athlete in (1, 2):
                db.add(ScreenResult(athlete_id=athlete, value=value - athlete, done_on=day, **about))
    page = client.get(f"/block/{block.id}/outcome").text
    assert "Countermovement jump" in page and "within 1.5 cm says nothing" in page
    assert "<td>29 cm</td><td>32.4 cm</td><td>better</td>" in page
    assert ("Left and right" in page and "to act on" in page) or "noted" in page


def test_a_change_of_just_the_error_of_a_test_says_nothing() -> None:
    """31.6 less 30.1 is a little more than 1.5 in binary, and no more than the error of the jump."""
    jump = MeasuredOutcome(screens()["jump"], [])
    assert jump.beyond(30.1, 31.6) == 0 and jump.beyond(30.0, 31.6) == 1 and jump.beyond(31.6, 30.0) == -1
    sprint = MeasuredOutcome(replace(screens()["jump"], error=0.05, less_is_better=True), [])
    assert sprint.beyond(3.2, 3.1) == 1 and sprint.beyond(3.1, 3.2) == -1


def test_for_the_head_of_the_club_it_is_one_page(client: FlaskClient) -> None:
    found = [client.get(f"/block/2/outcome?pdf=a4{more}").data for more in ("", "&names=no", "&tables=yes")]
    pages = [len(re.findall(rb"/Type /Page\b", unpacked(pdf))) for pdf in found]
    assert pages[:2] == [1, 1] and pages[2] > 1
