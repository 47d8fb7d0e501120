"""Changing a squad's defaults; a change of the estimate's rules brings stored estimates in line."""

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.rules import Rules
from backsquat.features.athletes.operations import put_estimate
from backsquat.features.desk import Actor, rules_of
from backsquat.features.journal import remember, restores
from backsquat.storage.models import Athlete, Change, RuleChange, SetEntry


def change_rule(session: Session, actor: Actor, name: str, value: Any) -> Change:
    """Put a value in place of a default (None: back to the default)."""
    old = getattr(rules_of(session, actor.squad_id), name)
    row = RuleChange(squad_id=actor.squad_id, name=name, value=value, by_id=actor.user_id, at=actor.now)
    session.add(row)
    session.flush()
    _recalculate(session, actor.squad_id)
    before = {"name": name, "value": None if old == getattr(Rules(), name) else old}
    return remember(
        session, actor, what="rule_changed", subject="rule", subject_id=actor.squad_id, before=before
    )


@restores("rule")
def restore_rule(session: Session, actor: Actor, change: Change) -> None:
    session.add(
        RuleChange(
            squad_id=actor.squad_id, name=change.before["name"], value=change.before["value"],
            by_id=actor.user_id, at=actor.now,
        )
    )  # fmt: skip
    session.flush()
    _recalculate(session, actor.squad_id)


def _recalculate(session: Session, squad_id: int) -> None:
    """Estimates kept beside sets follow the squad's rules; the sets themselves never change."""
    rules = rules_of(session, squad_id)
    entries = session.scalars(
        select(SetEntry)
        .join(Athlete, SetEntry.athlete_id == Athlete.id)
        .where(Athlete.squad_id == squad_id, ~SetEntry.replaced, ~SetEntry.withdrawn)
    )
    for entry in entries:
        put_estimate(entry, rules)
    session.flush()
