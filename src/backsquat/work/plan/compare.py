"""Compare schools on one athlete's numbers, and try one on a made-up athlete."""

import random
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.progression.cell import State
from backsquat.core.progression.compare import Measured, measure
from backsquat.core.progression.row import Candidate, bounded, plan_row
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.progression.simulate import MadeUp, SimulatedWeek, simulate
from backsquat.core.progression.usual_window import usual_window
from backsquat.core.rules import Rules
from backsquat.core.sessions.order import ALONE
from backsquat.storage.models import Athlete, Block, BlockSlot
from backsquat.work.actor import Actor
from backsquat.work.plan.school_settings import SchoolSetting
from backsquat.work.plan.slot_plan import SlotPlan, known_candidates, slot_plan
from backsquat.work.readiness.load import readiness_one

LOADED = [code for code, school in SCHOOLS.items() if school.loaded]


@dataclass(frozen=True)
class Compared:
    """One school on the athlete's numbers; `measured` is None where there is no load, `why` says why."""

    code: str
    name: str
    measured: Measured | None
    why: State | None = None


def _as_school(plan: SlotPlan, school: str) -> SlotPlan:
    """The slot under another school: its own parameters where it is the one followed, the defaults otherwise."""
    given: dict[str, Any] = dict(plan.setting.given) if school == plan.setting.code else {}
    if school == "window" and "low" not in given:
        window = usual_window(plan.movement, ALONE, True, plan.rules)
        given |= {"low": window.low, "high": window.high}
    return replace(plan, setting=SchoolSetting(school, given))


def compare(
    session: Session, actor: Actor, block: Block, slot: BlockSlot, athlete: Athlete, schools: list[str], rules: Rules
) -> list[Compared]:
    """Each school's whole block from today's estimate. Nothing is stored, and nobody refused gets a load here either."""
    plan = slot_plan(session, block, slot, rules).of(athlete.id)
    ready = readiness_one(session, athlete, actor.today, rules)
    found, known = [], dict[int, Candidate]()
    for code in schools:
        other = _as_school(plan, code)
        if len(other.row) not in known:  # of a row over several days its exposures, of any other its weeks
            known[len(other.row)] = known_candidates(session, {athlete.id: ready}, other)[athlete.id]
        candidate, terms = known[len(other.row)], other.terms(athlete.newcomer)
        refusal = candidate.refusal
        if terms is None or refusal or candidate.current is None:
            found.append(Compared(code, SCHOOLS[code].name, None, refusal or State.NEEDS_TEST))
            continue
        row = plan_row(candidate, other.outline, terms)
        measured = measure(other.of_slot(row.weeks), candidate.current.max_kg, plan.movement, bounded(terms, candidate))
        found.append(Compared(code, SCHOOLS[code].name, measured))
    return found


@dataclass(frozen=True)
class Trial:
    """What a made-up athlete is like."""

    max_kg: float = 100.0
    gain_percent: float = 0.6
    seed: int = 1
    missed_week: int = 0  # from 1; 0: none
    sore_week: int = 0


def try_school(
    session: Session, actor: Actor, block: Block, slot: BlockSlot, school: str, trial: Trial, rules: Rules
) -> tuple[SimulatedWeek, ...]:
    """The block with a made-up athlete: the same seed tells the same story."""
    plan = slot_plan(session, block, slot, rules)
    other = _as_school(plan, school)
    terms = other.terms(False)
    if terms is None:
        return ()
    athlete = MadeUp(
        trial.max_kg,
        gain_a_week=trial.gain_percent / 100,
        missed_weeks=frozenset({trial.missed_week - 1} if trial.missed_week else ()),
        sore_weeks=frozenset({trial.sore_week - 1} if trial.sore_week else ()),
    )
    return simulate(
        other.school, other.parameters, athlete, block.weeks, terms, random.Random(trial.seed), hinge=plan.hinge
    )
