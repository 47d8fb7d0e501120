"""What is promised about keeping, tried on a real server: kill it, fill its disk, hold its database, copy and restore.

python tools/trust.py [KILLS]      writes the figures into docs/SECURITY.md
"""

import json
import os
import random
import re
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path

from sqlalchemy import event

from backsquat import create_app
from backsquat.clock import Clock
from backsquat.config import DEMO_DAY, Config
from backsquat.demo.club import PASSWORD, build
from backsquat.storage.database import Busy, Database
from backsquat.storage.keeping import DataKind, backup, examine, mark, restore
from backsquat.storage.migrate import migrate
from backsquat.work.audit import note_of

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))
from tests.crafted import crafted, heavy_workbook  # noqa: E402 - beside this folder, not in the package
from tests.fuzz import fuzz  # noqa: E402

A_WORKBOOK = heavy_workbook()
BEGIN, END = "<!-- figures of tools/trust.py -->", "<!-- end of figures -->"


class Server:
    """The application as `make serve` starts it, on a folder of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.start()

    def start(self) -> None:
        settings = os.environ | {"BACKSQUAT_DATA": str(self.folder), "PYTHONPATH": str(ROOT / "src")}
        command = [sys.executable, "-m", "backsquat", "serve", "--port", str(self.port)]
        self.process = subprocess.Popen(command, env=settings, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        for _ in range(200):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{self.port}/health", timeout=2)
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("the server did not come up")

    def kill(self) -> None:
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()


class Phone:
    """Somebody who signs in and logs sets, and keeps what was acknowledged."""

    def __init__(self, server: Server) -> None:
        self.server, self.kept, self.refused, self.slowest_s = server, [], 0, 0.0
        self.line = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        self.token = self._token("/sign-in")
        self._send("/sign-in", {"sign_in": "amari", "password": PASSWORD})
        self.token = self._token("/account")

    def _token(self, path: str) -> str:
        page = self.line.open(f"http://127.0.0.1:{self.server.port}{path}", timeout=10).read().decode()
        return re.search(r'name="csrf_token"[^>]*?value="([^"]+)"', page).group(1)  # type: ignore[union-attr]

    def _send(self, path: str, data: dict[str, str]) -> int:
        body = urllib.parse.urlencode(data | {"csrf_token": self.token}).encode()
        began = time.monotonic()
        try:
            return self.line.open(f"http://127.0.0.1:{self.server.port}{path}", body, timeout=10).status
        except urllib.error.HTTPError as error:
            return error.code
        finally:
            self.slowest_s = max(self.slowest_s, time.monotonic() - began)

    def log(self, athlete: int, name: str) -> int:
        facts = {
            "movement": "back_squat",
            "load": "60",
            "reps": "5",
            "reserve_reps": "2",
            "pain": "0",
            "confirm": "load",
        }
        day = Clock().today().isoformat()
        code = self._send(f"/athletes/{athlete}/test", facts | {"client_id": name, "done_on": day})
        if code == 200:  # the page that says what the test says
            self.kept.append(name)
        else:
            self.refused += 1
        return code


def stored(path: Path) -> list[str]:
    with sqlite3.connect(path) as connection:
        return [
            name for (name,) in connection.execute("SELECT client_id FROM set_entries WHERE client_id LIKE 'trust-%'")
        ]


def data_in(folder: Path) -> Path:
    config = Config(folder, hash_cost=1)
    migrate(config.database)
    database = Database(config.database)
    with database.writing() as db:
        build(db, 1)
    database.settle()
    database.close()
    mark(config.database, DataKind.OWN)
    return config.database


def logging_until(phone: Phone, end: threading.Event, prefix: str) -> threading.Thread:
    def run() -> None:
        n = 0
        while not end.is_set():
            try:
                phone.log(1 + n % 5, f"trust-{prefix}-{n}")
            except OSError:
                return
            n += 1

    thread = threading.Thread(target=run)
    thread.start()
    return thread


def killed(path: Path, times: int) -> dict[str, object]:
    """Kill the server while sets are logged; every acknowledged set is there once, and it starts again."""
    acknowledged: set[str] = set()
    server = Server(path.parent)
    for n in range(times):
        phone, end = Phone(server), threading.Event()
        thread = logging_until(phone, end, f"kill-{n}")
        time.sleep(1.0 + 0.07 * (n % 7))
        server.kill()
        end.set()
        thread.join()
        acknowledged |= set(phone.kept)
        server.start()
    server.kill()
    found = stored(path)
    return {"kills": times, "acknowledged": len(acknowledged), "lost": len(acknowledged - set(found)),
            "doubled": len(found) - len(set(found)), "sound": examine(path).newest}  # fmt: skip


def held(path: Path) -> dict[str, object]:
    """Somebody holds the database for long: who writes is told in time, who reads is not kept waiting."""
    server = Server(path.parent)
    phone, reader = Phone(server), Phone(server)
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    codes = [phone.log(1, f"trust-held-{n}") for n in range(3)]
    reader.slowest_s = 0
    began = time.monotonic()
    reader.line.open(f"http://127.0.0.1:{server.port}/floor/", timeout=10).read()
    read_s = time.monotonic() - began
    other.execute("ROLLBACK")
    after = phone.log(1, "trust-held-after")
    server.kill()
    return {"answers": codes, "slowest_s": round(phone.slowest_s, 2), "read_s": round(read_s, 2), "afterwards": after}


def idling(path: Path, lines: int) -> dict[str, object]:
    """Many lines that begin a request and say no more: others are answered, and the lines are closed."""
    server = Server(path.parent)
    opened = []
    for _ in range(lines):
        line = socket.create_connection(("127.0.0.1", server.port))
        line.send(b"POST /sign-in HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\n")
        opened.append(line)
    began = time.monotonic()
    urllib.request.urlopen(f"http://127.0.0.1:{server.port}/health", timeout=10).read()
    answered_s = time.monotonic() - began
    time.sleep(30)
    closed = sum(_is_closed(line) for line in opened)
    server.kill()
    return {"lines": lines, "answered_s": round(answered_s, 2), "closed_after_30_s": closed}


def _is_closed(line: socket.socket) -> bool:
    line.settimeout(0.01)
    try:
        return line.recv(1) == b""
    except TimeoutError:
        return False
    except OSError:
        return True


def copied(path: Path, times: int) -> dict[str, object]:
    """Copy while sets are logged, then restore the last copy: what was acknowledged before it is there."""
    server = Server(path.parent)
    phone, end = Phone(server), threading.Event()
    thread = logging_until(phone, end, "copy")
    sound, missing, took = 0, 0, []
    for n in range(times):
        before = list(phone.kept)
        began = time.monotonic()
        copy = backup(path, f"trust{n}", Clock().real())
        took.append(time.monotonic() - began)
        sound += examine(copy).newest
        missing += len(set(before) - set(stored(copy)))
        last, known = copy, before
    end.set()
    thread.join()
    server.kill()
    began = time.monotonic()
    restore(path, last, Clock().real())
    back_s = time.monotonic() - began
    server.start()
    lost = len(set(known) - set(stored(path)))
    server.kill()
    return {"copies": times, "sound": sound, "missing": missing, "slowest_copy_s": round(max(took), 2),
            "restored_s": round(back_s, 2), "lost_by_restoring": lost}  # fmt: skip


def crowded(path: Path, devices: int, seconds: float) -> dict[str, object]:
    """Devices on the floor while others ask for PDFs and send workbooks as fast as they are answered."""
    server = Server(path.parent)
    phones = [Phone(server) for _ in range(devices)]
    asking = [Phone(server) for _ in range(14)]
    page = f"http://127.0.0.1:{server.port}/floor/"
    figures: dict[str, object] = {"devices": devices}
    for what, heavy in (("alone", False), ("beside heavy work", True)):
        end, waited, done = threading.Event(), list[float](), dict[int, int]()
        threads = [threading.Thread(target=_polling, args=(phone, page, end, waited)) for phone in phones]
        if heavy:
            threads += [threading.Thread(target=_asking, args=(one, n, end, done)) for n, one in enumerate(asking)]
        for thread in threads:
            thread.start()
        time.sleep(seconds)
        end.set()
        for thread in threads:
            thread.join()
        waited.sort()
        figures[f"floor {what}, median and slowest s"] = [round(waited[len(waited) // 2], 2), round(waited[-1], 2)]
    server.kill()
    return figures | {"heavy work answered": {str(code): count for code, count in sorted(done.items())}}


def _polling(phone: Phone, page: str, end: threading.Event, waited: list[float]) -> None:
    while not end.wait(3 + random.random()):
        began = time.monotonic()
        phone.line.open(page, timeout=60).read()
        waited.append(time.monotonic() - began)


def _asking(phone: Phone, nth: int, end: threading.Event, done: dict[int, int]) -> None:
    at = f"http://127.0.0.1:{phone.server.port}"
    while not end.is_set():
        if nth % 2:
            request = urllib.request.Request(f"{at}/floor/paper/wall?pdf=a4")
        else:
            name = f'form-data; name="csrf_token"\r\n\r\n{phone.token}'
            file = 'form-data; name="file"; filename="log.xlsx"\r\nContent-Type: application/octet-stream\r\n\r\n'
            head = f"--x\r\nContent-Disposition: {name}\r\n--x\r\nContent-Disposition: {file}"
            body = head.encode() + A_WORKBOOK + b"\r\n--x--\r\n"
            request = urllib.request.Request(f"{at}/import/", body, {"Content-Type": "multipart/form-data; boundary=x"})
        try:
            code = phone.line.open(request, timeout=90).status
        except urllib.error.HTTPError as error:
            code = error.code
        done[code] = done.get(code, 0) + 1
        time.sleep(2 if code == 409 else 0.2)  # who is told to wait does


def twice(path: Path) -> dict[str, object]:
    """A second server on the same folder refuses, and the first goes on; without a proxy no header says who asks."""
    server = Server(path.parent)
    settings = os.environ | {"BACKSQUAT_DATA": str(path.parent), "PYTHONPATH": str(ROOT / "src")}
    command = [sys.executable, "-m", "backsquat", "serve", "--port", str(server.port + 1)]
    second = subprocess.run(command, env=settings, capture_output=True, text=True, timeout=120, check=False)
    first = Phone(server).log(1, "trust-twice")
    guesses = [_guess(server, f"10.0.0.{n}") for n in range(45)]
    server.kill()
    slowed = guesses.index(429) + 1 if 429 in guesses else 0
    return {
        "second ends with": second.returncode,
        "first answers": first,
        "guesses under forged addresses until slowed": slowed,
    }


def _guess(server: Server, address: str) -> int:
    phone = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    page = phone.open(f"http://127.0.0.1:{server.port}/sign-in", timeout=10).read().decode()
    token = re.search(r'name="csrf_token"[^>]*?value="([^"]+)"', page).group(1)  # type: ignore[union-attr]
    body = urllib.parse.urlencode({"sign_in": f"nobody {address}", "password": "guessed 12345", "csrf_token": token})
    request = urllib.request.Request(f"http://127.0.0.1:{server.port}/sign-in", body.encode())
    for name in ("X-Forwarded-For", "X-Real-IP", "Forwarded"):
        request.add_header(name, address)
    try:
        return int(phone.open(request, timeout=10).status)
    except urllib.error.HTTPError as error:
        return error.code


def older(folder: Path) -> dict[str, object]:
    """A copy made by an older program is put back and brought up to date."""
    old = folder / "old" / "backsquat.sqlite3"
    old.parent.mkdir()
    migrate(old, "own_phones")
    with sqlite3.connect(old) as connection:
        connection.execute("INSERT INTO squads (id, club, name) VALUES (1, 'Old', 'Old')")
    mark(old, DataKind.OWN)
    path = data_in(folder)
    restore(path, old, Clock().real())
    server = Server(path.parent)
    server.kill()
    with sqlite3.connect(path) as connection:
        names = [name for (name,) in connection.execute("SELECT name FROM squads")]
    return {"sound": examine(path).newest, "squads": names}


def filled(folder: Path) -> dict[str, object]:
    """A disk with no room: a small file system of its own where that may be made, else a limit on the file."""
    path = data_in(folder)
    database = Database(path)
    told, stored_before = 0, len(stored(path))
    with sqlite3.connect(path) as connection:
        pages = connection.execute("PRAGMA page_count").fetchone()[0]
    event.listen(database.engine, "checkout", lambda c, *_: c.execute(f"PRAGMA max_page_count = {pages}"))
    for n in range(40):
        try:
            with database.writing() as db:
                about = {"words": "y" * 9000, "nth": n}
                note_of(db, Clock().real(), "trial", about, squad_id=1)
        except Busy as error:
            told += error.full
    database.close()
    return {
        "writes": 40,
        "told_full": told,
        "sound": examine(path).newest,
        "unchanged": stored_before == len(stored(path)),
    }


def outside(folder: Path, times: int) -> dict[str, object]:
    """Forms and addresses with outside values, as every role, in this process."""
    path = data_in(folder)
    app = create_app(Config(path.parent, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    app.config["WTF_CSRF_ENABLED"] = False
    app.logger.disabled = True
    found = fuzz(app, times)
    return {"requests": found.tried, "answered as a fault of ours": len(found.faults), "statuses": len(found.statuses)}


def files(each: int) -> dict[str, object]:
    """Crafted files of every kind through the readers the pages use."""
    found = crafted(each)
    kinds = {f"{kind}, slowest s": seconds for kind, seconds in found.slowest_s.items()}
    return {"files": sum(found.tried.values()), "faults of ours": len(found.faults), **kinds}


def main() -> None:
    """Run all of it and write the figures down."""
    kills = int(sys.argv[1]) if len(sys.argv) > 1 else 40
    figures: dict[str, object] = {}
    with tempfile.TemporaryDirectory() as folder:
        path = data_in(Path(folder))
        figures["killed while sets are logged"] = killed(path, kills)
        figures["the database held by another"] = held(path)
        figures["lines that say nothing"] = idling(path, 600)
        figures["copied and restored while sets are logged"] = copied(path, 20)
        figures["a second server, forged headers"] = twice(path)
        figures["a crowded floor"] = crowded(path, 30, 30)
    with tempfile.TemporaryDirectory() as folder:
        figures["a copy of an older program put back"] = older(Path(folder))
    with tempfile.TemporaryDirectory() as folder:
        figures["a full disk"] = filled(Path(folder))
    with tempfile.TemporaryDirectory() as folder:
        figures["outside values in forms and addresses"] = outside(Path(folder), 20_000)
    figures["crafted files"] = files(340)
    lines = [f"| {what} | {json.dumps(found)[1:-1].replace(chr(34), '')} |" for what, found in figures.items()]
    text = "\n".join([BEGIN, "", "| tried | found |", "|---|---|", *lines, "", END])
    document = ROOT / "docs/SECURITY.md"
    was = document.read_text("utf-8")
    document.write_text(was[: was.index(BEGIN)] + text + was[was.index(END) + len(END) :], "utf-8")
    print("\n".join(lines))


if __name__ == "__main__":
    main()
