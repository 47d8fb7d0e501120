"""The dock of the floor: one place for the thumb, the name on what is tapped, the second tap in haste logs nobody else."""

import re

import pytest
from flask import Flask
from playwright.sync_api import Page, expect
from sqlalchemy import select

from backsquat.storage.models import Athlete, SetEntry
from tests.demo_club import reading

SIZES = [(360, 740), (390, 844), (820, 1180), (1180, 820)]
SHIFTS = """() => { window.shifted = 0; new PerformanceObserver((list) => list.getEntries().forEach((one) => {
  if (one.sources.some((source) => source.node?.closest?.('.done-form, .tap-row, .just'))) window.shifted += one.value;
})).observe({ type: 'layout-shift', buffered: false }); }"""


def boxes(page: Page) -> list[tuple[int, ...]]:
    """Where Done, Different and Pain stand."""
    found = [page.locator(".done-form .tap"), *page.locator(".tap-row > details > summary").all()]
    return [tuple(round(one.bounding_box()[side]) for side in ("x", "y", "width", "height")) for one in found]  # type: ignore[index]


def last_sets(app: Flask) -> list[tuple[str, SetEntry]]:
    with reading(app) as db:
        rows = db.execute(select(Athlete.name, SetEntry).join(Athlete).order_by(SetEntry.id.desc()).limit(40))
        return [(name, entry) for name, entry in rows]


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_the_dock_never_moves_and_carries_the_name(
    watched: Page, site: tuple[str, Flask], width: int, height: int
) -> None:
    page, (address, _) = watched, site
    page.set_viewport_size({"width": width, "height": height})
    page.goto(f"{address}/floor/")
    before = boxes(page)
    page.evaluate(SHIFTS)
    for _ in range(3):
        name = page.locator(".card-who").inner_text()
        tap = page.locator(".done-form .tap")
        expect(tap).to_contain_text(f"Done: {name}")
        tap.click()
        expect(page.locator(".card-who")).not_to_have_text(name)
        expect(page.locator(".just")).to_contain_text(name)
        assert boxes(page) == before
    for x, y, wide, tall in before:
        assert y + tall <= height and x + wide <= width and tall >= 56 and wide >= 50
    assert page.evaluate("window.shifted") == 0, "nothing shifts under the thumb"
    assert page.evaluate("document.documentElement.scrollWidth") <= width


def test_a_second_tap_in_haste_logs_nobody_else(watched: Page, site: tuple[str, Flask]) -> None:
    """Twenty-five taps, each twice: every set under the name that was read on it, and none under the next one's."""
    page, (address, app) = watched, site
    page.add_init_script("delete window.DOCK_LOCK_MS")
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/floor/")
    read: list[str] = []
    tap = page.locator(".done-form .tap")
    while len(read) < 25 and tap.count():
        load = page.locator(".find-load input")
        if load.count():
            load.fill("8")
        expect(tap).not_to_have_attribute("aria-disabled", "true")
        read.append(tap.inner_text().split()[1])
        just = page.locator(".just").inner_text() if page.locator(".just").count() else ""
        place = tap.bounding_box()
        assert place, read
        page.mouse.click(place["x"] + 30, place["y"] + 30)
        page.mouse.click(place["x"] + 30, place["y"] + 30)  # at once
        page.wait_for_function("(was) => (document.querySelector('.just')?.innerText || '') !== was", arg=just)
        page.mouse.click(place["x"] + 30, place["y"] + 30)  # on what came in its place
    page.wait_for_timeout(300)
    logged = [name.split(" ")[0] for name, _ in last_sets(app)][: len(read)][::-1]
    assert logged == read, (logged, read)


ASKED = "/floor/?session={session}&athlete={athlete}"
CASES = [  # what happened, the taps for it, what the row says
    ("a rep missed", ["Different", "reps=-1", "Log"], lambda was, row: row.reps == was["reps"] - 1),
    ("no rep", ["Different", "reps=0", "Log"], lambda was, row: row.reps == 0),
    ("another load", ["Different", "load=-", "Log"], lambda was, row: float(row.load_amount) < was["load"]),
    ("what was in reserve", ["Different", "reserve_reps=1", "Log"], lambda was, row: row.reserve_reps == 1),
    ("a rep not to depth", ["Different", "short_reps=1", "Log"], lambda was, row: row.reps - row.reps_to_depth == 1),
    ("knees fell in", ["Different", "Knees fall in", "Log"], lambda was, row: row.faults == ["knees_in"]),
]


@pytest.mark.parametrize(("taps", "holds"), [case[1:] for case in CASES], ids=[case[0] for case in CASES])
def test_an_ordinary_case_is_three_taps_without_scrolling(
    watched: Page, site: tuple[str, Flask], taps: list[str], holds: object
) -> None:
    page, (address, app) = watched, site
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/floor/")
    name = page.locator(".card-who").inner_text()
    fields = {one: page.locator(f".done-form [name={one}]").input_value() for one in ("reps", "load")}
    was = {"reps": int(fields["reps"]), "load": float(fields["load"])}
    assert len(taps) <= 3
    for one in taps:
        field, _, value = one.partition("=")
        if value == "-":
            target = page.locator(f"[data-chips={field}]").get_by_role("button").nth(2)
        elif value:
            wanted = str(was["reps"] - 1) if value == "-1" else value
            target = page.locator(f"[data-chips={field}]").get_by_role("button", name=wanted, exact=True)
        elif one == "Log":
            target = page.get_by_role("button", name="Log this set")
        else:
            target = page.get_by_text(one, exact=True)
        place = target.bounding_box()
        assert place and place["y"] >= 0 and place["y"] + place["height"] <= 844, f"{one} is seen without scrolling"
        target.click()
    expect(page.locator(".just")).to_contain_text(name)
    who, row = last_sets(app)[0]
    assert who.startswith(name) and callable(holds) and holds(was, row)


def test_left_out_corrected_and_taken_back_in_three_taps(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/floor/")
    first = page.locator(".card-who").inner_text()
    page.locator(".done-form .tap").click()
    strip = page.locator(".just")
    expect(strip).to_contain_text(first)
    strip.get_by_role("link", name="Correct").click()  # the last one was a rep less
    reps = int(page.locator("[name=reps]:visible").input_value())
    page.locator("[data-chips=reps]").get_by_role("button", name=str(reps - 1), exact=True).click()
    page.get_by_role("button", name="Save the correction").click()
    expect(page.locator("form.set-form:visible")).to_have_count(0)
    who, row = last_sets(app)[0]
    assert who.startswith(first) and row.reps == reps - 1 and row.corrects_id
    page.goto(f"{address}/floor/")
    second = page.locator(".card-who").inner_text()
    page.locator(".done-form .tap").click()
    expect(page.locator(".just")).to_contain_text(second)
    page.locator(".just").get_by_role("button", name="Undo").click()
    expect(page.locator(".just")).to_have_count(0)
    who, row = last_sets(app)[0]
    assert who.startswith(second) and row.withdrawn
    page.goto(f"{address}/floor/")
    page.locator("summary", has_text="Different").click()
    page.locator("summary", has_text="Skip it").click()
    page.get_by_role("button", name="tired").click()
    page.wait_for_function("() => !document.querySelector('.tap-row details[open]')")
    assert last_sets(app)[0][1].id == row.id, "a skip is no set"


def test_what_was_logged_leaves_the_strip_after_eight_seconds_and_stays_in_the_list(
    watched: Page, site: tuple[str, Flask]
) -> None:
    page, (address, _) = watched, site
    page.goto(f"{address}/floor/")
    name = page.locator(".card-who").inner_text()
    page.locator(".done-form .tap").click()
    expect(page.locator(".just")).to_be_visible()
    stays = "(one) => one.getAnimations().map((each) => each.effect.getComputedTiming().delay)"
    assert page.locator(".just").evaluate(stays) == [8000]
    page.locator(".just").evaluate("(one) => one.getAnimations().forEach((each) => each.finish())")
    expect(page.locator(".just")).to_be_hidden()
    page.locator(".lifters").get_by_role("link", name=re.compile(name)).click()
    expect(page.locator(".log-list").get_by_role("button", name="Take back")).to_be_visible()


@pytest.mark.parametrize("sign_in", ["R. Amari", "T. Lund"])
def test_a_name_held_says_who_is_not_here(watched: Page, site: tuple[str, Flask], sign_in: str) -> None:
    """Coach and assistant alike: the turns go on without who is absent, and with her again once she is here."""
    page, (address, _) = watched, site
    page.context.clear_cookies()
    page.goto(f"{address}/sign-in")
    page.get_by_role("button", name=sign_in).click()
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/floor/")
    name = page.locator(".card-who").inner_text()
    lifter = page.locator(".lifters .lifter", has_text=name)
    shown = page.url

    def hold() -> None:
        place = lifter.bounding_box()
        assert place
        page.mouse.move(place["x"] + 20, place["y"] + 20)
        page.mouse.down()
        page.wait_for_timeout(600)  # a held finger is half a second
        page.mouse.up()
        expect(page.locator(".who-menu:popover-open")).to_be_visible()

    hold()
    assert page.url == shown, "held is not tapped"
    page.locator(".who-menu:popover-open").get_by_role("button", name="Absent").click()
    expect(lifter).to_contain_text("absent")
    expect(page.locator(".card-who")).not_to_have_text(name)
    lifter.focus()
    lifter.dispatch_event("contextmenu")  # the menu key
    page.locator(".who-menu:popover-open").get_by_role("button", name="Here").click()
    expect(lifter).not_to_contain_text("absent")
    lifter.click()  # a tap is a tap
    expect(page.locator(".card-who")).to_have_text(name)


def test_an_added_set_is_logged_from_the_dock(watched: Page, site: tuple[str, Flask]) -> None:
    """All sets are done and the next lifter's button stands in the dock: what is opened lies over it."""
    page, (address, app) = watched, site
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/floor/")
    name, who = page.locator(".card-who").inner_text(), page.locator("#floor").get_attribute("data-athlete")
    while (page.goto(f"{address}/floor/?athlete={who}")) and "Back squat" in page.locator(".card-name").inner_text():
        page.locator(".done-form .tap").click()
        expect(page.locator(".just")).to_contain_text(name)
    page.locator(".run").get_by_role("link", name=re.compile("Back squat")).click()
    newest = last_sets(app)[0][1].id
    page.get_by_text("One more set").click()
    log = page.get_by_role("button", name="Log this set")
    place = log.bounding_box()
    assert place and place["y"] > 700 and place["y"] + place["height"] <= 844
    log.click()
    expect(page.locator(".just")).to_contain_text(name)
    who_did, row = last_sets(app)[0]
    assert row.id > newest and who_did.startswith(name) and row.movement == "back_squat"


def test_a_reserve_said_by_mistake_is_taken_back(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    page.goto(f"{address}/floor/")
    page.locator("summary", has_text="Different").click()
    box = page.locator("[data-chips=reserve_reps]")
    box.get_by_role("button", name="3", exact=True).click()
    expect(box.locator("input")).to_have_value("3")
    box.get_by_role("button", name="not said").click()
    expect(box.locator("input")).to_have_value("")
    page.get_by_role("button", name="Log this set").click()
    expect(page.locator(".just")).to_be_visible()
    assert last_sets(app)[0][1].reserve_reps is None
