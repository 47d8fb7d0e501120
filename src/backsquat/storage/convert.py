"""Rows ↔ core values."""

import datetime as dt
from collections.abc import Iterable
from decimal import Decimal

from backsquat.core.loads.achievable import BarLoad, bar_loads
from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.room import Bar, PlateStock, Room
from backsquat.core.loads.rounding import grains
from backsquat.core.movements.movement import Family
from backsquat.core.rules import Rules, with_changes
from backsquat.core.strength.record import Effort, SetRecord
from backsquat.storage.models import RoomRow, RuleChange, SetEntry


def room_from_row(row: RoomRow) -> Room:
    unit = Unit(row.unit)
    return Room(
        name=row.name,
        unit=unit,
        bars=tuple(Bar(bar.code, bar.name, Mass(bar.amount, Unit(bar.unit))) for bar in row.bars),
        plates=tuple(
            PlateStock(Mass(plate.amount, Unit(plate.unit)), plate.pairs, plate.diameter_mm)
            for plate in row.plates
        ),
        collars=Mass(row.collars, unit),
        racks=row.racks,
    )


def bar_of(room: Room, code: str) -> Bar:
    """The bar a plan names, or the room's first where it is gone."""
    return room.bar(code) or room.bars[0]


def load_on_bar(room: Room, code: str, amount: Decimal, unit: str) -> BarLoad | None:
    """The achievable load of exactly this mass on the named bar, or None."""
    wanted = Mass(amount, Unit(unit)).grains
    loads = bar_loads(room, bar_of(room, code))
    found = loads.nearest(wanted)
    return found if found.total.grains == wanted else None


def load_near(room: Room, code: str, kg: float) -> BarLoad:
    return bar_loads(room, bar_of(room, code)).nearest(grains(kg))


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
    SetEntry.side,
)  # fmt: skip


def record_from_values(
    set_id: int, family: str, done_on: dt.date, load_kg: float, reps: int, reps_to_depth: int, reserve_reps: int | None,
    effort: str, fault: str, fault_breaking: bool, pain: int, pain_character: str, carried_kg: float | None,
    hold_s: int | None, supported: bool, side: str,
) -> SetRecord:  # fmt: skip
    """The set as the rules see it, from the values of RECORD_COLUMNS in their order."""
    return SetRecord(
        set_id, done_on, FAMILIES[family], load_kg, reps, reps_to_depth, reserve_reps, EFFORTS[effort],
        fault if fault_breaking else "", pain, pain_character, carried_kg, hold_s, supported, side,
    )  # fmt: skip


def record_from_row(row: SetEntry) -> SetRecord:
    return record_from_values(*(getattr(row, column.key) for column in RECORD_COLUMNS))
