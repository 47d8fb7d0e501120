"""A review that takes a minute: what needs a head comes first, what repeats the plan asks nothing."""

import datetime as dt
import re
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.decision import Code
from backsquat.storage.models import Cell, DecisionRow, SetEntry
from tests.demo_club import live_cell, reading
from tests.pages.test_own_phone import on_phone

MARIT = "Marit Holm"
STARTS = ("Stop", "Down", "Next: ")  # how the sentences begin, the gravest first


def lifted(app: Flask, client: FlaskClient, name: str, **said: Any) -> tuple[int, Cell]:
    """Today's squats of somebody, done as planned unless said otherwise: the proposal, and what it is about."""
    cell = live_cell(app, name, 2)
    for n in range(cell.sets):
        data = {"client_id": f"{name}{n}", "load": f"{cell.load_amount}", "reps": str(cell.reps), "pain": "0"}
        data |= {"reserve_reps": str(cell.reserve_reps)}
        assert client.post(f"/floor/cells/{cell.id}/sets", data=data | said).status_code == 302
    with reading(app) as db:
        rows = select(DecisionRow.id).where(DecisionRow.cell_id == cell.id).order_by(DecisionRow.id.desc())
        return db.scalars(rows).first() or 0, cell


def repeating(app: Flask) -> list[int]:
    with reading(app) as db:
        open_ones = select(DecisionRow.id).where(~DecisionRow.settled, DecisionRow.repeats)
        return list(db.scalars(open_ones.order_by(DecisionRow.id)))


def settled(app: Flask, decision_id: int) -> bool:
    with reading(app) as db:
        return db.get_one(DecisionRow, decision_id).settled


def asked(page: str) -> list[str]:
    """The sentences that wait for an answer, in their order."""
    return re.findall(r'class="says">(?:<svg.*?</svg>)?\s*([^<]+)', page.split('class="sheet-of-paper repeats"')[0])


def test_what_repeats_the_plan_asks_nothing_and_can_be_decided_differently(app: Flask, client: FlaskClient) -> None:
    page = client.get("/review/").text
    assert "<b>2</b> follow the plan" in page and "Nothing to answer" in page and "Accept all" not in page
    assert not any("Up to 72.5" in words for words in asked(page)) and "Up to 72.5" in page, "it is there, to be opened"
    assert all(f"/review/decisions/{one}/otherwise" in page for one in repeating(app))
    one = repeating(app)[0]
    client.post(f"/review/decisions/{one}", data={"code": "down", "reason": "she slept badly"})
    assert "she slept badly" in client.get("/review/").text.replace("&#39;", "'") or settled(app, one)


def test_a_squad_that_wants_to_be_asked_accepts_them_all_in_one_click(app: Flask, client: FlaskClient) -> None:
    assert client.post("/rules", data={"name": "ask_repeats", "value": "1"}).status_code == 302
    page, both = client.get("/review/").text, repeating(app)
    shown = re.findall(r'name="decision" value="(\d+)"', page)
    assert sorted(int(one) for one in shown) == both and "Accept all" in page
    assert "1 to decide" in client.get("/").text
    client.post(f"/review/decisions/{both[0]}", data={})  # somebody else was quicker with one
    said = client.post("/review/as-planned", data={"decision": shown}, follow_redirects=True).text
    assert "1 accepted" in said and "1 changed meanwhile" in said and not repeating(app)
    with reading(app) as db:
        left = db.scalars(select(DecisionRow).where(~DecisionRow.settled)).all()
        assert all(not row.repeats for row in left) and left, "what needs a head still waits"
    nothing = client.post("/review/as-planned", data={"decision": ["999999", "-1"]}, follow_redirects=True)
    assert nothing.status_code == 200 and "0 accepted" in nothing.text


def test_an_assistant_accepts_nothing(assistant: FlaskClient) -> None:
    assert assistant.post("/review/as-planned", data={"decision": ["1"]}).status_code == 403


def test_accepting_all_of_them_leaves_what_needs_a_head(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        head = db.scalars(select(DecisionRow).where(~DecisionRow.settled, ~DecisionRow.repeats)).one()
    client.post("/review/as-planned", data={"decision": [str(head.id)]})
    assert not settled(app, head.id)


def test_the_gravest_comes_first_however_new_it_is(app: Flask, client: FlaskClient) -> None:
    more_id, _ = lifted(app, client, "Sanne de Wit", reserve_reps="5")
    lifted(app, client, MARIT, pain="6", pain_region="knee", pain_character="sharp", painful="1")
    with reading(app) as db:
        assert not db.get_one(DecisionRow, more_id).repeats, "two steps for the next wave: more than the plan says"
    with app.extensions["database"].writing() as db:
        for row in db.scalars(select(DecisionRow).where(DecisionRow.code == Code.UP, ~DecisionRow.settled)):
            row.done_on = dt.date(2026, 11, 2)  # the oldest of all
    found = asked(client.get("/review/").text)
    stop, down, more = (next(n for n, words in enumerate(found) if words.startswith(way)) for way in STARTS)
    assert stop < down < more


def test_what_differs_from_the_published_number_is_asked(app: Flask, client: FlaskClient) -> None:
    """The same sets judged again, after the coach has put another number into the next session."""
    one = repeating(app)[0]
    with app.extensions["database"].writing() as db:
        row = db.get_one(DecisionRow, one)
        cell = db.get_one(Cell, row.cell_id)
        place = (Cell.exercise_id == cell.exercise_id, Cell.athlete_id == cell.athlete_id, Cell.week == cell.week + 1)
        following = db.scalars(select(Cell).where(*place, Cell.live)).one()
        assert (row.following["next_kg"], row.following["next_reps"]) == (following.load_kg, following.reps)
        following.load_kg = (following.load_kg or 0) + 2.5
        entry = db.get_one(SetEntry, row.evidence[-1])
        told = {"load": f"{entry.load_amount}", "reps": str(entry.reps), "reserve_reps": str(entry.reserve_reps)}
        set_id, athlete = entry.id, cell.athlete_id
    client.post(f"/floor/sets/{set_id}/correct", data=told | {"pain": "0", "client_id": "again"})
    with reading(app) as db:
        newest = select(DecisionRow).where(DecisionRow.athlete_id == athlete).order_by(DecisionRow.id.desc())
        again = db.scalars(newest).first()
        assert again and again.id > one and not again.repeats and again.code is Code.UP


def test_an_athlete_is_told_what_to_lift_and_not_the_coachs_question(app: Flask, client: FlaskClient) -> None:
    phone = on_phone(app, client, MARIT)
    one, cell = lifted(app, phone, MARIT, reserve_reps="0")
    with reading(app) as db:
        assert not db.get_one(DecisionRow, one).repeats
    theirs = phone.get(f"/floor/?athlete={cell.athlete_id}&lift={cell.exercise_id}").text
    assert "Your coach sees it" in theirs and "Decide differently" not in theirs
    mine = client.get(f"/floor/?athlete={cell.athlete_id}&lift={cell.exercise_id}").text
    assert "Accept" in mine and "Decide differently" in mine
