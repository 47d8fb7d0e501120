"""Signing in, and who may open what."""

import re

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import delete, update
from werkzeug.routing import Rule

from backsquat import create_app
from backsquat.config import CONTENT_POLICY, DEMO_DAY, Config
from backsquat.core.roles import Role
from backsquat.demo.club import PASSWORD
from backsquat.storage.models import Membership
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.library.change_movements import save_movement
from tests.demo_club import NOON, athlete_id, entry_of_movement, live_cell, other_squad

OPEN = {
    "static", "accounts.sign_in", "accounts.second", "accounts.new_password", "accounts.demo_sign_in",
    "squad.cautions", "squad.health", "accounts.come_in_by_code", "accounts.come_in_by_link", "floor.pocket", "floor.no_line",
    "floor.worker", "floor.manifest", "accounts.first", "accounts.first_archive", "exports.calendar",
    "calendar_before",
}  # fmt: skip


def path_of(rule: Rule) -> str:
    return re.sub(r"<[^>]+>", "1", rule.rule)


def test_every_route_but_the_open_ones_asks_for_a_sign_in(app: Flask) -> None:
    client, seen = app.test_client(), set()
    for rule in app.url_map.iter_rules():
        if rule.endpoint in OPEN:
            continue
        seen.add(rule.endpoint)
        for method in (rule.methods or set()) & {"GET", "POST"}:
            response = client.open(path_of(rule), method=method)
            assert response.status_code == 302, rule
            assert "/sign-in" in response.location, rule
    assert len(seen) > 20


def test_a_route_that_names_no_role_is_refused_to_everybody(app: Flask) -> None:
    own = create_app(app.extensions["settings"])
    own.config["WTF_CSRF_ENABLED"] = False
    own.add_url_rule("/forgotten", "forgotten", lambda: "secret")
    client = own.test_client()
    client.post("/demo-sign-in/1")
    assert client.get("/forgotten").status_code == 403
    own.extensions["database"].close()


def test_every_route_refuses_a_person_without_the_role(app: Flask, client: FlaskClient) -> None:
    def open_as_nobody(rule: Rule) -> int:
        return client.open(path_of(rule), method="GET" if "GET" in (rule.methods or ()) else "POST").status_code

    guarded = [rule for rule in app.url_map.iter_rules() if rule.endpoint not in OPEN]
    for role in Role:
        with app.extensions["database"].writing() as db:
            db.execute(update(Membership).values(role=role))
        for rule in guarded:
            if role not in app.view_functions[rule.endpoint].roles:  # type: ignore[attr-defined]
                home = role is Role.ATHLETE and rule.endpoint == "squad.index"  # an athlete's is the floor
                assert open_as_nobody(rule) == (302 if home else 403), (role, rule)
    with app.extensions["database"].writing() as db:
        db.execute(delete(Membership))
    assert {open_as_nobody(rule) for rule in guarded} == {403}, "who is in no squad sees nothing of one"


def test_another_squads_things_are_not_there(app: Flask, client: FlaskClient) -> None:
    _, stranger = other_squad(app)
    assert client.get(f"/athletes/{stranger}").status_code == 404
    assert client.get(f"/athletes/{stranger}/test").status_code == 404
    other = app.test_client()
    assert other.post("/sign-in", data={"sign_in": "other", "password": "long enough"}).status_code == 302
    cell = live_cell(app, "Marit Holm", 2)
    for path in (f"/athletes/{athlete_id(app, 'Marit Holm')}", "/block/3", "/health-list/stops/1/clear"):
        assert other.get(path).status_code == 404, path
    for path in (
        f"/block/cells/{cell.id}",
        f"/floor/cells/{cell.id}/sets",
        "/block/3/publish",
        "/review/decisions/1",
        "/undo/1",
    ):
        assert other.post(path, data={"reason": "x", "load": "50", "reps": "5"}).status_code == 404, path


def test_sign_in_with_name_and_password(app: Flask) -> None:
    client = app.test_client()
    wrong = client.post("/sign-in", data={"sign_in": "amari", "password": "guess"})
    assert wrong.status_code == 422
    assert b"do not belong together" in wrong.data
    assert b'value="amari"' in wrong.data  # what was typed stays
    right = client.post("/sign-in?next=/block/", data={"sign_in": "amari", "password": PASSWORD})
    assert (right.status_code, right.location) == (302, "/block/")


@pytest.mark.parametrize("onward", ["//evil.example/", "https://evil.example/", "/\\evil.example"])
def test_sign_in_never_leads_to_another_host(app: Flask, onward: str) -> None:
    response = app.test_client().post(f"/sign-in?next={onward}", data={"sign_in": "amari", "password": PASSWORD})
    assert response.location == "/"


def test_no_one_click_sign_in_outside_the_demo(app: Flask) -> None:
    config = app.extensions["settings"]
    real = create_app(Config(config.data, demo=False, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    real.config["WTF_CSRF_ENABLED"] = False
    client = real.test_client()
    assert client.post("/demo-sign-in/1").status_code == 404
    assert b"One click" not in client.get("/sign-in").data
    real.extensions["database"].close()


def test_too_many_sign_ins_are_slowed_down(app: Flask) -> None:
    config = app.extensions["settings"]
    strict = create_app(Config(config.data, demo=True, testing=False, fixed_day=DEMO_DAY, hash_cost=1))
    strict.config["WTF_CSRF_ENABLED"] = False
    client = strict.test_client()
    codes = [client.post("/sign-in", data={"sign_in": "x", "password": "y"}).status_code for _ in range(12)]
    assert codes[0] == 422
    assert codes[-1] == 429
    strict.extensions["database"].close()


def test_writes_without_a_token_are_refused_htmx_too(app: Flask, client: FlaskClient) -> None:
    app.config["WTF_CSRF_ENABLED"] = True
    cell = live_cell(app, "Marit Holm", 2)
    for headers in ({}, {"HX-Request": "true"}):
        response = client.post(f"/floor/cells/{cell.id}/sets", data={"load": "100", "reps": "4"}, headers=headers)
        assert response.status_code == 400
        assert b"grown old" in response.data


def test_headers_of_every_page(client: FlaskClient) -> None:
    response = client.get("/")
    assert response.headers["Content-Security-Policy"] == CONTENT_POLICY
    assert "unsafe" not in CONTENT_POLICY
    assert response.headers["X-Content-Type-Options"] == "nosniff"


def test_a_bug_shows_a_page_and_no_traceback(app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    app.config["SHOW_ERROR_PAGES"] = True
    monkeypatch.setattr("backsquat.pages.squad.routes.squad_lines", lambda *_: 1 / 0)
    response = client.get("/")
    assert response.status_code == 500
    assert b"safe" in response.data
    assert b"Traceback" not in response.data and b"ZeroDivision" not in response.data


def test_a_number_too_large_in_a_rule_is_a_bug_and_not_a_missing_page(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def overflow(*_: object) -> None:
        raise OverflowError

    app.config["SHOW_ERROR_PAGES"] = True
    monkeypatch.setattr("backsquat.pages.squad.routes.squad_lines", overflow)
    assert client.get("/").status_code == 500


def test_what_is_broken_around_every_page_is_said_all_the_same(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    app.config["SHOW_ERROR_PAGES"] = True
    monkeypatch.setattr("backsquat.pages.layout._menu", lambda *_: 1 / 0)
    response = client.get("/")
    assert response.status_code == 500
    assert "Something went wrong on our side" in response.text and "Traceback" not in response.text


def test_what_is_said_with_an_undo_may_hold_any_words(app: Flask, client: FlaskClient) -> None:
    name = "Bar | pipe squat"
    with app.extensions["database"].writing() as db:
        entry = entry_of_movement(app, "back_squat") | {"name": name, "aliases": []}
        code = save_movement(WorkContext(db, Actor(1, 1, NOON)), entry).code
    said = client.post(f"/movements/{code}/retire", data={"retired": "1"}, follow_redirects=True).text
    assert f"{name} retired: old logs keep it" in said and 'action="/undo/' in said
