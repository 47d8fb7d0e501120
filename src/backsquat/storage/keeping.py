"""The data file as a whole: whose it is, whether it is sound, copies of it, and who holds it.

Copies are made by SQLite's own online backup, which is right while others write; a plain copy of a database
in use is not. A file is looked at read-only before anything is written to it.
"""

import datetime as dt
import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from alembic.script import ScriptDirectory
from filelock import FileLock, Timeout

from backsquat.storage.migrate import config

MAGIC = b"SQLite format 3\x00"
KEPT_NIGHTLY = 14


class DataKind(StrEnum):
    """Whose data a file holds."""

    OWN = "own"
    DEMO = "demo"


MARKS = {DataKind.OWN: 0x42534F57, DataKind.DEMO: 0x42534445}  # SQLite's application_id: "BSOW", "BSDE"


class Unsound(Exception):
    """The file cannot be used as it is; the message is one sentence, and nothing was written."""


class HeldFile(Exception):
    """Another process holds the data folder; the message says which."""


@dataclass(frozen=True)
class FileFound:
    """What a sound data file is: whose (None: of no squad yet), and whether its schema is the newest."""

    kind: DataKind | None
    newest: bool


def examine(path: Path) -> FileFound:
    """Look at a data file without writing to it; Unsound where it is damaged, cut, newer than this, or not ours."""
    with path.open("rb") as file:
        head = file.read(len(MAGIC))
    if not head:
        raise Unsound(f"the data file {path} is empty; restore a backup, or take the file away to begin again.")
    if head != MAGIC:
        raise Unsound(f"the file {path} is no database; restore a backup, or take the file away to begin again.")
    try:
        with _reading(path) as connection:
            return _looked_at(path, connection)
    except sqlite3.DatabaseError as error:
        raise Unsound(f"the data file {path} is damaged ({error}); restore a backup with make restore.") from None


@contextmanager
def _reading(path: Path) -> Iterator[sqlite3.Connection]:
    connection = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)
    try:
        yield connection
    finally:
        connection.close()


def _looked_at(path: Path, connection: sqlite3.Connection) -> FileFound:
    said = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
    if said != "ok":
        raise Unsound(f"the data file {path} is damaged ({said}); restore a backup with make restore.")
    tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    mark = connection.execute("PRAGMA application_id").fetchone()[0]
    if mark not in (0, *MARKS.values()) or not {"alembic_version", "squads"} <= tables:
        raise Unsound(f"the data file {path} is no data of Back Squat; name another folder in BACKSQUAT_DATA.")
    (revision,) = connection.execute("SELECT version_num FROM alembic_version").fetchone() or ("",)
    known = ScriptDirectory.from_config(config())
    if revision not in {script.revision for script in known.walk_revisions()}:
        raise Unsound(
            f"the data file {path} was written by a newer Back Squat; update the program, or restore an older backup."
        )
    kind = next((kind for kind, code in MARKS.items() if code == mark), None) or _unmarked(connection)
    return FileFound(kind, revision == known.get_current_head())


def _unmarked(connection: sqlite3.Connection) -> DataKind | None:
    """Whose data a file of an earlier version is: the demo's club signs in under its own names."""
    names = {name for (name,) in connection.execute("SELECT sign_in FROM users")}
    if not names:
        return None
    return DataKind.DEMO if {"amari", "lund", "ferro"} <= names else DataKind.OWN


def mark(path: Path, kind: DataKind) -> None:
    """Write into the file whose data it holds."""
    connection = sqlite3.connect(path)
    connection.execute(f"PRAGMA application_id = {MARKS[kind]}")
    connection.close()


def copy(path: Path, target: Path) -> Path:
    """An online backup: made beside its place, checked, and moved in whole."""
    target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    making = target.with_suffix(".making")
    making.unlink(missing_ok=True)
    try:
        with _reading(path) as source:
            copied = sqlite3.connect(making)
            try:
                source.backup(copied)
                copied.execute("PRAGMA journal_mode = DELETE")
                said = copied.execute("PRAGMA quick_check(1)").fetchone()[0]
            finally:
                copied.close()
    except (sqlite3.Error, OSError) as error:
        making.unlink(missing_ok=True)
        raise Unsound(f"no copy of {path} could be made ({error}); nothing was changed.") from None
    if said != "ok":
        making.unlink(missing_ok=True)
        raise Unsound(f"the copy of {path} is not sound ({said}); nothing was changed.")
    _settled(making)
    making.replace(target)
    return target


def _settled(path: Path) -> None:
    """On the disk, not only on its way there."""
    with path.open("rb") as file:
        os.fsync(file.fileno())


def backup(path: Path, why: str, now: dt.datetime) -> Path:
    """A copy in the folder `backups` beside the data, named after why and when."""
    return copy(path, path.parent / "backups" / f"{why}-{now:%Y-%m-%dT%H%M%S}.sqlite3")


def restore(path: Path, source: Path, now: dt.datetime) -> Path | None:
    """Put a backup in the place of the data; the data there were are copied first, and their copy is returned."""
    wanted = examine(source)
    before = None
    if path.exists():
        try:
            kind = examine(path).kind
        except Unsound:
            kind = None  # what is there is damaged: it is kept as it is
            before = path.replace(path.with_name(f"damaged-{now:%Y-%m-%dT%H%M%S}.sqlite3"))
        else:
            before = backup(path, "before-restore", now)
        if kind and wanted.kind and kind is not wanted.kind:
            raise Unsound(f"{source} holds {wanted.kind} data, and {path} holds {kind} data; nothing was changed.")
    fresh = copy(source, path.with_name("restoring.sqlite3"))
    for end in ("-wal", "-shm"):
        Path(f"{path}{end}").unlink(missing_ok=True)
    fresh.replace(path)
    return before


@dataclass(frozen=True)
class OldCopy:
    """A copy beside the data: what it is called, and the day from which it is gone by itself (None: by hand only)."""

    name: str
    gone_on: dt.date | None


def copies_of(path: Path) -> list[OldCopy]:
    """The copies there are of a data file, oldest first: each holds everything that was there when it was made."""
    found = []
    for copied in sorted((path.parent / "backups").glob("*.sqlite3")):
        day = copied.stem.removeprefix("nightly-")[:10]
        nightly_one = copied.stem.startswith("nightly-")
        gone = dt.date.fromisoformat(day) + dt.timedelta(days=KEPT_NIGHTLY) if nightly_one else None
        found.append(OldCopy(copied.name, gone))
    return found


def nightly(path: Path, now: dt.datetime, keep: int = KEPT_NIGHTLY) -> Path | None:
    """The copy of the day, where there is none yet; of the nightly ones so many are kept."""
    folder = path.parent / "backups"
    if any(folder.glob(f"nightly-{now:%Y-%m-%d}T*.sqlite3")):
        return None
    made = backup(path, "nightly", now)
    for old in sorted(folder.glob("nightly-*.sqlite3"))[:-keep]:
        old.unlink()
    return made


@contextmanager
def held(folder: Path) -> Iterator[None]:
    """Hold a data folder: one server, reset or restore at a time. Held where somebody else does."""
    lock, named = FileLock(folder / "in-use.lock", mode=0o600), folder / "in-use"
    try:
        lock.acquire(timeout=0)
    except Timeout:
        who = named.read_text("utf-8").strip() if named.exists() else ""
        message = f"the data folder {folder} is in use by process {who or 'unknown'}; stop that first."
        raise HeldFile(message) from None
    try:
        named.write_text(str(os.getpid()), "utf-8")
        yield
    finally:
        lock.release()
