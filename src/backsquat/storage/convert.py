"""Rows ↔ core values."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import fields
from decimal import Decimal
from functools import lru_cache
from typing import Any

from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.rigs import rig_named
from backsquat.core.loads.room import Band, Bells, PlateStock, Rig, RigKind, Room, Stack
from backsquat.core.loads.rounding import grains
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.decision import Decision
from backsquat.core.rules import Rules, with_changes
from backsquat.core.strength.record import Effort, SetRecord
from backsquat.library.shelf import equipment
from backsquat.storage.models import DecisionRow, RoomRow, RuleChange, SetEntry


def room_from_row(row: RoomRow) -> Room:
    unit = Unit(row.unit)

    def mass(text: str) -> Mass:
        return Mass(Decimal(text), unit)

    room = Room(
        name=row.name,
        unit=unit,
        bars=tuple(Rig(bar.code, bar.name, Mass(bar.amount, Unit(bar.unit)), RigKind(bar.kind)) for bar in row.bars),
        plates=tuple(
            PlateStock(Mass(plate.amount, Unit(plate.unit)), plate.pairs, plate.diameter_mm) for plate in row.plates
        ),
        collars=Mass(row.collars, unit),
        racks=row.racks,
        dumbbells=tuple(Bells(mass(amount), count) for amount, count in row.dumbbells),
        kettlebells=tuple(Bells(mass(amount), count) for amount, count in row.kettlebells),
        bags=tuple(Bells(mass(amount), count) for amount, count in row.bags),
        stacks=tuple(
            Stack(code, equipment().get(code, code).capitalize(), mass(low), mass(step), mass(high), mass(extra))
            for code, low, step, high, extra in row.stacks
        ),
        bands=tuple(Band(name, mass(short), mass(long)) for name, short, long in row.bands),
    )
    return _one(room)


@lru_cache(maxsize=256)
def _one(room: Room) -> Room:
    """The first room like this one: what is remembered of its loads is found without comparing all it has."""
    return room


def exact_load(room: Room, rig: Rig, amount: Decimal, unit: str) -> Load | None:
    """The achievable load of exactly this mass on a rig, or None."""
    wanted = Mass(amount, Unit(unit)).grains
    found = loads_on(room, rig).nearest(wanted)
    return found if found.total.grains == wanted else None


def planned_load(room: Room, movement: Movement, rig_code: str, amount: Decimal | None, unit: str) -> Load | None:
    """A planned load on its rig as the room is now; None where the room can no longer make it."""
    rig = rig_named(movement, room, rig_code)
    return exact_load(room, rig, amount, unit) if rig and amount is not None else None


def load_near(room: Room, code: str, kg: float) -> Load:
    """The bar's load nearest to so many kg."""
    return loads_on(room, room.bar(code) or room.bars[0]).nearest(grains(kg))


def rules_from_rows(rows: Iterable[RuleChange]) -> Rules:
    """The squad's rules; `rows` oldest first, a null value gives the default back."""
    changes = {row.name: row.value for row in rows}
    return with_changes({name: value for name, value in changes.items() if value is not None})


EFFORTS = {effort.value: effort for effort in Effort}

FAMILIES = {family.value: family for family in Family}


RECORD_COLUMNS = (
    SetEntry.id, SetEntry.family, SetEntry.done_on, SetEntry.load_kg, SetEntry.reps, SetEntry.reps_to_depth,
    SetEntry.reserve_reps, SetEntry.effort, SetEntry.fault, SetEntry.fault_breaking, SetEntry.pain,
    SetEntry.pain_character, SetEntry.carried_kg, SetEntry.hold_s, SetEntry.supported,
    SetEntry.side, SetEntry.set_number, SetEntry.manner, SetEntry.reserve_at_least,
    SetEntry.asked_reps, SetEntry.asked_reserve,
)  # fmt: skip


def record_from_values(
    set_id: int,
    family: str,
    done_on: dt.date,
    load_kg: float,
    reps: int,
    reps_to_depth: int,
    reserve_reps: int | None,
    effort: str,
    fault: str,
    fault_breaking: bool,
    pain: int,
    pain_character: str,
    carried_kg: float | None,
    hold_s: int | None,
    supported: bool,
    side: str,
    set_number: int,
    manner: str,
    reserve_at_least: bool,
    asked_reps: int | None,
    asked_reserve: int | None,
) -> SetRecord:
    """The set as the rules see it, from the values of RECORD_COLUMNS in their order."""
    return SetRecord(
        set_id,
        done_on,
        FAMILIES[family],
        load_kg,
        reps,
        reps_to_depth,
        reserve_reps,
        EFFORTS[effort],
        fault if fault_breaking else "",
        pain,
        pain_character,
        carried_kg,
        hold_s,
        supported,
        side,
        set_number,
        manner,
        reserve_at_least,
        asked_reps,
        asked_reserve,
    )


def record_from_row(row: SetEntry) -> SetRecord:
    return record_from_values(*(getattr(row, column.key) for column in RECORD_COLUMNS))


_COLUMN_OF = {"reps": "next_reps"}  # a field of a decision → its column, where that has another name
DECISION_COLUMNS = {field.name: _COLUMN_OF.get(field.name, field.name) for field in fields(Decision)}


def columns_of(decision: Decision) -> dict[str, Any]:
    """A decision as the columns of its row."""
    found = {column: getattr(decision, name) for name, column in DECISION_COLUMNS.items()}
    return found | {"facts": dict(decision.facts), "evidence": list(decision.evidence)}


def decision_from_row(row: DecisionRow) -> Decision:
    """The proposal as the rules made it."""
    found = {name: getattr(row, column) for name, column in DECISION_COLUMNS.items()}
    return Decision(**found | {"evidence": tuple(row.evidence)})
