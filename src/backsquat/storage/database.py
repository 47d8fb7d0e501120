"""The SQLite database: how it is opened, read and written.

WAL, every commit on the disk (synchronous=FULL), foreign keys on, a busy timeout. The driver's own
transaction handling is off; reads begin deferred, writes begin IMMEDIATE under one process-wide lock, so
that threads queue here and not in the database's busy handler. `writing()` is the one place that commits
or rolls back.
"""

import datetime as dt
import sqlite3
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import ColumnElement, Connection, Date, Engine, TableValuedAlias, create_engine, event, func
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlalchemy.orm import Session
from sqlalchemy.pool import StaticPool

from backsquat.storage.cache import CACHE, LOOKED_AT, Cache

BUSY_TIMEOUT_MS = 1_500  # of another process
COPY_QUEUE_S = 20.0  # whoever wants to try something waits for the one who is trying
QUEUE_S = 1.8  # of this one: whoever waits longer is told that nothing was stored
CACHE_KB = 16_384  # of pages, for each connection; the usual 2 MB do not hold what one page of a large squad reads
NUMBER_MOST = 2**63 - 1  # the longest whole number a row can hold


def day_of(moment: Any) -> ColumnElement[dt.date]:
    """The day of a column of moments, in SQL."""
    return func.date(moment, type_=Date)


def each_of(texts: Any) -> TableValuedAlias:
    """A table with one row for each text of a list given as a parameter; its column is `value`."""
    return func.json_each(texts).table_valued("value")


def days_before(day: Any, days: int) -> ColumnElement[dt.date]:
    """The day so many days before a column of days, in SQL."""
    return func.date(day, f"-{days} days", type_=Date)


def overwrite_deleted(db: Session) -> None:
    """What this transaction deletes is written over, not only let go."""
    db.connection().exec_driver_sql("PRAGMA secure_delete = ON")


class Busy(Exception):
    """Somebody else has been writing for too long, or the disk takes no more: nothing was stored."""

    def __init__(self, full: bool = False) -> None:
        super().__init__("full" if full else "busy")
        self.full = full


class ReaderSession(Session):
    """A session that cannot write, whatever a page does: a fault then shows where it is made.

    Not by SQLite's own `query_only`: setting it makes every statement of the connection again.
    """

    def flush(self, objects: Sequence[Any] | None = None) -> None:
        """Nothing to send; RuntimeError where something was changed."""
        if self.new or self.dirty or self.deleted:
            raise RuntimeError("a session that only reads was asked to write")


class Database:
    """One SQLite file."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.cache = Cache()
        self.engine = make_engine(path)
        self._write_engine = self.engine.execution_options(begin="BEGIN IMMEDIATE")
        self._write_lock = threading.Lock()
        self._copy_lock = threading.Lock()

    def reader(self) -> Session:
        """A session for reading; the caller closes it. It sees one state of the data from its first question on."""
        return ReaderSession(self.engine, expire_on_commit=False, autoflush=False, info={CACHE: self.cache})

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session in one write transaction: committed at the end, rolled back on any exception.

        Busy where the database was not free in time or its disk is full.
        """
        if not self._write_lock.acquire(timeout=QUEUE_S):
            raise Busy
        looks = {LOOKED_AT: self.cache}
        try:
            with Session(self._write_engine, expire_on_commit=False, info=looks) as db, db.begin():
                yield db
        except OperationalError as error:
            said = str(error.orig)
            if "locked" in said or "full" in said:
                raise Busy("full" in said) from error
            raise
        finally:
            self._write_lock.release()

    @contextmanager
    def supposing(self) -> Iterator[Session]:
        """A session over a copy in memory, to try what is stored nowhere: whatever is written there goes with it.

        Nobody who reads or writes waits for it; one copy at a time, Busy where another takes too long.
        """
        if not self._copy_lock.acquire(timeout=COPY_QUEUE_S):
            raise Busy
        copy = sqlite3.connect(":memory:", check_same_thread=False, isolation_level=None)
        try:
            with self.engine.connect() as connection:
                connection.connection.driver_connection.backup(copy)  # type: ignore[union-attr]
            engine = create_engine("sqlite://", creator=lambda: copy, poolclass=StaticPool, hide_parameters=True)
            with Session(engine, expire_on_commit=False) as db:
                yield db
        finally:
            copy.close()
            self._copy_lock.release()

    def forget(self) -> None:
        """Keep nothing of what was read so far."""
        self.cache = Cache()

    def answers(self) -> bool:
        """Whether the database can be read now."""
        try:
            with self.engine.connect() as connection:
                return connection.exec_driver_sql("SELECT count(*) FROM alembic_version").scalar() == 1
        except DatabaseError:
            return False

    def settle(self) -> None:
        """Bring everything into the one file and let the planner count rows again: after a lot was written."""
        with self.engine.connect() as connection:
            connection.exec_driver_sql("ANALYZE")
            connection.commit()
            connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")

    def rewrite(self) -> bool:
        """Write the file again without what was taken out of it; False where that cannot be done now.

        Free pages and the log of the last writes hold what was deleted until something else is written over it.
        """
        try:
            with self._write_lock, self.engine.connect() as connection:
                raw = connection.connection.driver_connection
                assert raw is not None
                raw.execute("VACUUM")
                busy = raw.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()[0]
                return not busy
        except (DatabaseError, sqlite3.Error):
            return False

    def close(self) -> None:
        self.engine.dispose()


def make_engine(path: Path, foreign_keys: bool = True) -> Engine:
    engine = create_engine(
        f"sqlite:///{path}",
        connect_args={"check_same_thread": False, "cached_statements": 512},  # all pages together have some hundreds
        hide_parameters=True,  # an error's traceback goes to a log, and what was typed does not belong there
    )

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, _record: Any) -> None:
        connection.isolation_level = None
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute(f"PRAGMA foreign_keys={'ON' if foreign_keys else 'OFF'}")
        cursor.execute("PRAGMA synchronous=FULL")
        cursor.execute(f"PRAGMA busy_timeout={BUSY_TIMEOUT_MS}")
        cursor.execute(f"PRAGMA cache_size=-{CACHE_KB}")
        cursor.close()

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        connection.exec_driver_sql(connection.get_execution_options().get("begin", "BEGIN"))

    return engine
