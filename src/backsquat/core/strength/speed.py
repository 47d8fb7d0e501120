"""What the speed of the bar says (rules 2.3.9): the drop across a set, and the day's maximum by a load–velocity line.

The speed is the mean speed of the lifting phase in m/s, as a sensor on the bar gives it. Heavier is slower, along
nearly a straight line for one athlete and lift; where the line comes down to the speed at which a maximum is lifted
stands the day's maximum (González-Badillo & Sánchez-Medina 2010). It says something about today; nothing is planned
from it.
"""

import math
import statistics
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.movement import Family
from backsquat.core.numbers import read_decimal, sure
from backsquat.core.rules import Rules
from backsquat.core.strength.set_notes import SPEED_MOST_MS, SPEEDS_MOST
from backsquat.core.working import Step, Working

GRAVITY = 9.81  # m/s²
# Four in five of Student's distribution (two-sided 80 %) by degrees of freedom; beyond, the normal one's.
FOUR_IN_FIVE = (3.078, 1.886, 1.638, 1.533, 1.476, 1.440, 1.415, 1.397, 1.383, 1.372)
NORMAL_FOUR_IN_FIVE = 1.282


@dataclass(frozen=True)
class DayMaximum:
    """The day's maximum by speed in kg, the range that holds it four times in five, and how that came about."""

    kg: float
    low_kg: float
    high_kg: float
    loads: int
    working: Working


def read_speeds(text: str) -> tuple[float, ...]:
    """Speeds in m/s as they are typed or sent, 0.71 0.68; ValueError for what is none."""
    found = tuple(float(read_decimal(one)) for one in text.split())
    if len(found) > SPEEDS_MOST or not all(0 < one <= SPEED_MOST_MS for one in found):
        raise ValueError(text)
    return found


def drop_share(speeds_ms: Sequence[float]) -> float:
    """How far the last rep is below the fastest so far, as a share; 0 before there are two."""
    for speed in speeds_ms:
        sure("speed_ms", speed, 0)
    best = max(speeds_ms, default=0.0)
    return 1 - speeds_ms[-1] / best if best > 0 else 0.0


def ends_at(speeds_ms: Sequence[float], most_drop: float) -> int | None:
    """The rep (from 1) at which a set is over by its drop; None while it goes on."""
    sure("most_drop", most_drop, 0)
    return next((n for n in range(1, len(speeds_ms) + 1) if drop_share(speeds_ms[:n]) >= most_drop - 1e-9), None)


def speed_at_maximum(family: Family, rules: Rules) -> float:
    """The mean speed at which a maximum of this family is lifted, m/s."""
    return {Family.SQUAT: rules.speed_at_max_squat, Family.HINGE: rules.speed_at_max_hinge}.get(
        family, rules.speed_at_max_other
    )


def day_maximum(sets: Iterable[tuple[float, Sequence[float]]], at_max_ms: float, rules: Rules) -> DayMaximum | None:
    """The day's maximum from sets (load in kg, speeds of the reps in m/s); None while there is too little.

    Of each load the fastest rep counts. There must be `speed_loads` loads or more, the lightest no more than
    `speed_spread` of the heaviest, and heavier must be slower.
    """
    sure("at_max_ms", at_max_ms, 0)
    fastest: dict[float, float] = defaultdict(float)
    for load_kg, speeds in sets:
        sure("load_kg", load_kg, 0)
        if any(not 0 < speed <= SPEED_MOST_MS for speed in speeds):
            raise ImpossibleInput(Problem("speeds", "speed_range", {"most": SPEED_MOST_MS}))
        if speeds:
            fastest[load_kg] = max(fastest[load_kg], *speeds)
    points = sorted(fastest.items())
    if len(points) < rules.speed_loads or points[0][0] > rules.speed_spread * points[-1][0]:
        return None
    return _read_off(points, at_max_ms)


def _read_off(points: Sequence[tuple[float, float]], at_max_ms: float) -> DayMaximum | None:
    """Least squares of speed on load, read off backwards at the speed of a maximum, with its range."""
    count, loads = len(points), [kg for kg, _ in points]
    slope, start = statistics.linear_regression(loads, [ms for _, ms in points])
    if slope >= 0:
        return None
    mean_kg = statistics.fmean(loads)
    spread = sum((kg - mean_kg) ** 2 for kg in loads)
    max_kg = (at_max_ms - start) / slope
    if max_kg < points[-1][0]:  # lifted already
        return None
    off = math.sqrt(sum((ms - start - slope * kg) ** 2 for kg, ms in points) / (count - 2))
    error = off / -slope * math.sqrt(1 + 1 / count + (max_kg - mean_kg) ** 2 / spread)
    free = count - 2
    width = error * (FOUR_IN_FIVE[free - 1] if free <= len(FOUR_IN_FIVE) else NORMAL_FOUR_IN_FIVE)
    line = Step("speed_line", {"loads": count, "start_ms": round(start, 2), "a_kg": round(slope, 4)}, "", "")
    read = Step("speed_read", {"at_max_ms": at_max_ms, "off_ms": round(off, 3)}, round(max_kg, 1), "kg")
    low = max(max_kg - width, points[-1][0])
    return DayMaximum(max_kg, low, max_kg + width, count, Working((line, read)))


def jump_height_m(flight_s: float) -> float:
    """How high a jump was by its time in the air (Bosco et al. 1983): g × t² ÷ 8."""
    sure("flight_s", flight_s, 0)
    return GRAVITY * flight_s**2 / 8
