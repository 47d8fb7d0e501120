"""In a real browser: stops, questions and changes between devices, with a line and without one."""

import re
import time

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import select

from backsquat.storage.models import Athlete, Stop
from tests.browser.station import Station, done, floor, hurts, waits
from tests.demo_club import athlete_id, entries, live_cell, reading


def test_a_stop_on_the_phone_without_a_line_locks_there_and_everywhere_once_there_is_one(
    page: Page, station: Station, browser: Browser
) -> None:
    app, marit = station.app, athlete_id(station.app, "Marit Holm")
    floor(page, station, where=f"?athlete={marit}")
    tablet = floor(browser.new_page(), station, "Amari", f"?athlete={marit}")
    page.context.set_offline(True)
    hurts(page, "knee", "sharp")
    expect(page.locator(".decision.is-stop")).to_contain_text("physiotherapist")
    expect(page.locator(".decision.is-stop")).to_be_in_viewport()
    expect(page.locator(".decision.is-stop")).to_be_focused()
    page.evaluate(f"Pocket.show({{athlete: {marit}, after: null, lift: null}})")
    expect(page.locator(".decision.is-stop")).to_be_visible()
    expect(page.locator(".tap")).to_have_count(0)
    page.context.set_offline(False)
    expect(tablet.locator(".lifter", has_text="Marit")).to_contain_text("stopped")
    with reading(app) as db:
        (stop,) = db.scalars(select(Stop).where(Stop.athlete_id == marit, Stop.cleared_on.is_(None))).all()
        assert (stop.level, stop.region, stop.character) == (None, "knee", "sharp")
    tablet.context.close()


def test_a_number_changed_and_a_set_logged_elsewhere_show_without_reloading(
    page: Page, station: Station, browser: Browser
) -> None:
    app, cell = station.app, live_cell(station.app, "Marit Holm", 2)
    floor(page, station, where=f"?athlete={cell.athlete_id}")
    coach = browser.new_page()
    coach.goto(f"{station.address}/sign-in")
    coach.get_by_role("button", name="R. Amari").click()
    squad = coach.locator("tr", has_text="Marit Holm")
    expect(squad).to_be_visible()
    before = squad.inner_text()
    done(page)
    expect(squad).not_to_have_text(before, use_inner_text=True)
    page.goto(f"{station.address}/floor/?athlete={cell.athlete_id}&lift={cell.exercise_id}")
    page.locator("summary", has_text="Different").click()
    page.locator("form.set-form:visible").get_by_label("RIR").fill("0")
    told = {"load": str(cell.load_amount), "reps": "3", "client_id": "by-the-coach", "pain_character": "dull"}
    app.config["WTF_CSRF_ENABLED"] = False
    other = app.test_client()
    other.post("/demo-sign-in/1")
    other.post(f"/floor/cells/{cell.id}/sets", data=told | {"confirm": "logged_meanwhile"})
    app.config["WTF_CSRF_ENABLED"] = True
    expect(page.get_by_role("alert")).to_contain_text("changed here on another device")
    expect(page.locator("form.set-form:visible").get_by_label("RIR")).to_have_value("0")  # nothing typed is lost
    page.get_by_role("button", name="Show it").click()
    expect(page.locator(".sets")).to_have_attribute("aria-label", re.compile("^2 of"))
    coach.context.close()


def test_what_is_not_taken_is_said_and_stays_until_somebody_throws_it_away(page: Page, station: Station) -> None:
    marit = athlete_id(station.app, "Marit Holm")
    floor(page, station, where=f"?athlete={marit}")
    page.context.set_offline(True)
    page.locator("summary", has_text="Different").click()
    inside = page.locator("form.set-form:visible")
    inside.locator("input[name=reps]").fill("77")
    inside.get_by_role("button", name="Log this set").click()
    page.context.set_offline(False)
    mark = page.locator("#line")
    expect(mark).to_contain_text("Not taken: Marit")
    page.reload()
    expect(mark).to_contain_text("Not taken: Marit")
    mark.get_by_text("Throw it away").click()
    mark.get_by_role("button", name="it never happened").click()
    expect(mark).to_be_hidden()
    assert not entries(station.app, live_cell(station.app, "Marit Holm", 2).id)


def test_what_needs_a_line_is_not_sent_into_nothing(page: Page, station: Station) -> None:
    marit = athlete_id(station.app, "Marit Holm")
    floor(page, station, where=f"?athlete={marit}")
    page.get_by_text("Set-up:").click()
    page.locator(".setup-here input[name=value]").first.fill("34 cm")
    page.context.set_offline(True)
    expect(page.locator("#line")).to_contain_text("No line since")
    page.locator(".setup-here button").first.click()
    expect(page.get_by_role("alert")).to_contain_text("What you typed stays here")
    expect(page.locator(".setup-here input[name=value]").first).to_have_value("34 cm")


def test_a_question_is_asked_however_long_its_answer_takes(page: Page, station: Station) -> None:
    """Nobody hands a set in behind the back of its own request, which may come back with a question."""
    app, cell = station.app, live_cell(station.app, "Marit Holm", 2)
    floor(page, station, where=f"?athlete={cell.athlete_id}")
    page.route("**/floor/cells/*/sets", lambda route: (time.sleep(3), route.continue_()))
    page.locator("summary", has_text="Different").click()
    inside = page.locator("form.set-form:visible")
    inside.locator("input[name=load]").fill("200")
    inside.get_by_role("button", name="Log this set").click()
    question = page.get_by_role("alertdialog")
    expect(question).to_contain_text("Is that right?")
    assert not entries(app, cell.id)
    page.wait_for_timeout(2_500)  # and it stays, whatever is looked for meanwhile
    expect(question).to_be_visible()
    assert not entries(app, cell.id)


@pytest.mark.parametrize(
    ("level", "own_line", "locks"), [(3, None, False), (4, None, True), (3, 3, True), (4, 6, False)]
)
def test_dull_pain_locks_without_a_line_from_the_athletes_own_line_on(
    page: Page, station: Station, level: int, own_line: int | None, locks: bool
) -> None:
    app, marit = station.app, athlete_id(station.app, "Marit Holm")
    with app.extensions["database"].writing() as db:
        db.get_one(Athlete, marit).pain_line = own_line
    floor(page, station, where=f"?athlete={marit}")
    page.context.set_offline(True)
    page.evaluate(f"Pocket.show({{athlete: {marit}}})")
    hurts(page, "knee", f"dull {level}")
    expect(page.locator("#line")).to_contain_text("1 entry waits")
    page.evaluate(f"Pocket.show({{athlete: {marit}, after: null, lift: null}})")
    expect(page.locator(".decision.is-stop")).to_have_count(int(locks))
    expect(page.get_by_role("button", name=re.compile("Take back"))).to_have_count(
        0
    )  # a report is taken back by nobody


def test_a_slip_that_still_waits_is_taken_back(page: Page, station: Station) -> None:
    app, cell = station.app, live_cell(station.app, "Marit Holm", 2)
    floor(page, station, where=f"?athlete={cell.athlete_id}")
    page.context.set_offline(True)
    page.locator(".tap").click()
    waits(page, 1)
    page.evaluate(f"Pocket.show({{athlete: {cell.athlete_id}, after: null, lift: null}})")
    page.get_by_role("button", name=re.compile("Take back")).click()
    expect(page.locator("#line")).not_to_contain_text("waits")
    page.context.set_offline(False)
    expect(page.locator("#line")).to_be_hidden()
    assert not entries(app, cell.id)
