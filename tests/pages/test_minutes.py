"""Minutes played: typed or opened, looked at before they are kept, and the next session eased by the coach's word."""

import io
import re

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.prescription import ExposureKind
from backsquat.storage.models import Cell, Match, MatchMinutes
from tests.demo_club import athlete_id, live_cell, other_squad, reading, undo_of

MARIT, INES, TOVE = "Marit Holm", "Ines Okafor", "Tove Lindqvist"


def match_on(app: Flask, day: str) -> int:
    with reading(app) as db:
        return db.scalars(select(Match.id).where(Match.played_on == day)).one()


def keep(client: FlaskClient, match: int, **minutes: str) -> str:
    """As the form sends it: what each field showed goes along."""
    page = client.get(f"/season/matches/{match}/minutes").text
    data = dict(re.findall(r'name="(was-\d+)" value="(\d*)"', page))
    data |= {f"minutes-{one.removeprefix('a')}": value for one, value in minutes.items()}
    return client.post(f"/season/matches/{match}/minutes", data=data, follow_redirects=True).text


def current(app: Flask, name: str) -> Cell:
    """This Monday's squat as the sheet has it."""
    cell = live_cell(app, name, 2)
    with reading(app) as db:
        query = select(Cell).where(
            Cell.exercise_id == cell.exercise_id, Cell.athlete_id == cell.athlete_id, Cell.week == 2
        )
        return db.scalars(query.where(Cell.current)).one()


def test_who_played_long_gets_an_easier_next_session_by_the_coachs_word(app: Flask, client: FlaskClient) -> None:
    match = match_on(app, "2026-11-21")  # Saturday; the squat day is Monday, today
    marit, ines = athlete_id(app, MARIT), athlete_id(app, INES)
    page = keep(client, match, **{f"a{marit}": "52", f"a{ines}": "12"})
    assert "Minutes of 2 kept." in page and f'id="ease-{marit}"' in page and f'id="ease-{ines}"' not in page
    before = current(app, MARIT)
    assert before.kind is ExposureKind.WORK, "nothing is eased by itself"
    done = client.post(f"/season/matches/{match}/ease", data={"athlete": str(marit)}, follow_redirects=True).text
    assert "The next session of 1 athlete is easier, as a draft." in done
    eased = current(app, MARIT)
    assert eased.kind is ExposureKind.DELOAD and eased.load_kg < before.load_kg and not eased.live
    assert current(app, INES).kind is ExposureKind.WORK
    assert f'id="ease-{marit}"' not in client.get(f"/season/matches/{match}/minutes").text, "once is enough"
    client.post(undo_of(done))
    assert current(app, MARIT).load_kg == before.load_kg
    ticked = {"athlete": [str(ines), "99999", "x"]}
    assert client.post(f"/season/matches/{match}/ease", data=ticked).status_code == 409, "she played twelve minutes"


def test_a_list_fills_the_fields_and_keeps_nothing_until_it_was_looked_at(app: Flask, client: FlaskClient) -> None:
    match, tove = match_on(app, "2026-11-21"), athlete_id(app, TOVE)
    text = "Name;Min\nHolm, Marit;48\nTove Lindqvist;60\nNobody Known;33\nInes Okafor;\n"
    files = {"file": (io.BytesIO(text.encode("cp1252")), "minutes.csv")}
    page = client.post(f"/season/matches/{match}/minutes", data=files, content_type="multipart/form-data").text
    assert "2 read. Look, then save." in page and "Nobody Known" in page
    assert f'name="minutes-{tove}" inputmode="numeric" autocomplete="off" value="60"' in page
    with reading(app) as db:
        assert not db.scalars(select(MatchMinutes)).all()
    pasted = client.post(f"/season/matches/{match}/minutes", data={"pasted": "Tove Lindqvist\t45'"}).text
    assert 'value="45"' in pasted
    bad = {"file": (io.BytesIO(b"%PDF-1.4"), "minutes.pdf")}
    answer = client.post(f"/season/matches/{match}/minutes", data=bad, content_type="multipart/form-data")
    assert answer.status_code == 422


@pytest.mark.parametrize(
    ("typed", "words"), [("900", "from 0 to 120"), ("many", "whole number"), ("-3", "whole number")]
)
def test_what_cannot_be_is_said_beside_it(app: Flask, client: FlaskClient, typed: str, words: str) -> None:
    match, marit = match_on(app, "2026-11-21"), athlete_id(app, MARIT)
    page = keep(client, match, **{f"a{marit}": typed})
    assert words in page and f'value="{typed}"' in page


def test_corrected_taken_back_and_undone_by_rows_of_their_own(app: Flask, client: FlaskClient) -> None:
    match, marit = match_on(app, "2026-11-21"), athlete_id(app, MARIT)
    keep(client, match, **{f"a{marit}": "52"})
    page = keep(client, match, **{f"a{marit}": "25"})
    assert f'id="ease-{marit}"' not in page
    client.post(undo_of(page))
    assert f'id="ease-{marit}"' in client.get(f"/season/matches/{match}/minutes").text
    keep(client, match)
    with reading(app) as db:
        rows = db.scalars(select(MatchMinutes.minutes).order_by(MatchMinutes.id)).all()
    assert rows == [52, 25, 52, None], "the past is never rewritten"


def test_no_minutes_before_the_match_and_none_of_another_squads(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, MARIT)
    assert "has not been played yet" in keep(client, match_on(app, "2026-11-28"), **{f"a{marit}": "30"})
    user, _ = other_squad(app)
    other = app.test_client()
    other.post(f"/demo-sign-in/{user}")
    assert other.get(f"/season/matches/{match_on(app, '2026-11-21')}/minutes").status_code == 404


def test_what_somebody_else_wrote_meanwhile_stands(app: Flask, client: FlaskClient) -> None:
    """A page that was open before shows her field empty: keeping it takes nothing back."""
    match, marit, ines = match_on(app, "2026-11-21"), athlete_id(app, MARIT), athlete_id(app, INES)
    keep(client, match, **{f"a{marit}": "52"})
    stale = {f"was-{marit}": "", f"minutes-{marit}": "", f"was-{ines}": "", f"minutes-{ines}": "30"}
    client.post(f"/season/matches/{match}/minutes", data=stale)
    with reading(app) as db:
        rows = db.execute(select(MatchMinutes.athlete_id, MatchMinutes.minutes).order_by(MatchMinutes.id)).all()
    assert [tuple(row) for row in rows] == [(marit, 52), (ines, 30)]
