"""Bodies, numbers and addresses beyond all bounds: answered in our page, at once, and nothing half stored."""

import pytest
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import select

from backsquat.config import UPLOAD_MOST_BYTES
from backsquat.core.errors import ImpossibleInput
from backsquat.core.numbers import read_decimal
from backsquat.core.rules import parse
from backsquat.serving import most_bytes
from backsquat.storage.models import Match
from tests.demo_club import athlete_id, current_cells, entries, live_cell

HUGE = (
    "1e400000",
    "1E999999999",
    "-1e5",
    "9" * 5_000,
    "0." + "1" * 5_000,
    "nan",
    "inf",
    "１２",
    "1_000",
    "0x1f",
    "--1",
)


@pytest.mark.parametrize("path", ["/", "/athletes/new", "/floor/cells/1/sets", "/sign-in", "/nowhere"])
def test_a_body_over_the_limit_gets_our_page_with_our_headers(client: FlaskClient, path: str) -> None:
    answer = client.post(path, data={"name": "x" * (UPLOAD_MOST_BYTES + 10)})
    assert answer.status_code in (413, 404, 405, 302)
    if answer.status_code == 413:
        assert "That is too much in one go" in answer.text and "Sign out" in answer.text, "and still signed in"
    assert "default-src" in answer.headers["Content-Security-Policy"]


@pytest.mark.parametrize("text", HUGE)
def test_huge_and_odd_numbers_are_no_numbers(text: str) -> None:
    with pytest.raises(ValueError, match="no plain decimal"):
        read_decimal(text)
    with pytest.raises(ImpossibleInput):
        parse("missed_ease_load", text)


@given(st.decimals(-999_999, 999_999, places=3))
def test_every_plain_number_reads_back(value: object) -> None:
    assert read_decimal(f"{value}") == value
    assert read_decimal(f" {value} ".replace(".", ",")) == value


@pytest.mark.parametrize("text", HUGE)
def test_no_form_takes_them(app: Flask, client: FlaskClient, text: str) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {"client_id": "n", "load": text, "reps": "3", "reserve_reps": "2", "pain": "0"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 422
    assert entries(app, cell.id) == []
    coming = current_cells(app, "Marit Holm", 5)[4]
    edits = {"cells": str(coming.id), "loads": text}
    assert client.post("/block/3/edits?lift=5", data=edits).status_code == 422
    assert client.post("/rules", data={"name": "missed_ease_load", "value": text}).status_code == 422
    assert client.post("/room/?room=1", data={"name": "Hall", "unit": "kg", "collars": text}).status_code == 422
    marit = athlete_id(app, "Marit Holm")
    asked = client.post(f"/screen/athlete/{marit}", data={"v:ankle_wall:left": text}, headers={"X-Autosave": "1"})
    assert asked.status_code in (404, 422)


@pytest.mark.parametrize(
    "back", ["/\r\nSet-Cookie: a=b", "//evil", "/\\evil", "https://evil", "/floor/\n", "/x" * 3000]
)
def test_an_address_to_go_back_to_is_one_of_ours_or_none(app: Flask, client: FlaskClient, back: str) -> None:
    marit = athlete_id(app, "Marit Holm")
    note = {"movement": "back_squat", "field": "stance", "value": "wide", "back": back}
    answers = [
        client.post(f"/athletes/{marit}/set-up", data=note),
        client.post("/room/stations", data={"station": "Rack 1", "ready": "1", "back": back}),
        client.get("/sign-in", query_string={"next": back}),
    ]
    for answer in answers:
        assert answer.status_code == 302 and "evil" not in answer.headers["Location"]
        assert "Set-Cookie: a=b" not in str(answer.headers)


def test_the_server_lets_through_what_a_page_takes(app: Flask) -> None:
    """A photograph of a phone is some megabytes: the server in front of the page must not turn it away."""
    archive = app.view_functions["accounts.first_archive"]
    others = {getattr(view, "most_bytes", 0) for view in app.view_functions.values() if view is not archive}
    assert max(others) > 10_000_000 and most_bytes(app) == max(others)


def test_no_sign_that_cannot_be_shown_comes_in_by_a_form_or_an_address(app: Flask, client: FlaskClient) -> None:
    match = {"played_on": "2026-12-30", "opponent": "Old\x00 Quay\u202e", "competition": "Cup\x07"}
    assert client.post("/season/matches", data=match).status_code == 302
    with app.extensions["database"].reader() as db:
        row = db.scalars(select(Match).order_by(Match.id.desc())).first()
        assert row is not None and (row.opponent, row.competition) == ("Old Quay", "Cup")
    assert client.get("/movements/?q=squat%00%ed%a0%80").status_code == 200
