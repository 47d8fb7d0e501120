"""Several processes are one server: one socket, the same counts, each begun anew if it ends, none left when it is stopped."""

import os
import re
import signal
import socket
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest

from backsquat.storage.database import Busy
from backsquat.storage.failures import FILE, Failures
from backsquat.work.accounts.slow import OF_ACCOUNT, Slow
from tests.served import answer

ROOT = Path(__file__).parents[2]


def test_failures_count_whichever_process_saw_them_and_a_new_start_forgets_none(tmp_path: Path) -> None:
    one, other = Slow(tmp_path), Slow(tmp_path)
    for n in range(OF_ACCOUNT.amount):
        assert other.may_try("1.2.3.4", "lund"), n
        assert (one if n % 2 else other).failed("1.2.3.4", "lund") is (n == OF_ACCOUNT.amount - 1)
    assert not one.may_try("9.9.9.9", "lund") and not Slow(tmp_path).may_try("9.9.9.9", "lund")
    assert one.may_try("9.9.9.9", "somebody else") and one.may_try("9.9.9.9", "lund", browser="hers")
    one.forget()
    assert other.may_try("1.2.3.4", "lund")


def test_a_count_ends_by_itself_and_nobody_else_reads_the_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    counts = Failures(tmp_path)
    assert (tmp_path / FILE).stat().st_mode & 0o077 == 0
    assert (counts.incr("a", 60), counts.incr("a", 60, 2), counts.get("a"), counts.get("b")) == (1, 3, 3, 0)
    assert 0 < counts.get_expiry("a") - time.time() <= 60 and counts.check()
    now = time.time()
    monkeypatch.setattr("backsquat.storage.failures.time.time", lambda: now + 61)
    assert counts.get("a") == 0 and counts.incr("a", 60) == 1
    counts.clear("a")
    assert counts.get("a") == 0


def test_a_damaged_file_of_counts_is_made_again_and_one_that_takes_no_more_is_said(tmp_path: Path) -> None:
    (tmp_path / FILE).write_text("no database " * 200)
    counts = Failures(tmp_path)
    assert counts.incr("a", 60) == 1
    with sqlite3.connect(tmp_path / FILE) as file:
        file.execute("CREATE TRIGGER full BEFORE INSERT ON failures BEGIN SELECT no_such_function(); END")
    with pytest.raises(Busy):
        counts.incr("b", 60)


def children(pid: int) -> list[int]:
    """Those that serve; not the one that keeps an eye on what they share."""
    found = subprocess.run(
        ["ps", "-ww", "-o", "pid=", "-o", "args=", "--ppid", str(pid)], capture_output=True, text=True
    ).stdout
    return [int(line.split()[0]) for line in found.splitlines() if "spawn_main" in line]


def until(asked: object) -> None:
    for _ in range(600):
        if asked():  # type: ignore[operator]
            return
        time.sleep(0.05)
    raise AssertionError("it never came")


@pytest.mark.parametrize("end", [signal.SIGTERM, signal.SIGKILL])
def test_two_processes_serve_one_is_replaced_and_none_outlives_the_first(tmp_path: Path, end: signal.Signals) -> None:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    settings = os.environ | {"BACKSQUAT_DATA": str(tmp_path), "PYTHONPATH": str(ROOT / "src")}
    command = [sys.executable, "-m", "backsquat", "serve", "--port", str(port), "--workers", "2"]
    server = subprocess.Popen(command, env=settings, stdout=subprocess.PIPE, text=True)
    try:
        address = f"http://127.0.0.1:{port}/first"
        assert server.stdout is not None
        said = next(line for line in server.stdout if "with the code" in line)
        assert f"{address} with the code" in said
        status, page = answer(server, address)
        assert status == 200 and re.search(rb"code", page)
        until(lambda: len(children(server.pid)) == 2)
        first = children(server.pid)
        if end is signal.SIGKILL:
            os.kill(first[0], signal.SIGKILL)
            until(lambda: len(now := children(server.pid)) == 2 and first[0] not in now)
            assert answer(server, address)[0] == 200
        both = children(server.pid)
        server.send_signal(end)
        server.wait(30)
        until(lambda: not any(Path(f"/proc/{one}").exists() for one in both))
    finally:
        server.kill()
        server.wait()
