"""Technique by hand: sliders that follow, points by mouse, keys and touch, a frame of a clip, two dates slid over."""

import json
import random
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from flask import Flask
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import select

from backsquat.core.rules import Rules
from backsquat.core.technique.body import SegmentLength, body_of
from backsquat.core.technique.linkage import HeldPosture, Squat, squat_posture
from backsquat.core.technique.still import Spot
from backsquat.devices.drawn import Drawn, Shot, draw
from backsquat.devices.pose_stand_in import PoseFinder
from backsquat.storage.models import Still, StillMark
from tests.browser.station import until
from tests.demo_club import reading

LIV = 17


def figure(shot: Shot | None = None) -> Drawn:
    posture = squat_posture(
        body_of(170, 65), Squat(HeldPosture.NOTHING, wedge_mm=20, ankle_deg=36, depth_deg=14), Rules()
    )
    return draw(posture.points, shot or Shot())


def test_the_browsers_sums_are_pythons(watched: Page, site: tuple[str, Flask]) -> None:
    """Random set-ups and bodies, points and numbers, and how it stands: the same to a hair in both."""
    watched.goto(f"{site[0]}/technique/{LIV}")
    known = json.loads(watched.locator("#sliders").get_attribute("data-linkage") or "")
    chance, wanted, asked = random.Random(9), [], []
    for _ in range(300):
        squat = Squat(
            chance.choice(list(HeldPosture)),
            chance.uniform(0, 200),
            chance.uniform(0, 60),
            chance.uniform(5, 60),
            chance.uniform(-60, 40),
            chance.uniform(0, 1),
        )
        thigh, shank = chance.uniform(30, 55), chance.uniform(30, 55)
        own = {SegmentLength.THIGH: thigh, SegmentLength.SHANK: shank, SegmentLength.FOOT: known["lengths"]["foot"]}
        body = body_of(known["height"], known["mass"], own | {SegmentLength.TRUNK: known["lengths"]["trunk"]})
        wanted.append(squat_posture(body, squat, Rules()))
        asked.append({"thigh": thigh, "shank": shank, **vars(squat), "held": squat.held.value})
    found = watched.evaluate(
        """([known, asked]) => asked.map((one) => {
            known.lengths.thigh = one.thigh; known.lengths.shank = one.shank;
            return posture(known, one);
        })""",
        [known, asked],
    )
    for one, posture in zip(found, wanted, strict=True):
        assert one["standing"] == posture.standing.value
        assert one["numbers"] == {name: pytest.approx(getattr(posture, name), abs=1e-6) for name in one["numbers"]}
        for name, place in posture.points.items():
            assert one["points"][name] == pytest.approx(list(place), abs=1e-6), name


def test_the_figure_follows_the_slider_and_the_words_come_after(watched: Page, site: tuple[str, Flask]) -> None:
    watched.goto(f"{site[0]}/technique/{LIV}?wedge_mm=0")
    lean, said = watched.locator('[data-number="now lean_deg"]'), watched.locator("#said")
    before, hip = int(lean.inner_text()), watched.locator("svg.is-now .is-hip[data-ends]").first
    drawn = hip.get_attribute("x1")
    wedge = watched.get_by_label("Heel wedge")
    wedge.focus()
    for _ in range(6):
        wedge.press("ArrowRight")  # by keyboard: 30 mm
    assert int(lean.inner_text()) < before - 5 and hip.get_attribute("x1") != drawn
    expect(watched.get_by_role("button", name="Save 30 mm for Liv")).to_be_visible()
    expect(watched.locator('[data-heading="now"]')).to_have_text("30 mm wedge · back, high")
    expect(said).to_contain_text("more upright")
    watched.get_by_role("button", name="Put it beside").click()
    expect(said).to_contain_text("No difference that anybody would see.")
    assert watched.locator('[data-number="was lean_deg"]').inner_text() == lean.inner_text()
    watched.get_by_label("Bar or load").select_option("front")
    expect(said).to_contain_text("more upright")
    watched.get_by_role("button", name="Save 30 mm for Liv").click()
    expect(watched.locator("#messages")).to_contain_text("Kept for Liv Aasen, front squat: 30 mm.")


def test_a_hinge_is_redrawn_as_the_slider_moves(watched: Page, site: tuple[str, Flask]) -> None:
    watched.goto(f"{site[0]}/technique/{LIV}?lift=hinge")
    back = watched.locator('[data-number="now back_moment"]')
    before = back.inner_text()
    watched.get_by_label("The bar").select_option("0")
    expect(back).not_to_have_text(before)
    expect(watched.locator('[data-heading="now"]')).to_have_text("bar left to hang")


def upload(page: Page, address: str, folder: Path, drawn: Drawn) -> None:
    path = folder / "squat.jpg"
    path.write_bytes(drawn.content)
    page.goto(f"{address}/technique/{LIV}/stills")
    page.get_by_label("Picture", exact=False).first.set_input_files(path)
    page.get_by_role("button", name="Save and place the points").click()
    page.get_by_role("heading", name="Points", exact=True).wait_for()


def on_screen(page: Page, drawn: Drawn, spot: Spot) -> tuple[float, float]:
    """Where a pixel of the picture is on the screen."""
    x, y = drawn.points[spot]
    found = page.evaluate(
        """([x, y]) => { const m = document.getElementById("board").getScreenCTM();
            const at = new DOMPoint(x, y).matrixTransform(m); return [at.x, at.y]; }""",
        [x, y],
    )
    return found[0], found[1]


def near(page: Page, drawn: Drawn, spot: Spot, px: float) -> None:
    x, y = map(float, page.locator(f"#points [name={spot.value}]").input_value().split())
    assert abs(x - drawn.points[spot][0]) <= px and abs(y - drawn.points[spot][1]) <= px, spot


def newest_mark(app: Flask) -> StillMark:
    with reading(app) as db:
        return db.scalars(select(StillMark).order_by(StillMark.id.desc())).first() or StillMark()


def test_points_by_mouse_one_after_the_other_and_the_number_at_once(
    watched: Page, site: tuple[str, Flask], tmp_path: Path
) -> None:
    drawn = figure()
    upload(watched, site[0], tmp_path, drawn)
    for spot in (Spot.SHOULDER, Spot.HIP, Spot.KNEE, Spot.ANKLE):  # the next to place is chosen by itself
        expect(watched.locator(f"[data-choose={spot.value}]")).to_have_attribute("aria-pressed", "true")
        watched.mouse.click(*on_screen(watched, drawn, spot))
        near(watched, drawn, spot, 3)
    expect(watched.locator("#read")).to_contain_text("deep")
    expect(watched.locator("#read")).to_contain_text("Trunk lean")
    hip = on_screen(watched, drawn, Spot.HIP)
    watched.mouse.move(*hip)
    watched.mouse.down()
    watched.mouse.move(hip[0], hip[1] - 70, steps=4)
    expect(watched.locator("#loupe")).to_be_visible()
    watched.mouse.up()
    expect(watched.locator("#read")).to_contain_text("short")
    watched.get_by_role("button", name="Save points").click()
    expect(watched.locator("#messages")).to_contain_text("Points kept.")
    assert set(newest_mark(site[1]).points) == {"shoulder", "hip", "knee", "ankle"}


def test_points_wholly_by_keyboard(watched: Page, site: tuple[str, Flask], tmp_path: Path) -> None:
    drawn = figure()
    upload(watched, site[0], tmp_path, drawn)
    watched.locator("[data-choose=hip]").focus()
    watched.keyboard.press("Enter")  # it begins in the middle of the picture, with the focus on it
    x, y = map(float, watched.locator("#points [name=hip]").input_value().split())
    for key, far in (("Arrow" + ("Right" if drawn.points[Spot.HIP][0] > x else "Left"), abs(drawn.points[Spot.HIP][0] - x)),
                     ("Arrow" + ("Down" if drawn.points[Spot.HIP][1] > y else "Up"), abs(drawn.points[Spot.HIP][1] - y))):  # fmt: skip
        for _ in range(int(far // 10)):
            watched.keyboard.press(f"Shift+{key}")
        for _ in range(round(far % 10)):
            watched.keyboard.press(key)
    near(watched, drawn, Spot.HIP, 1)
    watched.keyboard.press("Delete")
    assert watched.locator("#points [name=hip]").input_value() == ""
    watched.locator("#points [name=knee]").fill("400 420")  # or typed
    watched.locator("#points [name=knee]").press("Enter")
    expect(watched.locator("#messages")).to_contain_text("Points kept.")
    assert newest_mark(site[1]).points == {"knee": [400.0, 420.0]}


def test_points_by_touch_on_a_phone(browser: Browser, site: tuple[str, Flask], tmp_path: Path) -> None:
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
    page = context.new_page()
    page.goto(f"{site[0]}/")
    page.get_by_role("button", name="R. Amari").tap()
    page.get_by_role("heading", name="Squad").wait_for()
    drawn = figure(Shot(tilt_deg=2.0))
    upload(page, site[0], tmp_path, drawn)
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth"), "no sideways scroll"
    for spot in (Spot.SHOULDER, Spot.HIP, Spot.KNEE):
        page.locator("#board").scroll_into_view_if_needed()
        page.touchscreen.tap(*on_screen(page, drawn, spot))
        near(page, drawn, spot, 5)
    expect(page.locator("#read")).to_contain_text("Trunk lean")
    context.close()


@pytest.fixture
def finder(site: tuple[str, Flask]) -> Iterator[PoseFinder]:
    made = PoseFinder()
    made.start()
    before = site[1].extensions["settings"]
    site[1].extensions["settings"] = replace(before, finder=("127.0.0.1", made.port))
    yield made
    site[1].extensions["settings"] = before
    made.shutdown()
    made.server_close()


def test_suggested_then_corrected_then_kept(
    watched: Page, site: tuple[str, Flask], tmp_path: Path, finder: PoseFinder
) -> None:
    drawn = figure()
    upload(watched, site[0], tmp_path, drawn)
    watched.get_by_role("link", name="Suggest points").click()
    expect(watched.locator("main")).to_contain_text("Look at each point, move what is wrong, then keep.")
    near(watched, drawn, Spot.KNEE, 3)
    knee = watched.get_by_role("button", name="top of the knee").first
    watched.locator("[data-spot=knee]").focus()
    watched.keyboard.press("Shift+ArrowUp")
    assert knee.count() == 1
    watched.get_by_role("button", name="Save points").click()
    expect(watched.locator("#messages")).to_contain_text("Points kept.")
    mark = newest_mark(site[1])
    assert "stand-in" in mark.suggested_by and abs(mark.points["knee"][1] - drawn.points[Spot.KNEE][1] + 10) < 4


CLIP = """async () => {  // a clip of our own making: a white square that moves, recorded by the browser itself
  const canvas = document.createElement("canvas"); canvas.width = 320; canvas.height = 400;
  const pen = canvas.getContext("2d"), film = new MediaRecorder(canvas.captureStream(20), { mimeType: "video/webm" }), parts = [];
  film.ondataavailable = (event) => parts.push(event.data);
  const done = new Promise((ready) => { film.onstop = ready; });
  film.start();
  for (let n = 0; n < 12; n++) {
    pen.fillStyle = "#335"; pen.fillRect(0, 0, 320, 400); pen.fillStyle = "#fff"; pen.fillRect(20 + n * 15, 200, 60, 60);
    await new Promise((ready) => setTimeout(ready, 60));
  }
  film.stop(); await done;
  const files = new DataTransfer();
  files.items.add(new File(parts, "clip.webm", { type: "video/webm" }));
  const field = document.getElementById("clip"); field.files = files.files;
  field.dispatchEvent(new Event("change", { bubbles: true }));
}"""


def test_a_frame_of_a_clip_becomes_the_picture_and_the_clip_stays(watched: Page, site: tuple[str, Flask]) -> None:
    sent: list[int] = []
    watched.on("request", lambda r: sent.append(len(r.post_data_buffer or b"")) if r.method == "POST" else None)
    watched.goto(f"{site[0]}/technique/{LIV}/stills")
    watched.get_by_text("or a frame of a short clip").click()
    watched.evaluate(CLIP)
    watched.locator("#clip-player").wait_for()
    until(watched, "document.getElementById('clip-video').videoWidth > 0")
    watched.get_by_role("button", name="Take this frame").click()
    expect(watched.locator("#clip-said")).to_contain_text("is the picture now")
    watched.get_by_role("button", name="Save and place the points").click()
    watched.get_by_role("heading", name="Points", exact=True).wait_for()
    with reading(site[1]) as db:
        still = db.scalars(select(Still).order_by(Still.id.desc())).first()
    assert still and (still.width, still.height) == (320, 400)
    assert max(sent) < 60_000, "a frame went, no clip"


def test_two_dates_are_slid_over_each_other(watched: Page, site: tuple[str, Flask]) -> None:
    watched.goto(f"{site[0]}/technique/{LIV}/then")
    top, over = watched.locator(".overlay-picture.is-new"), watched.get_by_label("How much of the newer")
    assert top.get_attribute("opacity") == "0.5"
    over.focus()
    over.press("End")
    assert top.get_attribute("opacity") == "1"
