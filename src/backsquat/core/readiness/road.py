"""The road to the bar: some weeks of work for what the readiness check still asks (usual practice).

Counterbalanced squats, a guided path where the room has one, split squats with the front foot
raised, thrusts and knee extensions; plus drills for the lines that are not passed.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import cycle

from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import BARS
from backsquat.core.readiness.checklist import LineState, ReadinessCheckLine
from backsquat.core.rules import Rules

SERVES = {  # line of the readiness check → movements that work on it, the first the room has is taken
    "brace": ("press_down_squat",), "standing_squat": ("deep_squat_supported", "deep_squat_hold", "toe_ankle_rock"),
    "knees_track": ("goblet_box_squat",), "pelvis": ("squat_from_plank",), "side_shift": ("split_squat",),
    "deep_squat_hold": ("deep_squat_hold",), "counterbalanced_squat": ("goblet_squat",),
}  # fmt: skip
BASE = (  # always on the road; the first of each that is allowed
    ("goblet_squat", "goblet_box_squat"), ("leg_press", "hack_squat", "belt_squat"),
    ("split_squat_front_raised", "split_squat", "split_squat_support"), ("bench_thrust", "floor_bridge"),
    ("knee_extension",),
)  # fmt: skip


@dataclass(frozen=True)
class RoadItem:
    """One movement of the road with its sets a session, and the readiness check's line it serves."""

    movement: str
    serves: str  # code of the readiness check's line, or empty
    sets: int


@dataclass(frozen=True)
class RoadWeek:
    """One week of the road: what is done in each of its sessions."""

    week: int  # from 1
    sessions: tuple[tuple[RoadItem, ...], ...]


def road(
    lines: Sequence[ReadinessCheckLine], allowed: Callable[[str], bool], weeks: int, sessions: int, rules: Rules
) -> tuple[RoadWeek, ...]:
    """`weeks` weeks of work; `sessions` in all, spread evenly, each of a drill for what is missing and work for the legs.

    Two or three movements a session, and in a day no more hard sets than the squad's rule; volume rises after the
    first week.
    """
    laid = road_sessions(lines, allowed, sessions, rules)
    a_week, rest = divmod(sessions, weeks)
    found, begun = [], 0
    for n in range(weeks):
        here = max(1, a_week + (n < rest))
        held = laid[begun : begun + here] or laid[:here]
        if n == 0:
            held = tuple(tuple(replace(item, sets=max(1, item.sets - 1)) for item in one) for one in held)
        found.append(RoadWeek(n + 1, held))
        begun += here
    return tuple(found)


def road_sessions(
    lines: Sequence[ReadinessCheckLine], allowed: Callable[[str], bool], sessions: int, rules: Rules
) -> tuple[tuple[RoadItem, ...], ...]:
    """The work of so many sessions: one drill first, then work for legs and hips, all of it coming round in turn."""
    missing = [line.code for line in lines if line.state is not LineState.PASS]
    drills: list[tuple[str, str]] = []
    for code in missing:
        chosen = next((m for m in SERVES.get(code, ()) if allowed(m)), None)
        if chosen and chosen not in {movement for movement, _ in drills}:
            drills.append((chosen, code))
    taken = {movement for movement, _ in drills}
    base = [(m, "") for group in BASE if (m := next((m for m in group if allowed(m)), None)) and m not in taken]
    drill, work = cycle(drills), cycle(base)
    most = min(rules.road_items, len(drills) + len(base))
    sets = max(1, min(rules.road_sets, rules.road_sets_day // max(most, 1)))
    found = []
    for _ in range(sessions):
        plan: list[tuple[str, str]] = [next(drill)] if drills else []
        of_base = min(most - len(plan), len(base))
        plan += [next(work) for _ in range(of_base)]
        plan += [next(drill) for _ in range(min(most, len(drills)) - len(plan))]  # where little else is allowed
        found.append(tuple(RoadItem(movement, serves, sets) for movement, serves in plan))
    return tuple(found)


def road_movements(library: Library) -> frozenset[str]:
    """Codes of what counts as a session on the road to the bar: its own items and the levels below the bar."""
    codes = {code for group in (*SERVES.values(), *BASE) for code in group}
    for name in ("squat_to_bar", "hinge"):
        codes |= {code for level in library.ladders[name].levels for code in level}
    known = ((code, library.movements.get(code)) for code in codes)
    return frozenset(code for code, movement in known if movement and movement.implement not in BARS)
