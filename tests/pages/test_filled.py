"""Before a block is published the sheet says the truth: which exercises everybody has work in, and why not."""

import re
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import delete, select

from backsquat.core.progression.cell import LIFTED, StandIn, State
from backsquat.storage.models import Block, Cell, LevelMove
from backsquat.work.plan.filled import Filled, filled_of
from tests.demo_club import athlete_id, reading
from tests.pages.test_block import make


def draft(app: Flask, client: FlaskClient, *lifts: str) -> tuple[Block, str]:
    facts = {}
    for n, what in enumerate(lifts):
        facts |= {f"day_{n}": "0", f"what_{n}": what, f"progression_{n}": "wave", f"role_{n}": "main", f"sets_{n}": "3"}
        facts |= {f"superset_{n}": ""}
    block = make(client, app, **facts)
    return block, client.get(f"/block/{block.id}").text


def said(page: str) -> tuple[int, int]:
    found = re.search(r"<b>(\d+) of (\d+)</b> exercise", page)
    assert found
    return int(found[1]), int(found[2])


def test_the_sheet_of_a_draft_counts_who_has_work_in_each_exercise(app: Flask, client: FlaskClient) -> None:
    block, page = draft(app, client, "Back squat", "Lying knee curl")
    with reading(app) as db:
        found = filled_of(db, db.get_one(Block, block.id))
        exercises = [one.exercise.id for one in found]
        cells = db.scalars(select(Cell).where(Cell.exercise_id.in_(exercises), Cell.current))
        lifted = {(one.exercise_id, one.athlete_id) for one in cells if one.state in LIFTED}
    assert said(page) == (sum(one.ready for one in found), len(found))
    for one in found:
        assert one.own + sum(one.instead.values()) == len(
            [1 for exercise_id, _ in lifted if exercise_id == one.exercise.id]
        )
        assert one.everybody == 20
    squat = found[0]
    assert squat.own and squat.nothing[State.NEEDS_TEST] and not squat.ready
    assert "needs a test" in page.split('class="sheet-of-paper filled')[1].split("</details>")[0]


def test_once_published_and_to_an_assistant_it_says_nothing(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    block, _page = draft(app, client, "Back squat")
    assert 'class="sheet-of-paper filled' not in assistant.get(f"/block/{block.id}").text
    client.post(f"/block/{block.id}/publish")
    assert 'class="sheet-of-paper filled' not in client.get(f"/block/{block.id}").text


def test_a_stop_and_the_coachs_word_are_agreed_and_everything_else_is_not() -> None:
    exercise: Any = None
    for state in set(State) - set(LIFTED):
        assert Filled(exercise, 3, {}, {state: 1}).ready == (state in (State.LOCKED, State.LEFT_OUT)), state
    assert Filled(exercise, 0, {("goblet_squat", StandIn.ROOM): 4}, {}).ready
    assert not Filled(exercise, 0, {}, {}).ready, "nobody at all"


def test_who_stands_lower_has_the_own_level_in_the_exercise_with_the_reason(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        db.execute(delete(LevelMove).where(LevelMove.athlete_id == athlete_id(app, "Noor Visser")))
    page = client.get("/block/3?lift=6").text

    def row(name: str) -> str:
        return page.split(f">{name}</a>")[1].split("</tr>")[0]

    assert "own level 4, this is 8" in row("Fenna Moreau") and "rear foot on a low step" in row("Fenna Moreau")
    assert "not placed: gentlest level" in row("Noor Visser")
    assert "Noor Visser not placed on the ladder" in page.split('class="wayside"')[1]
    assert 'class="load"' in row("Marit Holm") and "own level" not in row("Marit Holm")
    with app.extensions["database"].writing() as db:
        db.execute(delete(LevelMove))
    chips = client.get("/block/3?lift=6").text.split('class="wayside"')[1].split("</div>")[0]
    assert "Noor Visser" not in chips and chips.count("not placed on the ladder") == 1  # one for all of them
    assert 'href="/screen/"' in chips


def test_a_session_over_its_minutes_is_said_before_publish(app: Flask, client: FlaskClient) -> None:
    typed = "Monday\n10 x 5 back squat rest 300 s\n10 x 5 front squat rest 300 s\n10 x 8 romanian deadlift rest 300 s"
    data = {"name": "Long", "first_week": "2027-01-11", "weeks": "4", "template": "typed", "typed": typed}
    page = client.post("/block/new", data=data, follow_redirects=True).text
    assert "1 session" in page and "over the minutes" in page and "of its 60 minutes" in page
    data |= {"name": "Short", "typed": "Monday\n3 x 5 back squat", "first_week": "2027-02-08"}
    assert "over the minutes" not in client.post("/block/new", data=data, follow_redirects=True).text
