"""Logging on the floor. Entries are only added; a correction points back, a taken-back set says so."""

import datetime as dt
from dataclasses import dataclass, replace
from uuid import uuid4

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.movement import Movement, Region
from backsquat.core.progression.row import LIFTED
from backsquat.core.rules import Rules
from backsquat.core.strength.record import Effort, problems
from backsquat.features.athletes.operations import (
    SetFacts,
    refuse_unready,
    refuse_unsafe,
    stop_for_pain,
    store_set,
    stored_before,
)
from backsquat.features.athletes.queries import athlete_of
from backsquat.features.athletes.readiness import readiness_one
from backsquat.features.blocks.operations import cell_of
from backsquat.features.blocks.planning import movement_of, session_day
from backsquat.features.desk import Actor
from backsquat.features.movements.queries import library_of
from backsquat.features.review.operations import propose, sets_of, settle
from backsquat.storage.models import Block, BlockSlot, Cell, DecisionRow, SetEntry, Stop


@dataclass(frozen=True)
class Logged:
    """What logging led to: the entry, and a stop or a proposal where it made one."""

    entry: SetEntry
    stop: Stop | None
    decision: DecisionRow | None


def log_set(session: Session, actor: Actor, cell_id: int, facts: SetFacts, rules: Rules) -> Logged:
    """Log the next set of a live cell. The same client id twice stores one set."""
    cell, slot, block = cell_of(session, actor.squad_id, cell_id)
    known = stored_before(session, facts.client_id)
    if known:
        if known.cell_id != cell.id:
            raise Refused("replaced")
        return Logged(known, None, None)
    movement = _movement(session, actor, slot, cell)
    _check(facts, movement, actor.today)
    facts = replace(facts, done_on=_open_day(session, actor, cell, slot, block, movement, rules))
    taken = {entry.set_number for entry in sets_of(session, cell.id)}
    if len(taken) >= cell.sets:
        raise Refused("enough_sets")
    number = min(set(range(1, cell.sets + 1)) - taken)
    return _store(session, actor, cell, slot, block, facts, rules, number, None, len(taken) + 1)


def correct_set(session: Session, actor: Actor, entry_id: int, facts: SetFacts, rules: Rules) -> Logged:
    """Put what really happened in place of an entry; both stay."""
    entry, cell, slot, block = _entry(session, actor, entry_id, facts.client_id)
    if entry.client_id == facts.client_id:
        return Logged(entry, None, None)
    movement = _movement(session, actor, slot, cell)
    _check(facts, movement, actor.today)
    facts = replace(facts, done_on=entry.done_on)
    entry.replaced = True
    session.flush()
    _lift_stop(session, entry.id)
    refuse_unsafe(
        session, athlete_of(session, actor.squad_id, entry.athlete_id), movement, actor.today, rules
    )
    return _store(
        session,
        actor,
        cell,
        slot,
        block,
        facts,
        rules,
        entry.set_number,
        entry.id,
        len(sets_of(session, cell.id)) + 1,
    )


def withdraw_set(session: Session, actor: Actor, entry_id: int, rules: Rules) -> SetEntry:
    """Take a set back: an entry that says it never happened. A stop that came from it falls with it."""
    entry, _cell, _slot, _block = _entry(session, actor, entry_id, "")
    entry.replaced = True
    session.flush()
    back = SetEntry(
        client_id=str(uuid4()), athlete_id=entry.athlete_id, movement=entry.movement, done_on=entry.done_on,
        family=entry.family, side=entry.side, cell_id=entry.cell_id, effort=entry.effort,
        set_number=entry.set_number, load_amount=entry.load_amount,
        load_unit=entry.load_unit, load_kg=entry.load_kg, reps=entry.reps, reps_to_depth=entry.reps_to_depth,
        depth_standard=entry.depth_standard, reserve_reps=entry.reserve_reps, trust=0, corrects_id=entry.id,
        withdrawn=True, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(back)
    session.flush()
    _lift_stop(session, entry.id)
    settle(session, entry.athlete_id, entry.movement, entry.done_on)
    return back


def end_exercise(session: Session, actor: Actor, cell_id: int, rules: Rules) -> DecisionRow:
    """Judge what was done although sets are missing."""
    cell, slot, block = cell_of(session, actor.squad_id, cell_id)
    if not sets_of(session, cell.id):
        raise Refused("no_sets")
    return propose(session, actor, cell, slot, block, rules)


def _movement(session: Session, actor: Actor, slot: BlockSlot, cell: Cell) -> Movement:
    return movement_of(library_of(session, actor.squad_id), slot, cell)


def _check(facts: SetFacts, movement: Movement, today: dt.date) -> None:
    found = problems(
        load_kg=float(facts.load), reps=facts.reps, reps_to_depth=facts.reps_to_depth,
        reserve_reps=facts.reserve_reps, done_on=None, today=today, pain=facts.pain,
        may_be_unloaded=not CONVENTIONS[movement.convention].loaded, hold_s=facts.hold_s,
        helped=CONVENTIONS[movement.convention].helps,
    )  # fmt: skip
    if facts.pain and facts.pain_place not in set(Region):
        found.append(Problem("pain_place", "pain_needs_place"))
    if not facts.pain and facts.pain_place:
        found.append(Problem("pain", "pain_needs_level"))
    if found:
        raise ImpossibleInput(*found)


def _open_day(
    session: Session, actor: Actor, cell: Cell, slot: BlockSlot, block: Block, movement: Movement, rules: Rules
) -> dt.date:  # fmt: skip
    """The session's day, if sets may be logged: live, not ahead, and the athlete may lift."""
    day = session_day(block, slot, cell.week)
    athlete = athlete_of(session, actor.squad_id, cell.athlete_id)
    if day > actor.today:
        raise Refused("not_yet", date=f"{day:%A} {day.day} {day:%B}")
    if not cell.live:
        raise Refused("not_live")
    ready = readiness_one(session, athlete, actor.today, rules)
    refuse_unready(ready, movement)
    most_kg = ready.bounds(movement).most_kg
    too_heavy = most_kg is not None and (cell.load_kg or 0) > most_kg + 1e-9
    if cell.state not in LIFTED or too_heavy:
        raise Refused("no_load", name=athlete.name)
    return day


def _entry(
    session: Session, actor: Actor, entry_id: int, client_id: str
) -> tuple[SetEntry, Cell, BlockSlot, Block]:
    """The standing entry with its place; the correction itself where it was sent twice."""
    entry = session.get(SetEntry, entry_id)
    if entry is None or entry.cell_id is None:
        raise NotThere("set")
    cell, slot, block = cell_of(session, actor.squad_id, entry.cell_id)
    if entry.replaced:
        again = session.scalars(
            select(SetEntry).where(SetEntry.corrects_id == entry.id, SetEntry.client_id == client_id)
        ).first()
        if again is None:
            raise Refused("replaced")
        return again, cell, slot, block
    if entry.withdrawn:
        raise Refused("replaced")
    return entry, cell, slot, block


def _store(
    session: Session, actor: Actor, cell: Cell, slot: BlockSlot, block: Block, facts: SetFacts, rules: Rules,
    number: int, corrects_id: int | None, sets_done: int,
) -> Logged:  # fmt: skip
    library = library_of(session, actor.squad_id)
    movement = movement_of(library, slot, cell)
    entry = store_set(
        session, actor, cell.athlete_id, movement, facts, rules, effort=Effort(cell.kind), set_number=number,
        cell_id=cell.id, corrects_id=corrects_id,
    )  # fmt: skip
    stop = stop_for_pain(session, actor, entry, movement, library, rules)
    decision = None
    answered_before = corrects_id is not None and _judged(session, cell.id)
    if stop or sets_done >= cell.sets or answered_before:
        decision = propose(session, actor, cell, slot, block, rules)
    return Logged(entry, stop, decision)


def _judged(session: Session, cell_id: int) -> bool:
    return session.scalars(select(DecisionRow.id).where(DecisionRow.cell_id == cell_id)).first() is not None


def _lift_stop(session: Session, entry_id: int) -> None:
    """The set behind a stop was corrected or taken back: the stop is withdrawn with it."""
    for stop in session.scalars(select(Stop).where(Stop.set_id == entry_id, Stop.cleared_on.is_(None))):
        stop.withdrawn = True
    session.flush()
