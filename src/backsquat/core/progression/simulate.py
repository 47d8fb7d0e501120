"""A made-up athlete trains under a progression, week after week, to see how the progression reacts.

The athlete has a true maximum that grows with hard work only, an own curve of reps (also of another shape than the
planner's), good and bad days, sets that tire, a bias and noise in what is said to be left, and may miss weeks, fall ill,
come sore, lose depth or feel a dull pain. Everything the progression and the planner do is the real thing; only the
athlete is invented. Chance comes in as an argument, so that a seed gives the same story each time.
"""

import datetime as dt
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Protocol

from backsquat.core.movements.movement import Family
from backsquat.core.progression.after_decision import DoneExposure, Newest, follow
from backsquat.core.progression.base import P, Progression
from backsquat.core.progression.decision import Answers, Decision, Exposure, Past
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.progression.terms import PlanBase, PlannedWeek, Terms
from backsquat.core.strength.belief import believe
from backsquat.core.strength.current import believed_value
from backsquat.core.strength.record import RESERVE_MOST, Effort, SetRecord
from backsquat.core.working import Working

REPS_TRUE_MOST = 40.0
HARD_LEFT = 4.0  # reps left from which a set makes nobody stronger
LIGHT_WEEK_GAIN = 0.3  # of the gain of a hard week, where nothing was hard
LOST_A_WEEK = 0.002  # of the maximum, in a week away


class Chance(Protocol):
    """Where luck comes from."""

    def random(self) -> float:
        """A float from 0 to 1."""

    def gauss(self, mu: float, sigma: float) -> float:
        """A float around `mu` with the spread `sigma`."""


@dataclass(frozen=True)
class MadeUp:
    """An invented athlete; nothing of this is known to the planner. Shares are of the true maximum."""

    max_kg: float
    gain_a_week: float = 0.006  # true gain of a week with hard work in it
    day_spread: float = 0.02  # good and bad days
    tired_a_set: float = 0.35  # reps lost from set to set
    misjudged_reps: float = 0.6  # spread of what they say is left
    bias_reps: float = 0.0  # reps said to be left that are not
    curve: float = 1.0  # what a rep costs, against Epley
    bends: bool = False  # reps by an exponential instead: another shape than any formula of the planner
    missed_weeks: frozenset[int] = frozenset()
    sore_weeks: frozenset[int] = frozenset()  # a tenth weaker that day
    shallow_weeks: frozenset[int] = frozenset()  # a rep of every set is short of depth
    painful_weeks: frozenset[int] = frozenset()  # dull pain of 2
    ill_from: int | None = None  # two weeks away, five in a hundred weaker after it
    skips: float = 0.0  # chance to miss any week
    unsaid: float = 0.0  # chance that nobody says what was left
    form_lost: float = 0.02  # chance that form breaks in a set with nothing left
    newcomer: bool = False

    def reps_at(self, load_kg: float, max_kg: float) -> float:
        """Reps a maximum truly gives at a load, moved masses; nought where even one is too many."""
        if load_kg <= 0:
            return REPS_TRUE_MOST
        share = max_kg / load_kg
        if share < 1:
            return 0.0
        if self.bends:
            return min(1 + math.log(share) / (0.028 * self.curve), REPS_TRUE_MOST)
        reps = 30 * (share - 1) / self.curve
        return min(max(reps, 1.0), REPS_TRUE_MOST)

    def away_in(self, week: int) -> bool:
        """Whether a week is missed for certain."""
        return week in self.missed_weeks or (self.ill_from is not None and week in (self.ill_from, self.ill_from + 1))


@dataclass(frozen=True)
class SimulatedWeek:
    """What was asked, what was done, what was decided; what was believed of the maximum, and what was true."""

    asked: Prescription
    load_kg: float | None
    planning_max_kg: float
    true_max_kg: float
    sets: tuple[SetRecord, ...]
    decision: Decision | None  # None: missed, or nothing to lift
    over_cap: bool
    chance: float | None = None  # that all was made as asked, as it was planned
    low_kg: float = 0.0  # the range believed to hold four in five, before the session
    high_kg: float = 0.0


FIRST_DAY = dt.date(2026, 1, 5)  # any Monday: only the distances count


def simulate(
    progression: Progression[P],
    parameters: P,
    athlete: MadeUp,
    weeks: int,
    terms: Terms,
    chance: Chance,
    *,
    hinge: bool = False,
) -> tuple[SimulatedWeek, ...]:
    """Train `weeks` weeks from a test set on; a missed week repeats what was missed (rules 2.9)."""
    family = Family.HINGE if hinge else Family.SQUAT
    true_kg, ids, rules = athlete.max_kg + terms.carried_kg, iter(range(1, 10_000)), terms.rules
    test = _test_set(athlete, terms, family, next(ids))
    belief, _ = believe(None, test, rules)
    assert belief is not None
    value = believed_value(belief, terms.carried_kg, FIRST_DAY, rules)
    outline = progression.outline(parameters, weeks, hinge)
    terms = replace(terms, known=value.known, newcomer=athlete.newcomer)
    caution = rules.caution_newcomer if athlete.newcomer else 1.0
    coming = plan_weeks(outline, PlanBase(value.max_kg * caution, value.max_kg, Working()), terms)
    past: list[Past] = []
    story: list[SimulatedWeek] = []
    for week in range(weeks):
        planned = coming[0]
        asked = planned.prescription
        day = FIRST_DAY + dt.timedelta(weeks=week, days=1)
        value = believed_value(belief, terms.carried_kg, day, rules)
        away = athlete.away_in(week) or chance.random() < athlete.skips
        if away or planned.load is None:
            story.append(_not_done(planned, true_kg - terms.carried_kg))
            coming = _moved_on(coming) if away else coming[1:]
            true_kg *= 0.975 if athlete.ill_from is not None and athlete.away_in(week) else 1 - LOST_A_WEEK
            continue
        sore = 0.9 if week in athlete.sore_weeks else 1
        today_kg = true_kg * chance.gauss(1, athlete.day_spread) * sore
        sets, hard = _lift(athlete, planned, today_kg, week, family, terms, chance, ids)
        exposure = Exposure(
            prescription=asked,
            load_kg=planned.load.kg,
            sets=sets,
            past=tuple(past),
            hinge=hinge,
            next_load_kg=terms.loads.climbed(planned.load.kg, 1, rules.step_least).kg,
            answers=_answers(sets),
            carried_kg=terms.carried_kg,
        )
        decision = progression.judge(exposure, parameters, rules)
        if asked.kind is ExposureKind.WORK:
            past.append(Past(decision.reason, exposure.reps_missing))
        story.append(
            SimulatedWeek(
                asked,
                planned.load.kg,
                planned.planning_max_kg,
                true_kg - terms.carried_kg,
                tuple(sets),
                decision,
                planned.breaks_cap,
                planned.chance,
                value.low_kg,
                value.high_kg,
            )
        )
        for record in sets:
            belief, _ = believe(belief, record, rules)
            assert belief is not None
        coming = coming[1:]
        if coming:
            value = believed_value(belief, terms.carried_kg, day, rules)
            terms = replace(terms, known=value.known)
            before = _same_reps(story)
            done = DoneExposure(
                asked, planned.load.kg, planned.planning_max_kg, day, before[-1][2] if before else None, before
            )
            newest = Newest(value.max_kg, value.max_kg * caution, Working(), value.low_kg * caution, value.high_kg)
            if not decision.keeps:
                coming = follow(progression, parameters, outline, done, decision, newest, terms).weeks
        true_kg *= 1 + athlete.gain_a_week * (1 if hard else LIGHT_WEEK_GAIN)
    return tuple(story)


def _test_set(athlete: MadeUp, terms: Terms, family: Family, set_id: int) -> SetRecord:
    """A test before the block: about five reps with one left, as whoever picked the load meant it."""
    load = terms.loads.nearest(round(max(terms.load_for(athlete.max_kg, 6), 0) * 10**10))
    able = athlete.reps_at(load.kg + terms.carried_kg, athlete.max_kg + terms.carried_kg)
    reps = max(1, min(5, round(able)))
    left = max(0, min(4, round(able) - reps))
    return SetRecord(set_id, FIRST_DAY, family, load.kg, reps, reps, left, Effort.TEST, carried_kg=terms.carried_kg)


def _lift(
    athlete: MadeUp,
    planned: PlannedWeek,
    today_kg: float,
    week: int,
    family: Family,
    terms: Terms,
    chance: Chance,
    ids: Any,
) -> tuple[list[SetRecord], bool]:
    """The sets of a day, moved masses; and whether any was hard enough to make somebody stronger."""
    assert planned.load is not None
    asked, load_kg = planned.prescription, planned.load.kg
    effort = {ExposureKind.DELOAD: Effort.DELOAD, ExposureKind.TEST: Effort.TEST}.get(asked.kind, Effort.WORK)
    sets, hard, day = [], False, FIRST_DAY + dt.timedelta(weeks=week, days=1)
    for number in range(asked.sets):
        able = athlete.reps_at(load_kg + terms.carried_kg, today_kg) - number * athlete.tired_a_set
        # In a window the lifter goes on to its top while a rep is left.
        wanted = asked.high if asked.high and asked.low == asked.reps and not asked.aim.waits else asked.reps
        most = int(able + 0.5)  # a curve is drawn through whole reps: half a rep more and the next one comes
        goal = max(asked.reps, min(wanted, most - asked.reserve_reps))
        reps = max(1, min(goal, most))
        said = able - reps + athlete.bias_reps + chance.gauss(0, athlete.misjudged_reps)
        left: int | None = max(0, min(RESERVE_MOST, round(said))) if most > reps else 0
        if chance.random() < athlete.unsaid:
            left = None
        hard = hard or able - reps <= HARD_LEFT
        broke = "form" if left == 0 and chance.random() < athlete.form_lost else ""
        deep = reps - (1 if week in athlete.shallow_weeks and reps > 1 else 0)
        record = SetRecord(
            *(next(ids), day, family, load_kg, reps, deep, left, effort, broke),
            carried_kg=terms.carried_kg,
            asked_reps=asked.reps,
            asked_reserve=asked.reserve_reps,
        )
        sets.append(replace(record, pain=2, pain_character="dull") if week in athlete.painful_weeks else record)
    return sets, hard or asked.kind is ExposureKind.DELOAD  # a deload week is part of the work


def _answers(sets: Sequence[SetRecord]) -> Answers:
    """What a coach would say who saw these sets."""
    left = min(0 if s.reserve_reps is None else s.reserve_reps for s in sets)
    return Answers(sound=not any(s.breaking_fault for s in sets), sure=left >= 1, too_easy=left >= 3)


def _same_reps(story: Sequence[SimulatedWeek]) -> tuple[tuple[int, int, float], ...]:
    return tuple(
        (week.asked.reps, week.asked.reserve_reps, week.load_kg)
        for week in story
        if week.load_kg is not None and week.sets and week.asked.kind is ExposureKind.WORK
    )


def _not_done(planned: PlannedWeek, true_kg: float) -> SimulatedWeek:
    load_kg = planned.load.kg if planned.load else None
    return SimulatedWeek(planned.prescription, load_kg, planned.planning_max_kg, true_kg, (), None, planned.breaks_cap)


def _moved_on(coming: Sequence[PlannedWeek]) -> tuple[PlannedWeek, ...]:
    """The missed exposure takes the next working week's place and those after it slide; deload weeks stay where they are."""
    if coming[0].prescription.kind is not ExposureKind.WORK:
        return tuple(coming[1:])
    sliding = iter([week for week in coming if week.prescription.kind is ExposureKind.WORK])
    moved = []
    for week in coming[1:]:
        if week.prescription.kind is not ExposureKind.WORK:
            moved.append(week)
            continue
        earlier = next(sliding)
        moved.append(replace(earlier, prescription=replace(earlier.prescription, week=week.prescription.week)))
    return tuple(moved)
