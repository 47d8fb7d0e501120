"""A list of athletes taken in: looked at first, fixed in place, good lines stored in one act, the others left to be fixed."""

import datetime as dt
import html
import io
import re
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select

from backsquat.storage.models import Athlete, BodyMass, Consent, SetEntry
from tests.demo_club import athlete_id, reading, undo_of

LIST = """Name;Born;Body mass;Position;Newcomer;Back squat;Tested
Sørli, Una;12.3.2001;71,5 kg;wing;no;82,5x5@8;20.11.2026
Marit Holm;;70;;;;
Tia Moen;;64;pivot;;;
"""


def athletes(app: Flask) -> int:
    with reading(app) as db:
        return db.scalar(select(func.count(Athlete.id)).where(Athlete.active)) or 0


def fields(page: str) -> dict[str, str]:
    """What the page would send as it stands."""
    found = dict(re.findall(r'name="((?:c\d+-\d+|width|kind|everybody|sheet|numbers|h\d+))"\s+value="([^"]*)"', page))
    found["table"] = html.unescape(page.split('name="table" hidden aria-hidden="true">\n')[-1].split("</textarea>")[0])
    for select_ in re.findall(r'<select[^>]*name="(k\d+)".*?</select>', page, re.S):
        chosen = re.search(rf'name="{select_}".*?<option value="([^"]*)"\s+selected', page, re.S)
        found[select_] = chosen.group(1) if chosen else ""
    return found


def test_good_lines_are_stored_in_one_act_and_the_others_stay_to_be_fixed(app: Flask, client: FlaskClient) -> None:
    before = athletes(app)
    page = client.post("/import/", data={"pasted": LIST}).get_data(as_text=True)
    assert "3 lines, 2 ready" in " ".join(page.split()) and athletes(app) == before
    assert "no day of birth" in page and "(here already)" in page and "82.5 kg × 5, RIR 2" in page
    typed = fields(page)
    assert typed["c0-0"] == "Sørli, Una" and typed["k5"] == "test:back_squat"
    stored = client.post("/import/look", data=typed | {"act": "store"}).get_data(as_text=True)
    assert athletes(app) == before + 1 and "1 line, 0 ready" in " ".join(stored.split())
    assert "1 athlete added, 1 changed, 1 test kept. 1 line left, below." in " ".join(stored.split())
    with reading(app) as db:
        una = db.scalars(select(Athlete).where(Athlete.name == "Una Sørli")).one()
        assert (una.born_on, una.position, una.newcomer) == (dt.date(2001, 3, 12), "wing", False)
        (test,) = db.scalars(select(SetEntry).where(SetEntry.athlete_id == una.id)).all()
        assert (test.effort.value, test.load_kg, test.reps, test.reserve_reps) == ("test", 82.5, 5, 2)
        assert test.done_on == dt.date(2026, 11, 20)
        masses = select(BodyMass.mass_kg).where(BodyMass.athlete_id == athlete_id(app, "Marit Holm"))
        assert db.scalars(masses.order_by(BodyMass.id.desc())).first() == 70
    fixed = fields(stored)
    assert fixed["c0-0"] == "Tia Moen"
    answer = client.post("/import/look", data=fixed | {"c0-1": "2002-05-06", "act": "store"})
    assert answer.status_code == 302 and athletes(app) == before + 2
    client.post(undo_of(client.get("/").get_data(as_text=True)))
    assert athletes(app) == before + 1
    client.post(undo_of(stored))
    assert athletes(app) == before
    with reading(app) as db:
        assert not db.scalars(select(SetEntry).where(SetEntry.athlete_id == una.id, SetEntry.standing)).all()
        assert 70 not in db.scalars(masses).all()  # of somebody who was here: as if never typed


def test_what_the_core_finds_impossible_leaves_only_its_own_line(app: Flask, client: FlaskClient) -> None:
    before = athletes(app)
    text = "Name;Born;Body mass\nUna Moe;12.3.2001;71\nOla Nord;12.3.2021;70\nTia Vik;12.3.2001;700\n"
    page = client.post("/import/", data={"pasted": text}).get_data(as_text=True)
    stored = client.post("/import/look", data=fields(page) | {"act": "store"}).get_data(as_text=True)
    assert athletes(app) == before + 1
    left = fields(stored)
    assert [left["c0-0"], left["c1-0"]] == ["Ola Nord", "Tia Vik"] and stored.count('class="problem mb-0"') == 2
    with reading(app) as db:
        assert db.scalars(select(Athlete).where(Athlete.name == "Una Moe")).one()


def test_a_minors_line_without_consent_is_a_minor_without_consent(app: Flask, client: FlaskClient) -> None:
    text = "Name;Born;Consent\nPia Lund;2011-03-12;\nMia Lund;2011-03-13;yes\n"
    page = client.post("/import/", data={"pasted": text}).get_data(as_text=True)
    assert page.count("15 years old, no guardian&#39;s consent") == 1
    client.post("/import/look", data=fields(page) | {"act": "store"})
    with reading(app) as db:
        found = {one.name: one.consent for one in db.scalars(select(Athlete).where(Athlete.name.contains("Lund")))}
    assert found == {"Pia Lund": False, "Mia Lund": True}


def test_cells_are_fixed_columns_changed_lines_left_out(app: Flask, client: FlaskClient) -> None:
    before = athletes(app)
    page = client.post("/import/", data={"pasted": "who;when\nUna Moe;soon\nTia Vik;1.2.2001\nLiv Ro;1.2.2002\n"})
    typed = fields(page.get_data(as_text=True)) | {"k1": "born", "c0-1": "3.4.2003", "out2": "1"}
    looked = client.post("/import/look", data=typed | {"act": "look"}).get_data(as_text=True)
    assert "2 lines, 2 ready" in " ".join(looked.split()) and athletes(app) == before
    client.post("/import/look", data=fields(looked) | {"act": "store"})
    assert athletes(app) == before + 2


@pytest.mark.parametrize(
    "sent",
    [
        {"pasted": ""},
        {"file": (io.BytesIO(b"PK\x03\x04nonsense"), "list.xlsx")},
        {"file": (io.BytesIO(b"%PDF-1.4"), "list.pdf")},
    ],
)
def test_what_is_no_list_is_said_in_a_sentence(client: FlaskClient, sent: dict[str, Any]) -> None:
    answer = client.post("/import/", data=sent)
    assert answer.status_code == 422 and 'role="alert"' in answer.text


def test_nonsense_sent_to_the_page_is_no_error(client: FlaskClient) -> None:
    for data in (
        {}, {"width": "999", "height": "9999"}, {"width": "-3", "height": "x"}, {"width": "2", "height": "1", "k0": "test:no"},
        {"width": "1", "height": "1", "k0": "name", "c0-0": "=HYPERLINK(1)", "act": "store"},
    ):  # fmt: skip
        assert client.post("/import/look", data=data).status_code in (200, 404, 422)


def test_only_the_head_coach_takes_in(assistant: FlaskClient, physio: FlaskClient) -> None:
    for somebody in (assistant, physio):
        assert somebody.get("/import/").status_code == 403
        assert somebody.post("/import/look", data={"act": "store"}).status_code == 403


def test_who_is_here_and_a_minor_by_the_list_is_said_so_unless_a_guardian_agreed(client: FlaskClient) -> None:
    text = "Name;Born\nInes Okafor;2010-01-01\nSuri Valdez;2009-01-22\nMarit Holm;1997-05-06\n"
    page = client.post("/import/", data={"pasted": text}).text
    assert page.count("no guardian&#39;s consent: nothing") == 1  # Suri's agreed


def test_another_birthday_for_somebody_here_is_said(client: FlaskClient) -> None:
    page = client.post("/import/", data={"pasted": "Name;Born\nMarit Holm;1.1.1990\n"}).text
    assert "Until now born on" in page


def test_undoing_a_list_takes_a_consent_back_on_record(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        minor = db.scalars(select(Athlete).where(Athlete.born_on > dt.date(2008, 12, 1), Athlete.active)).first()
        assert minor is not None
        number, name, minor.consent = minor.id, minor.name, False
    page = client.post("/import/", data={"pasted": f"Name;Consent\n{name};yes\n"}).get_data(as_text=True)
    client.post("/import/look", data=fields(page) | {"act": "store"})
    with reading(app) as db:
        given = select(Consent).where(Consent.athlete_id == number, Consent.withdrawn_on.is_(None))
        assert db.get_one(Athlete, number).consent and db.scalars(given).all()
    client.post(undo_of(client.get("/").get_data(as_text=True)))
    with reading(app) as db:
        assert not db.get_one(Athlete, number).consent and not db.scalars(given).all()
