"""How the work of a session nobody came to moves on: each coming session takes what the one before it was to do."""

import datetime as dt
import math
from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.loads.ceilings import round_under
from backsquat.core.loads.rigs import rig_named
from backsquat.core.loads.rounding import Rounding
from backsquat.core.progression.cell import LIFTED, Origin, State
from backsquat.core.progression.missed import MissedChoice, moved_on
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.core.rules import Rules
from backsquat.core.working import Step
from backsquat.storage.models import Block, Cell, Exercise
from backsquat.work.actor import Actor
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.cells import cell_load, movement_of
from backsquat.work.plan.drafts import Draft
from backsquat.work.plan.exposure_rows import ExposureRows
from backsquat.work.rooms.rooms import Rooms
from backsquat.work.sessions.blocks import session_day, to_come


class Unheld(Protocol):
    """One athlete's work that was not done: its cells, and the exercises of which something moves on."""

    athlete_id: int
    cells: list[int]
    first_kg: dict[int, float | None]

    @property
    def first_on(self) -> dt.date:
        """The day on which it was to be done."""


@dataclass(frozen=True)
class Moves:
    """How the work of one session moves on for those who missed some of it; `waiting`: what is not published yet too."""

    db: Session
    actor: Actor
    block: Block
    rooms: Rooms
    rules: Rules
    waiting: bool = False

    def drafts(self, missed_by: Sequence[Unheld], ready: Mapping[int, Readiness], choice: MissedChoice) -> list[Draft]:
        """The coming numbers as they follow from the missed ones; the coach's own and what is logged stays."""
        held = {exercise_id for missed in missed_by for exercise_id in missed.first_kg}
        lifts = {exercise.movement for exercise in self.block.exercises if exercise.id in held}
        exercises = {exercise.id: exercise for exercise in self.block.exercises if exercise.movement in lifts}
        rows, logged = ExposureRows(self.db, self.block), logged_cells(self.db, list(exercises))
        cells: dict[tuple[int, int], list[Cell]] = defaultdict(list)
        current = select(Cell).where(
            Cell.exercise_id.in_(list(exercises)), Cell.athlete_id.in_(list(ready)), Cell.current
        )
        for cell in self.db.scalars(current.order_by(Cell.week)):
            cells[cell.athlete_id, cell.exercise_id].append(cell)
        found = []
        for missed in missed_by:
            for exercise_id in (one for one in missed.first_kg if one in exercises):
                row = {one.id: one for one in rows.of(exercises[exercise_id], missed.athlete_id)}
                order = [cell for one in row for cell in cells[missed.athlete_id, one]]
                order.sort(key=lambda cell: session_day(exercises[cell.exercise_id], cell.week))
                gone = [cell for cell in order if cell.id in missed.cells and self._moves(cell)]
                coming = self._coming(gone, order, exercises, logged) if gone else []
                for nth, (where, what) in enumerate(moved_on(gone, coming)):
                    eased = choice is MissedChoice.EASE and not nth
                    exercise = exercises[where.exercise_id]
                    if draft := self._draft(exercise, where, what, ready[missed.athlete_id], missed.first_on, eased):
                        found.append(draft)
        return found

    def _coming(
        self,
        gone: Sequence[Cell],
        order: Sequence[Cell],
        exercises: Mapping[int, Exercise],
        logged: Collection[tuple[int, int, int]],
    ) -> list[Cell]:
        """The cells to come the missed work goes to; after those which hold what was missed before it already."""
        first = order.index(gone[0])
        free = [cell for cell in order if (cell.exercise_id, cell.athlete_id, cell.week) not in logged]
        before = {cell.id for cell in order[:first] if cell in free}
        coming = [
            cell
            for cell in order[first + 1 :]
            if cell in free and self._moves(cell) and to_come(exercises[cell.exercise_id], cell.week, self.actor.today)
        ]
        taken = [nth for nth, cell in enumerate(coming) if cell.decided_on_id in before]
        return coming[taken[-1] + 1 :] if taken else coming

    def _moves(self, cell: Cell) -> bool:
        """Working cells move on; deload weeks, tests and the coach's own stay where they are, and what waits unless
        asked.
        """
        mine = cell.origin is not Origin.COACH and cell.state in LIFTED
        return (cell.live or self.waiting) and cell.kind is ExposureKind.WORK and mine

    def _draft(
        self, exercise: Exercise, where: Cell, what: Cell, ready: Readiness, missed_on: dt.date, eased: bool
    ) -> Draft | None:
        """The work of one cell in another's stead; None where that may not be, or the room there cannot load it."""
        movement, day = movement_of(ready.library, exercise, what), session_day(exercise, where.week)
        verdict = ready.judge(movement, day).but(Reason.AWAY)
        load, room = cell_load(self.rooms.of_cell(what), movement, what), self.rooms.of_cell(where)
        facts: dict[str, str | float | int] = {"missed_on": missed_on.isoformat(), "eased": int(eased)}
        step = Step("missed", facts, what.load_kg or 0.0, "kg")
        draft = replace(
            Draft.of(what),
            exercise_id=exercise.id,
            week=where.week,
            room_id=where.room_id,
            origin=Origin.DECISION,
            held=True,
            target_kg=None,
        )
        sets = max(1, math.ceil(what.sets * self.rules.missed_ease_sets - 1e-9)) if eased else what.sets
        draft = replace(draft, sets=sets, decided_on_id=what.id)
        if load is None or what.state is not State.LOAD:
            return draft if verdict.may and what.state is not State.LOAD else None
        if not verdict.may:
            return None
        rig = rig_named(movement, room, load.rig.code)
        if rig is None:
            return None
        wanted = load.kg * (self.rules.missed_ease_load if eased else 1.0)
        rounding = Rounding.DOWN if eased else Rounding.NEAREST
        rounded = round_under(wanted, verdict.ceilings, room, rig, rounding)
        if rounded is None:
            return None
        return replace(draft.loaded(rounded.load, step), target_kg=wanted)
