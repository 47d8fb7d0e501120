"""A stop after pain: what it locks is kept with it, and only a clearance ends it."""

import datetime as dt
from dataclasses import dataclass

from backsquat.core.movements.movement import Movement
from backsquat.core.readiness.pain import locked_by
from backsquat.storage.models import SetEntry, Stop
from backsquat.work.audit import note
from backsquat.work.context import WorkContext


@dataclass(frozen=True)
class PainFacts:
    """What was said. `level` 0–10; None where the character stops at any number and none was asked for."""

    client_id: str
    region: str
    character: str
    level: int | None = None
    happened_at: dt.datetime | None = None


def put_stop(
    context: WorkContext,
    athlete_id: int,
    movement: Movement | None,
    facts: PainFacts,
    *,
    report_id: int | None = None,
    entry: SetEntry | None = None,
) -> Stop:
    """Lock what loads the place, the movement it came up in and its family; the list is kept with the stop."""
    stop = Stop(
        athlete_id=athlete_id,
        set_id=entry.id if entry else None,
        report_id=report_id,
        movement=movement.code if movement else "",
        family=movement.family.value if movement else "",
        locked=sorted(locked_by(movement, facts.region, context.library.movements.values())),
        level=facts.level,
        region=facts.region,
        character=facts.character,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(stop)
    context.db.flush()
    note(context.db, context.actor, "stopped", athlete=athlete_id, stop=stop.id, movement=stop.movement)
    return stop
