"""The coach's own loads in the sheet: one cell or many at once, each a new cell, marked and undoable."""

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from sqlalchemy import select

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.mass import exact_mass
from backsquat.core.loads.rigs import rig_named
from backsquat.core.loads.room import Room
from backsquat.core.loads.rounding import how_made
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import Origin, State
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.working import Step
from backsquat.storage.models import Athlete, Block, Cell, Change, Exercise, User
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.cells import movement_of, place_drafts
from backsquat.work.plan.drafts import Draft
from backsquat.work.plan.rows import written
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.readiness.refuse import refuse
from backsquat.work.rooms.rooms import Rooms, rooms_of
from backsquat.work.sessions.blocks import block_of, cell_of, session_day, to_come

EDITABLE = (State.LOAD, State.UNDER_BAR, State.WORK)
EDITS_MOST = 1_500  # 60 athletes × 25 weeks


def edit_cell(context: WorkContext, cell_id: int, amount: Decimal, rig_code: str) -> tuple[Cell, Change]:
    """Put the coach's own load in a cell; marked where it is over the cap."""
    _cell, _exercise, block = cell_of(context.db, context.squad_id, cell_id)
    new_ids, change = edit_cells(context, block.id, {cell_id: amount}, rig_code)
    return context.db.get_one(Cell, new_ids[0]), change


def edit_cells(
    context: WorkContext, block_id: int, amounts: Mapping[int, Decimal], rig_code: str = ""
) -> tuple[list[int], Change]:
    """Put loads in many cells of a block in one change: all of them, or none and the reason.

    Whoever may not lift gets none, the past and what is lifted stays, and only loads this room has
    are taken. Returns the new ids in the order of `amounts`.
    """
    require(context.actor, Act.PLAN)
    if not amounts or len(amounts) > EDITS_MOST:
        raise ImpossibleInput(Problem("load", "too_many_edits", {"most": EDITS_MOST}))
    edits = Edits.of(context, block_of(context.db, context.squad_id, block_id), list(amounts))
    drafts = [edits.draft(cell_id, amount, rig_code) for cell_id, amount in amounts.items()]
    placed = place_drafts(context, drafts)
    what = "cell_edited" if len(drafts) == 1 else "cells_edited"
    facts = {"count": len(drafts)} | edits.named(drafts[0])
    before = {"cells": list(amounts)}
    change = remember(context, what=what, subject="cells", subject_id=block_id, before=before, facts=facts)
    return placed.ids, change


@dataclass(frozen=True)
class Edits:
    """What must be known to judge an edit, read once for all of them."""

    today: dt.date
    coach: str
    cells: Mapping[int, Cell]
    exercises: Mapping[int, Exercise]
    ready: Mapping[int, Readiness]
    logged: set[tuple[int, int, int]]
    library: Library
    rooms: Rooms

    @classmethod
    def of(cls, context: WorkContext, block: Block, cell_ids: list[int]) -> "Edits":
        exercises = {exercise.id: exercise for exercise in block.exercises}
        db, squad_id, today = context.db, context.squad_id, context.today
        found = db.scalars(select(Cell).where(Cell.id.in_(cell_ids), Cell.exercise_id.in_(list(exercises))))
        cells = {cell.id: cell for cell in found}
        if len(cells) != len(cell_ids):
            raise NotThere("cell")
        ids = {cell.athlete_id for cell in cells.values()}
        athletes = list(db.scalars(select(Athlete).where(Athlete.id.in_(ids))))
        return cls(
            today=today,
            coach=db.get_one(User, context.actor.user_id).name,
            cells=cells,
            exercises=exercises,
            ready=readiness_of(db, squad_id, athletes, today, context.rules),
            logged=logged_cells(db, list(exercises)),
            library=context.library,
            rooms=rooms_of(db, squad_id),
        )

    def draft(self, cell_id: int, amount: Decimal, rig_code: str) -> Draft:
        """The draft with the coach's load; the reason where it cannot be."""
        cell = self.cells[cell_id]
        exercise, ready = self.exercises[cell.exercise_id], self.ready[cell.athlete_id]
        movement, day = movement_of(self.library, exercise, cell), session_day(exercise, cell.week)
        if not cell.current:
            raise Refused("not_live")
        if cell.state not in EDITABLE:
            raise Refused("no_load", name=ready.person.name)
        refuse(ready, movement, day)
        past = not to_come(exercise, cell.week, self.today)
        if past or (exercise.id, cell.athlete_id, cell.week) in self.logged:
            raise Refused("past")
        load = _wanted_load(self.rooms.on(cell.athlete_id, day), movement, rig_code or cell.bar, amount)
        most_kg = ready.judge(movement, day).most_kg
        if most_kg is not None and load.kg > most_kg + 1e-9:
            raise ImpossibleInput(Problem("load", "over_limit", {"most": most_kg}))
        return replace(self._own(cell, load), room_id=self.rooms.id_on(cell.athlete_id, day))

    def named(self, draft: Draft) -> dict[str, Any]:
        """Whose load it is, which, and when, as its undo names it."""
        load = f"{written(draft.load_amount)} {draft.load_unit}"
        return {"name": self.ready[draft.athlete_id].person.name, "load": load, "week": draft.week + 1}

    def _own(self, cell: Cell, load: Load) -> Draft:
        was = "" if cell.load_amount is None else f"{cell.load_amount.normalize():f}"
        facts = {"coach": self.coach, "was": was}
        changed = Step("coach_load", facts, load.total.text, load.total.unit)
        draft = replace(Draft.of(cell), state=State.LOAD, origin=Origin.COACH, held=False, target_kg=load.kg)
        return draft.loaded(load, changed, how_made(load))


def _wanted_load(room: Room, movement: Movement, rig_code: str, amount: Decimal) -> Load:
    """The load of exactly this amount; ImpossibleInput names the two beside it where there is none."""
    rig = rig_named(movement, room, rig_code)
    if rig is None:
        raise Refused("no_rig", movement=movement.name)
    loads = loads_on(room, rig)
    wanted = exact_mass("load", amount, room.unit).grains
    load = loads.nearest(wanted)
    if wanted < loads.empty.total.grains:
        mass = f"{loads.empty.total.text} {room.unit}"
        raise ImpossibleInput(Problem("load", "under_bar", {"bar": rig.name, "mass": mass}))
    if load.total.grains != wanted:
        below = loads.at_most(wanted) or loads.empty
        above = loads.next_above(wanted) or loads.loads[-1]
        facts = {"load": f"{amount.normalize():f}", "below": below.total.text, "above": above.total.text}
        raise ImpossibleInput(Problem("load", "not_loadable", facts))
    return load
