"""Every field of a set, logged with a line and without one, becomes the same row."""

from typing import Any

from playwright.sync_api import Page, expect
from sqlalchemy import inspect, select

from backsquat.storage.models import SetEntry
from tests.browser.station import Station, floor, until
from tests.demo_club import reading

OF_ITS_OWN = {
    "id",
    "set_number",
    "at",
    "client_id",
    "happened_at",
    "device_at",
    "flags",
}  # of the row, not of what was done
PAGE_ONLY = {"csrf_token", "client_id", "session", "rack", "lift", "athlete", "seen", "speeds"}
FILL = """
(form) => {
  const said = { reserve_reps: "1", short_reps: "1", soreness: "3", note: "seen twice", support_cm: "40", step_cm: "30", counterweight_kg: "4", hold_s: "21", left_reps: "4", right_reps: "5", reps: "5" };
  form.querySelectorAll("details").forEach((one) => { one.open = true; });
  for (const one of form.elements) {
    if (one.type === "checkbox") one.checked = true;
    else if (one.tagName === "SELECT") one.selectedIndex = one.options.length - 1;
    else if (one.type !== "hidden" && said[one.name]) one.value = said[one.name];
    else if (/^reach_\\d+_(left|right)$/.test(one.name)) one.value = one.name.endsWith("left") ? "61" : "64";
  }
  return [...new Set([...form.elements].map((one) => one.name).filter(Boolean))];
}"""


def log_everything(page: Page, load: str = "") -> tuple[set[str], str]:
    """Fill in all there is of "Different" and log it: the names that were there, and the load that was asked."""
    page.locator("summary", has_text="Different").first.click()
    form = page.locator("form.set-form:visible").first
    names = set(form.evaluate(FILL))
    load = load or form.locator("[name=load]").input_value() or "0"
    form.locator("[name=load]").fill(load)  # the first set may have found another
    form.get_by_role("button", name="Log this set").click()
    return names, load


def row(station: Station, cell: int) -> dict[str, Any]:
    with reading(station.app) as db:
        rows = select(SetEntry).where(SetEntry.cell_id == cell, SetEntry.standing).order_by(SetEntry.id.desc())
        entry = db.scalars(rows).first()
        assert entry is not None
        return {one.key: getattr(entry, one.key) for one in inspect(SetEntry).column_attrs if one.key not in OF_ITS_OWN}


def arrived(page: Page, station: Station, cell: int, many: int) -> None:
    """Until so many sets of it stand on the server."""
    for _ in range(100):
        with reading(station.app) as db:
            if len(db.scalars(select(SetEntry.id).where(SetEntry.cell_id == cell)).all()) >= many:
                return
        page.wait_for_timeout(100)
    raise AssertionError(page.locator("#floor").inner_text()[:600])


def test_every_field_is_the_same_row_with_a_line_and_without(page: Page, station: Station) -> None:
    floor(page, station, "Amari")
    turns = page.evaluate(
        """() => { const held = Outbox.state.pack.sessions[0], seen = new Set(), found = [];
          for (const [who, mine] of Object.entries(held.athletes)) for (const one of mine.work)
            if (!one.over && one.sets > 1 && !seen.has(one.form)) { seen.add(one.form); found.push([Number(who), one.exercise, one.cell]); }
          return found; }"""
    )
    assert len(turns) >= 6
    names: set[str] = set()
    for who, exercise, cell in turns:
        here = f"{station.address}/floor/?athlete={who}&lift={exercise}"
        page.goto(here)
        there, load = log_everything(page)
        arrived(page, station, cell, 1)
        with_line = row(station, cell)
        page.goto(here)
        until(page, "Boolean(Outbox.state.pack)")
        page.evaluate("Floor.takeAlong(0)")
        page.context.set_offline(True)
        page.evaluate(f"Pocket.show({{athlete: {who}, lift: {exercise}, after: null}})")
        assert log_everything(page, load)[0] >= there - PAGE_ONLY
        names |= there
        until(page, "Outbox.state.waiting.length === 1")
        page.context.set_offline(False)
        expect(page.locator("#line")).to_be_hidden()
        arrived(page, station, cell, 2)
        assert row(station, cell) == with_line, (who, exercise)
    assert names >= {
        "left_supported",
        "supported",
        "soreness",
        "note",
        "felt",
        "fault",
        "support_cm",
        "band",
        "hold_s",
        "short_reps",
    }
