"""Proposing a decision after an exposure, and answering it."""

import datetime as dt
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.ladder import rung_beyond
from backsquat.core.progression.decision import Code, Decision, Exposure
from backsquat.core.progression.prescription import Prescription
from backsquat.core.progression.row import State
from backsquat.core.progression.rung import judge_rung
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.rules import Rules
from backsquat.core.strength.record import SetRecord
from backsquat.features.athletes.queries import athlete_of
from backsquat.features.athletes.readiness import readiness_one, rules_for
from backsquat.features.blocks.operations import (
    cell_of,
    make_live,
    place_cells,
    publish_of_athlete,
    refresh_athlete,
)
from backsquat.features.blocks.planning import SlotPlan, cell_values, logged_places, room_of, session_day
from backsquat.features.desk import Actor
from backsquat.features.ladders.operations import move_rung
from backsquat.features.movements.queries import library_of
from backsquat.features.review.effects import Effect, effect_of, override
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import Answer, Athlete, Block, BlockSlot, Cell, DecisionRow, RungMove, SetEntry

OVERRIDES = (Code.UP, Code.STAY, Code.DOWN)


def prescription_of(cell: Cell, plan: SlotPlan) -> Prescription:
    """The cell's prescription as its school lays it out now."""
    return next(p for p in plan.outline() if p.week == cell.week)


def sets_of(session: Session, cell_id: int) -> list[SetEntry]:
    """The standing sets of a cell in order."""
    rows = session.scalars(
        select(SetEntry)
        .where(SetEntry.cell_id == cell_id, ~SetEntry.replaced, ~SetEntry.withdrawn)
        .order_by(SetEntry.set_number, SetEntry.id)
    )
    return list(rows)


def settle(session: Session, athlete_id: int, movement: str, until: dt.date) -> None:
    """Open proposals for this lift up to a day are overtaken: only the newest exposure moves the plan."""
    session.execute(
        update(DecisionRow)
        .where(
            DecisionRow.athlete_id == athlete_id, DecisionRow.movement == movement, DecisionRow.done_on <= until,
            ~DecisionRow.settled,
        )
        .values(settled=True)
    )  # fmt: skip


def propose(
    session: Session, actor: Actor, cell: Cell, slot: BlockSlot, block: Block, rules: Rules
) -> DecisionRow:
    """Judge the exposure as logged so far and keep the proposal; an open one before it is overtaken."""
    athlete = athlete_of(session, actor.squad_id, cell.athlete_id)
    rules = rules_for(athlete, rules)
    if cell.state == State.RUNG.value:
        return _propose_rung(session, actor, cell, slot, session_day(block, slot, cell.week), athlete, rules)
    plan = SlotPlan(block, slot, room_of(session, actor.squad_id), rules)
    entries, library = sets_of(session, cell.id), library_of(session, actor.squad_id)
    exposure = Exposure(
        prescription=prescription_of(cell, plan),
        load_kg=cell.load_kg or 0.0,
        sets=[record_from_row(entry) for entry in entries],
        pain_last_time=_pain_last_time(session, cell, slot.movement, session_day(block, slot, cell.week)),
        gated=bool(readiness_one(session, athlete, actor.today, rules).gate(library.get(slot.movement))),
    )
    decision = SCHOOLS[slot.school].judge(exposure, plan.parameters, rules)
    effect = effect_of(session, plan, cell, athlete, decision, actor.today, rules)
    settle(session, athlete.id, slot.movement, session_day(block, slot, cell.week))
    row = DecisionRow(
        cell_id=cell.id, athlete_id=athlete.id, movement=slot.movement, done_on=session_day(block, slot, cell.week),
        code=decision.code.value, reason=decision.reason, facts=dict(decision.facts), evidence=list(decision.evidence),
        effect=_plain(decision) | next_number(effect), would_change=decision.would_change,
        by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(row)
    session.flush()
    return row


def _propose_rung(
    session: Session, actor: Actor, cell: Cell, slot: BlockSlot, day: dt.date, athlete: Athlete, rules: Rules
) -> DecisionRow:
    """Judge the work of a rung: nothing is planned anew, the rung may change."""
    library, ready = library_of(session, actor.squad_id), readiness_one(session, athlete, actor.today, rules)
    movement = library.get(cell.movement)
    slot_ladders = {ladder.code for ladder, _ in library.ladders_of(slot.movement)}
    places = library.ladders_of(movement.code)
    ladder = next((lad for lad, _ in places if lad.code in slot_ladders), places[0][0])
    sets = rung_sets(session, athlete.id, movement.code, ready.rungs.get(ladder.code))
    here = [record_from_row(entry) for entry in sets_of(session, cell.id)]
    if not {s.set_id for s in here} <= {s.set_id for s in sets}:
        sets = here  # logged late: the athlete has moved on since, so this day stands alone
    again = _pain_last_time(session, cell, movement.code, day)
    decision = judge_rung(ladder, movement, sets, ready.may, rules, again)
    settle(session, athlete.id, movement.code, day)
    row = DecisionRow(
        cell_id=cell.id, athlete_id=athlete.id, movement=movement.code, done_on=day, code=decision.code.value,
        reason=decision.reason, facts=dict(decision.facts), evidence=list(decision.evidence),
        effect=_plain(decision) | {"ladder": ladder.code}, would_change=decision.would_change,
        by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(row)
    session.flush()
    return row


def rung_sets(session: Session, athlete_id: int, movement: str, since: RungMove | None) -> list[SetRecord]:
    """Standing sets of a movement since the athlete came onto its rung."""
    rows = session.scalars(
        select(SetEntry)
        .where(
            SetEntry.athlete_id == athlete_id, SetEntry.movement == movement, ~SetEntry.replaced, ~SetEntry.withdrawn,
            SetEntry.done_on >= (since.at.date() if since else dt.date.min),
        )
        .order_by(SetEntry.done_on, SetEntry.id)
    )  # fmt: skip
    return [record_from_row(row) for row in rows]


def _plain(decision: Decision) -> dict[str, Any]:
    return {
        "share": decision.planning_max_share, "steps": decision.steps,
        "next_wave_steps": decision.next_wave_steps, "hold": decision.hold,
    }  # fmt: skip


def decision_from(row: DecisionRow) -> Decision:
    effect = row.effect
    return Decision(
        Code(row.code), row.reason, row.facts, tuple(row.evidence), row.would_change,
        effect["share"], effect["steps"], effect["next_wave_steps"], effect["hold"],
    )  # fmt: skip


def next_number(effect: Effect) -> dict[str, Any]:
    """The next session's load as a sentence needs it."""
    week = effect.next
    if week is None:
        return {}
    asked = week.prescription
    return {
        "next_load": week.load.total.text if week.load else None,
        "next_kg": week.load.kg if week.load else None,
        "next_sets": asked.sets, "next_reps": asked.reps, "next_easy": asked.kind == "easy",
    }  # fmt: skip


def _pain_last_time(session: Session, cell: Cell, movement: str, day: dt.date) -> bool:
    """Whether the training day before this one, of the same movement, noted pain."""
    last = session.execute(
        select(SetEntry.done_on)
        .where(
            SetEntry.athlete_id == cell.athlete_id, SetEntry.movement == movement, SetEntry.done_on < day,
            ~SetEntry.replaced, ~SetEntry.withdrawn,
        )
        .order_by(SetEntry.done_on.desc())
        .limit(1)
    ).scalar()  # fmt: skip
    if last is None:
        return False
    pain = session.execute(
        select(SetEntry.id).where(
            SetEntry.athlete_id == cell.athlete_id, SetEntry.movement == movement, SetEntry.done_on == last,
            SetEntry.pain > 0, ~SetEntry.replaced, ~SetEntry.withdrawn,
        )
    ).first()  # fmt: skip
    return pain is not None


def answer(
    session: Session,
    actor: Actor,
    decision_id: int,
    rules: Rules,
    *,
    code: Code | None = None,
    reason: str = "",
) -> Answer:
    """Accept the proposal (`code` None) or decide otherwise with a reason; the weeks to come follow and go live.

    The coach's own edits in the weeks to come stay. A stop is not overridden here.
    """
    row = session.get(DecisionRow, decision_id)
    if row is None:
        raise NotThere("decision")
    cell, slot, block = cell_of(session, actor.squad_id, row.cell_id)
    if row.settled:
        raise Refused("settled")
    if row.effect.get("ladder"):
        return _answer_rung(session, actor, row, rules, code, reason)
    proposal = decision_from(row)
    plan = SlotPlan(block, slot, room_of(session, actor.squad_id), rules)
    decision = proposal
    if code is not None:
        if proposal.code is Code.STOP:
            raise Refused("stop_stands")
        if not reason.strip():
            raise ImpossibleInput(Problem("reason", "reason_missing"))
        decision = override(proposal, code, plan.parameters.missed_share)
    row.settled = True
    version_id = _move(session, actor, cell, slot, block, plan, decision, rules)
    held = Answer(
        decision_id=row.id, accepted=code is None, code=decision.code.value, reason=reason.strip(),
        version_id=version_id, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(held)
    session.flush()
    return held


def _answer_rung(
    session: Session, actor: Actor, row: DecisionRow, rules: Rules, code: Code | None, reason: str
) -> Answer:
    """Accept the rung proposed, or take another: the next that is open up or down the ladder."""
    proposed = Code(row.code)
    if code is not None and proposed is Code.STOP:
        raise Refused("stop_stands")
    if code is not None and not reason.strip():
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    final = code or proposed
    row.settled = True
    if final in (Code.HARDER_RUNG, Code.EASIER_RUNG):
        ladder = library_of(session, actor.squad_id).ladders[row.effect["ladder"]]
        athlete = athlete_of(session, actor.squad_id, row.athlete_id)
        ready = readiness_one(session, athlete, actor.today, rules)
        here = ladder.rung_of(row.movement) or 0
        beyond = rung_beyond(ladder, here, 1 if final is Code.HARDER_RUNG else -1, ready.may)
        if beyond is None:
            raise Refused("no_rung")
        move_rung(
            session, actor, row.athlete_id, ladder.code, beyond[1][0], rules,
            way="harder" if final is Code.HARDER_RUNG else "easier", reason=reason.strip() or row.reason,
            facts={"decision": row.id},
        )  # fmt: skip
        refresh_athlete(session, actor, row.athlete_id, rules)
        publish_of_athlete(session, actor, row.athlete_id, f"rung: {final}")
    held = Answer(
        decision_id=row.id, accepted=code is None, code=final.value, reason=reason.strip(), version_id=None,
        by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(held)
    session.flush()
    return held


def _move(
    session: Session, actor: Actor, cell: Cell, slot: BlockSlot, block: Block, plan: SlotPlan,
    decision: Decision, rules: Rules,
) -> int | None:  # fmt: skip
    """Put the decision's loads in the coming weeks; returns the version they went live with, if any changed."""
    athlete = athlete_of(session, actor.squad_id, cell.athlete_id)
    effect = effect_of(session, plan, cell, athlete, decision, actor.today, rules)
    standing = {
        c.week: c
        for c in session.scalars(
            select(Cell).where(
                Cell.slot_id == slot.id, Cell.athlete_id == athlete.id, Cell.current, Cell.week > cell.week
            )
        )
    }
    logged = logged_places(session, [slot.id])
    rows = []
    for week in effect.weeks:
        old = standing.get(week.prescription.week)
        if old is None or old.origin == "coach" or (slot.id, athlete.id, old.week) in logged:
            continue
        if session_day(block, slot, old.week) < actor.today:  # answered late: what is past stays
            continue
        load_kg = week.load.kg if week.load else None
        if load_kg == old.load_kg and abs((old.planning_max_kg or 0) - week.planning_max_kg) < 0.005:
            continue
        values = cell_values(slot, athlete.id, week, old.inputs | {"decision_of": cell.id}, actor, "decision")
        rows.append(values | {"held": decision.code in (Code.STAY, Code.DOWN)})
    if not rows:
        return None
    return make_live(session, actor, block.id, place_cells(session, rows), f"decision: {decision.code}").id
