"""How the weeks to come follow a decision: the one way for the application and the simulator."""

import datetime as dt
from collections.abc import Container, Sequence
from dataclasses import dataclass, replace

from backsquat.core.loads.rounding import grains
from backsquat.core.progression.base import P, Progression
from backsquat.core.progression.decision import Code, Decision
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.progression.terms import PlanBase, PlannedWeek, Terms
from backsquat.core.working import Fact, Step, Working

LEAST_KG = 0.01  # under the lightest load there is nothing: what can be offered instead is


@dataclass(frozen=True)
class DoneExposure:
    """The exposure a decision was made on, and what had been lifted up to it."""

    prescription: Prescription
    load_kg: float
    planning_max_kg: float
    done_on: dt.date
    last_work_kg: float | None = None  # the last working load, where this exposure was a deload week or a test
    same_reps_kg: tuple[tuple[int, int, float], ...] = ()


@dataclass(frozen=True)
class Newest:
    """Today's estimate, which the caps count from, and the planning max made from it."""

    estimate_kg: float
    planning_max_kg: float | None
    working: Working
    low_kg: float | None = None  # the range that holds four in five
    high_kg: float | None = None


@dataclass(frozen=True)
class Followed:
    """The planning max from here on in kg, and the weeks to come as they will be."""

    planning_max_kg: float
    weeks: tuple[PlannedWeek, ...]


def follow(
    progression: Progression[P],
    parameters: P,
    outline: Sequence[Prescription],
    done: DoneExposure,
    decision: Decision,
    newest: Newest,
    terms: Terms,
    barred: Container[int] = (),
) -> Followed:
    """Plan the weeks after an exposure with what was decided."""
    moved, steps = _moved(done, decision, newest, terms)
    if terms.found_in is not None:  # on the way to a first load the ratio stays the ceiling, however easy it was
        moved = min(moved, done.planning_max_kg)
    asked = done.prescription
    base = PlanBase(
        planning_max_kg=moved,
        estimate_kg=newest.estimate_kg,
        fresh_max_kg=newest.planning_max_kg,
        working=newest.working.then(*steps),
        at_wave=asked.wave,
        next_wave_steps=decision.next_wave_steps,
        hold_kg=done.load_kg * decision.hold_share if decision.hold and asked.kind is ExposureKind.WORK else None,
        weeks_before=asked.week + 1,
        same_reps_kg=done.same_reps_kg,
        last_kg=done.load_kg if asked.kind is ExposureKind.WORK else done.last_work_kg,
        # What is held is held: a load that may not rise is not made harder by reps instead.
        reps_grow=decision.code is not Code.DOWN and not decision.hold and not decision.facts.get("missing"),
    )

    if decision.code is not Code.UP and terms.found_in is not None:
        terms = replace(terms, found_in=None)  # the way to a first load goes on from a session that was made

    def planned(decision: Decision, base: PlanBase) -> tuple[PlannedWeek, ...]:
        coming = [p for p in progression.resume(outline, asked, decision, parameters) if p.week not in barred]
        return plan_weeks(coming, base, terms)

    weeks = planned(decision, base)
    if decision.code is Code.DOWN and asked.kind is ExposureKind.WORK:
        # Down moves the number: under what would have come without it, whatever rounding makes of a share.
        stayed = replace(decision, load_share=1.0, load_steps=0, planning_max_share=1.0, steps=0, hold=False)
        unmoved, _ = _moved(done, stayed, newest, terms)
        most_kg = _under(planned(stayed, replace(base, planning_max_kg=unmoved, hold_kg=None)), weeks, terms)
        if most_kg is not None:
            weeks = planned(decision, replace(base, first_most_kg=most_kg))
    return Followed(moved, weeks)


def true_to_its_name(
    weeks: Sequence[PlannedWeek], code: Code, now_kg: float, now_reps: int, most_kg: float | None, terms: Terms
) -> tuple[PlannedWeek, ...]:
    """The coach said up, stay or down: the next working number is higher, the same, or lower than the one just done.

    Stay repeats load and reps. Up and down leave what is planned where that is so already; else the next load there is,
    with the reps just done. `most_kg`: a limit, over which nothing goes up. The weeks after follow as they were planned.
    """
    at = next((n for n, week in enumerate(weeks) if week.prescription.kind is ExposureKind.WORK), None)
    if at is None:
        return tuple(weeks)
    week, here = weeks[at], terms.in_week(weeks[at].prescription.week)
    load, reps = week.load, now_reps
    match code:
        case Code.STAY:
            load = here.loads.nearest(grains(now_kg))
        case Code.UP if load is None or load.kg <= now_kg + LEAST_KG:
            load = here.loads.climbed(now_kg, 1, terms.rules.step_least)
            if most_kg is not None and load.kg > most_kg + LEAST_KG:
                return tuple(weeks)
        case Code.DOWN if load is not None and load.kg >= now_kg - LEAST_KG:
            load = here.loads.climbed(now_kg, -1, terms.rules.step_least)
        case _:
            return tuple(weeks)
    step = Step("coach_said", {"code": code.value}, load.kg, "kg")
    prescription = replace(week.prescription, reps=reps)
    said = replace(week, prescription=prescription, load=load, target_kg=load.kg, working=week.working.then(step))
    return (*weeks[:at], replace(said, chance=None), *weeks[at + 1 :])


def _moved(done: DoneExposure, decision: Decision, newest: Newest, terms: Terms) -> tuple[float, tuple[Step, ...]]:
    """The planning max as the decision moves it, and brought back into what the newest sets show."""
    step_kg = terms.wave_step_kg(done.planning_max_kg)
    moved = done.planning_max_kg * decision.planning_max_share + decision.steps * step_kg
    facts: dict[str, Fact] = {
        "done_on": done.done_on.isoformat(),
        "max_kg": done.planning_max_kg,
        "share": decision.planning_max_share,
        "steps": decision.steps,
        "step_kg": step_kg,
        "code": decision.code.value,
    }
    steps = [Step("after_session", facts, moved, "kg")]
    if newest.high_kg is not None and moved > newest.high_kg:
        moved = newest.high_kg
        steps.append(Step("reconciled", {"way": "down"}, moved, "kg"))
    elif newest.low_kg is not None and moved < newest.low_kg and decision.code is Code.UP:
        moved = newest.low_kg
        steps.append(Step("reconciled", {"way": "up"}, moved, "kg"))
    return moved, tuple(steps)


def _under(stayed: Sequence[PlannedWeek], weeks: Sequence[PlannedWeek], terms: Terms) -> float | None:
    """The most that may come first after a decision for down; None where that is kept already."""

    def first(weeks: Sequence[PlannedWeek]) -> PlannedWeek | None:
        return next((week for week in weeks if week.prescription.kind is ExposureKind.WORK), None)

    would, will = first(stayed), first(weeks)
    if would is None or will is None or would.load is None or will.load is None:
        return None
    if will.load.kg < would.load.kg or will.prescription.reps < would.prescription.reps:
        return None
    lower = [load.kg for load in terms.in_week(will.prescription.week).loads.loads if load.kg < would.load.kg]
    return lower[-1] if lower else would.load.kg - LEAST_KG
