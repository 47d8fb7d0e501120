"""The season by mouse: a session and a match taken and dropped on another day."""

import datetime as dt

import pytest
from flask import Flask
from playwright.sync_api import Locator, Page, expect
from sqlalchemy import select

from backsquat.storage.models import Match, SessionDay
from tests.demo_club import reading


@pytest.fixture
def browser_context_args(browser_context_args):  # type: ignore[no-untyped-def]
    return {**browser_context_args, "viewport": {"width": 1280, "height": 900}}


def drag(page: Page, what: Locator, onto: Locator, at: tuple[float, float] = (0.5, 0.5)) -> None:
    what.scroll_into_view_if_needed()
    start, end = what.bounding_box(), onto.bounding_box()
    assert start and end
    page.mouse.move(start["x"] + start["width"] / 2, start["y"] + 8)
    page.mouse.down()
    page.mouse.move(end["x"] + 2, end["y"] + 2, steps=4)
    page.mouse.move(end["x"] + end["width"] * at[0], end["y"] + end["height"] * at[1], steps=4)
    page.mouse.up()


def held_on(app: Flask, day: dt.date) -> list[SessionDay]:
    with reading(app) as db:
        return list(db.scalars(select(SessionDay).where(SessionDay.held_on == day)))


def test_a_session_and_a_match_are_dragged_to_another_day(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    thursday, saturday = dt.date(2026, 12, 3), dt.date(2026, 12, 5)
    page.goto(address + "/season/?week=2026-11-30")
    drag(page, page.locator(".week-session", has_text="Hinge day"), page.locator('[data-day="2026-12-03"]'))
    expect(page.get_by_text("The week is changed, on the floor and on cards too.")).to_be_visible()
    assert len(held_on(app, thursday)) == 1
    drag(page, page.locator(".week-day.is-match"), page.locator('[data-day="2026-12-04"]'))
    expect(page.get_by_text("The match is on Fri 4 Dec now")).to_be_visible()
    expect(page.locator('[data-day="2026-12-03"] .week-leaves')).to_contain_text("the day before: nothing")
    page.get_by_role("button", name="Undo").first.click()
    page.goto(address + "/season/?week=2026-11-30")
    with reading(app) as db:
        match = db.scalars(select(Match).where(Match.played_on == saturday)).one()
    handle = page.locator(f'.season-handle[data-match="{match.id}"]')
    drag(page, handle, page.locator('.season a[data-week="2027-01-04"]').first, (0.5, 0.2))
    expect(page.get_by_text("The match is on Sat 9 Jan now")).to_be_visible()
    page.get_by_role("button", name="Undo").first.click()


def test_a_drop_beside_every_day_changes_nothing(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    page.goto(address + "/season/?week=2026-11-30")
    drag(
        page,
        page.locator(".week-session", has_text="Hinge day"),
        page.get_by_role("heading", name="Season", exact=True),
    )
    drag(page, page.locator(".week-session", has_text="Hinge day"), page.locator('[data-day="2026-12-02"]'))
    expect(page.locator(".message", has_text="changed")).to_have_count(0)
    assert len(held_on(app, dt.date(2026, 12, 2))) == 1


def test_nobody_but_the_coach_can_take_anything(app: Flask) -> None:
    client = app.test_client()
    client.post("/demo-sign-in/2")
    page = client.get("/season/?week=2026-11-30").text
    assert "data-drag" not in page and "match-move" not in page
    assert client.post("/season/matches/move", data={"match": "12", "to": "2026-12-04"}).status_code == 403
