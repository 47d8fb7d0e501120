"""The floor's view of one session: a running list for every athlete, racks, who is up with what and who is next."""

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from sqlalchemy.orm import Session as Database

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.changes import PlateChange, arranged, plate_change
from backsquat.core.loads.mass import Mass
from backsquat.core.movements.movement import BARS
from backsquat.core.progression.cell import State
from backsquat.core.rules import Rules
from backsquat.core.sessions.running import ActKind, Done, Running, running
from backsquat.core.sessions.session import Session
from backsquat.core.sessions.turns import LifterInTurn, around_closed, share_racks, turn_order
from backsquat.storage.cache import cached_each
from backsquat.storage.models import Athlete, SessionAct, SetEntry, StationCheck
from backsquat.work.floor.roll import Roll
from backsquat.work.floor.sessions import FloorSession
from backsquat.work.floor.turn import KeptOff, Turn
from backsquat.work.rooms.rooms import Rooms, station_checks
from backsquat.work.sessions.acts import shelf
from backsquat.work.sessions.presence import awaited, came_at
from backsquat.work.squad.athletes import squad_athletes


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


@dataclass(frozen=True)
class Floor:
    """One session as it stands now."""

    chosen: FloorSession
    sessions: list[FloorSession]
    racks: list[Rack]
    here: Rack | None  # the rack that is shown
    kept_off: list[KeptOff]
    mine: RunningList | None  # whose list is shown
    up: Turn | None  # what is shown of it
    queue: list[RunningList]  # who lifts next, in order
    unsafe: list[StationCheck] = field(default_factory=list)  # stations somebody marked unsafe
    gone: str = ""  # the key of a rack that was asked for, and on which nobody is any more

    @property
    def next_up(self) -> RunningList | None:
        """Who lifts after the one who is shown."""
        shown = self.mine.athlete.id if self.mine else None
        return next((one for one in self.queue if one.athlete.id != shown), None)

    @property
    def rack(self) -> str:
        """The key of the rack that is shown; empty without one."""
        return self.here.key if self.here else ""

    def change(self, following: RunningList) -> PlateChange | None:
        """Plates to move from the bar as shown to the next lifter's, if both use the same bar."""
        here, turn = self.bar, following.now
        there = turn.load if turn else None
        if here is None or there is None or turn is None or here.rig != there.rig or turn.room is None:
            return None
        return plate_change(here.side, arranged(here.side, there.side, turn.room.plates))

    @property
    def bar(self) -> Load | None:
        """The load of who is shown, its plates as the sets before on this rack leave them: the fewest were moved."""
        load = self.up.load if self.up else None
        if load is None or self.up is None or self.up.room is None or self.here is None:
            return load
        side: tuple[Mass, ...] = ()
        for turn, _ in sorted(self.here.sets, key=lambda done: done[1].id):
            if turn.load and turn.load.rig == load.rig:
                side = arranged(side, turn.load.side, self.up.room.plates)
        return replace(load, side=arranged(side, load.side, self.up.room.plates) if side else load.side)

    @property
    def began_at(self) -> dt.datetime | None:
        """When the first set of the session was logged."""
        logged = [entry.at for rack in self.racks for _, entry in rack.sets if entry.at.date() == self.chosen.day]
        return min(logged, default=None)

    def moved_from(self, check: StationCheck) -> list[tuple[str, str]]:
        """(name, rack) of whoever lifts elsewhere because a station was found unsafe while people lifted."""
        return [
            (one.athlete.name, rack.label)
            for rack in self.racks
            for one in rack.lists
            if rack.came.get(one.athlete.id) == check.station and rack.room_id in (None, check.room_id)
        ]

    @property
    def all_done(self) -> bool:
        """Everybody who lifts here has finished; nobody waits for who is absent."""
        here = [one for rack in self.racks for one in rack.lists if one.awaited is not ActKind.ABSENT]
        return bool(self.racks) and all(one.finished for one in here)

    @property
    def awaited(self) -> list[RunningList]:
        """Who of the rack that is shown is late or absent, with work to do."""
        return [one for one in (self.here.lists if self.here else []) if one.awaited and not one.finished]


@dataclass(frozen=True)
class Asked:
    """What a page asks to see: a rack, an athlete, one exercise of theirs."""

    rack: str = ""  # its key
    athlete_id: int | None = None
    exercise_id: int | None = None
    after_id: int | None = None  # who has just done a set: stays where the next of a round comes at once


def floor_of(
    db: Database,
    sessions: list[FloorSession],
    chosen: FloorSession,
    rooms: Rooms,
    rules: Rules,
    *,
    now: dt.datetime,
    asked: Asked = Asked(),
    only: int | None = None,
) -> Floor:
    """The chosen session with the rack asked for, the athlete's, or the first with somebody still to lift.

    `only`: an athlete who sees nobody else.
    """
    called = _called(db, chosen, rooms, now.date(), rules, only)
    lists = [_resting(one.mine, chosen, now) for one in called if one.mine]
    kept_off = [off for one in called for off in one.kept_off]
    room_ids = {turn.cell.room_id for mine in lists for turn in mine.turns} | {None}
    unsafe = unsafe_stations(db, rooms, room_ids)
    began = min((entry.at for one in lists for _, entry in one.entries), default=None)
    racks = _racks(lists, rooms, unsafe, unsafe_stations(db, rooms, room_ids, began) if began else unsafe)
    here = _shown_rack(racks, asked)
    group = here.lists if here else []
    by_id = {one.athlete.id: one for one in group}
    order = turn_order([one.lifter for one in group if one.lifting])
    queue = [by_id[lifter.athlete_id] for lifter in order]
    mine = by_id.get(asked.athlete_id or 0) or _goes_on(by_id.get(asked.after_id or 0)) or next(iter(queue), None)
    mine = mine or _spare_left(group)
    up = _up(mine, asked) if mine else None
    gone = asked.rack if racks and asked.rack not in {"", *(rack.key for rack in racks)} else ""
    return Floor(chosen, sessions, racks, here, kept_off, mine, up, queue, unsafe, gone)


def _goes_on(one: RunningList | None) -> RunningList | None:
    """Whoever is inside a round: the partner of what was just done comes at once."""
    return one if one and one.running.now and one.running.now.inside else None


def _spare_left(group: Sequence[RunningList]) -> RunningList | None:
    """Who has spare work left, once all that must be done is."""
    return next((one for one in group if one.now is not None and one.awaited is None), None)


def _up(mine: RunningList, asked: Asked) -> Turn | None:
    """The exercise asked for, what comes now, or what was stopped; None where all is done."""
    if asked.exercise_id and (wanted := mine.turn(asked.exercise_id)):
        return wanted
    stopped = next((turn for turn in mine.turns if turn.stopped and turn.entries), None)
    unread = stopped and stopped.decision and not stopped.decision.settled  # read before anything else is done
    return stopped if unread else mine.now or stopped


@dataclass(frozen=True)
class Called:
    """What the roll says of one athlete: their list (None: nothing for them here) and what they are kept from."""

    mine: RunningList | None
    kept_off: tuple[KeptOff, ...]


def _called(
    db: Database, chosen: FloorSession, rooms: Rooms, today: dt.date, rules: Rules, only: int | None
) -> list[Called]:
    """Everybody of whom something is planned in the session, by name; read again only for whom something was written."""
    athletes = [one.id for one in squad_athletes(db, chosen.block.squad_id) if only in (None, one.id)]
    asked = [one for one in athletes if not chosen.own or one in chosen.own]

    def read(ids: list[int]) -> dict[int, Called]:
        roll = Roll(db, chosen, rooms, today, rules, ids)
        turns, kept_off = roll.turns()
        waiting = {id: roll.may_take_up(acts) for id, acts in shelf(db, list(turns), chosen.day, rules).items()}
        return {
            one: Called(
                _list(chosen, turns[one], roll.acts, waiting, rules) if one in turns else None,
                tuple(off for off in kept_off if off.athlete.id == one),
            )
            for one in ids
        }

    question = ("called", chosen.session_id, chosen.week, chosen.day, chosen.own, today, rules)
    return list(cached_each(db, question, asked, read, plan=True).values())


def _list(
    chosen: FloorSession,
    turns: Sequence[Turn],
    acts: Mapping[int, Sequence[SessionAct]],
    waiting: Mapping[int, Sequence[SessionAct]],
    rules: Rules,
) -> RunningList:
    athlete = turns[0].athlete
    laid = Session(tuple(turn.item for turn in turns), cap_min=chosen.held.minutes)
    done = {turn.exercise.id: Done(turn.sets_done, turn.finished) for turn in turns}
    where = running(laid, done, rules)
    return RunningList(
        athlete,
        tuple(turns),
        laid,
        where,
        acts=tuple(acts.get(athlete.id, ())),
        shelf=tuple(waiting.get(athlete.id, ())),
    )


def _resting(mine: RunningList, chosen: FloorSession, now: dt.datetime) -> RunningList:
    """The list with what is left of the rest now."""
    coming, last = mine.running.now, mine.last_set
    if chosen.day != now.date() or last is None or coming is None:
        return mine
    left = coming.rest_s - int((now - last.at).total_seconds())
    return replace(mine, rest_left_s=left) if left > 0 else mine


def _shown_rack(racks: Sequence[Rack], asked: Asked) -> Rack | None:
    """Where the athlete is who was asked for; else the rack that was; where it is gone, that of who has just lifted, or the
    first with somebody still to lift.
    """

    def of(who: int | None) -> Rack | None:
        return next((rack for rack in racks if any(one.athlete.id == who for one in rack.lists)), None)

    named = next((rack for rack in racks if rack.key == asked.rack), None)
    waits = next((rack for rack in racks if any(one.lifting for one in rack.lists)), None)
    return of(asked.athlete_id) or named or of(asked.after_id) or waits or next(iter(racks), None)


def _racks(
    lists: Sequence[RunningList], rooms: Rooms, unsafe: Sequence[StationCheck], at_first: Sequence[StationCheck]
) -> list[Rack]:
    """Who shares which rack, the squad's own room first; then those beside the racks. `at_first`: what was unsafe when the
    first set was logged; what has opened or closed since moves as few as possible.
    """
    racks: list[Rack] = []
    now, then = ({(check.room_id, check.station) for check in checks} for checks in (unsafe, at_first))
    lifting = [(one, one.rack_turn.cell.room_id) for one in lists if one.rack_turn]
    for room_id in sorted({room for _, room in lifting}, key=lambda id: (id is not None, id or 0)):
        here = [one for one, room in lifting if room == room_id]
        racks += _racks_of_room(here, rooms, room_id, now, then)
    beside = sorted((one for one in lists if not one.rack_turn), key=lambda one: one.athlete.name)
    racks += [Rack(beside, "Off rack", beside=True)] if beside else []
    return [replace(rack, lists=_joined(rack.lists)) for rack in racks]


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


def unsafe_stations(
    db: Database, rooms: Rooms, room_ids: Iterable[int | None], until: dt.datetime | None = None
) -> list[StationCheck]:
    """Stations of these rooms that somebody found unsafe, by their newest check (`until`: of those made by then)."""
    wanted = {room_id or rooms.own_id for room_id in room_ids}
    checks = station_checks(db, [room_id for room_id in wanted if room_id], until)
    return [check for check in checks.values() if not check.ready]
