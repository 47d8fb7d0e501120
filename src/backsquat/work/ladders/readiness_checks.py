"""Letting people through readiness checks by name and reason, and shutting them again."""

from sqlalchemy import select

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.storage.models import Change, ReadinessClearance
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of


def clear_with_reason(
    context: WorkContext, athlete_id: int, readiness_check: ReadinessCheck, reason: str
) -> ReadinessClearance:
    """Let an athlete past a readiness check by name and reason. Pain stops and a minor's consent stay in force."""
    require(context.actor, Act.KEEP_ATHLETES)
    athlete_of(context.db, context.squad_id, athlete_id)
    if len(reason.strip()) < 5:
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    override = ReadinessClearance(
        athlete_id=athlete_id,
        readiness_check=readiness_check.value,
        reason=reason.strip()[:200],
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(override)
    context.db.flush()
    note(context.db, context.actor, "readiness_cleared", athlete=athlete_id, readiness_check=readiness_check.value)
    remember(context, what="readiness_cleared", subject="override", subject_id=override.id, before={"ended": True})
    refresh_athlete(context, athlete_id)
    return override


def end_override(context: WorkContext, athlete_id: int, readiness_check: ReadinessCheck) -> None:
    """Shut a readiness check again that was opened by an override."""
    require(context.actor, Act.KEEP_ATHLETES)
    athlete_of(context.db, context.squad_id, athlete_id)
    rows = context.db.scalars(
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
        note(context.db, context.actor, "override_ended", athlete=athlete_id, readiness_check=readiness_check.value)
        remember(context, what="override_ended", subject="override", subject_id=row.id, before={"ended": False})
    refresh_athlete(context, athlete_id)


@restores("override")
def restore_override(context: WorkContext, change: Change) -> None:
    """Undo: the override holds or has ended as before."""
    context.db.get_one(ReadinessClearance, change.subject_id).ended = change.before["ended"]
