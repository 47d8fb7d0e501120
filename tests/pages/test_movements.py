"""The library in the browser's terms: find, read, change, copy, retire, restore; old logs keep their meaning."""

import datetime as dt
from decimal import Decimal

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.errors import Refused
from backsquat.core.loads.mass import Unit
from backsquat.library import shelf
from backsquat.pages.movements.forms import form_of
from backsquat.storage.models import Athlete, Change, SetEntry
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext, library_of
from backsquat.work.library.change_movements import restore_shipped, save_movement
from backsquat.work.library.movements import entry_of, search
from backsquat.work.library.own_entries import restore_entry
from backsquat.work.record.outside import log_test
from backsquat.work.record.record import SetFacts
from tests.demo_club import athlete_id, reading


def typed(code: str, **changes: object) -> dict[str, object]:
    """The form of a movement as the page fills it."""
    return dict(form_of(shelf.entries()[code]).typed) | changes


def test_search_finds_a_movement_under_any_of_its_names(client: FlaskClient) -> None:
    for words, name in (
        ("conventional", "Deadlift"),
        ("bench split", "Rear-foot-elevated split squat"),
        ("hip thrust", "Hip thrust"),
        ("COSSACK", "Cossack squat"),
        ("rear foot elevated", "Rear-foot-elevated split squat with support"),
    ):
        page = client.get(f"/movements/?q={words}").text
        assert f"</span> {name}" in page.split("list-beside")[1], words
    assert "Nothing under that name" in client.get("/movements/?q=zumba").text
    movements = shelf.movements().values()
    for movement in movements:
        for alias in (movement.name, *movement.aliases):
            assert movement in search(movements, alias), alias


def test_filters_narrow_the_list_and_the_map_alike(client: FlaskClient) -> None:
    page = client.get("/movements/?family=hinge&sides=1").text
    picture, listing = page.split("list-beside")
    assert picture.count('class="map-dot') == listing.count('class="name"') == 10
    room = client.get("/movements/?family=squat&room=on").text
    assert "Hack squat machine" not in room and "Leg press" in room
    now = client.get("/movements/?family=squat&athlete=17&now=on").text.split("list-beside")[1]
    assert "> Back squat" not in now and "> Goblet squat<" in now


def test_a_page_says_what_the_room_lacks_and_what_stands_in(client: FlaskClient) -> None:
    page = client.get("/movements/hack_squat").text
    assert "This room lacks hack squat machine" in page
    assert "Leg press</a>" in page.split("Instead:")[1][:400]
    not_ready = client.get("/movements/back_squat?athlete=17").text
    assert "Liv Aasen: needs the readiness check" in not_ready
    assert "may do this now" in client.get("/movements/goblet_squat?athlete=17").text


def test_a_changed_movement_is_the_squads_own_and_can_be_restored(app: Flask, client: FlaskClient) -> None:
    words = "Our own words for the goblet squat, long enough."
    response = client.post("/movements/goblet_squat/edit", data=typed("goblet_squat", purpose=words))
    assert response.status_code == 302
    page = client.get("/movements/goblet_squat").text
    assert words in page and "this squad's own words" in page
    client.post("/movements/goblet_squat/restore")
    assert words not in client.get("/movements/goblet_squat").text


def test_bad_input_is_said_beside_the_field_and_nothing_typed_is_lost(client: FlaskClient) -> None:
    response = client.post(
        "/movements/goblet_squat/edit",
        data=typed(
            "goblet_squat", cues="only one", skill="nine", work="much", purpose="Short.", safety="My safety words"
        ),
    )
    assert response.status_code == 422
    for text in ("My safety words", 'value="nine"', 'value="much"', "what you typed is kept"):
        assert text in response.text
    assert response.text.count('<p class="problem"') >= 4
    taken = client.post("/movements/goblet_squat/edit", data=typed("goblet_squat", name="Back squat"))
    assert taken.status_code == 422 and "already" in taken.text
    hostile = client.post("/movements/new", data={"name": "x" * 500, "emphasis": "nan", "prime": "elbows"})
    assert hostile.status_code == 422


def test_what_gives_old_logs_their_meaning_stays_once_sets_are_logged(app: Flask, client: FlaskClient) -> None:
    response = client.post("/movements/back_squat/edit", data=typed("back_squat", family="hinge", purpose="x" * 40))
    assert response.status_code == 409
    assert "Copy the movement" in response.text and "x" * 40 in response.text, "nothing typed is lost"
    assert client.post("/movements/nordic/edit", data=typed("nordic", family="hinge")).status_code == 302


def test_a_copy_may_differ_and_is_found_planned_and_not_ready(app: Flask, client: FlaskClient) -> None:
    page = client.get("/movements/new?copy=back_squat").text
    assert 'value="Back squat, ours"' in page
    response = client.post("/movements/new", data=typed("back_squat", name="Pause squat", aliases="paused squat"))
    code = response.location.split("/movements/")[1].split("?")[0]
    assert code == "own_pause_squat"
    assert "Pause squat" in client.get("/movements/?q=paused").text
    assert "Pause squat" in client.get("/block/new").text
    assert "needs the readiness check" in client.get(f"/movements/{code}?athlete=17").text
    with reading(app) as db:
        stopped = db.scalars(select(Athlete).where(Athlete.name == "Beatriz Solheim")).one()
        from backsquat.core.readiness.verdict import Reason
        from backsquat.core.rules import Rules
        from backsquat.work.readiness.load import readiness_one
        from tests.factories import TODAY

        ready = readiness_one(db, stopped, TODAY, Rules())
        assert ready.judge(ready.library.get(code)).has(Reason.STOPPED), (
            "made after the stop, locked by it all the same"
        )


def test_retired_leaves_the_choice_but_not_the_log(app: Flask, client: FlaskClient) -> None:
    client.post("/movements/back_squat/retire", data={"retired": "1"})
    assert "> Back squat" not in client.get("/movements/?q=back squat").text.split("list-beside")[1]
    assert "> Back squat" in client.get("/movements/?q=back squat&retired=on").text
    assert '<option value="Back squat">' not in client.get("/block/new").text
    assert client.get(f"/athletes/{athlete_id(app, 'Marit Holm')}").text.count("Back squat") > 1
    assert client.get("/block/").status_code == client.get("/floor/").status_code == 200
    client.post("/movements/back_squat/retire", data={"retired": "0"})
    assert '<option value="Back squat">' in client.get("/block/new").text


def test_a_fault_that_was_rewritten_still_reads_in_old_logs(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        entry = db.scalars(select(SetEntry).where(SetEntry.movement == "back_squat").limit(1)).one()
        entry.fault, person = "heels_up", entry.athlete_id
        entry.done_on = db.get_one(Athlete, person).at.date()
    faults = "tipped | Tips over forward | Sit between the heels, lighter.\nother | Something else | Do it another way."
    assert client.post("/movements/back_squat/edit", data=typed("back_squat", faults=faults)).status_code == 302
    with reading(app) as db:
        fault = library_of(db, 1).fault("back_squat", "heels_up")
        assert fault and fault.look == "Heels come up"
        gone = library_of(db, 1).fault("back_squat", "not_known")
        assert gone and gone.look == "Not known"


def test_what_gives_logged_sets_their_meaning_stays_by_a_change_by_undo_and_by_the_shipped_one(
    app: Flask, client: FlaskClient
) -> None:
    """A region or a family changed behind logged work would free what a stop locked, or lock what it never did."""
    with reading(app) as db:
        entry = entry_of(db, 1, "calf_raise").model_dump(mode="json")
    with app.extensions["database"].writing() as db:
        actor = Actor(1, 1, dt.datetime(2026, 11, 23, 9))
        values = {name: value for name, value in entry.items() if name != "code"}
        save_movement(WorkContext(db, actor), values | {"regions": ["knee"]}, "calf_raise")
        change = db.scalars(select(Change).order_by(Change.id.desc())).first()
        assert change is not None
        log_test(WorkContext(db, actor), 1, "calf_raise", SetFacts("m-1", Decimal(0), Unit.KG, 12, 12, 2, actor.today))
        for act in (
            lambda: save_movement(WorkContext(db, actor), values | {"regions": ["hip"]}, "calf_raise"),
            lambda: restore_shipped(WorkContext(db, actor), "calf_raise"),
            lambda: restore_entry(WorkContext(db, actor), change),
        ):
            with pytest.raises(Refused):
                act()
        save_movement(
            WorkContext(db, actor),
            values | {"regions": ["knee"], "purpose": "A quite different purpose in other words."},
            "calf_raise",
        )


def test_undo_puts_the_state_before_back(client: FlaskClient) -> None:
    page = client.post("/movements/nordic/retire", data={"retired": "1"}, follow_redirects=True).text
    change = page.split('action="/undo/')[1].split('"')[0].split("?")[0]
    client.post(f"/undo/{change}")
    assert "· retired" not in client.get("/movements/nordic").text


def test_the_ranking_names_reasons_blocks_and_substitutes(client: FlaskClient) -> None:
    short = client.get("/movements/choose?athlete=17&family=squat&progression=back").text
    assert short.split("<tbody>")[1].split("</tbody>")[0].count("<tr") == 5 and ">All 1" in short
    page = client.get("/movements/choose?athlete=17&family=squat&progression=back&all=1").text
    assert "needs the readiness check" in page and "this room lacks hack squat machine" in page
    assert "on the level that is earned" in page and "the sport already loads the front of the knee" in page
    first = page.split("<tbody>")[1].split("</tr>")[0]
    assert "Goblet squat" in first, "the level that is earned comes first"
    upright = client.get("/movements/choose?athlete=1&family=squat&progression=upright&all=1").text.split("<tbody>")[1]
    back = client.get("/movements/choose?athlete=1&family=squat&progression=back&all=1").text.split("<tbody>")[1]
    assert upright.index("Front squat</a>") < upright.index("Back squat</a>")
    assert back.index("Back squat</a>") < back.index("Front squat</a>")
