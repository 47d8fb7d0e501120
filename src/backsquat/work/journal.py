"""Remember what a change replaced, and put it back.

Each kind of subject registers how it is restored, so that one undo serves all of them.
"""

from collections.abc import Callable
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotAllowed, NotThere, Refused
from backsquat.storage.models import Change
from backsquat.work.actor import Actor
from backsquat.work.policy import Act, may

Restore = Callable[[Session, Actor, Change], None]
RESTORERS: dict[str, Restore] = {}


def restores(subject: str) -> Callable[[Restore], Restore]:
    def register(restore: Restore) -> Restore:
        RESTORERS[subject] = restore
        return restore

    return register


def remember(
    session: Session, actor: Actor, *, what: str, subject: str, subject_id: int, before: dict[str, Any]
) -> Change:
    change = Change(
        by_id=actor.user_id,
        at=actor.now,
        squad_id=actor.squad_id,
        what=what,
        subject=subject,
        subject_id=subject_id,
        before=before,
    )
    session.add(change)
    session.flush()
    return change


def undo(session: Session, actor: Actor, change_id: int) -> Change:
    """Put back what the change replaced. Refused where a later change of the same subject still stands.

    Who may plan takes back anything; the others what they did themselves.
    """
    change = session.get(Change, change_id)
    if change is None or change.squad_id != actor.squad_id:
        raise NotThere("change")
    if change.by_id != actor.user_id and not may(actor.role, Act.PLAN):
        raise NotAllowed("role")
    later = session.scalars(
        select(Change.id).where(
            Change.subject == change.subject,
            Change.subject_id == change.subject_id,
            Change.squad_id == actor.squad_id,
            Change.id > change.id,
            ~Change.undone,
        )
    ).first()
    if change.undone or later:
        raise Refused("undone")
    RESTORERS[change.subject](session, actor, change)
    change.undone = True
    return change


def last_change(session: Session, squad_id: int, subject: str, subject_id: int) -> Change | None:
    """The newest change of a subject that can still be undone."""
    return session.scalars(
        select(Change)
        .where(Change.squad_id == squad_id, Change.subject == subject, Change.subject_id == subject_id, ~Change.undone)
        .order_by(Change.id.desc())
    ).first()
