"""A session's day is read from its row: where it moves, sheet, floor, log and plan move with it."""

import datetime as dt

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Block, BlockSession, SessionDay
from backsquat.work.floor.sessions import sessions_in_week
from backsquat.work.sessions.blocks import session_day
from tests.demo_club import entries, live_cell, reading

TUESDAY = dt.date(2026, 11, 24)


def move(app: Flask, to: dt.date) -> int:
    """The Monday session of the demo's week is held on another day; returns its exercise."""
    with app.extensions["database"].writing() as db:
        block = db.scalars(select(Block).where(Block.name == "November wave")).one()
        monday = next(one for one in block.sessions if one.weekday == 0)
        monday.days[2].held_on = to
        return next(exercise.id for exercise in block.exercises if exercise.session is monday)


def test_every_session_of_a_block_has_its_day_in_every_week(app: Flask) -> None:
    with reading(app) as db:
        for block in db.scalars(select(Block)):
            assert block.sessions and {len(one.days) for one in block.sessions} == {block.weeks}
            for one in block.sessions:
                usual = [block.first_week + dt.timedelta(weeks=n, days=one.weekday) for n in range(block.weeks)]
                assert [day.held_on for day in one.days] == usual
        assert db.scalars(select(SessionDay)).first() and db.scalars(select(BlockSession)).first()


def test_a_session_that_moves_takes_everything_along(app: Flask, client: FlaskClient) -> None:
    exercise_id, cell = move(app, TUESDAY), live_cell(app, "Marit Holm", 2)
    with reading(app) as db:
        chosen = next(one for one in sessions_in_week(db, 1, dt.date(2026, 11, 23)) if exercise_id in one.exercises)
        assert chosen.day == session_day(chosen.exercises[exercise_id], 2) == TUESDAY
    assert "24 Nov" in client.get("/block/").text.split("<tbody>")[0]
    data = {"load": "100", "reps": "4", "client_id": "moved", "pain_character": "dull"}
    ahead = client.post(f"/floor/cells/{cell.id}/sets", data=data)
    assert ahead.status_code == 409 and "has not come yet" in ahead.text, "it is held tomorrow now"
    move(app, dt.date(2026, 11, 20))
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
    assert entries(app, cell.id)[0].done_on == dt.date(2026, 11, 20)
