"""The floor's view of one session: racks, lifters, whose turn it is, what is on the bar."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.changes import PlateChange, arranged, plate_change
from backsquat.core.loads.mass import Mass
from backsquat.core.loads.room import Room
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import LIFTED, UNLOADED
from backsquat.core.progression.decision import Code
from backsquat.core.readiness.verdict import Obstacle, Readiness, Reason, Verdict
from backsquat.core.rules import Rules
from backsquat.core.sessions.turns import Lifter, share_racks, turn_order
from backsquat.core.working import Working
from backsquat.storage.models import Athlete, Cell, DecisionRow, SetEntry, SetUpNote, StationCheck
from backsquat.work.floor.holds import Hold, held_back, missed_here, open_decisions
from backsquat.work.floor.sessions import FloorSession
from backsquat.work.library.movements import library_of
from backsquat.work.plan.cells import cell_load, movement_of, rest_of
from backsquat.work.plan.missed import missed_sessions
from backsquat.work.plan.school_settings import SchoolSetting, athlete_settings
from backsquat.work.readiness.load import readiness_of
from backsquat.work.rooms.rooms import Rooms, station_checks
from backsquat.work.squad.set_ups import set_ups


@dataclass(frozen=True)
class Turn:
    """One lifter of the session with the sets done so far."""

    athlete: Athlete
    cell: Cell
    movement: Movement
    entries: tuple[SetEntry, ...]
    decision: DecisionRow | None
    verdict: Verdict
    set_up: Mapping[str, SetUpNote] = field(default_factory=dict)
    rest_left_s: int = 0
    setting: SchoolSetting | None = None  # the athlete's own, where it is not the slot's
    room: Room | None = None  # where the cell was planned for
    hold: Hold | None = None  # what waits for the coach before the planned number

    @property
    def load(self) -> Load | None:
        """What is on the bar, in the room it was planned for; None where nothing is loaded."""
        return self.hold.load if self.hold and self.hold.load else self.planned

    @property
    def planned(self) -> Load | None:
        """The planned load, whatever holds it back."""
        return cell_load(self.room, self.movement, self.cell) if self.room else None

    @property
    def working(self) -> Working:
        """How the number of the cell came about."""
        return Working.from_plain(self.cell.working)

    @property
    def on_rung(self) -> bool:
        """The work of the athlete's own rung, away from the rack."""
        return self.cell.state in UNLOADED

    @property
    def finished(self) -> bool:
        """All sets are logged, or the exposure was judged."""
        return len(self.entries) >= self.cell.sets or self.decision is not None

    @property
    def stopped(self) -> bool:
        """Something they did here stopped them, or a stop stands since."""
        return self.verdict.has(Reason.STOPPED) or (self.decision is not None and self.decision.code is Code.STOP)

    @property
    def last_set(self) -> SetEntry | None:
        """The set logged last."""
        return max(self.entries, key=lambda entry: entry.id, default=None)


class NoWork(StrEnum):
    """Why there is nothing to do although nothing stands in the way."""

    NO_LOAD = "no_load"  # the cell holds none; its state says why
    ELSEWHERE = "elsewhere"  # the number was made for another room than the athlete is in that day


@dataclass(frozen=True)
class KeptOff:
    """Somebody who does not lift here today, and why."""

    athlete: Athlete
    cell: Cell
    obstacle: Obstacle | None = None
    why: NoWork | None = None
    room_name: str = ""  # where they train instead


@dataclass(frozen=True)
class Rack:
    """Those who share a rack, or work beside the racks; `station` is its name in its room."""

    turns: list[Turn]
    station: str
    room_id: int | None = None
    room_name: str = ""  # where it is not the squad's own
    beside: bool = False  # no rack: rung work, held weights, machines

    @property
    def sets(self) -> list[tuple[Turn, SetEntry]]:
        """What was done here today, each set with its lifter."""
        return [(turn, entry) for turn in self.turns for entry in turn.entries]

    @property
    def label(self) -> str:
        """The station, with its room where that is not the squad's own."""
        return f"{self.room_name}, {self.station.lower()}" if self.room_name else self.station

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
    rack: int
    kept_off: list[KeptOff]
    up: Turn | None  # who is shown
    queue: list[Turn]  # who lifts next, in order
    unsafe: list[StationCheck]  # stations somebody marked unsafe

    @property
    def next_up(self) -> Turn | None:
        """Who lifts after the one who is shown."""
        shown = self.up.athlete.id if self.up else None
        return next((turn for turn in self.queue if turn.athlete.id != shown), None)

    @property
    def here(self) -> Rack | None:
        """The rack that is shown."""
        return self.racks[self.rack] if self.racks else None

    def change(self, turn: Turn) -> PlateChange | None:
        """Plates to move from the bar as shown to this lifter's, if both use the same bar."""
        here, there = self.bar, turn.load
        if here is None or there is None or here.rig != there.rig or turn.room is None:
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
    def all_done(self) -> bool:
        """Everybody who lifts here has finished."""
        return bool(self.racks) and not any(not turn.finished for rack in self.racks for turn in rack.turns)


def floor_of(
    session: Session,
    sessions: list[FloorSession],
    chosen: FloorSession,
    rooms: Rooms,
    rules: Rules,
    *,
    now: dt.datetime,
    rack: int | None,
    athlete_id: int | None,
) -> Floor:
    """The chosen session with the rack asked for, the athlete's, or the first with somebody still to lift."""
    turns, kept_off = _Roll(session, chosen, rooms, now.date(), rules).turns()
    if chosen.day == now.date():
        turns = [replace(t, rest_left_s=_rest_left_s(t, rest_of(t.cell, chosen.slot), now)) for t in turns]
    unsafe = unsafe_stations(session, rooms, {turn.cell.room_id for turn in turns} | {None})
    racks = _racks(turns, rooms, unsafe)
    at = _shown_rack(racks, rack, athlete_id)
    by_id = {turn.athlete.id: turn for turn in turns}
    group = racks[at].turns if racks else []
    waiting = turn_order([_lifter(turn) for turn in group if not turn.finished])
    queue = [by_id[lifter.athlete_id] for lifter in waiting]
    asked = next((turn for turn in group if turn.athlete.id == athlete_id), None)
    return Floor(chosen, sessions, racks, at, kept_off, asked or (queue[0] if queue else None), queue, unsafe)


def _shown_rack(racks: Sequence[Rack], rack: int | None, athlete_id: int | None) -> int:
    if rack is None and athlete_id is not None:
        holds = (n for n, r in enumerate(racks) if any(t.athlete.id == athlete_id for t in r.turns))
        rack = next(holds, None)
    if rack is None:
        waits = (n for n, r in enumerate(racks) if any(not turn.finished for turn in r.turns))
        rack = next(waits, 0)
    return min(max(rack, 0), max(len(racks) - 1, 0))


def _racks(turns: Sequence[Turn], rooms: Rooms, unsafe: Sequence[StationCheck]) -> list[Rack]:
    """Who shares which rack, the squad's own room first; then those beside the racks."""
    racks: list[Rack] = []
    wrong = {(check.room_id, check.station) for check in unsafe}
    lifting = [turn for turn in turns if not turn.on_rung]
    for room_id in sorted({turn.cell.room_id for turn in lifting}, key=lambda id: (id is not None, id or 0)):
        here = [turn for turn in lifting if turn.cell.room_id == room_id]
        racks += _racks_of_room(here, rooms, room_id, wrong)
    beside = [turn for turn in turns if turn.on_rung]
    return [*racks, Rack(beside, "Off rack", beside=True)] if beside else racks


def _racks_of_room(turns: Sequence[Turn], rooms: Rooms, room_id: int | None, wrong: set[tuple[int, str]]) -> list[Rack]:
    room, key = rooms.room(room_id), room_id or rooms.own_id
    by_id = {turn.athlete.id: turn for turn in turns}
    stations = [f"Rack {n}" for n in range(1, room.racks + 1)]
    names = [name for name in stations if (key, name) not in wrong]
    groups = share_racks([_lifter(turn) for turn in turns], max(len(names), 1))
    return [
        Rack([by_id[lifter.athlete_id] for lifter in group], name, room_id, room.name if room_id else "")
        for group, name in zip(groups, names or ["No rack is ready"], strict=False)
    ]


def unsafe_stations(session: Session, rooms: Rooms, room_ids: Iterable[int | None]) -> list[StationCheck]:
    """Stations of these rooms that somebody found unsafe, by their newest check."""
    wanted = {room_id or rooms.own_id for room_id in room_ids}
    checks = station_checks(session, [room_id for room_id in wanted if room_id])
    return [check for check in checks.values() if not check.ready]


def _rest_left_s(turn: Turn, rest_s: int, now: dt.datetime) -> int:
    """Seconds until the lifter has rested; nought before the first set and after the last."""
    if turn.last_set is None or turn.finished:
        return 0
    return max(0, rest_s - int((now - turn.last_set.at).total_seconds()))


def _lifter(turn: Turn) -> Lifter:
    return Lifter(
        turn.athlete.id, turn.load.kg if turn.load else turn.cell.load_kg or 0.0, len(turn.entries), turn.cell.sets
    )


class _Roll:
    """Who lifts in a session, and who is kept from it. Only live cells count here."""

    def __init__(self, session: Session, chosen: FloorSession, rooms: Rooms, today: dt.date, rules: Rules) -> None:
        self.chosen, self.rooms, self.today = chosen, rooms, today
        squad_id, slot = chosen.block.squad_id, chosen.slot
        found = session.execute(
            select(Cell, Athlete)
            .join(Athlete, Cell.athlete_id == Athlete.id)
            .where(Cell.slot_id == slot.id, Cell.week == chosen.week, Cell.live, Athlete.active)
            .order_by(Athlete.name)
        )
        self.rows = [(cell, athlete) for cell, athlete in found]
        athletes = [athlete for _, athlete in self.rows]
        self.entries, self.decisions = _logged(session, [cell.id for cell, _ in self.rows])
        self.ready: Mapping[int, Readiness] = readiness_of(session, squad_id, athletes, today, rules)
        self.library = library_of(session, squad_id)
        self.settings = athlete_settings(session, [slot.id])
        self.set_ups = set_ups(session, [athlete.id for athlete in athletes])
        self.open, self.rules = open_decisions(session, chosen), rules
        self.missed = missed_here(missed_sessions(session, squad_id, self.ready, today, rules), chosen)

    def turns(self) -> tuple[list[Turn], list[KeptOff]]:
        """Turns and those kept off; a stop in the middle of a session leaves the turn to be seen."""
        turns, kept_off = [], []
        for cell, athlete in self.rows:
            turn = self._turn(cell, athlete)
            off = self._kept_off(turn)
            past = bool(turn.entries) and self.chosen.day < self.today
            if off and not past:
                kept_off.append(off)
                stopped = off.obstacle is not None and off.obstacle.stop is not None
                if not (stopped and turn.entries):
                    continue
            turns.append(turn)
        return turns, kept_off

    def _turn(self, cell: Cell, athlete: Athlete) -> Turn:
        movement = movement_of(self.library, self.chosen.slot, cell)
        turn = Turn(
            athlete,
            cell,
            movement,
            tuple(self.entries.get(cell.id, ())),
            self.decisions.get(cell.id),
            self.ready[athlete.id].judge(movement, self.chosen.day, cell.load_kg),
            self.set_ups.get((athlete.id, movement.code), {}),
            setting=self.settings.get((self.chosen.slot.id, athlete.id)),
            room=self.rooms.of_cell(cell),
        )
        if turn.entries:  # begun: what is on the bar stays there
            return turn
        waiting, missed = self.open.get(athlete.id), self.missed.get(athlete.id)
        return replace(turn, hold=held_back(cell, turn.planned, waiting, missed, self.rooms, self.rules))

    def _kept_off(self, turn: Turn) -> KeptOff | None:
        """Why somebody does not do what the cell asks for today; None: they do."""
        now = self.ready[turn.athlete.id].judge(turn.movement, self.today, turn.cell.load_kg)
        if self.chosen.slot.ladder and not turn.cell.movement:  # nobody is asked to do a ladder's last rung
            now = now.but(Reason.GATED, Reason.UNEARNED)
        if now.first:
            return KeptOff(turn.athlete, turn.cell, obstacle=now.first)
        if turn.cell.state not in LIFTED:
            return KeptOff(turn.athlete, turn.cell, why=NoWork.NO_LOAD)
        where = self.rooms.id_on(turn.athlete.id, self.chosen.day)
        if not turn.entries and turn.cell.room_id != where:
            name = self.rooms.room(where).name
            return KeptOff(turn.athlete, turn.cell, why=NoWork.ELSEWHERE, room_name=name)
        return None


def _logged(session: Session, cell_ids: Sequence[int]) -> tuple[dict[int, list[SetEntry]], dict[int, DecisionRow]]:
    """The standing sets of cells in order, and the newest decision of each."""
    entries: dict[int, list[SetEntry]] = defaultdict(list)
    standing = select(SetEntry).where(SetEntry.cell_id.in_(cell_ids), SetEntry.standing)
    for entry in session.scalars(standing.order_by(SetEntry.set_number, SetEntry.id)):
        entries[entry.cell_id or 0].append(entry)
    rows = select(DecisionRow).where(DecisionRow.cell_id.in_(cell_ids)).order_by(DecisionRow.id)
    return entries, {row.cell_id: row for row in session.scalars(rows)}
