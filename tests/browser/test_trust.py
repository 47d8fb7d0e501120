"""In a real browser: an ended sign-in in the middle of work, drafts of the one before, a second factor, a moved exercise."""

import datetime as dt
import re

import pyotp
from flask import Flask
from playwright.sync_api import Page, expect
from sqlalchemy import select

from backsquat.clock import Clock
from backsquat.demo.club import PASSWORD
from backsquat.storage.models import SignIn
from tests.demo_club import athlete_id, entries, live_cell


def end_sign_ins(app: Flask) -> None:
    with app.extensions["database"].writing() as db:
        for row in db.scalars(select(SignIn)):
            row.seen_at -= dt.timedelta(hours=3)


def test_an_ended_sign_in_on_the_floor_is_asked_for_in_place(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    marit, cell = athlete_id(app, "Marit Holm"), live_cell(app, "Marit Holm", 2)
    page.goto(f"{address}/floor/?athlete={marit}")
    page.get_by_text("Different", exact=False).first.click()
    form = page.locator("details[open] form.set-form")
    form.get_by_label("RIR").fill("1")
    end_sign_ins(app)
    form.get_by_role("button", name="Log this set").click()
    here = page.locator("#sign-in-here")
    expect(here).to_contain_text("Your sign-in has ended")
    here.get_by_label("Name").fill("amari")
    here.get_by_label("Password").fill("wrong one")
    here.get_by_role("button", name="Sign in and go on").click()
    expect(here).to_contain_text("do not belong together")
    here.get_by_label("Name").fill("Amari")
    here.get_by_label("Password").fill(PASSWORD)
    here.get_by_role("button", name="Sign in and go on").click()
    expect(here).to_contain_text("Send it again")
    expect(form.get_by_label("RIR")).to_have_value("1")
    form.get_by_role("button", name="Log this set").click()
    expect(page.locator("details[open] form.set-form")).to_have_count(0)
    assert [entry.reserve_reps for entry in entries(app, cell.id)] == [1]


def test_a_form_sent_too_late_goes_on_after_signing_in(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    page.goto(f"{address}/athletes/new")
    page.get_by_label("Name", exact=True).fill("Signe Aalto")
    page.get_by_label("Born on").fill("2001-03-04")
    end_sign_ins(app)
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_role("heading", name="Your sign-in has ended")).to_be_visible()
    with page.context.expect_page() as opened:
        page.get_by_role("link", name="1. Sign in").click()
    beside = opened.value
    beside.get_by_role("button", name="R. Amari").click()
    beside.get_by_role("heading", name="Squad").wait_for()
    page.get_by_role("button", name="2. Send it again").click()
    expect(page.get_by_text("Athlete added")).to_be_visible()
    assert athlete_id(app, "Signe Aalto")


def test_what_one_typed_is_not_there_for_the_next(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    where = f"{address}/screen/athlete/{athlete_id(app, 'Marit Holm')}"
    sent: list[str] = []
    page.goto(where)
    page.route(
        "**/screen/athlete/*", lambda route: route.abort() if route.request.method == "POST" else route.continue_()
    )
    field = page.locator("input[data-autosave]").first
    field.fill("7")
    field.blur()
    expect(page.get_by_text("waits for the line").first).to_be_visible()
    assert page.evaluate("Object.keys(localStorage).filter((key) => key.startsWith('draft ')).length") == 1
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name=re.compile("Lund")).click()
    page.get_by_role("heading", name="Squad").wait_for()
    page.on("request", lambda request: sent.append(request.url) if request.method == "POST" else None)
    page.goto(where)
    page.wait_for_load_state("networkidle")
    assert page.evaluate("Object.keys(localStorage).filter((key) => key.startsWith('draft ')).length") == 0
    expect(page.locator("input[data-autosave]").first).not_to_have_value("7")
    assert sent == []


def test_a_second_factor_is_set_up_asked_for_and_ends_other_browsers(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, _) = watched, site
    other = page.context.browser.new_context().new_page()  # type: ignore[union-attr]
    other.goto(f"{address}/sign-in")
    other.get_by_role("button", name="R. Amari").click()
    other.get_by_role("heading", name="Squad").wait_for()
    page.get_by_role("link", name="R. Amari").click()
    secret = page.locator(".second-factor code").inner_text()
    page.get_by_label("Code").fill(pyotp.TOTP(secret).at(Clock().real()))
    page.get_by_role("button", name="Set it up").click()
    expect(page.get_by_text("Second factor set up. Other")).to_be_visible()
    other.goto(f"{address}/block/")
    expect(other.get_by_role("heading", name="Sign in")).to_be_visible()
    other.get_by_label("Name").fill("amari")
    other.get_by_label("Password").fill(PASSWORD)
    other.get_by_role("button", name="Sign in", exact=True).click()
    expect(other.get_by_role("heading", name="Second factor")).to_be_visible()
    other.get_by_label("Code").fill("123")
    other.get_by_role("button", name="Go on").click()
    expect(other.get_by_text("This code is not right")).to_be_visible()
    other.context.close()


def test_a_exercise_moves_on_the_sheet_and_on_the_floor_once_published(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, _) = watched, site
    page.goto(f"{address}/block/exercises/7")
    page.locator("select[name=day]").select_option(label="Friday")
    page.get_by_role("button", name="Save", exact=False).first.click()
    floor = page.locator("nav.pick").first
    page.goto(f"{address}/floor/")
    expect(floor).to_contain_text("Wed Hinge day")
    page.goto(f"{address}/block/3/exercises")
    expect(page.get_by_text("moved from week 3 on")).to_be_visible()
    page.get_by_role("button", name="Publish 1 change").click()
    page.goto(f"{address}/floor/")
    expect(floor).to_contain_text("Fri")
    page.goto(f"{address}/block/3")
    page.keyboard.press("u")
    expect(page.get_by_text("Undone: Romanian deadlift changed.")).to_be_visible()
    page.wait_for_load_state()  # the keys are there with the scripts
    page.keyboard.press("y")
    expect(page.get_by_text("Done again: Romanian deadlift changed.")).to_be_visible()
