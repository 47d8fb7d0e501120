"""What a device kept while it had no line, received later: each once, for the cell it was done for, whatever came between.

Nobody can be asked any more, so nothing is refused that somebody did: a set that another device logged too, for a
number planned again, for somebody stopped since, is kept and marked. Only what cannot have been is not taken.
"""

import datetime as dt
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from sqlalchemy import select

from backsquat.core.errors import NotThere, Refused
from backsquat.core.sessions.running import ActKind
from backsquat.storage.models import BlockSession, Cell, Exercise, SessionAct
from backsquat.work.context import WorkContext
from backsquat.work.log.sets import sets_of
from backsquat.work.plan.cells import movement_of
from backsquat.work.record.floor import Logged, end_exercise, log_set, was_judged
from backsquat.work.record.pain import Reported, report_pain
from backsquat.work.record.record import SetFacts
from backsquat.work.record.stops import PainFacts
from backsquat.work.sessions.acts import do_act, reason_of
from backsquat.work.sessions.blocks import cell_of

LATE_MOST = dt.timedelta(days=7)  # a clock that says more is wrong: then it is only known when the set came in


class WaitedKind(StrEnum):
    """What a device keeps."""

    SET = "set"
    RAMP = "ramp"
    TRIAL = "trial"
    SKIP = "skip"
    PAIN = "pain"
    END = "end"  # judged although sets are missing


ACTS = {WaitedKind.RAMP: ActKind.RAMP, WaitedKind.TRIAL: ActKind.TRIAL}


@dataclass(frozen=True)
class Waited:
    """One thing that waited for the line."""

    client_id: str
    what: WaitedKind
    cell_id: int
    athlete_id: int
    facts: dict[str, Any] = field(default_factory=dict)  # of an act: which ramp set, why it was left out


def lifted_at(now: dt.datetime, device_ms: int, tapped_ms: int) -> dt.datetime | None:
    """When something was tapped, by how long ago the device says it was: its clock may be wrong, but goes on.

    None where it says nothing believable.
    """
    ago = dt.timedelta(milliseconds=device_ms - tapped_ms)
    return now - ago if dt.timedelta(0) <= ago <= LATE_MOST else None


def receive_set(context: WorkContext, one: Waited, facts: SetFacts) -> Logged:
    """A set that waited. `facts` may have been asked nothing about."""
    _cell(context, one)
    return log_set(context, one.cell_id, facts)


def receive_pain(context: WorkContext, one: Waited, facts: PainFacts) -> Reported:
    """Pain that waited: whatever became of the work it came up in, it locks what it must."""
    try:
        cell_id: int | None = _cell(context, one)[0].id
    except (NotThere, Refused):
        cell_id = None
    return report_pain(context, one.athlete_id, facts, cell_id)


def receive_act(context: WorkContext, one: Waited) -> None:
    """A ramp set, a trial rep, work left out or ended that waited."""
    cell, exercise = _cell(context, one)
    held = session_on_floor(exercise, cell.week)
    known = context.db.scalars(select(SessionAct).where(SessionAct.client_id == one.client_id)).first()
    if known is not None:
        return
    if one.what is WaitedKind.END:
        if not was_judged(context.db, cell.id):
            end_exercise(context, cell.id)
        return
    if one.what is WaitedKind.SKIP:
        skip_work(context, cell, exercise, held, str(one.facts.get("reason", "")), one.client_id)
        return
    kind = ACTS[one.what]
    about = dict(one.facts.get("ramp", {})) if kind is ActKind.RAMP else {}
    do_act(context, kind, cell.athlete_id, held, cell.week, exercise.id, about, client_id=one.client_id)


def skip_work(
    context: WorkContext, cell: Cell, exercise: Exercise, held: BlockSession, why: str, client_id: str | None = None
) -> str:
    """Work left out, or what is left of it: on the shelf with its reason, which is returned; what was done is judged."""
    reason = reason_of(why)
    movement = movement_of(context.library, exercise, cell)
    done = len({entry.set_number for entry in sets_of(context.db, cell.id)})
    about = {"movement": movement.code, "sets": max(1, cell.sets - done), "reason": reason}
    do_act(context, ActKind.SKIPPED, cell.athlete_id, held, cell.week, exercise.id, about, client_id=client_id)
    if done and not was_judged(context.db, cell.id):
        end_exercise(context, cell.id)
    return reason


def _cell(context: WorkContext, one: Waited) -> tuple[Cell, Exercise]:
    """The cell it was done for; refused where that is somebody else's: another installation, other data."""
    cell, exercise, _block = cell_of(context.db, context.squad_id, one.cell_id)
    if cell.athlete_id != one.athlete_id:
        raise Refused("another_place")
    return cell, exercise


def session_on_floor(exercise: Exercise, week: int) -> BlockSession:
    """The session the floor does an exercise in, in one week; NotThere where it was never published."""
    held = next((place.session for place in exercise.on_floor if place.week == week), None)
    if held is None:
        raise NotThere("session")
    return held
