"""Stops, limits, absences, notes: who may see and set them, and what the plan makes of them."""

import datetime as dt

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.movements.movement import Region
from backsquat.core.rules import Rules
from backsquat.library.shelf import movements
from backsquat.storage.models import Absence, Cell, Limit, Reading
from backsquat.work.plan.panel import panel_of
from tests.demo_club import athlete_id, current_cells, entries, live_cell, reading, user_id

LIMIT = {
    "target": "movement:back_squat", "kind": "load", "load_kg": "60", "words": "", "from_on": "2026-11-23",
    "until_on": "2026-12-06", "set_by": "M. Ferro, physio",
}  # fmt: skip


def draft(app: Flask, name: str, week: int) -> Cell:
    exercise = live_cell(app, "Marit Holm", 2).exercise_id
    return next(cell for cell in current_cells(app, name, exercise) if cell.week == week)


def test_a_load_limit_is_followed_by_plan_and_floor(app: Flask, physio: FlaskClient, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    assert (live_cell(app, "Marit Holm", 2).load_kg or 0) > 60
    assert physio.post(f"/health-list/{marit}/limits", data=LIMIT).status_code == 302
    assert draft(app, "Marit Holm", 2).load_kg == 60
    assert (draft(app, "Marit Holm", 4).load_kg or 0) > 60, "the limit has ended by then"
    floor = client.get("/floor/").text
    assert "limit: at most 60 kg, replan" in floor, "the published number is over the limit and not shown"
    cell = live_cell(app, "Marit Holm", 2)
    data = {"load": "100", "reps": "4", "client_id": "over", "pain_character": "dull"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
    (kept,) = entries(app, cell.id)
    assert (kept.load_kg, kept.flags) == (100, ["over_limit"]), "kept, and marked"
    client.post(f"/floor/sets/{kept.id}/take-back")
    client.post(f"/block/{cell.exercise_id and 3}/publish")
    assert live_cell(app, "Marit Holm", 2).load_kg == 60
    assert "Marit" in client.get(f"/floor/?athlete={marit}").text


def test_a_barred_region_leaves_no_load_and_ends_with_an_undo(app: Flask, client: FlaskClient) -> None:
    ines = athlete_id(app, "Ines Okafor")
    data = LIMIT | {"target": "region:lower back", "kind": "not at all", "load_kg": "", "until_on": ""}
    client.post(f"/health-list/{ines}/limits", data=data)
    cell = draft(app, "Ines Okafor", 2)
    assert (cell.state, cell.load_kg, cell.stands_in) == ("level", None, "limit"), "something else stands in"
    assert Region.LOWER_BACK not in movements()[cell.movement].regions
    assert "barred by a limit" in client.get(f"/movements/deadlift?athlete={ines}").text
    assert "everything" not in client.get("/health-list/").text.split("Limits in force")[1][:60]
    with reading(app) as db:
        limit = db.scalars(select(Limit).where(Limit.athlete_id == ines)).one()
    page = client.post(f"/health-list/limits/{limit.id}/end", follow_redirects=True).text
    assert draft(app, "Ines Okafor", 2).load_kg
    change = page.split('action="/undo/')[1].split('"')[0].split("?")[0]
    client.post(f"/undo/{change}")
    assert "barred by a limit" in client.get(f"/movements/deadlift?athlete={ines}").text
    assert draft(app, "Ines Okafor", 2).state == "level", "the plan follows the undo"


def test_no_load_of_the_coach_goes_over_a_physios_limit(app: Flask, client: FlaskClient, physio: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    physio.post(f"/health-list/{marit}/limits", data=LIMIT | {"load_kg": "90", "until_on": "2027-01-31"})
    cell = draft(app, "Marit Holm", 4)
    over = client.post(f"/block/cells/{cell.id}", data={"load": "92.5", "bar": cell.bar or "long"})
    assert over.status_code == 422 and "at most 90" in over.text
    assert draft(app, "Marit Holm", 4).id == cell.id
    assert client.post(f"/block/cells/{cell.id}", data={"load": "90", "bar": cell.bar}).status_code == 302
    assert draft(app, "Marit Holm", 4).load_kg == 90


@pytest.mark.parametrize(
    "change",
    [{"load_kg": ""}, {"load_kg": "-5"}, {"load_kg": "much"}, {"until_on": "2026-01-01"}, {"from_on": "soon"},
     {"set_by": ""}, {"kind": "range"}, {"target": "movement:moon"}],
)  # fmt: skip
def test_bad_limits_are_refused_and_nothing_typed_is_lost(
    app: Flask, client: FlaskClient, change: dict[str, str]
) -> None:
    response = client.post("/health-list/1/limits", data=LIMIT | {"set_by": "Doctor Low"} | change)
    assert response.status_code == 422
    if "set_by" not in change:
        assert 'value="Doctor Low"' in response.text
    with reading(app) as db:
        assert not db.scalars(select(Limit).where(Limit.athlete_id == 1)).all()


def test_away_nothing_is_loaded_until_the_return_is_accepted(app: Flask, client: FlaskClient) -> None:
    tove = athlete_id(app, "Tove Lindqvist")
    client.post(f"/health-list/{tove}/away", data={"first_on": "2026-11-13", "why": "away"})
    assert "away since 13 Nov" in client.get("/floor/").text
    assert "Away since 13 Nov" in client.get("/block/").text
    again = client.post(f"/health-list/{tove}/away", data={"first_on": "2026-11-13", "why": "away"})
    assert again.status_code == 409
    with reading(app) as db:
        absence = db.scalars(select(Absence).where(Absence.athlete_id == tove, Absence.back_on.is_(None))).one()
    assert "10 days" in client.get(f"/health-list/{tove}").text
    before = live_cell(app, "Tove Lindqvist", 2)
    response = client.post(f"/health-list/{tove}/back/{absence.id}", data={"back_on": "2026-11-23"})
    assert response.status_code == 302
    assert "Undo" in client.get(f"/health-list/{tove}").text
    cell = draft(app, "Tove Lindqvist", 2)
    assert cell.sets == 2 and (cell.load_kg or 0) < (before.load_kg or 0)
    assert "eased_return" in [step["code"] for step in cell.working]
    later = draft(app, "Tove Lindqvist", 5)
    assert later.origin == "coach", "the coach's own load stays"


def test_the_panel_of_somebody_away_has_neither_load_nor_form(app: Flask, client: FlaskClient) -> None:
    """It showed both once, and the edit then answered 409."""
    tove, cell = athlete_id(app, "Tove Lindqvist"), live_cell(app, "Tove Lindqvist", 4)
    panel, headers = f"/block/3?lift={cell.exercise_id}&cell={cell.id}", {"HX-Target": "panel", "HX-Request": "true"}
    before = client.get(panel, headers=headers).text
    assert "Change this load" in before and f"{cell.load_amount:g}" in before
    client.post(f"/health-list/{tove}/away", data={"first_on": "2026-11-13", "why": "away"})
    after = client.get(panel, headers=headers).text
    assert "Away since 13 Nov" in after
    assert "Change this load" not in after and "load-line" not in after and "<form" not in after
    with reading(app) as db:
        found = panel_of(db, 1, cell.id, dt.date(2026, 11, 23), Rules())
        assert found and found.obstacle and not found.may_edit


def test_after_illness_somebody_says_yes_first_and_a_long_one_is_screened(app: Flask, client: FlaskClient) -> None:
    mirre = athlete_id(app, "Mirre Castellan")
    client.post(f"/health-list/{mirre}/away", data={"first_on": "2026-10-20", "why": "illness"})
    with reading(app) as db:
        absence = db.scalars(select(Absence).where(Absence.athlete_id == mirre)).one()
    with app.extensions["database"].writing() as db:
        db.connection().exec_driver_sql(
            "DELETE FROM screen_results WHERE athlete_id = ? AND done_on > '2026-10-20'", (mirre,)
        )
    path = f"/health-list/{mirre}/back/{absence.id}"
    without = client.post(path, data={"back_on": "2026-11-23"})
    assert without.status_code == 409 and "somebody qualified says yes first" in without.text
    unscreened = client.post(path, data={"back_on": "2026-11-23", "cleared": "Dr Lind, doctor"})
    assert (
        unscreened.status_code == 409
        and "screened again" in unscreened.text
        and 'value="Dr Lind, doctor"' in unscreened.text
    )
    client.post(
        f"/screen/athlete/{mirre}", data={"v:standing_squat:": "yes", "day": "2026-11-23"}, headers={"X-Autosave": "1"}
    )
    assert client.post(path, data={"back_on": "2026-11-23", "cleared": "Dr Lind, doctor"}).status_code == 302
    assert client.post(path, data={"back_on": "2026-10-01"}).status_code == 404, "it is over"


def test_a_clearance_ends_the_stop_and_eases_the_return_within_its_limit(app: Flask, physio: FlaskClient) -> None:
    beatriz = athlete_id(app, "Beatriz Solheim")
    assert live_cell(app, "Beatriz Solheim", 2) and "stopped: not this until it is cleared" in _floor(app)
    page = physio.get("/health-list/").text
    assert "Beatriz Solheim" in page and 'value="M. Ferro"' in physio.get("/health-list/stops/1/clear").text
    data = {
        "by": "M. Ferro",
        "role": "physio",
        "on": "2026-11-23",
        "limits": "all ranges, light",
        "most_kg": "50",
        "until_on": "2026-12-06",
    }
    assert physio.post("/health-list/stops/1/clear", data=data | {"limits": ""}).status_code == 422
    assert physio.post("/health-list/stops/1/clear", data=data | {"on": "2026-11-01"}).status_code == 422
    assert physio.post("/health-list/stops/1/clear", data=data).status_code == 302
    cell = draft(app, "Beatriz Solheim", 2)
    assert cell.load_kg == 50 and cell.sets == 2
    assert {"eased_return", "under_limit"} <= {step["code"] for step in cell.working}
    hinge = live_cell(app, "Beatriz Solheim", 2, "romanian_deadlift")
    assert hinge.sets == 3, "what the stop had not locked is not eased"
    assert "Cleared 23 Nov by M. Ferro, physio: all ranges, light" in physio.get(f"/health-list/{beatriz}").text


def _floor(app: Flask) -> str:
    client = app.test_client()
    client.post("/demo-sign-in/1")
    return client.get("/floor/").text


def test_health_notes_are_for_coach_and_physio_and_reading_is_logged(
    app: Flask, physio: FlaskClient, assistant: FlaskClient
) -> None:
    rania = athlete_id(app, "Rania Haddad")
    secret = "Lower back sore after long bus trips"
    assert secret in physio.get(f"/health-list/{rania}").text
    physio.get(f"/health-list/{rania}")
    with reading(app) as db:
        rows = db.scalars(select(Reading).where(Reading.athlete_id == rania)).all()
        assert [row.by_id for row in rows] == [user_id(app, "ferro")] * 2, "every time"
    assert secret not in assistant.get(f"/health-list/{rania}").text
    pages = ("/", f"/athletes/{rania}", f"/ladders/{rania}", f"/screen/athlete/{rania}", "/block/", "/floor/")
    assert all(secret not in assistant.get(path).text for path in pages)
    for path in ("/health-list/", f"/movements/choose?athlete={rania}"):
        assert assistant.get(path).status_code == 403
    assert assistant.post(f"/health-list/{rania}/notes", data={"words": "x"}).status_code == 403
    physio.post(f"/health-list/{rania}/notes", data={"words": "<b>Old ankle</b>", "region": "ankle"})
    assert "&lt;b&gt;Old ankle" in physio.get(f"/health-list/{rania}").text
    assert physio.post(f"/health-list/{rania}/notes", data={"words": " "}).status_code == 422


def test_each_role_has_its_own_doors(app: Flask, physio: FlaskClient, assistant: FlaskClient) -> None:
    for path in ("/", "/movements/", "/athletes/1", "/ladders/1", "/health-list/1"):
        assert physio.get(path).status_code == assistant.get(path).status_code == 200, path
    for path in ("/block/", "/floor/", "/screen/", "/room/"):
        assert (assistant.get(path).status_code, physio.get(path).status_code) == (200, 403), path
    for path in ("/block/new", "/review/", "/athletes/new", "/movements/new", "/screen/own"):
        assert assistant.get(path).status_code == physio.get(path).status_code == 403, path
    assert (
        assistant.get("/rules").status_code == 200
        and '<button class="btn btn-outline-primary btn-sm">Keep' not in assistant.get("/rules").text
    )
    assert assistant.post("/rules", data={"name": "pain_stop_level", "value": "9"}).status_code == 403
    assert "Publish" not in assistant.get("/block/").text and "Add an athlete" not in assistant.get("/").text


def test_an_assistant_takes_back_only_what_was_their_own(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    page = client.post("/movements/nordic/retire", data={"retired": "1"}, follow_redirects=True).text
    change = page.split('action="/undo/')[1].split('"')[0].split("?")[0]
    assert assistant.post(f"/undo/{change}").status_code == 403
    assert client.post(f"/undo/{change}").status_code == 302


def test_the_health_list_has_stops_watches_returns_and_limits(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {
        "load": "100",
        "reps": "4",
        "client_id": "w",
        "pain": "2",
        "pain_region": "hip",
        "pain_character": "dull",
        "painful": "1",
    }
    client.post(f"/floor/cells/{cell.id}/sets", data=data)
    page = client.get("/health-list/").text
    for words in (
        "Beatriz Solheim",
        "dull pain, 2 of 10, hip",
        "eased week 1 of 5 after time away",
        "Back squat: to thigh level",
    ):
        assert words in page, words
    assert dt.date(2026, 11, 23)


def test_set_ups_are_shown_on_the_floor_and_changed_in_one_tap(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    marit = athlete_id(app, "Marit Holm")
    floor = client.get(f"/floor/?athlete={marit}").text
    assert "hole 9" in floor and "32 cm" in floor
    note = {"movement": "back_squat", "field": "pins", "value": "hole 8", "back": "/floor/?athlete=1"}
    assert assistant.post(f"/athletes/{marit}/set-up", data=note).location == "/floor/?athlete=1"
    assert (
        "hole 8" in client.get(f"/floor/?athlete={marit}").text
        and "hole 9" not in client.get(f"/floor/?athlete={marit}").text
    )
    for wrong in ({"field": "colour"}, {"value": "x" * 61}):
        assert client.post(f"/athletes/{marit}/set-up", data=note | wrong).status_code == 422
    assert client.post(f"/athletes/{marit}/set-up", data=note | {"back": "//evil.example"}).location.startswith(
        "/athletes/"
    )


def test_another_depth_starts_a_new_record_line(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    assert "needs a test" not in client.get(f"/athletes/{marit}").text.split("Romanian deadlift")[0]
    wrong = client.post(f"/athletes/{marit}/depth", data={"movement": "back_squat", "depth": "box", "box_mm": "5"})
    assert wrong.status_code == 422
    client.post(f"/athletes/{marit}/depth", data={"movement": "back_squat", "depth": "box", "box_mm": "320"})
    page = client.get(f"/athletes/{marit}").text
    assert "needs a test" in page.split("Romanian deadlift")[0] and "Depth: box 320 mm" in page
    done = {
        "movement": "back_squat",
        "load": "90",
        "reps": "5",
        "reserve_reps": "1",
        "done_on": "2026-11-23",
        "client_id": "d",
    }
    client.post(f"/athletes/{marit}/test", data=done)
    page = client.get(f"/athletes/{marit}").text
    assert "to box 320 mm" in page and "108" in page.split("Romanian deadlift")[0]


def test_an_unsafe_rack_gets_nobody(app: Flask, client: FlaskClient) -> None:
    floor = client.get("/floor/").text
    assert "Rack 4 is unsafe: left pin bent" in floor and 'aria-label="Rack 4"' not in floor
    client.post("/room/stations", data={"station": "Rack 4", "ready": "1", "back": "/floor/"})
    assert 'aria-label="Rack 4"' in client.get("/floor/").text
    assert client.post("/room/stations", data={"station": "Rack 4", "ready": "0", "found": " "}).status_code == 422
    assert client.post("/room/stations", data={"station": "Rack 77", "ready": "1"}).status_code == 404
    for n in (1, 2, 3, 4):
        client.post("/room/stations", data={"station": f"Rack {n}", "ready": "0", "found": "pins missing"})
    assert client.get("/floor/").status_code == 200


def test_a_physio_sets_another_pain_line_for_one_athlete(app: Flask, client: FlaskClient, physio: FlaskClient) -> None:
    ines = athlete_id(app, "Ines Okafor")
    for wrong in ({"pain_line": "0"}, {"pain_line": "x"}, {"pain_line": "99"}, {"pain_line": "2", "by": " "}):
        assert physio.post(f"/health-list/{ines}/pain-line", data={"by": "M. Ferro"} | wrong).status_code == 422
    physio.post(f"/health-list/{ines}/pain-line", data={"pain_line": "2", "by": "M. Ferro, physio"})
    assert "Pain from 2 of 10 stops Ines" in physio.get(f"/health-list/{ines}").text
    for name, stopped in (("Ines Okafor", True), ("Marit Holm", False)):
        cell = live_cell(app, name, 2)
        data = {
            "load": "90",
            "reps": "4",
            "client_id": f"p{cell.id}",
            "pain": "2",
            "pain_region": "hip",
            "pain_character": "dull",
            "painful": "1",
        }
        client.post(f"/floor/cells/{cell.id}/sets", data=data)
        assert (f"{name}</a>" in client.get("/floor/").text.split("Not today</h2>")[1]) is stopped, name


def test_sides_are_compared_where_they_were_logged_and_screened(app: Flask, client: FlaskClient) -> None:
    beatriz = client.get(f"/athletes/{athlete_id(app, 'Beatriz Solheim')}").text
    assert "Cossack squat depth: right weaker" in beatriz and "Weaker side first" in beatriz
    liv = athlete_id(app, "Liv Aasen")
    work = {
        "ladder": "split_squat",
        "movement": "split_squat_front_raised",
        "sets": "1",
        "load": "10",
        "left": "2",
        "pain": "0",
    }
    for side, reps in (("left", "5"), ("right", "10")):
        data = work | {"side": side, "amount": reps, "client_id": side}
        assert client.post(f"/ladders/{liv}/work", data=data).status_code == 302
    page = client.get(f"/athletes/{liv}").text
    assert "Split squat, front foot raised: left weaker" in page
