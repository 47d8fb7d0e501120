"""What a decision does to the weeks to come: new loads from a moved planning max or the last load."""

from dataclasses import dataclass, replace

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.progression.after_decision import DoneExposure, Newest, follow, true_to_its_name
from backsquat.core.progression.decision import Code, Decision
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.progression.row import bounded
from backsquat.core.progression.terms import PlannedWeek
from backsquat.core.progression.usual_window import in_seconds
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.strength.current import planning_max
from backsquat.core.working import Working
from backsquat.storage.models import Athlete, Cell
from backsquat.work.plan.exercise_plan import ExercisePlan, known_candidates
from backsquat.work.sessions.blocks import own_day


@dataclass(frozen=True)
class Effect:
    """The moved planning max and the coming weeks as they will be; `asked` where no load is planned for them."""

    planning_max_kg: float
    weeks: tuple[PlannedWeek, ...]
    asked: tuple[Prescription, ...] = ()

    @property
    def next(self) -> PlannedWeek | None:
        """The next week with a load."""
        return self.weeks[0] if self.weeks else None


def effect_of(
    db: Session, plan: ExercisePlan, cell: Cell, athlete: Athlete, decision: Decision, ready: Readiness
) -> Effect:
    """Plan the block's weeks after `cell` with what the decision says."""
    if decision.code is Code.STOP:
        return Effect(cell.planning_max_kg or 0.0, ())
    if cell.planning_max_kg is None or cell.load_kg is None:
        asked = plan.asked(cell)
        weeks = plan.progression.resume(plan.outline, asked, decision, plan.parameters)
        return Effect(0.0, (), tuple(in_seconds(week, plan.movement) for week in weeks))
    known = known_candidates(db, {athlete.id: ready}, plan)[athlete.id]
    terms = plan.terms(athlete.newcomer, cell.bar)
    if known.locked or known.readiness_check or terms is None:
        return Effect(cell.planning_max_kg, ())
    before = _done_before(db, plan, cell)
    done = DoneExposure(
        prescription=plan.asked(cell),
        load_kg=cell.load_kg,
        planning_max_kg=cell.planning_max_kg,
        done_on=own_day(db, plan.exercise, cell.week, cell.athlete_id),
        last_work_kg=before[-1][2] if before else None,
        same_reps_kg=before,
    )
    newest = Newest(cell.estimate_kg or cell.planning_max_kg, None, Working())
    if known.current:
        current, value = (
            planning_max(known.current, newcomer=athlete.newcomer, rules=plan.rules, growing=known.growing),
            known.current.value,
        )
        ends = (value.low_kg * current.share, value.high_kg)
        newest = Newest(known.current.max_kg, current.max_kg, known.current.working, *ends)
    followed = follow(
        plan.progression, plan.parameters, plan.outline, done, decision, newest, bounded(terms, known), known.barred
    )
    return Effect(followed.planning_max_kg, followed.weeks)


_DONE_BEFORE = (
    select(Cell.exercise_id, Cell.week, Cell.reps, Cell.reserve_reps, Cell.load_kg)
    .where(
        Cell.exercise_id.in_(bindparam("exercises", expanding=True)),
        Cell.athlete_id == bindparam("athlete"),
        Cell.week <= bindparam("week"),
        Cell.live,
        Cell.load_kg.is_not(None),
        Cell.kind == ExposureKind.WORK,
    )
    .order_by(Cell.week)
)


def _done_before(db: Session, plan: ExercisePlan, cell: Cell) -> tuple[tuple[int, int, float], ...]:
    """The last load at each reps and reserve up to this session: what one step is measured against."""
    asked = {"exercises": [exercise.id for exercise in plan.row], "athlete": cell.athlete_id, "week": cell.week}
    here, found = plan.nth(cell.exercise_id, cell.week), {}
    for exercise_id, week, reps, reserve, load_kg in db.execute(_DONE_BEFORE, asked):
        nth = plan.nth(exercise_id, week)
        if nth <= here and load_kg is not None:
            found[nth] = (reps, reserve, load_kg)
    return tuple(found[nth] for nth in sorted(found))


def as_said(effect: Effect, plan: ExercisePlan, cell: Cell, athlete: Athlete, code: Code, ready: Readiness) -> Effect:
    """What a coach's up, stay or down leads to: the next number as its name says."""
    terms = plan.terms(athlete.newcomer, cell.bar)
    if terms is None or cell.load_kg is None or not effect.weeks:
        return effect
    most_kg = ready.judge(plan.movement).most_kg
    weeks = true_to_its_name(effect.weeks, code, cell.load_kg, cell.reps, most_kg, terms)
    return replace(effect, weeks=weeks)


def override(decision: Decision, code: Code, missed_share: float) -> Decision:
    """The decision a coach puts in place of a proposal: up a step, stay, or down."""
    plain = replace(decision, code=code, hold=False, keeps=False, reps=0, load_steps=0, load_share=1.0, hold_share=1.0)
    if code is Code.UP:
        return replace(plain, planning_max_share=1.0, steps=1, next_wave_steps=1, load_steps=1)
    if code is Code.DOWN:
        return replace(plain, planning_max_share=missed_share, steps=0, next_wave_steps=0, load_share=missed_share)
    return replace(plain, code=Code.STAY, planning_max_share=1.0, steps=0, next_wave_steps=0)
