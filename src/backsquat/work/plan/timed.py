"""A session in time: what its work is in one week, for the squad or for one athlete, with what is to be said of it."""

import datetime as dt
from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from sqlalchemy import select
from sqlalchemy.orm import Session as Database

from backsquat.core.errors import NotThere
from backsquat.core.findings import Finding, Severity
from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.ramp import RampSet, ramp_to
from backsquat.core.loads.room import Room
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import BARS, Movement, Muscle
from backsquat.core.progression.audit import count_week
from backsquat.core.progression.cell import LIFTED, ExerciseRole, State
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.usual_window import usual_window
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.core.sessions.fit import TimeProposal, proposals, what_fits
from backsquat.core.sessions.moves import Move, MoveKind
from backsquat.core.sessions.order import Advice, places, second_of_superset, session_advice
from backsquat.core.sessions.session import Group, Item, Session
from backsquat.core.sessions.timing import Timetable, group_s, timetable
from backsquat.core.sessions.warm_up import Need, WarmUp, own_drills, warm_up
from backsquat.storage.models import Athlete, Block, BlockSession, Cell, Exercise, ExerciseWeek, SessionAct
from backsquat.work.context import library_of
from backsquat.work.library.screens import screens_of
from backsquat.work.plan.cells import UNREAD, cell_load, movement_of
from backsquat.work.plan.progression_settings import ProgressionSetting, athlete_settings, setting_of
from backsquat.work.plan.quicker import quicker
from backsquat.work.plan.week_check import audit_block_week
from backsquat.work.readiness.load import readiness_of
from backsquat.work.rooms.rooms import Rooms, rooms_of
from backsquat.work.sessions.acts import shelf
from backsquat.work.squad.athletes import squad_athletes

OVERHEAD_SCREEN = "overhead_wall"


@dataclass(frozen=True)
class WorkLine:
    """One exercise of the session as it is done: by the squad, or by one athlete with the load."""

    exercise: Exercise
    item: Item
    cells: tuple[Cell, ...]
    load: Load | None = None  # of one athlete
    stands_in: bool = False  # another movement than the exercise's

    @property
    def doing(self) -> list[int]:
        """The athletes who do the exercise's own movement, and nothing in its stead."""
        return [cell.athlete_id for cell in self.cells if not cell.movement]

    @property
    def loads_kg(self) -> tuple[float, float] | None:
        """The lightest and the heaviest load of those who do it."""
        loads = [cell.load_kg for cell in self.cells if cell.load_kg is not None]
        return (min(loads), max(loads)) if loads else None


@dataclass(frozen=True)
class ShelfWork:
    """Work somebody skipped before, what it would take, and whether that still fits into the session."""

    act: SessionAct
    movement: Movement
    length_s: float
    fits: bool


@dataclass(frozen=True)
class TimedSession:
    """A session of one week in time."""

    block: Block
    held: BlockSession
    week: int
    day: dt.date
    athlete: Athlete | None
    lines: tuple[WorkLine, ...]
    session: Session
    warm_up: WarmUp
    rules: Rules
    week_sets: Callable[[], Mapping[Muscle, float]]  # asked for only where something is to be trimmed
    skipped: tuple[SessionAct, ...] = ()  # by the athlete, in earlier sessions
    known: Mapping[str, Movement] = field(default_factory=dict)
    quicker: Callable[[], Mapping[int, Movement]] = dict  # likewise, where it is too long

    @cached_property
    def shelf(self) -> list[ShelfWork]:
        """What the athlete skipped before, the newest first, as far as the minutes allow it."""
        left, found = self.table.cap_s - self.table.length_s, []
        for act in self.skipped:
            movement = self.known.get(str(act.facts.get("movement", "")))
            if movement is None:
                continue
            work = movement.work
            reps, hold_s = (1, work.high) if work.seconds else (work.high, 0)
            item = Item(0, movement, int(act.facts.get("sets", 1)), reps, hold_s, work.rest_s, work.tempo)
            length = group_s(Group((item,)), self.rules)
            found.append(ShelfWork(act, movement, length, length <= left))
            left -= length if length <= left else 0
        return found

    @cached_property
    def table(self) -> Timetable:
        """The session laid out."""
        return timetable(self.session, self.rules)

    @cached_property
    def advice(self) -> list[Advice]:
        """What is to be said of order, supersets, rests and windows; a heavy hinge may go to another day of the week."""
        found = session_advice(self.session, self.rules) + place_advice(
            self.lines, self.rules, self.session.same_muscles
        )
        return [self._to_another_day(advice) for advice in found]

    def _to_another_day(self, advice: Advice) -> Advice:
        others = [held for held in self.block.sessions if held is not self.held]
        if advice.finding.code != "hinge_after_squat" or not others:
            return advice
        there = max(others, key=lambda held: abs(held.weekday - self.held.weekday))
        facts = dict(advice.finding.facts) | {"to": there.weekday}
        finding = replace(advice.finding, facts=facts)
        return Advice(finding, Move(MoveKind.DAY, int(facts["key"]), there.id))

    @cached_property
    def proposals(self) -> list[TimeProposal]:
        """What would bring it into its minutes."""
        return proposals(self.session, self.rules, self.week_sets(), self.quicker()) if self.table.over_s else []

    @cached_property
    def spare_fits(self) -> set[int]:
        """Keys of the spare work that still fits."""
        return {item.key for item in what_fits(self.session, self.rules)}

    def line(self, key: int) -> WorkLine:
        """The line of an exercise."""
        return next(line for line in self.lines if line.exercise.id == key)


def held_session(db: Database, squad_id: int, session_id: int) -> tuple[BlockSession, Block]:
    """A block's session with its block, if of this squad."""
    held = db.get(BlockSession, session_id)
    block = db.get(Block, held.block_id) if held else None
    if held is None or block is None or block.squad_id != squad_id:
        raise NotThere("session")
    return held, block


def exercises_in(block: Block, held: BlockSession, week: int) -> list[Exercise]:
    """The exercises planned in a session in a week, in their order."""
    return [exercise for exercise in block.exercises if exercise.session_in(week) is held]


def over_time(db: Database, block: Block, today: dt.date, rules: Rules) -> list[TimedSession]:
    """The sessions of the block's first week to come that take more minutes than they have, for the squad as planned."""
    found = []
    for held in block.sessions:
        weeks = [w for w in range(block.weeks) if held.day_in(w) >= today and not held.left_out_of(w)]
        if weeks and exercises_in(block, held, weeks[0]):
            one = timed(db, block, held, weeks[0], today, rules)
            found += [one] if one.table.over_s else []
    return found


def timed(
    db: Database,
    block: Block,
    held: BlockSession,
    week: int,
    today: dt.date,
    rules: Rules,
    athlete: Athlete | None = None,
) -> TimedSession:
    """The session as planned in a week: the squad's, or one athlete's with own level and progression."""
    work = _Work(db, block, held, week, rules, athlete)
    athletes = [athlete] if athlete else squad_athletes(db, block.squad_id)
    ready = readiness_of(db, block.squad_id, athletes, today, rules)
    lines = tuple(work.lines())
    warm = _warm_up(db, block.squad_id, ready, [line.item.movement for line in lines], rules)
    laid = Session(
        tuple(line.item for line in lines),
        cap_min=held.minutes,
        warm_up_s=warm.length_s,
        same_muscles=(held.supersets or rules.supersets) == "same",
        hips_first=held.hips_first,
    )
    return TimedSession(
        block,
        held,
        week,
        held.day_in(week),
        athlete,
        lines,
        laid,
        warm,
        rules,
        lambda: _week_sets(db, block, week, rules, athlete),
        tuple(shelf(db, [athlete.id], held.day_in(week), rules).get(athlete.id, ())) if athlete else (),
        library_of(db, block.squad_id).movements,
        lambda: quicker(laid.items, {line.exercise.id: line.doing for line in lines}, ready),
    )


def _week_sets(db: Database, block: Block, week: int, rules: Rules, athlete: Athlete | None) -> Mapping[Muscle, float]:
    """Hard sets a muscle over the week: the athlete's, or those of the athlete in the middle of the squad."""
    weeks = audit_block_week(db, block.squad_id, block, week, rules)
    if athlete:
        mine = next((one.items for one in weeks if one.athlete.id == athlete.id), [])
        return count_week(mine, rules).sets
    counts: dict[Muscle, list[float]] = defaultdict(list)
    for one in weeks:
        for muscle, sets in one.numbers.sets.items():
            counts[muscle].append(sets)
    return {muscle: sorted(found)[len(found) // 2] for muscle, found in counts.items()}


class _Work:
    """The lines of a session in one week."""

    def __init__(
        self, db: Database, block: Block, held: BlockSession, week: int, rules: Rules, athlete: Athlete | None
    ) -> None:
        self.block, self.week, self.athlete, self.rules = block, week, athlete, rules
        self.exercises = exercises_in(block, held, week)
        self.library: Library = library_of(db, block.squad_id)
        self.rooms: Rooms = rooms_of(db, block.squad_id)
        ids = [exercise.id for exercise in self.exercises]
        found = select(Cell).where(Cell.exercise_id.in_(ids), Cell.week == week, Cell.current, Cell.state.in_(LIFTED))
        self.cells: dict[int, list[Cell]] = defaultdict(list)
        for cell in db.scalars(found.order_by(Cell.athlete_id).options(*UNREAD)):
            self.cells[cell.exercise_id].append(cell)
        self.settings = athlete_settings(db, ids) if athlete else {}

    def lines(self) -> list[WorkLine]:
        """A line for every exercise; for one athlete only those they do something in."""
        found = (self._line(exercise) for exercise in self.exercises)
        return [line for line in found if line is not None]

    def _line(self, exercise: Exercise) -> WorkLine | None:
        everybody = self.cells[exercise.id]
        mine = [cell for cell in everybody if self.athlete is None or cell.athlete_id == self.athlete.id]
        if self.athlete and not mine:
            return None
        setting = self.settings.get((exercise.id, self.athlete.id if self.athlete else 0)) or setting_of(exercise)
        cell = self._usual(mine)
        if cell is None:
            ladder = self.library.ladders.get(exercise.ladder)  # nobody is on it yet: it begins with its first level
            movement = self.library.get(ladder.levels[0][0] if ladder else exercise.movement)
            asked = next(p for p in setting.outline(self.block.weeks, movement) if p.week == self.week)
            item = item_of(exercise, exercise, movement, asked, setting)
            return WorkLine(exercise, _own_dose(item) if ladder else item, ())
        movement = movement_of(self.library, exercise, cell)
        load = self._load(cell, movement)
        ramp, sharing = ramp_reps(load, movement, self.rooms.own), self._sharing(everybody, movement)
        item = item_of(exercise, exercise, movement, cell, setting, ramp, sharing)
        stands_in = movement.code != exercise.movement and not exercise.ladder
        return WorkLine(exercise, item, tuple(mine), load if self.athlete else None, stands_in)

    def _usual(self, cells: Sequence[Cell]) -> Cell | None:
        """The cell that stands for all: of the dose most of them have, the one in the middle by load."""
        if not cells:
            return None
        doses = Counter((cell.movement, cell.sets, cell.reps, cell.hold_s) for cell in cells)
        dose = doses.most_common(1)[0][0]
        same = [cell for cell in cells if (cell.movement, cell.sets, cell.reps, cell.hold_s) == dose]
        return sorted(same, key=lambda cell: cell.load_kg or 0)[len(same) // 2]

    def _load(self, cell: Cell, movement: Movement) -> Load | None:
        return cell_load(self.rooms.of_cell(cell), movement, cell)

    def _sharing(self, cells: Sequence[Cell], movement: Movement) -> int:
        """How many share a rack where everybody lifts with a bar."""
        loaded = [cell for cell in cells if cell.state is State.LOAD and cell.room_id is None]
        racks = self.rooms.own.racks
        if movement.implement not in BARS or not racks:
            return 1
        return min(self.rules.rack_most, max(1, -(-len(loaded) // racks)))


def item_of(
    place: Exercise | ExerciseWeek,
    exercise: Exercise,
    movement: Movement,
    asked: Cell | Prescription,
    setting: ProgressionSetting,
    ramp: tuple[int, ...] = (),
    sharing: int = 1,
) -> Item:
    """One piece of work as sessions see it: what a cell asks for, at the place the exercise has (planned or published)."""
    cell = asked if isinstance(asked, Cell) else None
    relative = cell.load_kg / cell.planning_max_kg if cell and cell.load_kg and cell.planning_max_kg else None
    item = Item(
        key=exercise.id,
        movement=movement,
        sets=asked.sets,
        reps=asked.reps,
        hold_s=asked.hold_s,
        end_hold_s=0 if asked.hold_s else setting.parameters.end_hold_s,
        last_to_failure=bool(setting.parameters.last_to_failure) and asked.kind is ExposureKind.WORK,
        rest_s=(cell.rest_s if cell else 0) or setting.parameters.rest_s,
        tempo=str(setting.given.get("tempo") or movement.work.tempo),
        reserve_reps=asked.reserve_reps,
        manner=setting.manner(place.manner),
        superset=place.superset,
        circuit=place.circuit,
        spare=place.spare,
        own_rest_s=place.rest_s,
        main=exercise.role is ExerciseRole.MAIN,
        fast=PROGRESSIONS[exercise.progression].fast,
        relative=relative,
        ramp=ramp,
        sharing=sharing,
    )
    return _own_dose(item) if cell is not None and cell.state is State.LEVEL else item


def _own_dose(item: Item) -> Item:
    """The work of a level: its movement's own dose."""
    work = item.movement.work
    return replace(
        item,
        reps=1 if work.seconds else work.high,
        hold_s=work.high if work.seconds else 0,
        end_hold_s=0,
        last_to_failure=False,
        rest_s=work.rest_s,
    )


def ramp_reps(load: Load | None, movement: Movement, room: Room) -> tuple[int, ...]:
    """Reps of the ramp sets up to a load; none where nothing is ramped."""
    return tuple(one.reps for one in ramp_sets(load, movement, room))


def ramp_sets(load: Load | None, movement: Movement, room: Room) -> tuple[RampSet, ...]:
    """The sets that lead up to a load in its room."""
    return ramp_to(load, loads_on(room, load.rig), from_floor=movement.from_floor) if load else ()


def _warm_up(
    db: Database, squad_id: int, ready: Mapping[int, Readiness], lifts: Sequence[Movement], rules: Rules
) -> WarmUp:
    """The drills of everybody whose screens found something that the day's lifts load."""
    screens = [screen for screen in screens_of(db, squad_id).values() if screen.drills and not screen.retired]
    known = library_of(db, squad_id).movements
    drills = {}
    for athlete_id, one in ready.items():
        if one.absent:
            continue
        needs = [
            Need(screen.name, screen.drills, screen.code == OVERHEAD_SCREEN)
            for screen in screens
            if any(
                (result := one.known.get((screen.code, side))) and screen.passes(result.value) is False
                for side in screen.sides
            )
        ]
        drills[athlete_id] = own_drills(needs, lifts, known, rules)
    return warm_up(drills, rules)


def place_advice(lines: Sequence[WorkLine], rules: Rules, same_muscles: bool) -> list[Advice]:
    """Windows that came from another place than the one the exercise has now, with those usual here."""
    working = [line for line in lines if not line.exercise.spare]
    work = [(line.item.movement, line.exercise.superset) for line in working]
    where = places(work)
    found = []
    for line, place in zip(working, where, strict=True):
        exercise = line.exercise
        if (
            not exercise.parameters.get("placed")
            or not PROGRESSIONS[exercise.progression].windowed
            or exercise.ladder
            or line.stands_in
        ):
            continue
        usual = usual_window(
            line.item.movement, place, exercise.role in (ExerciseRole.MAIN, ExerciseRole.SECOND), rules
        )
        second = same_muscles and second_of_superset(work, working.index(line))
        if second and exercise.parameters.get("start_share", 1.0) > rules.superset_second_share + 1e-9:
            about: dict[str, str | float | int] = {"name": line.item.movement.name, "key": exercise.id}
            about |= {"percent": round(100 * rules.superset_second_share)}
            found.append(Advice(Finding("superset_share", Severity.NOTE, about), Move(MoveKind.WINDOW, exercise.id)))
            continue
        now = exercise.parameters.get("low"), exercise.parameters.get("high")
        if now != (usual.low, usual.high):
            facts: dict[str, str | float | int] = {"name": line.item.movement.name, "key": exercise.id}
            facts |= {"low": usual.low, "high": usual.high, "now_low": now[0] or 0, "now_high": now[1] or 0}
            found.append(Advice(Finding("window_place", Severity.NOTE, facts), Move(MoveKind.WINDOW, exercise.id)))
    return found
