"""Bring a database to the newest schema.

Foreign keys are off while a migration runs, since SQLite rebuilds a table to alter it and would
take the child rows with it; `foreign_key_check` afterwards proves that none was lost.
"""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy.exc import DatabaseError

from backsquat.storage.database import make_engine
from backsquat.storage.stamps import watch

MIGRATIONS = Path(__file__).parent / "migrations"


def config() -> Config:
    settings = Config()
    settings.set_main_option("script_location", str(MIGRATIONS))
    settings.set_main_option("file_template", "%%(year)d%%(month).2d%%(day).2d_%%(slug)s")
    return settings


def keep_watch(path: Path) -> None:
    """See to it that the writes of a file of the newest schema move their stamps, whichever program made it."""
    engine = make_engine(path)
    try:
        with engine.begin() as connection:
            watch(connection)
    finally:
        engine.dispose()


class Unmigratable(Exception):
    """The file is no database of this application, or a migration failed; nothing was changed."""


def migrate(path: Path, to: str = "head") -> None:
    """Upgrade the SQLite file at `path`, making it where there is none: all in one transaction."""
    engine = make_engine(path, foreign_keys=False)
    try:
        with engine.begin() as connection:
            settings = config()
            settings.attributes["connection"] = connection
            command.upgrade(settings, to)
            if to == "head":
                watch(connection)
            broken = connection.exec_driver_sql("PRAGMA foreign_key_check").fetchall()
            if broken:
                raise Unmigratable(f"a migration would leave rows without their parents: {broken[:5]}")
    except DatabaseError as error:
        raise Unmigratable(str(error.orig)) from error
    finally:
        engine.dispose()
