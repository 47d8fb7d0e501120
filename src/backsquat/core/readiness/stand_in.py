"""What an athlete does in the stead of a movement they may not do: the own rung, or the most alike (rules 2.6)."""

import datetime as dt

from backsquat.core.movements.choice import unlikeness
from backsquat.core.movements.ladder import Ladder
from backsquat.core.movements.movement import Movement
from backsquat.core.readiness.verdict import Readiness


def own_rung(ready: Readiness, ladder: Ladder, day: dt.date | None = None) -> Movement | None:
    """The work of the athlete's own rung of a ladder, or of the next below that may be done here; None: no rung."""
    held = ready.rungs.get(ladder.code)
    own = ladder.rung_of(held.movement) if held else None
    if held is None or own is None:
        return None
    if ready.may(held.movement, day):
        return ready.library.movements[held.movement]
    for rung in range(own, -1, -1):
        code = next((code for code in ladder.rungs[rung] if ready.may(code, day)), None)
        if code:
            return ready.library.movements[code]
    return None


def rung_work(ready: Readiness, movement: Movement, day: dt.date | None = None) -> Movement | None:
    """The own rung's work for a movement behind a shut gate, from a ladder it stands on; None: on no such rung."""
    for ladder, rung in ready.library.ladders_of(movement.code):
        held = ready.rungs.get(ladder.code)
        own = ladder.rung_of(held.movement) if held else None
        if own is not None and own <= rung:
            work = own_rung(ready, ladder, day)
            if work:
                return work
    return None


def most_alike(ready: Readiness, movement: Movement, day: dt.date | None = None) -> Movement | None:
    """The movement of the same family most like this one that may be done here on that day; None: nothing may."""
    others = [
        other
        for other in ready.library.in_use()
        if other.family is movement.family and other.code != movement.code and ready.may(other.code, day)
    ]
    return min(others, key=lambda other: (unlikeness(movement, other), other.name), default=None)
