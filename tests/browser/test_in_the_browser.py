"""What only a real browser shows: the rail, the keyboard, a pain stop, and pages without scripts."""

import re

from flask import Flask
from playwright.sync_api import Browser, Page, expect

from tests.browser.station import hurts


def test_the_rail_moves_all_pages_and_links_keep_the_week(watched: Page) -> None:
    page = watched
    page.locator("svg.rail:not(.is-narrow)").get_by_label(re.compile("^Week 14, from 5 Oct")).click()
    expect(page.locator(".rail-caption").first).to_have_text("Week 14 · 5 Oct")
    for name, heading in (("Block", "Autumn wave"), ("Review", "Review"), ("Floor", "Floor")):
        page.get_by_role("navigation", name="Work").get_by_role("link", name=name).click()
        expect(page.get_by_role("heading", name=heading, exact=True)).to_be_attached()
        expect(page.locator(".rail-caption").first).to_have_text("Week 14 · 5 Oct")
    page.keyboard.press("]")
    expect(page.locator(".rail-caption").first).to_have_text("Week 15 · 12 Oct")
    page.keyboard.press("[")
    expect(page.locator(".rail-caption").first).to_have_text("Week 14 · 5 Oct")


def test_the_sheet_by_keyboard_alone(watched: Page) -> None:
    page = watched
    page.get_by_role("navigation", name="Work").get_by_role("link", name="Block").click()
    row = page.get_by_role("row", name=re.compile("Marit Holm"))
    row.locator("a[data-cell]").nth(3).focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.locator("#panel .eyebrow")).to_contain_text("Marit Holm · Mon 7 Dec")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.locator("#panel .eyebrow")).not_to_contain_text("Marit Holm")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Enter")
    expect(page.locator("#panel .eyebrow")).to_contain_text("Marit Holm")
    before = page.locator("#panel .huge").inner_text()
    page.keyboard.press("e")
    page.keyboard.type("70")
    page.keyboard.press("Enter")
    expect(page.locator("#panel .huge")).to_have_text("70")
    page.locator("h1").first.click()
    page.keyboard.press("u")
    expect(page.get_by_text("Undone: ")).to_be_visible()
    page.get_by_role("row", name=re.compile("Marit Holm")).locator("a[data-cell]").nth(4).click()
    expect(page.locator("#panel .huge")).to_have_text(before)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.get_by_role("dialog").get_by_role("button", name="Close").click()


def test_an_edit_that_cannot_be_loaded_is_said_beside_the_field(watched: Page) -> None:
    page = watched
    page.get_by_role("navigation", name="Work").get_by_role("link", name="Block").click()
    page.get_by_role("row", name=re.compile("Marit Holm")).locator("a[data-cell]").nth(4).click()
    expect(page.locator("#panel .eyebrow")).to_contain_text("7 Dec")
    page.keyboard.press("e")
    page.keyboard.type("81")
    page.keyboard.press("Enter")
    expect(page.locator("#panel .problem")).to_contain_text("nearest are 80 and 82.5")
    expect(page.locator("#panel input[name=load]")).to_have_value("81")


def test_pain_stops_the_movement_and_says_whom_to_see(watched: Page) -> None:
    page = watched
    page.get_by_role("navigation", name="Work").get_by_role("link", name="Floor").click()
    page.locator(".where summary").click()
    page.get_by_label("Rack 3", exact=True).click()
    page.get_by_role("link", name=re.compile("^Marit")).click()
    page.locator("details.is-pain > summary").click()
    page.locator(
        '.pain-form button[value="electric"]'
    ).click()  # without a place: the browser asks for it, nothing is sent
    expect(page.locator(".pain-form")).to_be_visible()
    page.locator("details.is-pain > summary").click()
    hurts(page, "lower back", "electric")
    stop = page.locator(".stop-screen")
    expect(stop).to_contain_text("Marit Holm stops")
    expect(stop).to_contain_text("See a physiotherapist or doctor")
    expect(stop).to_contain_text("Rests until cleared")
    expect(stop.get_by_role("heading")).to_be_in_viewport()
    page.get_by_role("navigation", name="Work").get_by_role("link", name="Block").click()
    page.get_by_role("link", name="Romanian deadlift").click()
    expect(page.get_by_role("row", name=re.compile("Marit Holm"))).to_contain_text("until it is cleared")


def test_reading_and_logging_work_without_scripts(browser: Browser, site: tuple[str, Flask]) -> None:
    address, _ = site
    context = browser.new_context(java_script_enabled=False, viewport={"width": 390, "height": 844})
    page = context.new_page()
    page.goto(f"{address}/")
    page.get_by_role("button", name="R. Amari").click()
    for path in ("/", "/block/", "/athletes/1", "/review/", "/room/"):
        page.goto(address + path)
        expect(page.locator("main")).to_be_visible()
    page.goto(f"{address}/block/")
    page.get_by_role("row", name=re.compile("Ines Okafor")).locator("a[data-cell]").nth(4).click()
    expect(page.locator("#panel .eyebrow")).to_contain_text("Ines Okafor")
    page.goto(f"{address}/floor/?rack=3&athlete=1")
    page.get_by_role("button", name=re.compile("^Done.*4$")).click()
    page.goto(f"{address}/floor/?rack=3&athlete=1")
    page.locator("summary", has_text="Different").click()
    form = page.locator("details[open] form.set-form")
    form.get_by_label("Reps", exact=True).fill("3")
    form.get_by_role("button", name="Log this set").click()
    page.goto(f"{address}/floor/?rack=3&athlete=1")
    expect(page.locator(".second .log-list li")).to_have_count(2)
    context.close()


def test_a_missed_session_is_answered_and_an_unlikely_set_asked_about(watched: Page, site: tuple[str, Flask]) -> None:
    page, address = watched, site[0]
    page.goto(f"{address}/review/")
    missed = page.locator("article", has_text="Ayla Demirel was planned and logged nothing")
    missed.get_by_role("button", name="Repeat it").click()
    expect(page.get_by_text("Repeat it: 1 answered.")).to_be_visible()
    expect(missed).to_have_count(0)
    page.goto(f"{address}/floor/?athlete=1")
    page.locator("summary", has_text="Different").click()
    page.locator("#load-set").fill("200")
    page.get_by_role("button", name="Log this set").click()
    question = page.get_by_role("alertdialog")
    expect(question).to_contain_text("Is that right?")
    expect(question).to_be_in_viewport()
    expect(page.locator(".lifter.is-up b")).to_have_text("Marit")
    question.get_by_role("button", name="Yes, keep it").click()
    expect(page.locator("ol.log-list")).to_contain_text("200")
    expect(page.locator(".flag")).to_have_text("far from what was to be expected")
