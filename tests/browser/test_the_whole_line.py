"""From an athlete's test to a loaded bar, a logged set and the next number, by hand, on the smallest screen."""

import re

import pytest
from flask import Flask
from playwright.sync_api import Page, expect

PHONE = {"width": 390, "height": 844}  # what fits here fits a laptop, whose pages the other files go through


@pytest.fixture
def browser_context_args(browser_context_args):  # type: ignore[no-untyped-def]
    return {**browser_context_args, "viewport": PHONE, "has_touch": True}


def fits(page: Page) -> None:
    """Nothing makes the page scroll sideways."""
    page.wait_for_load_state()
    wide = page.evaluate("() => [document.documentElement.scrollWidth, window.innerWidth]")
    assert wide[0] <= wide[1], page.url


def menu(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Work").get_by_role("link", name=name).click()
    fits(page)


def test_the_whole_line(watched: Page, site: tuple[str, Flask]) -> None:
    page = watched
    # 3: the squad
    expect(page.locator("tbody tr")).to_have_count(20)
    fits(page)

    # 4: a new athlete, and a test set that is first refused with everything kept
    page.get_by_role("link", name="Add an athlete").click()
    page.get_by_label("Name").fill("Zora Blyth")
    page.get_by_label("Born on").fill("2001-05-06")
    page.get_by_label("Body mass").fill("68,5")
    page.get_by_role("button", name="Add").click()
    fits(page)
    expect(page.get_by_text("not tested").first).to_be_visible()
    page.get_by_text("Clear with a reason").first.click()
    page.get_by_label("Reason for the override").first.fill("experienced, seen at her last club")
    page.get_by_role("button", name="Clear with a reason").first.click()
    page.get_by_role("link", name="Zora Blyth").click()
    page.get_by_role("link", name="Record a test set").first.click()
    page.locator("#load").fill("-80")
    page.get_by_label("Reps", exact=True).fill("5")
    page.get_by_label("RIR").fill("1")
    page.get_by_role("button", name="Record").click()
    expect(page.get_by_text("must be above 0")).to_be_visible()
    expect(page.locator("#load")).to_have_value("-80")
    page.locator("#load").fill("80")
    page.get_by_role("button", name="Record").click()
    expect(page.get_by_text("96 kg estimated maximum")).to_be_visible()
    expect(page.get_by_text("80 × (1 + 6 ÷ 30), Epley 1985, trust: good")).to_be_visible()
    page.get_by_role("link", name="Another test").click()
    page.get_by_label("Movement").select_option("romanian_deadlift")
    page.locator("#load").fill("90")
    page.get_by_label("Reps", exact=True).fill("5")
    page.get_by_label("RIR").fill("1")
    page.get_by_role("button", name="Record").click()

    # 5: the room
    menu(page, "Room")
    page.get_by_label("Pairs of plate 8").fill("2")
    page.get_by_label("Mass of plate 8").fill("0.5")
    page.get_by_role("button", name="Save the room").click()
    expect(page.get_by_text("smallest step 1 kg in all, that is 0.5 a side").first).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("smallest step 2.5 kg in all").first).to_be_visible()

    # 6: a block in free weeks; working, an edit, undo, publish
    menu(page, "Block")
    page.goto(page.url.split("?")[0] + "?week=2027-01-11")
    page.get_by_role("link", name="Plan a block from here").click()
    page.get_by_label("Name").fill("Spring wave")
    page.get_by_role("button", name="Work out the loads").click()
    expect(page.get_by_role("heading", name="Spring wave")).to_be_visible()
    row = page.get_by_role("row", name=re.compile("Zora Blyth"))
    row.locator("a[data-cell]").nth(2).click()
    panel = page.locator("#panel")
    for step in ("Counted", "Current e1RM", "Planning max", "Week 3", "Cap", "This room", "Chance", "Each side"):
        expect(panel.locator(".working-label", has_text=re.compile(f"^{step}$")).first).to_be_visible()
    before = panel.locator(".huge").inner_text()
    panel.get_by_text("Change this load").click()
    panel.get_by_role("textbox", name="kg").fill("60")
    panel.get_by_role("button", name="Change").click()
    expect(page.locator("#panel .huge")).to_have_text("60")
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("row", name=re.compile("Zora Blyth")).locator("a[data-cell]").nth(2).click()
    expect(page.locator("#panel .huge")).to_have_text(before)
    expect(page.get_by_role("row", name=re.compile("Noor Visser"))).to_contain_text("Needs a test")
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_text("Published as version 1")).to_be_visible()
    fits(page)

    # 7: today's session, which the new athlete joins after publishing
    page.goto(page.url.split("/block/")[0] + "/block/")
    page.get_by_role("button", name=re.compile("Publish .* changes")).click()
    page.get_by_role("link", name="To the floor").click()
    fits(page)
    for rack in ("Rack 1", "Rack 2", "Rack 3"):
        page.locator(".where summary").click()
        page.get_by_label(rack, exact=True).click()
        expect(page.get_by_label(rack, exact=True)).to_have_attribute("aria-current", "true")
        if page.get_by_role("link", name=re.compile("^Zora")).count():
            break
    page.get_by_role("link", name=re.compile("^Zora")).click()
    done = page.get_by_role("button", name=re.compile("^Done.*4$"))
    assert done.bounding_box()["y"] + done.bounding_box()["height"] <= page.viewport_size["height"]  # type: ignore[index]
    assert done.bounding_box()["height"] >= 56  # type: ignore[index]
    lifter = page.locator(".lifter.is-up b").inner_text()
    done.click()
    expect(page.locator(".lifter.is-up b")).not_to_have_text(lifter)  # the next lifter is up
    page.get_by_role("link", name=re.compile("^Zora")).click()
    expect(page.locator(".upnext").get_by_text("Zora")).to_be_visible()
    expect(page.locator(".timer")).to_have_text(re.compile(r"^2:[0-5]\d$"))
    page.locator("summary", has_text="Different").click()
    form = page.locator("details[open] form.set-form")
    form.get_by_label("RIR").fill("1")
    form.locator("[data-chips=short_reps]").get_by_role("button", name="1", exact=True).click()
    form.get_by_role("button", name="Log this set").click()
    expect(page.locator("details[open] form.set-form")).to_have_count(0)  # kept, and the next lifter is up
    page.get_by_role("link", name=re.compile("^Zora")).click()
    expect(page.locator(".last-truth")).to_contain_text("3 of 4 to depth")
    page.get_by_role("button", name=re.compile("^Done.*4$")).click()

    # 8: the next number, with evidence; decided differently, with a reason
    expect(page.locator("#floor .message")).to_contain_text("Zora, back squat")
    page.get_by_role("link", name=re.compile("^Zora")).click()
    page.locator(".run").get_by_role("link", name=re.compile("Back squat")).click()
    decision = page.locator(".decision")
    expect(decision).to_contain_text("one rep (3 of 4 to depth in set 2) missing")
    decision.get_by_text("Decide differently").click()
    expect(decision.get_by_text("after the deload week").nth(1)).to_be_visible()  # where each answer leads
    decision.get_by_label(re.compile("Down: lower")).check()
    decision.get_by_label("Why").fill("first week with us")
    decision.get_by_role("button", name="Decide", exact=True).click()
    menu(page, "Block")
    cells = page.get_by_role("row", name=re.compile("Zora Blyth")).locator("a[data-cell]")
    assert cells.count() >= 6  # this week on
    menu(page, "Review")
    expect(page.get_by_text("first week with us")).to_be_visible()

    # 9: the athlete's page: trend, planned against done, a milestone with its status
    menu(page, "Squad")
    page.get_by_role("link", name="Zora Blyth").click()
    trend = page.get_by_role("img", name="Back squat: estimated maximum by week, kg")
    expect(page.get_by_text("one point is no line")).to_be_visible()  # a week old
    expect(trend).to_have_count(0)
    expect(page.get_by_role("img", name=re.compile("Planned against done"))).to_be_visible()
    page.get_by_label("Amount").fill("1.5")
    page.get_by_label("By", exact=True).fill("2027-02-06")
    page.get_by_role("button", name="Set milestone").click()
    expect(page.get_by_text("Back squat 1.5 × body mass").first).to_be_visible()
    expect(trend).to_be_visible()  # with the line it is to reach
    expect(page.locator(".status")).to_contain_text("No data: 1 of 6 weeks with a record")
    page.goto(page.url.replace(page.url.split("/athletes/")[1], "1"))
    expect(page.locator(".status")).to_have_text(re.compile("Done|On course|Behind"))
    fits(page)
