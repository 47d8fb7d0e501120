"""The audit log: sign-ins, roles, health readings, stops, clearances, overrides, consent.

A line carries the digest of the line before it, so that changing or losing one in the middle shows; the
database refuses to change or delete lines. What is cut off at the end shows against a copy, or against the
digest of the last line noted elsewhere.
"""

import datetime as dt
import hashlib
import json
from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from backsquat.storage.models import AuditLine, Membership, User
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require

FIRST = "0" * 64
ATHLETE = "athlete "  # before the number, where an athlete did something
LINES_MOST = 200


def note(db: Session, actor: Actor, what: str, /, **about: Any) -> AuditLine:
    """One line for what somebody does now; `about` are ids and plain words, never a diagnosis."""
    return note_of(db, actor.now, what, about, user_id=actor.user_id, squad_id=actor.squad_id)


def note_of(
    db: Session,
    at: dt.datetime,
    what: str,
    about: Mapping[str, Any],
    *,
    user_id: int | None = None,
    squad_id: int | None = None,
) -> AuditLine:
    """One line where nobody acts for a squad yet: signing in, failing to."""
    who = db.get(User, user_id) if user_id else None
    if squad_id is None and user_id:
        squad_id = db.scalar(select(Membership.squad_id).where(Membership.user_id == user_id).limit(1))
    before = db.scalar(select(AuditLine.digest).order_by(AuditLine.id.desc()).limit(1)) or FIRST
    line = AuditLine(
        at=at,
        squad_id=squad_id,
        user_id=user_id,
        who=_named(db, who),
        what=what,
        about=dict(about),
        before=before,
        digest="",
    )
    line.digest = digest_of(line)
    db.add(line)
    db.flush()
    return line


def _named(db: Session, who: User | None) -> str:
    """How a line names somebody: an athlete by the number alone, which is all that is left after an erasure."""
    if who is None:
        return ""
    athlete_id = db.scalar(
        select(Membership.athlete_id).where(Membership.user_id == who.id, Membership.athlete_id.is_not(None)).limit(1)
    )
    return who.name if athlete_id is None else f"{ATHLETE}{athlete_id}"


def digest_of(line: AuditLine) -> str:
    """SHA-256 over the line before and everything this one says."""
    said = [line.before, line.at.isoformat(), line.squad_id, line.user_id, line.who, line.what, line.about]
    return hashlib.sha256(json.dumps(said, sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def first_broken(db: Session) -> int | None:
    """Id of the first line that does not follow from the one before it; None where all do."""
    before = FIRST
    for line in db.scalars(select(AuditLine).order_by(AuditLine.id)).yield_per(500):
        if line.before != before or line.digest != digest_of(line):
            return line.id
        before = line.digest
    return None


def lines_of(context: WorkContext, until: int | None = None, most: int | None = LINES_MOST) -> list[AuditLine]:
    """The squad's lines, newest first, below an id where one is given; None for `most`: all of them."""
    require(context.actor, Act.AUDIT)
    people = select(Membership.user_id).where(Membership.squad_id == context.squad_id)
    mine = or_(AuditLine.squad_id == context.squad_id, AuditLine.squad_id.is_(None) & AuditLine.user_id.in_(people))
    asked = select(AuditLine).where(mine).order_by(AuditLine.id.desc()).limit(most)
    if until is not None:
        asked = asked.where(AuditLine.id < until)
    found: Sequence[AuditLine] = context.db.scalars(asked).all()
    return list(found)
