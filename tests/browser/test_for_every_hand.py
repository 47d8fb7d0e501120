"""The floor for chalky hands, for keys alone and for who hears it: 360 wide, tall targets, a name on everything."""

import re

from flask import Flask
from playwright.sync_api import Page, expect
from sqlalchemy import select

from backsquat.storage.models import SetEntry
from tests.demo_club import athlete_id, reading

TARGETS = """() => [...document.querySelectorAll('a, button, summary, input:not([type=hidden]), select')]
  .filter((one) => one.checkVisibility() && !one.matches('.skip, .visually-hidden, .rail *, .rail-strip *, .brand, .person *'))
  .map((one) => {
    const shape = (['checkbox', 'radio'].includes(one.type) ? one.closest('label') : one).getBoundingClientRect();
    return [Math.round(shape.height), (one.textContent || one.name || '').trim().slice(0, 30)];
  })"""
NAMELESS = """() => [...document.querySelectorAll('#floor a, #floor button, #floor summary, #floor input:not([type=hidden]), #floor select')]
  .filter((one) => one.checkVisibility())
  .filter((one) => !(one.getAttribute('aria-label') || one.textContent.trim() || one.labels?.[0]?.textContent.trim()))
  .map((one) => one.outerHTML.slice(0, 80))"""
TALL = 56  # pixels; who is signed in and the mark of the club stand in a lower line on a phone


def small(page: Page) -> list[object]:
    return [one for one in page.evaluate(TARGETS) if one[0] < TALL]


def looked_at(page: Page) -> None:
    assert page.evaluate("document.documentElement.scrollWidth") <= 360
    assert page.evaluate(NAMELESS) == [] and small(page) == []
    assert page.locator(".tap").bounding_box()["height"] >= 56  # type: ignore[index]
    for summary in ("Different", "Pain"):
        page.locator("summary:visible", has_text=re.compile(f"^{summary}$")).click()
        assert page.evaluate("document.documentElement.scrollWidth") <= 360
        assert page.evaluate(NAMELESS) == [] and small(page) == []
        page.locator("summary:visible", has_text=re.compile(f"^{summary}$")).click()


def test_at_360_wide_with_and_without_a_line_everything_is_tall_and_named(
    watched: Page, site: tuple[str, Flask]
) -> None:
    page, (address, app) = watched, site
    page.set_viewport_size({"width": 360, "height": 740})
    ines = athlete_id(app, "Ines Okafor")
    page.goto(f"{address}/floor/?athlete={ines}")
    looked_at(page)
    page.locator("details.where > summary").click()
    assert small(page) == []
    page.locator("details.where > summary").click()
    for _ in range(100):
        if page.evaluate("Boolean(Outbox.state.pack)"):
            break
        page.wait_for_timeout(100)
    page.evaluate(f"Pocket.show({{athlete: {ines}}})")
    looked_at(page)


def test_a_whole_session_by_keys_alone(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    ines = athlete_id(app, "Ines Okafor")
    page.goto(f"{address}/floor/?athlete={ines}")
    for n in range(40):
        if page.get_by_text("through the whole session").count():
            break
        tap = page.locator(".tap")
        tap.focus() if not n else expect(tap).to_be_focused()  # afterwards it stays where the next set is
        find = page.locator(".find-load input")
        if find.count():
            find.focus()
            page.keyboard.type("10")
            page.keyboard.press("Enter")
        else:
            page.keyboard.press("Enter")
        expect(page.locator("#floor.htmx-request, .htmx-request")).to_have_count(0)
        page.wait_for_timeout(150)
        decision = page.locator(".decision .btn-primary")
        if decision.count():  # a proposal of the floor: taken with a key too
            decision.first.focus()
            page.keyboard.press("Enter")
            page.wait_for_load_state()
        page.goto(f"{address}/floor/?athlete={ines}")
        page.locator(".tap").focus() if page.locator(".tap").count() else None
    with reading(app) as db:
        mine = select(SetEntry).where(SetEntry.athlete_id == ines, SetEntry.done_on == "2026-11-23", SetEntry.standing)
        assert len(db.scalars(mine.where(SetEntry.cell_id.is_not(None))).all()) >= 12
    expect(page.locator(".run-row.is-done")).to_have_count(7)
    assert re.search("through the whole session", page.locator("#floor").inner_text())
