"""A made-up athlete trains under a school, week after week, to see how the school reacts.

The athlete has a true maximum that grows with work, good and bad days, sets that tire, and may
miss a week or come sore. Everything the school and the planner do is the real thing; only the
athlete is invented. Chance comes in as an argument, so that a seed gives the same story each time.
"""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Protocol

from backsquat.core.movements.movement import Family
from backsquat.core.progression.after_decision import Done, Newest, follow
from backsquat.core.progression.decision import Answers, Decision, Exposure, Past
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import Kind, Prescription
from backsquat.core.progression.school import P, School
from backsquat.core.progression.terms import PlanBase, PlannedWeek, Terms
from backsquat.core.strength.current import current_estimate
from backsquat.core.strength.record import RESERVE_MOST, Effort, SetRecord
from backsquat.core.working import Working


class Chance(Protocol):
    """Where luck comes from."""

    def random(self) -> float:
        """A float from 0 to 1."""

    def gauss(self, mu: float, sigma: float) -> float:
        """A float around `mu` with the spread `sigma`."""


@dataclass(frozen=True)
class MadeUp:
    """An invented athlete. Shares are of the true maximum."""

    max_kg: float
    gain_a_week: float = 0.006  # true gain of a week that was trained
    day_spread: float = 0.02  # good and bad days
    tired_a_set: float = 0.35  # reps lost from set to set
    misjudged_reps: float = 0.6  # spread of what they say is left
    missed_weeks: frozenset[int] = frozenset()
    sore_weeks: frozenset[int] = frozenset()  # a tenth weaker that day
    skips: float = 0.0  # chance to miss any week
    form_lost: float = 0.02  # chance that form breaks in a set with nothing left


@dataclass(frozen=True)
class SimulatedWeek:
    """What was asked, what was done, what was decided."""

    asked: Prescription
    load_kg: float | None
    planning_max_kg: float
    true_max_kg: float
    sets: tuple[SetRecord, ...]
    decision: Decision | None  # None: missed, or nothing to lift
    over_cap: bool


FIRST_DAY = dt.date(2026, 1, 5)  # any Monday: only the distances count


def simulate(
    school: School[P], parameters: P, athlete: MadeUp, weeks: int, terms: Terms, chance: Chance, *, hinge: bool = False
) -> tuple[SimulatedWeek, ...]:
    """Train `weeks` weeks from a test set on; a missed week repeats what was missed (rules 2.9)."""
    family = Family.HINGE if hinge else Family.SQUAT
    true_kg, ids = athlete.max_kg, iter(range(1, 10_000))
    test = _test_set(athlete, terms, family, next(ids))
    records = [test]
    estimate = current_estimate(records, FIRST_DAY, terms.rules)
    assert estimate is not None
    outline = school.outline(parameters, weeks, hinge)
    coming = plan_weeks(outline, PlanBase(estimate.max_kg, estimate.max_kg, Working()), terms)
    past: list[Past] = []
    story: list[SimulatedWeek] = []
    for week in range(weeks):
        planned = coming[0]
        asked = planned.prescription
        away = week in athlete.missed_weeks or chance.random() < athlete.skips
        if away or planned.load is None:
            story.append(_not_done(planned, true_kg))
            coming = _moved_on(coming) if away else coming[1:]
            continue
        day = FIRST_DAY + dt.timedelta(weeks=week, days=1)
        today_kg = true_kg * chance.gauss(1, athlete.day_spread) * (0.9 if week in athlete.sore_weeks else 1)
        sets = _lift(athlete, planned, today_kg, day, family, terms, chance, ids)
        records += sets
        exposure = Exposure(
            prescription=asked,
            load_kg=planned.load.kg,
            sets=sets,
            past=tuple(past),
            hinge=hinge,
            next_load_kg=terms.loads.climbed(planned.load.kg, 1, terms.rules.step_least).kg,
            answers=_answers(sets),
            carried_kg=terms.carried_kg,
        )
        decision = school.judge(exposure, parameters, terms.rules)
        if asked.kind is Kind.WORK:
            past.append(Past(decision.reason, exposure.reps_missing))
        story.append(
            SimulatedWeek(
                asked, planned.load.kg, planned.planning_max_kg, true_kg, tuple(sets), decision, planned.breaks_cap
            )
        )
        coming = coming[1:]
        if not decision.keeps and coming:
            estimate = current_estimate(records, day, terms.rules) or estimate
            before = _same_reps(story)
            done = Done(asked, planned.load.kg, planned.planning_max_kg, day, before[-1][2] if before else None, before)
            newest = Newest(estimate.max_kg, estimate.max_kg, Working())
            coming = follow(school, parameters, outline, done, decision, newest, terms).weeks
        true_kg *= 1 + athlete.gain_a_week
    return tuple(story)


def _test_set(athlete: MadeUp, terms: Terms, family: Family, set_id: int) -> SetRecord:
    load = terms.loads.nearest(round(terms.load_for(athlete.max_kg, 6) * 10**10))
    left = max(0, min(4, int(terms.reps_at(load.kg, athlete.max_kg)) - 5))
    reps = max(1, min(5, int(terms.reps_at(load.kg, athlete.max_kg))))
    return SetRecord(set_id, FIRST_DAY, family, load.kg, reps, reps, left, Effort.TEST, carried_kg=terms.carried_kg)


def _lift(
    athlete: MadeUp,
    planned: PlannedWeek,
    today_kg: float,
    day: dt.date,
    family: Family,
    terms: Terms,
    chance: Chance,
    ids: Any,
) -> list[SetRecord]:
    assert planned.load is not None
    asked, load_kg = planned.prescription, planned.load.kg
    effort = {Kind.EASY: Effort.EASY, Kind.TEST: Effort.TEST}.get(asked.kind, Effort.WORK)
    sets = []
    for number in range(asked.sets):
        able = terms.reps_at(load_kg, today_kg) - number * athlete.tired_a_set
        # In a window the lifter goes on to its top while a rep is left.
        wanted = asked.high if asked.high and asked.low == asked.reps and not asked.aim.waits else asked.reps
        goal = max(asked.reps, min(wanted, int(able) - asked.reserve_reps))
        reps = max(1, min(goal, int(able)))
        left = max(0, min(RESERVE_MOST, round(able - reps + chance.gauss(0, athlete.misjudged_reps))))
        broke = "form" if left == 0 and chance.random() < athlete.form_lost else ""
        sets.append(
            SetRecord(next(ids), day, family, load_kg, reps, reps, left, effort, broke, carried_kg=terms.carried_kg)
        )
    return sets


def _answers(sets: Sequence[SetRecord]) -> Answers:
    """What a coach would say who saw these sets."""
    left = min(s.reserve_reps or 0 for s in sets)
    return Answers(sound=not any(s.breaking_fault for s in sets), sure=left >= 1, too_easy=left >= 3)


def _same_reps(story: Sequence[SimulatedWeek]) -> tuple[tuple[int, int, float], ...]:
    return tuple(
        (week.asked.reps, week.asked.reserve_reps, week.load_kg)
        for week in story
        if week.load_kg is not None and week.sets and week.asked.kind is Kind.WORK
    )


def _not_done(planned: PlannedWeek, true_kg: float) -> SimulatedWeek:
    load_kg = planned.load.kg if planned.load else None
    return SimulatedWeek(planned.prescription, load_kg, planned.planning_max_kg, true_kg, (), None, planned.breaks_cap)


def _moved_on(coming: Sequence[PlannedWeek]) -> tuple[PlannedWeek, ...]:
    """The missed exposure takes the next working week's place and those after it slide; easy weeks stay where they are."""
    if coming[0].prescription.kind is not Kind.WORK:
        return tuple(coming[1:])
    sliding = iter([week for week in coming if week.prescription.kind is Kind.WORK])
    moved = []
    for week in coming[1:]:
        if week.prescription.kind is not Kind.WORK:
            moved.append(week)
            continue
        earlier = next(sliding)
        moved.append(replace(earlier, prescription=replace(earlier.prescription, week=week.prescription.week)))
    return tuple(moved)
