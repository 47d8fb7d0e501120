"""The floor's view of one session: a running list for every athlete, racks, who is up with what and who is next."""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from sqlalchemy.orm import Session as Database

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.changes import PlateChange, arranged, plate_change
from backsquat.core.loads.mass import Mass
from backsquat.core.rules import Rules
from backsquat.core.sessions.running import ActKind, Done, running
from backsquat.core.sessions.session import Session
from backsquat.core.sessions.turns import turn_order
from backsquat.storage.cache import cached_each
from backsquat.storage.models import SessionAct, StationCheck
from backsquat.work.floor.racks import Rack, RunningList, racks_of
from backsquat.work.floor.roll import Roll
from backsquat.work.floor.sessions import FloorSession
from backsquat.work.floor.turn import KeptOff, Turn
from backsquat.work.rooms.rooms import Rooms
from backsquat.work.sessions.acts import shelf
from backsquat.work.squad.athletes import squad_athletes


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
    racks, unsafe = racks_of(db, lists, rooms)
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
