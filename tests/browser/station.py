"""A server that is killed and started again, and what is done on the floor beside it."""

import re
import threading

from flask import Flask
from playwright.sync_api import Page, expect
from werkzeug.serving import BaseWSGIServer, make_server

PHONE, TABLET = {"width": 390, "height": 844}, {"width": 1180, "height": 820}


class Station:
    """A server that can be killed and started again on the same port."""

    def __init__(self, app: Flask) -> None:
        self.app, self.port = app, 0
        self.start()

    def start(self) -> None:
        self.server: BaseWSGIServer = make_server("127.0.0.1", self.port, self.app, threaded=True)
        self.port = self.server.server_port
        self.thread = threading.Thread(target=self.server.serve_forever, daemon=True)
        self.thread.start()

    def stop(self) -> None:
        self.server.shutdown()
        self.server.server_close()
        self.thread.join()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"


def floor(page: Page, station: Station, who: str = "Lund", where: str = "") -> Page:
    """The floor of somebody signed in, with everything taken along and the page for no line kept."""
    page.set_viewport_size(PHONE)
    page.set_default_timeout(15_000)
    page.goto(f"{station.address}/sign-in")
    page.get_by_role("button", name=re.compile(who)).first.click()
    page.wait_for_load_state()
    page.goto(f"{station.address}/floor/{where}")
    ready(page)
    return page


def until(page: Page, asked: str) -> None:
    """Wait for something in the page; the policy of contents forbids waiting by evaluated text."""
    for _ in range(150):
        if page.evaluate(asked):
            return
        page.wait_for_timeout(100)
    raise AssertionError(asked)


def ready(page: Page) -> None:
    until(page, "Boolean(Outbox.state.pack)")
    until(page, "caches.match('/floor/pocket').then(Boolean)")


def waits(page: Page, many: int) -> None:
    words = f"{many} sets wait" if many > 1 else "1 set waits"
    expect(page.locator("#line")).to_contain_text(words)


def hurts(page: Page, region: str, said: str) -> None:
    """Pain in three taps: open, place, what it is."""
    page.locator("details.is-pain > summary").first.click()
    form = page.locator(".pain-form:visible")
    form.locator("label", has_text=re.compile(f"^{region}$")).click()
    form.locator(f'button[value="{said}"]').click()


def done(page: Page) -> str:
    """Tap Done for whoever is up, and say who that was; then somebody else is."""
    name = page.locator(".main-list").get_attribute("aria-label") or ""
    page.locator(".tap").click()
    expect(page.locator(".main-list")).not_to_have_attribute("aria-label", name)
    return name
