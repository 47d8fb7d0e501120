"""Unlikely sets, loads of no plate here, and the same set from two devices: asked, never refused, never counted twice."""

from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Cell, SetEntry
from tests.demo_club import athlete_id, entries, live_cell, reading

TEST = {"movement": "back_squat", "load": "400", "reps": "5", "reserve_reps": "1", "done_on": "2026-11-23"}


def set_of(cell: Cell, client_id: str, **changes: str) -> dict[str, Any]:
    planned = {"load": f"{cell.load_amount:g}", "reps": str(cell.reps), "reserve_reps": "2", "pain": "0", "seen": "0",
               "athlete": str(cell.athlete_id)}  # fmt: skip
    return planned | {"client_id": client_id, "pain_character": "dull"} | changes


def test_a_test_far_from_what_bodies_of_that_mass_do_is_asked_about(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    asked = client.post(f"/athletes/{marit}/test", data=TEST | {"client_id": "big"})
    assert asked.status_code == 422 and "400 × 5 would be 5.9 × body mass. Is that right?" in asked.text
    assert 'name="load" value="400"' in asked.text, "nothing typed is lost"
    with reading(app) as db:
        assert not db.scalars(select(SetEntry).where(SetEntry.client_id == "big")).all()
    kept = client.post(f"/athletes/{marit}/test", data=TEST | {"client_id": "big", "confirm": "doubt_mass"})
    assert kept.status_code == 302
    with reading(app) as db:
        entry = db.scalars(select(SetEntry).where(SetEntry.client_id == "big")).one()
        assert entry.flags == ["doubted"] and entry.estimate_kg


def test_a_set_far_over_the_best_on_record_is_asked_about_on_the_floor(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    where = f"/floor/cells/{cell.id}/sets"
    asked = client.post(where, data=set_of(cell, "over", load="145", reps="6", reserve_reps="0"))
    assert asked.status_code == 422 and "over the best on record" in asked.text and not entries(app, cell.id)
    assert "Marit Holm" in asked.text.split("over the best")[0].split('class="upnext-name')[-1]
    data = set_of(cell, "over", load="145", reps="6", reserve_reps="0", confirm="doubt_best")
    assert client.post(where, data=data).status_code == 302
    assert entries(app, cell.id)[0].flags == ["doubted"]
    usual = set_of(cell, "usual", seen="1")
    assert client.post(where, data=usual).status_code == 302
    assert entries(app, cell.id)[1].flags == []


def test_a_load_the_room_cannot_make_is_asked_about_and_marked(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    where, odd = f"/floor/cells/{cell.id}/sets", set_of(cell, "odd", load="83.3")
    asked = client.post(where, data=odd)
    assert asked.status_code == 422 and "83.3 kg is no load of Harbour hall" in asked.text
    assert not entries(app, cell.id)
    assert client.post(where, data=odd | {"confirm": "not_in_stock"}).status_code == 302
    assert entries(app, cell.id)[0].flags == ["not_in_stock"]


def test_the_same_set_from_two_devices_is_asked_about_and_kept_twice_only_on_a_word(
    app: Flask, client: FlaskClient
) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    where = f"/floor/cells/{cell.id}/sets"
    assert client.post(where, data=set_of(cell, "phone")).status_code == 302
    second = client.post(where, data=set_of(cell, "tablet"))
    assert second.status_code == 422 and "set 1 was logged just now by R. Amari. Another set?" in second.text
    assert len(entries(app, cell.id)) == 1
    again = client.post(where, data=set_of(cell, "phone"))
    assert again.status_code == 302 and len(entries(app, cell.id)) == 1, "the same one sent again is the same one"
    assert client.post(where, data=set_of(cell, "tablet", confirm="logged_meanwhile")).status_code == 302
    assert client.post(where, data=set_of(cell, "tablet-2", seen="2")).status_code == 302, (
        "who has seen both is not asked"
    )
    assert len(entries(app, cell.id)) == 3


def test_nonsense_in_what_was_seen_is_no_error(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    for seen in ("", "x", "-3", "99999999999999"):
        code = client.post(f"/floor/cells/{cell.id}/sets", data=set_of(cell, f"n{seen}", seen=seen)).status_code
        assert code in (302, 422)
