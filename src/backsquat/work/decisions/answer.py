"""Answering a proposal: accepted, or decided otherwise with a reason; the weeks to come follow."""

from collections.abc import Iterable
from dataclasses import replace
from decimal import Decimal
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.ladder import level_beyond
from backsquat.core.progression.cell import Origin
from backsquat.core.progression.decision import Code, Decision
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.terms import PlannedWeek
from backsquat.storage.convert import decision_from_row
from backsquat.storage.models import Answer, Cell, DecisionRow
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.decisions.effects import Effect, as_said, effect_of, override
from backsquat.work.decisions.propose import following_cell, next_number
from backsquat.work.decisions.waiting import waiting
from backsquat.work.ladders.moves import move_level
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.cells import make_live, place_drafts
from backsquat.work.plan.drafts import Draft, draft_of_week
from backsquat.work.plan.edit import edit_cell
from backsquat.work.plan.exercise_plan import ExercisePlan, exercise_plan
from backsquat.work.plan.replan import publish_of_athlete, refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_one
from backsquat.work.sessions.blocks import cell_of, to_come
from backsquat.work.squad.athletes import athlete_of

OVERRIDES = (Code.UP, Code.STAY, Code.DOWN)


def answer(
    context: WorkContext,
    decision_id: int,
    *,
    code: Code | None = None,
    reason: str = "",
    own_load: Decimal | None = None,
) -> Answer:
    """Accept the proposal (`code` None) or decide otherwise with a reason; the weeks to come follow and go live.

    `own_load`: the coach's own number for the next session, which then holds; the code is what it is against today's.
    The coach's own edits in the weeks to come stay. A stop is not overridden here.
    """
    require(context.actor, Act.PLAN)
    row = context.db.get(DecisionRow, decision_id)
    if row is None:
        raise NotThere("decision")
    cell, exercise, block = cell_of(context.db, context.squad_id, row.cell_id)
    if row.settled:
        raise Refused("settled")
    other = code is not None or own_load is not None
    if other and row.code is Code.STOP:
        raise Refused("stop_stands")
    if other and not reason.strip():
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    row.settled = True
    if row.ladder:
        _move_on_ladder(context, row, code or row.code, reason.strip())
        return _held(context, row, code, row.code, reason, None)
    plan = exercise_plan(context.db, block, exercise, context.rules).of(cell.athlete_id)
    if own_load is not None:
        new = _own_number(context, cell, plan, own_load)
        code = _code_of(new.load_kg, cell.load_kg)
        return _held(context, row, code, code, reason, new.version_id)
    decision = decision_from_row(row)
    if code is not None:
        decision = override(decision, code, plan.parameters.missed_share)
    version_id = _follow(context, cell, plan, decision, said=code)
    return _held(context, row, code, decision.code, reason, version_id)


def accept_as_planned(context: WorkContext, decision_ids: Iterable[int]) -> int:
    """Accept those of these proposals that still only repeat the plan, of this squad; how many they were."""
    require(context.actor, Act.PLAN)
    _, repeats = waiting(context.db, context.squad_id)
    still = [item.row.id for item in repeats if item.row.id in set(decision_ids)]
    for decision_id in still:
        answer(context, decision_id)
    return len(still)


def _own_number(context: WorkContext, cell: Cell, plan: ExercisePlan, load: Decimal) -> Cell:
    """The coach's own number in the next session, live at once."""
    following = following_cell(context.db, cell, plan)
    if following is None:
        raise Refused("nothing_follows")
    new, _change = edit_cell(context, following.id, load, "")
    make_live(context, plan.block.id, [new.id], "decision: the coach's own number")
    context.db.refresh(new)
    return new


def _code_of(next_kg: float | None, now_kg: float | None) -> Code:
    if next_kg is None or now_kg is None or abs(next_kg - now_kg) < 0.001:
        return Code.STAY
    return Code.UP if next_kg > now_kg else Code.DOWN


def outcomes(context: WorkContext, decision_id: int) -> dict[Code, dict[str, Any]]:
    """The next number each other answer would lead to, in the words of `DecisionRow.following`; nothing is written.

    For work on a level: the name of the level each leads to. Empty for a stop.
    """
    row = context.db.get(DecisionRow, decision_id)
    if row is None:
        raise NotThere("decision")
    cell, exercise, block = cell_of(context.db, context.squad_id, row.cell_id)
    athlete = athlete_of(context.db, context.squad_id, cell.athlete_id)
    ready = readiness_one(context.db, athlete, context.today, context.rules)
    if row.code is Code.STOP:
        return {}
    if row.ladder:
        ladder, here = ready.library.ladders[row.ladder], row.movement
        found = {Code.STAY: {"to": here}}
        for code, by in ((Code.HARDER_LEVEL, 1), (Code.EASIER_LEVEL, -1)):
            if beyond := level_beyond(ladder, ladder.level_of(here) or 0, by, ready.may_earn):
                found[code] = {"to": beyond[1][0]}
        return found
    plan = exercise_plan(context.db, block, exercise, context.rules).of(cell.athlete_id)
    said = {}
    for code in OVERRIDES:
        decision = override(decision_from_row(row), code, plan.parameters.missed_share)
        effect = effect_of(context.db, plan, cell, athlete, decision, ready)
        effect = as_said(effect, plan, cell, athlete, code, ready)
        said[code] = next_number(context.db, cell, plan, decision, effect) | {"own": _coachs(context.db, cell, plan)}
        if said[code].get("next_deload"):  # what the answer does shows in the week after
            work = next((week for week in effect.weeks if week.prescription.kind is ExposureKind.WORK), None)
            said[code] |= {
                "then": work.load.total.text if work and work.load else "",
                "then_reps": work and work.prescription.reps,
            }
    return said


def _held(
    context: WorkContext, row: DecisionRow, code: Code | None, final: Code, reason: str, version_id: int | None
) -> Answer:
    held = Answer(
        decision_id=row.id,
        accepted=code is None,
        code=code or final,
        reason=reason.strip(),
        version_id=version_id,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(held)
    context.db.flush()
    if code is not None:
        note(context.db, context.actor, "decided_otherwise", athlete=row.athlete_id, decision=row.id, code=code.value)
    return held


def _move_on_ladder(context: WorkContext, row: DecisionRow, final: Code, reason: str) -> None:
    """The next level that is open up or down the ladder, where the answer is to move."""
    if final not in (Code.HARDER_LEVEL, Code.EASIER_LEVEL):
        return
    up = final is Code.HARDER_LEVEL
    ladder = context.library.ladders[row.ladder]
    athlete = athlete_of(context.db, context.squad_id, row.athlete_id)
    ready = readiness_one(context.db, athlete, context.today, context.rules)
    beyond = level_beyond(ladder, ladder.level_of(row.movement) or 0, 1 if up else -1, ready.may_earn)
    if beyond is None:
        raise Refused("no_level")
    move_level(
        context,
        athlete.id,
        ladder.code,
        beyond[1][0],
        way="harder" if up else "easier",
        reason=reason or row.reason,
        facts={"decision": row.id},
    )
    refresh_athlete(context, athlete.id)
    publish_of_athlete(context, athlete.id, f"level: {final.value.split()[0]}")


def _follow(
    context: WorkContext, cell: Cell, plan: ExercisePlan, decision: Decision, said: Code | None = None
) -> int | None:
    """Put the decision's loads in the coming weeks; the version they went live with, None if nothing changed."""
    if decision.keeps:
        return None
    athlete = athlete_of(context.db, context.squad_id, cell.athlete_id)
    ready = readiness_one(context.db, athlete, context.today, plan.rules)
    effect = effect_of(context.db, plan, cell, athlete, decision, ready)
    effect = as_said(effect, plan, cell, athlete, said, ready) if said else effect
    free = _free_cells(context, cell, plan)
    held = decision.code in (Code.STAY, Code.DOWN)
    if decision.code in (Code.LOOK, Code.DOWN) and said is None:
        effect = replace(effect, weeks=_not_heavier(effect.weeks, free))
    drafts = [*_loaded(plan, cell, effect, free, held), *_asked(effect, free)]
    if not drafts:
        return None
    placed = place_drafts(context, drafts)
    return make_live(context, plan.block.id, placed.ids, f"decision: {decision.code}").id


def _not_heavier(weeks: Iterable[PlannedWeek], free: dict[int, Cell]) -> tuple[PlannedWeek, ...]:
    """Without the weeks that would rise: after pain, lost depth or a miss nothing to come gets heavier than it stood."""
    return tuple(
        week
        for week in weeks
        if (old := free.get(week.prescription.week)) is None
        or old.load_kg is None
        or week.load is None
        or week.load.kg <= old.load_kg
    )


def _free_cells(context: WorkContext, cell: Cell, plan: ExercisePlan) -> dict[int, Cell]:
    """By exposure, the coming cells a decision may change: neither the coach's own, nor lifted, nor past."""
    exercises = {exercise.id: exercise for exercise in plan.row}
    logged = logged_cells(context.db, list(exercises))
    cells = context.db.scalars(
        select(Cell).where(
            Cell.exercise_id.in_(list(exercises)),
            Cell.athlete_id == cell.athlete_id,
            Cell.current,
            Cell.week >= cell.week,
        )
    )
    here = plan.nth(cell.exercise_id, cell.week)
    return {
        nth: other
        for other in cells
        if (nth := plan.nth(other.exercise_id, other.week)) > here
        and other.origin is not Origin.COACH
        and (other.exercise_id, other.athlete_id, other.week) not in logged
        and to_come(exercises[other.exercise_id], other.week, context.today)
    }


def _coachs(db: Session, cell: Cell, plan: ExercisePlan) -> bool:
    """Whether the coach's own number stands in the next session."""
    following = following_cell(db, cell, plan)
    return following is not None and following.origin is Origin.COACH


def _loaded(plan: ExercisePlan, cell: Cell, effect: Effect, free: dict[int, Cell], held: bool) -> Iterable[Draft]:
    """Drafts of the weeks whose load, reps or planning max the decision changes."""
    for week in effect.weeks:
        old = free.get(week.prescription.week)
        if old is None:
            continue
        same_load = (week.load.kg if week.load else None) == old.load_kg
        same_max = abs((old.planning_max_kg or 0) - week.planning_max_kg) < 0.005
        same_work = (old.reps, old.sets) == (week.prescription.reps, week.prescription.sets)
        if same_load and same_max and same_work:
            continue
        draft = draft_of_week(plan, cell.athlete_id, week, old.inputs, Origin.DECISION)
        yield replace(draft, held=held, decided_on_id=cell.id)


def _asked(effect: Effect, free: dict[int, Cell]) -> Iterable[Draft]:
    """Drafts of the weeks without a load whose reps, seconds or sets the decision changes."""
    for asked in effect.asked:
        old = free.get(asked.week)
        wanted = (asked.reps, asked.hold_s, asked.sets)
        if old is not None and (old.reps, old.hold_s, old.sets) != wanted:
            yield replace(Draft.of(old), reps=asked.reps, hold_s=asked.hold_s, sets=asked.sets, origin=Origin.DECISION)
