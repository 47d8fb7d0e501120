"""Proposing a decision after an exposure, and reading one back from its row."""

import datetime as dt
from dataclasses import replace
from typing import Any

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.movements.ladder import Ladder
from backsquat.core.progression.cell import State
from backsquat.core.progression.decision import Answers, Code, Decision, Exposure, Pain, Past
from backsquat.core.progression.level import judge_level
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.terms import Terms
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.core.sessions.running import ActKind
from backsquat.core.strength.record import whole_sets
from backsquat.storage.convert import columns_of, record_from_row
from backsquat.storage.models import Block, Cell, DecisionRow, Exercise, PainReport, SessionAct, WeekAnswer
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.decisions.effects import Effect, effect_of
from backsquat.work.log.sets import level_sets, pain_last_time, sets_of
from backsquat.work.plan.exercise_plan import ExercisePlan, exercise_plan
from backsquat.work.plan.rows import written
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_one
from backsquat.work.sessions.blocks import cell_of, own_day
from backsquat.work.squad.athletes import athlete_of, rules_for

_OPEN = select(DecisionRow).where(
    DecisionRow.athlete_id == bindparam("athlete"),
    DecisionRow.movement == bindparam("movement"),
    DecisionRow.done_on <= bindparam("day"),
    ~DecisionRow.settled,
)
_REPORTED = select(PainReport.level, PainReport.character).where(PainReport.cell_id == bindparam("cell"))
_LEFT_OUT = select(SessionAct.id).where(
    SessionAct.athlete_id == bindparam("athlete"),
    SessionAct.exercise_id == bindparam("exercise"),
    SessionAct.week == bindparam("week"),
    SessionAct.what == ActKind.SKIPPED,
    ~SessionAct.taken_back,
)
_ANSWERS = select(WeekAnswer).where(WeekAnswer.cell_id == bindparam("cell")).order_by(WeekAnswer.id.desc()).limit(1)
_PAST = (
    select(Cell.exercise_id, Cell.week, DecisionRow.reason, DecisionRow.missing_reps)
    .join(Cell, DecisionRow.cell_id == Cell.id)
    .where(
        Cell.exercise_id.in_(bindparam("exercises", expanding=True)),
        Cell.athlete_id == bindparam("athlete"),
        Cell.week <= bindparam("week"),
        Cell.kind == ExposureKind.WORK,
    )
    .order_by(Cell.week, DecisionRow.id)
)


def settle(db: Session, athlete_id: int, movement: str, until: dt.date) -> None:
    """Open proposals for this lift up to a day are overtaken: only the newest exposure moves the plan."""
    for row in db.scalars(_OPEN, {"athlete": athlete_id, "movement": movement, "day": until}):
        row.settled = True


def propose(
    context: WorkContext, cell: Cell, exercise: Exercise, block: Block, ready: Readiness | None = None
) -> DecisionRow:
    """Judge the exposure as logged so far and keep the proposal; an open one before it is overtaken.

    `ready` where the caller has just asked for it.
    """
    athlete = athlete_of(context.db, context.squad_id, cell.athlete_id)
    own = rules_for(athlete, context.rules)
    ready = ready or readiness_one(context.db, athlete, context.today, own)
    if cell.state is State.LEVEL:
        return _propose_level(context.ruled_by(own), cell, exercise, ready)
    plan = exercise_plan(context.db, block, exercise, own).of(athlete.id)
    exposure = _exposure(context.db, plan, cell, ready)
    decision = plan.progression.judge(exposure, plan.parameters, own)
    effect = effect_of(context.db, plan, cell, athlete, decision, ready)
    following = next_number(context.db, cell, plan, decision, effect)
    decision = said_truly(decision, following, exposure)
    row = _row(
        context.actor,
        cell,
        exercise.movement,
        own_day(context.db, exercise, cell.week, cell.athlete_id),
        decision,
        following,
    )
    row.missing_reps = exposure.reps_missing
    row.repeats = decision.may_repeat and _says_the_plan(context.db, cell, plan, following)
    return _keep(context.db, row)


def _says_the_plan(db: Session, cell: Cell, plan: ExercisePlan, following: dict[str, Any]) -> bool:
    """Whether the next session's number is the one that is published."""
    standing = following_cell(db, cell, plan)
    if standing is None or not standing.live or not following:
        return False
    asked = (following.get("next_kg"), following["next_sets"], following["next_reps"], following.get("next_s", 0))
    return asked == (standing.load_kg, standing.sets, standing.reps, standing.hold_s if "next_s" in following else 0)


def said_truly(decision: Decision, following: dict[str, Any], exposure: Exposure) -> Decision:
    """Up is said of a higher number only; what was made and is held says the step there is, and what would let it go.

    What it does stays as the progression has it.
    """
    up_kg = exposure.next_load_kg
    held = decision.code is Code.UP and following.get("way") in ("same", "down", "under")
    if not held or up_kg is None or up_kg <= exposure.load_kg:
        return decision
    facts = {**decision.facts, "next_up_kg": up_kg, "step_kg": up_kg - exposure.load_kg}
    return replace(decision, reason="made_held", facts=facts, would_change="more_room")


def _keep(db: Session, row: DecisionRow) -> DecisionRow:
    settle(db, row.athlete_id, row.movement, row.done_on)
    db.add(row)
    db.flush()
    return row


def _row(
    actor: Actor, cell: Cell, movement: str, done_on: dt.date, decision: Decision, following: dict[str, Any]
) -> DecisionRow:
    return DecisionRow(
        cell_id=cell.id,
        athlete_id=cell.athlete_id,
        movement=movement,
        done_on=done_on,
        **columns_of(decision),
        following=following,
        by_id=actor.user_id,
        at=actor.now,
    )


def _exposure(db: Session, plan: ExercisePlan, cell: Cell, ready: Readiness) -> Exposure:
    """What the progression judges: the sets, what came before them, and the next load there is."""
    movement, day = plan.movement, own_day(db, plan.exercise, cell.week, cell.athlete_id)
    entries = sets_of(db, cell.id)
    terms = plan.terms(ready.person.newcomer, cell.bar)
    now_kg = cell.load_kg or 0.0
    return Exposure(
        prescription=plan.asked(cell),
        load_kg=now_kg,
        sets=whole_sets([record_from_row(entry) for entry in entries]),
        pain_last_time=pain_last_time(db, cell.athlete_id, movement.code, day),
        not_ready=ready.judge(movement).has(Reason.NOT_READY, Reason.UNEARNED),
        past=_past(db, cell, plan),
        next_load_kg=_next_load_kg(terms.in_week(plan.nth(cell.exercise_id, cell.week) + 1), now_kg) if terms else None,
        carried_kg=next((entry.carried_kg for entry in entries if entry.carried_kg), 0.0),
        answers=_answers(db, cell),
        hinge=plan.hinge,
        reported=_reported(db, cell),
        left_out=db.execute(_LEFT_OUT, _about(cell)).first() is not None,
    )


def _about(cell: Cell) -> dict[str, int]:
    return {"athlete": cell.athlete_id, "exercise": cell.exercise_id, "week": cell.week}


def _reported(db: Session, cell: Cell) -> tuple[Pain, ...]:
    """Pain that was said by itself in an exposure."""
    return tuple(Pain(level, character) for level, character in db.execute(_REPORTED, {"cell": cell.id}))


def _answers(db: Session, cell: Cell) -> Answers | None:
    said = db.scalars(_ANSWERS, {"cell": cell.id}).first()
    return Answers(said.sound, said.sure, said.too_easy) if said else None


def _next_load_kg(terms: Terms, now_kg: float) -> float:
    """The load a step up leads to, in the room of the next session."""
    return terms.loads.climbed(now_kg, 1, terms.rules.step_least).kg


def _past(db: Session, cell: Cell, plan: ExercisePlan) -> tuple[Past, ...]:
    """The newest decision of each earlier working exposure of the row and athlete, oldest first."""
    asked = {"exercises": [exercise.id for exercise in plan.row], "athlete": cell.athlete_id, "week": cell.week}
    rows = db.execute(_PAST, asked)
    newest = {plan.nth(exercise_id, week): Past(reason, missing) for exercise_id, week, reason, missing in rows}
    return tuple(newest[nth] for nth in sorted(newest) if nth < plan.nth(cell.exercise_id, cell.week))


def answer_week(context: WorkContext, cell_id: int, answers: Answers) -> DecisionRow:
    """Keep the coach's three answers to an earned week, and judge it with them."""
    require(context.actor, Act.PLAN)
    cell, exercise, block = cell_of(context.db, context.squad_id, cell_id)
    if not sets_of(context.db, cell.id):
        raise Refused("no_sets")
    said = WeekAnswer(
        cell_id=cell.id,
        sound=answers.sound,
        sure=answers.sure,
        too_easy=answers.too_easy,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(said)
    context.db.flush()
    return propose(context, cell, exercise, block)


def _propose_level(context: WorkContext, cell: Cell, exercise: Exercise, ready: Readiness) -> DecisionRow:
    """Judge the work of a level: nothing is planned again, the level may change."""
    library, athlete_id = ready.library, ready.person.id
    day, movement = own_day(context.db, exercise, cell.week, cell.athlete_id), library.get(cell.movement)
    exercise_ladders = {ladder.code for ladder, _ in library.ladders_of(exercise.movement)}
    held_on = library.ladders_of(movement.code)
    alone = Ladder("", "", "", ((movement.code,),))  # what stands in may be on no ladder: nothing to move on
    ladder = next((lad for lad, _ in held_on if lad.code in exercise_ladders), held_on[0][0] if held_on else alone)
    sets = level_sets(context.db, athlete_id, movement.code, ready.levels.get(ladder.code))
    here = [record_from_row(entry) for entry in sets_of(context.db, cell.id)]
    if not {s.set_id for s in here} <= {s.set_id for s in sets}:
        sets = here  # logged late: the athlete has moved on since, so this day stands alone
    again = pain_last_time(context.db, athlete_id, movement.code, day)
    decision = judge_level(ladder, movement, sets, ready.may_earn, context.rules, again, _reported(context.db, cell))
    if ladder is alone:
        decision = replace(decision, keeps=True)
    row = _row(context.actor, cell, movement.code, day, decision, {})
    row.ladder = ladder.code
    row.repeats = decision.code is Code.STAY
    return _keep(context.db, row)


def next_number(db: Session, cell: Cell, plan: ExercisePlan, decision: Decision, effect: Effect) -> dict[str, Any]:
    """The next session's number as a sentence needs it; where the plan stands, the number that stands."""
    if decision.keeps or (effect.next is None and effect.asked):
        return _standing_number(db, cell, plan, effect)
    week = effect.next
    if week is None:
        return {}
    asked = week.prescription
    load_kg = week.load.kg if week.load else None
    return {
        "way": _way(cell, load_kg, asked.reps) if asked.kind is ExposureKind.WORK else "",
        "next_load": week.load.total.text if week.load else None,
        "next_kg": week.load.kg if week.load else None,
        "next_sets": asked.sets,
        "next_reps": asked.reps,
        "next_deload": asked.kind is ExposureKind.DELOAD,
    }


def _way(cell: Cell, load_kg: float | None, reps: int) -> str:
    """How the next number stands to this one: up, down, same; "under": nothing is light enough; empty: not to be said."""
    if load_kg is None:
        return "under"
    if cell.load_kg is None or cell.kind is not ExposureKind.WORK:
        return ""
    if abs(load_kg - cell.load_kg) > 0.001:
        return "up" if load_kg > cell.load_kg else "down"
    return "same" if reps == cell.reps else "up" if reps > cell.reps else "down"


def following_cell(db: Session, cell: Cell, plan: ExercisePlan) -> Cell | None:
    """What stands in the exposure after a cell's."""
    after = plan.after(cell)
    if after is None:
        return None
    same = (Cell.exercise_id == after[0], Cell.week == after[1], Cell.athlete_id == cell.athlete_id)
    return db.scalars(select(Cell).where(*same, Cell.current)).first()


def _standing_number(db: Session, cell: Cell, plan: ExercisePlan, effect: Effect) -> dict[str, Any]:
    if effect.asked:
        asked = effect.asked[0]
        return {"next_sets": asked.sets, "next_reps": asked.reps, "next_s": asked.hold_s, "next_deload": False}
    following = following_cell(db, cell, plan)
    if following is None:
        return {}
    return {
        "next_load": written(following.load_amount) or None,
        "next_kg": following.load_kg,
        "next_sets": following.sets,
        "next_reps": following.reps,
        "next_deload": following.kind is ExposureKind.DELOAD,
    }
