"""One athlete does a session of the week on another day alone: floor, card, missed and attendance follow."""

import datetime as dt
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.config import DEMO_DAY
from backsquat.core.rules import Rules
from backsquat.storage.models import OwnDay, SetEntry, Squad
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.floor.sessions import choose_session, sessions_in_week
from backsquat.work.overview.attendance import attendance
from backsquat.work.plan.missed import missed_groups
from backsquat.work.plan.week_check import audit_block_week
from backsquat.work.sessions.blocks import block_in_week, squad_blocks
from backsquat.work.squad.context import context_of
from tests.demo_club import athlete_id, live_cell, reading, undo_of

MONDAY, TUESDAY, WEDNESDAY = (DEMO_DAY + dt.timedelta(days=n) for n in range(3))
PETRA, OTHER = "Petra Skov", "Marit Holm"


def squat_session(app: Flask) -> int:
    with reading(app) as db:
        return next(one for one in sessions_in_week(db, 1, MONDAY) if one.day == MONDAY).session_id


def move(client: FlaskClient, app: Flask, name: str, day: dt.date, week: int = 2, **more: Any) -> str:
    data = {"week": MONDAY.isoformat(), "athlete": athlete_id(app, name), "to": day.weekday(), **more}
    address = f"/season/sessions/{squat_session(app)}/{week}/alone"
    return client.post(address, data=data, follow_redirects=True).text


SET = {"load": "60", "reps": "5", "reserve_reps": "3", "pain_character": "dull"}


def test_the_floor_has_her_on_her_own_day_alone_and_not_with_the_others(app: Flask, client: FlaskClient) -> None:
    done = move(client, app, PETRA, TUESDAY)
    assert "Moved for one athlete" in done and f"{PETRA}: Tue 24 Nov" in done
    monday = client.get("/floor/").text
    assert "does it alone on Tue 24 Nov" in monday
    with reading(app) as db:
        found = sessions_in_week(db, 1, MONDAY)
    assert [(one.day, bool(one.own)) for one in found] == [(MONDAY, False), (TUESDAY, True), (WEDNESDAY, False)]
    own = found[1]
    assert own.own == {athlete_id(app, PETRA)} and own.key != str(own.session_id)
    tuesday = choose_session(found, "", TUESDAY)
    assert tuesday is own, "on the day itself the floor opens with it"
    page = client.get("/floor/", query_string={"session": own.key}).text
    assert PETRA in page and OTHER not in page
    card = client.get("/floor/paper/card", query_string={"athlete": athlete_id(app, PETRA)}).text
    assert "Tuesday" in card
    days = {one["day"]: one["athletes"] for one in client.get("/floor/pack").get_json()["sessions"]}
    me = str(athlete_id(app, PETRA))
    assert me in days[TUESDAY.isoformat()] and me not in days[MONDAY.isoformat()]


def test_her_sets_are_of_her_own_day_and_cannot_be_logged_before_it(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    move(client, app, PETRA, TUESDAY)
    cell = live_cell(app, PETRA, 2)
    early = client.post(f"/floor/cells/{cell.id}/sets", data=SET | {"client_id": "early"})
    assert early.status_code != 302
    with reading(app) as db:
        assert not db.scalars(select(SetEntry).where(SetEntry.cell_id == cell.id)).all()
    monkeypatch.setattr(app.extensions["clock"], "fixed_day", TUESDAY)
    assert client.post(f"/floor/cells/{cell.id}/sets", data=SET | {"client_id": "own"}).status_code == 302
    with reading(app) as db:
        (entry,) = db.scalars(select(SetEntry).where(SetEntry.cell_id == cell.id)).all()
    assert entry.done_on == TUESDAY


def test_what_is_still_to_come_alone_is_not_missed_and_then_it_is(app: Flask, client: FlaskClient) -> None:
    move(client, app, PETRA, WEDNESDAY)
    me = athlete_id(app, PETRA)

    def missing(day: dt.date) -> set[int]:
        with reading(app) as db:
            found = missed_groups(WorkContext(db, Actor(1, 1, dt.datetime.combine(day, dt.time(9)))))
            return {
                a.id
                for group in found
                if MONDAY <= group.first_on < MONDAY + dt.timedelta(days=7)
                for a in group.athletes
            }

    assert athlete_id(app, OTHER) in missing(TUESDAY) and me not in missing(TUESDAY)
    assert me not in missing(WEDNESDAY)
    assert me in missing(WEDNESDAY + dt.timedelta(days=1))


def test_a_session_brought_forward_is_missed_once_its_own_day_is_over(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        hinge = next(one for one in sessions_in_week(db, 1, MONDAY) if one.day == WEDNESDAY)
        now = dt.datetime.combine(MONDAY, dt.time(9))
        db.add(
            OwnDay(
                session_id=hinge.session_id, week=2, athlete_id=athlete_id(app, PETRA), held_on=MONDAY, by_id=1, at=now
            )
        )
    with reading(app) as db:
        found = missed_groups(WorkContext(db, Actor(1, 1, dt.datetime.combine(TUESDAY, dt.time(9)))))
    mine = [group for group in found if group.session.id == hinge.session_id and group.first_on >= MONDAY]
    assert [[a.name for a in group.athletes] for group in mine] == [[PETRA]]


def test_the_week_check_and_who_trained_count_her_own_day(app: Flask, client: FlaskClient) -> None:
    def days() -> list[set[int]]:
        with reading(app) as db:
            block = block_in_week(squad_blocks(db, 1), MONDAY)
            assert block
            audits = audit_block_week(db, 1, block, 2, Rules())
            mine = next(one for one in audits if one.athlete.name == PETRA)
            return [{item.day for item in mine.items}]

    assert days() == [{0, 2}]
    move(client, app, PETRA, TUESDAY)
    assert days() == [{1, 2}], "two high days running are seen"


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"athlete": "9999"}, "There is nothing here"),
        ({"to": "9"}, "There is nothing here"),
        ({"athlete": "x"}, "There is nothing here"),
    ],
)
def test_nonsense_moves_nobody(app: Flask, client: FlaskClient, more: dict[str, str], words: str) -> None:
    assert words in move(client, app, PETRA, TUESDAY, **more)
    with reading(app) as db:
        assert not db.scalars(select(OwnDay)).all()


def test_who_has_lifted_there_stays_and_undo_puts_her_back(app: Flask, client: FlaskClient) -> None:
    done = move(client, app, PETRA, TUESDAY)
    client.post(undo_of(done))
    assert "does it alone" not in client.get("/floor/").text
    cell = live_cell(app, PETRA, 2)
    assert client.post(f"/floor/cells/{cell.id}/sets", data=SET | {"client_id": "now"}).status_code == 302
    assert "does it alone" not in move(client, app, PETRA, TUESDAY)
    with reading(app) as db:
        assert not db.scalars(select(OwnDay)).all()


def test_back_on_everybodys_day_she_is_with_everybody(app: Flask, client: FlaskClient) -> None:
    move(client, app, PETRA, TUESDAY)
    move(client, app, PETRA, MONDAY)
    with reading(app) as db:
        assert not db.scalars(select(OwnDay)).all()
        assert all(not one.own and not one.elsewhere for one in sessions_in_week(db, 1, MONDAY))


def test_who_trained_waits_for_her_own_day(app: Flask, client: FlaskClient) -> None:
    def sessions(day: dt.date) -> int:
        with reading(app) as db:
            squad = db.get_one(Squad, 1)
            here = context_of(db, squad, Rules(), day, None)
            mine = next(one for one in attendance(db, here, MONDAY) if one.athlete.name == PETRA)
            return sum(len(week) for week in mine.weeks.values())

    assert sessions(TUESDAY) == 1, "everybody's Monday is over"
    move(client, app, PETRA, WEDNESDAY)
    assert sessions(TUESDAY) == 0
    assert sessions(WEDNESDAY + dt.timedelta(days=1)) == 2
