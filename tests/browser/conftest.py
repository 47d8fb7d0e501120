"""The real interface: our server on a copy of the demo, Debian's Chromium, and nothing outside allowed."""

import shutil
import threading
from collections.abc import Iterator
from typing import Any

import pytest
from flask import Flask
from playwright.sync_api import Page, expect
from werkzeug.serving import make_server

from tests.browser.station import Station

CHROMIUM = {
    "executable_path": shutil.which("chromium-headless-shell") or "/usr/bin/chromium",  # both are Debian's
    "args": [
        "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
        "--disable-component-update", "--disable-sync",
    ],
}  # fmt: skip
expect.set_options(timeout=20_000)  # a busy machine is slow, not wrong
# Chromium reports every answer of 4xx as an error of the page; those are ours and tested on their own.
EXPECTED = (
    "Failed to load resource: the server responded with a status of 4",
    "Failed to load resource: net::ERR_FAILED",  # a line that a test has cut
    "Response Status Error Code 4",
)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_type_launch_args, **CHROMIUM}


@pytest.fixture
def site(app: Flask) -> Iterator[tuple[str, Flask]]:
    """The address of a running server and its application."""
    app.config["WTF_CSRF_ENABLED"] = True
    server = make_server("127.0.0.1", 0, app, threaded=True)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}", app
    server.shutdown()
    thread.join()


@pytest.fixture
def watched(page: Page, site: tuple[str, Flask]) -> Iterator[Page]:
    """A signed-in page; afterwards nothing must have failed in it or asked for anything outside."""
    address, _ = site
    wrong: list[str] = []
    page.on(
        "console", lambda m: wrong.append(m.text) if m.type == "error" and not m.text.startswith(EXPECTED) else None
    )
    page.on("pageerror", lambda error: wrong.append(str(error)))
    page.on("request", lambda r: wrong.append(r.url) if not r.url.startswith((address, "data:", "blob:")) else None)
    page.set_default_timeout(10_000)
    page.add_init_script("window.DOCK_LOCK_MS = 0")  # its second is waited for in a test of its own
    page.goto(f"{address}/")
    page.get_by_role("button", name="R. Amari").click()
    page.get_by_role("heading", name="Squad").wait_for()
    yield page
    assert not wrong


@pytest.fixture
def station(app: Flask) -> Iterator[Station]:
    """A server that can be killed and started again."""
    app.config["WTF_CSRF_ENABLED"] = True
    found = Station(app)
    yield found
    found.stop()
