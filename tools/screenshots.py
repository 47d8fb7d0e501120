"""Write docs/screenshots/: one PNG of each main view from fresh demo data.

Called by `make screenshots`; needs headless Chromium (see tools/setup test).
"""

import logging
import shutil
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from werkzeug.serving import make_server

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.demo.club import build
from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
LAPTOP, TABLET, PHONE = (1280, 800), (1180, 820), (390, 844)


def into_the_superset(page: Page, address: str) -> None:
    """Four sets of one athlete: through the squats, and the first of the superset."""
    for _ in range(4):
        page.goto(f"{address}/floor/?rack=3&athlete=2")
        page.locator(".tap").click()
        page.wait_for_timeout(400)
    page.goto(f"{address}/floor/?rack=3&athlete=2")


def without_a_line(page: Page, address: str) -> None:
    """Three sets of another while the line is gone: the split squat, left and right, is next, and what waits is said."""
    page.goto(f"{address}/floor/?rack=3&athlete=1")
    for _ in range(100):
        if page.evaluate("Boolean(Outbox.state.pack)"):
            break
        page.wait_for_timeout(100)
    page.context.set_offline(True)
    for _ in range(3):
        page.locator(".tap").click()
        page.wait_for_timeout(600)
        page.evaluate("Pocket.show({rack: '3', athlete: 1, after: null})")
        page.wait_for_timeout(200)


# name, size, path, and what is done first
VIEWS: list[tuple[str, tuple[int, int], str, Callable[[Page, str], None] | None]] = [
    ("squad", LAPTOP, "/", None),
    ("athlete", LAPTOP, "/athletes/1", None),
    ("screen", LAPTOP, "/screen/athlete/17", None),
    ("ladders", LAPTOP, "/ladders/17", None),
    ("health", LAPTOP, "/health-list/", None),
    ("movements", LAPTOP, "/movements/", None),
    ("choose", LAPTOP, "/movements/choose?athlete=6&family=squat", None),
    ("then-and-now", LAPTOP, "/technique/17/then", None),
    ("block", LAPTOP, "/block/", None),
    ("technique", LAPTOP, "/technique/17", None),
    ("compare", LAPTOP, "/block/3/compare?athlete=1", None),
    ("what-if", LAPTOP, "/block/what-if?idea=without.2026-12-07.on&idea=match.2026-12-02.", None),
    ("week-check", LAPTOP, "/block/3/check", None),
    ("season", LAPTOP, "/season/?week=2026-12-14", None),
    ("review", LAPTOP, "/review/", None),
    ("session", LAPTOP, "/session/?session=6", None),
    ("floor-tablet", TABLET, "", into_the_superset),
    ("block-phone", PHONE, "/block/", None),
    ("floor-phone", PHONE, "", without_a_line),
]


def main() -> None:
    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    with tempfile.TemporaryDirectory() as folder:
        config = Config(Path(folder), demo=True, fixed_day=DEMO_DAY, hash_cost=1)
        migrate(config.database)
        database = Database(config.database)
        with database.writing() as db:
            build(db, 1)
        database.close()
        server = make_server("127.0.0.1", 0, create_app(config), threaded=True)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        take(f"http://127.0.0.1:{server.server_port}")
        server.shutdown()


def take(address: str) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell") or "/usr/bin/chromium",
            args=["--no-sandbox", "--disable-gpu"],
        )
        for name, (width, height), path, before in VIEWS:
            context = browser.new_context(viewport={"width": width, "height": height})
            page = context.new_page()
            page.goto(f"{address}/sign-in")
            page.get_by_role("button", name="R. Amari").click()
            if before:
                before(page, address)
            if path:
                page.goto(address + path)
            page.wait_for_timeout(200)
            page.screenshot(path=FOLDER / f"{name}.png")
            print(f"docs/screenshots/{name}.png")
            context.close()
        browser.close()


if __name__ == "__main__":
    main()
