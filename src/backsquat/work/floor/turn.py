"""One athlete at one piece of work of a session: what is asked, what is done of it, what stands in the way."""

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.room import Room
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import UNLOADED
from backsquat.core.progression.decision import Code
from backsquat.core.readiness.verdict import Obstacle, Reason, Verdict
from backsquat.core.sessions.session import Item
from backsquat.core.strength.record import is_whole, sets_taken
from backsquat.storage.models import Athlete, Cell, DecisionRow, Exercise, SessionAct, SetEntry, SetUpNote
from backsquat.work.floor.holds import Hold
from backsquat.work.plan.cells import cell_load
from backsquat.work.plan.progression_settings import ProgressionSetting


@dataclass(frozen=True)
class Turn:
    """One lifter at one exercise of the session, with the sets done so far."""

    athlete: Athlete
    exercise: Exercise
    cell: Cell
    movement: Movement
    item: Item
    entries: tuple[SetEntry, ...]
    decision: DecisionRow | None
    verdict: Verdict
    set_up: Mapping[str, SetUpNote] = field(default_factory=dict)
    setting: ProgressionSetting | None = None  # the athlete's own, where it is not the exercise's
    room: Room | None = None  # where the cell was planned for
    hold: Hold | None = None  # what waits for the coach before the planned number
    acts: tuple[SessionAct, ...] = ()  # what else was done of it: ramp sets ticked, skipped

    @property
    def load(self) -> Load | None:
        """What is on the bar, in the room it was planned for; None where nothing is loaded."""
        return self.hold.load if self.hold and self.hold.load else self.planned

    @cached_property
    def planned(self) -> Load | None:
        """The planned load, whatever holds it back."""
        return cell_load(self.room, self.movement, self.cell) if self.room else None

    @property
    def on_level(self) -> bool:
        """Work without a worked-out load: an own level, bells and machines whose load the first set finds."""
        return self.cell.state in UNLOADED

    @cached_property
    def sets_done(self) -> int:
        """Planned sets that are done: a left and a right half are one."""
        taken = sets_taken((entry.set_number, entry.side) for entry in self.entries)
        return sum(is_whole(done) for done in taken.values())

    @property
    def half_done(self) -> str:
        """The side of a set begun that is still to do: left or right; empty where none is."""
        taken = sets_taken((entry.set_number, entry.side) for entry in self.entries)
        half = next((done for done in taken.values() if not is_whole(done)), None)
        return "" if half is None else "right" if "left" in half else "left"

    @property
    def skipped(self) -> SessionAct | None:
        """That it was left out, with the reason."""
        return next((act for act in self.acts if act.what == "skipped"), None)

    @property
    def finished(self) -> bool:
        """All sets are logged, or the exposure was judged, or it was left out, or a stop stands: nothing more is offered."""
        over = self.decision is not None or self.skipped is not None or self.stopped
        return over or self.sets_done >= self.cell.sets

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
    OWN_DAY = "own_day"  # they do it on a day of their own
    ELSEWHERE = "elsewhere"  # the number was made for another room than the athlete is in that day


@dataclass(frozen=True)
class KeptOff:
    """A piece of work somebody does not do here today, and why."""

    athlete: Athlete
    exercise: Exercise
    cell: Cell
    obstacle: Obstacle | None = None
    why: NoWork | None = None
    room_name: str = ""  # where they train instead
    day: dt.date | None = None  # on which they do it instead
