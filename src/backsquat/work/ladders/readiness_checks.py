"""Letting people through readiness checks by name and reason, and shutting them again."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.rules import Rules
from backsquat.storage.models import Change, ReadinessClearance
from backsquat.work.actor import Actor
from backsquat.work.audit import note
from backsquat.work.journal import remember, restores
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of


def clear_with_reason(
    db: Session, actor: Actor, athlete_id: int, readiness_check: ReadinessCheck, reason: str, rules: Rules
) -> ReadinessClearance:
    """Let an athlete past a readiness check by name and reason. Pain stops and a minor's consent stay in force."""
    require(actor, Act.KEEP_ATHLETES)
    athlete_of(db, actor.squad_id, athlete_id)
    if len(reason.strip()) < 5:
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    override = ReadinessClearance(
        athlete_id=athlete_id,
        readiness_check=readiness_check.value,
        reason=reason.strip()[:200],
        by_id=actor.user_id,
        at=actor.now,
    )
    db.add(override)
    db.flush()
    note(db, actor, "readiness_cleared", athlete=athlete_id, readiness_check=readiness_check.value)
    remember(db, actor, what="readiness_cleared", subject="override", subject_id=override.id, before={"ended": True})
    refresh_athlete(db, actor, athlete_id, rules)
    return override


def end_override(db: Session, actor: Actor, athlete_id: int, readiness_check: ReadinessCheck, rules: Rules) -> None:
    """Shut a readiness check again that was opened by an override."""
    require(actor, Act.KEEP_ATHLETES)
    athlete_of(db, actor.squad_id, athlete_id)
    rows = db.scalars(
        select(ReadinessClearance).where(
            ReadinessClearance.athlete_id == athlete_id,
            ReadinessClearance.readiness_check == readiness_check.value,
            ~ReadinessClearance.ended,
        )
    ).all()
    if not rows:
        raise NotThere("override")
    for row in rows:
        row.ended = True
        note(db, actor, "override_ended", athlete=athlete_id, readiness_check=readiness_check.value)
        remember(db, actor, what="override_ended", subject="override", subject_id=row.id, before={"ended": False})
    refresh_athlete(db, actor, athlete_id, rules)


@restores("override")
def restore_override(db: Session, _actor: Actor, change: Change) -> None:
    """Undo: the override holds or has ended as before."""
    db.get_one(ReadinessClearance, change.subject_id).ended = change.before["ended"]
