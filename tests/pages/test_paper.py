"""On paper: cards and wall sheets say what the floor says, need nothing else as a file, and name nobody's stop on a wall."""

import re

from flask import Flask
from flask.testing import FlaskClient

from tests.demo_club import athlete_id, live_cell
from tests.pages.test_own_phone import log, names, on_phone

MARIT = "Marit Holm"


def test_a_card_says_what_the_floor_says(app: Flask, client: FlaskClient) -> None:
    cell, marit = live_cell(app, MARIT, 2), athlete_id(app, MARIT)
    page = client.get(f"/floor/paper/card?session=5&athlete={marit}").text
    assert f"{cell.sets} × {cell.reps} · {cell.load_amount:g} kg" in page and "Ramp" in page and "<svg" in page
    assert "stance: 32 cm" in page.lower() and "emergency services" in page
    assert page.count("<article") == 1 and not [name for name in names(app) if name in page]
    assert page.count("<article") < client.get(f"/floor/paper/card?athlete={marit}").text.count("<article")
    everybody = client.get("/floor/paper/card?session=5").text
    assert everybody.count("<article") > 15


def test_a_file_needs_nothing_else(client: FlaskClient) -> None:
    for kind in ("card", "wall"):
        answer = client.get(f"/floor/paper/{kind}?session=6&file=1")
        assert f"attachment; filename={kind}-2026-11-25.html" in answer.headers["Content-Disposition"]
        assert not re.search(r'(?:src|href)="|url\(|@import|<script', answer.text) and "<style>" in answer.text


def test_a_wall_names_everybody_by_name_and_nobodys_stop(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    log(client, cell, "s1", painful="1", pain="7", pain_region="knee", pain_character="sharp")
    page = client.get("/floor/paper/wall?session=5").text
    assert MARIT in page and "stopped" not in page.lower() and "pain," in page  # the caution at the foot, no more
    table = page.split("Rack 3</h2>")[1].split("</table>")[0]
    found = re.findall(r"<tr><th>([^<]+)</th>", table)
    assert found == sorted(found) and len(found) > 2


def test_an_athlete_prints_the_own_card_only(app: Flask, client: FlaskClient) -> None:
    phone = on_phone(app, client, MARIT)
    for address in (
        "/floor/paper/card",
        f"/floor/paper/card?athlete={athlete_id(app, 'Ines Okafor')}",
        "/floor/paper/wall",
    ):
        page = phone.get(address).text
        assert not [name for name in names(app) if name in page], address
    assert MARIT in phone.get("/floor/paper/card").text
    assert phone.get("/floor/paper/else").status_code == 404


def test_cards_are_of_the_chosen_week(app: Flask, client: FlaskClient) -> None:
    asked = {"athlete": athlete_id(app, "Marit Holm"), "week": "2026-12-14"}
    page = client.get("/floor/paper/card", query_string=asked).text
    assert "Monday 14 December" in page and "Wednesday 16 December" in page and "23 November ·" not in page
    assert "week=2026-12-14" in page, "its PDF is of that week too"
    this = client.get("/floor/paper/card", query_string=asked | {"week": "2026-11-23"}).text
    assert "Monday 23 November" in this and "week=" not in this
