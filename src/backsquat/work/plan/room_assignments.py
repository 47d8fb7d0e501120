"""Who trains in another room, and when: the loads to come follow, as drafts."""

import datetime as dt
from collections import defaultdict
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import select

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.ceilings import Ceiling, CeilingKind, round_under
from backsquat.core.loads.rigs import rig_named
from backsquat.core.loads.rounding import Rounding, how_made
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import Origin, State
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.readiness.verdict import Readiness, Verdict
from backsquat.core.working import Step
from backsquat.storage.models import Athlete, Block, Cell, Change, RoomAssignment, RoomRow, Squad
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.cells import bring_back, movement_of, place_drafts
from backsquat.work.plan.drafts import Draft
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.rooms.rooms import Rooms, forget_rooms, rooms_of
from backsquat.work.sessions.blocks import coming_blocks, session_day, to_come
from backsquat.work.squad.athletes import squad_athletes

DAYS_MOST = 730


@dataclass(frozen=True)
class AssignmentFacts:
    """`athlete_id` None: everybody; `last_on` None: until further notice; `weekday` None: every day."""

    room_id: int
    athlete_id: int | None
    first_on: dt.date
    last_on: dt.date | None = None
    weekday: int | None = None


def assign_room(context: WorkContext, facts: AssignmentFacts) -> tuple[Change, int]:
    """Somebody, or the squad, trains elsewhere from a day on. Returns the change and how many cells follow."""
    require(context.actor, Act.DESCRIBE_ROOM)
    _check(context, facts)
    row = RoomAssignment(
        squad_id=context.squad_id,
        room_id=facts.room_id,
        athlete_id=facts.athlete_id,
        first_on=facts.first_on,
        last_on=facts.last_on,
        weekday=facts.weekday,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(row)
    context.db.flush()
    before = {"ended": True, "last_on": _text(facts.last_on)}
    return _followed(context, row, before, "room_assigned")


def _check(context: WorkContext, facts: AssignmentFacts) -> None:
    rooms = rooms_of(context.db, context.squad_id)
    if facts.room_id not in rooms.rows or rooms.rows[facts.room_id].removed:
        raise NotThere("room")
    known = {athlete.id for athlete in squad_athletes(context.db, context.squad_id)}
    if facts.athlete_id is not None and facts.athlete_id not in known:
        raise NotThere("athlete")
    found = []
    if facts.first_on < context.today:
        found.append(Problem("first_on", "assignment_past"))
    if facts.last_on and not 0 <= (facts.last_on - facts.first_on).days <= DAYS_MOST:
        found.append(Problem("last_on", "assignment_order"))
    if not rooms.rows[facts.room_id].bars:
        found.append(Problem("room", "room_empty"))
    if found:
        raise ImpossibleInput(*found)


def end_assignment(context: WorkContext, assignment_id: int) -> tuple[Change, int]:
    """Back where they would be otherwise, from today on; what was done elsewhere stays."""
    require(context.actor, Act.DESCRIBE_ROOM)
    row = _assignment(context, assignment_id)
    before = {"ended": row.ended, "last_on": _text(row.last_on)}
    if row.first_on >= context.today:
        row.ended = True
    else:
        row.last_on = context.today - dt.timedelta(days=1)
    context.db.flush()
    return _followed(context, row, before, "assignment_ended")


def _assignment(context: WorkContext, assignment_id: int) -> RoomAssignment:
    row = context.db.get(RoomAssignment, assignment_id)
    if row is None or row.squad_id != context.squad_id:
        raise NotThere("assignment")
    return row


def _text(day: dt.date | None) -> str | None:
    return day.isoformat() if day else None


def _followed(context: WorkContext, row: RoomAssignment, before: dict[str, Any], what: str) -> tuple[Change, int]:
    """Let the plans follow, and remember all of it as one change."""
    replaced = follow_rooms(context)
    kept = {"values": before, "cells": {str(block_id): ids for block_id, ids in replaced.items()}}
    who = context.db.get(Athlete, row.athlete_id) if row.athlete_id else None
    facts = {"name": who.name if who else "", "room": context.db.get_one(RoomRow, row.room_id).name}
    change = remember(context, what=what, subject="assignments", subject_id=row.id, before=kept, facts=facts)
    return change, sum(map(len, replaced.values()))


@restores("assignments")
def restore_assignment(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: who trains where as before, and the loads that were there; answers with what was."""
    row, values = _assignment(context, change.subject_id), change.before["values"]
    was: dict[str, Any] = {"values": {"ended": row.ended, "last_on": _text(row.last_on)}, "cells": {}}
    row.ended = values["ended"]
    row.last_on = dt.date.fromisoformat(values["last_on"]) if values["last_on"] else None
    context.db.flush()
    forget_rooms(context.db, context.squad_id)
    for block_id, cell_ids in change.before["cells"].items():
        was["cells"][block_id] = bring_back(context, int(block_id), cell_ids).replaced
    return was


def follow_rooms(context: WorkContext) -> dict[int, list[int]]:
    """Give every cell to come the room its athlete trains in on that day; block → the cells replaced.

    A load stays what was meant and becomes the nearest the new room has, the coach's own too; where
    the new room cannot load or rig the movement, or could not before, the cell is planned again.
    """
    forget_rooms(context.db, context.squad_id)
    found = {}
    for block in coming_blocks(context):
        drafts = _Move(context, block).drafts()
        replaced = place_drafts(context, drafts).replaced
        if replaced:
            found[block.id] = replaced
    return found


class _Move:
    """The cells of one block that follow their athletes into other rooms."""

    def __init__(self, context: WorkContext, block: Block) -> None:
        self.context, self.db, self.block = context, context.db, block
        self.exercises = {exercise.id: exercise for exercise in block.exercises}
        athletes = squad_athletes(self.db, context.squad_id)
        self.ready = readiness_of(self.db, context.squad_id, athletes, context.today, context.rules)
        self.rooms: Rooms = rooms_of(self.db, context.squad_id)
        self.library = context.library

    def drafts(self) -> list[Draft]:
        """A draft for every cell whose athlete is in another room on its day than it was planned for."""
        logged = logged_cells(self.db, list(self.exercises))
        moved: list[Draft] = []
        again: dict[int, set[tuple[int, int]]] = defaultdict(set)  # exercise → (athlete, week)
        cells = self.db.scalars(select(Cell).where(Cell.exercise_id.in_(list(self.exercises)), Cell.current))
        for cell in cells:
            day = session_day(self.exercises[cell.exercise_id], cell.week)
            where = self.rooms.id_on(cell.athlete_id, day)
            is_logged = (cell.exercise_id, cell.athlete_id, cell.week) in logged
            past = not to_come(self.exercises[cell.exercise_id], cell.week, self.context.today)
            if past or is_logged or cell.room_id == where:
                continue
            draft = self._moved(cell, self.ready.get(cell.athlete_id), day, where)
            if draft:
                moved.append(draft)
            else:
                again[cell.exercise_id].add((cell.athlete_id, cell.week))
        return moved + self._planned_again(again)

    def _planned_again(self, wanted: dict[int, set[tuple[int, int]]]) -> list[Draft]:
        athletes = {athlete_id for cells in wanted.values() for athlete_id, _ in cells}
        if not athletes:
            return []
        scope = ReplanScope(athletes, list(wanted), keep_own=False, over_decided=True)
        changes = replanned(self.context, self.block, scope)
        return [
            change.draft
            for change in changes
            if (change.draft.athlete_id, change.draft.week) in wanted[change.exercise.id]
        ]

    def _moved(self, cell: Cell, ready: Readiness | None, day: dt.date, where: int | None) -> Draft | None:
        """The cell with the nearest load of the other room; None where it has to be planned again."""
        movement = movement_of(self.library, self.exercises[cell.exercise_id], cell)
        if cell.state is not State.LOAD or ready is None or ready.lacking(movement, day):
            return None
        return self._in_room(cell, movement, ready.judge(movement, day), where)

    def _in_room(self, cell: Cell, movement: Movement, verdict: Verdict, where: int | None) -> Draft | None:
        room = self.rooms.room(where)
        rig = rig_named(movement, room, cell.bar)
        meant_kg = cell.target_kg if cell.target_kg is not None else cell.load_kg
        if rig is None or meant_kg is None:
            return None
        down = cell.kind is ExposureKind.DELOAD or self.block.in_season or cell.held
        own = cell.origin is Origin.COACH  # over the cap by the coach's word, here as there
        capped = () if cell.cap_kg is None or own else (Ceiling(CeilingKind.CAP, cell.cap_kg),)
        rounding = Rounding.DOWN if down else Rounding.NEAREST
        rounded = round_under(meant_kg, (*verdict.ceilings, *capped), room, rig, rounding)
        if rounded is None:
            return None
        load = rounded.load
        there = Step("room", {"room": room.name, "rig": load.rig.name})
        draft = replace(Draft.of(cell), room_id=where, target_kg=meant_kg)
        return draft.loaded(load, there, rounded.step, how_made(load))


def take_away(context: WorkContext, room_id: int) -> Change:
    """Take a room off the list. Refused for the squad's own, and while somebody is to train there."""
    require(context.actor, Act.DESCRIBE_ROOM)
    row = context.db.get(RoomRow, room_id)
    if row is None or row.squad_id != context.squad_id or row.removed:
        raise NotThere("room")
    if context.db.get_one(Squad, context.squad_id).room_id == room_id:
        raise Refused("own_room")
    if rooms_of(context.db, context.squad_id).in_use(room_id, context.today):
        raise Refused("room_in_use")
    row.removed = True
    context.db.flush()
    forget_rooms(context.db, context.squad_id)
    before = {"removed": False}
    return remember(context, what="room_removed", subject="room", subject_id=row.id, before=before)
