"""What holds a planned number back on the floor until the coach has spoken: an open decision, a missed session.

Nothing is replanned here. The floor offers the lower number, or says that a decision is open (squad rule
`open_decisions`); a raise is only ever said. A load the coach has put there since is the coach's word.
"""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.ceilings import Ceiling, Kind, round_under
from backsquat.core.loads.room import Room
from backsquat.core.loads.rounding import Rounding
from backsquat.core.progression.cell import Origin, State
from backsquat.core.progression.decision import Code
from backsquat.core.rules import Rules
from backsquat.storage.models import Cell, DecisionRow
from backsquat.work.floor.sessions import FloorSession
from backsquat.work.plan.missed import Missed
from backsquat.work.rooms.rooms import Rooms

LOWERING = frozenset({Code.DOWN, Code.STAY, Code.LOOK, Code.STOP, Code.EASIER_RUNG})  # these hold until answered


@dataclass(frozen=True)
class Hold:
    """Why a number waits, and the load that is offered meanwhile (None: the planned one stands)."""

    decision: DecisionRow | None = None
    missed: Missed | None = None
    load: Load | None = None


def open_decisions(session: Session, chosen: FloorSession) -> dict[tuple[int, int], DecisionRow]:
    """By slot and athlete, the unanswered decision on an earlier session of the slot."""
    rows = session.execute(
        select(DecisionRow, Cell.slot_id, Cell.athlete_id)
        .join(Cell, DecisionRow.cell_id == Cell.id)
        .where(Cell.slot_id.in_(list(chosen.slots)), Cell.week < chosen.week, ~DecisionRow.settled)
        .order_by(DecisionRow.id)
    )
    return {(slot_id, athlete_id): row for row, slot_id, athlete_id in rows}


def held_back(
    cell: Cell, load: Load | None, waiting: DecisionRow | None, missed: Missed | None, rooms: Rooms, rules: Rules
) -> Hold | None:
    """What holds one cell's number back; None: nothing. `load` is the planned one."""
    if waiting is None and missed is None:
        return None
    ceilings = []
    if waiting and _binds(cell, waiting.at) and waiting.code in LOWERING and waiting.following.get("next_kg"):
        ceilings.append(Ceiling(Kind.HELD, float(waiting.following["next_kg"])))
    first_kg = missed.first_kg.get(cell.slot_id) if missed else None
    if missed and first_kg and cell.origin is not Origin.COACH:
        ceilings.append(Ceiling(Kind.HELD, first_kg))
    binding = rules.open_decisions == "hold" and cell.state is State.LOAD
    return Hold(waiting, missed, _lower(load, ceilings, rooms.of_cell(cell)) if load and binding else None)


def _binds(cell: Cell, since: dt.datetime) -> bool:
    """Whether a proposal says more than the cell: the coach has put no load of their own there since."""
    return cell.origin is not Origin.COACH or cell.at < since


def _lower(load: Load, ceilings: Sequence[Ceiling], room: Room) -> Load | None:
    """The load under the ceilings, where the planned one is over them."""
    if not ceilings or load.kg <= min(ceiling.most_kg for ceiling in ceilings) + 1e-9:
        return None
    rounded = round_under(load.kg, ceilings, room, load.rig, Rounding.DOWN)
    return rounded.load if rounded else None


def missed_here(missed: Mapping[tuple[int, int], Missed], chosen: FloorSession) -> dict[int, Missed]:
    """By athlete, what they missed of the chosen session before the chosen day."""
    return {
        athlete_id: one
        for (athlete_id, session_id), one in missed.items()
        if session_id == chosen.session_id and one.first_on < chosen.day
    }
