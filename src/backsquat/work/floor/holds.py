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
from backsquat.core.loads.ceilings import Ceiling, CeilingKind, round_under
from backsquat.core.loads.room import Room
from backsquat.core.loads.rounding import Rounding
from backsquat.core.progression.cell import Origin, State
from backsquat.core.progression.decision import Code
from backsquat.core.rules import Rules
from backsquat.storage.models import Cell, DecisionRow, Exercise
from backsquat.work.decisions.waiting import unanswered
from backsquat.work.floor.sessions import FloorSession
from backsquat.work.plan.missed import Missed
from backsquat.work.rooms.rooms import Rooms

LOWERING = frozenset({Code.DOWN, Code.STAY, Code.LOOK, Code.STOP, Code.EASIER_LEVEL})  # these hold until answered


@dataclass(frozen=True)
class Hold:
    """Why a number waits, and the load that is offered meanwhile (None: the planned one stands)."""

    decision: DecisionRow | None = None
    missed: Missed | None = None
    load: Load | None = None


@dataclass(frozen=True)
class WaitingNumber:
    """What waits for the coach before a session: (exercise, athlete) → open decision, (athlete, session) → missed."""

    decisions: Mapping[tuple[int, int], DecisionRow]
    missed: Mapping[tuple[int, int], Missed]
    chosen: FloorSession

    def decision(self, row: Sequence[Exercise], athlete_id: int) -> DecisionRow | None:
        """The newest unanswered decision on an earlier session of an exercise, or of those it goes on from."""
        found = (self.decisions.get((exercise.id, athlete_id)) for exercise in row)
        return max((one for one in found if one), key=lambda one: one.id, default=None)

    def missed_of(self, row: Sequence[Exercise], athlete_id: int) -> tuple[Missed | None, float | None]:
        """What an athlete missed before the chosen day of an exercise, or of those it goes on from, and its load in kg."""
        here = self._before(athlete_id, self.chosen.session_id)
        found = [(here, here.first_kg.get(row[0].id))] if here else []
        for exercise in row[1:]:
            other = self._before(athlete_id, exercise.session_id)
            if other and exercise.id in other.first_kg:
                found.append((other, other.first_kg[exercise.id]))
        return min(found, key=lambda one: one[0].first_on, default=(None, None))

    def _before(self, athlete_id: int, session_id: int) -> Missed | None:
        one = self.missed.get((athlete_id, session_id))
        return one if one and one.first_on < self.chosen.day else None


def open_decisions(db: Session, chosen: FloorSession, rules: Rules) -> dict[tuple[int, int], DecisionRow]:
    """By exercise and athlete, the newest unanswered decision on a session before the chosen one, of the lifts in it."""
    lifts = {exercise.movement for exercise in chosen.exercises.values()}
    exercises = {exercise.id: exercise for exercise in chosen.block.every_exercise if exercise.movement in lifts}
    rows = db.execute(
        select(DecisionRow, Cell.exercise_id, Cell.athlete_id, Cell.week)
        .join(Cell, DecisionRow.cell_id == Cell.id)
        .where(Cell.exercise_id.in_(list(exercises)), Cell.week <= chosen.week, unanswered(rules))
        .order_by(DecisionRow.id)
    )
    return {
        (exercise_id, athlete_id): row
        for row, exercise_id, athlete_id, week in rows
        if week < chosen.week or (exercise_id not in chosen.exercises and row.done_on < chosen.day)
    }


def held_back(
    cell: Cell,
    load: Load | None,
    waiting: DecisionRow | None,
    missed: tuple[Missed | None, float | None],
    rooms: Rooms,
    rules: Rules,
) -> Hold | None:
    """What holds one cell's number back; None: nothing. `load` is the planned one, `missed` comes with its load in kg."""
    gone, first_kg = missed
    if waiting is None and gone is None:
        return None
    ceilings = []
    if waiting and _binds(cell, waiting.at) and waiting.code in LOWERING and waiting.following.get("next_kg"):
        ceilings.append(Ceiling(CeilingKind.HELD, float(waiting.following["next_kg"])))
    if first_kg and cell.origin is not Origin.COACH:
        ceilings.append(Ceiling(CeilingKind.HELD, first_kg))
    binding = rules.open_decisions == "hold" and cell.state is State.LOAD
    return Hold(waiting, gone, _lower(load, ceilings, rooms.of_cell(cell)) if load and binding else None)


def _binds(cell: Cell, since: dt.datetime) -> bool:
    """Whether a proposal says more than the cell: the coach has put no load of their own there since."""
    return cell.origin is not Origin.COACH or cell.at < since


def _lower(load: Load, ceilings: Sequence[Ceiling], room: Room) -> Load | None:
    """The load under the ceilings, where the planned one is over them."""
    if not ceilings or load.kg <= min(ceiling.most_kg for ceiling in ceilings) + 1e-9:
        return None
    rounded = round_under(load.kg, ceilings, room, load.rig, Rounding.DOWN)
    return rounded.load if rounded else None
