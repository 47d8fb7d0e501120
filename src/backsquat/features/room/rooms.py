"""The squad's rooms, and who trains in which of them on which day. Read once in a session."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.loads.room import Room
from backsquat.storage.convert import room_from_row
from backsquat.storage.models import Cell, RoomRow, RoomStay, Squad


@dataclass
class Rooms:
    """Rooms by id, the squad's own, and the stays that hold, an athlete's before the squad's, newest first."""

    own_id: int | None
    rows: dict[int, RoomRow]
    stays: Sequence[RoomStay] = ()
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
        for stay in self._stays_of.get(athlete_id, self._of_all):
            if _holds(stay, day):
                return None if stay.room_id == self.own_id else stay.room_id
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

    def in_use(self, room_id: int, today: dt.date) -> bool:
        """Whether somebody trains there now or is to."""
        return any(s.room_id == room_id and (s.last_on is None or s.last_on >= today) for s in self.stays)

    def apart(self, athlete_id: int, today: dt.date) -> list[tuple[RoomRow, RoomStay]]:
        """An athlete's own stays that are not over, with their rooms."""
        own = [stay for stay in self.stays if stay.athlete_id == athlete_id]
        return [(self.rows[s.room_id], s) for s in own if s.last_on is None or s.last_on >= today]

    @cached_property
    def _of_all(self) -> list[RoomStay]:
        return [stay for stay in self.stays if stay.athlete_id is None]

    @cached_property
    def _stays_of(self) -> dict[int, list[RoomStay]]:
        ids = {stay.athlete_id for stay in self.stays if stay.athlete_id is not None}
        return {a: [s for s in self.stays if s.athlete_id == a] + self._of_all for a in ids}


def _holds(stay: RoomStay, day: dt.date) -> bool:
    if day < stay.first_on or (stay.last_on is not None and day > stay.last_on):
        return False
    return stay.weekday is None or stay.weekday == day.weekday()


def rooms_of(session: Session, squad_id: int) -> Rooms:
    key = ("rooms", squad_id)
    if key not in session.info:
        own_id = session.get_one(Squad, squad_id).room_id
        # A room taken away is still read: what was planned and lifted in it stays.
        wanted = or_(RoomRow.squad_id == squad_id, RoomRow.id == own_id)
        rows = {row.id: row for row in session.scalars(select(RoomRow).where(wanted).order_by(RoomRow.id))}
        stays = session.scalars(
            select(RoomStay)
            .where(RoomStay.squad_id == squad_id, ~RoomStay.ended)
            .order_by(RoomStay.id.desc())
        ).all()
        session.info[key] = Rooms(own_id, rows, stays)
    return session.info[key]  # type: ignore[no-any-return]


def room_equipment(session: Session, squad_id: int) -> frozenset[str]:
    """What the squad's own room has, bars and plates included."""
    return rooms_of(session, squad_id).equipment(None)
