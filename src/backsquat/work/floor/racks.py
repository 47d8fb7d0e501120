"""Who shares a rack: one athlete's running list, the racks, and what happens to them when one opens or closes."""

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from sqlalchemy.orm import Session as Database

from backsquat.core.movements.movement import BARS
from backsquat.core.progression.cell import State
from backsquat.core.sessions.running import ActKind, Running
from backsquat.core.sessions.session import Session
from backsquat.core.sessions.turns import LifterInTurn, around_closed, share_racks
from backsquat.storage.models import Athlete, SessionAct, SetEntry, StationCheck
from backsquat.work.floor.turn import Turn
from backsquat.work.rooms.rooms import Rooms, station_checks
from backsquat.work.sessions.presence import awaited, came_at


@dataclass(frozen=True)
class RunningList:
    """One athlete's whole session: their turns in order, where they are, and what waits on the shelf."""

    athlete: Athlete
    turns: tuple[Turn, ...]
    session: Session
    running: Running
    rest_left_s: int = 0  # until the set that comes now; nought before the first, inside a round and after the last
    acts: tuple[SessionAct, ...] = ()  # what was done besides sets
    shelf: tuple[SessionAct, ...] = ()  # skipped in earlier sessions
    joined_at: int = 0  # sets the others on the rack had done when they came; nought: from the beginning

    @property
    def now(self) -> Turn | None:
        """What comes now; None where all is done."""
        return self.turn(self.running.now.item.key) if self.running.now else None

    @property
    def then(self) -> Turn | None:
        """What comes after the set that comes now."""
        return self.turn(self.running.then.item.key) if self.running.then else None

    @property
    def finished(self) -> bool:
        """Whether everything but the spare work is done with."""
        return self.running.now is None or self.running.now.item.spare

    @cached_property
    def awaited(self) -> ActKind | None:
        """Late or absent, as was said of them; None: they take their turns."""
        return awaited(self.acts, (entry for _, entry in self.entries))

    @property
    def lifting(self) -> bool:
        """Whether they are here, with work that must be done."""
        return not self.finished and self.awaited is None

    @cached_property
    def rack_turn(self) -> Turn | None:
        """The first turn that needs a rack: it says with whom one shares it."""
        return next((t for t in self.turns if t.cell.state is State.LOAD and t.movement.implement in BARS), None)

    @property
    def entries(self) -> list[tuple[Turn, SetEntry]]:
        """All sets of the session so far, each with its turn."""
        return [(turn, entry) for turn in self.turns for entry in turn.entries]

    @property
    def last_set(self) -> SetEntry | None:
        """The set logged last, of whatever."""
        return max((entry for _, entry in self.entries), key=lambda entry: entry.id, default=None)

    def turn(self, exercise_id: int) -> Turn | None:
        """The turn of an exercise."""
        return next((turn for turn in self.turns if turn.exercise.id == exercise_id), None)

    @cached_property
    def lifter(self) -> LifterInTurn:
        """As the order of turns sees them: what must be done, and how much of it is."""
        due = [turn for turn in self.turns if not turn.item.spare]
        done = sum(turn.cell.sets if turn.finished else turn.sets_done for turn in due)
        rack = self.rack_turn
        return LifterInTurn(
            self.athlete.id,
            (rack.cell.load_kg or 0.0) if rack else 0.0,
            done,
            sum(turn.cell.sets for turn in due),
            self.joined_at,
        )

    def sets_until(self, moment: dt.datetime) -> int:
        """How many sets of what must be done were logged up to a moment."""
        return len({(t.cell.id, e.set_number) for t, e in self.entries if e.at <= moment and not t.item.spare})


Stations = set[tuple[int, str]]  # (room, station)


@dataclass(frozen=True)
class Rack:
    """Those who share a rack, or work beside the racks; `station` is its name in its room."""

    lists: list[RunningList]
    station: str
    room_id: int | None = None
    room_name: str = ""  # where it is not the squad's own
    beside: bool = False  # no rack: level work, held weights, machines
    came: Mapping[int, str] = field(default_factory=dict)  # athlete → the station that closed under them today

    @property
    def sets(self) -> list[tuple[Turn, SetEntry]]:
        """What was done here today, each set with its turn."""
        return [one for mine in self.lists for one in mine.entries]

    @property
    def label(self) -> str:
        """The station, with its room where that is not the squad's own."""
        return f"{self.room_name}, {self.station.lower()}" if self.room_name else self.station

    @property
    def key(self) -> str:
        """What it is called by, whatever opens or closes: its number in the squad's own room, `room.number` in another."""
        if self.beside:
            return "off"
        number = self.station.removeprefix("Rack ")
        number = number if number.isdecimal() else "none"
        return f"{self.room_id}.{number}" if self.room_id else number

    @property
    def short(self) -> str:
        """The same as short as it can be said."""
        return self.label if self.beside or self.room_name else self.station.removeprefix("Rack ")


def racks_of(db: Database, lists: Sequence[RunningList], rooms: Rooms) -> tuple[list[Rack], list[StationCheck]]:
    """Who shares which rack, the squad's own room first, then those beside the racks; and the stations that are unsafe.

    Groups are of the racks that were open at the first set; what opens or closes since moves as few as possible.
    """
    room_ids = {turn.cell.room_id for mine in lists for turn in mine.turns} | {None}
    unsafe = _unsafe_stations(db, rooms, room_ids)
    began = min((entry.at for one in lists for _, entry in one.entries), default=None)
    at_first = _unsafe_stations(db, rooms, room_ids, began) if began else unsafe
    racks: list[Rack] = []
    now, then = ({(check.room_id, check.station) for check in checks} for checks in (unsafe, at_first))
    lifting = [(one, one.rack_turn.cell.room_id) for one in lists if one.rack_turn]
    for room_id in sorted({room for _, room in lifting}, key=lambda id: (id is not None, id or 0)):
        here = [one for one, room in lifting if room == room_id]
        racks += _racks_of_room(here, rooms, room_id, now, then)
    beside = sorted((one for one in lists if not one.rack_turn), key=lambda one: one.athlete.name)
    racks += [Rack(beside, "Off rack", beside=True)] if beside else []
    return [replace(rack, lists=_joined(rack.lists)) for rack in racks], unsafe


def _joined(group: Sequence[RunningList]) -> list[RunningList]:
    """Those of a rack, who came late with the sets the others had done by then."""
    came = {one.athlete.id: at for one in group if (at := came_at(one.acts, (entry for _, entry in one.entries)))}
    first = [one for one in group if one.athlete.id not in came and one.lifting]
    joined = {who: min((one.sets_until(at) for one in first), default=0) for who, at in came.items()}
    return [replace(one, joined_at=joined[one.athlete.id]) if joined.get(one.athlete.id) else one for one in group]


def _racks_of_room(
    lists: Sequence[RunningList], rooms: Rooms, room_id: int | None, unsafe: Stations, at_first: Stations
) -> list[Rack]:
    room, key = rooms.room(room_id), room_id or rooms.own_id or 0
    by_id = {one.athlete.id: one for one in lists}
    stations = [f"Rack {n}" for n in range(1, room.racks + 1)]
    first = [name for name in stations if (key, name) not in at_first]
    since = [name for name in stations if (key, name) in at_first - unsafe]
    names = first + since
    closed = [n for n, name in enumerate(names) if (key, name) in unsafe]
    if len(closed) == len(names):
        names, closed = ["No rack is ready"], []
    groups = share_racks([one.lifter for one in lists], len(first) or len(names))
    was_at = {lifter.athlete_id: names[n] for n in closed if n < len(groups) for lifter in groups[n]}
    racks = [
        Rack(
            [by_id[lifter.athlete_id] for lifter in group],
            *(name, room_id, room.name if room_id else ""),
            came={lifter.athlete_id: was_at[lifter.athlete_id] for lifter in group if lifter.athlete_id in was_at},
        )
        for group, name in zip(around_closed(groups, len(names), closed), names, strict=True)
        if group
    ]
    return sorted(racks, key=lambda rack: stations.index(rack.station) if rack.station in stations else 0)


def _unsafe_stations(
    db: Database, rooms: Rooms, room_ids: Iterable[int | None], until: dt.datetime | None = None
) -> list[StationCheck]:
    """Stations of these rooms that somebody found unsafe, by their newest check (`until`: of those made by then)."""
    wanted = {room_id or rooms.own_id for room_id in room_ids}
    checks = station_checks(db, [room_id for room_id in wanted if room_id], until)
    return [check for check in checks.values() if not check.ready]
