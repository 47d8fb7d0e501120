"""Moving on the ladders and letting people through gates. Rows are only added, each with its reason."""

import datetime as dt
from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.movement import Gate, Movement
from backsquat.core.readiness.rungs import fitting, placements
from backsquat.core.rules import Rules
from backsquat.core.strength.record import Effort, problems
from backsquat.features.athletes.operations import (
    SetFacts,
    refuse_unsafe,
    stop_for_pain,
    store_set,
    stored_before,
)
from backsquat.features.athletes.queries import athlete_of
from backsquat.features.athletes.readiness import Readiness, readiness_one
from backsquat.features.desk import Actor
from backsquat.features.journal import remember, restores
from backsquat.features.movements.queries import library_of
from backsquat.features.screening.phrases import PLACE_REASONS
from backsquat.storage.models import Change, GateOverride, RungMove, SetEntry


def move_rung(
    session: Session, actor: Actor, athlete_id: int, ladder_code: str, movement_code: str, rules: Rules,
    *, way: str, reason: str, facts: dict[str, Any] | None = None,
) -> tuple[RungMove, Change]:  # fmt: skip
    """Put an athlete on the rung of a movement. Refused where the movement may not be done now."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    library = library_of(session, actor.squad_id)
    ladder, movement = library.ladders.get(ladder_code), library.get(movement_code)
    rung = ladder.rung_of(movement_code) if ladder else None
    if ladder is None or rung is None:
        raise NotThere("rung")
    if not reason.strip():
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    ready = readiness_one(session, athlete, actor.today, rules)
    stop = ready.stop_on(movement)
    if stop:
        raise Refused("locked", name=athlete.name, place=stop.place)
    if ready.gate(movement):
        raise Refused("gated", name=athlete.name)
    before = ready.rungs.get(ladder_code)
    move = RungMove(
        athlete_id=athlete_id, ladder=ladder_code, rung=rung, movement=movement_code, way=way,
        reason=reason.strip()[:200], facts=facts or {}, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(move)
    session.flush()
    change = remember(
        session, actor, what="rung_moved", subject="rung", subject_id=move.id,
        before={"movement": before.movement if before else None},
    )  # fmt: skip
    return move, change


def suggested_rungs(ready: Readiness) -> dict[str, tuple[Movement, str]]:
    """Ladder → where the screens would place the athlete in this room, and why."""
    library, bar_open = ready.library, ready.view(Gate.BARBELL).open
    return {
        place.ladder: (library.get(rung[1]), place.reason)
        for place in placements(ready.known, bar_open)
        if (rung := fitting(place, library.ladders, ready.may))
    }


def place_by_screens(session: Session, actor: Actor, athlete_id: int, rules: Rules) -> int:
    """Onto every rung the screens lead to, on ladders where the athlete stands on none yet. How many."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    ready = readiness_one(session, athlete, actor.today, rules)
    todo = [(ladder, *place) for ladder, place in suggested_rungs(ready).items() if ladder not in ready.rungs]
    for ladder, movement, reason in todo:
        why = f"screens: {PLACE_REASONS[reason]}"
        move_rung(session, actor, athlete_id, ladder, movement.code, rules, way="placed", reason=why)
    return len(todo)


def log_rung_work(
    session: Session,
    actor: Actor,
    athlete_id: int,
    movement_code: str,
    sets: Sequence[SetFacts],
    rules: Rules,
) -> list[SetEntry]:
    """Log a day's sets of a movement outside any block. A stopping pain stops it here as on the floor."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    library = library_of(session, actor.squad_id)
    movement = library.get(movement_code)
    refuse_unsafe(session, athlete, movement, actor.today, rules)
    found = [problem for facts in sets for problem in _problems(facts, movement, actor.today)]
    if found:
        raise ImpossibleInput(*found)
    done = []
    for number, facts in enumerate(sets, 1):
        known = stored_before(session, facts.client_id)
        entry = known or store_set(
            session, actor, athlete_id, movement, facts, rules, effort=Effort.WORK, set_number=number
        )
        done.append(entry)
        if known is None:
            stop_for_pain(session, actor, entry, movement, library, rules)
    return done


def _problems(facts: SetFacts, movement: Movement, today: dt.date) -> list[Problem]:
    return problems(
        load_kg=float(facts.load), reps=facts.reps, reps_to_depth=facts.reps_to_depth,
        reserve_reps=facts.reserve_reps, done_on=facts.done_on, today=today, pain=facts.pain,
        may_be_unloaded=not CONVENTIONS[movement.convention].loaded, hold_s=facts.hold_s,
        helped=CONVENTIONS[movement.convention].helps,
    )  # fmt: skip


@restores("rung")
def restore_rung(session: Session, actor: Actor, change: Change) -> None:
    """Undo: the rung before is written anew, so that the moves stay on record."""
    move = session.get_one(RungMove, change.subject_id)
    athlete_of(session, actor.squad_id, move.athlete_id)
    ladder = library_of(session, actor.squad_id).ladders[move.ladder]
    movement = change.before["movement"] or ladder.rungs[0][0]
    session.add(
        RungMove(
            athlete_id=move.athlete_id, ladder=move.ladder, rung=ladder.rung_of(movement) or 0, movement=movement,
            way="taken back", reason="the move before was undone", facts={}, by_id=actor.user_id, at=actor.now,
        )
    )  # fmt: skip


def override_gate(session: Session, actor: Actor, athlete_id: int, gate: Gate, reason: str) -> GateOverride:
    """Let an athlete through a gate by name and reason. Pain stops and a minor's consent stay in force."""
    athlete_of(session, actor.squad_id, athlete_id)
    if len(reason.strip()) < 5:
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    override = GateOverride(
        athlete_id=athlete_id, gate=gate.value, reason=reason.strip()[:200], by_id=actor.user_id, at=actor.now
    )
    session.add(override)
    session.flush()
    remember(
        session,
        actor,
        what="gate_overridden",
        subject="override",
        subject_id=override.id,
        before={"ended": True},
    )
    return override


def end_override(session: Session, actor: Actor, athlete_id: int, gate: Gate) -> None:
    """Shut a gate again that was opened by an override."""
    athlete_of(session, actor.squad_id, athlete_id)
    rows = session.scalars(
        select(GateOverride).where(
            GateOverride.athlete_id == athlete_id, GateOverride.gate == gate.value, ~GateOverride.ended
        )
    ).all()
    if not rows:
        raise NotThere("override")
    for row in rows:
        row.ended = True
        remember(
            session,
            actor,
            what="override_ended",
            subject="override",
            subject_id=row.id,
            before={"ended": False},
        )


@restores("override")
def restore_override(session: Session, _actor: Actor, change: Change) -> None:
    session.get_one(GateOverride, change.subject_id).ended = change.before["ended"]
