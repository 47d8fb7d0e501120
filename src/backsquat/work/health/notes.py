"""Health notes, and who has read them."""

import datetime as dt

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.movement import Region
from backsquat.storage.models import HealthNote, Reading, User
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of


def add_note(context: WorkContext, athlete_id: int, words: str, region: str) -> HealthNote:
    """What coach and physio must know; other roles never see it."""
    require(context.actor, Act.TREAT)
    athlete_of(context.db, context.squad_id, athlete_id)
    found = []
    if not words.strip():
        found.append(Problem("words", "missing"))
    if len(words) > 500:
        found.append(Problem("words", "too_long", {"most": 500}))
    if region and region not in set(Region):
        found.append(Problem("region", "unknown_what"))
    if found:
        raise ImpossibleInput(*found)
    row = HealthNote(
        athlete_id=athlete_id, region=region, words=words.strip(), by_id=context.actor.user_id, at=context.now
    )
    context.db.add(row)
    context.db.flush()
    return row


def end_note(context: WorkContext, note_id: int) -> None:
    """Set a note aside; it stays on record."""
    require(context.actor, Act.TREAT)
    row = context.db.get(HealthNote, note_id)
    if row is None or row.ended:
        raise NotThere("note")
    athlete_of(context.db, context.squad_id, row.athlete_id)
    row.ended = True


def log_reading(context: WorkContext, athlete_id: int) -> None:
    """Opening somebody's health notes leaves a line, every time."""
    context.db.add(Reading(athlete_id=athlete_id, what="health notes", by_id=context.actor.user_id, at=context.now))
    note(context.db, context.actor, "health_read", athlete=athlete_id)


def notes_of(db: Session, athlete_id: int) -> list[tuple[HealthNote, str]]:
    rows = db.execute(
        select(HealthNote, User.name)
        .join(User, HealthNote.by_id == User.id)
        .where(HealthNote.athlete_id == athlete_id)
        .order_by(HealthNote.ended, HealthNote.id.desc())
    )
    return [(row, name) for row, name in rows]


def readings_of(db: Session, athlete_id: int, most: int = 8) -> list[tuple[dt.datetime, str]]:
    """Who read them last and when, a line each person; every single reading is in the audit log."""
    rows = db.execute(
        select(func.max(Reading.at), User.name)
        .join(User, Reading.by_id == User.id)
        .where(Reading.athlete_id == athlete_id)
        .group_by(User.id)
        .order_by(func.max(Reading.at).desc())
        .limit(most)
    )
    return [(at, name) for at, name in rows]
