"""Counts of what failed lately, in a small file beside the data: every process of a server counts the same.

It is no part of the data: no copy and no archive holds it, and whoever deletes it only begins to count again.
"""

import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from limits.storage import Storage

from backsquat.storage.database import Busy

FILE = "failures.sqlite3"
WAIT_S = 5.0
MADE = "CREATE TABLE IF NOT EXISTS failures (key TEXT PRIMARY KEY, count INTEGER NOT NULL, until REAL NOT NULL)"
COUNTED = (
    "INSERT INTO failures VALUES (:key, :amount, :until) ON CONFLICT (key) DO UPDATE SET count = count + :amount "
    "RETURNING count"
)


class Failures(Storage):
    """Counts that end by themselves, in a file that processes share."""

    def __init__(self, folder: Path) -> None:
        super().__init__()
        self._path = folder / FILE
        try:
            self._make()
        except sqlite3.DatabaseError:  # damaged: nothing in it is worth more than a server that starts
            self._path.unlink(missing_ok=True)
            self._make()

    def _make(self) -> None:
        file = sqlite3.connect(self._path, timeout=WAIT_S)
        try:
            file.execute(MADE)
        finally:
            file.close()
        self._path.chmod(0o600)

    @contextmanager
    def _open(self) -> Iterator[sqlite3.Connection]:
        """The file in one transaction; Busy where it cannot be written, as for the data: nobody is let in uncounted."""
        file = sqlite3.connect(self._path, timeout=WAIT_S)
        try:
            with file:
                yield file
        except sqlite3.OperationalError as error:
            raise Busy("full" in str(error)) from error
        finally:
            file.close()

    @property
    def base_exceptions(self) -> type[Exception]:
        """What a file that cannot be read or written raises."""
        return sqlite3.Error

    def incr(self, key: str, expiry: float, amount: int = 1) -> int:
        """Count, and say how many there are; those whose time is over go first."""
        with self._open() as file:
            file.execute("DELETE FROM failures WHERE until <= ?", (time.time(),))
            row = file.execute(COUNTED, {"key": key, "amount": amount, "until": time.time() + expiry}).fetchone()
        return int(row[0])

    def get(self, key: str) -> int:
        """How many there are."""
        with self._open() as file:
            asked = "SELECT count FROM failures WHERE key = ? AND until > ?"
            row = file.execute(asked, (key, time.time())).fetchone()
        return int(row[0]) if row else 0

    def get_expiry(self, key: str) -> float:
        """When the count of this key ends."""
        with self._open() as file:
            row = file.execute("SELECT until FROM failures WHERE key = ?", (key,)).fetchone()
        return float(row[0]) if row else time.time()

    def check(self) -> bool:
        """Whether the file can be read."""
        return self.get("") == 0

    def reset(self) -> int:
        """Begin again; how many keys there were."""
        with self._open() as file:
            return file.execute("DELETE FROM failures").rowcount

    def clear(self, key: str) -> None:
        """Begin again with one key."""
        with self._open() as file:
            file.execute("DELETE FROM failures WHERE key = ?", (key,))
