"""From nothing in the browser: the first squad by a printed code, once, and the way to a floor on the squad page."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from click.testing import CliRunner
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.storage.models import Season, Squad, User
from tests.demo_club import ROOM, reading
from tests.empty import empty_data

CODE = "ABCD-2345"
FORM = {
    "code": "abcd 2345", "club": "Fresh Court", "squad": "first team", "first_on": "2026-07-08", "weeks": "40",
    "coach": "Ada Stone", "sign_in": "ada", "password": "violet ladder morning",
}  # fmt: skip


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[Flask]:
    config = Config(tmp_path, testing=True, fixed_day=DEMO_DAY, hash_cost=1, first_code=CODE)
    empty_data(config.database)
    app = create_app(config)
    app.config["WTF_CSRF_ENABLED"] = False
    yield app
    app.extensions["database"].close()


def way(client: FlaskClient) -> tuple[int, str]:
    """How many steps are done on the squad page, and which comes next."""
    page = client.get("/").text
    following = re.search(r'class="is-next"[^>]*>\s*<b>\s*\d ([^<]+)</b>', page)
    return page.split('aria-label="First steps"')[-1].count('class="is-done"'), following.group(1) if following else ""


def test_the_first_squad_is_made_by_the_printed_code_and_only_once(empty: Flask) -> None:
    client = empty.test_client()
    assert client.get("/").status_code == 302 and client.get("/sign-in").headers["Location"].endswith("/first")
    for wrong in ({"code": "AAAA-AAAA"}, {"password": "short"}, {"club": ""}, {"first_on": "soon"}, {"weeks": "900"}):
        assert client.post("/first", data=FORM | wrong).status_code == 422, wrong
        with reading(empty) as db:
            assert not db.scalars(select(Squad)).all()
    assert client.post("/first", data=FORM).status_code == 302
    with reading(empty) as db:
        assert db.scalars(select(Season.first_week)).one().isoformat() == "2026-07-06"  # the Monday of that week
        assert db.scalars(select(User.sign_in)).all() == ["ada"]
    page = client.get("/").text
    assert "you are signed in" in page and "First steps" in page
    assert client.get("/first").status_code == 404 and client.post("/first", data=FORM).status_code == 404
    other = empty.test_client()
    assert other.post("/sign-in", data={"sign_in": "ada", "password": FORM["password"]}).status_code == 302


def test_the_first_page_asks_for_names_and_a_password_and_has_the_season_ready(empty: Flask) -> None:
    client = empty.test_client()
    page = client.get("/first").text
    assert "23 Nov 2026 to 26 Sep 2027, 44 weeks" in page and "102.5 kg: each side 25 + 15 + 1.25" in page
    wrong = client.post("/first", data=FORM | {"first_on": "", "weeks": ""})
    assert wrong.status_code == 422 and f'value="{FORM["password"]}"' in wrong.text, "nothing typed is lost"
    assert '<details class="as-table mb-2" open>' in wrong.text and "no-store" in wrong.headers["Cache-Control"]
    for weeks in ("0", "-3", "999999999", "1e9", "x"):
        assert client.post("/first", data=FORM | {"weeks": weeks}).status_code == 422
    assert client.post("/first", data=FORM).headers["Location"] == "/"


def test_codes_are_not_guessed(empty: Flask) -> None:
    client = empty.test_client()
    found = [client.post("/first", data=FORM | {"code": f"AAAA-{n:04}"}).status_code for n in range(40)]
    assert found[-1] == 429


def test_without_a_code_there_is_no_such_page(app: Flask, client: FlaskClient) -> None:
    assert client.get("/first").status_code == 404 and client.post("/first", data=FORM).status_code == 404


def test_the_squad_page_shows_the_way_until_something_is_published(empty: Flask, client: FlaskClient) -> None:
    assert "First steps" not in client.get("/").text  # the demo is long past it
    coach = empty.test_client()
    coach.post("/first", data=FORM)
    assert way(coach) == (0, "Describe the room")
    coach.post("/room/", data=ROOM)
    assert way(coach) == (1, "Add the athletes")
    facts = {"name": "Una Vale", "born_on": "2000-02-01", "newcomer": ""}
    coach.post("/athletes/new", data=facts)
    assert way(coach) == (2, "Screen the athletes")
    coach.post("/ladders/1/override", data={"readiness_check": "barbell", "reason": "seen lifting soundly elsewhere"})
    assert way(coach) == (3, "Test the lifts")
    test = {"movement": "back_squat", "load": "100", "reps": "5", "reserve_reps": "2", "done_on": "2026-11-23"}
    coach.post("/athletes/1/test", data=test | {"client_id": "t-1", "pain": "0", "pain_character": "dull"})
    assert way(coach) == (4, "Plan the first block")
    block = {
        "name": "First", "first_week": "2026-11-30", "weeks": "4", "day_0": "0", "what_0": "Back squat",
        "progression_0": "wave", "role_0": "main", "sets_0": "3", "superset_0": "",
    }  # fmt: skip
    coach.post("/block/new", data=block)
    assert way(coach) == (5, "Publish it")
    coach.post("/block/1/publish")
    assert "First steps" not in coach.get("/").text


def test_serving_nothing_prints_the_code_and_where(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from backsquat import cli

    served: list[Config] = []
    monkeypatch.setenv("BACKSQUAT_DATA", str(tmp_path))
    monkeypatch.setattr(cli, "listen", lambda config, at: served.append(config))
    said = CliRunner().invoke(cli.main, ["serve", "--port", "8897"])
    assert said.exit_code == 0, said.output
    code = re.search(r"/first with the code ([A-Z2-9]{4}-[A-Z2-9]{4})", said.output)
    assert code and served[0].first_code == code.group(1)
