"""Compare progressions on one athlete's numbers, and try one on a made-up athlete."""

import random
from dataclasses import dataclass, replace
from typing import Any

from backsquat.core.progression.cell import State
from backsquat.core.progression.compare import MeasuredProgression, measure
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.row import Candidate, bounded, plan_row
from backsquat.core.progression.simulate import MadeUp, SimulatedWeek, simulate
from backsquat.core.progression.usual_window import usual_window
from backsquat.core.sessions.order import ALONE
from backsquat.storage.models import Athlete, Block, Exercise
from backsquat.work.context import WorkContext
from backsquat.work.plan.exercise_plan import ExercisePlan, exercise_plan, known_candidates
from backsquat.work.plan.progression_settings import ProgressionSetting
from backsquat.work.readiness.load import readiness_one

LOADED = [code for code, progression in PROGRESSIONS.items() if progression.loaded]


@dataclass(frozen=True)
class Compared:
    """One progression on the athlete's numbers; `measured` is None where there is no load, `why` says why."""

    code: str
    name: str
    measured: MeasuredProgression | None
    why: State | None = None


def _as_progression(plan: ExercisePlan, progression: str) -> ExercisePlan:
    """The exercise under another progression: its own parameters where it is the one followed, the defaults otherwise."""
    given: dict[str, Any] = dict(plan.setting.given) if progression == plan.setting.code else {}
    if PROGRESSIONS[progression].windowed and "low" not in given:
        window = usual_window(plan.movement, ALONE, True, plan.rules)
        given |= {"low": window.low, "high": window.high}
    return replace(plan, setting=ProgressionSetting(progression, given))


def compare(
    context: WorkContext, block: Block, exercise: Exercise, athlete: Athlete, progressions: list[str]
) -> list[Compared]:
    """Each progression's whole block from today's estimate. Nothing is stored, and nobody refused gets a load here
    either.
    """
    plan = exercise_plan(context.db, block, exercise, context.rules).of(athlete.id)
    ready = readiness_one(context.db, athlete, context.today, context.rules)
    found, known = [], dict[int, Candidate]()
    for code in progressions:
        other = _as_progression(plan, code)
        if len(other.row) not in known:  # of a row over several days its exposures, of any other its weeks
            known[len(other.row)] = known_candidates(context.db, {athlete.id: ready}, other)[athlete.id]
        candidate, terms = known[len(other.row)], other.terms(athlete.newcomer)
        refusal = candidate.refusal
        if terms is None or refusal or candidate.current is None:
            found.append(Compared(code, PROGRESSIONS[code].name, None, refusal or State.NEEDS_TEST))
            continue
        row = plan_row(candidate, other.outline, terms)
        measured = measure(
            other.of_exercise(row.weeks), candidate.current.max_kg, plan.movement, bounded(terms, candidate)
        )
        found.append(Compared(code, PROGRESSIONS[code].name, measured))
    return found


@dataclass(frozen=True)
class Trial:
    """What a made-up athlete is like."""

    max_kg: float = 100.0
    gain_percent: float = 0.6
    seed: int = 1
    missed_week: int = 0  # from 1; 0: none
    sore_week: int = 0


def try_progression(
    context: WorkContext, block: Block, exercise: Exercise, progression: str, trial: Trial
) -> tuple[SimulatedWeek, ...]:
    """The block with a made-up athlete: the same seed tells the same story."""
    plan = exercise_plan(context.db, block, exercise, context.rules)
    other = _as_progression(plan, progression)
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
        other.progression, other.parameters, athlete, block.weeks, terms, random.Random(trial.seed), hinge=plan.hinge
    )
