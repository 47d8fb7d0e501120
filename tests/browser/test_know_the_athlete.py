"""A newcomer from the first screen to the readiness check, screens by keyboard alone, pain and clearance, in real Chromium."""

import datetime as dt
from decimal import Decimal

import pytest
from flask import Flask
from playwright.sync_api import Page, expect
from sqlalchemy import select

from backsquat.core.loads.mass import Unit
from backsquat.library.shelf import movements
from backsquat.storage.models import Athlete, LevelMove, ScreenResult
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.record.outside import log_level_work
from backsquat.work.record.record import SetFacts
from tests.browser.station import hurts
from tests.browser.test_the_whole_line import fits
from tests.demo_club import athlete_id, reading


@pytest.fixture
def browser_context_args(browser_context_args):  # type: ignore[no-untyped-def]
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}}


def results(app: Flask, screen: str) -> dict[tuple[int, str], float | None]:
    with reading(app) as db:
        rows = db.scalars(
            select(ScreenResult).where(
                ScreenResult.screen == screen, ScreenResult.done_on == dt.date(2026, 11, 23), ~ScreenResult.replaced
            )
        )
        return {(row.athlete_id, row.side): row.value for row in rows}


def test_thirty_athletes_are_screened_by_keyboard_alone(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    with app.extensions["database"].writing() as db:
        db.add_all(
            Athlete(squad_id=1, name=f"Guest {n:02}", born_on=dt.date(2002, 1, 1), by_id=1, at=dt.datetime(2026, 11, 1))
            for n in range(10)
        )
    page.goto(f"{address}/screen/squad/knee_to_wall")
    fields = page.locator("[data-autosave]")
    expect(fields).to_have_count(60)
    fields.first.focus()
    for n in range(60):
        page.keyboard.type(f"{8 + n / 10:.1f}")
        page.keyboard.press("Enter")
    expect(page.locator(".save-state.is-kept")).to_have_count(60)
    kept = results(app, "knee_to_wall")
    assert len(kept) == 60 and set(kept.values()) == {round(8 + n / 10, 1) for n in range(60)}
    # yes and no by their first letter; up and down between athletes
    page.goto(f"{address}/screen/squad/brace")
    page.locator("[data-autosave]").first.focus()
    for key in ("y", "Enter", "n", "Enter", "y", "Enter"):
        page.keyboard.press(key)
    expect(page.locator(".save-state.is-kept")).to_have_count(3)
    assert sorted(results(app, "brace").values()) == [0, 1, 1]
    page.goto(f"{address}/screen/squad/jump")
    page.locator("[data-autosave]").nth(1).focus()
    page.keyboard.press("ArrowDown")
    assert (
        page.evaluate(
            "() => document.activeElement.name + [...document.querySelectorAll('[data-autosave]')].indexOf(document.activeElement)"
        )
        == "v:jump:2"
    )


def test_nothing_typed_is_lost_without_a_line_or_with_a_closed_tab(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    alma = athlete_id(app, "Alma Brekke")
    page.goto(f"{address}/screen/athlete/{alma}")
    page.evaluate(
        "() => { window.realFetch = window.fetch; window.fetch = () => Promise.reject(new Error('no line')); }"
    )
    page.get_by_label("Countermovement jump").fill("31,5")
    page.get_by_label("Countermovement jump").press("Enter")
    expect(page.get_by_text("waits for the line")).to_be_visible()
    page.get_by_label("Bridge hold").type("6")  # the tab closes in the middle of a value
    assert results(app, "jump") == {}
    page.goto(f"{address}/screen/athlete/{alma}")
    expect(page.get_by_label("Countermovement jump")).to_have_value("31,5")
    expect(page.get_by_label("Bridge hold")).to_have_value("6")
    expect(page.locator(".save-state.is-kept")).to_have_count(2)
    assert results(app, "jump") == {(alma, ""): 31.5}
    page.get_by_label("Bridge hold").fill("long")
    page.get_by_label("Bridge hold").press("Enter")
    expect(page.get_by_text("Write a number, for example 82.5.")).to_be_visible()
    expect(page.get_by_label("Bridge hold")).to_have_value("long")


def test_a_newcomer_is_screened_refused_placed_and_passes_the_readiness_check(
    watched: Page, site: tuple[str, Flask]
) -> None:
    page, (address, app) = watched, site
    page.get_by_role("link", name="Add an athlete").click()
    page.get_by_label("Name").fill("Nell Quist")
    page.get_by_label("Born on").fill("2004-02-03")
    page.get_by_label("Body mass").fill("60")
    page.get_by_role("button", name="Add").click()
    nell = athlete_id(app, "Nell Quist")

    # not offered a bar, with the reasons
    page.goto(f"{address}/athletes/{nell}/test")
    expect(page.get_by_text("Not ready for the bar yet")).to_be_visible()
    page.goto(f"{address}/athletes/{nell}")
    expect(page.get_by_text("Not ready for the bar yet")).to_be_visible()

    # screened: findings come while typing
    page.goto(f"{address}/screen/athlete/{nell}")
    page.get_by_label("Brace").select_option("yes")
    page.get_by_label("Squat shape lying").select_option("yes")
    page.get_by_label("Squat shape standing").select_option("no")
    expect(page.get_by_text("Pattern, not range")).to_be_visible()
    page.get_by_label("Knee to wall, left").fill("7")
    page.get_by_label("Knee to wall, left").press("Enter")
    expect(page.get_by_text("Short ankle: left 7 cm, under 9 cm")).to_be_visible()
    page.get_by_role("button", name="Place Nell on these levels").click()
    expect(page.locator("#ladder-squat_to_bar")).to_contain_text("Press-down squat")
    expect(page.get_by_role("heading", name="The road to the bar")).to_be_visible()
    fits(page)

    # four weeks of the road, logged as they come; then the readiness check's lines
    with app.extensions["database"].writing() as db:
        for n in range(8):
            day = dt.date(2026, 10, 26) + dt.timedelta(weeks=n // 2, days=6 * (n % 2))
            sets = [SetFacts(f"road-{n}-{s}", Decimal(0), Unit.KG, 8, 8, 2, day) for s in range(3)]
            log_level_work(
                WorkContext(db, Actor(1, 1, dt.datetime.combine(day, dt.time(18)))), nell, "press_down_squat", sets
            )
        for move in db.scalars(select(LevelMove).where(LevelMove.athlete_id == nell)):
            move.at = dt.datetime(2026, 10, 20)  # as if she had been placed before those weeks
    page.goto(f"{address}/ladders/{nell}")
    page.locator("#ladder-squat_to_bar").get_by_role("button", name="Move up").click()
    expect(page.locator("#ladder-squat_to_bar")).to_contain_text("Goblet squat to a box")
    page.goto(f"{address}/screen/athlete/{nell}")
    for label, value in (
        ("Squat shape standing", "yes"),
        ("Knees follow the toes", "yes"),
        ("Pelvis at the bottom", "1"),
        ("Drift to one side", "0"),
    ):
        page.get_by_label(label).select_option(value)
    for label, value in (
        ("Held deep squat", "22"),
        ("Counterbalanced squat, 3 × 10", "15"),
        ("Wedge under the heels", "10"),
    ):
        page.get_by_label(label).fill(value)
        page.get_by_label(label).press("Enter")
    expect(page.locator("#findings h2 .status")).to_have_text("ready")
    page.goto(f"{address}/athletes/{nell}/test")
    page.locator("#load").fill("40")
    page.get_by_label("Reps", exact=True).fill("5")
    page.get_by_label("RIR").fill("2")
    page.get_by_role("button", name="Record").click()
    expect(page.get_by_text("kg estimated maximum")).to_be_visible()
    with reading(app) as db:
        moves = db.scalars(
            select(LevelMove.way).where(LevelMove.athlete_id == nell, LevelMove.ladder == "squat_to_bar")
        )
        assert list(moves) == ["placed", "harder"]


def test_electric_pain_locks_until_a_clearance_and_the_return_is_eased(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    marit = athlete_id(app, "Marit Holm")
    page.goto(f"{address}/floor/?athlete={marit}")
    hurts(page, "lower back", "electric")
    expect(page.get_by_text("See a physiotherapist or doctor")).to_be_visible()
    page.goto(f"{address}/floor/?lift=7")
    expect(page.get_by_text("stopped: not this until it is cleared").first).to_be_visible()
    page.goto(f"{address}/movements/choose?athlete={marit}&family=hinge")
    expect(page.get_by_text("locked by pain").first).to_be_visible()

    # the physio, two minutes
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="M. Ferro").click()
    page.get_by_role("navigation", name="Work").get_by_role("link", name="Health").click()
    page.locator(".stop-note", has_text="Marit Holm").get_by_role("link", name="Record a clearance").click()
    page.get_by_label("What is allowed").fill("all ranges, light")
    page.get_by_label("At most, kg").fill("60")
    page.get_by_role("button", name="Record the clearance").click()
    expect(page.get_by_text("one eased week follows")).to_be_visible()
    fits(page)

    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="R. Amari").click()
    page.get_by_role("navigation", name="Work").get_by_role("link", name="Block").click()
    page.get_by_role("link", name="Romanian deadlift").first.click()
    row = page.get_by_role("row", name="Marit Holm")
    expect(row).to_contain_text("60")
    page.get_by_role("button", name="Publish").click()
    page.goto(f"{address}/floor/?lift=7&athlete={marit}")
    expect(page.get_by_text("eased return")).to_be_visible()


def test_the_library_by_search_map_and_keyboard(watched: Page, site: tuple[str, Flask]) -> None:
    page = watched
    page.get_by_role("navigation", name="Work").get_by_role("link", name="Movements").click()
    fits(page)
    expect(page.locator(".map-dot")).to_have_count(len(movements()))
    page.get_by_label("Find a movement by any name").fill("cossack")
    expect(page.locator(".map-dot")).to_have_count(2)
    page.locator(".map-dot[aria-label='Cossack squat']").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Cossack squat", exact=False).first).to_be_visible()
    page.get_by_role("link", name="Copy").click()
    page.get_by_label("Name", exact=True).fill("Cossack squat, slow")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("this squad's own words")).to_be_visible()
    fits(page)


def test_every_new_page_fits_a_phone(watched: Page, site: tuple[str, Flask]) -> None:
    watched.set_viewport_size({"width": 390, "height": 844})
    for path in (
        "/movements/",
        "/movements/back_squat",
        "/screen/",
        "/screen/athlete/17",
        "/ladders/17",
        "/health-list/13",
        "/floor/?athlete=17",
        "/movements/choose?athlete=17",
    ):
        watched.goto(site[0] + path)
        fits(watched)
