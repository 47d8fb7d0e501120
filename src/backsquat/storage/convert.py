"""Rows ↔ core values."""

from collections.abc import Iterable
from decimal import Decimal

from backsquat.core.loads.achievable import BarLoad, bar_loads
from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.room import Bar, PlateStock, Room
from backsquat.core.loads.rounding import grains
from backsquat.core.movements.movement import Family
from backsquat.core.rules import Rules, with_changes
from backsquat.core.strength.record import Effort, SetRecord
from backsquat.library.shelf import movements
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


def record_from_row(row: SetEntry) -> SetRecord:
    movement = movements().get(row.movement)
    return SetRecord(
        set_id=row.id,
        done_on=row.done_on,
        family=movement.family if movement else Family.OTHER,
        load_kg=row.load_kg,
        reps=row.reps,
        reps_to_depth=row.reps_to_depth,
        reserve_reps=row.reserve_reps,
        effort=Effort(row.effort),
        breaking_fault=row.fault if row.fault_breaking else "",
        pain=row.pain,
        pain_character=row.pain_character,
    )
