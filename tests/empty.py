"""A data file with every table and nothing in it: migrated once in a process, copied for whoever needs one."""

import atexit
import shutil
import tempfile
from functools import cache
from pathlib import Path

from backsquat.storage.migrate import migrate


@cache
def _migrated() -> Path:
    folder = tempfile.mkdtemp(prefix="backsquat-empty-")
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    migrate(Path(folder) / "empty.sqlite3")
    return Path(folder) / "empty.sqlite3"


def empty_data(path: Path) -> None:
    """Put an empty data file of the newest schema there."""
    shutil.copy(_migrated(), path)
