"""Before a block is published the sheet says the truth: which exercises everybody has work in, and why not."""

import re
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.cell import LIFTED, StandIn, State
from backsquat.storage.models import Block, Cell
from backsquat.work.plan.filled import Filled, filled_of
from tests.demo_club import reading
from tests.pages.test_block import make


def draft(app: Flask, client: FlaskClient, *lifts: str) -> tuple[Block, str]:
    facts = {}
    for n, what in enumerate(lifts):
        facts |= {f"day_{n}": "0", f"what_{n}": what, f"school_{n}": "wave", f"role_{n}": "main", f"sets_{n}": "3"}
        facts |= {f"stack_{n}": ""}
    block = make(client, app, **facts)
    return block, client.get(f"/block/{block.id}").text


def said(page: str) -> tuple[int, int]:
    found = re.search(r"<b>(\d+) of (\d+)</b> exercise", page)
    assert found
    return int(found[1]), int(found[2])


def test_the_sheet_of_a_draft_counts_who_has_work_in_each_exercise(app: Flask, client: FlaskClient) -> None:
    block, page = draft(app, client, "Back squat", "Lying knee curl")
    with reading(app) as session:
        found = filled_of(session, session.get_one(Block, block.id))
        slots = [one.slot.id for one in found]
        cells = session.scalars(select(Cell).where(Cell.slot_id.in_(slots), Cell.current))
        lifted = {(one.slot_id, one.athlete_id) for one in cells if one.state in LIFTED}
    assert said(page) == (sum(one.ready for one in found), len(found))
    for one in found:
        assert one.own + sum(one.instead.values()) == len([1 for slot_id, _ in lifted if slot_id == one.slot.id])
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
    slot: Any = None
    for state in set(State) - set(LIFTED):
        assert Filled(slot, 3, {}, {state: 1}).ready == (state in (State.LOCKED, State.LEFT_OUT)), state
    assert Filled(slot, 0, {("goblet_squat", StandIn.ROOM): 4}, {}).ready
    assert not Filled(slot, 0, {}, {}).ready, "nobody at all"
