"""Letting people through gates by name and reason, and shutting them again."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.movement import Gate
from backsquat.core.rules import Rules
from backsquat.storage.models import Change, GateOverride
from backsquat.work.actor import Actor
from backsquat.work.audit import note
from backsquat.work.journal import remember, restores
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of


def override_gate(
    session: Session, actor: Actor, athlete_id: int, gate: Gate, reason: str, rules: Rules
) -> GateOverride:
    """Let an athlete through a gate by name and reason. Pain stops and a minor's consent stay in force."""
    require(actor, Act.KEEP_ATHLETES)
    athlete_of(session, actor.squad_id, athlete_id)
    if len(reason.strip()) < 5:
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    override = GateOverride(
        athlete_id=athlete_id, gate=gate.value, reason=reason.strip()[:200], by_id=actor.user_id, at=actor.now
    )
    session.add(override)
    session.flush()
    note(session, actor, "gate_overridden", athlete=athlete_id, gate=gate.value)
    remember(session, actor, what="gate_overridden", subject="override", subject_id=override.id, before={"ended": True})
    refresh_athlete(session, actor, athlete_id, rules)
    return override


def end_override(session: Session, actor: Actor, athlete_id: int, gate: Gate, rules: Rules) -> None:
    """Shut a gate again that was opened by an override."""
    require(actor, Act.KEEP_ATHLETES)
    athlete_of(session, actor.squad_id, athlete_id)
    rows = session.scalars(
        select(GateOverride).where(
            GateOverride.athlete_id == athlete_id, GateOverride.gate == gate.value, ~GateOverride.ended
        )
    ).all()
    if not rows:
        raise NotThere("override")
    for row in rows:
        row.ended = True
        note(session, actor, "override_ended", athlete=athlete_id, gate=gate.value)
        remember(session, actor, what="override_ended", subject="override", subject_id=row.id, before={"ended": False})
    refresh_athlete(session, actor, athlete_id, rules)


@restores("override")
def restore_override(session: Session, _actor: Actor, change: Change) -> None:
    """Undo: the override holds or has ended as before."""
    session.get_one(GateOverride, change.subject_id).ended = change.before["ended"]
