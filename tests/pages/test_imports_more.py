"""Lists of past sets, screens and matches; tests for everybody in one table; columns known again the next time."""

import datetime as dt
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.storage.models import BeliefDay, BodyMass, ColumnName, Consent, Match, ScreenResult, SetEntry
from backsquat.work.context import rules_of
from backsquat.work.log.beliefs import bring_all_up_to_date
from backsquat.work.squad.athletes import body_masses
from tests.conftest import put_data
from tests.demo_club import athlete_id, reading, undo_of
from tests.pages.test_imports import fields

LOG = """Datum;Spielerin;Übung;Gewicht;Wdh;RIR;Sets
3.3.2025;Holm, Marit;Back squat;80;5;2;3
;;Romanian deadlift;70;8;2;
10.3.2025;Marit Holm;back sqaut;82,5;5;1;1
10.3.2025;Nobody Known;Back squat;80;5;;
11.3.2025;Marit Holm;Flying lift;80;5;;
12.3.2025;Marit Holm;Back squat;800;5;0;
"""


def taken(client: FlaskClient, text: str, **more: str) -> tuple[str, dict[str, str]]:
    """A list pasted: the page, and what it would send."""
    page = client.post("/import/", data={"pasted": text} | more).get_data(as_text=True)
    return " ".join(page.split()), fields(page)


def past(app: Flask) -> list[SetEntry]:
    with reading(app) as db:
        rows = select(SetEntry).where(SetEntry.standing, SetEntry.done_on < dt.date(2026, 1, 1)).order_by(SetEntry.id)
        return list(db.scalars(rows))


def test_a_log_kept_elsewhere_comes_in_once_line_by_line_and_goes_again(app: Flask, client: FlaskClient) -> None:
    page, typed = taken(client, LOG)
    assert typed["kind"] == "sets" and "6 lines, 4 ready" in page
    assert "Nobody here is called Nobody Known" in page and "“Flying lift” is no movement here" in page
    assert "“back sqaut” read as back squat." in page and "body mass" in page  # 800 kg is asked about
    stored = client.post("/import/look", data=typed | {"act": "store", "out5": "1"}).get_data(as_text=True)
    assert "5 sets kept. 2 lines left, below." in " ".join(stored.split())
    rows = past(app)
    assert [(row.movement, row.load_kg, row.reps, row.reserve_reps) for row in rows if row.movement == "back_squat"] == [
        ("back_squat", 80.0, 5, 2), ("back_squat", 80.0, 5, 2), ("back_squat", 80.0, 5, 2), ("back_squat", 82.5, 5, 1),
    ]  # fmt: skip
    assert {(row.movement, row.done_on) for row in rows} >= {("romanian_deadlift", dt.date(2025, 3, 3))}
    assert {tuple(row.flags) for row in rows} == {("imported",)}
    left = fields(stored)
    assert left["c0-1"] == "Nobody Known" and left["kind"] == "sets"
    _, typed = taken(client, LOG)
    page = client.post("/import/look", data=typed | {"act": "store", "out5": "1"}).get_data(as_text=True)
    assert "0 sets kept. 5 were here already." in " ".join(page.split()) or len(past(app)) == 5
    client.post(undo_of(stored))
    assert not past(app)
    _, typed = taken(client, LOG)
    client.post("/import/look", data=typed | {"act": "store", "out5": "1"})
    assert len(past(app)) == 5  # what was taken back may come again


def test_beliefs_after_a_log_are_those_of_its_sets_one_by_one(app: Flask, client: FlaskClient) -> None:
    _, typed = taken(client, LOG)
    client.post("/import/look", data=typed | {"act": "store"})
    marit = athlete_id(app, "Marit Holm")

    def believed() -> list[tuple[str, dt.date, float]]:
        with reading(app) as db:
            rows = db.scalars(select(BeliefDay).where(BeliefDay.athlete_id == marit)).all()
            return sorted((row.movement, row.done_on, round(row.max_kg, 6)) for row in rows)

    found = believed()
    assert ("back_squat", dt.date(2025, 3, 3)) in {(code, day) for code, day, _ in found}
    with app.extensions["database"].writing() as db:
        bring_all_up_to_date(db, marit, rules_of(db, 1))
    assert believed() == found


def test_a_log_opens_no_readiness_check(app: Flask, client: FlaskClient) -> None:
    before = client.get(f"/ladders/{athlete_id(app, 'Alma Brekke')}").text
    _, typed = taken(client, "Date;Name;Movement;Load;Reps\n20.11.2026;Alma Brekke;Back squat;40;5\n")
    assert client.post("/import/look", data=typed | {"act": "store"}).status_code == 302
    after = client.get(f"/ladders/{athlete_id(app, 'Alma Brekke')}").text
    assert after.count("not tested") == before.count("not tested") and "Clear with a reason" in after


def test_a_long_log_shows_what_needs_a_look_and_keeps_the_rest(app: Flask, client: FlaskClient) -> None:
    lines = [f"{n % 28 + 1}.{n % 12 + 1}.2025;Marit Holm;Back squat;{60 + n % 9 * 2.5};5" for n in range(1500)]
    text = "Date;Name;Movement;Load;Reps\n" + "\n".join([*lines, "1.1.2025;Marit Holm;Flying;60;5"])
    page, typed = taken(client, text)
    assert "1501 lines, 1500 ready" in page and "1500 more lines" in page and 'name="c1500-2"' in page
    assert 'name="c3-2"' not in page
    answer = client.post("/import/look", data=typed | {"act": "store", "c1500-2": "Back squat"})
    assert answer.status_code == 302 and len(past(app)) == 1501


def test_movements_as_columns_with_several_sets_in_a_cell(app: Flask, client: FlaskClient) -> None:
    text = "Name|Date|Back squat|RDL\nMarit Holm|3.2.2025|80x5,82,5x5@8, 85x3|3x8x60\n"
    _, typed = taken(client, text, kind="sets")
    assert client.post("/import/look", data=typed | {"act": "store"}).status_code == 302
    found = [(row.movement, row.load_kg, row.reps) for row in past(app)]
    assert sorted(found) == [
        ("back_squat", 80.0, 5), ("back_squat", 82.5, 5), ("back_squat", 85.0, 3), *[("romanian_deadlift", 60.0, 8)] * 3,
    ]  # fmt: skip


def test_screens_and_dated_body_masses_as_columns(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    text = "Name;Date;Weight;Knee to wall left;Knee to wall R;Brace\nMarit Holm;1.5.2026;68,5;11;12,5;x\n"
    page, typed = taken(client, text)
    assert "knee to wall left 11" in page and [typed[f"k{n}"] for n in (3, 4)] == [
        "screen:knee_to_wall:left",
        "screen:knee_to_wall:right",
    ]
    with reading(app) as db:
        newest = body_masses(db, [marit], DEMO_DAY)[marit]
    stored = client.post("/import/look", data=typed | {"act": "store"}, follow_redirects=True).text
    with reading(app) as db:
        day = dt.date(2026, 5, 1)
        rows = db.scalars(select(ScreenResult).where(ScreenResult.done_on == day, ~ScreenResult.replaced)).all()
        assert {(row.screen, row.side, row.value) for row in rows if row.athlete_id == marit} >= {
            ("knee_to_wall", "left", 11.0),
            ("knee_to_wall", "right", 12.5),
        }
        assert body_masses(db, [marit], DEMO_DAY)[marit] == newest  # an older one is no newer for coming later
        assert body_masses(db, [marit], dt.date(2026, 5, 2))[marit] == 68.5
    client.post(undo_of(stored))
    with reading(app) as db:
        assert not db.scalars(select(BodyMass).where(BodyMass.measured_on == day)).all()
        rows = db.scalars(select(ScreenResult).where(ScreenResult.done_on == day, ~ScreenResult.replaced)).all()
        assert not [
            row for row in rows if row.athlete_id == marit and row.value is not None and row.value in (11, 12.5)
        ]


def test_a_match_list_adds_days_that_are_new(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        before = db.scalar(select(func.count(Match.id)).where(~Match.dropped)) or 0
        here = db.scalars(select(Match.played_on)).first()
    assert here is not None
    text = f"Match day;Opponent;Cup\n{here:%d.%m.%Y};Away;\n9.12.2026;Home;x\n9.12.2026;Home;\n1.1.2030;Far;\nsoon;;\n"
    page, typed = taken(client, text)
    assert typed["kind"] == "matches" and "5 lines, 3 ready" in page and "2030-01-01 is not in this season" in page
    stored = client.post("/import/look", data=typed | {"act": "store"}).get_data(as_text=True)
    with reading(app) as db:
        assert db.scalar(select(func.count(Match.id)).where(~Match.dropped)) == before + 1
        new = db.scalars(select(Match).where(Match.played_on == dt.date(2026, 12, 9))).one()
        assert new.important
    client.post(undo_of(stored))
    with reading(app) as db:  # not played, and not forgotten: minutes may have been written of it
        assert db.scalar(select(func.count(Match.id)).where(~Match.dropped)) == before


def test_tests_for_everybody_in_one_table(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        before = db.scalar(select(func.count(SetEntry.id)).where(SetEntry.effort == "test"))
    page = client.get("/import/everybody").get_data(as_text=True)
    typed = fields(page)
    assert [typed[f"k{n}"] for n in range(3)] == ["name", "test:back_squat", "test:romanian_deadlift"]
    names = [line.split("\t")[0] for line in typed["table"].splitlines()]
    tove, alma = names.index("Tove Lindqvist"), names.index("Alma Brekke")
    columns = {typed[f"k{n}"]: n for n in range(7) if f"k{n}" in typed}
    wrong = {f"c{tove}-1": "105x3@9", f"c{alma}-{columns['mass']}": "heavy", f"c{alma}-{columns['consent']}": "yes"}
    stored = client.post("/import/look", data=typed | wrong | {"act": "store"}).get_data(as_text=True)
    assert "0 athletes added, 1 changed, 1 test kept. 1 line left, below." in " ".join(stored.split())
    left = fields(stored)
    assert left["everybody"] == "1" and left["c0-3" if columns["mass"] == 3 else f"c0-{columns['mass']}"] == "heavy"
    fixed = left | {f"c0-{columns['mass']}": "58", "act": "store"}
    assert client.post("/import/look", data=fixed).status_code == 302
    with reading(app) as db:
        assert db.scalar(select(func.count(SetEntry.id)).where(SetEntry.effort == "test")) == (before or 0) + 1
        given = db.scalars(select(Consent).where(Consent.athlete_id == athlete_id(app, "Alma Brekke"))).all()
        assert [one.withdrawn_on for one in given][-1:] == [None]


def test_columns_said_once_are_known_the_next_time(app: Flask, client: FlaskClient) -> None:
    text = "Nome;Nascida;Peso\nUna Moe;12.3.2001;71\n"
    page, typed = taken(client, text)
    assert "1 ready" not in page
    named = {"k0": "name", "k1": "born", "k2": "mass", "act": "store"}
    heads = {"h0": "nome", "h1": "nascida", "h2": "peso"}
    client.post("/import/look", data=typed | heads | named | {"table": "Una Moe\t12.3.2001\t71"})
    with reading(app) as db:
        assert {row.head: row.holds for row in db.scalars(select(ColumnName))}["nascida"] == "born"
    page, typed = taken(client, text.replace("Una Moe", "Tia Vik"))
    assert [typed[f"k{n}"] for n in range(3)] == ["name", "born", "mass"] and "1 line, 1 ready" in page


@pytest.mark.parametrize("most", [700_000, 1_200_000])
def test_a_long_list_is_read_before_its_token_is_checked(demo_file: Path, tmp_path: Path, most: int) -> None:
    app = create_app(Config(tmp_path, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    put_data(app, demo_file)
    client = app.test_client()
    page = client.get("/sign-in").get_data(as_text=True)
    token = page.split('name="csrf_token"')[1].split('value="')[1].split('"')[0]
    client.post("/demo-sign-in/1", data={"csrf_token": token})
    page = client.get("/import/").get_data(as_text=True)
    token = page.split('name="csrf-token"')[1].split('content="')[1].split('"')[0]
    line = "Una Moe;12.3.2001\n"
    sent = client.post("/import/", data={"csrf_token": token, "pasted": "Name;Born\n" + line * (most // len(line))})
    assert sent.status_code == (200 if most < 1_000_000 else 413)
    assert client.post("/athletes/new", data={"csrf_token": token, "name": "x" * 300_000}).status_code == 413
    app.extensions["database"].close()


def test_after_one_test_comes_the_next_athletes(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        for row in db.scalars(select(SetEntry).where(SetEntry.athlete_id == athlete_id(app, "Ayla Demirel"))):
            row.standing = False
    test = {"movement": "back_squat", "load": "60", "reps": "5", "reserve_reps": "2", "done_on": "2026-11-23"}
    data = test | {"client_id": "next-1", "pain": "0", "pain_character": "dull"}
    page = client.post(f"/athletes/{athlete_id(app, 'Tove Lindqvist')}/test", data=data, follow_redirects=True).text
    assert "Next: Alma Brekke" in page  # from the top again
    page = client.post(
        f"/athletes/{athlete_id(app, 'Alma Brekke')}/test", data=data | {"client_id": "next-2"}, follow_redirects=True
    ).text
    assert "Next: Ayla Demirel" in page and f"/athletes/{athlete_id(app, 'Ayla Demirel')}/test?lift=back_squat" in page
