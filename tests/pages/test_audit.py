"""Stops end by a clearance only; who did what is in a log that only grows."""

import datetime as dt

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select, text
from sqlalchemy.exc import IntegrityError

from backsquat.storage.models import AuditLine, Stop
from backsquat.work.audit import first_broken, note_of
from tests.demo_club import athlete_id, entries, live_cell, other_squad, reading, user_id


def hurt(client: FlaskClient, app: Flask, **changes: str) -> int:
    cell = live_cell(app, "Marit Holm", 2)
    data = {
        "client_id": "hurt", "load": "100", "reps": "2", "reserve_reps": "1",
        "pain": "6", "pain_region": "knee", "pain_character": "sharp",
    }  # fmt: skip
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data | changes).status_code == 302
    return entries(app, cell.id)[-1].id


def the_stop(app: Flask, entry: int) -> Stop:
    with reading(app) as db:
        return db.scalars(select(Stop).where(Stop.set_id == entry)).one()


def is_stopped(app: Flask, client: FlaskClient) -> bool:
    return "Marit Holm stopped" in client.get("/block/?lift=5").text


def whats(app: Flask) -> list[str]:
    with reading(app) as db:
        return list(db.scalars(select(AuditLine.what).order_by(AuditLine.id)))


@pytest.mark.parametrize("way", ["take-back", "correct"])
def test_an_assistant_lifts_no_stop_by_correcting_what_they_reported(
    app: Flask, client: FlaskClient, assistant: FlaskClient, way: str
) -> None:
    entry = hurt(assistant, app)
    sound = {"client_id": "c", "load": "100", "reps": "3", "reserve_reps": "1", "pain": "0"}
    assert assistant.post(f"/floor/sets/{entry}/{way}", data=sound).status_code == 302, "a mistake can be corrected"
    stop = the_stop(app, entry)
    assert stop.cleared_on is None and not stop.withdrawn and is_stopped(app, client)
    marit = athlete_id(app, "Marit Holm")
    page = client.get(f"/health-list/{marit}").text
    assert "corrected or taken back by" in page and "until somebody qualified clears it" in page
    assert "Never stopped" not in page and "report_changed" in whats(app)


def test_after_minutes_or_for_somebody_else_only_the_coach_corrects_a_report_of_pain(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    entry = hurt(client, app)
    sound = {"client_id": "c", "load": "100", "reps": "3", "reserve_reps": "1", "pain": "0"}
    for way in ("take-back", "correct"):
        refused = assistant.post(f"/floor/sets/{entry}/{way}", data=sound)
        assert refused.status_code == 409 and "reported pain" in refused.text
    assert client.post(f"/floor/sets/{entry}/correct", data=sound).status_code == 302
    assert the_stop(app, entry).cleared_on is None
    with app.extensions["database"].writing() as db:
        for line in entries(app, live_cell(app, "Marit Holm", 2).id):
            db.execute(
                text("UPDATE set_entries SET standing = 1, by_id = :who, at = :then WHERE id = :id"),
                {"who": user_id(app, "lund"), "then": dt.datetime(2026, 11, 22, 1), "id": line.id},
            )
    assert assistant.post(f"/floor/sets/{entry}/take-back").status_code == 409, "too late"


def test_another_report_of_the_same_pain_takes_over_without_a_gap(app: Flask, client: FlaskClient) -> None:
    entry = hurt(client, app)
    worse = {
        "client_id": "c", "load": "100", "reps": "2", "reserve_reps": "1",
        "pain": "8", "pain_region": "knee", "pain_character": "sharp",
    }  # fmt: skip
    client.post(f"/floor/sets/{entry}/correct", data=worse)
    assert the_stop(app, entry).withdrawn and is_stopped(app, client)
    with reading(app) as db:
        marit = athlete_id(app, "Marit Holm")
        open_now = db.scalars(select(Stop).where(Stop.athlete_id == marit, ~Stop.withdrawn)).all()
        assert [stop.level for stop in open_now] == [8]


def test_a_report_of_another_place_leaves_the_stop_of_the_first(app: Flask, client: FlaskClient) -> None:
    entry = hurt(client, app)
    elsewhere = {
        "client_id": "c", "load": "100", "reps": "2", "reserve_reps": "1",
        "pain": "6", "pain_region": "groin", "pain_character": "sharp",
    }  # fmt: skip
    client.post(f"/floor/sets/{entry}/correct", data=elsewhere)
    assert not the_stop(app, entry).withdrawn, "a knee that hurt is cleared by a physio, not by a groin"
    with reading(app) as db:
        marit = athlete_id(app, "Marit Holm")
        open_now = db.scalars(select(Stop.region).where(Stop.athlete_id == marit, ~Stop.withdrawn)).all()
        assert sorted(open_now) == ["groin", "knee"]


def test_a_clearance_ends_it_and_nobody_else_gives_one(
    app: Flask, client: FlaskClient, physio: FlaskClient, assistant: FlaskClient
) -> None:
    stop = the_stop(app, hurt(client, app))
    address = f"/health-list/stops/{stop.id}/clear"
    data = {"by": "M. Ferro", "role": "physio", "on": "2026-11-23", "limits": "none", "most_kg": "", "until_on": ""}
    assert assistant.post(address, data=data).status_code == 403 and is_stopped(app, client)
    assert physio.post(address, data=data).status_code == 302
    assert the_stop(app, stop.set_id).cleared_on == dt.date(2026, 11, 23) and not is_stopped(app, client)
    assert [what for what in whats(app) if what in ("stopped", "cleared")][-2:] == ["stopped", "cleared"]


def test_the_assistant_sees_what_not_to_do_and_not_why(app: Flask, client: FlaskClient, assistant: FlaskClient) -> None:
    hurt(client, app)
    marit = athlete_id(app, "Marit Holm")
    for address in (f"/health-list/{marit}", f"/athletes/{marit}"):
        told = assistant.get(address).text
        assert "sharp" not in told and "of 10, knee" not in told, address
        assert "what loads the same place" in told, address
        assert "sharp" in client.get(address).text
    beatriz = athlete_id(app, "Beatriz Solheim")
    assert "sharp" not in assistant.get(f"/health-list/{beatriz}").text


def test_every_reading_of_health_notes_leaves_a_line(app: Flask, client: FlaskClient) -> None:
    rania = athlete_id(app, "Rania Haddad")
    before = whats(app).count("health_read")
    for _ in range(2):
        client.get(f"/health-list/{rania}")
    assert whats(app).count("health_read") == before + 2


def test_the_log_refuses_changes_and_shows_a_broken_line(app: Flask, client: FlaskClient) -> None:
    hurt(client, app)
    database = app.extensions["database"]
    for statement in ("UPDATE audit_lines SET who = 'nobody'", "DELETE FROM audit_lines"):
        with pytest.raises(IntegrityError), database.writing() as db:
            db.execute(text(statement))
    with reading(app) as db:
        assert first_broken(db) is None
    assert "Every line follows" in client.get("/audit/?check=1").text
    with database.writing() as db:
        db.execute(text("DROP TRIGGER audit_lines_no_update"))
        db.execute(text("UPDATE audit_lines SET who = 'nobody' WHERE id = 1"))
        assert first_broken(db) == 1
    assert "Line 1 does not" in " ".join(client.get("/audit/?check=1").text.split())


def test_the_log_is_for_the_head_coach_of_the_squad_only(
    app: Flask, client: FlaskClient, assistant: FlaskClient, physio: FlaskClient
) -> None:
    stranger, _ = other_squad(app)
    with app.extensions["database"].writing() as db:
        about = {"athlete": 1, "reason": "=1+1"}
        note_of(db, dt.datetime(2026, 11, 23), "cleared", about, user_id=user_id(app, "amari"), squad_id=1)
        note_of(db, dt.datetime(2026, 11, 23), "cleared", {"by": "elsewhere"}, user_id=stranger)
    page = client.get("/audit/").text
    assert "a stop cleared" in page and "elsewhere" not in page
    told = client.get("/audit/audit.csv")
    assert told.mimetype == "text/csv" and "elsewhere" not in told.text and "audit log exported" in told.text
    assert all(not field.startswith("=") for line in told.text.splitlines() for field in line.split(","))
    for other in (assistant, physio):
        assert other.get("/audit/").status_code == other.get("/audit/audit.csv").status_code == 403
