"""A simulated lifter: what a set at a load would really give, from a hidden true maximum."""

import datetime as dt
import random
from dataclasses import dataclass

from backsquat.config import DEMO_DAY
from backsquat.demo.people import DemoPerson


@dataclass(frozen=True)
class LiftedSet:
    reps: int
    reserve_reps: int
    short_reps: int
    fault: str


def true_max(person: DemoPerson, hinge: bool, week: int) -> float:
    """The hidden maximum in a week of the season, a little lower after time away."""
    start = person.hinge_kg if hinge else person.squat_kg
    away_from, away_to = person.away
    lost = 0.07 if away_from <= week <= away_to + 4 else 0.0
    tired_from, tired_to = person.tired
    if tired_from <= week <= tired_to:
        lost += 0.2
    return start * (1 + person.gain_a_week * week) * (1 - lost)


def do_set(
    chance: random.Random, max_kg: float, load_kg: float, reps: int, number: int, faults: list[str]
) -> LiftedSet:
    """One set: reps until the lifter is done or `reps` is reached, and the reserve they would name."""
    possible = 30 * (max_kg / load_kg - 1) - 0.35 * (number - 1) if max_kg > load_kg else 0.0
    made = max(1, min(reps, int(possible + 0.3)))
    reserve = max(0, min(6, round(possible - made + chance.gauss(0, 0.45))))
    short = 1 if chance.random() < 0.012 else 0
    fault = chance.choice(faults) if chance.random() < 0.02 and reserve <= 1 and faults else ""
    return LiftedSet(made, reserve, short, fault)


def stayed_away(person: DemoPerson, day: dt.date) -> bool:
    """Whether somebody missed a session some weeks ago: by name and day, whatever else is made up."""
    return day < DEMO_DAY - dt.timedelta(days=21) and random.Random(f"{person.name} {day}").random() < 0.03
