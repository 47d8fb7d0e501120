"""An athlete on the own phone: in by link or code, the own card, log and numbers, and nothing of anybody else."""

import datetime as dt
import json
import re
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Athlete, AthletePass, Base, Cell, Change, SetEntry, Still, User
from tests.demo_club import athlete_id, entries, live_cell, reading
from tests.sweep import BODY, IDS, ids_of_demo, rows

MARIT, INES = "Marit Holm", "Ines Okafor"
OWN = {"sign_ins", "audit_lines"}  # grow with whoever comes by


def given(client: FlaskClient, athlete: int, session: int | None = None) -> tuple[str, str]:
    """The address of a new link or code, and the code as it is shown."""
    page = client.post(f"/athletes/{athlete}/phone", data={"session": session} if session else {}).text
    code = re.search(r'class="huge mb-1">([^<]+)<', page)
    found = re.search(r"<code>http://[^/]+(/come-in/[^<]+)</code>", page)
    assert found and "<svg" in page
    return found.group(1), code.group(1) if code else ""


def on_phone(app: Flask, client: FlaskClient, name: str, session: int | None = None) -> FlaskClient:
    address, _ = given(client, athlete_id(app, name), session)
    phone = app.test_client()
    assert phone.post(address).headers["Location"] == "/floor/"
    return phone


def log(client: FlaskClient, cell: Cell, client_id: str = "own-1", **told: Any) -> int:
    data = {"load": str(cell.load_amount), "reps": str(cell.reps), "client_id": client_id, "pain_character": "dull"}
    return client.post(f"/floor/cells/{cell.id}/sets", data=data | told).status_code


def names(app: Flask) -> list[str]:
    with reading(app) as db:
        return [one.name for one in db.scalars(select(Athlete)) if one.name != MARIT]


def test_a_link_shows_whose_it_is_and_opens_only_when_tapped(app: Flask, client: FlaskClient) -> None:
    address, _ = given(client, athlete_id(app, MARIT))
    phone = app.test_client()
    page = phone.get(address).text  # as a preview of a message does
    assert "Marit Holm?" in page and phone.get("/floor/").status_code == 302
    phone.post(address)
    page = phone.get("/floor/").text
    assert "Back squat" in page and "102.5" in page
    assert not [name for name in names(app) if name in page or name.split(" ")[0] in page.replace("Marit", "")]
    with reading(app) as db:  # the address opens it, the row does not
        assert address.split("/")[-1] not in db.scalars(select(AthletePass.token)).all()


def test_an_athlete_logs_the_own_sets_and_everybody_sees_by_whom(app: Flask, client: FlaskClient) -> None:
    phone, cell = on_phone(app, client, MARIT), live_cell(app, MARIT, 2)
    assert log(phone, cell) == 302
    (entry,) = entries(app, cell.id)
    with reading(app) as db:
        assert db.get_one(SetEntry, entry.id).by_id not in (1, 2, 3)
    assert "on the own phone" in client.get(f"/floor/?athlete={cell.athlete_id}&lift={cell.exercise_id}").text
    assert "logged alone" in client.get(f"/athletes/{cell.athlete_id}").text
    assert phone.post(f"/floor/sets/{entry.id}/take-back").status_code == 302
    assert not [one for one in entries(app, cell.id) if one.standing]
    pain = {"painful": "1", "pain": "7", "pain_region": "knee", "pain_character": "sharp"}
    log(phone, cell, "own-2", **pain)
    page = phone.get("/athletes/me").text
    assert "Stopped" in page and "clearance" in page


def test_the_own_numbers_notes_and_check_in(app: Flask, client: FlaskClient) -> None:
    phone, marit = on_phone(app, client, MARIT), athlete_id(app, MARIT)
    page = phone.get("/athletes/me").text
    assert "Over the season" in page and "My log" in page and not [name for name in names(app) if name in page]
    note = {"movement": "back_squat", "field": "stance", "value": "35 cm"}
    assert phone.post(f"/athletes/{marit}/set-up", data=note).headers["Location"].startswith("/athletes/me")
    assert "35 cm" in phone.get("/athletes/me?lift=back_squat").text
    scales = {"sleep": 4, "soreness": 2, "stress": 1, "back": 0}
    assert phone.post(f"/floor/athletes/{marit}/check-in", data=scales).status_code == 302
    assert "Checked in" in phone.get("/floor/").text


def test_nothing_can_be_logged_for_anybody_else(app: Flask, client: FlaskClient) -> None:
    phone, other = on_phone(app, client, MARIT), live_cell(app, INES, 2)
    log(client, other, "coach")
    (entry,) = entries(app, other.id)
    assert log(phone, other) == 403
    here = phone.get("/floor/pulse").get_json()["place"]
    thing = {
        "client_id": "device-of-marit",
        "what": "set",
        "cell": other.id,
        "athlete": other.athlete_id,
        "tapped_ms": 1,
    }
    parcel = {
        "format": 1,
        "place": here,
        "device_ms": 2,
        "things": [thing | {"fields": {"reps": ["5"], "load": ["60"]}}],
    }
    answer = phone.post("/floor/waiting", data=json.dumps(parcel), content_type="application/json").get_json()
    assert not answer["answers"]["device-of-marit"]["taken"]
    told = {"reason": "tired", "what": "ramp", "n": 1, "movement": "back_squat", "field": "stance", "value": "1"}
    for path in (
        f"/floor/sets/{entry.id}/take-back", f"/floor/cells/{other.id}/skip", f"/floor/cells/{other.id}/tick",
        f"/floor/cells/{other.id}/end", f"/athletes/{other.athlete_id}/set-up",
        f"/floor/sessions/5/athletes/{other.athlete_id}/warm-up",
    ):  # fmt: skip
        assert phone.post(path, data=told | {"in_week": 2}).status_code == 403, path
    scales = {"sleep": 4, "soreness": 2, "stress": 1, "back": 0}
    assert phone.post(f"/floor/athletes/{other.athlete_id}/check-in", data=scales).status_code == 403
    assert len(entries(app, other.id)) == 1
    assert INES not in phone.get(f"/floor/?athlete={other.athlete_id}&lift={other.exercise_id}").text
    pack = phone.get("/floor/pack").text
    assert MARIT in pack and not [name for name in names(app) if name in pack]


def test_a_code_is_for_one_session_of_one_athlete(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    marit, squat = athlete_id(app, MARIT), live_cell(app, MARIT, 2)
    hinge = live_cell(app, MARIT, 2, "romanian_deadlift")
    _, code = given(client, marit, 5)
    assert re.fullmatch(r"[A-Z2-9]{4}-[A-Z2-9]{4}", code)
    phone = app.test_client()
    assert phone.post("/come-in", data={"code": code.lower().replace("-", " ")}).status_code == 302
    assert log(phone, squat) == 302
    monkeypatch.setattr(app.extensions["clock"], "fixed_day", dt.date(2026, 11, 25))
    assert log(client, hinge, "coach on Wednesday") == 302
    assert phone.get("/floor/").status_code == 302  # the day is over: out
    assert phone.post("/come-in", data={"code": code}).status_code == 422
    monkeypatch.setattr(app.extensions["clock"], "fixed_day", dt.date(2026, 11, 23))
    assert [one["id"] for one in phone.get("/floor/pack").get_json()["sessions"]] == ["5"]
    assert "Wednesday" not in phone.get("/floor/?session=6").text and ">Wed " not in phone.get("/floor/").text
    _, wednesday = given(client, marit, 6)
    early = app.test_client()
    early.post("/come-in", data={"code": wednesday})
    assert log(early, squat, "own-9") == 403 and len(entries(app, squat.id)) == 1


def test_a_pass_taken_back_signs_out_at_the_next_step(app: Flask, client: FlaskClient) -> None:
    phone, marit = on_phone(app, client, MARIT), athlete_id(app, MARIT)
    assert phone.get("/floor/").status_code == 200
    end = re.search(rf"/athletes/{marit}/phone/\d+/end", client.get(f"/athletes/{marit}/phone").text)
    assert end and client.post(end.group()).status_code == 302
    assert phone.get("/floor/").status_code == 302 and log(phone, live_cell(app, MARIT, 2)) in (302, 401)
    assert not entries(app, live_cell(app, MARIT, 2).id)


def test_a_minor_has_an_account_only_with_the_guardians_consent(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        minor = db.scalars(select(Athlete).where(Athlete.born_on > dt.date(2008, 12, 1), Athlete.active)).first()
        assert minor is not None
        athlete, minor.consent = minor.id, False
    refused = client.post(f"/athletes/{athlete}/phone")
    assert refused.status_code == 409 and "consent" in refused.text
    with app.extensions["database"].writing() as db:
        db.get_one(Athlete, athlete).consent = True
    address, _ = given(client, athlete)
    phone = app.test_client()
    phone.post(address)
    assert phone.get("/floor/").status_code == 200
    with app.extensions["database"].writing() as db:
        db.get_one(Athlete, athlete).consent = False
    assert phone.get("/floor/").status_code == 302 and phone.post(address).status_code == 422


def test_guessing_codes_is_slowed_and_shuts_nobody_out_who_has_a_link(app: Flask, client: FlaskClient) -> None:
    address, _ = given(client, athlete_id(app, "Marit Holm"))
    guesser = app.test_client()
    found = [guesser.post("/come-in", data={"code": f"AAAA-{n:04}"}).status_code for n in range(42)]
    assert found[0] == 422 and found[-1] == 429
    assert guesser.post(f"/come-in/{'x' * 40}").status_code == 429, "guessing at links is slowed down as well"
    again = app.test_client()
    assert again.get(address).status_code == 200 and again.post(address).status_code == 302, "the rightful one opens"
    app.extensions["slow"].forget()
    same = [guesser.post("/come-in", data={"code": "AAAA-0001"}).status_code for _ in range(12)]
    assert same[-1] == 429, "one code tried again and again is slowed down for itself"


def test_only_the_head_coach_gives_and_takes_back(app: Flask, assistant: FlaskClient, physio: FlaskClient) -> None:
    for somebody in (assistant, physio):
        assert somebody.get("/athletes/1/phone").status_code == 403
        assert somebody.post("/athletes/1/phone").status_code == 403


def test_over_the_whole_map_an_athlete_sees_and_changes_nothing_of_anybody_else(
    app: Flask, client: FlaskClient
) -> None:
    phone, marit, others = on_phone(app, client, MARIT), athlete_id(app, MARIT), names(app)
    ids, before, open_to = ids_of_demo(app, 6), rows(app), set()
    for rule in app.url_map.iter_rules():
        wanted = [name for name in rule.arguments if name in IDS]
        if rule.endpoint in ("static", "accounts.demo_sign_in", "accounts.sign_out") or len(wanted) < len(
            rule.arguments
        ):
            continue
        for nth in range(max([1, *(len(ids[name]) for name in wanted)])):
            if any(not ids[name] for name in wanted):
                continue
            path = re.sub(
                r"<(?:[a-z]+:)?(\w+)>",
                lambda one, nth=nth: str(ids[one.group(1)][nth % len(ids[one.group(1)])]),
                rule.rule,
            )
            for method in sorted((rule.methods or set()) & {"GET", "POST"}):
                answer = phone.open(path, method=method, data=BODY if method == "POST" else None)
                assert answer.status_code < 500, (method, path)
                if answer.mimetype == "image/jpeg":  # of the own body, and of no other
                    with reading(app) as db:
                        assert db.get_one(Still, int(path.split("/")[-2])).athlete_id == marit, path
                    open_to.add(rule.endpoint)
                    continue
                assert not [name for name in others if name in answer.text], (method, path)
                if answer.status_code == 200:
                    open_to.add(rule.endpoint)
    assert open_to <= {
        "accounts.sign_in", "accounts.come_in_by_code", "athlete.me", "floor.index", "floor.take_along", "floor.feel",
        "floor.hand_in", "floor.pocket", "floor.no_line", "floor.worker", "floor.manifest", "squad.cautions", "squad.health",
        "technique.mine", "technique.own_picture",
    }, open_to  # fmt: skip
    after = rows(app)
    for table in Base.metadata.sorted_tables:
        if table.name in OWN:
            continue
        changed = {key for key, row in before[table.name].items() if after[table.name].get(key) != row}
        new = [row for key, row in after[table.name].items() if key not in before[table.name]]
        if "athlete_id" in table.c:
            at = list(table.c).index(table.c.athlete_id)
            assert {row[at] for row in new} <= {str(marit)}, table.name
            changed = {key for key in changed if before[table.name][key][at] != str(marit)}
        assert not changed, (table.name, changed)


def test_who_is_erased_is_out_and_their_account_names_nobody(app: Flask, client: FlaskClient) -> None:
    phone, cell = on_phone(app, client, MARIT), live_cell(app, MARIT, 2)
    log(phone, cell)
    assert client.post(f"/athletes/{cell.athlete_id}/erase", data={"name": MARIT}).status_code == 302
    assert phone.get("/floor/").status_code in (302, 403) and log(phone, cell, "own-3") in (302, 401, 403, 404)
    with reading(app) as db:
        assert not db.scalars(select(User).where(User.name.contains("Marit"))).all()
        assert not db.scalars(select(SetEntry).where(SetEntry.athlete_id == cell.athlete_id)).all()


def test_an_athletes_account_is_nobody_elses_to_become(app: Flask, client: FlaskClient) -> None:
    on_phone(app, client, MARIT)
    with reading(app) as db:
        account = db.scalars(select(User.id).where(User.sign_in.startswith("athlete "))).first()
    for path, data in ((f"/people/{account}/role", {"role": "coach"}), (f"/people/{account}/link", {})):
        assert client.post(path, data=data).status_code == 404


def test_a_phone_greets_by_the_new_name_and_after_an_undo_by_the_old(app: Flask, client: FlaskClient) -> None:
    phone, marit = on_phone(app, client, MARIT), athlete_id(app, MARIT)
    with reading(app) as db:
        one = db.get_one(Athlete, marit)
        facts = {"name": "Marit Vale", "born_on": one.born_on.isoformat(), "position": one.position, "consent": "y"}
    assert client.post(f"/athletes/{marit}/edit", data=facts).status_code == 302
    assert "Marit Vale" in phone.get("/floor/").text and MARIT not in phone.get("/floor/").text
    with reading(app) as db:
        change = db.scalars(select(Change.id).where(Change.subject == "athlete").order_by(Change.id.desc())).first()
    client.post(f"/undo/{change}")
    assert MARIT in phone.get("/floor/").text and "Marit Vale" not in phone.get("/floor/").text


def test_a_phone_speaks_to_its_athlete_and_not_about_them(app: Flask, client: FlaskClient) -> None:
    phone, marit = on_phone(app, client, MARIT), athlete_id(app, MARIT)
    answer = phone.post(
        f"/floor/athletes/{marit}/pain", data={"pain_region": "knee", "said": "sharp", "client_id": "own-pain"}
    )
    assert answer.status_code == 302
    assert "You stop" in phone.get(answer.headers["Location"]).text
    assert "Marit Holm stops" in client.get(answer.headers["Location"]).text
