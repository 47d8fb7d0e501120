"""A file of the very first version, two of its athletes: it opens in today's, with nothing lost and nothing said otherwise."""

import gzip
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from flask import Flask

from backsquat.storage.migrate import migrate
from tests.conftest import put_data

FILE = Path(__file__).parents[1] / "data/first_version.sql.gz"
SAME = {  # what was written then → how it is read now: the facts a coach, an athlete, a physio put there
    "SELECT name, born_on, consent, active FROM athletes ORDER BY id": "",
    "SELECT athlete_id, measured_on, mass_kg FROM body_masses ORDER BY id": "",
    "SELECT id, athlete_id, movement, done_on, set_number, load_amount, load_unit, reps, reps_to_depth, reserve_reps, fault, "
    "pain, by_id, at FROM set_entries ORDER BY id": "",
    "SELECT id, slot_id, athlete_id, week, sets, reps, reserve_reps, state, load_amount, load_unit, origin, current, live, "
    "version_id FROM cells ORDER BY id": "slot_id → exercise_id",
    "SELECT id, cell_id, done_on, code, settled FROM decisions ORDER BY id": "",
    "SELECT decision_id, accepted, code, reason FROM answers ORDER BY id": "",
    "SELECT athlete_id, set_id, movement, level, place, character, withdrawn, cleared_on FROM stops": "place → region",
    "SELECT athlete_id, movement, kind, amount, due_on, dropped FROM milestones ORDER BY id": "",
    "SELECT name, first_week, weeks FROM blocks ORDER BY id": "",
    "SELECT played_on, important FROM matches ORDER BY id": "",
    "SELECT amount, unit, pairs, diameter_mm FROM plates ORDER BY id": "",
    "SELECT what, subject_id, undone FROM changes ORDER BY id": "",
}
PAGES = ("/", "/block/3", "/athletes/1", "/athletes/13", "/floor/", "/review/", "/season/", "/health-list/", "/room/",
         "/movements/", "/audit/", "/block/3/versions", "/export/log.csv", "/export/sheet/3.xlsx")  # fmt: skip


def answers(path: Path, now: bool) -> dict[str, list[Any]]:
    """What the file says to each question; `now`: asked in today's words."""
    found = {}
    with closing(sqlite3.connect(path)) as db:
        for question, renamed in SAME.items():
            asked = question
            for old, new in (pair.split(" → ") for pair in renamed.split(", ") if now and pair):
                asked = asked.replace(f" {old},", f" {new},")
            found[question] = db.execute(asked).fetchall()
    return found


@pytest.fixture
def first(tmp_path: Path) -> Iterator[Path]:
    """The file as the first version left it."""
    path = tmp_path / "first.sqlite3"
    with closing(sqlite3.connect(path)) as db:
        db.executescript(gzip.decompress(FILE.read_bytes()).decode())
    yield path


def test_every_fact_of_then_is_there(first: Path) -> None:
    before = answers(first, now=False)
    assert all(before.values()), "the file holds something of everything"
    migrate(first)
    after = answers(first, now=True)
    for question, rows in before.items():
        assert after[question] == rows, question


def test_it_is_a_squad_one_can_work_with(first: Path, one_app: Flask) -> None:
    migrate(first)
    put_data(one_app, first)
    client = one_app.test_client()
    client.post("/demo-sign-in/1")
    for page in PAGES:
        assert client.get(page).status_code == 200, page
    assert "Marit Holm" in client.get("/").text
    assert "Beatriz Solheim" in client.get("/health-list/").text, "the stop of then is open still"
