"""Remember what a change replaced, and put it back.

Each kind of subject registers how it is restored, so that one undo serves all of them. What moves a plan is one
history (`PLAN`): undone in reverse order, whatever it was, and done again only while nothing else was done since.
"""

from collections.abc import Callable, Mapping
from typing import Any

from sqlalchemy import ColumnElement, and_, or_, select, update
from sqlalchemy.orm import Session

from backsquat.core.errors import NotAllowed, NotThere, Refused
from backsquat.storage.models import Change
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, may

Restore = Callable[[WorkContext, Change], dict[str, Any] | None]
RESTORERS: dict[str, Restore] = {}
OF_BLOCK = ("spans", "cells", "exercises", "missed", "sessions", "days", "own_work")  # their subject is a block
PLAN = (*OF_BLOCK, "assignments")  # who trains where moves numbers in every block


def restores(subject: str) -> Callable[[Restore], Restore]:
    """Register how a subject is put back.

    The function puts back what `change.before` says, and answers with what that replaced, in the same
    form, where it can be done again; with None where it cannot.
    """

    def register(restore: Restore) -> Restore:
        RESTORERS[subject] = restore
        return restore

    return register


def remember(
    context: WorkContext,
    *,
    what: str,
    subject: str,
    subject_id: int,
    before: dict[str, Any],
    facts: Mapping[str, Any] | None = None,
) -> Change:
    """Keep a change with what it replaced; `facts` are what its sentence names."""
    if subject in PLAN:
        _cut_off(context.db, context.squad_id)
    change = Change(
        by_id=context.actor.user_id,
        at=context.now,
        squad_id=context.squad_id,
        what=what,
        subject=subject,
        subject_id=subject_id,
        before=before,
        facts=dict(facts or {}),
    )
    context.db.add(change)
    context.db.flush()
    return change


def _cut_off(db: Session, squad_id: int) -> None:
    """Something new was done: what had been undone before is done again no more."""
    db.execute(update(Change).where(Change.squad_id == squad_id, Change.again).values(again=False))


def undo(context: WorkContext, change_id: int) -> Change:
    """Put back what the change replaced. Refused where a later change of the same subject still stands.

    Who may plan takes back anything; the others what they did themselves.
    """
    change = context.db.get(Change, change_id)
    if change is None or change.squad_id != context.squad_id:
        raise NotThere("change")
    if change.by_id != context.actor.user_id and not may(context.actor.role, Act.PLAN):
        raise NotAllowed("role")
    later = context.db.scalars(select(Change.id).where(_beside(change), Change.id > change.id, ~Change.undone)).first()
    if change.undone or later:
        raise Refused("undone")
    return _turned(context, change)


def restore_together(context: WorkContext, change: Change) -> None:
    """Take back everything that was done as one, the last first; what was taken back by itself since is left."""
    ids = change.before["changes"]
    standing = context.db.scalars(
        select(Change.id).where(Change.id.in_(ids), ~Change.undone).order_by(Change.id.desc())
    )
    for change_id in list(standing):
        undo(context, change_id)


def redo(context: WorkContext, change_id: int) -> Change:
    """Do again what was undone last. Refused where anything else was done since."""
    change = context.db.get(Change, change_id)
    if change is None or change.squad_id != context.squad_id:
        raise NotThere("change")
    if change.by_id != context.actor.user_id and not may(context.actor.role, Act.PLAN):
        raise NotAllowed("role")
    first = context.db.scalars(select(Change.id).where(_beside(change), Change.again).order_by(Change.id)).first()
    if first != change.id:
        raise Refused("undone")
    return _turned(context, change)


def _turned(context: WorkContext, change: Change) -> Change:
    """Undo what stands, do again what is undone: each keeps what the other needs."""
    replaced = RESTORERS[change.subject](context, change)
    change.undone = not change.undone
    note(context.db, context.actor, "undone" if change.undone else "redone", change=change.id, what=change.what)
    change.again = change.undone and replaced is not None
    if replaced is not None:
        change.before = replaced
    return change


def _beside(change: Change) -> ColumnElement[bool]:
    """The changes of the same history."""
    if change.subject == "assignments":
        return and_(Change.squad_id == change.squad_id, Change.subject.in_(PLAN))
    if change.subject in OF_BLOCK:
        return plan_history(change.squad_id, change.subject_id)
    same = Change.subject == change.subject, Change.subject_id == change.subject_id
    return and_(Change.squad_id == change.squad_id, *same)


def plan_history(squad_id: int, block_id: int) -> ColumnElement[bool]:
    """Everything that moved the plan of a block."""
    of_block = and_(Change.subject.in_(OF_BLOCK), Change.subject_id == block_id)
    return and_(Change.squad_id == squad_id, or_(of_block, Change.subject == "assignments"))


def last_of_plan(db: Session, squad_id: int, block_id: int) -> tuple[Change | None, Change | None]:
    """What an undo of a block's plan would take back, and what a redo would do again."""
    here = plan_history(squad_id, block_id)
    standing = select(Change).where(here, ~Change.undone).order_by(Change.id.desc()).limit(1)
    undone = select(Change).where(here, Change.again).order_by(Change.id).limit(1)
    return db.scalars(standing).first(), db.scalars(undone).first()


def last_change(db: Session, squad_id: int, subject: str, subject_id: int) -> Change | None:
    """The newest change of a subject that can still be undone."""
    return db.scalars(
        select(Change)
        .where(Change.squad_id == squad_id, Change.subject == subject, Change.subject_id == subject_id, ~Change.undone)
        .order_by(Change.id.desc())
    ).first()
