"""Finding things in the demo club by the names a coach would use."""

import datetime as dt
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.storage.models import Athlete, Block, Cell, Exercise, SetEntry, Squad, User
from backsquat.work.library.movements import entry_of

ROOM = {
    "name": "Hall", "unit": "kg", "collars": "0", "racks": "4", "bar_name_0": "Long bar", "bar_amount_0": "20",
    "bar_code_0": "bar20", "plate_amount_0": "20", "plate_pairs_0": "4", "plate_amount_1": "2.5", "plate_pairs_1": "2",
}  # fmt: skip


@contextmanager
def reading(app: Flask) -> Iterator[Session]:
    with app.extensions["database"].reader() as db:
        yield db


def athlete_id(app: Flask, name: str) -> int:
    with reading(app) as db:
        return db.scalars(select(Athlete.id).where(Athlete.name == name)).one()


def let_through(client: FlaskClient, athlete: int) -> None:
    """Through the barbell readiness check by name and reason, as a coach does it."""
    data = {"readiness_check": "barbell", "reason": "seen lifting soundly elsewhere"}
    assert client.post(f"/ladders/{athlete}/override", data=data).status_code == 302


def live_cell(app: Flask, name: str, week: int, movement: str = "back_squat", block: str = "November wave") -> Cell:
    """The live cell of an athlete in a week (from 0) of a demo block."""
    with reading(app) as db:
        return db.scalars(
            select(Cell)
            .join(Exercise, Cell.exercise_id == Exercise.id)
            .join(Block, Exercise.block_id == Block.id)
            .join(Athlete, Cell.athlete_id == Athlete.id)
            .where(
                Athlete.name == name, Cell.week == week, Cell.live, Exercise.movement == movement, Block.name == block
            )
        ).one()


def current_cells(app: Flask, name: str, exercise_id: int) -> list[Cell]:
    with reading(app) as db:
        rows = db.scalars(
            select(Cell)
            .join(Athlete, Cell.athlete_id == Athlete.id)
            .where(Athlete.name == name, Cell.exercise_id == exercise_id, Cell.current)
            .order_by(Cell.week)
        )
        return list(rows)


def entries(app: Flask, cell_id: int) -> list[SetEntry]:
    with reading(app) as db:
        return list(db.scalars(select(SetEntry).where(SetEntry.cell_id == cell_id).order_by(SetEntry.id)))


def undo_of(page: str) -> str:
    """The address that takes back what the page says was just done."""
    return "/undo/" + page.split('action="/undo/')[-1].split('"')[0]


def other_squad(app: Flask) -> tuple[int, int]:
    """A second squad with its own coach and athlete; returns the ids of user and athlete."""
    from backsquat.core.roles import Role
    from backsquat.storage.models import Season
    from backsquat.work.accounts.people import add_person

    with app.extensions["database"].writing() as db:
        squad = Squad(club="Other", name="team")
        db.add(squad)
        db.flush()
        db.add(Season(squad_id=squad.id, name="s", first_week=dt.date(2026, 7, 6), weeks=40))
        user = add_person(
            db, sign_in="other", name="O. Ther", password="long enough", squad_id=squad.id, role=Role.COACH, cost=1
        )
        db.flush()
        athlete = Athlete(
            squad_id=squad.id,
            name="Somebody Else",
            born_on=dt.date(2000, 1, 1),
            by_id=user.id,
            at=dt.datetime(2026, 7, 6),
        )
        db.add(athlete)
        db.flush()
        return user.id, athlete.id


NOON = dt.datetime(2026, 11, 23, 12)


def entry_of_movement(app: Flask, code: str) -> dict[str, Any]:
    """A library entry as plain data, to make the squad's own of."""
    with reading(app) as db:
        return entry_of(db, 1, code).model_dump(exclude={"code"})


def user_id(app: Flask, sign_in: str) -> int:
    with reading(app) as db:
        return db.scalars(select(User.id).where(User.sign_in == sign_in)).one()
