"""Sets of planned cells: logged, corrected, taken back; the exposure judged when its sets are done."""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere, Problem, Refused
from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.mass import exact_mass
from backsquat.core.loads.rigs import rigs_for
from backsquat.core.progression.cell import LIFTED, State
from backsquat.core.progression.speed import SpeedProgression
from backsquat.core.strength.record import Effort, is_whole, sets_taken
from backsquat.storage.models import Block, Cell, DecisionRow, Exercise, SetEntry, Stop, User
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.decisions.propose import propose, settle
from backsquat.work.log.sets import sets_of, stored_before
from backsquat.work.plan.cells import movement_of, rest_of
from backsquat.work.plan.progression_settings import athlete_settings, setting_of
from backsquat.work.policy import Act, only_own, require
from backsquat.work.record.record import (
    Flag,
    Occasion,
    SetFacts,
    StoredSet,
    ask,
    facts_of,
    lifter,
    mark_report,
    may_correct,
    store_set,
    take_entry_back,
)
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.sessions.arrange import manner_on_floor
from backsquat.work.sessions.blocks import cell_of, own_day
from backsquat.work.squad.athletes import athlete_of

CLOSE_KG = 0.01


@dataclass(frozen=True)
class Logged:
    """What logging led to: the entry, and a stop or a proposal where it made one."""

    entry: SetEntry
    stop: Stop | None
    decision: DecisionRow | None


def log_set(context: WorkContext, cell_id: int, facts: SetFacts) -> Logged:
    """Log the next set of a cell. The same client id twice keeps one set.

    A set for a number that was replaced meanwhile is kept with what is live there now, and says so.
    Only a session that has not come yet takes none.
    """
    return log_sets(context, cell_id, [facts])


def log_sets(context: WorkContext, cell_id: int, sets: Sequence[SetFacts]) -> Logged:
    """The same for several sets in the order they were lifted; says what the last one led to."""
    require(context.actor, Act.LOG_OWN)
    cell, exercise, block = cell_of(context.db, context.squad_id, cell_id)
    _only_own(context.actor, cell, exercise)
    day = own_day(context.db, exercise, cell.week, cell.athlete_id)
    flags = [] if cell.live else [Flag.REPLANNED]
    if day > context.today:
        if any(facts.confirmed is not None for facts in sets):  # somebody is there to be told
            raise Refused("not_yet", date=day.isoformat())
        flags.append(Flag.MOVED)  # it was done all the same, before its session was moved
    cell = cell if cell.live else _live(context.db, cell)
    if not sets:
        raise Refused("no_sets")
    lifted = [replace(facts, done_on=_done_on(facts, day, context.today)) for facts in sets]
    exposure = _Exposure(context, (cell, exercise, block), lifted)
    return [exposure.keep(facts, flags) for facts in lifted][-1]


def _done_on(facts: SetFacts, day: dt.date, today: dt.date) -> dt.date:
    """The day of the session; where that is still to come, the day it was really lifted."""
    if day <= today:
        return day
    return min(facts.happened_at.date(), today) if facts.happened_at else today


def _only_own(actor: Actor, cell: Cell, exercise: Exercise) -> None:
    """An athlete logs for nobody else, and with a session's code only in that session."""
    place = None
    if actor.only_session is not None:
        held = next((place.session_id for place in exercise.on_floor if place.week == cell.week), 0)
        place = held, cell.week
    only_own(actor, cell.athlete_id, place)


def _live(db: Session, cell: Cell) -> Cell:
    """What the floor uses now for the same exercise, athlete and week; the cell itself where there is nothing."""
    same = (Cell.exercise_id == cell.exercise_id, Cell.athlete_id == cell.athlete_id, Cell.week == cell.week)
    return db.scalars(select(Cell).where(*same, Cell.live)).first() or cell


class _Exposure:
    """What is done of one cell: keeps its sets, and has it judged when it stopped or is complete."""

    def __init__(self, context: WorkContext, where: tuple[Cell, Exercise, Block], sets: Sequence[SetFacts]) -> None:
        self.context, self.db = context, context.db
        self.cell, self.exercise, self.block = where
        movement = movement_of(context.library, self.exercise, self.cell)
        athlete = athlete_of(self.db, context.squad_id, self.cell.athlete_id)
        self.entries = sets_of(self.db, self.cell.id)
        self.taken = sets_taken((entry.set_number, entry.side) for entry in self.entries)
        own = athlete_settings(self.db, [self.exercise.id]).get((self.exercise.id, self.cell.athlete_id))
        self.manner = (own or setting_of(self.exercise)).manner(manner_on_floor(self.db, self.exercise, self.cell.week))
        self.who = lifter(context, athlete, movement, sets)

    def keep(self, facts: SetFacts, flags: Sequence[Flag] = ()) -> Logged:
        """The next set of the cell."""
        found = list(flags)
        if facts.client_id not in self.who.stored:
            ask(facts, list(self._logged_meanwhile(facts)))
            if off := list(self._not_in_stock(facts)):
                ask(facts, off)
                found.append(Flag.NOT_IN_STOCK)
            if facts.confirmed is None and self._somebody_else_since(facts):
                found.append(Flag.ALSO_LOGGED)
        if self.cell.state not in LIFTED:
            found.append(Flag.NOT_ASKED)
        elif self.sets_done >= self.cell.sets:
            found.append(Flag.EXTRA)
        number = self._number(facts)
        occasion = Occasion(
            *(Effort(self.cell.kind.value), self.cell.id, number),
            flags=tuple(found),
            manner=self.manner,
            asked=self._asked(facts),
        )
        return self._judged(self._keep(facts, occasion), False)

    def _asked(self, facts: SetFacts) -> tuple[int, int] | None:
        """What the plan asks of a set at its load or a lighter one; nothing where sets end by speed, not by reps."""
        cell, load_kg = self.cell, exact_mass("load", facts.load, facts.unit).kg
        by_speed = setting_of(self.exercise).code == SpeedProgression.code
        if cell.state is not State.LOAD or cell.load_kg is None or by_speed or load_kg > cell.load_kg + CLOSE_KG:
            return None
        return cell.reps, cell.reserve_reps

    @property
    def sets_done(self) -> int:
        """Planned sets that are done: a left and a right half are one."""
        return sum(is_whole(done) for done in self.taken.values())

    def _number(self, facts: SetFacts) -> int:
        """The first set that lacks this side, or is not begun."""
        side = facts.side if self.who.movement.sides == 2 and facts.left_reps is None else ""
        free = (
            number
            for number in range(1, len(self.taken) + 2)
            if not (done := self.taken.get(number)) or (side and not is_whole(done) and side not in done)
        )
        return next(free)

    def _somebody_else_since(self, facts: SetFacts) -> bool:
        """Whether somebody else has logged here since the one who logs looked; what the device sent itself is no other."""
        if facts.seen is None:
            return False
        since = sorted(self.entries, key=lambda entry: entry.id)[facts.seen :]
        return any(entry.client_id not in facts.own_ids for entry in since)

    def _logged_meanwhile(self, facts: SetFacts) -> Iterable[Problem]:
        """A set another device has logged since this one looked, not longer ago than a rest."""
        if facts.seen is None or len(self.entries) <= facts.seen:
            return
        newest = max(self.entries, key=lambda entry: entry.id)
        ago_s = int((self.context.now - newest.at).total_seconds())
        if ago_s <= rest_of(self.cell, self.exercise):
            who = self.db.get_one(User, newest.by_id).name
            name = self.who.athlete.name
            asked: dict[str, str | float | int] = {"name": name, "number": newest.set_number, "ago_s": ago_s, "by": who}
            yield Problem("again", "logged_meanwhile", asked)

    def _not_in_stock(self, facts: SetFacts) -> Iterable[Problem]:
        """A load the room of the cell does not have."""
        room = rooms_of(self.db, self.context.squad_id).of_cell(self.cell)
        loads = [loads_on(room, rig) for rig in rigs_for(self.who.movement, room)]
        wanted = exact_mass("load", facts.load, facts.unit).grains
        if not loads or not facts.load or any(wanted in one.grains for one in loads):
            return
        unit = facts.unit.value
        yield Problem("load", "not_in_stock", {"load": f"{facts.load.normalize():f}", "unit": unit, "room": room.name})

    def correct(self, facts: SetFacts, entry: SetEntry) -> Logged:
        """What really happened in an entry's stead."""
        about = (entry.effort, self.cell.id, entry.set_number)
        occasion = Occasion(*about, corrects_id=entry.id, manner=self.manner, asked=self._asked(facts))
        return self._judged(self._keep(facts, occasion), True)

    def _keep(self, facts: SetFacts, occasion: Occasion) -> StoredSet:
        stored = store_set(self.context, self.who, facts, occasion)
        if not stored.again:
            done = self.taken.get(occasion.set_number, frozenset())
            self.taken[occasion.set_number] = done | {stored.entry.side}
        return stored

    def _judged(self, stored: StoredSet, corrected: bool) -> Logged:
        """Judge the exposure where it stopped, is complete, or had been judged before a correction."""
        if stored.again:
            return Logged(stored.entry, None, None)
        complete = self.sets_done >= self.cell.sets
        due = stored.stop or complete or (corrected and was_judged(self.db, self.cell.id))
        decision = None
        if self.cell.state in LIFTED and due:
            where = (self.cell, self.exercise, self.block)
            decision = propose(self.context, *where, self.who.ready)
        return Logged(stored.entry, stored.stop, decision)


def was_judged(db: Session, cell_id: int) -> bool:
    """Whether anything was ever decided of a cell."""
    return db.scalars(select(DecisionRow.id).where(DecisionRow.cell_id == cell_id)).first() is not None


def correct_set(context: WorkContext, entry_id: int, facts: SetFacts) -> Logged:
    """Put what really happened in an entry's stead; both stay."""
    require(context.actor, Act.LOG_OWN)
    entry, cell, exercise, block = _standing(context, entry_id, facts.client_id)
    if entry.client_id == facts.client_id:
        return Logged(entry, None, None)
    may_correct(context, entry)
    entry.standing = False
    context.db.flush()
    same = facts.reserve_reps == entry.reserve_reps
    more = facts.reserve_at_least or (same and entry.reserve_at_least)  # "or more" stays where nothing else was said
    facts = replace(facts, done_on=entry.done_on, reserve_at_least=more)
    logged = _Exposure(context, (cell, exercise, block), [facts]).correct(facts, entry)
    mark_report(context, entry, logged.entry, logged.stop)
    return logged


def say_reserve(context: WorkContext, entry_id: int, left: int, client_id: str) -> Logged:
    """What was left in reserve, said after a set was logged; `reserve_or_more` is so many or more.

    Of a set with pain nobody asks.
    """
    entry, *_ = _standing(context, entry_id, client_id)
    if entry.pain or entry.hold_s is not None:
        raise Refused("no_reserve")
    said = replace(
        facts_of(entry), client_id=client_id, reserve_reps=left, reserve_at_least=left >= context.rules.reserve_or_more
    )
    return correct_set(context, entry_id, said)


def withdraw_set(context: WorkContext, entry_id: int) -> SetEntry:
    """Take a set back: an entry that says it never happened. A stop that came from it stays until it is cleared."""
    require(context.actor, Act.LOG_OWN)
    entry, _cell, _exercise, _block = _standing(context, entry_id, "")
    may_correct(context, entry)
    back = take_entry_back(context, entry)
    settle(context.db, entry.athlete_id, entry.movement, entry.done_on)
    return back


def end_exercise(context: WorkContext, cell_id: int) -> DecisionRow:
    """Judge what was done although sets are missing."""
    require(context.actor, Act.LOG_OWN)
    cell, exercise, block = cell_of(context.db, context.squad_id, cell_id)
    _only_own(context.actor, cell, exercise)
    if not sets_of(context.db, cell.id):
        raise Refused("no_sets")
    return propose(context, cell, exercise, block)


def _standing(context: WorkContext, entry_id: int, client_id: str) -> tuple[SetEntry, Cell, Exercise, Block]:
    """The standing entry with its cell; the correction itself where it was sent twice."""
    entry = context.db.get(SetEntry, entry_id)
    if entry is None or entry.cell_id is None:
        raise NotThere("set")
    cell, exercise, block = cell_of(context.db, context.squad_id, entry.cell_id)
    _only_own(context.actor, cell, exercise)
    if entry.standing:
        return entry, cell, exercise, block
    again = stored_before(context.db, [client_id]).get(client_id)
    if again is None or again.corrects_id != entry.id:
        raise Refused("replaced")
    return again, cell, exercise, block
