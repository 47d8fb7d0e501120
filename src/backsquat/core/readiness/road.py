"""The road to the bar: some weeks of work for what the gate still asks (usual practice).

Counterbalanced squats, a guided path where the room has one, split squats with the front foot
raised, thrusts and knee extensions; plus drills for the lines that are not passed.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import BARS
from backsquat.core.readiness.gate import GateLine, Line

SERVES = {  # line of the gate → movements that work on it, the first the room has is taken
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
    """One movement of the road with its sets a session, and the gate's line it serves."""

    movement: str
    serves: str  # code of the gate's line, or empty
    sets: int


@dataclass(frozen=True)
class RoadWeek:
    """One week of the road: sessions and what is done in each."""

    week: int  # from 1
    sessions: int
    items: tuple[RoadItem, ...]


def road(lines: Sequence[GateLine], allowed: Callable[[str], bool], weeks: int, sessions: int) -> tuple[RoadWeek, ...]:
    """`weeks` weeks of work; `sessions` in all, spread evenly. Drills first, volume rises from two sets to three."""
    missing = [line.code for line in lines if line.state is not Line.PASS]
    drills: list[tuple[str, str]] = []
    for code in missing:
        chosen = next((m for m in SERVES.get(code, ()) if allowed(m)), None)
        if chosen and chosen not in {movement for movement, _ in drills}:
            drills.append((chosen, code))
    base = [next((m for m in group if allowed(m)), None) for group in BASE]
    taken = {movement for movement, _ in drills}
    plan = drills + [(movement, "") for movement in base if movement and movement not in taken]
    a_week, rest = divmod(sessions, weeks)
    return tuple(
        RoadWeek(
            n + 1,
            max(1, a_week + (n < rest)),
            tuple(RoadItem(movement, serves, 2 if n == 0 else 3) for movement, serves in plan),
        )
        for n in range(weeks)
    )


def road_movements(library: Library) -> frozenset[str]:
    """Codes of what counts as a session on the road to the bar: its own items and the rungs below the bar."""
    codes = {code for group in (*SERVES.values(), *BASE) for code in group}
    for name in ("squat_to_bar", "hinge"):
        codes |= {code for rung in library.ladders[name].rungs for code in rung}
    known = ((code, library.movements.get(code)) for code in codes)
    return frozenset(code for code, movement in known if movement and movement.implement not in BARS)
