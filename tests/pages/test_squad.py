"""The squad page, its filter, and the squad's own rules."""

import datetime as dt
import re

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.pages.squad.phrases import ALSO_CALLED
from backsquat.storage.models import Block, RuleChange, SetEntry
from tests.demo_club import athlete_id, reading


def test_one_line_an_athlete_and_what_waits(client: FlaskClient) -> None:
    page = client.get("/").text
    assert page.count('class="name"') == 20
    for words in (
        "stopped, groin",
        "no guardian&#39;s consent on file",
        "needs a test",
        "1 to decide",
        "1 missed",
        "out of reach",
        "on course",
    ):
        assert words in page
    needs = client.get("/?show=needs-me").text
    assert needs.count('class="name"') == 6
    assert "Marit Holm" not in needs.split("<tbody>")[1]


def test_a_rule_changed_for_the_squad_changes_estimates_and_can_be_undone(app: Flask, client: FlaskClient) -> None:
    def estimate() -> float:
        with reading(app) as db:
            row = db.scalars(
                select(SetEntry.estimate_kg).where(SetEntry.athlete_id == 1, SetEntry.effort == "test")
            ).first()
            return row or 0.0

    before = estimate()
    page = client.post("/rules", data={"name": "formula", "value": "brzycki"}, follow_redirects=True).text
    assert estimate() != before
    assert "Back to the default" in page
    undo = page.split('action="/undo/')[1].split('"')[0]
    client.post(f"/undo/{undo}")
    assert estimate() == before
    with reading(app) as db:
        assert [(r.name, r.value, r.by_id) for r in db.scalars(select(RuleChange))] == [
            ("formula", "brzycki", 1),
            ("formula", None, 1),
        ]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"name": "pain_stop_level", "value": "0"}, "from 1 to 10"), ({"name": "pain_stop_level", "value": "a"}, "whole number"),
        ({"name": "formula", "value": "magic"}, "Choose one of"), ({"name": "__class__", "value": "1"}, ""), ({}, ""),
    ],
)  # fmt: skip
def test_impossible_rules(client: FlaskClient, data: dict[str, str], words: str) -> None:
    response = client.post("/rules", data=data)
    assert response.status_code == 422
    assert words in response.text


def test_undoing_a_new_athlete_takes_them_off_the_squad(app: Flask, client: FlaskClient) -> None:
    client.post("/athletes/new", data={"name": "Oops", "born_on": "2000-01-01"})
    new = athlete_id(app, "Oops")
    with reading(app) as db:
        from backsquat.storage.models import Change

        change = db.scalars(select(Change).where(Change.subject == "athlete", Change.subject_id == new)).one()
    client.post(f"/undo/{change.id}", data={"back": "//evil.example"})
    page = client.get("/").text
    assert "Oops" not in page.split("<tbody>")[1].split("</tbody>")[0] and "Put away: 1" in page


def test_what_waits_for_most_is_said_once(app: Flask, client: FlaskClient) -> None:
    assert "answer them together" not in client.get("/").text and "1 missed" in client.get("/").text
    with app.extensions["database"].writing() as db:
        for row in db.scalars(select(SetEntry).where(SetEntry.done_on > dt.date(2026, 11, 17))):
            row.standing = False
    page = client.get("/").text
    count = re.search(r"(\d+) missed a session: answer them together", page)
    assert count and int(count.group(1)) > 10 and not re.search(r"\d missed</a>", page)


def test_a_rule_is_found_by_a_coachs_word_for_it(client: FlaskClient) -> None:
    for word in (*ALSO_CALLED, "deload", "rest", "pain", "minutes", "jump"):
        assert "No rule has" not in client.get(f"/rules?q={word}").text, word
    assert "guardian must consent" in client.get("/rules?q=minor").text
    assert "No rule has" in client.get("/rules?q=flying+carpet").text


def test_a_new_block_is_two_clicks_from_squad_season_and_block(app: Flask, client: FlaskClient) -> None:
    for page in ("/", "/season/"):
        assert 'href="/block/new' in client.get(page).text, page
    with reading(app) as db:
        block_id = db.scalars(select(Block.id)).first()
    assert 'href="/block/new' in client.get(f"/block/{block_id}/weeks").text
