"""Proposing a decision after an exposure, and answering it."""

import datetime as dt
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.ladder import rung_beyond
from backsquat.core.progression.decision import Answers, Code, Decision, Exposure, Past
from backsquat.core.progression.plan import Terms
from backsquat.core.progression.prescription import Kind
from backsquat.core.progression.row import State
from backsquat.core.progression.rung import judge_rung
from backsquat.core.rules import Rules
from backsquat.core.strength.record import SetRecord
from backsquat.features.athletes.queries import athlete_of
from backsquat.features.athletes.readiness import readiness_one, rules_for
from backsquat.features.blocks.operations import (
    cell_of,
    copied_cell,
    make_live,
    place_cells,
    publish_of_athlete,
    refresh_athlete,
)
from backsquat.features.blocks.planning import (
    SlotPlan,
    cell_values,
    logged_places,
    session_day,
    slot_plan,
)
from backsquat.features.desk import Actor
from backsquat.features.ladders.operations import move_rung
from backsquat.features.movements.queries import library_of
from backsquat.features.review.effects import Effect, effect_of, override
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import (
    Answer,
    Athlete,
    Block,
    BlockSlot,
    Cell,
    DecisionRow,
    RungMove,
    SetEntry,
    WeekAnswer,
)

OVERRIDES = (Code.UP, Code.STAY, Code.DOWN)


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
    plan = slot_plan(session, block, slot, rules).of(athlete.id)
    exposure = _exposure(session, actor, plan, cell, athlete, rules)
    decision = plan.school.judge(exposure, plan.parameters, rules)
    effect = effect_of(session, plan, cell, athlete, decision, actor.today)
    settle(session, athlete.id, slot.movement, session_day(block, slot, cell.week))
    row = DecisionRow(
        cell_id=cell.id, athlete_id=athlete.id, movement=slot.movement, done_on=session_day(block, slot, cell.week),
        code=decision.code.value, reason=decision.reason, facts=dict(decision.facts), evidence=list(decision.evidence),
        effect=_plain(decision) | _next_number(session, cell, decision, effect), would_change=decision.would_change,
        by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(row)
    session.flush()
    return row


def _exposure(
    session: Session, actor: Actor, plan: SlotPlan, cell: Cell, athlete: Athlete, rules: Rules
) -> Exposure:
    """What the school judges: the sets, what came before them, and the next load there is."""
    slot, movement, day = plan.slot, plan.movement, session_day(plan.block, plan.slot, cell.week)
    entries = sets_of(session, cell.id)
    terms = plan.terms(athlete.newcomer, cell.bar)
    now_kg = cell.load_kg or 0.0
    said = session.scalars(
        select(WeekAnswer).where(WeekAnswer.cell_id == cell.id).order_by(WeekAnswer.id.desc())
    ).first()
    return Exposure(
        prescription=plan.asked(cell),
        load_kg=now_kg,
        sets=[record_from_row(entry) for entry in entries],
        pain_last_time=_pain_last_time(session, cell, slot.movement, day),
        gated=bool(readiness_one(session, athlete, actor.today, rules).gate(movement)),
        past=_past(session, cell),
        next_load_kg=_next_load_kg(terms.in_week(cell.week + 1), now_kg) if terms else None,
        carried_kg=next((entry.carried_kg for entry in entries if entry.carried_kg), 0.0),
        answers=Answers(said.sound, said.sure, said.too_easy) if said else None,
        hinge=plan.hinge,
    )


def _next_load_kg(terms: Terms, now_kg: float) -> float:
    """The load a step up leads to, in the room of the next session."""
    return terms.loads.climbed(now_kg, 1, terms.rules.step_least).kg


def _past(session: Session, cell: Cell) -> tuple[Past, ...]:
    """The newest decision of each earlier working week of this place in the block, oldest first."""
    rows = session.execute(
        select(Cell.week, DecisionRow.reason, DecisionRow.facts)
        .join(Cell, DecisionRow.cell_id == Cell.id)
        .where(
            Cell.slot_id == cell.slot_id, Cell.athlete_id == cell.athlete_id, Cell.week < cell.week,
            Cell.kind == Kind.WORK.value,
        )
        .order_by(Cell.week, DecisionRow.id)
    )  # fmt: skip
    newest = {week: Past(reason, int(facts.get("missing", 0))) for week, reason, facts in rows}
    return tuple(newest[week] for week in sorted(newest))


def answer_week(session: Session, actor: Actor, cell_id: int, answers: Answers, rules: Rules) -> DecisionRow:
    """Keep the coach's three answers to an earned week, and judge it with them."""
    cell, slot, block = cell_of(session, actor.squad_id, cell_id)
    if not sets_of(session, cell.id):
        raise Refused("no_sets")
    session.add(
        WeekAnswer(
            cell_id=cell.id, sound=answers.sound, sure=answers.sure, too_easy=answers.too_easy,
            by_id=actor.user_id, at=actor.now,
        )
    )  # fmt: skip
    session.flush()
    return propose(session, actor, cell, slot, block, rules)


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


_EFFECT = {  # name in the stored effect → field of the decision
    "share": "planning_max_share", "steps": "steps", "next_wave_steps": "next_wave_steps", "hold": "hold",
    "load_share": "load_share", "load_steps": "load_steps", "reps": "reps", "keeps": "keeps",
}  # fmt: skip


def _plain(decision: Decision) -> dict[str, Any]:
    return {name: getattr(decision, field) for name, field in _EFFECT.items()}


def decision_from(row: DecisionRow) -> Decision:
    given = {field: row.effect[name] for name, field in _EFFECT.items() if name in row.effect}
    return Decision(Code(row.code), row.reason, row.facts, tuple(row.evidence), row.would_change, **given)


def _next_number(session: Session, cell: Cell, decision: Decision, effect: Effect) -> dict[str, Any]:
    """The next session's number as a sentence needs it; where the plan stands, the number that stands."""
    if decision.keeps or (effect.next is None and effect.asked):
        return _standing_number(session, cell, effect)
    week = effect.next
    if week is None:
        return {}
    asked = week.prescription
    return {
        "next_load": week.load.total.text if week.load else None,
        "next_kg": week.load.kg if week.load else None,
        "next_sets": asked.sets, "next_reps": asked.reps, "next_easy": asked.kind == "easy",
    }  # fmt: skip


def _standing_number(session: Session, cell: Cell, effect: Effect) -> dict[str, Any]:
    if effect.asked:
        asked = effect.asked[0]
        return {"next_sets": asked.sets, "next_reps": asked.reps, "next_s": asked.hold_s, "next_easy": False}
    following = session.scalars(
        select(Cell).where(
            Cell.slot_id == cell.slot_id, Cell.athlete_id == cell.athlete_id, Cell.week == cell.week + 1, Cell.current
        )
    ).first()  # fmt: skip
    if following is None:
        return {}
    return {
        "next_load": None if following.load_amount is None else f"{following.load_amount.normalize():f}",
        "next_kg": following.load_kg, "next_sets": following.sets, "next_reps": following.reps,
        "next_easy": following.kind == "easy",
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
    plan = slot_plan(session, block, slot, rules).of(cell.athlete_id)
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
    if decision.keeps:
        return None
    effect = effect_of(session, plan, cell, athlete, decision, actor.today)
    standing = {
        c.week: c
        for c in session.scalars(
            select(Cell).where(
                Cell.slot_id == slot.id, Cell.athlete_id == athlete.id, Cell.current, Cell.week > cell.week
            )
        )
    }
    logged = logged_places(session, [slot.id])

    def free(old: Cell | None) -> bool:
        """Neither the coach's own, nor lifted, nor past."""
        return (
            old is not None and old.origin != "coach" and (slot.id, athlete.id, old.week) not in logged
            and session_day(block, slot, old.week) >= actor.today
        )  # fmt: skip

    rows = []
    for week in effect.weeks:
        old = standing.get(week.prescription.week)
        if old is None or not free(old):
            continue
        load_kg = week.load.kg if week.load else None
        same_max = abs((old.planning_max_kg or 0) - week.planning_max_kg) < 0.005
        if (
            load_kg == old.load_kg
            and same_max
            and (old.reps, old.sets) == (week.prescription.reps, week.prescription.sets)
        ):
            continue
        values = cell_values(plan, athlete.id, week, old.inputs | {"decision_of": cell.id}, actor, "decision")
        rows.append(values | {"held": decision.code in (Code.STAY, Code.DOWN)})
    for asked in effect.asked:
        old = standing.get(asked.week)
        if (
            old is None
            or not free(old)
            or (old.reps, old.hold_s, old.sets) == (asked.reps, asked.hold_s, asked.sets)
        ):
            continue
        changed = {"reps": asked.reps, "hold_s": asked.hold_s, "sets": asked.sets, "origin": "decision"}
        rows.append(copied_cell(old, actor) | changed)
    if not rows:
        return None
    return make_live(session, actor, block.id, place_cells(session, rows), f"decision: {decision.code}").id
