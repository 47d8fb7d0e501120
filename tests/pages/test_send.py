"""Sending: to each their own, tried again until it is delivered, never twice, taken back while it waits."""

import datetime as dt
from collections.abc import Iterator
from dataclasses import replace

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select, update

from backsquat.devices.post import Letter, hand_over
from backsquat.devices.post_stand_in import PostOffice
from backsquat.serving import deliver_due
from backsquat.storage.models import Athlete, AuditLine, Message
from backsquat.work.exports.post import GIVE_UP, due_messages, set_out
from tests.demo_club import athlete_id, other_squad, reading, user_id

LONG_AGO = dt.datetime(2020, 1, 1)


@pytest.fixture
def office(app: Flask) -> Iterator[PostOffice]:
    made = PostOffice()
    made.start()
    before = app.extensions["settings"]
    app.extensions["settings"] = replace(before, post=("127.0.0.1", made.port))
    yield made
    app.extensions["settings"] = before
    made.shutdown()
    made.server_close()


def goes(app: Flask, times: int = 1) -> None:
    """What waits is due now, and is handed over as the serving process does it."""
    for _ in range(times):
        with app.extensions["database"].writing() as db:
            db.execute(update(Message).values(due_at=LONG_AGO))
        deliver_due(app.extensions["database"], app.extensions["settings"])


def to(app: Flask, *names: str) -> list[str]:
    return [f"{athlete_id(app, name)}-0" for name in names]


def sent(client: FlaskClient, what: str, ticked: list[str], **more: str) -> str:
    answer = client.post("/floor/send", data={"what": what, "to": ticked, **more}, follow_redirects=True)
    assert answer.status_code == 200
    return answer.text


def test_each_gets_their_own_card_and_nobody_elses_name(app: Flask, client: FlaskClient, office: PostOffice) -> None:
    assert "2 go out in 20 seconds" in sent(client, "card", to(app, "Tove Lindqvist", "Liv Aasen"))
    deliver_due(app.extensions["database"], app.extensions["settings"])
    assert not office.taken  # it can still be taken back
    goes(app)
    by_address = {letter.address: letter for letter in office.taken.values()}
    assert set(by_address) == {"tove.lindqvist@kestrel-point.example", "liv.aasen@kestrel-point.example"}
    with reading(app) as db:
        everybody = set(db.scalars(select(Athlete.name)))
        kept = db.scalars(select(Message)).all()
    for address, letter in by_address.items():
        own = address.partition("@")[0].replace(".", " ").title()
        said = letter.subject + letter.text + letter.file
        assert own in said and not [name for name in everybody - {own} if name in said], address
        assert "<style>" in letter.file and "src=" not in letter.file  # it needs nothing else
    assert all(row.sent_at and not row.text and not row.file for row in kept)  # what was in it is forgotten


def test_never_twice_and_tried_again_until_taken(app: Flask, client: FlaskClient, office: PostOffice) -> None:
    office.refusing = 2
    sent(client, "card", to(app, "Tove Lindqvist"))
    goes(app)
    assert "post service refused (503), tried 1 time" in client.get("/floor/send").text
    assert "has it already" in sent(client, "card", to(app, "Tove Lindqvist"))  # one waits for her
    goes(app, 2)
    assert office.asked == 3 and len(office.taken) == 1
    goes(app)
    assert office.asked == 3
    assert "Tove Lindqvist: has it already" in sent(client, "card", to(app, "Tove Lindqvist"))
    with reading(app) as db:
        assert len(db.scalars(select(Message)).all()) == 1


def test_one_lost_on_the_way_is_asked_for_again_under_its_key(
    app: Flask, client: FlaskClient, office: PostOffice
) -> None:
    sent(client, "card", to(app, "Tove Lindqvist"))
    database = app.extensions["database"]
    with database.writing() as db:
        db.execute(update(Message).values(due_at=LONG_AGO))
    with database.writing() as db:  # handed over, and the lights went out before that was written down
        (number,) = due_messages(db, LONG_AGO)
        row = set_out(db, number, LONG_AGO)
        assert row
        hand_over(
            "127.0.0.1", office.port, row.key, Letter(row.address, row.subject, row.text, row.file_name, row.file)
        )
    assert "on its way" in client.get("/floor/send").text
    client.post("/floor/send/take-back", data={"message": str(number)})
    goes(app)
    assert office.asked == 2 and len(office.taken) == 1
    with reading(app) as db:
        row = db.get_one(Message, number)
        assert row.sent_at and row.taken_back_at is None  # it went: nobody is told otherwise


def test_taken_back_in_time_it_never_goes(app: Flask, client: FlaskClient, office: PostOffice) -> None:
    page = sent(client, "card", to(app, "Tove Lindqvist"))
    assert "Take back Your card" in page
    assert "1 taken back." in client.post("/floor/send/take-back", data={"message": "1"}, follow_redirects=True).text
    goes(app)
    assert not office.asked
    sent(client, "card", to(app, "Tove Lindqvist"))  # and can be sent after all
    goes(app)
    assert len(office.taken) == 1


def test_a_service_that_is_gone_is_not_asked_for_ever(app: Flask, client: FlaskClient, office: PostOffice) -> None:
    app.extensions["settings"] = replace(app.extensions["settings"], post=("127.0.0.1", 9))
    sent(client, "card", to(app, "Tove Lindqvist"))
    goes(app, GIVE_UP + 3)
    with reading(app) as db:
        assert db.scalars(select(Message.tries)).one() == GIVE_UP
    assert "post service not reached" in client.get("/floor/send").text


def test_stops_go_to_those_who_may_read_them(
    app: Flask, client: FlaskClient, physio: FlaskClient, assistant: FlaskClient, office: PostOffice
) -> None:
    ferro, lund = (f"0-{user_id(app, name)}" for name in ("ferro", "lund"))
    assert "Not for everybody" in client.post("/floor/send", data={"what": "stops", "to": [ferro, lund]}).text
    sent(client, "stops", [ferro])
    sent(client, "wall", [lund, *to(app, "Tove Lindqvist")])  # the sheet names everybody: it is for staff only
    goes(app)
    by_address = {letter.address: letter for letter in office.taken.values()}
    assert set(by_address) == {"m.ferro@kestrel-point.example", "t.lund@kestrel-point.example"}
    stops, wall = by_address["m.ferro@kestrel-point.example"], by_address["t.lund@kestrel-point.example"]
    assert "Beatriz Solheim" in stops.text and "of 10" in stops.text and "pain" not in stops.subject
    assert "Tove Lindqvist" in wall.file and "of 10" not in wall.file
    for somebody in (physio, assistant):
        assert somebody.get("/floor/send").status_code == 403
        assert somebody.post("/floor/send", data={"what": "card", "to": to(app, "Tove Lindqvist")}).status_code == 403
    with reading(app) as db:
        lines = set(db.scalars(select(AuditLine.what)))
    assert {"sent_stops", "sent_wall"} <= lines and "sent_card" not in lines


def test_addresses_are_looked_at_and_nothing_typed_is_lost(app: Flask, client: FlaskClient, office: PostOffice) -> None:
    tove, liv = to(app, "Tove Lindqvist", "Liv Aasen")
    typed = {f"address-{tove}": "tove@new.example", f"address-{liv}": "liv@x.example, all@y.example"}
    answer = client.post("/floor/send", data={"what": "card", "to": [tove], **typed})
    assert answer.status_code == 422 and "This is no e-mail address" in answer.text
    assert "tove@new.example" in answer.text and "liv@x.example, all@y.example" in answer.text
    assert "tove@new.example" not in client.get("/floor/send").text  # all or nothing
    said = sent(client, "keep", [], **{f"address-{tove}": " tove@new.example ", f"address-{liv}": ""})
    assert "2 addresses kept." in said
    assert "Liv Aasen: no address." in sent(client, "card", [liv])
    bad = {f"address-{tove}": "a@b.example\r\nBcc: c@d.example"}
    assert client.post("/floor/send", data={"what": "keep", **bad}).status_code == 422
    assert "Tick who it is for" in sent(client, "card", [])
    assert client.post("/floor/send", data={"what": "everything"}).status_code == 404


def test_without_a_service_nothing_waits_for_ever(app: Flask, client: FlaskClient) -> None:
    assert "No post service is set up" in client.get("/floor/send").text
    assert "Nothing can be sent" in client.post("/floor/send", data={"what": "card", "to": to(app, "Liv Aasen")}).text
    with reading(app) as db:
        assert not db.scalars(select(Message)).all()


def test_another_squads_people_and_messages_are_out_of_reach(
    app: Flask, client: FlaskClient, office: PostOffice
) -> None:
    sent(client, "card", to(app, "Tove Lindqvist"))
    theirs = to(app, "Tove Lindqvist")
    other_squad(app)
    other = app.test_client()
    other.post("/sign-in", data={"sign_in": "other", "password": "long enough"})
    assert "Tick who it is for" in sent(other, "card", theirs)
    assert other.post("/floor/send/take-back", data={"message": "1"}).status_code == 404
    assert "Tove" not in other.get("/floor/send").text


def test_erased_with_the_athlete(app: Flask, client: FlaskClient, office: PostOffice) -> None:
    sent(client, "card", to(app, "Tove Lindqvist"))
    number = athlete_id(app, "Tove Lindqvist")
    assert client.post(f"/athletes/{number}/erase", data={"name": "Tove Lindqvist"}).status_code in (200, 302)
    goes(app)
    assert not office.asked
    with reading(app) as db:
        assert not db.scalars(select(Message)).all()
