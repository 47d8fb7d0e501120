"""The weekly check of a plan (rules 2.7): hard sets a muscle, hinges with curls, cost to the lower back.

It judges the week, not one exercise, for one athlete at a time, and works the same on what is
planned and on what was done. The lower-back index is a planning index, not a measurement.
"""

import math
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from backsquat.core.findings import Finding, Severity
from backsquat.core.movements.movement import Family, Movement, Muscle, MuscleLength
from backsquat.core.rules import Rules

COUNTED = (Muscle.HAMSTRINGS, Muscle.QUADS, Muscle.GLUTES, Muscle.ADDUCTORS, Muscle.CALVES)


@dataclass(frozen=True)
class WeekItem:
    """One movement of one session as planned or done."""

    movement: Movement
    day: int  # 0 is Monday
    sets: int
    reserve_reps: int
    relative: float | None  # load as a share of the planning max; None: no load is worked out
    deload: bool = False
    exercise_id: int = 0
    fast: bool = False  # for speed: light, and ended before it is hard

    def hard_sets(self, rules: Rules) -> int:
        """The sets, where they are hard enough to count; nought otherwise."""
        return 0 if self.fast or self.reserve_reps > rules.hard_within_reps else self.sets

    def back_cost(self, rules: Rules) -> float:
        """Lower-back index of the item: sets × the movement's index × load as a share of the max."""
        relative = rules.unloaded_relative if self.relative is None else self.relative
        return self.sets * self.movement.back_index * relative


@dataclass(frozen=True)
class WeekNumbers:
    """What the findings are made from, to be shown beside them."""

    sets: dict[Muscle, float]
    times: dict[Muscle, int]  # days a week it is trained directly
    back_by_day: dict[int, float]
    squat_sets: int
    hinge_sets: int
    single_leg_sets: int
    curl_sets: int
    knee_strain: float
    groin_strain: float

    @property
    def back(self) -> float:
        """Lower-back index of the whole week."""
        return sum(self.back_by_day.values())


def count_week(items: Sequence[WeekItem], rules: Rules) -> WeekNumbers:
    """Hard sets a muscle (direct 1, helper a half), cost to the back, strain, sets a family."""
    sets: dict[Muscle, float] = defaultdict(float)
    days: dict[Muscle, set[int]] = defaultdict(set)
    back: dict[int, float] = defaultdict(float)
    families: dict[Family, int] = defaultdict(int)
    for item in items:
        movement, hard = item.movement, item.hard_sets(rules)
        families[movement.family] += hard
        back[item.day] += item.back_cost(rules)
        for muscle, share in _shares(movement, rules):
            sets[muscle] += share * hard
            if share == 1 and hard:
                days[muscle].add(item.day)
    return WeekNumbers(
        dict(sets),
        {muscle: len(of) for muscle, of in days.items()},
        dict(back),
        families[Family.SQUAT],
        families[Family.HINGE],
        families[Family.SINGLE_LEG],
        families[Family.CURL],
        sum(item.sets * item.movement.knee_strain for item in items),
        sum(item.sets * item.movement.groin_strain for item in items),
    )


def _shares(movement: Movement, rules: Rules) -> Iterable[tuple[Muscle, float]]:
    """How far a set counts for each muscle. Squats leave the hamstrings largely idle: their share is a rule."""
    squat = movement.family is Family.SQUAT
    for muscle in movement.prime:
        yield muscle, rules.squat_hamstrings if squat and muscle is Muscle.HAMSTRINGS else 1.0
    for muscle in movement.helper:
        yield muscle, rules.squat_hamstrings if squat and muscle is Muscle.HAMSTRINGS else rules.helper_share


def audit_week(items: Sequence[WeekItem], rules: Rules, *, in_season: bool = False) -> list[Finding]:
    """Everything a coach should look at in one athlete's week; the gravest first. An empty week says nothing.

    In season the sets are halved on purpose, and the least is halved with them.
    """
    if not items:
        return []
    numbers = count_week(items, rules)
    deload = all(item.deload for item in items)
    found = [] if deload else [*_sets(numbers, rules, in_season), *_patterns(items, numbers, rules)]
    found += [*_hamstrings(items, numbers), *_hinge_sessions(items, rules), *_back(numbers, rules)]
    found += _strain(numbers, rules)
    order = {Severity.STOP: 0, Severity.WATCH: 1, Severity.NOTE: 2}
    return sorted(found, key=lambda finding: order[finding.severity])


def _sets(numbers: WeekNumbers, rules: Rules, in_season: bool) -> Iterable[Finding]:
    for muscle in COUNTED:
        low, high = (getattr(rules, f"sets_{muscle.value}_{end}") for end in ("low", "high"))
        low = max(1, math.floor(low * rules.in_season_sets)) if in_season else low
        count = round(numbers.sets.get(muscle, 0.0), 1)
        facts = {"muscle": muscle.value, "sets": count, "low": low, "high": high}
        if count > high:
            yield Finding("sets_high", Severity.WATCH, facts, "fewer_sets")
        elif count < low:
            yield Finding("sets_low", Severity.NOTE, facts, "more_sets")


def _patterns(items: Sequence[WeekItem], numbers: WeekNumbers, rules: Rules) -> Iterable[Finding]:
    if not numbers.squat_sets:
        yield Finding("no_squat", Severity.WATCH, {}, "add_squat")
    days = {item.day for item in items if _posterior(item.movement)}
    if len(days) < rules.posterior_days:
        facts = {"days": len(days), "least": rules.posterior_days}
        yield Finding("few_posterior", Severity.NOTE, facts, "add_curl")


def _posterior(movement: Movement) -> bool:
    """Whether it trains the back of the legs and the hips: hinges, curls, thrusts, and extensions of the hip."""
    hips = {Muscle.HAMSTRINGS, Muscle.GLUTES}.intersection(movement.prime)
    extension = movement.family is Family.EXTENSION and bool(hips)
    return extension or movement.family in (Family.HINGE, Family.CURL, Family.THRUST)


def _hamstrings(items: Sequence[WeekItem], numbers: WeekNumbers) -> Iterable[Finding]:
    """One knee flexion a week, and both lengths: hinges stretch, so they want a curl that shortens."""
    hinges = numbers.hinge_sets
    curls = [item for item in items if item.movement.family is Family.CURL]
    if not curls:
        severity = Severity.WATCH if hinges else Severity.NOTE
        yield Finding("no_curl", severity, {"hinge_sets": hinges}, "add_curl")
        return
    lengths = {item.movement.length for item in curls}
    if hinges >= 6 and MuscleLength.SHORTENED not in lengths:
        yield Finding("curl_not_short", Severity.NOTE, {"hinge_sets": hinges}, "add_short_curl")
    if not hinges and MuscleLength.STRETCHED not in lengths:
        yield Finding("no_stretch", Severity.NOTE, {}, "add_hinge")


def _hinge_sessions(items: Sequence[WeekItem], rules: Rules) -> Iterable[Finding]:
    days: dict[int, int] = defaultdict(int)
    for item in items:
        if item.movement.family is Family.HINGE and not item.movement.from_floor:
            days[item.day] += item.hard_sets(rules)
    for day, sets in sorted(days.items()):
        if sets > min(rules.hinge_sets_usual, rules.hinge_sets_session):
            over = sets > rules.hinge_sets_session
            facts = {"day": day, "sets": sets, "most": rules.hinge_sets_session if over else rules.hinge_sets_usual}
            yield Finding("hinge_session", Severity.WATCH if over else Severity.NOTE, facts, "fewer_hinge_sets")


def _back(numbers: WeekNumbers, rules: Rules) -> Iterable[Finding]:
    for day, cost in sorted(numbers.back_by_day.items()):
        if cost > rules.back_session:
            facts = {"day": day, "cost": round(cost, 1), "most": rules.back_session}
            yield Finding("back_session", Severity.WATCH, facts, "fewer_back_sets")
    if numbers.back > rules.back_week:
        facts = {"cost": round(numbers.back, 1), "most": rules.back_week}
        yield Finding("back_week", Severity.WATCH, facts, "fewer_back_sets")
    high = {day for day, cost in numbers.back_by_day.items() if cost > rules.back_high_day}
    for day in sorted(high):
        if day + 1 in high:
            yield Finding("back_running", Severity.WATCH, {"day": day, "next": day + 1}, "fewer_back_sets")
    if rules.back_target_low and numbers.back < rules.back_target_low:
        facts = {"cost": round(numbers.back, 1), "least": rules.back_target_low}
        yield Finding("back_little", Severity.NOTE, facts, "add_back")


def _strain(numbers: WeekNumbers, rules: Rules) -> Iterable[Finding]:
    """What the plan asks of the front of the knee and the groin, on top of what the sport asks."""
    for region, strain, sport in (
        ("knee", numbers.knee_strain, rules.sport_knee_strain),
        ("groin", numbers.groin_strain, rules.sport_groin_strain),
    ):
        most = rules.strain_week - rules.strain_sport * sport
        if strain > most:
            facts: dict[str, str | float | int] = {
                "region": region,
                "strain": round(strain),
                "most": most,
                "sport": sport,
            }
            yield Finding("strain", Severity.WATCH, facts, "fewer_strain_sets")
