"""An easy week out of turn: on red flags, or because the coach says so. Only that week changes."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.loads.rounding import eased_load, how_made
from backsquat.core.progression.parameters import Parameters, easy_sets
from backsquat.core.progression.prescription import Kind
from backsquat.core.progression.row import LIFTED
from backsquat.core.working import Step, Working, plain
from backsquat.features.blocks.courses import course_of, own_courses
from backsquat.features.blocks.drawing import cell_load
from backsquat.features.blocks.operations import block_of, copied_cell, place_cells
from backsquat.features.blocks.planning import load_values, logged_places, movement_of, session_day
from backsquat.features.desk import Actor
from backsquat.features.journal import remember
from backsquat.features.movements.queries import library_of
from backsquat.features.room.rooms import Rooms, rooms_of
from backsquat.storage.models import Block, BlockSlot, Cell, Change


@dataclass(frozen=True)
class Easing:
    """What a week still holds for an athlete: places that can be made easy, places that are already."""

    open: tuple[Cell, ...]
    easy: int


def easings(session: Session, actor: Actor, block: Block, week: int) -> dict[int, Easing]:
    """By athlete, what is still to come in a week of the block; a few queries for everybody."""
    slots = {slot.id: slot for slot in block.slots}
    logged = logged_places(session, list(slots))
    cells = session.scalars(
        select(Cell)
        .where(Cell.slot_id.in_(list(slots)), Cell.week == week, Cell.current, Cell.state.in_(LIFTED))
        .order_by(Cell.id)
    )
    found: dict[int, tuple[list[Cell], int]] = {}
    for cell in cells:
        if session_day(block, slots[cell.slot_id], week) < actor.today:
            continue
        opened, easy = found.get(cell.athlete_id, ([], 0))
        if cell.kind != Kind.WORK.value:
            found[cell.athlete_id] = (opened, easy + 1)
        elif (cell.slot_id, cell.athlete_id, week) not in logged:
            found[cell.athlete_id] = ([*opened, cell], easy)
    return {athlete_id: Easing(tuple(opened), easy) for athlete_id, (opened, easy) in found.items()}


def ease_week(
    session: Session, actor: Actor, block_id: int, athlete_ids: Collection[int], week: int, why: str
) -> tuple[Change, int]:
    """Fewer sets and a lighter load in what is left of a week for these athletes, as a draft; one undo for all.

    The places become the coach's own, so that planning anew leaves them easy. Refused where nothing is left.
    """
    block = block_of(session, actor.squad_id, block_id)
    slots = {slot.id: slot for slot in block.slots}
    courses, rooms = own_courses(session, list(slots)), rooms_of(session, actor.squad_id)
    library = library_of(session, actor.squad_id)
    rows = []
    for athlete_id, easing in easings(session, actor, block, week).items():
        if athlete_id not in athlete_ids:
            continue
        for cell in easing.open:
            slot = slots[cell.slot_id]
            parameters = (courses.get((slot.id, athlete_id)) or course_of(slot)).parameters
            rows.append(_eased(actor, cell, slot, parameters, rooms, library, why))
    if not rows:
        raise Refused("no_easing")
    place_cells(session, rows)
    replaced = [row["replaces_id"] for row in rows]
    change = remember(
        session, actor, what="week_eased", subject="cells", subject_id=block.id, before={"cells": replaced}
    )
    return change, len(rows)


def _eased(
    actor: Actor, cell: Cell, slot: BlockSlot, parameters: Parameters, rooms: Rooms, library: Any, why: str
) -> dict[str, Any]:
    """The cell with the easy week's sets and load: a share of both, never more than it was."""
    sets = min(cell.sets, easy_sets(parameters) if not cell.movement else max(1, cell.sets - 1))
    row = copied_cell(cell, actor) | {"kind": Kind.EASY.value, "sets": sets, "origin": "coach"}
    room, movement = rooms.of_cell(cell), movement_of(library, slot, cell)
    load = cell_load(room, movement, cell)
    words = f"{why}: sets {cell.sets} → {sets}"
    if load is None:
        return row | {
            "working": Working.from_plain(cell.working).then(Step("Easy week", words, str(sets))).to_plain()
        }
    target = load.kg * parameters.easy_load_share
    chosen, step = eased_load(load, parameters.easy_load_share, room)
    words += f", {plain(load.kg, 2)} × {plain(parameters.easy_load_share, 2)}"
    steps = (Step("Easy week", words, plain(target), "kg"), step, how_made(chosen))
    return row | load_values(chosen) | {
        "over_cap": False,
        "inputs": {**cell.inputs, "target_kg": target},
        "working": Working.from_plain(cell.working).then(*steps).to_plain(),
    }  # fmt: skip
