"""The squad's rooms, their stations, and who trains in which of them on which day. Read once in a session."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

from sqlalchemy import bindparam, func, or_, select, true
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere, Refused
from backsquat.core.loads.room import Room
from backsquat.library.shelf import equipment
from backsquat.storage.cache import cached
from backsquat.storage.convert import room_from_row
from backsquat.storage.models import Cell, RoomAssignment, RoomRow, Squad, StationCheck


@dataclass
class Rooms:
    """Rooms by id, the squad's own, and the assignments that hold, an athlete's before the squad's, newest first."""

    own_id: int | None
    rows: dict[int, RoomRow]
    assignments: Sequence[RoomAssignment] = ()
    _rooms: dict[int, Room] = field(default_factory=dict)
    _equipment: dict[int, frozenset[str]] = field(default_factory=dict)

    @property
    def own(self) -> Room:
        """The squad's own room; Refused where none is described yet."""
        if self.own_id is None or not self.rows[self.own_id].bars:
            raise Refused("no_room")
        return self.room(None)

    def room(self, room_id: int | None) -> Room:
        """A room by id; None is the squad's own, as in a cell."""
        key = room_id or self.own_id
        if key is None:
            raise Refused("no_room")
        if key not in self._rooms:
            self._rooms[key] = room_from_row(self.rows[key])
        return self._rooms[key]

    def id_on(self, athlete_id: int, day: dt.date) -> int | None:
        """Where an athlete trains on a day; None is the squad's own room."""
        for one in self._assignments_of.get(athlete_id, self._of_all):
            if _holds(one, day):
                return None if one.room_id == self.own_id else one.room_id
        return None

    def on(self, athlete_id: int, day: dt.date) -> Room:
        return self.room(self.id_on(athlete_id, day))

    def of_cell(self, cell: Cell) -> Room:
        """The room a cell was planned for."""
        return self.room(cell.room_id)

    def equipment(self, room_id: int | None) -> frozenset[str]:
        """What a room has, bars and plates included."""
        key = room_id or self.own_id or 0
        if key not in self._equipment:
            row = self.rows.get(key)
            held = {"bar": row.bars, "rack": row.racks, "loose_plates": row.plates} if row else {}
            has = {code for code, there in held.items() if there}
            self._equipment[key] = frozenset(has | set(row.equipment if row else ()))
        return self._equipment[key]

    def equipment_on(self, athlete_id: int, day: dt.date) -> frozenset[str]:
        """What the room has in which an athlete trains on a day: codes."""
        return self.equipment(self.id_on(athlete_id, day))

    def in_use(self, room_id: int, today: dt.date) -> bool:
        """Whether somebody trains there now or is to."""
        return any(s.room_id == room_id and (s.last_on is None or s.last_on >= today) for s in self.assignments)

    def apart(self, athlete_id: int, today: dt.date) -> list[tuple[RoomRow, RoomAssignment]]:
        """An athlete's own assignments that are not over, with their rooms."""
        own = [one for one in self.assignments if one.athlete_id == athlete_id]
        return [(self.rows[s.room_id], s) for s in own if s.last_on is None or s.last_on >= today]

    @cached_property
    def _of_all(self) -> list[RoomAssignment]:
        return [one for one in self.assignments if one.athlete_id is None]

    @cached_property
    def _assignments_of(self) -> dict[int, list[RoomAssignment]]:
        ids = {one.athlete_id for one in self.assignments if one.athlete_id is not None}
        return {a: [s for s in self.assignments if s.athlete_id == a] + self._of_all for a in ids}


def _holds(one: RoomAssignment, day: dt.date) -> bool:
    if day < one.first_on or (one.last_on is not None and day > one.last_on):
        return False
    return one.weekday is None or one.weekday == day.weekday()


# Made once: asked at every door. A room taken away is still read: what was planned and lifted in it stays.
_ROOMS = (
    select(RoomRow)
    .where(or_(RoomRow.squad_id == bindparam("squad"), RoomRow.id == bindparam("own")))
    .order_by(RoomRow.id)
)
_ASSIGNMENTS = (
    select(RoomAssignment)
    .where(RoomAssignment.squad_id == bindparam("squad"), ~RoomAssignment.ended)
    .order_by(RoomAssignment.id.desc())
)


def rooms_of(db: Session, squad_id: int) -> Rooms:
    key = ("rooms", squad_id)
    if key not in db.info:
        db.info[key] = cached(db, key, lambda: _rooms_of(db, squad_id), unchanged=True)
    return db.info[key]  # type: ignore[no-any-return]


def _rooms_of(db: Session, squad_id: int) -> Rooms:
    own_id = db.get_one(Squad, squad_id).room_id
    rows = {row.id: row for row in db.scalars(_ROOMS, {"squad": squad_id, "own": own_id})}
    return Rooms(own_id, rows, db.scalars(_ASSIGNMENTS, {"squad": squad_id}).all())


def room_equipment(db: Session, squad_id: int) -> frozenset[str]:
    """What the squad's own room has, bars and plates included."""
    return rooms_of(db, squad_id).equipment(None)


def room_row(db: Session, squad_id: int, room_id: int | None) -> RoomRow | None:
    """The room named, or the squad's own; None where none is described yet."""
    own_id = db.get_one(Squad, squad_id).room_id
    wanted = room_id or own_id
    row = db.get(RoomRow, wanted) if wanted else None
    if room_id and (row is None or row.squad_id != squad_id or row.removed):
        raise NotThere("room")
    return row


STATIONS = ("bench", "box", "rail", "back_bench", "glute_ham", "leg_press", "hack", "belt_squat")  # besides racks


def station_names(room: RoomRow | None) -> list[str]:
    """The racks, then what else can slide, tip or lack a pin."""
    if room is None:
        return []
    has = [equipment()[code].capitalize() for code in STATIONS if code in room.equipment]
    return [*(f"Rack {n}" for n in range(1, room.racks + 1)), *has]


def station_checks(
    db: Session, room_ids: Sequence[int], until: dt.datetime | None = None
) -> dict[tuple[int, str], StationCheck]:
    """The newest check of each station, by room and name; `until`: of those made by then."""
    newest = (
        select(func.max(StationCheck.id))
        .where(StationCheck.room_id.in_(room_ids), StationCheck.at <= until if until else true())
        .group_by(StationCheck.room_id, StationCheck.station)
    )
    rows = db.scalars(select(StationCheck).where(StationCheck.id.in_(newest)))
    return {(row.room_id, row.station): row for row in rows}


def forget_rooms(db: Session, squad_id: int) -> None:
    """Let the next question in this session read the rooms again: something about them was written."""
    db.flush()
    db.info.pop(("rooms", squad_id), None)
