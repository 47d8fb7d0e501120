"""How the weeks to come follow a decision: the one way for the application and the simulator."""

import datetime as dt
from collections.abc import Container, Sequence
from dataclasses import dataclass

from backsquat.core.progression.decision import Decision
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import Kind, Prescription
from backsquat.core.progression.school import P, School
from backsquat.core.progression.terms import PlanBase, PlannedWeek, Terms
from backsquat.core.working import Fact, Step, Working


@dataclass(frozen=True)
class Done:
    """The exposure a decision was made on, and what had been lifted up to it."""

    prescription: Prescription
    load_kg: float
    planning_max_kg: float
    done_on: dt.date
    last_work_kg: float | None = None  # the last working load, where this exposure was an easy week or a test
    same_reps_kg: tuple[tuple[int, int, float], ...] = ()


@dataclass(frozen=True)
class Newest:
    """Today's estimate, which the caps count from, and the planning max made from it."""

    estimate_kg: float
    planning_max_kg: float | None
    working: Working


@dataclass(frozen=True)
class Followed:
    """The planning max from here on in kg, and the weeks to come as they will be."""

    planning_max_kg: float
    weeks: tuple[PlannedWeek, ...]


def follow(
    school: School[P],
    parameters: P,
    outline: Sequence[Prescription],
    done: Done,
    decision: Decision,
    newest: Newest,
    terms: Terms,
    barred: Container[int] = (),
) -> Followed:
    """Plan the weeks after an exposure with what was decided."""
    step_kg = terms.step_kg(done.planning_max_kg)
    moved = done.planning_max_kg * decision.planning_max_share + decision.steps * step_kg
    facts: dict[str, Fact] = {
        "done_on": done.done_on.isoformat(),
        "max_kg": done.planning_max_kg,
        "share": decision.planning_max_share,
        "steps": decision.steps,
        "step_kg": step_kg,
        "code": decision.code.value,
    }
    step = Step("after_session", facts, moved, "kg")
    asked = done.prescription
    base = PlanBase(
        planning_max_kg=moved,
        estimate_kg=newest.estimate_kg,
        fresh_max_kg=newest.planning_max_kg,
        working=newest.working.then(step),
        at_wave=asked.wave,
        next_wave_steps=decision.next_wave_steps,
        hold_kg=done.load_kg if decision.hold and asked.kind is Kind.WORK else None,
        weeks_before=asked.week + 1,
        same_reps_kg=done.same_reps_kg,
        last_kg=done.load_kg if asked.kind is Kind.WORK else done.last_work_kg,
    )
    coming = [p for p in school.resume(outline, asked, decision, parameters) if p.week not in barred]
    return Followed(moved, plan_weeks(coming, base, terms))
