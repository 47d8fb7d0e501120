"""In a real browser without a line: nothing is lost, nothing is there twice, whatever happens between."""

import json
import re
from pathlib import Path

from flask import Flask
from playwright.sync_api import Browser, Page, Playwright, expect
from sqlalchemy import select

from backsquat.storage.models import Athlete, Cell, Exercise, SetEntry
from tests.browser.conftest import CHROMIUM
from tests.browser.station import TABLET, Station, done, floor, until, waits
from tests.demo_club import athlete_id, entries, live_cell, reading


def publish_five_less(app: Flask, name: str) -> int:
    """The coach gives somebody another number for today; the id of the cell that holds now."""
    cell = live_cell(app, name, 2)
    app.config["WTF_CSRF_ENABLED"] = False
    coach = app.test_client()
    coach.post("/demo-sign-in/1")
    coach.post(f"/block/cells/{cell.id}", data={"load": str(cell.load_amount - 5), "reason": "a cold"})
    with reading(app) as db:
        block = db.get_one(Exercise, cell.exercise_id).block_id
    coach.post(f"/block/{block}/publish", data={})
    app.config["WTF_CSRF_ENABLED"] = True
    return live_cell(app, name, 2).id


def logged(app: Flask) -> list[tuple[str, str, int]]:
    """Who, what and which set, in the order in which they are stored; of the demo's Monday only."""
    with reading(app) as db:
        rows = db.execute(
            select(Athlete.name, SetEntry.movement, SetEntry.set_number)
            .join(Athlete, SetEntry.athlete_id == Athlete.id)
            .join(Cell, SetEntry.cell_id == Cell.id)
            .where(SetEntry.standing, SetEntry.done_on == "2026-11-23", Cell.week == 2)
            .order_by(SetEntry.id)
        )
        return [(name, movement, number) for name, movement, number in rows]


def test_a_rack_goes_on_without_a_line_and_every_set_comes_once(page: Page, station: Station) -> None:
    app, who = station.app, []
    before = len(logged(app))
    floor(page, station)
    page.set_viewport_size(TABLET)
    who += [done(page), done(page)]  # with a line
    page.context.set_offline(True)
    who += [done(page) for _ in range(3)]
    waits(page, 3)
    page.reload()  # from what the browser kept
    waits(page, 3)
    expect(page.locator("#line")).to_contain_text("taken along at")
    who += [done(page), done(page)]
    waits(page, 5)
    browser_context = page.context
    page.close()  # the tab is closed; what was written down is on the disk
    page = browser_context.new_page()
    page.goto(f"{station.address}/floor/")
    waits(page, 5)
    replanned = publish_five_less(app, who[2])  # the plan changes under one of them
    station.stop()  # and meanwhile the server is killed and started again
    browser_context.set_offline(False)
    page.wait_for_timeout(1_500)
    waits(page, 5)
    station.start()
    expect(page.locator("#line")).to_be_hidden()
    expect(page.locator("#floor[data-pulse]")).to_be_visible()
    found = logged(app)[before:]
    assert [name for name, _, _ in found] == who
    assert len(found) == len(set(found)) == 7
    with reading(app) as db:
        flags = db.scalars(select(SetEntry.flags).where(SetEntry.cell_id == replanned)).all()
    assert ["replanned"] in flags
    assert page.evaluate("localStorage.waiting") == "0"


def test_the_whole_list_of_one_athlete_without_a_line(page: Page, station: Station) -> None:
    app, ines = station.app, athlete_id(station.app, "Ines Okafor")
    floor(page, station, where=f"?athlete={ines}")
    page.context.set_offline(True)
    page.get_by_role("button", name=re.compile("Ramp")).first.click()
    expect(page.locator("#line")).to_contain_text("1 entry waits")
    for n in range(40):
        page.evaluate(f"Pocket.show({{athlete: {ines}, after: null, lift: null}})")
        if page.get_by_text("through the whole session").count():
            break
        if n == 3:
            page.locator("summary", has_text="Different").click()
            page.locator("summary", has_text="Skip it").click()
            page.get_by_role("button", name="no time").click()
            expect(page.locator(".run")).to_contain_text("left out")
            continue
        if n == 4:
            page.locator("summary", has_text="Different").click()
            inside = page.locator("form.set-form:visible")
            inside.get_by_text("Felt in, soreness, a band, a note").click()
            inside.get_by_label("To be read next time").fill("knee in on the last one")
            inside.get_by_role("button", name="Log this set").click()
            expect(page.locator("form.set-form:visible")).to_have_count(0)
            continue
        known = page.evaluate("Outbox.state.waiting.length")
        find = page.locator(".find-load input")
        if find.count():  # nothing was ever lifted of it: it begins somewhere, and nothing is written down without
            find.fill("")
            page.locator(".tap").click()
            expect(page.locator(".done-form .problem")).to_contain_text("load that was taken")
            find.fill("10")
        page.locator(".tap").click()
        until(page, f"Outbox.state.waiting.length > {known}")
    assert n > 10
    page.context.set_offline(False)
    expect(page.locator("#line")).to_be_hidden()
    expect(page.locator("#floor[data-pulse]")).to_be_visible()
    with reading(app) as db:
        mine = select(SetEntry).where(SetEntry.athlete_id == ines, SetEntry.done_on == "2026-11-23", SetEntry.standing)
        sets = list(db.scalars(mine.where(SetEntry.cell_id.is_not(None)).order_by(SetEntry.id)))
    assert [one.flags for one in sets if one.flags] == []
    assert [one.notes.get("note") for one in sets if one.notes.get("note")] == ["knee in on the last one"]
    assert [entry.set_number for entry in sets[:3]] == [1, 2, 3]
    page.goto(f"{station.address}/floor/?athlete={ines}")
    expect(page.locator(".run")).to_contain_text("left out: no time")
    expect(page.locator(".main-list")).to_contain_text("through the whole session")


def test_two_tabs_and_a_lost_answer_are_one_set(page: Page, station: Station) -> None:
    app, marit = station.app, athlete_id(station.app, "Marit Holm")
    floor(page, station, where=f"?athlete={marit}")
    cell = live_cell(app, "Marit Holm", 2)
    page.route("**/floor/cells/*/sets", lambda route: (route.fetch(), route.abort()))  # it arrives, the answer does not
    other = page.context.new_page()
    other.goto(f"{station.address}/floor/?athlete={marit}")
    page.locator(".tap").click()
    other.evaluate("Floor.tryLine()")
    page.evaluate("Floor.tryLine()")
    expect(page.locator("#floor[data-pulse]")).to_be_visible()
    until(page, "localStorage.waiting === '0'")
    assert len(entries(app, cell.id)) == 1


def test_signed_out_and_somebody_else_signed_in_what_waits_stays_whose_it_is(page: Page, station: Station) -> None:
    app, marit = station.app, athlete_id(station.app, "Marit Holm")
    floor(page, station, "Lund", f"?athlete={marit}")
    page.context.set_offline(True)
    page.locator(".tap").click()
    waits(page, 1)
    page.route("**/floor/waiting", lambda route: route.abort())
    page.context.set_offline(False)
    page.goto(f"{station.address}/sign-in")
    page.goto(f"{station.address}/")
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name=re.compile("Amari")).click()
    page.unroute("**/floor/waiting")
    page.goto(f"{station.address}/floor/")
    expect(page.locator("#line")).to_contain_text("by somebody else here")
    cell = live_cell(app, "Marit Holm", 2)
    assert not entries(app, cell.id)
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save to a file").click()
    file = Path(saved.value.path())
    kept = json.loads(file.read_text("utf-8"))
    assert [thing["cell"] for thing in kept["things"]] == [cell.id]
    page.locator("details.where > summary").click()
    page.locator("#line-file").set_input_files({"name": "x.json", "mimeType": "application/json", "buffer": b"{}"})
    expect(page.locator("#line-file-said")).to_contain_text("no file of waiting sets")
    page.get_by_role("button", name="Send in my name").click()
    expect(page.locator("#line")).to_be_hidden()
    assert len(entries(app, cell.id)) == 1


def test_a_file_of_waiting_sets_is_sent_from_another_device_once(
    page: Page, station: Station, browser: Browser, tmp_path: Path
) -> None:
    app, cell = station.app, live_cell(station.app, "Marit Holm", 2)
    floor(page, station, where=f"?athlete={cell.athlete_id}")
    page.context.set_offline(True)
    page.locator(".tap").click()
    waits(page, 1)
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save to a file").click()
    saved.value.save_as(tmp_path / "waiting.json")
    other = floor(browser.new_page(), station, "Amari", f"?athlete={cell.athlete_id}")
    for _ in range(2):
        other.goto(f"{station.address}/floor/?athlete={cell.athlete_id}")
        other.locator("details.where > summary").click()
        other.locator("#line-file").set_input_files(tmp_path / "waiting.json")
        until(other, "localStorage.waiting === '0'")
    page.context.set_offline(False)  # and the device itself has a line again
    expect(page.locator("#line")).to_be_hidden()
    assert len(entries(app, cell.id)) == 1
    other.context.close()


def test_a_closed_browser_forgets_nothing(playwright: Playwright, station: Station, tmp_path: Path) -> None:
    app, cell = station.app, live_cell(station.app, "Marit Holm", 2)
    chromium = playwright.chromium
    opened = chromium.launch_persistent_context(tmp_path / "profile", **CHROMIUM)  # type: ignore[arg-type]
    page = floor(opened.new_page(), station, where=f"?athlete={cell.athlete_id}")
    opened.set_offline(True)
    page.locator(".tap").click()
    waits(page, 1)
    opened.close()
    assert not entries(app, cell.id)
    opened = chromium.launch_persistent_context(tmp_path / "profile", **CHROMIUM)  # type: ignore[arg-type]
    page = opened.new_page()
    page.goto(f"{station.address}/sign-in")
    page.get_by_role("button", name=re.compile("Lund")).first.click()
    until(page, "localStorage.waiting === '0'")  # whatever page is open sends it
    assert len(entries(app, cell.id)) == 1
    opened.close()


def test_a_newer_version_takes_over_without_touching_a_running_session(page: Page, station: Station) -> None:
    app, cell = station.app, live_cell(station.app, "Marit Holm", 2)
    floor(page, station, where=f"?athlete={cell.athlete_id}")
    page.context.set_offline(True)
    page.locator(".tap").click()
    waits(page, 1)
    before = page.evaluate("caches.keys().then((keys) => keys.join())")
    files = app.extensions["shell"]
    # Another set of files is another version; the one that is missing must be one no page needs without a line.
    app.extensions["shell"] = [name for name in files if name != "icon-192.png"]
    try:
        # Before the line is back, or what waits is sent at once.
        page.route("**/floor/waiting", lambda route: route.abort())
        page.context.set_offline(False)
        page.evaluate("navigator.serviceWorker.getRegistration().then((one) => one.update()).then(Boolean)")
        until(page, f"caches.keys().then((keys) => keys.length === 1 && keys.join() !== '{before}')")
        page.context.set_offline(True)
        page.unroute("**/floor/waiting")
        page.reload()  # the newer page reads what the older one wrote down
        waits(page, 1)
        page.evaluate(f"Pocket.show({{athlete: {cell.athlete_id}, after: null, lift: null}})")
        page.locator(".tap").click()
        waits(page, 2)
        page.context.set_offline(False)
        expect(page.locator("#line")).to_be_hidden()
    finally:
        app.extensions["shell"] = files
    assert [one.set_number for one in entries(app, cell.id)] == [1, 2]


def test_what_a_closed_tab_was_sending_is_sent_by_the_next_page(page: Page, station: Station) -> None:
    app, cell = station.app, live_cell(station.app, "Marit Holm", 2)
    floor(page, station, where=f"?athlete={cell.athlete_id}")
    page.route("**/floor/cells/*/sets", lambda route: None)  # under way for good
    page.locator(".tap").click()
    until(page, "Outbox.state.trying.length === 1")
    context = page.context
    page.close()
    page = context.new_page()
    page.goto(f"{station.address}/floor/?athlete={cell.athlete_id}")
    until(page, "localStorage.waiting === '0'")
    assert len(entries(app, cell.id)) == 1


def test_without_a_line_the_kept_floor_answers_for_the_floor_only(page: Page, station: Station) -> None:
    floor(page, station, who="Amari")
    page.context.set_offline(True)
    page.goto(f"{station.address}/review/")
    expect(page.get_by_role("heading", name="No line")).to_be_visible()
    assert page.locator("#floor").count() == 0
    page.get_by_role("link", name="To the floor").click()
    expect(page.locator(".tap")).to_be_visible()


def test_a_full_store_is_said_at_once_and_no_button_is_dead(page: Page, station: Station) -> None:
    floor(page, station)
    page.context.set_offline(True)
    until(page, "fetch('/floor/pulse').then(() => false, () => true)")
    page.evaluate("IDBObjectStore.prototype.add = () => { throw new DOMException('full', 'QuotaExceededError'); }; 0")
    who = done(page)
    expect(page.locator("#line")).to_contain_text("no room left to write sets down")
    expect(page.get_by_role("button", name="Save to a file")).to_be_visible()
    assert done(page) != who
    waits(page, 2)
    before = len(logged(station.app))
    page.context.set_offline(False)
    until(page, "Outbox.state.line && !Outbox.state.waiting.length")
    assert len(logged(station.app)) == before + 2, "what stood on the page alone was sent as well"


def test_what_was_left_is_said_without_a_line_and_comes_with_its_set(page: Page, station: Station) -> None:
    floor(page, station)
    page.context.set_offline(True)
    done(page)
    page.locator(".just-chips button").nth(4).click()
    expect(page.locator(".just")).to_have_count(0)
    page.context.set_offline(False)
    until(page, "Outbox.state.line && !Outbox.state.waiting.length")
    with reading(station.app) as db:
        newest = db.scalars(select(SetEntry).order_by(SetEntry.id.desc())).first()
    assert newest and (newest.reserve_reps, newest.reserve_at_least) == (4, True)
