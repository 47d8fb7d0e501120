"""A verdict as a refusal: for doors at which something is offered or asked for."""

import datetime as dt

from backsquat.core.errors import Refused
from backsquat.core.movements.movement import Movement
from backsquat.core.readiness.verdict import Readiness, Reason, Short


def refuse(ready: Readiness, movement: Movement, day: dt.date | None = None, leaving: tuple[Reason, ...] = ()) -> None:
    """Raise Refused where the athlete may not do this movement on a day (today where none is said).

    `leaving` are reasons that do not matter at this door.
    """
    obstacle = ready.judge(movement, day).but(*leaving).first
    if obstacle is None:
        return
    name = ready.person.name
    if obstacle.reason is Reason.STOPPED and obstacle.stop:
        raise Refused("locked", name=name, region=obstacle.stop.region)
    if obstacle.reason is Reason.AWAY and obstacle.absence:
        raise Refused("away", name=name, since=obstacle.absence.first_on.isoformat())
    if obstacle.reason is Reason.BARRED and obstacle.limit:
        raise Refused("barred", name=name, movement=movement.name, by=obstacle.limit.set_by)
    if obstacle.unearned and obstacle.unearned.why is Short.NO_CONSENT:
        raise Refused("consent", name=name)
    raise Refused("unearned" if obstacle.reason is Reason.UNEARNED else "not_ready", name=name)
