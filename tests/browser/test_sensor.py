"""A sensor on the bar in a real browser: a set ended by its drop, the day's maximum, the sensor unplugged in the middle."""

import re
from collections.abc import Iterator

import pytest
from flask import Flask
from playwright.sync_api import Page, expect
from sqlalchemy import select

from backsquat.devices.listener import Sensor, until_there
from backsquat.devices.stand_in import SensorStandIn
from backsquat.storage.models import Exercise, ScreenResult
from tests.demo_club import athlete_id, entries, live_cell, reading


@pytest.fixture
def bar(app: Flask) -> Iterator[SensorStandIn]:
    made = SensorStandIn("bar", pace=0.25)
    sensor = Sensor("127.0.0.1", made.port)
    app.extensions["sensors"]["bar"] = sensor
    assert until_there(sensor)
    yield made
    app.extensions["sensors"].clear()
    sensor.close()
    made.unplug()


def at(page: Page, address: str, athlete: int) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/floor/?athlete={athlete}")


def test_ramp_and_sets_give_the_days_maximum_and_the_drop_ends_a_set(
    bar: SensorStandIn, watched: Page, site: tuple[str, Flask]
) -> None:
    page, (address, app) = watched, site
    cell = live_cell(app, "Marit Holm", 2)
    with app.extensions["database"].writing() as db:  # as speed work: a set ends by its drop
        exercise = db.get_one(Exercise, cell.exercise_id)
        exercise.progression, exercise.parameters = "speed", {"drop_share": 0.1}
    at(page, address, cell.athlete_id)
    for n in range(3):
        page.get_by_role("button", name="Watch the speed").click()
        expect(page.locator(".speed-bars span")).not_to_have_count(0)
        page.get_by_role("button", name="Stop watching").click()
        page.get_by_role("button", name=re.compile("^Ramp")).first.click()
        expect(page.locator(".ramp-done")).to_have_count(n + 1)
    expect(page.locator(".speed-words")).to_contain_text(re.compile(r"by speed today about \d+ kg, 80 % range \d+–\d+"))
    page.get_by_text("How that is read off").click()
    expect(page.get_by_text("Line of speed on load", exact=True)).to_be_visible()
    page.get_by_role("button", name=re.compile("^Ramp")).first.click()
    expect(page.locator(".ramp-done")).to_have_count(4)
    page.get_by_role("button", name="Watch the speed").click()
    expect(page.locator(".speed-words")).to_contain_text("the set is over")
    done = page.locator(".tap").inner_text()
    page.locator(".tap").click()
    expect(page.locator(".main-list")).not_to_have_attribute("aria-label", "Marit Holm")
    (entry,) = entries(app, cell.id)
    speeds = entry.notes["speeds_ms"]
    assert len(speeds) == entry.reps and f"× {entry.reps}" in done
    assert speeds[-1] <= 0.9 * max(speeds) + 0.006 and all(one > 0.9 * max(speeds) - 0.006 for one in speeds[:-1])


def test_unplugged_in_the_middle_the_reps_so_far_are_kept_and_the_set_is_logged(
    bar: SensorStandIn, watched: Page, site: tuple[str, Flask]
) -> None:
    page, (address, app) = watched, site
    cell = live_cell(app, "Marit Holm", 2)
    at(page, address, cell.athlete_id)
    page.get_by_role("button", name="Watch the set, not the ramp").click()  # nobody ticked the ramp today
    expect(page.locator(".speed-bars span")).not_to_have_count(0)
    bar.unplug()
    expect(page.locator(".speed-words")).to_contain_text("unplugged")
    seen = page.locator(".speed-bars span").count()
    assert seen
    page.locator("summary", has_text="Different").click()
    inside = page.locator("form.set-form:visible")
    inside.get_by_label("Reps", exact=True).fill(str(cell.reps))
    inside.get_by_role("button", name="Log this set").click()
    expect(page.locator("form.set-form:visible")).to_have_count(0)
    (entry,) = entries(app, cell.id)
    assert entry.reps == cell.reps and len(entry.notes["speeds_ms"]) >= seen
    page.goto(f"{address}/floor/?athlete={cell.athlete_id}&lift={cell.exercise_id}")
    page.get_by_role("button", name="Watch the speed").click()
    expect(page.locator(".speed-words")).to_contain_text("not plugged in")


def test_the_best_of_three_jumps_fills_the_screen(watched: Page, site: tuple[str, Flask]) -> None:
    page, (address, app) = watched, site
    made = SensorStandIn("mat", pace=0.2)
    sensor = Sensor("127.0.0.1", made.port)
    app.extensions["sensors"]["mat"] = sensor
    assert until_there(sensor)
    marit = athlete_id(app, "Marit Holm")
    page.goto(f"{address}/screen/athlete/{marit}")
    field = page.locator("input[name='v:jump:']")
    page.get_by_role("button", name="From the mat").click()
    expect(field.locator("xpath=..").locator(".save-state")).to_have_text("kept")
    with reading(app) as db:
        newest = db.scalars(
            select(ScreenResult).where(ScreenResult.athlete_id == marit, ScreenResult.screen == "jump")
        ).all()[-1]
    assert 25 < newest.value < 35 and field.input_value() == f"{newest.value:g}"
    app.extensions["sensors"].clear()
    made.unplug()
    sensor.close()
