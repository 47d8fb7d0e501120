"""Listening: plain or by TLS, with bounds on who keeps others waiting, and the day's copy and messages meanwhile."""

import gc
import logging
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from flask import Flask

from backsquat.clock import Clock
from backsquat.config import UPLOAD_MOST_BYTES, Config, SetupProblem
from backsquat.devices.post import WAIT_S, Letter, NotTaken, hand_over
from backsquat.formats.archive import PACKED_MOST
from backsquat.storage.database import Busy, Database
from backsquat.storage.keeping import Unsound, nightly
from backsquat.work.exports.post import arrived, due_messages, set_out

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
    """Where a server listens, and with which certificate."""

    host: str
    port: int
    certificate: Path | None = None
    key: Path | None = None


def listen(config: Config, at: Listening) -> None:
    """Serve until stopped."""
    from backsquat import create_app

    app = create_app(config)
    gc.collect()
    gc.freeze()  # what is loaded by now stays; the collector need not walk it again and again
    logging.basicConfig(level=logging.INFO, format="%(message)s")
    if at.certificate:
        _serve_tls(app, at)
    else:
        _serve_plain(app, at)


def _serve_plain(app: Flask, at: Listening) -> None:
    from waitress import serve

    logging.getLogger("waitress").setLevel(logging.ERROR)
    # Its own limit stands behind ours; who says nothing for long, or opens many lines, keeps nobody else waiting.
    limits = {"max_request_body_size": most_bytes(app), "channel_timeout": 20, "cleanup_interval": 5}
    serve(app, host=at.host, port=at.port, threads=8, connection_limit=900, asyncore_use_poll=True, **limits)


def most_bytes(app: Flask) -> int:
    """No request is larger than the largest a page takes; a squad's archive only while there is no squad."""
    if app.extensions["settings"].first_code:
        return PACKED_MOST
    taken = [getattr(view, "most_bytes", 0) for view in app.view_functions.values()]
    return max([4 * UPLOAD_MOST_BYTES, *(most for most in taken if most < PACKED_MOST)])


def _serve_tls(app: Flask, at: Listening) -> None:
    from cheroot.ssl.builtin import BuiltinSSLAdapter
    from cheroot.wsgi import Server

    server = Server((at.host, at.port), app, numthreads=16, timeout=20)
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
