"""Many devices at once on a real server over HTTP: sets handed in, the server killed meanwhile, and how soon others see it.

Part of `make bench`. A client here does what the floor's script does: every set has its id before it is sent, and is sent
again until it is answered.
"""

import http.client
import json
import random
import re
import signal
import socket
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.config import Config
from backsquat.storage.database import Database
from backsquat.storage.models import Block, Cell, Exercise, SetEntry

CLIENTS, SETS_EACH, KILLS, POLLING, POLLED_S = 20, 200, 50, 30, 60
CROWDS, CROWD_S, SLOW_MS = (100, 200, 300, 400, 600), 15, 1_000  # devices that look every second, until a look is slow
HASTY, HASTY_S = 20, 15  # devices that log as fast as they are answered
SERVER = """
import datetime, pathlib, sys
from backsquat.config import Config
from backsquat.serving import Listening, listen

if __name__ == "__main__":
    folder, port, today, workers = sys.argv[1:]
    day = datetime.date.fromisoformat(today)
    config = Config(pathlib.Path(folder), demo=True, fixed_day=day, hash_cost=1)
    listen(config, Listening("127.0.0.1", int(port), workers=int(workers)))
"""


class Server:
    """The application as it is served, in a process of its own."""

    def __init__(self, folder: Path, today: str, workers: int = 1) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.command = [sys.executable, "-c", SERVER, str(folder), str(self.port), today, str(workers)]
        self.start()

    def start(self) -> None:
        """Start, and wait until it answers."""
        self.process = subprocess.Popen(self.command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        for _ in range(300):
            try:
                socket.create_connection(("127.0.0.1", self.port), timeout=1).close()
                return
            except OSError:
                time.sleep(0.05)
        raise RuntimeError("the server did not come up")

    def kill(self) -> None:
        """As a power cut would."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()


@dataclass
class Device:
    """One signed-in device: what waits on it, what was acknowledged, how long answers took in ms."""

    port: int
    name: str
    cells: Sequence[tuple[int, int, float]]  # cell, athlete, load
    acknowledged: list[str] = field(default_factory=list)
    took_ms: list[float] = field(default_factory=list)
    cookies: dict[str, str] = field(default_factory=dict)
    line: http.client.HTTPConnection | None = None

    def ask(self, method: str, path: str, body: str = "", headers: dict[str, str] | None = None) -> tuple[int, bytes]:
        """One request on the kept line; OSError where there is none."""
        self.line = self.line or http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
        cookie = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        try:
            self.line.request(method, path, body or None, {"Cookie": cookie, "HX-Request": "true"} | (headers or {}))
            answer = self.line.getresponse()
            read = answer.read()
        except (http.client.HTTPException, OSError) as error:
            self.line.close()
            self.line = None
            raise OSError from error
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                kept, _, rest = value.partition("=")
                self.cookies[kept] = rest.split(";")[0]
        return answer.status, read

    def sign_in(self) -> None:
        """One click, as the demo offers it."""
        _, page = self.ask("GET", "/sign-in")
        token = re.search(rb'name="csrf_token"[^>]*?value="([^"]+)"', page)
        body = f"csrf_token={token.group(1).decode() if token else ''}"
        self.ask("POST", "/demo-sign-in/1", body, {"Content-Type": "application/x-www-form-urlencoded"})

    def pulse(self) -> dict[str, str]:
        """Whether anything has changed for the device's athletes, and a token."""
        mine = ",".join(str(one) for one in sorted({athlete for _, athlete, _ in self.cells}))
        status, read = self.ask("GET", f"/floor/pulse?athletes={mine}")
        if status != 200:
            raise OSError(status)
        return dict(json.loads(read))

    def log(self, n: int) -> None:
        """One set, sent until it is answered."""
        cell, athlete, load = self.cells[n % len(self.cells)]
        fields = {"load": [f"{load:g}"], "reps": ["6"], "reserve_reps": ["2"], "pain_character": ["dull"]}
        thing = {"client_id": f"{self.name}-{n:04}", "what": "set", "cell": cell, "athlete": athlete, "tapped_ms": 0}
        while True:
            try:
                there = self.pulse()
                parcel = {"format": 1, "place": there["place"], "device_ms": 0, "things": [thing | {"fields": fields}]}
                head = {"Content-Type": "application/json", "X-CSRFToken": there["token"]}
                began = time.perf_counter()
                status, read = self.ask("POST", "/floor/waiting", json.dumps(parcel), head)
                if status == 200 and json.loads(read)["answers"][thing["client_id"]]["taken"]:
                    self.took_ms.append(1000 * (time.perf_counter() - began))
                    self.acknowledged.append(str(thing["client_id"]))
                    return
            except OSError:
                pass
            time.sleep(0.1)


def devices(database: Database, port: int, many: int, name: str) -> list[Device]:
    """Devices with the cells of this week's first session dealt out between them, signed in."""
    with database.reader() as db:
        rows = db.execute(
            select(Cell.id, Cell.athlete_id, Cell.load_kg)
            .join(Exercise, Cell.exercise_id == Exercise.id)
            .join(Block, Exercise.block_id == Block.id)
            .where(Block.name == "Now", Cell.week == 1, Cell.live, Exercise.session_id == _first_session(db))
            .order_by(Cell.athlete_id, Cell.id)
        ).all()
    cells = [(cell, athlete, load or 10.0) for cell, athlete, load in rows]
    athletes = sorted({athlete for _, athlete, _ in cells})
    found = []
    for n in range(many):
        mine = set(athletes[n::many]) or set(athletes[:1])
        found.append(Device(port, f"{name}-{n:02}", [one for one in cells if one[1] in mine]))
    for device in found:
        device.sign_in()
    return found


def _first_session(db: Session) -> int | None:
    wanted = select(Exercise.session_id).join(Block).where(Block.name == "Now", Exercise.position == 0)
    return db.scalars(wanted).first()


def together(runs: Sequence[Callable[[], None]]) -> float:
    """Run all at once; seconds until the last is through."""
    began = time.monotonic()
    threads = [threading.Thread(target=run) for run in runs]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return time.monotonic() - began


def stored(database: Database, name: str) -> list[str]:
    """Client ids of a run in the order they are stored."""
    with database.reader() as db:
        ids = select(SetEntry.client_id).where(SetEntry.client_id.startswith(f"{name}-")).order_by(SetEntry.id)
        return list(db.scalars(ids))


def verdict(found: Sequence[str], clients: Sequence[Device]) -> str:
    """Lost, doubled, out of order."""
    acknowledged = {one for device in clients for one in device.acknowledged}
    lost, doubled = len(acknowledged - set(found)), len(found) - len(set(found))
    mixed = sum(mine != sorted(mine) for d in clients if (mine := [one for one in found if one.startswith(d.name)]))
    return f"{len(acknowledged):,} acknowledged: {lost} lost, {doubled} doubled, {mixed} devices out of order"


def measure_clients(folder: Path, today: str) -> list[str]:
    """Lines of the report."""
    database, server = Database(Config(folder).database), Server(folder, today)
    try:
        calm = devices(database, server.port, CLIENTS, "calm")
        seconds = together([lambda d=d: [d.log(n) for n in range(SETS_EACH)] for d in calm])  # type: ignore[misc]
        took = [ms for device in calm for ms in device.took_ms]
        lines = [
            f"- **{CLIENTS} devices × {SETS_EACH} sets, as fast as they are answered**: "
            f"{verdict(stored(database, 'calm'), calm)}; {len(took) / seconds:.0f} sets a second; "
            f"median {statistics.median(took):.0f} ms, 95th percentile {statistics.quantiles(took, n=20)[-1]:.0f} ms."
        ]
        lines.append(_seen(database, server))
        lines.append(_killed(database, server))
    finally:
        server.kill()
    for workers in (1, 2):
        lines.append(_crowded(database, folder, today, workers))
    database.close()
    return lines


def _crowded(database: Database, folder: Path, today: str, workers: int) -> str:
    """More and more devices that look every second while one logs a set a second, until a look takes too long."""
    server = Server(folder, today, workers)
    said = []
    try:
        known = devices(database, server.port, HASTY, f"h{workers}")
        hasty_end = time.monotonic() + HASTY_S
        together([partial(_hasty, one, hasty_end) for one in known])
        many = sum(len(one.acknowledged) for one in known) / HASTY_S
        for crowd in CROWDS:
            known += devices(database, server.port, crowd - len(known), f"c{workers}-{crowd}")
            asked_ms: list[float] = []
            end = time.monotonic() + CROWD_S
            runs = [partial(_looking, one, end, asked_ms) for one in known[1:]]
            together([*runs, partial(_tapping, known[0], end)])
            said.append(f"{crowd}: {statistics.median(asked_ms):.0f} ({_high(asked_ms):.0f})")
            if _high(asked_ms) > SLOW_MS:
                break
    finally:
        server.kill()
    processes = "1 process" if workers == 1 else f"{workers} processes"
    return (
        f"- **{processes}, devices that look every second while a set a second is logged**: a look in ms, median (95th "
        f"percentile), {'; '.join(said)}. {HASTY} devices that log as fast as they are answered: {many:.0f} sets a second."
    )


def _hasty(device: Device, end: float) -> None:
    n = 0
    while time.monotonic() < end:
        device.log(n)
        n += 1


def _looking(device: Device, end: float, asked_ms: list[float]) -> None:
    time.sleep(random.random())
    while time.monotonic() < end:
        began = time.perf_counter()
        with suppress(OSError):
            device.pulse()
        asked_ms.append(1000 * (time.perf_counter() - began))
        time.sleep(1)


def _tapping(device: Device, end: float) -> None:
    n = 10_000
    while time.monotonic() < end:
        device.log(n)
        n += 1
        time.sleep(1)


def _high(taken: Sequence[float]) -> float:
    return statistics.quantiles(taken, n=20)[-1]


def _seen(database: Database, server: Server) -> str:
    """Thirty devices that look every second while a set is logged every second: how soon each sees it."""
    lookers, tapper = (devices(database, server.port, n, name) for n, name in ((POLLING, "look"), (1, "tap")))
    logged: list[float] = []
    seen_ms: list[float] = []
    asked_ms: list[float] = []
    end = time.monotonic() + POLLED_S

    def look(device: Device) -> None:
        known, since = device.pulse()["pulse"], len(logged)
        time.sleep(random.random())
        while time.monotonic() < end:
            began = time.perf_counter()
            now = device.pulse()["pulse"]
            asked_ms.append(1000 * (time.perf_counter() - began))
            if now != known and len(logged) > since:
                seen_ms.append(1000 * (time.monotonic() - logged[since]))
            known, since = now, len(logged)
            time.sleep(1)

    def tap() -> None:
        n = 0
        while time.monotonic() < end:
            tapper[0].log(n)
            logged.append(time.monotonic())
            n += 1
            time.sleep(1)

    together([*(lambda d=d: look(d) for d in lookers), tap])
    half, high = ([pick(ms) for ms in (asked_ms, tapper[0].took_ms, seen_ms)] for pick in (statistics.median, _high))
    return (
        f"- **{POLLING} devices look every second, a set is logged every second, {POLLED_S} s**: a look takes "
        f"{half[0]:.0f} ms (95th percentile {high[0]:.0f}), a set {half[1]:.0f} ({high[1]:.0f}); another device knows of it "
        f"after {half[2]:.0f} ms ({high[2]:.0f}, longest {max(seen_ms):.0f})."
    )


def _killed(database: Database, server: Server) -> str:
    """The same devices while the server is killed again and again."""
    hit = devices(database, server.port, CLIENTS, "kill")
    over = threading.Event()
    kills = 0

    def kill() -> None:
        nonlocal kills
        while kills < KILLS:
            time.sleep(0.4 + random.random())
            server.kill()
            server.start()
            kills += 1
        over.set()

    def log(device: Device) -> None:
        n = 0
        while n < SETS_EACH or not over.is_set():
            device.log(n)
            n += 1
            time.sleep(0.2)

    together([kill, *(lambda d=d: log(d) for d in hit)])
    return (
        f"- **{CLIENTS} devices, {SETS_EACH} sets or more each, the server killed {kills} times meanwhile**: "
        f"{verdict(stored(database, 'kill'), hit)}."
    )
