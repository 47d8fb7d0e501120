"""Listening: plain or by TLS, with bounds on who keeps others waiting, and the day's copy and messages meanwhile.

One process serves, or several that take their requests from one socket. The day's copy and the post are the first
process's alone; failures to sign in are counted in a file, and stamps in the data tell each of the others' writes.
"""

import gc
import logging
import multiprocessing
import multiprocessing.connection
import os
import signal
import socket
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from multiprocessing.context import SpawnProcess
from pathlib import Path
from typing import Any

from flask import Flask

from backsquat.clock import Clock
from backsquat.config import UPLOAD_MOST_BYTES, Config, SetupProblem
from backsquat.devices.post import WAIT_S, Letter, NotTaken, hand_over
from backsquat.formats.archive import PACKED_MOST
from backsquat.storage.database import Busy, Database
from backsquat.storage.keeping import Unsound, nightly
from backsquat.work.exports.post import arrived, due_messages, set_out

BACKLOG = 1_024  # requests that wait to be taken
RESTART_S = 1.0
POST_LOOK_S = 2.0
NIGHT_LOOK_S = 600  # how often a server looks whether the day's copy is due


def free(port: int, host: str) -> None:
    """SetupProblem where something listens on the port already."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            raise SetupProblem(
                f"port {port} is already in use; stop what runs there, or choose another with PORT={port + 1}."
            ) from None


@dataclass(frozen=True)
class Listening:
    """Where a server listens, with which certificate, and by how many processes."""

    host: str
    port: int
    certificate: Path | None = None
    key: Path | None = None
    workers: int = 1

    def opened(self) -> socket.socket:
        """The socket, listening: requests that come before somebody takes them wait in it."""
        family = socket.AF_INET6 if ":" in self.host else socket.AF_INET
        return socket.create_server((self.host, self.port), family=family, backlog=BACKLOG)


def listen(config: Config, at: Listening) -> None:
    """Serve until stopped."""
    if at.workers == 1:
        serve_from(config, at, at.opened())
    else:
        _by_processes(config, at)


def serve_from(config: Config, at: Listening, taken: socket.socket) -> None:
    """One process's share: requests of a socket that is open already."""
    from backsquat import create_app

    app = create_app(config)
    gc.collect()
    gc.freeze()  # what is loaded by now stays; the collector need not walk it again and again
    logging.basicConfig(level=logging.INFO, format="%(message)s")
    if at.certificate:
        _serve_tls(app, at, taken)
    else:
        _serve_plain(app, taken)


def _by_processes(config: Config, at: Listening) -> None:
    """As many processes as asked, each begun anew if it ends by itself; all end with this one."""
    taken = at.opened()
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))  # so that they end with it, however it is stopped
    workers = [_begun(config, at, taken) for _ in range(at.workers)]
    while True:
        multiprocessing.connection.wait([one.sentinel for one in workers])
        time.sleep(RESTART_S)  # one that cannot start does not keep the machine busy with starting
        for n, one in enumerate(workers):
            if not one.is_alive():
                print(f"A process ended ({one.exitcode}); another takes its place.", flush=True)
                workers[n] = _begun(config, at, taken)


def _begun(config: Config, at: Listening, taken: socket.socket) -> SpawnProcess:
    worker = multiprocessing.get_context("spawn").Process(target=_worker, args=(config, at, taken), daemon=True)
    worker.start()
    return worker


def _worker(config: Config, at: Listening, taken: socket.socket) -> None:
    """One of several: ends when its parent does, whatever became of that."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is the parent's
    threading.Thread(target=_end_with_parent, daemon=True).start()
    serve_from(config, at, taken)


def _end_with_parent() -> None:
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(0)


def _serve_plain(app: Flask, taken: socket.socket) -> None:
    from waitress import serve

    logging.getLogger("waitress").setLevel(logging.ERROR)
    # Its own limit stands behind ours; who says nothing for long, or opens many lines, keeps nobody else waiting.
    limits = {"max_request_body_size": most_bytes(app), "channel_timeout": 20, "cleanup_interval": 5}
    serve(app, sockets=[taken], threads=8, connection_limit=900, asyncore_use_poll=True, **limits)


def most_bytes(app: Flask) -> int:
    """No request is larger than the largest a page takes; a squad's archive only while there is no squad."""
    if app.extensions["settings"].first_code:
        return PACKED_MOST
    taken = [getattr(view, "most_bytes", 0) for view in app.view_functions.values()]
    return max([4 * UPLOAD_MOST_BYTES, *(most for most in taken if most < PACKED_MOST)])


def _serve_tls(app: Flask, at: Listening, taken: socket.socket) -> None:
    from cheroot.ssl.builtin import BuiltinSSLAdapter
    from cheroot.wsgi import Server

    class OnSocket(Server):
        """Takes its requests from a socket that is open already."""

        def bind(self, *_: Any) -> socket.socket:
            self.socket = taken
            return taken

    server = OnSocket((at.host, at.port), app, numthreads=16, timeout=20)
    server.max_request_body_size = most_bytes(app)
    server.ssl_adapter = BuiltinSSLAdapter(str(at.certificate), str(at.key or at.certificate))
    try:
        server.start()
    finally:
        server.stop()


def clock() -> Clock:
    """The time of this place, for the names of copies."""
    return Clock(None)


@contextmanager
def post_delivered(config: Config, every_s: float = POST_LOOK_S) -> Iterator[None]:
    """While serving: what waits to be sent is handed to the post service, in a thread of its own."""
    end = threading.Event()

    def look() -> None:
        database = Database(config.database)
        while not end.wait(every_s):
            try:
                deliver_due(database, config, end)
            except Busy:  # the next look tries again
                continue
        database.close()

    thread = threading.Thread(target=look, name="post", daemon=True)
    if config.post:
        thread.start()
    try:
        yield
    finally:
        end.set()
        if config.post:
            thread.join(WAIT_S)


def deliver_due(database: Database, config: Config, end: threading.Event | None = None) -> None:
    """Hand over what is due, one at a time, nobody kept waiting by a lock while the service thinks."""
    if config.post is None:
        return
    with database.reader() as db:
        due = due_messages(db, clock().real())
    for message_id in due:
        if end is not None and end.is_set():
            return
        with database.writing() as db:
            row = set_out(db, message_id, clock().real())
            letter = row and Letter(row.address, row.subject, row.text, row.file_name, row.file)
            key = row.key if row else ""
        if not letter:
            continue
        trouble = ""
        try:
            hand_over(*config.post, key, letter)
        except NotTaken as problem:
            trouble = str(problem)
        with database.writing() as db:
            arrived(db, message_id, clock().real(), trouble)


@contextmanager
def kept_nightly(config: Config) -> Iterator[None]:
    """While serving: a copy of the data for every day, looked after in a thread of its own."""
    end = threading.Event()

    def look() -> None:
        while True:
            try:
                nightly(config.database, clock().now())
            except Unsound as problem:
                logging.getLogger("backsquat").error("the day's copy was not made: %s", problem)
            if end.wait(NIGHT_LOOK_S):
                return

    thread = threading.Thread(target=look, name="nightly copy", daemon=True)
    thread.start()
    try:
        yield
    finally:
        end.set()
