"""What another rig would do for a session that is too long: work of the same kind that is ready sooner."""

from collections.abc import Collection, Mapping, Sequence

from backsquat.core.movements.movement import BARS, HeldWhere, Implement, Movement
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.sessions.fit import SAVED_LEAST_S
from backsquat.core.sessions.session import Item


def quicker(
    items: Sequence[Item], doing: Mapping[int, Collection[int]], ready: Mapping[int, Readiness]
) -> dict[int, Movement]:
    """By item what could be done in its stead: the most alike that everybody who does it may do, in this room.

    `doing`: the athletes by item. Main lifts keep their own: their records and progressions are theirs.
    """
    here = {item.movement.code for item in items}
    found = {}
    for item in items:
        mine = [ready[athlete_id] for athlete_id in doing.get(item.key, ()) if athlete_id in ready]
        if item.main or item.movement.rig_s <= SAVED_LEAST_S or not mine:
            continue
        alike = [
            other
            for other in mine[0].library.in_use()
            if other.code not in here
            and item.movement.rig_s - other.rig_s >= SAVED_LEAST_S
            and same_kind(item.movement, other)
            and all(one.may(other.code) for one in mine)
        ]
        if alike:
            found[item.key] = min(alike, key=lambda other: (abs(other.emphasis - item.movement.emphasis), other.rig_s))
    return found


HOLDS_MUCH = BARS | {Implement.MACHINE}


def same_kind(one: Movement, other: Movement) -> bool:
    """The same pattern for the same muscles, on one leg or two, with as much in it: no bell holds what two legs lift."""
    same = (one.family, one.sides, one.takes_load, set(one.prime), one.held is HeldWhere.SUPPORT)
    as_much = one.sides > 1 or one.implement not in HOLDS_MUCH or other.implement in HOLDS_MUCH
    return as_much and same == (
        *(other.family, other.sides, other.takes_load, set(other.prime)),
        other.held is HeldWhere.SUPPORT,
    )
