"""Which rigs of a room a movement can be loaded on, best first."""

from collections.abc import Iterator
from functools import lru_cache

from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.room import Rig, RigKind, Room
from backsquat.core.movements.movement import Implement, Movement

DUMBBELLS = Rig("dumbbells", "Dumb-bells", kind=RigKind.DUMBBELLS)
DUMBBELL = Rig("dumbbell", "Dumb-bell", kind=RigKind.DUMBBELL)
KETTLEBELL = Rig("kettlebell", "Kettlebell", kind=RigKind.KETTLEBELL)
BAG = Rig("bag", "Bag", kind=RigKind.BAG)
PLATE = Rig("plate", "Plate", kind=RigKind.PLATE)
SLED = Rig("sled", "Plates on the machine", kind=RigKind.SLED)
BODY = Rig("body", "Body weight", kind=RigKind.BODY)
BAND = Rig("band", "Band", kind=RigKind.BAND)

HELD = {
    Implement.BAG: (BAG,),
    Implement.KETTLEBELL: (KETTLEBELL, DUMBBELL),
    Implement.PLATE: (PLATE, DUMBBELL, KETTLEBELL),
}


@lru_cache(maxsize=4096)
def rigs_for(movement: Movement, room: Room) -> tuple[Rig, ...]:
    """Rigs with which this room can load the movement; empty: it has nothing for it."""
    return tuple(rig for rig in _possible(movement, room) if len(loads_on(room, rig).loads) > 1)


def _possible(movement: Movement, room: Room) -> Iterator[Rig]:
    match movement.convention:
        case "barbell":
            kind = RigKind.TRAP_BAR if movement.implement is Implement.TRAP_BAR else RigKind.BAR
            yield from (bar for bar in room.bars if bar.kind is kind)
        case "dumbbells":
            yield DUMBBELLS
        case "held":
            yield from HELD.get(movement.implement, (DUMBBELL, KETTLEBELL, PLATE))
        case "stack":
            wanted = {code for group in movement.equipment for code in group}
            yield from (
                Rig(stack.code, stack.name, kind=RigKind.STACK) for stack in room.stacks if stack.code in wanted
            )
        case "machine":
            yield SLED
        case "band":
            yield BAND
        case "body":
            yield BODY


def rig_named(movement: Movement, room: Room, code: str) -> Rig | None:
    """The rig a plan names, or the first that will do where it is gone."""
    rigs = rigs_for(movement, room)
    return next((rig for rig in rigs if rig.code == code), rigs[0] if rigs else None)
