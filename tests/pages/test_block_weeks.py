"""A block that is there: moved, shortened, lengthened, copied, dropped, and each of them undone."""

import datetime as dt
import re
from collections.abc import Sequence

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select

from backsquat.storage.models import Block, BlockSession, Cell, Exercise, SessionDay
from backsquat.work.context import rules_of
from backsquat.work.floor.sessions import sessions_in_week
from backsquat.work.readiness.load import readiness_of
from backsquat.work.season.evidence import idle_weeks
from backsquat.work.squad.athletes import squad_athletes
from tests.demo_club import reading
from tests.pages.test_block_planner import FREE, plan
from tests.work.test_safety import ACTOR

LATER = dt.date(2027, 2, 1)


def days_of(app: Flask, block_id: int) -> Sequence[tuple[int, dt.date, bool]]:
    with reading(app) as db:
        rows = db.execute(
            select(SessionDay.week, SessionDay.held_on, SessionDay.left_out)
            .join(BlockSession, BlockSession.id == SessionDay.session_id)
            .where(BlockSession.block_id == block_id)
            .order_by(SessionDay.week, SessionDay.held_on)
        )
        return [(week, held_on, left_out) for week, held_on, left_out in rows]


def fact(app: Flask, block_id: int) -> tuple[str, dt.date, int, bool]:
    with reading(app) as db:
        block = db.get_one(Block, block_id)
        return block.name, block.first_week, block.weeks, block.dropped


def on_floor(app: Flask, week: str) -> list[int]:
    """The blocks of the sessions the floor has in a week."""
    with reading(app) as db:
        return [one.block.id for one in sessions_in_week(db, 1, dt.date.fromisoformat(week))]


def weeks_planned(app: Flask, block_id: int) -> set[int]:
    with reading(app) as db:
        rows = db.scalars(
            select(Cell.week).join(Exercise, Cell.exercise_id == Exercise.id).where(Exercise.block_id == block_id)
        )
        return set(rows)


def made(client: FlaskClient, app: Flask) -> int:
    return plan(client, app, ("0", "Back squat", "wave"), ("3", "Nordic", "window")).id


def change(client: FlaskClient, block_id: int, first_week: str, weeks: int, name: str = "Own") -> str:
    data = {"name": name, "first_week": first_week, "weeks": str(weeks), "purpose": ""}
    return client.post(f"/block/{block_id}/weeks", data=data, follow_redirects=True).text


def undo(client: FlaskClient, page: str) -> str:
    found = re.findall(r'action="(/undo/\d+[^"]*)"', page)
    assert found, page
    return client.post(found[-1], follow_redirects=True).text


def test_a_block_moves_with_all_its_days_and_back(app: Flask, client: FlaskClient) -> None:
    block_id = made(client, app)
    before = days_of(app, block_id)
    page = change(client, block_id, LATER.isoformat(), 4)
    assert "what it does to the loads" in page
    by = LATER - dt.date.fromisoformat(FREE)
    assert days_of(app, block_id) == [(week, on + by, out) for week, on, out in before]
    undo(client, page)
    assert days_of(app, block_id) == before
    assert fact(app, block_id) == ("Own", dt.date.fromisoformat(FREE), 4, False)


def test_a_longer_block_is_planned_to_its_end_and_a_shorter_one_is_on_no_floor_after_it(
    app: Flask, client: FlaskClient
) -> None:
    block_id = made(client, app)
    page = change(client, block_id, FREE, 6)
    assert weeks_planned(app, block_id) == set(range(6))
    assert [week for week, _, out in days_of(app, block_id) if not out] == [0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5]
    undo(client, page)
    assert [week for week, _, out in days_of(app, block_id) if not out] == [0, 0, 1, 1, 2, 2, 3, 3]
    client.post(f"/block/{block_id}/publish")
    assert on_floor(app, "2027-01-25") == [block_id, block_id]
    change(client, block_id, FREE, 2)
    assert [week for week, _, out in days_of(app, block_id) if not out] == [0, 0, 1, 1]
    assert on_floor(app, FREE) == [block_id, block_id]
    assert on_floor(app, "2027-01-25") == []
    change(client, block_id, FREE, 3)
    assert [week for week, _, out in days_of(app, block_id) if not out] == [0, 0, 1, 1, 2, 2]


def test_a_block_that_has_begun_stays_where_it_is(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        block = db.scalars(select(Block).where(Block.name == "November wave")).one()
        block_id, first_week, weeks = block.id, block.first_week, block.weeks
    assert "its first week stays" in change(client, block_id, "2027-02-01", weeks, "November wave")
    assert "cannot be shorter" in change(client, block_id, first_week.isoformat(), 1, "November wave")
    page = client.post(f"/block/{block_id}/drop")
    assert page.status_code == 409 and "Somebody has trained in this block" in page.text
    assert fact(app, block_id) == ("November wave", first_week, weeks, False)
    assert "Drop it" not in client.get(f"/block/{block_id}/weeks").text


@pytest.mark.parametrize(
    ("first_week", "weeks", "said"),
    [
        ("2027-01-12", 4, "starts on a Monday"),
        ("2027-09-06", 4, "inside the season"),
        ("2026-11-23", 4, "already plans these weeks"),
        (FREE, 40, "from 1 to 26 weeks"),
        (FREE, 0, "from 1 to 26 weeks"),
    ],
)
def test_weeks_a_block_cannot_have_are_said_beside_their_field(
    app: Flask, client: FlaskClient, first_week: str, weeks: int, said: str
) -> None:
    block_id = made(client, app)
    assert said in change(client, block_id, first_week, weeks)
    assert fact(app, block_id) == ("Own", dt.date.fromisoformat(FREE), 4, False)


def test_a_dropped_block_is_nowhere_and_comes_back_whole(app: Flask, client: FlaskClient) -> None:
    block_id = made(client, app)
    client.post(f"/block/{block_id}/publish")
    before = days_of(app, block_id)
    assert on_floor(app, FREE) == [block_id, block_id]
    page = client.post(f"/block/{block_id}/drop", data={"week": FREE}, follow_redirects=True).text
    assert "No block in the week" in page and fact(app, block_id)[3]
    assert all(out for _, _, out in days_of(app, block_id))
    assert on_floor(app, FREE) == []
    assert client.post(f"/block/{block_id}/drop").status_code == 404
    shown = client.get(f"/block/{block_id}").text
    assert "Own was dropped" in shown
    undo(client, shown)
    assert days_of(app, block_id) == before and not fact(app, block_id)[3]


def test_a_dropped_block_does_not_come_back_over_another(app: Flask, client: FlaskClient) -> None:
    block_id = made(client, app)
    page = client.post(f"/block/{block_id}/drop", data={"week": FREE}, follow_redirects=True).text
    other = made(client, app)
    found = re.findall(r'action="(/undo/\d+[^"]*)"', page)
    assert found
    answer = client.post(found[-1])
    assert answer.status_code == 409 and "plans these weeks now" in answer.text
    assert fact(app, block_id)[3] and not fact(app, other)[3]


def test_making_a_block_is_undone_by_name(app: Flask, client: FlaskClient) -> None:
    data = {
        "name": "By mistake",
        "first_week": FREE,
        "weeks": "4",
        "template": "typed",
        "typed": "Monday\n3x5 back squat",
    }
    page = client.post("/block/new", data=data, follow_redirects=True).text
    assert "block By mistake made" in undo(client, page)
    with reading(app) as db:
        block = db.scalars(select(Block).where(Block.name == "By mistake")).one()
        assert block.dropped
    undo(client, client.get(f"/block/{block.id}").text)  # and there is a way back
    with reading(app) as db:
        assert not db.get_one(Block, block.id).dropped


def test_weeks_cut_or_dropped_are_no_weeks_without_a_session(app: Flask, client: FlaskClient) -> None:
    block_id = made(client, app)

    def idle() -> set[dt.date]:
        with reading(app) as db:
            athletes = squad_athletes(db, 1)
            ready = readiness_of(db, 1, athletes, ACTOR.today, rules_of(db, 1))
            return {week for weeks in idle_weeks(db, 1, ready).values() for week in weeks}

    before = idle()
    change(client, block_id, FREE, 2)
    assert idle() == before
    client.post(f"/block/{block_id}/drop")
    assert idle() == before


def test_a_new_block_like_another_starts_with_its_lines(app: Flask, client: FlaskClient) -> None:
    block_id = made(client, app)
    page = client.get(f"/block/new?like={block_id}&week=2027-02-15").text
    assert 'value="Back squat"' in page and 'value="Nordic"' in page and 'value="Own"' in page
    with reading(app) as db:
        assert db.scalar(select(func.count()).select_from(Block).where(Block.name == "Own")) == 1
