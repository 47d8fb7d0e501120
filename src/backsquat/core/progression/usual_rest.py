"""How long to rest between sets: what the progression asks, and more for a heavy bar (rules 2.8)."""

from collections.abc import Mapping
from typing import Any

from backsquat.core.movements.movement import BARS, Family, Movement
from backsquat.core.progression.prescription import Prescription
from backsquat.core.rules import Rules

HEAVY = frozenset({Family.SQUAT, Family.HINGE})


def usual_rest_s(asked: Prescription, movement: Movement, given: Mapping[str, Any], rules: Rules) -> int:
    """Seconds after a set: the coach's own (`given` to the progression), else at least the heavy bar's where it is one."""
    few = asked.reps <= rules.rest_bar_reps and not asked.hold_s
    heavy = movement.family in HEAVY and movement.implement in BARS and few
    return max(asked.rest_s, rules.rest_bar_s) if heavy and "rest_s" not in given else asked.rest_s
