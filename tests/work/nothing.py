"""A squad made from nothing, as small as a test of the operations needs it."""

import datetime as dt
from pathlib import Path
from typing import Any

from backsquat.core.roles import Role
from backsquat.storage.database import Database
from backsquat.storage.models import Athlete, Squad
from backsquat.work.accounts.people import add_person
from backsquat.work.actor import Actor
from tests.empty import empty_data

TODAY = dt.date(2026, 11, 23)
ACTOR = Actor(1, 1, dt.datetime.combine(TODAY, dt.time(18)))


def from_nothing(folder: Path, **athlete: Any) -> Database:
    """One squad with its coach and one grown athlete; all three have the id 1."""
    empty_data(folder / "d.sqlite3")
    database = Database(folder / "d.sqlite3")
    with database.writing() as db:
        db.add(Squad(club="a", name="b"))
        db.flush()
        add_person(db, sign_in="c", name="Coach", password="long enough", squad_id=1, role=Role.COACH, cost=1)
        db.flush()
        db.add(Athlete(squad_id=1, name="A", born_on=dt.date(2000, 1, 1), by_id=1, at=ACTOR.now, **athlete))
    return database
