"""Exercises typed as they are said: a block from them, more of them for a block, and what is not understood."""

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select

from backsquat.core.progression.cell import ExerciseRole
from backsquat.storage.models import Block, Exercise
from tests.demo_club import reading

TEXT = """Monday
4 x 6 back squat RIR 2 rest 3 min
superset, rest 90:
3 x 8-10 goblet squat RIR 2
3 x 12 ball curl, two legs

calf raise with end hold 15 + 30 s
Thursday
romanian deadlift 3x8
back squat as wave
own squat to the bar
2 rounds
copenhagen plank, ankle on the bench 20 s each side
nordic 5 to failure
"""


def last_block(app: Flask) -> Block:
    with reading(app) as db:
        block = db.scalars(select(Block).order_by(Block.id.desc())).first()
        assert block is not None
        assert all(exercise.session.weekday is not None for exercise in block.exercises)
        return block


def test_a_typed_text_is_a_block(app: Flask, client: FlaskClient) -> None:
    data = {"name": "Typed", "first_week": "2027-01-11", "weeks": "4", "template": "typed", "typed": TEXT}
    assert client.post("/block/new", data=data).status_code == 302
    found = {(one.weekday, one.movement if not one.ladder else one.ladder): one for one in last_block(app).exercises}
    assert {key: (one.progression, one.role, one.superset, one.circuit) for key, one in found.items()} == {
        (0, "back_squat"): ("effort", ExerciseRole.MAIN, 0, False),
        (0, "goblet_squat"): ("window", ExerciseRole.ASSISTANCE, 1, False),
        (0, "ball_curl"): ("window", ExerciseRole.ASSISTANCE, 1, False),
        (0, "calf_raise"): ("window", ExerciseRole.SECOND, 0, False),
        (3, "romanian_deadlift"): ("fixed", ExerciseRole.MAIN, 0, False),
        (3, "back_squat"): ("wave", ExerciseRole.SECOND, 0, False),
        (3, "squat_to_bar"): ("ladder", ExerciseRole.ASSISTANCE, 0, False),
        (3, "groin_plank_ankle"): ("holds", ExerciseRole.ASSISTANCE, 1, True),
        (3, "nordic"): ("window", ExerciseRole.ASSISTANCE, 1, True),
    }
    squat = found[0, "back_squat"].parameters
    assert (squat["reps"], squat["reserve_reps"], squat["sets"], squat["rest_s"]) == (6, 2, 4, 180)
    assert (found[0, "goblet_squat"].parameters["low"], found[0, "goblet_squat"].rest_s) == (8, 90)
    assert found[0, "calf_raise"].parameters["end_hold_s"] == 30
    assert found[3, "nordic"].parameters["last_to_failure"] == 1


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("3x8 flying carpet", "There is no"),
        ("3x8 plank", "Which “plank”?"),
        ("5 min", "What is done here?"),
        ("3x8 back squat each side", "Both legs work at once"),
        ("3 x 40 s back squat", "is done in reps"),
        ("4x6 back squat as wave", "gives the reps of each week itself"),
        ("40x6 back squat", "Working sets: from 1 to 10"),
        ("back squat 3x8 as tide", "There is no progression"),
        ("2 rounds\nnordic 3x5\nback squat 5", "2 rounds or 3 sets?"),
    ],
)
def test_what_is_not_understood_is_said_in_its_line_and_nothing_is_stored(
    app: Flask, client: FlaskClient, line: str, said: str
) -> None:
    before = last_block(app).id
    data = {"name": "Typed", "first_week": "2027-01-11", "weeks": "4", "template": "typed", "typed": f"Monday\n{line}"}
    answer = client.post("/block/new", data=data)
    assert answer.status_code == 422 and said in answer.text and line.splitlines()[-1] in answer.text
    assert said in client.post("/block/typed", data={"typed": line, "weekday": "1"}).text
    assert last_block(app).id == before


def test_a_line_without_a_day_asks_for_it(client: FlaskClient) -> None:
    assert "On which day?" in client.post("/block/typed", data={"typed": "3x8 goblet squat"}).text
    assert "On which day?" not in client.post("/block/typed", data={"typed": "3x8 goblet squat", "weekday": "2"}).text


def test_typed_exercises_come_to_a_block_as_one_change(app: Flask, client: FlaskClient) -> None:
    block_id = last_block(app).id
    before = [one.id for one in last_block(app).exercises]
    text = "superset\n3 x 8-10 goblet squat\n3 x 12 ball curl, two legs"
    answer = client.post(f"/block/{block_id}/typed", data={"typed": text, "weekday": "5"}, follow_redirects=True)
    assert "Added as a draft: Goblet squat, Ball curl, two legs." in answer.text
    added = [one for one in last_block(app).exercises if one.id not in before]
    assert [(one.weekday, one.superset, one.role) for one in added] == [
        (5, 1, ExerciseRole.MAIN),
        (5, 1, ExerciseRole.ASSISTANCE),
    ]
    again = client.post(f"/block/{block_id}/typed", data={"typed": text, "weekday": "5"}, follow_redirects=True)
    assert {one.superset for one in last_block(app).exercises if one.weekday == 5} == {1, 2}, again.text
    with reading(app) as db:
        count = db.scalar(select(func.count()).select_from(Exercise).where(Exercise.block_id == block_id))
    change = again.text.split(f"/block/{block_id}/undo/")[1].split('"')[0] if "/undo/" in again.text else ""
    assert change
    client.post(f"/block/{block_id}/undo/{change}")
    assert len([one for one in last_block(app).exercises if one.weekday == 5]) == 2
    with reading(app) as db:
        assert db.scalar(select(func.count()).select_from(Exercise).where(Exercise.block_id == block_id)) == count


def test_more_than_a_block_holds_adds_none(app: Flask, client: FlaskClient) -> None:
    block = last_block(app)
    answer = client.post(
        f"/block/{block.id}/typed", data={"typed": "\n".join(["3x8 goblet squat"] * 25), "weekday": "5"}
    )
    assert answer.status_code == 422 and "3x8 goblet squat" in answer.text
    assert len(last_block(app).exercises) == len(block.exercises)
