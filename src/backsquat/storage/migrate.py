"""Bring a database to the newest schema.

Foreign keys are off while a migration runs, since SQLite rebuilds a table to alter it and would
take the child rows with it; `foreign_key_check` afterwards proves that none was lost.
"""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine

MIGRATIONS = Path(__file__).parent / "migrations"


def config() -> Config:
    settings = Config()
    settings.set_main_option("script_location", str(MIGRATIONS))
    settings.set_main_option("file_template", "%%(year)d%%(month).2d%%(day).2d_%%(slug)s")
    return settings


def migrate(path: Path) -> None:
    """Upgrade the SQLite file at `path`, making it where there is none."""
    engine = create_engine(f"sqlite:///{path}")
    try:
        with engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
            settings = config()
            settings.attributes["connection"] = connection
            command.upgrade(settings, "head")
            broken = connection.exec_driver_sql("PRAGMA foreign_key_check").fetchall()
            if broken:
                raise RuntimeError(f"migration left rows without their parents: {broken[:5]}")
    finally:
        engine.dispose()
