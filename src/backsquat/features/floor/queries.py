"""The floor's view of one session: racks, lifters, whose turn it is, what is on the bar."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.changes import PlateChange, plate_change
from backsquat.core.loads.room import Room
from backsquat.core.loads.rounding import Rounding, round_load
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.effort import EffortSchool, moved_share, moved_words
from backsquat.core.progression.prescription import Kind
from backsquat.core.progression.row import LIFTED, UNLOADED, State
from backsquat.core.rules import Rules
from backsquat.core.sessions.turns import Lifter, share_racks, turn_order
from backsquat.features.athletes.readiness import Readiness, readiness_of
from backsquat.features.athletes.set_up import set_ups
from backsquat.features.blocks.courses import Course, course_of, own_courses
from backsquat.features.blocks.drawing import cell_load
from backsquat.features.blocks.planning import movement_of, rest_of, session_day
from backsquat.features.movements.queries import library_of
from backsquat.features.room.operations import station_checks
from backsquat.features.room.rooms import Rooms
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import (
    Athlete,
    Block,
    BlockSlot,
    Cell,
    DecisionRow,
    PlanVersion,
    SetEntry,
    SetUpNote,
    StationCheck,
)


@dataclass(frozen=True)
class FloorSession:
    """One lift on one day of a published block."""

    block: Block
    slot: BlockSlot
    week: int
    day: dt.date


def sessions_in_week(session: Session, squad_id: int, week: dt.date) -> list[FloorSession]:
    """The week's sessions of published blocks, by day."""
    blocks = session.scalars(
        select(Block).where(
            Block.squad_id == squad_id,
            Block.first_week <= week,
            select(PlanVersion.id).where(PlanVersion.block_id == Block.id).exists(),
        )
    )
    found = []
    for block in blocks:
        index = (week - block.first_week).days // 7
        if index < block.weeks:
            found += [
                FloorSession(block, slot, index, session_day(block, slot, index)) for slot in block.slots
            ]
    return sorted(found, key=lambda item: (item.day, item.slot.place))


@dataclass(frozen=True)
class Turn:
    """One lifter of the session with the sets done so far."""

    athlete: Athlete
    cell: Cell
    movement: Movement
    entries: tuple[SetEntry, ...]
    decision: DecisionRow | None
    notes: tuple[str, ...] = ()  # limits of range or side, an eased week
    set_up: Mapping[str, SetUpNote] = field(default_factory=dict)
    rest_left_s: int = 0
    most_kg: float | None = None  # the most a limit allows on the day
    course: Course | None = None  # the athlete's own, where it is not the slot's
    room: Room | None = None  # where the cell was planned for

    @property
    def load(self) -> Load | None:
        """What is on the bar, in the room it was planned for; None where nothing is loaded."""
        return cell_load(self.room, self.movement, self.cell) if self.room else None

    @property
    def on_rung(self) -> bool:
        """The work of the athlete's own rung, away from the rack."""
        return self.cell.state in UNLOADED

    @property
    def finished(self) -> bool:
        return len(self.entries) >= self.cell.sets or self.decision is not None

    @property
    def last_set(self) -> SetEntry | None:
        return max(self.entries, key=lambda entry: entry.id, default=None)


@dataclass(frozen=True)
class Kept:
    """Somebody who does not lift here today, with the words why."""

    athlete: Athlete
    why: str


@dataclass(frozen=True)
class Rack:
    """Those who share a rack, or work beside the racks; `station` is its name in its room."""

    turns: list[Turn]
    station: str
    room_id: int | None = None
    room_name: str = ""  # where it is not the squad's own
    beside: bool = False  # no rack: rung work, held weights, machines

    @property
    def label(self) -> str:
        return f"{self.room_name}, {self.station.lower()}" if self.room_name else self.station

    @property
    def short(self) -> str:
        return self.label if self.beside or self.room_name else self.station.removeprefix("Rack ")


@dataclass(frozen=True)
class Floor:
    chosen: FloorSession
    sessions: list[FloorSession]
    racks: list[Rack]
    rack: int
    kept: list[Kept]
    up: Turn | None  # who is shown
    queue: list[Turn]  # who lifts next, in order
    unsafe: list[StationCheck]  # stations somebody marked unsafe

    @property
    def next_up(self) -> Turn | None:
        return next(
            (turn for turn in self.queue if self.up is None or turn.athlete.id != self.up.athlete.id), None
        )

    @property
    def here(self) -> Rack | None:
        """The rack that is shown."""
        return self.racks[self.rack] if self.racks else None

    def change(self, turn: Turn) -> PlateChange | None:
        """Plates to move from the bar as shown to this lifter's, if both use the same bar."""
        here, there = self.up.load if self.up else None, turn.load
        if here is None or there is None or here.rig != there.rig:
            return None
        return plate_change(here.side, there.side)

    @property
    def all_done(self) -> bool:
        return bool(self.racks) and not any(not turn.finished for rack in self.racks for turn in rack.turns)


def choose_session(sessions: Sequence[FloorSession], wanted: str, today: dt.date) -> FloorSession | None:
    """The session asked for, or today's, or the next of the week, or its last."""
    if not sessions:
        return None
    asked = next((item for item in sessions if str(item.slot.id) == wanted), None)
    return asked or next((item for item in sessions if item.day >= today), sessions[-1])


def floor_of(
    session: Session, sessions: list[FloorSession], chosen: FloorSession, rooms: Rooms, rules: Rules,
    *, now: dt.datetime,
    rack: int | None, athlete_id: int | None,
) -> Floor:  # fmt: skip
    turns, kept = _turns(session, chosen, rooms, now.date(), rules)
    if chosen.day == now.date():
        rests = {t.athlete.id: rest_of(t.cell, chosen.slot) for t in turns}
        turns = [replace(t, rest_left_s=_rest_left_s(t, rests[t.athlete.id], now)) for t in turns]
    unsafe = unsafe_stations(session, rooms, {turn.cell.room_id for turn in turns} | {None})
    racks = _racks(turns, rooms, unsafe)
    if rack is None and athlete_id is not None:
        rack = next(
            (n for n, r in enumerate(racks) if any(t.athlete.id == athlete_id for t in r.turns)), None
        )
    if rack is None:  # the first rack with somebody still to lift
        rack = next((n for n, r in enumerate(racks) if any(not turn.finished for turn in r.turns)), 0)
    rack = min(max(rack, 0), max(len(racks) - 1, 0))
    by_id = {turn.athlete.id: turn for turn in turns}
    group = racks[rack].turns if racks else []
    waiting = [_lifter(turn) for turn in group if not turn.finished]
    queue = [by_id[lifter.athlete_id] for lifter in turn_order(waiting)]
    up = next((turn for turn in group if turn.athlete.id == athlete_id), None) or (
        queue[0] if queue else None
    )
    return Floor(chosen, sessions, racks, rack, kept, up, queue, unsafe)


def _racks(turns: Sequence[Turn], rooms: Rooms, unsafe: Sequence[StationCheck]) -> list[Rack]:
    """Who shares which rack, the squad's own room first; then those beside the racks."""
    by_id, racks = {turn.athlete.id: turn for turn in turns}, []
    wrong = {(check.room_id, check.station) for check in unsafe}
    lifting = [turn for turn in turns if not turn.on_rung]
    for room_id in sorted({turn.cell.room_id for turn in lifting}, key=lambda id: (id is not None, id or 0)):
        room, key = rooms.room(room_id), room_id or rooms.own_id
        names = [f"Rack {n}" for n in range(1, room.racks + 1) if (key, f"Rack {n}") not in wrong]
        here = [_lifter(turn) for turn in lifting if turn.cell.room_id == room_id]
        groups = share_racks(here, max(len(names), 1))
        for group, name in zip(groups, names or ["No rack is ready"], strict=False):
            members = [by_id[lifter.athlete_id] for lifter in group]
            racks.append(Rack(members, name, room_id, room.name if room_id else ""))
    beside = [turn for turn in turns if turn.on_rung]
    return [*racks, Rack(beside, "Off rack", beside=True)] if beside else racks


def unsafe_stations(session: Session, rooms: Rooms, room_ids: Iterable[int | None]) -> list[StationCheck]:
    wanted = {room_id or rooms.own_id for room_id in room_ids}
    checks = station_checks(session, [room_id for room_id in wanted if room_id])
    return [check for check in checks.values() if not check.ready]


def _rest_left_s(turn: Turn, rest_s: int, now: dt.datetime) -> int:
    """Seconds until the lifter has rested; nought before the first set and after the last."""
    if turn.last_set is None or turn.finished:
        return 0
    return max(0, rest_s - int((now - turn.last_set.at).total_seconds()))


def _lifter(turn: Turn) -> Lifter:
    return Lifter(turn.athlete.id, turn.cell.load_kg or 0.0, len(turn.entries), turn.cell.sets)


def _turns(
    session: Session, chosen: FloorSession, rooms: Rooms, today: dt.date, rules: Rules
) -> tuple[list[Turn], list[Kept]]:
    """Who lifts in this session, and who is kept from it. Only live cells count here."""
    rows = session.execute(
        select(Cell, Athlete)
        .join(Athlete, Cell.athlete_id == Athlete.id)
        .where(Cell.slot_id == chosen.slot.id, Cell.week == chosen.week, Cell.live, Athlete.active)
        .order_by(Athlete.name)
    ).all()
    cell_ids = [cell.id for cell, _ in rows]
    entries: dict[int, list[SetEntry]] = defaultdict(list)
    for entry in session.scalars(
        select(SetEntry)
        .where(SetEntry.cell_id.in_(cell_ids), ~SetEntry.replaced, ~SetEntry.withdrawn)
        .order_by(SetEntry.set_number, SetEntry.id)
    ):
        entries[entry.cell_id or 0].append(entry)
    decisions = {
        row.cell_id: row
        for row in session.scalars(
            select(DecisionRow).where(DecisionRow.cell_id.in_(cell_ids)).order_by(DecisionRow.id)
        )
    }
    ready = readiness_of(session, chosen.block.squad_id, [athlete for _, athlete in rows], today, rules)
    library = library_of(session, chosen.block.squad_id)
    courses = own_courses(session, [chosen.slot.id])
    known = set_ups(session, [athlete.id for _, athlete in rows])
    turns, kept = [], []
    for cell, athlete in rows:
        done, decision, mine = tuple(entries[cell.id]), decisions.get(cell.id), ready[athlete.id]
        movement = movement_of(library, chosen.slot, cell)
        why = why_kept(mine, movement, cell) or ("" if done else _elsewhere(rooms, cell, chosen.day))
        if why and not (done and chosen.day < today):
            kept.append(Kept(athlete, why))
            if not (mine.stop_on(movement) and done):
                continue
        noted = known.get((athlete.id, movement.code), {})
        turns.append(
            Turn(
                athlete,
                cell,
                movement,
                done,
                decision,
                _notes(mine, movement, chosen.day),
                noted,
                most_kg=mine.bounds(movement, chosen.day).most_kg,
                course=courses.get((chosen.slot.id, athlete.id)),
                room=rooms.of_cell(cell),
            )
        )
    return turns, kept


def _elsewhere(rooms: Rooms, cell: Cell, day: dt.date) -> str:
    """The words where the floor's number was made for another room than the one the athlete is in that day."""
    where = rooms.id_on(cell.athlete_id, day)
    if cell.room_id == where:
        return ""
    return f"trains in {rooms.room(where).name}: publish the plan that follows"


WHY_NO_LOAD = {
    State.UNDER_BAR.value: "target is under the empty bar", State.NEEDS_TEST.value: "needs a test",
    State.GATED.value: "through the gate since, plan anew", State.LOCKED.value: "limit lifted since, plan anew",
    State.NO_RUNG.value: "not placed on this ladder yet", State.NO_ROOM.value: "this room cannot rig it",
}  # fmt: skip


def why_kept(ready: Readiness, movement: Movement, cell: Cell) -> str:
    """Why somebody does not do what the cell asks for today; empty: they do."""
    stop, bounds = ready.stop_on(movement), ready.bounds(movement)
    if stop:
        return f"stopped: pain, {stop.place}"
    if ready.absent:
        return f"away since {ready.absent.first_on.day} {ready.absent.first_on:%b}"
    if bounds.barred_by:
        return f"limit, {bounds.barred_by.set_by}"
    if ready.gate(movement):
        return f"not through the {' and '.join(gate.value for gate in movement.gates)} gate"
    if cell.state not in LIFTED:
        return WHY_NO_LOAD.get(cell.state, cell.state)
    if bounds.most_kg is not None and (cell.load_kg or 0) > bounds.most_kg + 1e-9:
        return f"limit: at most {bounds.most_kg:g} kg, plan anew"
    return ""


def _notes(ready: Readiness, movement: Movement, day: dt.date) -> tuple[str, ...]:
    notes = [f"{limit.words} ({limit.set_by})" for limit in ready.bounds(movement, day).notes]
    bounds, ease = ready.bounds(movement, day), ready.eased(movement, day)
    if bounds.most_kg is not None and bounds.most_by:
        notes.append(f"at most {bounds.most_kg:g} kg ({bounds.most_by.set_by})")
    if ease:
        notes.append(f"eased return: load × {ease.load_share:.2f}, sets × {ease.sets_share:g}")
    return tuple(notes)


@dataclass(frozen=True)
class Steered:
    """The load of the later sets after the first one said how the day is."""

    load: Load
    words: str


def steered_load(floor: Floor, turn: Turn) -> Steered | None:
    """For the effort-steered school, once the first set is logged; never over a limit of the athlete."""
    cell, course = turn.cell, turn.course or course_of(floor.chosen.slot)
    if (
        course.code != EffortSchool.code
        or not turn.entries
        or cell.load_kg is None
        or cell.kind != Kind.WORK.value
    ):
        return None
    planned = turn.load
    first = record_from_row(turn.entries[0])
    parameters = course.parameters
    left = first.reserve_reps
    if planned is None or turn.room is None or left is None or abs(first.load_kg - cell.load_kg) > 0.01:
        return None
    margin = left + first.reps_to_depth - cell.reps - cell.reserve_reps
    if not margin:
        return None
    wanted = cell.load_kg * moved_share(margin, parameters)
    if turn.most_kg is not None:
        wanted = min(wanted, turn.most_kg)
    rounding = Rounding.DOWN if turn.most_kg is not None else Rounding.NEAREST
    rounded = round_load(wanted, turn.room, planned.rig, rounding)
    if rounded is None or rounded.load == planned:
        return None
    return Steered(rounded.load, moved_words(margin, parameters))


def last_load(session: Session, athlete_id: int, movement: str) -> SetEntry | None:
    """The newest standing set of a movement: what a rung's work starts from."""
    return session.scalars(
        select(SetEntry)
        .where(
            SetEntry.athlete_id == athlete_id, SetEntry.movement == movement, ~SetEntry.replaced,
            ~SetEntry.withdrawn,
        )
        .order_by(SetEntry.done_on.desc(), SetEntry.id.desc())
        .limit(1)
    ).first()  # fmt: skip


def last_fault(session: Session, athlete_id: int, movement: str, before: dt.date) -> str:
    """The newest form fault noted for this lift before the day: its code, or empty."""
    found = session.execute(
        select(SetEntry.fault)
        .where(
            SetEntry.athlete_id == athlete_id, SetEntry.movement == movement, SetEntry.done_on < before,
            SetEntry.fault != "", ~SetEntry.replaced, ~SetEntry.withdrawn,
        )
        .order_by(SetEntry.done_on.desc(), SetEntry.id.desc())
        .limit(1)
    ).scalar()  # fmt: skip
    return found or ""
