"""A week of the demo's season: its sessions' days, what the sheet has in them, and how they are changed."""

from collections.abc import Sequence
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Block, BlockSession, Cell, Exercise, SessionDay
from tests.demo_club import reading

TWO_MATCHES = "2026-12-14"  # the cup on Wednesday, the league on Saturday
THIS_WEEK = "2026-11-23"
SQUAT_DAY, HINGE_DAY = "Squat day", "Hinge day"


def day_row(app: Flask, name: str, week: int) -> SessionDay:
    """The day of a session of the November wave in a week of it, from 0."""
    with reading(app) as db:
        block = select(Block.id).where(Block.name == "November wave").scalar_subquery()
        query = select(SessionDay).join(BlockSession, BlockSession.id == SessionDay.session_id)
        query = query.where(BlockSession.block_id == block, BlockSession.name == name, SessionDay.week == week)
        return db.scalars(query).one()


def cells_of(app: Flask, row: SessionDay) -> Sequence[Cell]:
    """What the sheet has in a session in its week."""
    with reading(app) as db:
        exercises = select(Exercise.id).where(Exercise.session_id == row.session_id, ~Exercise.removed)
        query = select(Cell).where(Cell.exercise_id.in_(exercises), Cell.week == row.week, Cell.current)
        return db.scalars(query).all()


def change_day(client: FlaskClient, row: SessionDay, week: str, **what: Any) -> str:
    address = f"/season/sessions/{row.session_id}/{row.week}"
    return client.post(address, data={"week": week, **what}, follow_redirects=True).text


def fit(client: FlaskClient, week: str, **one: Any) -> str:
    return client.post("/season/fit", data={"week": week, **one}, follow_redirects=True).text
