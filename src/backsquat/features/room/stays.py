"""Who trains in another room, and when: the loads to come follow, as drafts."""

import datetime as dt
from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.rigs import rig_named
from backsquat.core.loads.rounding import Rounding, how_made, moved_load
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.prescription import Kind
from backsquat.core.progression.row import State
from backsquat.core.rules import Rules
from backsquat.core.working import Step, Working
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.athletes.readiness import readiness_of
from backsquat.features.blocks.operations import (
    Anew,
    bring_back,
    coming_blocks,
    copied_cell,
    place_cells,
    replanned,
)
from backsquat.features.blocks.planning import load_values, logged_places, movement_of, session_day
from backsquat.features.desk import Actor
from backsquat.features.journal import remember, restores
from backsquat.features.movements.queries import library_of
from backsquat.features.room.rooms import Rooms, rooms_of
from backsquat.storage.models import Block, Cell, Change, RoomRow, RoomStay, Squad

STAY_DAYS_MOST = 730


@dataclass(frozen=True)
class StayFacts:
    """`athlete_id` None: everybody; `last_on` None: until further notice; `weekday` None: every day."""

    room_id: int
    athlete_id: int | None
    first_on: dt.date
    last_on: dt.date | None = None
    weekday: int | None = None


def add_stay(session: Session, actor: Actor, facts: StayFacts, rules: Rules) -> tuple[Change, int]:
    """Somebody, or the squad, trains elsewhere from a day on. Returns the change and how many places follow."""
    rooms = rooms_of(session, actor.squad_id)
    if facts.room_id not in rooms.rows or rooms.rows[facts.room_id].removed:
        raise NotThere("room")
    if facts.athlete_id is not None and facts.athlete_id not in {
        a.id for a in squad_athletes(session, actor.squad_id)
    }:
        raise NotThere("athlete")
    found = []
    if facts.first_on < actor.today:
        found.append(Problem("first_on", "stay_past"))
    if facts.last_on and not 0 <= (facts.last_on - facts.first_on).days <= STAY_DAYS_MOST:
        found.append(Problem("last_on", "stay_order"))
    if not rooms.rows[facts.room_id].bars:
        found.append(Problem("room", "room_empty"))
    if found:
        raise ImpossibleInput(*found)
    row = RoomStay(
        squad_id=actor.squad_id, room_id=facts.room_id, athlete_id=facts.athlete_id, first_on=facts.first_on,
        last_on=facts.last_on, weekday=facts.weekday, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(row)
    session.flush()
    return _followed(
        session, actor, row, {"ended": True, "last_on": _text(facts.last_on)}, "stay_added", rules
    )


def end_stay(session: Session, actor: Actor, stay_id: int, rules: Rules) -> tuple[Change, int]:
    """Back where they would be otherwise, from today on; what was done elsewhere stays."""
    row = _stay(session, actor, stay_id)
    before = {"ended": row.ended, "last_on": _text(row.last_on)}
    if row.first_on >= actor.today:
        row.ended = True
    else:
        row.last_on = actor.today - dt.timedelta(days=1)
    session.flush()
    return _followed(session, actor, row, before, "stay_ended", rules)


def _stay(session: Session, actor: Actor, stay_id: int) -> RoomStay:
    row = session.get(RoomStay, stay_id)
    if row is None or row.squad_id != actor.squad_id:
        raise NotThere("stay")
    return row


def _text(day: dt.date | None) -> str | None:
    return day.isoformat() if day else None


def _followed(
    session: Session, actor: Actor, row: RoomStay, before: dict[str, Any], what: str, rules: Rules
) -> tuple[Change, int]:
    """Let the plans follow, and remember all of it as one change."""
    replaced = follow_rooms(session, actor, rules)
    change = remember(
        session, actor, what=what, subject="stays", subject_id=row.id,
        before={"values": before, "cells": {str(block_id): ids for block_id, ids in replaced.items()}},
    )  # fmt: skip
    return change, sum(map(len, replaced.values()))


@restores("stays")
def restore_stay(session: Session, actor: Actor, change: Change) -> None:
    row, values = _stay(session, actor, change.subject_id), change.before["values"]
    row.ended = values["ended"]
    row.last_on = dt.date.fromisoformat(values["last_on"]) if values["last_on"] else None
    session.flush()
    _forget(session)
    for block_id, cell_ids in change.before["cells"].items():
        bring_back(session, actor, int(block_id), cell_ids)


def _forget(session: Session) -> None:
    session.info.clear()  # what was read of the rooms before


def follow_rooms(session: Session, actor: Actor, rules: Rules) -> dict[int, list[int]]:
    """Give every place to come the room its athlete trains in on that day; block → the cells replaced.

    A load stays what was meant and becomes the nearest the new room has, the coach's own too; where
    the new room cannot load or rig the movement, or could not before, the place is planned anew.
    """
    _forget(session)
    rooms = rooms_of(session, actor.squad_id)
    return {
        block.id: ids
        for block in coming_blocks(session, actor)
        if (ids := _follow_block(session, actor, block, rooms, rules))
    }


def _follow_block(session: Session, actor: Actor, block: Block, rooms: Rooms, rules: Rules) -> list[int]:
    slots = {slot.id: slot for slot in block.slots}
    ready = readiness_of(session, actor.squad_id, squad_athletes(session, actor.squad_id), actor.today, rules)
    logged, library = logged_places(session, list(slots)), library_of(session, actor.squad_id)
    rows: list[dict[str, Any]] = []
    anew: dict[int, set[tuple[int, int]]] = defaultdict(set)  # slot → (athlete, week)
    for cell in session.scalars(select(Cell).where(Cell.slot_id.in_(list(slots)), Cell.current)):
        slot = slots[cell.slot_id]
        day = session_day(block, slot, cell.week)
        where = rooms.id_on(cell.athlete_id, day)
        if day < actor.today or (slot.id, cell.athlete_id, cell.week) in logged or cell.room_id == where:
            continue
        row = None
        if cell.state == State.LOAD.value and cell.athlete_id in ready:
            movement = movement_of(library, slot, cell)
            if not ready[cell.athlete_id].lacking(movement, day):
                most_kg = ready[cell.athlete_id].bounds(movement, day).most_kg
                row = _moved(actor, block, cell, movement, rooms, where, most_kg)
        if row:
            rows.append(row)
        else:
            anew[slot.id].add((cell.athlete_id, cell.week))
    athletes = {athlete_id for places in anew.values() for athlete_id, _ in places}
    if athletes:
        scope = Anew(athletes, list(anew), keep_own=False)
        rows += [
            change.row
            for change in replanned(session, actor, block, rules, scope)
            if (change.row["athlete_id"], change.row["week"]) in anew[change.slot.id]
        ]
    place_cells(session, rows)
    return [row["replaces_id"] for row in rows if row["replaces_id"]]


def _moved(
    actor: Actor, block: Block, cell: Cell, movement: Movement, rooms: Rooms, where: int | None, most_kg: float | None
) -> dict[str, Any] | None:  # fmt: skip
    """The values of the cell with the nearest load of the other room; None where that room cannot load it."""
    room = rooms.room(where)
    rig = rig_named(movement, room, cell.bar)
    if rig is None:
        return None
    meant_kg: float = cell.load_kg or 0.0
    if (
        cell.origin != "coach" or cell.room_id is not None
    ):  # the coach means what was typed, until it was moved
        meant_kg = cell.inputs.get("target_kg", meant_kg)
    down = cell.kind == Kind.EASY.value or block.in_season or cell.held
    bounds = [kg for kg in (cell.cap_kg, most_kg) if kg is not None]
    rounding = Rounding.DOWN if down else Rounding.NEAREST
    rounded = moved_load(meant_kg, min(bounds, default=None), room, rig, rounding)
    if rounded is None:
        return None
    load = rounded.load
    steps = Working.from_plain(cell.working).then(
        Step("Room", room.name, load.rig.name), rounded.step, how_made(load)
    )
    return copied_cell(cell, actor) | load_values(load) | {
        "room_id": where,
        "over_cap": cell.cap_kg is not None and load.kg > cell.cap_kg + 1e-6,
        "inputs": {**cell.inputs, "target_kg": meant_kg}, "working": steps.to_plain(),
    }  # fmt: skip


def take_away(session: Session, actor: Actor, room_id: int) -> Change:
    """Take a room off the list. Refused for the squad's own, and while somebody is to train there."""
    row = session.get(RoomRow, room_id)
    if row is None or row.squad_id != actor.squad_id or row.removed:
        raise NotThere("room")
    if session.get_one(Squad, actor.squad_id).room_id == room_id:
        raise Refused("own_room")
    if rooms_of(session, actor.squad_id).in_use(room_id, actor.today):
        raise Refused("room_in_use")
    row.removed = True
    session.flush()
    _forget(session)
    return remember(
        session, actor, what="room_removed", subject="room", subject_id=row.id, before={"removed": False}
    )
