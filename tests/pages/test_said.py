"""Only what somebody said is stored: the tap, what was left, no rep at all, pain in three taps, the rest of the day."""

import datetime as dt
import re

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select

from backsquat.core.movements.library import Library
from backsquat.core.progression.decision import Code, Decision
from backsquat.library.shelf import ladders, movements
from backsquat.storage.models import DecisionRow, PainReport, SetEntry, Squad, Stop
from backsquat.ui.phrases.decisions import decision_mark, sentence
from backsquat.work.decisions.propose import said_truly
from backsquat.work.log.recount import recount
from tests.demo_club import athlete_id, current_cells, entries, live_cell, reading
from tests.factories import an_exposure
from tests.pages.test_floor import decision_of, log
from tests.pages.test_floor_list import CALF, on_monday
from tests.pages.test_movements import typed
from tests.pages.test_own_phone import on_phone
from tests.walk.forms import forms_in

MARIT, INES = "Marit Holm", "Ines Okafor"


def test_one_tap_says_made_and_nothing_of_what_was_left(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Hanne Roos", 2)
    page = client.get(f"/floor/?lift={cell.exercise_id}&athlete={athlete_id(app, 'Hanne Roos')}").text
    said = re.search(r"RIR (\d+)", page)
    assert said and int(said[1]) > cell.reserve_reps, "a newcomer's load leaves more"
    form = next(one for one in forms_in(page) if one.path == f"/floor/cells/{cell.id}/sets")
    sent = {one.name: one.value for one in form.fields}
    assert "reserve_reps" not in sent
    assert client.post(form.path, data=sent).status_code == 302
    (entry,) = entries(app, cell.id)
    assert entry.reserve_reps is None and not entry.reserve_at_least and not entry.firm


def test_what_was_left_is_one_tap_after_the_set_and_never_of_one_that_hurt(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {"client_id": "walked-1", "load": str(cell.load_amount), "reps": "4", "pain_character": "dull"}
    page = client.post(f"/floor/cells/{cell.id}/sets", data=data, follow_redirects=True).text
    (entry,) = entries(app, cell.id)
    (form,) = (one for one in forms_in(page) if one.path == f"/floor/sets/{entry.id}/reserve")
    assert [value for name, value in form.buttons if name == "left"] == ["0", "1", "2", "3", "4"]
    for left, more in (("4", True), ("1", False)):
        (entry,) = (one for one in entries(app, cell.id) if one.standing)
        tap = {"left": left, "client_id": f"said-{left}"}
        for _ in range(2):  # sent twice is said once
            assert client.post(f"/floor/sets/{entry.id}/reserve", data=tap).status_code == 302
        (said,) = (one for one in entries(app, cell.id) if one.standing)
        assert (said.reserve_reps, said.reserve_at_least) == (int(left), more)
        assert (said.reps, said.load_amount, said.set_number) == (4, cell.load_amount, 1)
    assert len(entries(app, cell.id)) == 3, "the past is kept beside it"
    assert client.post(f"/floor/sets/{said.id}/reserve", data={"left": "11"}).status_code == 422
    log(client, app, "Petra Skov", pain="2", pain_region="hip")
    (hurt,) = entries(app, live_cell(app, "Petra Skov", 2).id)
    assert client.post(f"/floor/sets/{hurt.id}/reserve", data={"left": "2"}).status_code == 409


def test_no_rep_made_is_a_result_and_a_miss(app: Flask, client: FlaskClient) -> None:
    assert log(client, app, reps="0", reserve_reps="").status_code == 302
    cell = live_cell(app, "Marit Holm", 2)
    (entry,) = entries(app, cell.id)
    assert (entry.reps, entry.reps_to_depth, entry.estimate_kg) == (0, 0, None)
    for n in range(2, cell.sets + 1):
        log(client, app, client_id=f"more-{n}")
    assert decision_of(app, "Marit Holm").missing_reps == 4


def hurts(client: FlaskClient, athlete: int, said: str, region: str = "knee", **more: str):  # type: ignore[no-untyped-def]
    data = {"said": said, "pain_region": region, "client_id": f"hurts-{said}-{region}"} | more
    return client.post(f"/floor/athletes/{athlete}/pain", data=data)


def test_pain_asks_for_place_and_character_alone_also_of_body_weight_and_fills_the_screen(
    app: Flask, client: FlaskClient
) -> None:
    who = athlete_id(app, INES)
    page = client.get(f"/floor/?athlete={who}").text
    form = next(one for one in forms_in(page) if one.path == f"/floor/athletes/{who}/pain")
    assert {one.name for one in form.fields} - {"csrf_token"} == {"client_id", "cell", "pain_region"}
    assert {value for _, value in form.buttons} >= {"sharp", "locking", "giving way", "dull 1", "dull 10"}
    calf = on_monday(app, CALF)
    shown = client.get(hurts(client, who, "locking", cell=str(calf.id)).headers["Location"]).text
    assert "Ines Okafor stops" in shown and "locking pain, knee" in shown and "See a physiotherapist or doctor" in shown
    assert "nothing with a load for the rest of today" in shown and "From tomorrow" in shown
    rests = shown.split("Rests until cleared</dt><dd>")[1].split("</dd>")[0]
    later = shown.split("From tomorrow</dt><dd>")[1].split("</dd>")[0]
    assert "Back squat" in rests and "Back squat" not in later and later.strip()
    with reading(app) as db:
        report, stop = (db.scalars(select(PainReport)).one(), db.scalars(select(Stop).order_by(Stop.id.desc())).first())
        assert stop and (stop.report_id, stop.set_id, stop.level, report.level) == (report.id, None, None, None)
        assert (stop.movement, stop.family) == (CALF, "calf")
    assert not entries(app, calf.id), "no load and no reps were said, none are stored"
    pack = client.get("/floor/pack").get_json()["sessions"][0]["athletes"].get(str(who), {"work": []})
    assert all(turn["over"] for turn in pack["work"] if turn["movement"] == "back_squat")


def test_dull_pain_under_the_line_is_noted_and_its_missing_parts_are_said(app: Flask, client: FlaskClient) -> None:
    who = athlete_id(app, MARIT)
    for said, region, words in (
        ("sharp", "", "Say where it hurts"),
        ("dull", "knee", "a number"),
        ("hot", "knee", "Choose one of"),
    ):
        page = client.post(
            f"/floor/athletes/{who}/pain", data={"said": said, "pain_region": region}, follow_redirects=True
        )
        assert page.status_code == 200 and words in page.text, (said, words)
    assert "Noted: dull pain, 2 of 10, hip" in client.get(hurts(client, who, "dull 2", "hip").headers["Location"]).text
    with reading(app) as db:
        assert [(one.level, one.region) for one in db.scalars(select(PainReport))] == [(2, "hip")]
        assert not db.scalars(select(Stop).where(Stop.report_id.is_not(None))).all()
    assert "dull pain, 2 of 10, hip" in client.get("/health-list/").text
    cell = live_cell(app, MARIT, 2)
    hurts(client, who, "dull 2", cell=str(cell.id))
    for n in range(cell.sets):
        log(client, app, client_id=f"after-{n}")
    row = decision_of(app, MARIT)
    assert (row.reason, row.code.value) == ("pain_watch", "down"), "said by itself, it decides as pain with a set does"


def test_an_athlete_reports_pain_at_any_time_for_nobody_else_and_clearing_it_leaves_nothing_to_ask(
    app: Flask, client: FlaskClient, physio: FlaskClient
) -> None:
    phone, mine, other = on_phone(app, client, MARIT), athlete_id(app, MARIT), athlete_id(app, "Petra Skov")
    assert f"/floor/athletes/{mine}/pain" in phone.get("/athletes/me").text
    assert hurts(phone, other, "sharp").status_code == 403
    stopped = hurts(phone, mine, "sharp", "shoulder")
    assert phone.get(stopped.headers["Location"]).status_code == 200
    cell = live_cell(app, MARIT, 2)
    assert hurts(client, mine, "numb", cell=str(cell.id)).status_code == 302
    assert decision_of(app, MARIT).reason == "pain_stop" and "Marit Holm" in client.get("/review/").text
    with reading(app) as db:
        ids = db.scalars(select(Stop.id).where(Stop.athlete_id == mine, Stop.cleared_on.is_(None))).all()
    about = {"by": "Dr. Wren", "role": "doctor", "on": "2026-11-23", "limits": "squats to 40 kg", "most_kg": "40"}
    for stop in ids:
        assert physio.post(f"/health-list/stops/{stop}/clear", data=about).status_code == 302
    with reading(app) as db:
        still = select(DecisionRow).where(DecisionRow.athlete_id == mine, ~DecisionRow.settled)
        assert not [row for row in db.scalars(still) if row.code.value == "stop and refer"]


def test_what_was_stopped_stays_stopped_whatever_happens_to_the_movement(app: Flask, client: FlaskClient) -> None:
    who = athlete_id(app, INES)
    hurts(client, who, "sharp", "calf")
    edited = client.post(f"/movements/{CALF}/edit", data=typed(CALF, regions=["neck"], family="trunk"))
    assert edited.status_code == 302, edited.text
    app.extensions["clock"].fixed_day += dt.timedelta(days=2)  # when loads that spare the place are open again
    try:
        sessions = client.get("/floor/pack").get_json()["sessions"]
    finally:
        app.extensions["clock"].fixed_day -= dt.timedelta(days=2)
    work = [turn for one in sessions for turn in one["athletes"].get(str(who), {"work": []})["work"]]
    offered = {turn["movement"] for turn in work if not turn["over"]}
    assert offered and CALF not in offered


def test_a_clearance_with_a_limit_plans_the_whole_row_under_it_the_coachs_own_number_too(
    app: Flask, client: FlaskClient, physio: FlaskClient
) -> None:
    who, cell = athlete_id(app, MARIT), live_cell(app, MARIT, 2)
    own = {"load": "65"}
    for week in (4, 5):
        assert client.post(f"/block/cells/{live_cell(app, MARIT, week).id}", data=own).status_code == 302
    hurts(client, who, "sharp", cell=str(cell.id))
    with reading(app) as db:
        stop = db.scalars(select(Stop.id).where(Stop.athlete_id == who, Stop.cleared_on.is_(None))).one()
    about = {"by": "Dr. Wren", "role": "doctor", "on": "2026-11-23", "limits": "squats to 40 kg", "most_kg": "40"}
    assert physio.post(f"/health-list/stops/{stop}/clear", data=about | {"until_on": "2026-12-08"}).status_code == 302
    coming = {one.week: one for one in current_cells(app, MARIT, cell.exercise_id) if one.week > cell.week}
    assert [float(coming[week].load_kg or 0) for week in (3, 4)] == [40.0, 40.0]
    assert coming[5].origin == "coach" and coming[5].load_kg == 65, "after the limit the coach's number stands"


def test_a_forecast_that_was_stored_as_if_said_counts_as_not_said(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    page = client.get(f"/floor/?lift={cell.exercise_id}&athlete={cell.athlete_id}").text
    expected = re.search(r"RIR (\d+)", page)
    assert expected
    for n, left in enumerate((expected[1], "0")):
        log(client, app, client_id=f"before-{n}", reserve_reps=left)
    with app.extensions["database"].writing() as db:
        squad = db.get_one(Squad, 1)
        squad.recount_after, squad.forecasts_until = 0, db.scalar(select(func.max(SetEntry.id)))
    before = {one.id: one.estimate_kg for one in entries(app, cell.id)}
    recount(app.extensions["database"], 1)
    tapped, said = entries(app, cell.id)
    assert (tapped.reserve_reps, tapped.notes["forecast_reserve"]) == (None, int(expected[1]))
    assert said.reserve_reps == 0 and "forecast_reserve" not in said.notes
    assert (tapped.estimate_kg or 0) < (before[tapped.id] or 0) and not tapped.firm
    with reading(app) as db:
        assert (db.get_one(Squad, 1).forecasts_until, db.get_one(Squad, 1).recount_after) == (None, None)


def test_left_out_with_a_reason_in_the_middle_is_the_same_again_and_no_miss(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    log(client, app)
    assert client.post(f"/floor/cells/{cell.id}/skip", data={"reason": "no place free"}).status_code == 302
    row = decision_of(app, MARIT)
    assert (row.reason, row.code.value, row.missing_reps) == ("cut_short", "stay", 0)
    page = client.get("/review/").text
    assert "the rest was left out with a reason, so it is no miss" in page


def test_up_is_said_of_a_higher_number_only() -> None:
    exposure = an_exposure(next_load_kg=105.0)
    up = Decision(Code.UP, "as_planned", {"load_kg": 100.0}, (), "one_rep_missed", steps=1)
    held = said_truly(up, {"way": "same"}, exposure)
    assert (held.reason, held.steps, decision_mark(held)) == ("made_held", 1, "stay"), "what it does stays"
    words = sentence(held.code, held.reason, held.facts, {}, "back_squat", Library(movements(), ladders(), movements()))
    assert words == "Made, held at 100 kg: the next load here is 105 kg, 5 more."
    assert said_truly(up, {"way": "up"}, exposure) is up and decision_mark(up) == "up"


def test_what_was_said_of_pain_is_for_who_said_it_and_who_treats(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    who = athlete_id(app, MARIT)
    address = hurts(client, who, "sharp").headers["Location"]
    assert "sharp pain" in client.get(address).text
    shown = assistant.get(address).text
    assert (
        "Marit Holm stops" in shown
        and "until it is cleared" in shown
        and "sharp" not in shown
        and "knee" not in shown.split("stop-why")[1].split("</p>")[0]
    )
    own = hurts(assistant, athlete_id(app, "Petra Skov"), "numb").headers["Location"]
    assert "numb pain" in assistant.get(own).text, "who wrote it down sees what was written"
    assert on_phone(app, client, INES).get(address).status_code == 403


def test_or_more_stays_where_a_correction_says_nothing_else(app: Flask, client: FlaskClient) -> None:
    log(client, app, reserve_reps="")
    cell = live_cell(app, MARIT, 2)
    (entry,) = entries(app, cell.id)
    client.post(f"/floor/sets/{entry.id}/reserve", data={"left": "4", "client_id": "four-or-more"})
    (said,) = (one for one in entries(app, cell.id) if one.standing)
    data = {
        "client_id": "fixed",
        "load": str(cell.load_amount),
        "reps": "3",
        "reserve_reps": "4",
        "pain_character": "dull",
    }
    assert client.post(f"/floor/sets/{said.id}/correct", data=data).status_code == 302
    (fixed,) = (one for one in entries(app, cell.id) if one.standing)
    assert (fixed.reps, fixed.reserve_reps, fixed.reserve_at_least) == (3, 4, True)
