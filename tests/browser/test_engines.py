"""The floor's whole way in WebKit and in Firefox (`make browsers`): with a line, cut, again with one; a stop; a link."""

import os
import re
from collections.abc import Iterator
from typing import Any

import pytest
from sqlalchemy import func, select

from backsquat.storage.models import SetEntry, Stop
from tests.browser.station import Station
from tests.demo_club import athlete_id, reading, user_id

if not os.environ.get("ENGINES"):
    pytest.skip("other engines are run by make browsers", allow_module_level=True)
from tests.browser.engines import ENGINES, Engine

WAITING, NAME = "Outbox.state.waiting.length", "document.querySelector('.main-list').getAttribute('aria-label')"


@pytest.fixture(params=ENGINES)
def engine(request: pytest.FixtureRequest) -> Iterator[Engine]:
    found = ENGINES[request.param]()
    yield found
    found.close()


def sign_in(engine: Engine, station: Station, sign_in: str) -> None:
    engine.go(f"{station.address}/sign-in")
    engine.tap(f"form[action$='demo-sign-in/{user_id(station.app, sign_in)}'] button")
    engine.until("document.querySelector('#main') && !location.pathname.startsWith('/sign-in')")
    taken_along(engine, f"{station.address}/floor/")


def taken_along(engine: Engine, address: str) -> None:
    engine.go(address)
    engine.until("typeof Pocket === 'object' && Outbox.state.pack && document.querySelector('.tap')")
    engine.until("navigator.serviceWorker.controller || navigator.serviceWorker.ready")
    engine.run("window.there = false; caches.match('/floor/pocket').then((one) => { window.there = Boolean(one); })")
    for _ in range(50):
        engine.run("caches.match('/floor/pocket').then((one) => { window.there = Boolean(one); })")
        if engine.run("return window.there"):
            return
    engine.until("window.there")


def done(engine: Engine) -> str:
    """Tap Done for whoever is up, once it takes a tap; somebody else is up then."""
    engine.until("document.querySelector('.tap:not([aria-disabled])')")
    who = str(engine.run(f"return {NAME}"))
    if engine.run("return Boolean(document.querySelector('.find-load input'))"):
        engine.run("document.querySelector('.find-load input').value = '10'")
    engine.tap(".tap")
    engine.until(f"{NAME} !== {who!r}")
    return who


def counted(station: Station, table: type[Any]) -> int:
    with reading(station.app) as db:
        return db.scalar(select(func.count()).select_from(table)) or 0


def test_the_floors_whole_way(engine: Engine, station: Station) -> None:
    sets, stops = counted(station, SetEntry), counted(station, Stop)
    sign_in(engine, station, "lund")
    done(engine)
    engine.until("document.querySelector('.just')")
    engine.tap(".just-chips button", "2")
    engine.until("!document.querySelector('.just')")
    assert counted(station, SetEntry) == sets + 2, "the set, and what was left of it"
    station.stop()
    assert done(engine) and done(engine)
    engine.until(f"{WAITING} === 2")
    engine.until("document.querySelector('#line').textContent.includes('2 sets wait')")
    assert engine.wrong() == []
    engine.go(f"{station.address}/floor/")  # reloaded: the page the device kept
    engine.until(f"typeof Pocket === 'object' && {WAITING} === 2 && document.querySelector('.tap')")
    engine.tap("summary", "Different")
    engine.tap("form.set-form .chip-row button", "0")
    engine.until(
        "document.querySelector('form.set-form input[name=reps], form.set-form input[name=left_reps]').value !== ''"
    )
    engine.go("about:blank")  # closed, and opened
    engine.go(f"{station.address}/floor/")
    engine.until(f"typeof Pocket === 'object' && {WAITING} === 2 && document.querySelector('.tap')")
    done(engine)
    engine.tap(".is-pain summary")
    engine.run("document.querySelector('.pain-form input[value=shoulder]').click()")
    engine.tap(".pain-form button", "sharp")
    engine.until("document.querySelector('.decision.is-stop')")
    assert "May go on today" in str(engine.run("return document.querySelector('.decision.is-stop').textContent"))
    engine.until(f"{WAITING} === 4")
    assert engine.wrong() == []
    station.start()
    engine.until(f"{WAITING} === 0", 60)
    engine.until("document.querySelector('#floor[data-pulse]')", 60)
    assert (counted(station, SetEntry), counted(station, Stop)) == (sets + 5, stops + 1)
    assert engine.wrong() == []


def test_an_athletes_own_link(engine: Engine, station: Station) -> None:
    app, who = station.app, athlete_id(station.app, "Marit Holm")
    app.config["WTF_CSRF_ENABLED"] = False
    coach = app.test_client()
    coach.post("/demo-sign-in/1")
    link = re.search(r"<code>http://[^/]+(/come-in/[^<]+)</code>", coach.post(f"/athletes/{who}/phone").text)
    app.config["WTF_CSRF_ENABLED"] = True
    assert link
    engine.go(station.address + link.group(1))
    engine.tap("main button")
    engine.until("location.pathname === '/floor/'")
    taken_along(engine, f"{station.address}/floor/")
    sets = counted(station, SetEntry)
    station.stop()
    engine.tap(".tap")
    engine.until(f"{WAITING} === 1")
    station.start()
    engine.until(f"{WAITING} === 0", 60)
    assert counted(station, SetEntry) == sets + 1 and engine.wrong() == []
