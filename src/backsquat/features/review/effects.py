"""What a decision does to the weeks to come: new loads from a moved planning max."""

import datetime as dt
from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.progression.decision import Code, Decision
from backsquat.core.progression.plan import PlanBase, PlannedWeek, plan_weeks
from backsquat.core.progression.prescription import Kind
from backsquat.core.progression.row import bounded
from backsquat.core.rules import Rules
from backsquat.core.working import Step, Working, plain
from backsquat.features.blocks.planning import SlotPlan, known_candidates, session_day
from backsquat.storage.convert import bar_of
from backsquat.storage.models import Athlete, Cell


@dataclass(frozen=True)
class Effect:
    """The moved planning max and the coming weeks as they will be; empty where no load may be planned."""

    planning_max_kg: float
    weeks: tuple[PlannedWeek, ...]

    @property
    def next(self) -> PlannedWeek | None:
        return self.weeks[0] if self.weeks else None


def effect_of(
    session: Session, plan: SlotPlan, cell: Cell, athlete: Athlete, decision: Decision, today: dt.date, rules: Rules
) -> Effect:  # fmt: skip
    """Plan the block's weeks after `cell` with what the decision says."""
    if cell.planning_max_kg is None or cell.load_kg is None or decision.code is Code.STOP:
        return Effect(cell.planning_max_kg or 0.0, ())
    known = known_candidates(session, [athlete], plan, today)[athlete.id]
    if known.locked or known.gate:
        return Effect(cell.planning_max_kg, ())
    terms = bounded(plan.terms(athlete.newcomer, bar_of(plan.room, cell.bar)), known)
    moved = cell.planning_max_kg * decision.planning_max_share + decision.steps * terms.step_kg
    words = f"{plain(cell.planning_max_kg)} × {plain(decision.planning_max_share, 2)}"
    if decision.steps:
        words += f" + {decision.steps} × {plain(terms.step_kg, 2)}"
    day = session_day(plan.block, plan.slot, cell.week)
    step = Step(f"After {day.day} {day:%b}", f"planning max {words}: {decision.code}", plain(moved), "kg")
    estimate = known.current.max_kg if known.current else cell.estimate_kg or moved
    working = known.current.working if known.current else Working()
    base = PlanBase(
        planning_max_kg=moved,
        estimate_kg=estimate,
        working=working.then(step),
        at_wave=cell.wave,
        next_wave_steps=decision.next_wave_steps,
        hold_kg=cell.load_kg if decision.hold and cell.kind == Kind.WORK else None,
        weeks_before=cell.week + 1,
        same_reps_kg=_done_before(session, plan.slot.id, cell),
    )
    coming = [p for p in plan.outline() if p.week > cell.week and p.week not in known.barred]
    return Effect(moved, plan_weeks(coming, base, terms))


def _done_before(session: Session, slot_id: int, cell: Cell) -> tuple[tuple[int, int, float], ...]:
    """The last load at each reps and reserve up to this session: what one step is measured against."""
    rows = session.execute(
        select(Cell.reps, Cell.reserve_reps, Cell.load_kg)
        .where(
            Cell.slot_id == slot_id, Cell.athlete_id == cell.athlete_id, Cell.live, Cell.week <= cell.week,
            Cell.load_kg.is_not(None), Cell.kind == Kind.WORK.value,
        )
        .order_by(Cell.week)
    )  # fmt: skip
    return tuple((reps, reserve, load_kg) for reps, reserve, load_kg in rows if load_kg is not None)


def override(decision: Decision, code: Code, missed_share: float) -> Decision:
    """The decision a coach puts in place of a proposal: up a step, stay, or down."""
    if code is Code.UP:
        return replace(decision, code=code, planning_max_share=1.0, steps=1, next_wave_steps=1, hold=False)
    if code is Code.DOWN:
        return replace(
            decision, code=code, planning_max_share=missed_share, steps=0, next_wave_steps=0, hold=False
        )
    return replace(decision, code=Code.STAY, planning_max_share=1.0, steps=0, next_wave_steps=0, hold=True)
