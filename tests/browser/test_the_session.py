"""The session by mouse, touch and keys; a rack of lifters through their whole session on a phone."""

import re

from flask import Flask
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import func, select

from backsquat.storage.models import BlockSession, Change, Exercise, SetEntry
from tests.demo_club import reading

MONDAY, WEDNESDAY = 5, 6
MOVED_ON = """(before) => {
  const up = document.querySelector(".lifter.is-up b"), name = document.querySelector(".card-name");
  return !name || up.innerText + name.innerText !== before;
}"""


def fits(page: Page) -> None:
    """Nothing scrolls sideways."""
    assert page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth")


def rows(page: Page) -> list[str]:
    """The work in order; what is superset or goes round is marked."""
    found = []
    for row in page.locator(".strip-row[data-key]").all():
        kinds = row.get_attribute("class") or ""
        mark = "+" if "is-superset" in kinds else "o" if "is-circuit" in kinds else "s" if "is-spare" in kinds else ""
        found.append(mark + row.locator(".strip-name").inner_text().split(",")[0])
    return found


def test_the_session_is_arranged_by_keys_mouse_and_buttons(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    page.goto(f"{address}/session/?session={WEDNESDAY}")
    hinge, curl, row, calf, free = rows(page)
    assert (hinge, free) == ("Romanian deadlift", "sFree exploration of positions")
    expect(page.locator(".card-piece.is-over")).to_contain_text("Over by")
    page.get_by_role("button", name="Take it").first.click()
    expect(page.locator(".card-piece").first).to_contain_text("Fits")
    taken = rows(page)
    assert taken[0] == "+" + hinge and taken != [hinge, curl, row, calf, free]
    page.keyboard.press("u")
    expect(page.locator(".card-piece.is-over")).to_be_visible()

    # keys: the focus stays on what was moved
    page.get_by_role("button", name=f"Move {row}").focus()
    page.keyboard.press("Alt+ArrowUp")
    expect(page.locator(".strip-name").nth(2)).to_contain_text(row)  # the warm-up is the first of the names
    expect(page.get_by_role("button", name=f"Move {row}")).to_be_focused()
    page.keyboard.press("s")  # faster than the answers come
    page.keyboard.press("o")
    expect(page.locator(".strip-row.is-circuit")).to_have_count(2)
    page.keyboard.press("x")
    expect(page.locator(".strip-row.is-circuit")).to_have_count(0)
    expect(page.get_by_role("button", name=f"Move {row}")).to_be_focused()
    page.keyboard.press("m")
    expect(page.locator(".strip-row.is-spare")).to_have_count(2)

    # the mouse: taken by the handle and put before the hinge
    handle = page.get_by_role("button", name=f"Move {calf}").bounding_box()
    there = page.locator(".strip-row[data-key]").first.bounding_box()
    assert handle and there
    page.mouse.move(handle["x"] + 4, handle["y"] + 6)
    page.mouse.down()
    page.mouse.move(there["x"] + 200, there["y"] + 4, steps=4)
    page.mouse.up()
    expect(page.locator(".strip-name").nth(1)).to_contain_text(calf)

    # a rest by its button, the minutes by their working
    first = page.locator(".strip-row[data-key]").first
    first.locator(".moves summary").click()
    first.get_by_label("Rest, s").fill("30")
    first.get_by_role("button", name="Set", exact=True).click()
    expect(page.locator(".strip-row[data-key]").first).to_contain_text("rest 0:30")
    page.locator(".strip-min summary").first.click()
    expect(page.locator(".strip-why").first).to_contain_text("as set here")
    page.get_by_role("button", name=re.compile("Publish")).click()
    expect(page.get_by_text("the floor uses these numbers now")).to_be_visible()
    expect(page).to_have_url(re.compile("/session/"))
    fits(page)
    with reading(app) as db:
        exercises = db.scalars(select(Exercise).where(Exercise.session_id == WEDNESDAY)).all()
        assert (
            min(exercises, key=lambda exercise: (exercise.role == "spare", exercise.position)).movement == "calf_raise"
        )
    page.goto(f"{address}/floor/?session={WEDNESDAY}")
    expect(page.locator(".run-row").nth(1)).to_contain_text(calf)


def test_a_rack_goes_through_its_whole_session_on_a_phone(browser: Browser, site: tuple[str, Flask]) -> None:
    address, app = site
    with app.extensions["database"].writing() as db:  # three at home: four on each rack
        at_home = "('Tove Lindqvist', 'Kaja Brandt', 'Mirre Castellan', 'Ayla Demirel')"
        db.connection().exec_driver_sql(f"UPDATE athletes SET active = 0 WHERE name IN {at_home}")
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True)
    page = context.new_page()
    wrong: list[str] = []
    page.on("pageerror", lambda error: wrong.append(str(error)))
    page.goto(f"{address}/sign-in")
    page.get_by_role("button", name="T. Lund").click()
    page.goto(f"{address}/floor/?session={MONDAY}&rack=3")
    names = page.locator(".lifter b").all_inner_texts()
    assert len(names) == 4
    fits(page)

    def up() -> str:
        return page.locator(".lifter.is-up b").inner_text()

    def item() -> str:
        return page.locator(".card-name").inner_text()

    def gone_on(before: tuple[str, str]) -> None:
        expect(page.locator("#floor")).to_be_visible()
        page.wait_for_function(MOVED_ON, arg="".join(before))

    done = page.locator(".tap")
    felt = skipped = differed = found = False
    for _ in range(120):
        if not done.count():
            break
        before = (up(), item())
        box = done.bounding_box()
        assert box and box["y"] + box["height"] <= 844 and box["height"] >= 56, "within the thumb's reach"
        if "split squat" in before[1] and not differed:  # the right side did one less: three taps
            page.locator("summary", has_text="Different").click()
            page.locator("[data-chips=right_reps]").get_by_role("button", name="7", exact=True).click()
            expect(page.locator(".dock-log small:visible")).to_contain_text("7 right")
            page.get_by_role("button", name="Log this set").click()
            gone_on(before)
            differed = True
            continue
        elif "split squat" in before[1] and not felt:  # felt in the wrong place: said, and asked again next time
            page.locator("summary", has_text="Different").click()
            form = page.locator("details[open] form.set-form")
            form.get_by_text("Felt in, soreness, a band, a note").click()
            form.get_by_label("Felt in").select_option(index=2)
            form.get_by_role("button", name="Log this set").click()
            gone_on(before)
            felt = True
            continue
        elif "Calf" in before[1] and not skipped:  # no time: left out, it waits on the shelf
            page.locator("summary", has_text="Different").click()
            page.get_by_text("Skip it").first.click()
            page.get_by_role("button", name="no time").click()
            expect(page.get_by_text("It waits on the shelf")).to_be_visible()
            skipped = before[0]
            continue
        load = page.locator(".find-load input")
        if load.count():  # the first set finds the load
            load.fill("8")
            found = True
        done.click()
        gone_on(before)
        if done.count():
            expect(done).to_be_focused()
    assert felt and skipped and differed and found and wrong == []
    expect(page.locator(".lifter").first).to_contain_text("done")
    assert page.locator(".lifter.is-done").count() == len(names), "everybody, to the last item"
    with reading(app) as db:
        sets = db.scalars(select(SetEntry).where(SetEntry.cell_id.is_not(None), SetEntry.by_id == 2)).all()
        assert any(
            (one.left_reps, one.right_reps) == (8, 7) or (one.right_reps or 9) < (one.left_reps or 0) for one in sets
        )
        assert any(one.notes.get("felt") for one in sets)
    app.extensions["clock"].fixed_day = app.extensions["clock"].fixed_day.replace(day=25)
    try:
        page.goto(f"{address}/floor/?session={WEDNESDAY}")
        page.locator(".where summary").click()
        for rack in ("1", "2", "3", "off"):
            page.goto(f"{address}/floor/?session={WEDNESDAY}&rack={rack}")
            who = page.get_by_role("link", name=re.compile(f"^{skipped}"))
            if who.count():
                who.click()
                break
        expect(page.locator(".is-shelf")).to_contain_text("Calf raise")
        page.locator(".is-shelf summary").click()
        page.get_by_role("button", name="Done, log it").click()
        expect(page.locator(".is-shelf")).to_have_count(0)
    finally:
        app.extensions["clock"].fixed_day = app.extensions["clock"].fixed_day.replace(day=23)
    context.close()


def test_a_double_click_takes_one_proposal(watched: Page, site: tuple[str, Flask]) -> None:
    """The second click falls on the proposal that has moved up: it takes nothing."""
    page, (address, app) = watched, site
    with app.extensions["database"].writing() as db:
        db.get_one(BlockSession, WEDNESDAY).minutes = 25

    def arranged() -> int:
        with reading(app) as db:
            return db.scalar(select(func.count(Change.id)).where(Change.what == "session_arranged")) or 0

    kept = arranged()
    page.goto(f"{address}/session/?session={WEDNESDAY}")
    expect(page.locator(".proposals button")).not_to_have_count(1)
    box = page.locator(".proposals button").first.bounding_box()
    assert box
    place = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.evaluate("""() => document.addEventListener("htmx:afterSwap", () => {  // a slow double click: right on the answer
      document.querySelector(".proposals button").dispatchEvent(new MouseEvent("click", { detail: 1, bubbles: true, cancelable: true }));
    }, { once: true })""")
    with page.expect_response("**/move"):
        page.mouse.dblclick(*place)
    page.wait_for_timeout(1_200)  # what the second click might have sent would have come by now
    assert arranged() == kept + 1
    with page.expect_response("**/move"):
        page.locator(".proposals button").first.click()
    assert arranged() == kept + 2, "a click of its own takes the next"
