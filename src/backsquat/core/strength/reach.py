"""How far to lunge next time, direction by direction (usual practice): as far as was clean, shorter where it was not.

A reach is shortened until the push back comes in one go; what was clean is kept, and grown by whoever coaches.
"""

from collections.abc import Mapping

from backsquat.core.rules import Rules
from backsquat.core.strength.set_notes import Reach

LEAST_CM = 10.0  # under that nobody steps


def reach_targets(last: Reach, faults: Mapping[str, str], rules: Rules) -> Reach:
    """Centimetres to aim at in each direction, left and right, from those of last time and the faults seen there."""

    def aimed(way: str, cm: float | None) -> float | None:
        if cm is None:
            return None
        return max(cm - rules.reach_shorter_cm, min(cm, LEAST_CM)) if way in faults else cm

    return {way: (aimed(way, left), aimed(way, right)) for way, (left, right) in last.items()}
