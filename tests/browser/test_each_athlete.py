"""Single athletes in the real interface: another progression, another room, a deload week out of turn."""

import re

import pytest
from flask import Flask
from playwright.sync_api import Page, expect

from tests.browser.test_the_block import browser_context_args, number  # noqa: F401
from tests.browser.test_the_whole_line import fits


def row(page: Page, name: str):  # type: ignore[no-untyped-def]
    return page.get_by_role("row", name=re.compile(name))


def publish(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^Publish")).click()
    expect(page.get_by_text("Published as version")).to_be_visible()


def test_one_athlete_is_given_another_progression_and_the_floor_asks_what_it_asks(
    watched: Page, site: tuple[str, Flask]
) -> None:
    page, (address, _) = watched, site
    page.goto(f"{address}/block/3/compare?athlete=1")
    page.get_by_role("row", name=re.compile("^Fixed step")).get_by_role("link", name="for Marit alone").click()
    expect(page.get_by_label("Marit Holm")).to_be_checked()
    expect(page.get_by_label("Day", exact=True)).to_be_hidden()
    # Bad input first: nothing is lost, nobody is changed.
    page.get_by_label("Working sets").fill("many")
    page.get_by_role("button", name="Save, and see what changes").click()
    expect(page.get_by_text("Write a whole number.")).to_be_visible()
    expect(page.get_by_label("Marit Holm")).to_be_checked()
    page.get_by_label("Working sets").fill("3")
    page.get_by_role("button", name="Save, and see what changes").click()
    expect(page.get_by_text("For Marit Holm.")).to_be_visible()
    expect(page.get_by_role("cell", name="Tove Lindqvist")).to_have_count(0)
    page.get_by_role("button", name="Take what is ticked").click()
    expect(row(page, "Marit Holm")).to_contain_text("Fixed step")
    expect(row(page, "Marit Holm")).to_contain_text("3 × 5")
    publish(page)
    page.goto(f"{address}/floor/?lift=5&athlete=1")
    expect(page.locator(".floor-load")).to_contain_text("× 5")
    # Back to the exercise's progression, seen on the exercise's page.
    page.goto(f"{address}/block/exercises/5")
    page.get_by_role("button", name="As everybody").click()
    expect(page.get_by_text("For Marit Holm.")).to_be_visible()


def test_two_weeks_in_a_pounds_room_from_the_room_page_to_the_floor(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, _) = watched, site
    page.goto(f"{address}/block/3?lift=5")
    before = [number(page, "Ines Okafor", week) for week in range(8)]
    page.goto(f"{address}/room/")
    page.get_by_label("Who", exact=True).select_option(label="Ines Okafor")
    page.get_by_label("Room", exact=True).select_option(label="School hall")
    page.locator("#assignment-last").fill("2026-11-01")
    page.get_by_role("button", name="Trains there").click()
    expect(page.get_by_text("The last day cannot be before the first")).to_be_visible()
    expect(page.get_by_label("Who", exact=True)).to_have_value(re.compile(r"\d"))
    page.locator("#assignment-last").fill("2026-11-29")
    page.get_by_role("button", name="Trains there").click()
    expect(page.get_by_text("as a draft with the loads of that room")).to_be_visible()
    expect(row(page, "Ines Okafor")).to_contain_text("School hall")

    page.goto(f"{address}/block/3?lift=5")
    here = row(page, "Ines Okafor").locator('a[data-week="2"]')
    expect(here).to_contain_text("lb")
    here.click()
    panel = page.locator("#panel")
    expect(panel).to_contain_text("School hall")
    expect(panel).to_contain_text("45 lb")
    # Typed in pounds: only what that room has.
    here.focus()
    page.keyboard.type("202")
    page.keyboard.press("Tab")
    expect(page.locator("#sheet-said")).to_contain_text("nearest are 200 and 205")
    here.focus()
    page.keyboard.type("205")
    page.keyboard.press("Tab")
    expect(row(page, "Ines Okafor").locator('a[data-week="2"]')).to_have_attribute("data-load", "205")
    publish(page)
    page.goto(f"{address}/floor/?lift=5")
    page.locator(".where summary").click()
    page.get_by_role("link", name="School hall, rack 1").click()
    expect(page.locator(".floor-load")).to_contain_text(re.compile(r"205 lb × \d"))
    page.locator(".tap").click()
    expect(page.locator(".last-truth")).to_contain_text("205")
    # Ended the same day: what was lifted stays, the rest comes home.
    page.goto(f"{address}/room/")
    page.get_by_role("button", name="End it for Ines Okafor").click()
    expect(page.get_by_text("Ended.")).to_be_visible()
    page.goto(f"{address}/block/3?lift=5")
    after = [number(page, "Ines Okafor", week) for week in range(8)]
    assert after[2] == "205" and after[3:] == before[3:]


def test_check_ins_lead_to_an_deload_week_in_one_click(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, _) = watched, site
    page.goto(f"{address}/floor/?lift=5&athlete=3")
    page.locator(".check-in summary").click()
    page.locator(".check-in").get_by_role("button", name="Save").click()
    expect(page.get_by_text("Choose one of each line")).to_be_visible()
    page.locator(".check-in summary").click()
    for legend, value in (("Sleep", 2), ("Soreness", 4), ("Stress", 4), ("Lower back sore", 3)):
        page.get_by_role("group", name=re.compile(legend)).get_by_role("radio", name=str(value), exact=True).check()
    page.locator(".check-in").get_by_role("button", name="Save").click()
    expect(page.get_by_text("sleep 2 · sore 4 · stress 4 · back 3")).to_be_visible()

    page.goto(f"{address}/block/3?lift=5")
    page.get_by_role("link", name="Rania Haddad: 2 red flags, a deload week?").click()
    finding = page.locator(".finding-row", has_text="check-ins low").filter(has_text="Rania Haddad")
    expect(finding).to_contain_text("lower back sorer from check-in to check-in: 3, 5, 5")
    finding.get_by_role("button", name="Make week 3 a deload week").click()
    expect(page.get_by_text("Deload week for Rania Haddad")).to_be_visible()
    expect(finding).to_contain_text("week 3 is a deload week already")
    page.goto(f"{address}/block/3?lift=5")
    expect(row(page, "Rania Haddad").locator("td.is-deload")).to_have_count(3)
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(row(page, "Rania Haddad").locator("td.is-deload")).to_have_count(2)


@pytest.mark.parametrize(
    "path",
    [
        "/room/?room=2",
        "/room/?room=further",
        "/block/exercises/7?athlete=1",
        "/block/3/check",
        "/floor/?lift=5&athlete=4",
    ],
)
def test_each_new_page_fits_a_phone(watched: Page, site: tuple[str, Flask], path: str) -> None:
    page, (address, _) = watched, site
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(address + path)
    fits(page)
