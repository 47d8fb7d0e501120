"""A whole squad out, into an empty application, and every page the same; what is no archive comes in nowhere."""

import datetime as dt
import hashlib
import io
import json
import re
import warnings
import zipfile
from collections.abc import Callable, Iterator
from importlib import import_module
from pathlib import Path
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import delete, insert, select
from sqlalchemy.exc import DatabaseError

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.core.roles import Role
from backsquat.storage.archive import STAY_BEHIND, rows_of, schema
from backsquat.storage.models import Athlete, AuditLine, Base, Change, Membership, PostAddress, Squad, User
from backsquat.work.accounts.passwords import hasher
from tests.demo_club import other_squad, reading
from tests.draws import some
from tests.empty import empty_data
from tests.pages.test_every_page import PAGES

CODE = "ABCD-2345"
WORDS_OF_BEFORE = import_module("backsquat.storage.migrations.versions.20261204_the_sports_words")
PASSWORD = "violet ladder morning"
DEMO_DAY_AT = dt.datetime.combine(DEMO_DAY, dt.time(9))


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[Flask]:
    config = Config(tmp_path, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1, first_code=CODE)
    empty_data(config.database)
    app = create_app(config)
    app.config["WTF_CSRF_ENABLED"] = False
    yield app
    app.extensions["database"].close()


def whole(client: FlaskClient) -> bytes:
    answer = client.post("/export/squad.zip")
    assert answer.status_code == 200 and answer.mimetype == "application/zip"
    return answer.data


FEW = 40  # rows of a table: of each kind some, in a tenth of the time


def exported(client: FlaskClient) -> bytes:
    """An archive of the demo with a few rows of each table, and none whose row it belongs to is gone."""

    def fewer(data: dict[str, Any]) -> None:
        kept: dict[str, set[Any]] = {}
        for table in Base.metadata.sorted_tables:
            rows = data["tables"].get(table.name)
            if rows is None:
                continue
            for column in table.columns:
                for key in column.foreign_keys:
                    there = kept.get(key.column.table.name)
                    rows = [row for row in rows if there is None or row.get(column.name) in {None, *there}]
            few = FEW if table.name in LONG else len(rows)
            data["tables"][table.name] = rows[:few]
            kept[table.name] = {row.get("id") for row in rows[:few]}

    return changed(whole(client), fewer)


LONG = ("cells", "set_entries", "belief_days", "decisions", "screen_results", "stills", "changes")


def changed(content: bytes, change: Callable[[dict[str, Any]], None]) -> bytes:
    """The archive with something else in its JSON."""
    with zipfile.ZipFile(io.BytesIO(content)) as file:
        data = json.loads(file.read("squad.json"))
    change(data)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        file.writestr("squad.json", json.dumps(data))
    return out.getvalue()


def put_in(app: Flask, content: bytes, **other: str) -> tuple[int, str]:
    told = hashlib.sha256(content).hexdigest()
    form = {"code": CODE, "sign_in": "amari", "password": PASSWORD, "told": told} | other
    answer = app.test_client().post("/first/archive", data=form | {"file": (io.BytesIO(content), "squad.zip")})
    return answer.status_code, answer.text


def signed_in_coach(app: Flask) -> FlaskClient:
    client = app.test_client()
    assert client.post("/sign-in", data={"sign_in": "amari", "password": PASSWORD}).status_code == 302
    return client


def plain(page: str) -> str:
    """A page without what differs between two sign-ins."""
    return re.sub(r'(content|value)="[\w.-]{60,}"|v=\w{12}|[0-9a-f-]{36}', "", page)


def test_out_into_empty_and_every_page_is_the_same(app: Flask, client: FlaskClient, empty: Flask) -> None:
    user, _ = other_squad(app)
    content = whole(client)
    assert b"Elsewhere" not in zipfile.ZipFile(io.BytesIO(content)).read("squad.json")
    assert put_in(empty, content)[0] == 302
    with reading(app) as before, reading(empty) as after:
        was, now = rows_of(before.connection(), 1), rows_of(after.connection(), 1)
        secret = before.get_one(User, 1).password_hash
    assert now["audit_lines"][: len(was["audit_lines"])] == was["audit_lines"]
    assert [line["what"] for line in now["audit_lines"][len(was["audit_lines"]) :]] == ["squad_put_back", "sign_in"]
    said_again = {"audit_lines": [], "post_addresses": [], "memberships": [], "users": []}
    assert now | said_again == was | said_again
    names = [[(row["id"], row["name"], row["sign_in"]) for row in rows["users"]] for rows in (was, now)]
    assert names[0] == names[1]
    assert len(now["cells"]) > 1000 and secret not in zipfile.ZipFile(io.BytesIO(content)).read("squad.json").decode()
    coach = empty.test_client()
    assert coach.post("/sign-in", data={"sign_in": "amari", "password": PASSWORD}).status_code == 302
    for address in some(PAGES):
        if address == "/floor/send":
            continue  # it shows to whom something can be sent
        here, there = client.get(address), coach.get(address)
        differ = [
            two for two in zip(plain(here.text).split(), plain(there.text).split(), strict=False) if len({*two}) == 2
        ]
        assert (here.status_code, differ) == (there.status_code, []), address
        assert len(plain(here.text)) == len(plain(there.text)), address
    assert "Every line follows" in coach.get("/audit/?check=1").text
    assert empty.test_client().get("/first/archive").status_code == 404  # once
    nobody = empty.test_client()
    assert nobody.post("/sign-in", data={"sign_in": "lund", "password": PASSWORD}).status_code == 422
    assert user not in [row["id"] for row in now["users"]]


def test_every_table_is_handed_out_or_named_as_staying_behind() -> None:
    from backsquat.storage.archive import scopes  # the one list of what belongs to a squad

    assert set(scopes(1)) | STAY_BEHIND == set(Base.metadata.tables)
    assert set(schema()["properties"]) == set(Base.metadata.tables) - STAY_BEHIND


def test_an_archive_of_an_older_program_is_brought_up_to_date(client: FlaskClient, empty: Flask) -> None:
    def older(data: dict[str, Any]) -> None:
        data["revision"] = "own_phones"
        for later in (
            "column_names",
            "post_addresses",
            "season_marks",
            "heights",
            "still_marks",
            "stills",
            "body_lengths",
            "movement_frames",
            "movement_pictures",
            "match_minutes",
            "own_days",
            "pain_reports",
        ):
            data["tables"].pop(later)
        for table, names in {
            "matches": ("away", "dropped", "opponent", "competition"),
            "rooms": ("bags",),
            "session_days": ("left_out", "kept"),
            "milestones": ("load_kg",),
            "cells": ("start_amount",),
            "set_entries": ("reserve_at_least", "asked_reps", "asked_reserve"),
            "stops": ("family", "report_id"),
            "decisions": ("repeats",),
            "blocks": ("dropped",),
            "squads": ("forecasts_until",),
        }.items():
            data["tables"][table] = [{k: v for k, v in row.items() if k not in names} for row in data["tables"][table]]
        for table, was, now in WORDS_OF_BEFORE.COLUMNS:
            data["tables"][table] = [
                {was if k == now else k: v for k, v in row.items()} for row in data["tables"][table]
            ]
        for was, now in WORDS_OF_BEFORE.TABLES:
            data["tables"][was] = data["tables"].pop(now)

    assert put_in(empty, changed(whole(client), older))[0] == 302
    with reading(empty) as db:
        assert db.scalars(select(Squad)).one() and len(db.scalars(select(Athlete)).all()) == 20


def _drop_a_person(data: dict[str, Any]) -> None:
    data["tables"]["athletes"].pop()


def _text_for_a_number(data: dict[str, Any]) -> None:
    data["tables"]["cells"][0]["week"] = "1; DROP TABLE cells"


def _no_such_state(data: dict[str, Any]) -> None:
    data["tables"]["cells"][0]["state"] = "perhaps"


def _no_day(data: dict[str, Any]) -> None:
    data["tables"]["athletes"][0]["born_on"] = "soon"


def _another_table(data: dict[str, Any]) -> None:
    data["tables"]["sqlite_master"] = [{"name": "x"}]


def _another_column(data: dict[str, Any]) -> None:
    data["tables"]["athletes"][0]['nick" , name'] = "x"


def _newer(data: dict[str, Any]) -> None:
    data["revision"] = "the_year_3000"


def _a_sign_in(data: dict[str, Any]) -> None:
    data["tables"]["sign_ins"] = [{"id": 1, "user_id": 1, "token": "x"}]


def _another_squad(data: dict[str, Any]) -> None:
    data["tables"]["squads"].append(data["tables"]["squads"][0] | {"id": 2})


def _a_row_of_another(data: dict[str, Any]) -> None:
    _another_squad(data)
    data["tables"]["memberships"].append(data["tables"]["memberships"][1] | {"id": 900, "squad_id": 2})


def _a_far_day(data: dict[str, Any]) -> None:
    data["tables"]["athletes"][0]["born_on"] = "9999-12-31"


WRONG = (
    *(_drop_a_person, _text_for_a_number, _no_such_state, _no_day, _another_table, _another_column, _newer, _a_sign_in),
    *(_another_squad, _a_row_of_another, _a_far_day),
)


def test_words_of_an_archive_are_cleaned_as_words_of_a_form_are(client: FlaskClient, empty: Flask) -> None:
    def other_signs(data: dict[str, Any]) -> None:
        data["tables"]["athletes"][0]["name"] = "A\ud800 B\x00\u202e"

    status, _page = put_in(empty, changed(exported(client), other_signs))
    assert status == 302
    with reading(empty) as db:
        assert db.get_one(Athlete, 1).name == "A B"


def test_what_does_not_hold_together_leaves_nothing_behind(client: FlaskClient, empty: Flask) -> None:
    content = exported(client)
    for change in some(WRONG, 2):
        status, page = put_in(empty, changed(content, change))
        assert status == 422 and 'class="problem' in page, change.__name__
        with reading(empty) as db:
            assert not any(db.execute(select(table)).first() for table in Base.metadata.tables.values()), change
    for nothing in (b"", b"PK\x03\x04" + b"\x00" * 40, b"no zip", changed(content, lambda data: data.pop("tables"))):
        assert put_in(empty, nothing)[0] == 422
    for other in ({"sign_in": "lund"}, {"sign_in": "nobody"}, {"password": "short"}, {"code": "AAAA-AAAA"}):
        assert put_in(empty, content, **other)[0] == 422, other
    assert put_in(empty, content)[0] == 302  # after all that, the whole one still comes in


# --- what somebody else wrote into an archive


def _a_way_in(data: dict[str, Any]) -> None:
    """A password of one's own for an assistant, a second factor for the coach, an address for the cards."""
    for row in data["tables"]["users"]:
        row["password_hash"] = hasher(1).hash("a password of mine")
        row["second_factor"], row["second_used"] = "JBSWY3DPEHPK3PXP", 5
    data["tables"]["post_addresses"] = [
        {
            "id": 1,
            "squad_id": 1,
            "user_id": 1,
            "address": "me@elsewhere.example",
            "by_id": 1,
            "at": "2026-01-01 10:00:00.000000",
        }
    ]


def test_nobody_but_who_opens_it_has_a_role_until_invited(client: FlaskClient, empty: Flask) -> None:
    """People come in as names: what they wrote is theirs, and they sign in when the coach says as what."""

    def all_coaches(data: dict[str, Any]) -> None:
        for row in data["tables"]["memberships"]:
            row["role"] = "coach" if row["role"] != "athlete" else "athlete"

    assert put_in(empty, changed(exported(client), all_coaches))[0] == 302
    with reading(empty) as db:
        staff = db.scalars(select(Membership).where(Membership.role != Role.ATHLETE)).all()
        open_now = [(row.user.sign_in, row.role) for row in staff if row.user.active]
        assert open_now == [("amari", Role.COACH)]
        assert {row.role for row in staff} == {Role.COACH, Role.ASSISTANT}, "no role that an archive gave"
    coach = signed_in_coach(empty)
    page = coach.get("/people").text
    assert "Names from the archive" in page and "T. Lund" in page
    lund = next(int(n) for n in re.findall(r"/people/(\d+)/invite", page))
    for wrong in ("owner", "athlete", ""):
        assert coach.post(f"/people/{lund}/invite", data={"role": wrong}).status_code == 404
    assert coach.post("/people/1/invite", data={"role": "coach"}).status_code == 404  # is somebody here already
    page = coach.post(f"/people/{lund}/invite", data={"role": "assistant"}).text
    token = re.search(r"/new-password/([\w-]+)", page)
    assert token and f"/people/{lund}/invite" not in page
    someone = empty.test_client()
    assert someone.post(f"/new-password/{token[1]}", data={"password": "another ladder evening"}).status_code == 302
    form = {"sign_in": "lund", "password": "another ladder evening"}
    assert empty.test_client().post("/sign-in", data=form).status_code == 302


def test_an_archive_is_told_before_anything_of_it_is_stored(client: FlaskClient, empty: Flask) -> None:
    content = exported(client)
    for told in ("", "0" * 64):
        status, page = put_in(empty, content, told=told)
        assert status == 200 and "Open it" in page and "20</td>" in page
        with reading(empty) as db:
            assert not db.scalars(select(Squad)).all() and not db.scalars(select(User)).all()
    status, page = put_in(empty, content, told="", sign_in="nobody")
    assert status == 422 and "head coach with this name" in page
    assert put_in(empty, changed(content, _newer), told="")[0] == 422
    assert put_in(empty, content)[0] == 302


def test_an_archive_is_taken_out_as_a_whole_until_somebody_wrote(client: FlaskClient, empty: Flask) -> None:
    content = exported(client)
    assert put_in(empty, content)[0] == 302
    coach = signed_in_coach(empty)
    assert "Take all of it out again" in coach.get("/people").text
    assert coach.post("/people/archive-out").status_code == 302
    with reading(empty) as db:
        assert not any(db.execute(select(table)).first() for table in Base.metadata.tables.values())
        with pytest.raises(DatabaseError, match="only grows"):  # the log is as guarded as before
            db.execute(insert(AuditLine).values(at=DEMO_DAY_AT, who="", what="x", about={}, before="", digest=""))
            db.execute(delete(AuditLine))
    assert coach.get("/").status_code == 302  # signed out
    assert put_in(empty, content)[0] == 302
    coach = signed_in_coach(empty)
    with empty.extensions["database"].writing() as db:
        db.add(Change(squad_id=1, what="x", subject="room", subject_id=1, before={}, by_id=1, at=DEMO_DAY_AT))
    assert "Take all of it out again" not in coach.get("/people").text
    assert coach.post("/people/archive-out").status_code == 409
    with reading(empty) as db:
        assert db.scalars(select(Squad)).one()


def test_only_a_coach_takes_an_archive_out(client: FlaskClient, empty: Flask) -> None:
    assert put_in(empty, exported(client))[0] == 302
    with empty.extensions["database"].writing() as db:
        user = db.scalars(select(User).where(User.sign_in == "lund")).one()
        user.active = True
    lund = empty.test_client()
    lund.post(f"/demo-sign-in/{user.id}")
    assert lund.post("/people/archive-out").status_code == 403


def test_a_crafted_archive_is_no_back_door(client: FlaskClient, empty: Flask) -> None:
    assert put_in(empty, changed(exported(client), _a_way_in))[0] == 302
    with reading(empty) as db:
        coach, *others = db.scalars(select(User).order_by(User.id))
        assert coach.password_hash and not any(user.password_hash for user in others)
        assert not any(user.second_factor or user.second_used for user in (coach, *others))
        assert not db.scalars(select(PostAddress)).all()
    for sign_in in ("lund", "ferro", "amari"):
        form = {"sign_in": sign_in, "password": "a password of mine"}
        assert empty.test_client().post("/sign-in", data=form).status_code == 422
    assert empty.test_client().post("/sign-in", data={"sign_in": "amari", "password": PASSWORD}).status_code == 302


def test_an_archive_with_a_member_twice_is_refused_by_name(client: FlaskClient, empty: Flask) -> None:
    out = io.BytesIO(exported(client))
    with zipfile.ZipFile(out, "a") as file, warnings.catch_warnings():
        warnings.simplefilter("ignore")
        file.writestr("squad.json", "{}")
    status, page = put_in(empty, out.getvalue())
    assert status == 422 and "holds squad.json twice" in page
