"""Describing a room. The stock as it was before is remembered, so that a change can be undone."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.achievable import loads_at_most
from backsquat.core.loads.mass import DECIMALS, Mass, Unit
from backsquat.core.loads.room import PlateStock, RigKind
from backsquat.library.shelf import equipment
from backsquat.storage.models import BarRow, Change, PlateRow, RoomRow, Squad, StationCheck
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.policy import Act, require
from backsquat.work.rooms.rooms import forget_rooms, room_row, rooms_of, station_names

PAIRS_MOST, RACKS_MOST = 20, 30


BAR_KG, PLATE_KG, COLLARS_KG = (1, 50), (0.0001, 50), (0, 10)  # of a plate: more than nothing


BELL_KG, BELLS_MOST = 400, 60


LOADS_MOST = 8_000  # usual rooms make one or two thousand


@dataclass(frozen=True)
class BarFacts:
    code: str
    name: str
    amount: Decimal
    trap: bool = False


@dataclass(frozen=True)
class PlateFacts:
    amount: Decimal
    pairs: int
    diameter_mm: int


@dataclass(frozen=True)
class StackFacts:
    """A machine with a pin."""

    code: str
    low: Decimal
    step: Decimal
    high: Decimal
    add_on: Decimal = Decimal(0)


@dataclass(frozen=True)
class BandFacts:
    """A long band: its pull when short and when long."""

    name: str
    short: Decimal
    long: Decimal


@dataclass(frozen=True)
class RoomFacts:
    name: str
    unit: Unit
    collars: Decimal
    racks: int
    bars: tuple[BarFacts, ...]
    plates: tuple[PlateFacts, ...]
    equipment: tuple[str, ...] = ()  # codes of library/equipment.toml
    dumbbells: tuple[tuple[Decimal, int], ...] = ()  # mass of each, how many
    kettlebells: tuple[tuple[Decimal, int], ...] = ()
    stacks: tuple[StackFacts, ...] = ()
    bands: tuple[BandFacts, ...] = ()
    bags: tuple[tuple[Decimal, int], ...] = ()


def room_problems(facts: RoomFacts) -> list[Problem]:
    """Everything impossible about a room, with the field each stands in."""
    found = []
    if not facts.bars:
        found.append(Problem("bars", "no_bars"))
    if not any(plate.pairs for plate in facts.plates):
        found.append(Problem("plates", "no_plates"))
    if not 1 <= facts.racks <= RACKS_MOST:
        found.append(Problem("racks", "racks_range", {"most": RACKS_MOST}))
    found += _mass_problems("collars", facts.collars, facts.unit, COLLARS_KG, "collar_range")
    for n, bar in enumerate(facts.bars):
        found += _mass_problems(f"bar_amount_{n}", bar.amount, facts.unit, BAR_KG, "bar_mass_range")
    found += _plate_problems(facts) + _hand_problems(facts) + _machine_problems(facts)
    if not found and loads_at_most(_stock(facts)) > LOADS_MOST:
        found.append(Problem("plates", "too_many_loads"))
    return found


def _mass_problems(field: str, amount: Decimal, unit: Unit, kg: tuple[float, float], code: str) -> list[Problem]:
    """What is wrong with one mass: finer than it is weighed, or outside what there is."""
    try:
        found = Mass(amount, unit).kg
    except ValueError:
        return [Problem(field, "mass_decimals", {"decimals": DECIMALS[unit], "unit": unit.value})]
    return [] if kg[0] <= found <= kg[1] else [Problem(field, code)]


def _plate_problems(facts: RoomFacts) -> list[Problem]:
    found = []
    amounts = [plate.amount for plate in facts.plates]
    for n, plate in enumerate(facts.plates):
        found += _mass_problems(f"plate_amount_{n}", plate.amount, facts.unit, PLATE_KG, "plate_range")
        if not 0 <= plate.pairs <= PAIRS_MOST:
            found.append(Problem(f"plate_pairs_{n}", "pairs_range", {"most": PAIRS_MOST}))
        if plate.amount in amounts[:n]:
            mass = f"{plate.amount.normalize():f} {facts.unit}"
            found.append(Problem(f"plate_amount_{n}", "twice", {"mass": mass}))
    return found


def _stock(facts: RoomFacts) -> list[PlateStock]:
    return [PlateStock(Mass(plate.amount, facts.unit), plate.pairs) for plate in facts.plates if plate.pairs]


def _hand_problems(facts: RoomFacts) -> list[Problem]:
    """Bells nobody could lift, or finer than they are weighed."""
    found = []
    for field, bells in (("dumbbells", facts.dumbbells), ("kettlebells", facts.kettlebells), ("bags", facts.bags)):
        if len(bells) > BELLS_MOST or any(not _fits(amount, facts.unit) for amount, _ in bells):
            found.append(Problem(field, "bells"))
    return found


def _fits(amount: Decimal, unit: Unit) -> bool:
    try:
        return 0 < Mass(amount, unit).kg <= BELL_KG
    except ValueError:
        return False


def _machine_problems(facts: RoomFacts) -> list[Problem]:
    found = []
    for n, stack in enumerate(facts.stacks):
        amounts = (stack.low, stack.step, stack.high)
        whole = all(_fits(amount, facts.unit) for amount in amounts) and 0 <= stack.add_on <= 50
        pins = (stack.high - stack.low) / stack.step if whole else Decimal(0)
        if not whole or stack.high < stack.low or pins > 200:
            found.append(Problem(f"stack_low_{n}", "stack_range"))
    for n, band in enumerate(facts.bands):
        if not (0 <= band.short < band.long <= 150 and _fits(band.long, facts.unit)):
            found.append(Problem(f"band_short_{n}", "band_range"))
    return found


def save_room(context: WorkContext, facts: RoomFacts, room_id: int | None = None, *, further: bool = False) -> Change:
    """Keep a room: the one named, the squad's own, or a `further` one besides it.

    Plans made before keep their numbers until they are planned again.
    """
    require(context.actor, Act.DESCRIBE_ROOM)
    problems = room_problems(facts)
    if problems:
        raise ImpossibleInput(*problems)
    squad = context.db.get_one(Squad, context.squad_id)
    row = None if further else room_row(context.db, squad.id, room_id)
    before: dict[str, Any] = _as_plain(row) if row else {"none": True}
    if row is None:
        row = RoomRow(squad_id=squad.id, name=facts.name, collars=facts.collars)
        context.db.add(row)
        context.db.flush()
        if squad.room_id is None:
            squad.room_id = row.id
    _put(context.db, row, facts)
    return remember(context, what="room_changed", subject="room", subject_id=row.id, before=before)


def _put(db: Session, row: RoomRow, facts: RoomFacts) -> None:
    row.name, row.unit, row.collars, row.racks = facts.name, facts.unit.value, facts.collars, facts.racks
    # What is described below is there, ticked or not.
    has = set(facts.equipment) | {stack.code for stack in facts.stacks}
    has |= {
        code
        for code, any_of in (
            ("dumbbells", facts.dumbbells),
            ("kettlebells", facts.kettlebells),
            ("sandbag", facts.bags),
            ("band", facts.bands),
            ("trap_bar", [bar for bar in facts.bars if bar.trap]),
        )
        if any_of
    }
    row.equipment = sorted(code for code in has if code in equipment())
    row.dumbbells = [[str(amount), count] for amount, count in facts.dumbbells]
    row.kettlebells = [[str(amount), count] for amount, count in facts.kettlebells]
    row.bags = [[str(amount), count] for amount, count in facts.bags]
    row.stacks = [[s.code, str(s.low), str(s.step), str(s.high), str(s.add_on)] for s in facts.stacks]
    row.bands = [[band.name, str(band.short), str(band.long)] for band in facts.bands]
    row.bars, row.plates = [], []
    db.flush()
    unit = facts.unit.value
    row.bars = [
        BarRow(
            position=n,
            code=bar.code,
            name=bar.name,
            amount=bar.amount,
            unit=unit,
            kind=(RigKind.TRAP_BAR if bar.trap else RigKind.BAR).value,
        )
        for n, bar in enumerate(facts.bars)
    ]
    row.plates = [
        PlateRow(amount=plate.amount, unit=unit, pairs=plate.pairs, diameter_mm=plate.diameter_mm)
        for plate in facts.plates
    ]
    forget_rooms(db, row.squad_id)


def check_station(
    context: WorkContext, station: str, ready: bool, found: str, room_id: int | None = None
) -> StationCheck:
    """What somebody found at a station: ready, or what is wrong. The newest holds."""
    require(context.actor, Act.CHECK_STATION)
    room = room_row(context.db, context.squad_id, room_id)
    if room is None or station not in station_names(room):
        raise NotThere("station")
    if not ready and not found.strip():
        raise ImpossibleInput(Problem("found", "station_wrong"))
    row = StationCheck(
        room_id=room.id,
        station=station,
        ready=ready,
        found="" if ready else found.strip()[:120],
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(row)
    context.db.flush()
    return row


def _as_plain(row: RoomRow) -> dict[str, Any]:
    return {
        "name": row.name,
        "unit": row.unit,
        "collars": str(row.collars),
        "racks": row.racks,
        "bars": [[bar.code, bar.name, str(bar.amount), bar.kind] for bar in row.bars],
        "plates": [[str(plate.amount), plate.pairs, plate.diameter_mm] for plate in row.plates],
        "equipment": list(row.equipment),
        "dumbbells": row.dumbbells,
        "kettlebells": row.kettlebells,
        "bags": row.bags,
        "stacks": row.stacks,
        "bands": row.bands,
    }


@restores("room")
def restore_room(context: WorkContext, change: Change) -> None:
    before, squad = change.before, context.db.get_one(Squad, context.squad_id)
    if "removed" in before or before.get("none"):
        row = context.db.get_one(RoomRow, change.subject_id)
        if before.get("none") and rooms_of(context.db, squad.id).in_use(row.id, context.today):
            raise Refused("room_in_use")
        row.removed = bool(before.get("none"))
        if row.removed and squad.room_id == row.id:
            squad.room_id = None
        forget_rooms(context.db, squad.id)
        return
    facts = RoomFacts(
        before["name"],
        Unit(before["unit"]),
        Decimal(before["collars"]),
        before["racks"],
        tuple(BarFacts(bar[0], bar[1], Decimal(bar[2]), bar[3:] == [RigKind.TRAP_BAR.value]) for bar in before["bars"]),
        tuple(PlateFacts(Decimal(amount), pairs, diameter) for amount, pairs, diameter in before["plates"]),
        tuple(before.get("equipment", ())),
        tuple((Decimal(amount), count) for amount, count in before.get("dumbbells", ())),
        tuple((Decimal(amount), count) for amount, count in before.get("kettlebells", ())),
        tuple(StackFacts(code, *map(Decimal, amounts)) for code, *amounts in before.get("stacks", ())),
        tuple(BandFacts(name, Decimal(short), Decimal(long)) for name, short, long in before.get("bands", ())),
        tuple((Decimal(amount), count) for amount, count in before.get("bags", ())),
    )
    _put(context.db, context.db.get_one(RoomRow, change.subject_id), facts)
