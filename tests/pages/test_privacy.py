"""Everything about one person: handed out whole, erased whole; consent is a record; nobody's change is undone unasked."""

import datetime as dt
import json
import logging
import re
import shutil

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select, text, update

from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, AuditLine, Base, Change, Consent, HealthNote, SetEntry
from backsquat.work.audit import first_broken
from backsquat.work.privacy.person import due_for_erasure, tables_of_athletes
from tests.demo_club import ROOM, athlete_id, live_cell, other_squad, reading, user_id
from tests.pages.test_movements import typed


def client_of(app: Flask, name: str) -> FlaskClient:
    client = app.test_client()
    client.post(f"/demo-sign-in/{user_id(app, name)}")
    return client


HELD = {"name": "Held squat", "how": "Held as deep as it goes.", "kind": "seconds", "error": "3", "drills": "goblet_squat",
        "edit": "deep_squat_hold"}  # fmt: skip


def facts_of(page: str) -> dict[str, str]:
    """What a facts page would send as it stands."""
    found = dict(re.findall(r'name="(seen|name|born_on|body_mass_kg|position|guardian)"[^>]*?value="([^"]*)"', page))
    found |= {
        name: "y" for name in ("newcomer", "consent") if re.search(rf'<input[^>]*checked[^>]*name="{name}"', page)
    }
    return found


# --- handed out and erased


def test_everything_is_handed_out_and_the_handing_out_is_on_record(app: Flask, client: FlaskClient) -> None:
    rania = athlete_id(app, "Rania Haddad")
    answer = client.get(f"/athletes/{rania}/everything.json")
    found = json.loads(answer.get_data(as_text=True))
    assert found["athlete"][0]["name"] == "Rania Haddad"
    assert "Lower back sore after long bus trips" in json.dumps(found["health_notes"])
    assert set(found) >= {table.name for table in tables_of_athletes()} | {"answers", "week_answers"}
    assert len(found["set_entries"]) > 20 and found["answers"]
    others = athlete_id(app, "Marit Holm")
    assert not any(row["athlete_id"] == others for rows in found.values() if isinstance(rows, list) for row in rows
                   if isinstance(row, dict) and "athlete_id" in row)  # fmt: skip
    with reading(app) as db:
        assert db.scalars(select(AuditLine.what).order_by(AuditLine.id.desc())).first() == "exported"


def test_who_is_erased_leaves_a_number_and_nothing_else(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    cell = live_cell(app, "Marit Holm", 4)
    client.post(f"/block/cells/{cell.id}", data={"load": "95", "bar": cell.bar})
    wrong = client.post(f"/athletes/{marit}/erase", data={"name": "Marit"})
    assert wrong.status_code == 422 and "Type the name" in wrong.text
    page = client.post(f"/athletes/{marit}/erase", data={"name": "Marit Holm"}, follow_redirects=True).text
    assert "Erased: " in page and "Marit Holm" not in page
    with reading(app) as db:
        for table in tables_of_athletes():
            left = db.execute(select(table.c.id).where(table.c.athlete_id == marit)).all()
            assert left == [], table.name
        everything = [
            str(value) for table in Base.metadata.sorted_tables for row in db.execute(select(table)) for value in row
        ]
        assert not any("Marit Holm" in value for value in everything)
        assert db.execute(text("PRAGMA foreign_key_check")).all() == []
        line = db.scalars(select(AuditLine).order_by(AuditLine.id.desc())).first()
        assert line is not None and line.what == "erased" and line.about["athlete"] == marit
    for path in ("/", "/block/3", "/floor/", "/review/", "/audit/", "/health-list/", "/block/3/versions"):
        assert client.get(path).status_code == 200, path
    assert client.post("/block/3/undo/" + str(_newest(app)), follow_redirects=True).status_code == 200


def test_of_who_is_erased_no_byte_of_the_name_is_left_in_the_file(app: Flask, client: FlaskClient) -> None:
    """Not in free pages, not in the log of writes, not in what the audit log says of the own phone, nor in other words."""
    marit = athlete_id(app, "Marit Holm")
    page = client.post(f"/athletes/{marit}/phone", follow_redirects=True).text
    link = re.search(r"/come-in/[\w-]+", page)
    assert link
    phone = app.test_client()
    assert phone.post(link[0]).status_code == 302
    assert "Marit Holm" in client.get("/audit/").text, "by name, as long as there is one"
    folder = app.extensions["database"].path.parent / "backups"
    shutil.rmtree(folder, ignore_errors=True)  # other tests may have left copies
    folder.mkdir()
    (folder / "nightly-2026-11-22T020000.sqlite3").write_bytes(b"")
    (folder / "before-update-2026-11-01T120000.sqlite3").write_bytes(b"")
    said = client.post(f"/athletes/{marit}/erase", data={"name": "Marit Holm"}, follow_redirects=True).text
    assert "2 copies made before still hold it" in said and "until 6 Dec" in said and "until it is deleted" in said
    path = app.extensions["database"].path
    for file in (path, path.with_name(f"{path.name}-wal")):
        assert not file.exists() or b"Marit Holm" not in file.read_bytes(), file
    with reading(app) as db:
        assert first_broken(db) is None
        who = set(db.scalars(select(AuditLine.who)))
    assert f"athlete {marit}" in who and "Marit Holm" not in client.get("/audit/").text
    shutil.rmtree(folder)


@pytest.mark.parametrize("name", ["Ann", "squat", "a"])
def test_an_erasure_touches_no_other_word_no_code_and_no_other_squad(
    app: Flask, client: FlaskClient, name: str
) -> None:
    """A name may be part of another word, spelled like a code, or somebody else's in another squad."""
    _, stranger = other_squad(app)
    marit, tove = athlete_id(app, "Marit Holm"), athlete_id(app, "Tove Lindqvist")
    said = f"{name} paired with Anna, squatting again"
    with app.extensions["database"].writing() as db:
        db.get_one(Athlete, marit).name = name
        for who in (tove, stranger):
            db.add(HealthNote(athlete_id=who, region="", words=said, by_id=1, at=dt.datetime(2026, 11, 20, 9)))
        families = dict(db.execute(select(SetEntry.id, SetEntry.family).where(SetEntry.athlete_id != marit)).all())
    assert client.post(f"/athletes/{marit}/erase", data={"name": name}).status_code == 302
    with reading(app) as db:
        words = dict(
            db.execute(select(HealthNote.athlete_id, HealthNote.words).where(HealthNote.words.like("%Anna%"))).all()
        )
        assert words == {tove: said.replace(name, "an erased athlete", 1), stranger: said}
        assert dict(db.execute(select(SetEntry.id, SetEntry.family)).all()) == families
    assert client.get("/").status_code == 200 and client.get("/block/3").status_code == 200


def _newest(app: Flask) -> int:
    with reading(app) as db:
        return db.scalars(select(Change.id).where(~Change.undone).order_by(Change.id.desc())).first() or 0


def test_data_are_the_head_coachs_to_hand_out(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    for name in ("lund", "ferro"):
        other = client_of(app, name)
        assert other.get(f"/athletes/{marit}/everything.json").status_code == 403
        assert other.post(f"/athletes/{marit}/erase", data={"name": "Marit Holm"}).status_code == 403
    _, stranger = other_squad(app)
    assert client.get(f"/athletes/{stranger}/everything.json").status_code == 404
    assert client.post(f"/athletes/{stranger}/erase", data={"name": "x"}).status_code == 404


def test_who_was_put_away_long_ago_is_due_to_be_erased(app: Flask, client: FlaskClient) -> None:
    tove = athlete_id(app, "Tove Lindqvist")
    client.post(f"/athletes/{tove}/archive")
    rules, today = Rules(keep_years=3), dt.date(2026, 11, 23)
    with app.extensions["database"].writing() as db:
        assert due_for_erasure(db, 1, today, rules) == {}
        then = dt.datetime(2023, 11, 20)
        db.execute(update(Change).where(Change.what == "athlete_archived").values(at=then))
        assert due_for_erasure(db, 1, today, rules) == {tove: then.date()}
    assert "2023: erase?" in client.get("/").text


# --- consent


def test_consent_is_a_record_of_who_when_and_until_when(app: Flask, client: FlaskClient) -> None:
    alma = athlete_id(app, "Alma Brekke")
    address = f"/athletes/{alma}/edit"
    facts = facts_of(client.get(address).text)
    assert "consent" not in facts
    client.post(address, data=facts | {"consent": "y", "guardian": "H. Brekke, mother"})
    page = client.get(address).text
    assert "Consent to lifting, H. Brekke, mother: 23 Nov" in page
    again = facts_of(page) | {"guardian": ""}
    client.post(address, data=again)
    again.pop("consent")
    client.post(address, data=again | {"seen": facts_of(client.get(address).text)["seen"]})
    with reading(app) as db:
        rows = db.scalars(select(Consent).where(Consent.athlete_id == alma)).all()
        assert [(row.given_by, row.withdrawn_on) for row in rows] == [("H. Brekke, mother", dt.date(2026, 11, 23))]
        assert db.get_one(Athlete, alma).consent is False
        said = db.scalars(select(AuditLine.what).where(AuditLine.what.startswith("consent"))).all()
    assert said[-2:] == ["consent_given", "consent_withdrawn"]


def test_a_form_opened_before_does_not_undo_the_guardians_withdrawal(app: Flask, client: FlaskClient) -> None:
    suri = athlete_id(app, "Suri Valdez")
    address = f"/athletes/{suri}/edit"
    early = facts_of(client.get(address).text)
    assert early["consent"] == "y"
    withdrawn = {name: value for name, value in early.items() if name != "consent"}
    assert client_of(app, "amari").post(address, data=withdrawn).status_code == 302
    late = client.post(address, data=early | {"position": "pivot"})
    assert late.status_code == 422 and "changed the guardian" in late.text
    with reading(app) as db:
        assert db.get_one(Athlete, suri).consent is False, "nothing was undone"
    assert 'value="pivot"' in late.text, "and nothing typed is lost"
    chosen = client.post(address, data=early | {"position": "pivot", "confirm": "seen"})
    assert chosen.status_code == 302
    with reading(app) as db:
        assert db.get_one(Athlete, suri).consent is True, "the later person chose"


@pytest.mark.parametrize("seen", ["", "nonsense", "a.b.c"])
def test_a_forged_memory_of_the_page_is_none(app: Flask, client: FlaskClient, seen: str) -> None:
    marit = athlete_id(app, "Marit Holm")
    facts = facts_of(client.get(f"/athletes/{marit}/edit").text)
    assert client.post(f"/athletes/{marit}/edit", data=facts | {"seen": seen}).status_code == 302


# --- logs


def test_a_diagnosis_never_reaches_a_log(
    app: Flask, client: FlaskClient, caplog: pytest.LogCaptureFixture, monkeypatch: pytest.MonkeyPatch
) -> None:
    app.config["SHOW_ERROR_PAGES"] = True
    secret = "torn meniscus, left"
    rania = athlete_id(app, "Rania Haddad")
    with app.extensions["database"].writing() as db:
        db.execute(text("DROP TABLE health_notes"))  # the write fails with the words among its parameters
    with caplog.at_level(logging.DEBUG):
        answer = client.post(f"/health-list/{rania}/notes", data={"words": secret, "region": "knee"})
    assert answer.status_code == 500 and secret not in caplog.text and "health_notes" in caplog.text


@pytest.mark.parametrize(
    ("address", "first", "second"),
    [
        (
            "/block/exercises/7",
            {"day": "4", "role": "main", "progression": "wave"},
            {"day": "2", "role": "main", "progression": "wave"},
        ),
        ("/room/?room=1", ROOM | {"collars": "2.5"}, ROOM | {"racks": "3"}),
        ("/movements/nordic/edit", typed("nordic", rest_s="100"), typed("nordic", rest_s="110")),
        ("/screen/own?edit=deep_squat_hold", HELD | {"pass_at": "20"}, HELD | {"pass_at": "25"}),
        ("/rules", {"name": "formula", "value": "brzycki"}, {"name": "formula", "value": "epley"}),
    ],
)
def test_what_was_opened_before_somebody_elses_change_is_not_put_back_unasked(
    app: Flask, client: FlaskClient, address: str, first: dict[str, str], second: dict[str, str]
) -> None:
    def seen() -> str:
        return re.findall(r'name="seen" value="([^"]+)"', client.get(address).text)[0]

    early = seen()
    assert client.post(address, data=first | {"seen": early}).status_code == 302
    late = client.post(address, data=second | {"seen": early})
    assert late.status_code == 422 and "Somebody has changed this since you opened it" in late.text
    now = re.findall(r'name="seen" value="([^"]+)"', late.text)[0]
    assert now == seen() != early, "nothing was kept, and the page says what it is now"
    assert client.post(address, data=second | {"seen": now}).status_code == 302
