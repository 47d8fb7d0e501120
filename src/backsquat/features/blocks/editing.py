"""The coach's own loads in the sheet: one cell or many at once, each a new cell, marked and undoable."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.rigs import rig_named
from backsquat.core.loads.room import Room
from backsquat.core.loads.rounding import how_made
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.row import State
from backsquat.core.rules import Rules
from backsquat.core.working import Step, Working
from backsquat.features.athletes.operations import refuse_unready
from backsquat.features.athletes.readiness import readiness_of
from backsquat.features.blocks.operations import block_of, cell_of, copied_cell, place_cells
from backsquat.features.blocks.planning import load_values, logged_places, session_day
from backsquat.features.desk import Actor
from backsquat.features.fields import weighed
from backsquat.features.journal import remember
from backsquat.features.movements.queries import library_of
from backsquat.features.room.rooms import rooms_of
from backsquat.storage.models import Athlete, Cell, Change, User

EDITABLE = (State.LOAD.value, State.UNDER_BAR.value, State.WORK.value)
EDITS_MOST = 1_500  # 60 athletes × 25 weeks


def edit_cell(
    session: Session, actor: Actor, cell_id: int, amount: Decimal, rig_code: str, rules: Rules
) -> tuple[Cell, Change]:
    """Put the coach's own load in a cell; marked where it is over the cap."""
    _cell, _slot, block = cell_of(session, actor.squad_id, cell_id)
    new_ids, change = edit_cells(session, actor, block.id, {cell_id: amount}, rules, rig_code)
    return session.get_one(Cell, new_ids[0]), change


def edit_cells(
    session: Session,
    actor: Actor,
    block_id: int,
    amounts: Mapping[int, Decimal],
    rules: Rules,
    rig_code: str = "",
) -> tuple[list[int], Change]:
    """Put loads in many cells of a block in one change: all of them, or none and the reason.

    Whoever may not lift gets none, the past and what is lifted stays, and only loads this room has
    are taken. Returns the new ids in the order of `amounts`.
    """
    block = block_of(session, actor.squad_id, block_id)
    if not amounts or len(amounts) > EDITS_MOST:
        raise ImpossibleInput(Problem("load", "too_many_edits", {"most": EDITS_MOST}))
    slots = {slot.id: slot for slot in block.slots}
    cells = {
        cell.id: cell
        for cell in session.scalars(
            select(Cell).where(Cell.id.in_(list(amounts)), Cell.slot_id.in_(list(slots)))
        )
    }
    if len(cells) != len(amounts):
        raise NotThere("cell")
    athletes = {
        a.id: a
        for a in session.scalars(
            select(Athlete).where(Athlete.id.in_({c.athlete_id for c in cells.values()}))
        )
    }
    ready = readiness_of(session, actor.squad_id, list(athletes.values()), actor.today, rules)
    library, rooms = library_of(session, actor.squad_id), rooms_of(session, actor.squad_id)
    logged = logged_places(session, list(slots))
    name = session.get_one(User, actor.user_id).name
    rows = []
    for cell_id, amount in amounts.items():
        cell = cells[cell_id]
        slot, movement = slots[cell.slot_id], library.get(cell.movement or slots[cell.slot_id].movement)
        if not cell.current:
            raise Refused("not_live")
        if cell.state not in EDITABLE:
            raise Refused("no_load", name=athletes[cell.athlete_id].name)
        refuse_unready(ready[cell.athlete_id], movement)
        day = session_day(block, slot, cell.week)
        if day < actor.today or (slot.id, cell.athlete_id, cell.week) in logged:
            raise Refused("past")
        load = _wanted_load(rooms.on(cell.athlete_id, day), movement, rig_code or cell.bar, amount)
        most_kg = ready[cell.athlete_id].bounds(movement, day).most_kg
        if most_kg is not None and load.kg > most_kg + 1e-9:
            raise ImpossibleInput(Problem("load", "over_limit", {"most": most_kg}))
        rows.append(_coach_cell(actor, cell, load, name) | {"room_id": rooms.id_on(cell.athlete_id, day)})
    new_ids = place_cells(session, rows)
    what = "cell_edited" if len(rows) == 1 else "cells_edited"
    change = remember(
        session, actor, what=what, subject="cells", subject_id=block.id, before={"cells": list(amounts)}
    )
    return new_ids, change


def _wanted_load(room: Room, movement: Movement, rig_code: str, amount: Decimal) -> Load:
    """The load of exactly this amount; ImpossibleInput names the two beside it where there is none."""
    rig = rig_named(movement, room, rig_code)
    if rig is None:
        raise Refused("no_rig", movement=movement.name)
    loads = loads_on(room, rig)
    wanted = weighed("load", amount, room.unit).grains
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


def _coach_cell(actor: Actor, cell: Cell, load: Load, name: str) -> dict[str, Any]:
    """The values of a new cell in a cell's place with the coach's own load."""
    was = "no load" if cell.load_amount is None else f"{cell.load_amount.normalize():f}"
    steps = Working.from_plain(cell.working).then(
        Step("Coach", f"{name} changed it from {was}", load.total.text, load.total.unit), how_made(load)
    )
    return copied_cell(cell, actor) | load_values(load) | {
        "state": State.LOAD.value,
        "over_cap": cell.cap_kg is not None and load.kg > cell.cap_kg + 1e-6,
        "origin": "coach", "held": False, "working": steps.to_plain(),
    }  # fmt: skip
