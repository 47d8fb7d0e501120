"""Why planning again moves a number: the first thing that differs between a cell and its draft."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import assert_never

from backsquat.core.progression.cell import StandIn, State
from backsquat.core.readiness.verdict import Obstacle
from backsquat.core.working import Fact
from backsquat.storage.models import Cell, Exercise
from backsquat.work.plan.drafts import Draft


class ChangeReason(StrEnum):
    """What moved a number, the gravest first."""

    NEW = "new"  # nothing stood there
    IN_THE_WAY = "in_the_way"  # the verdict forbids what stands there
    LOAD_KNOWN = "load_known"  # a load can be worked out, where there was work without one
    LOAD_UNKNOWN = "load_unknown"  # it can be no more: the record behind it is gone
    OPEN_NOW = "open_now"  # what stood in the way does so no more
    OWN_WORK = "own_work"  # the coach has given this athlete other work here, or ended it
    STANDS_IN = "stands_in"  # another movement stands in than before
    ROOM = "room"
    NOT_IN_STOCK = "not_in_stock"  # the room has that load no more
    EASED = "eased"  # an accepted return
    MANNER = "manner"  # it is done another way: a pause, a raised foot, another range
    WORK = "work"  # the progression asks for other sets, reps or seconds
    RECORDS_UP = "records_up"
    RECORDS_DOWN = "records_down"
    CAUTION = "caution"  # another planning max, and not by the estimate: a decision, a caution share
    LOADS = "loads"  # the same max: other loads before it, other plates, another share


@dataclass(frozen=True)
class Replanned:
    """One cell as it stands and as it would be planned now.

    `decided`: it was decided after a session, so it stays unless the coach says otherwise.
    """

    exercise: Exercise
    before: Cell | None
    draft: Draft
    decided: bool = False
    obstacle: Obstacle | None = None  # what forbids the number that stands there
    eased: bool = False
    in_stock: bool = True  # the room still has the load that stands there

    @property
    def why(self) -> tuple[ChangeReason, Mapping[str, Fact]]:
        """The reason, with what a sentence about it needs."""
        before, draft = self.before, self.draft
        if before is None:
            return ChangeReason.NEW, {}
        if before.stands_in is not draft.stands_in and StandIn.CHOSEN in (before.stands_in, draft.stands_in):
            return ChangeReason.OWN_WORK, {}
        if before.state is not draft.state:
            return self._by_state(before)
        if before.movement != draft.movement:
            return ChangeReason.STANDS_IN, {}
        if before.room_id != draft.room_id:
            return ChangeReason.ROOM, {}
        if not self.in_stock:
            return ChangeReason.NOT_IN_STOCK, {}
        if self.eased:
            return ChangeReason.EASED, {}
        if (before.sets, before.reps, before.hold_s, before.kind) != (draft.sets, draft.reps, draft.hold_s, draft.kind):
            return ChangeReason.WORK, {"sets": draft.sets, "reps": draft.reps, "seconds": draft.hold_s}
        return self._by_records(before)

    def _by_state(self, before: Cell) -> tuple[ChangeReason, Mapping[str, Fact]]:
        """Why a cell holds another kind of thing than it did."""
        had_load = before.state in (State.LOAD, State.UNDER_BAR)
        if State.LEFT_OUT in (before.state, self.draft.state):
            return ChangeReason.OWN_WORK, {}
        match self.draft.state:
            case State.LOAD | State.UNDER_BAR if had_load:
                return self._by_records(before)
            case State.LOAD | State.UNDER_BAR:
                return (ChangeReason.LOAD_KNOWN if before.state is State.WORK else ChangeReason.OPEN_NOW), {}
            case State.LEVEL | State.WORK if had_load or before.state is State.WORK:
                by_level = self.draft.state is State.LEVEL
                return (
                    ChangeReason.IN_THE_WAY
                    if self.obstacle
                    else ChangeReason.STANDS_IN
                    if by_level
                    else ChangeReason.LOAD_UNKNOWN
                ), {}
            case State.LEVEL | State.WORK:
                return ChangeReason.OPEN_NOW, {}
            case State.NEEDS_TEST | State.NOT_READY | State.LOCKED | State.NO_LEVEL | State.NO_ROOM | State.LEFT_OUT:
                return ChangeReason.IN_THE_WAY, {}
            case _:
                assert_never(self.draft.state)

    def _by_records(self, before: Cell) -> tuple[ChangeReason, Mapping[str, Fact]]:
        draft = self.draft
        was, now = before.estimate_kg, draft.estimate_kg
        rises = (draft.load_kg or 0.0) > (before.load_kg or 0.0)
        if was is not None and now is not None and abs(was - now) >= CLOSE_KG and (now > was) is rises:
            return (ChangeReason.RECORDS_UP if now > was else ChangeReason.RECORDS_DOWN), {"was_kg": was, "now_kg": now}
        was, now = before.planning_max_kg, draft.planning_max_kg
        if was is not None and now is not None and abs(was - now) >= CLOSE_KG:
            return ChangeReason.CAUTION, {"was_kg": was, "now_kg": now}
        share = draft.inputs.get("manner_share", 1.0)
        return (ChangeReason.MANNER, {"percent": round(100 * share)}) if share != 1 else (ChangeReason.LOADS, {})


CLOSE_KG = 0.05


@dataclass(frozen=True)
class DifferingRow:
    """One athlete in one exercise: what would change there, in one choice."""

    exercise: Exercise
    athlete_id: int
    decided: bool
    changes: list[Replanned] = field(default_factory=list)

    @property
    def key(self) -> str:
        """What a form names it by."""
        return row_key(self.exercise.id, self.athlete_id, self.decided)

    @property
    def reasons(self) -> list[Replanned]:
        """One change for each reason there is, in the order of the weeks."""
        return list({change.why[0]: change for change in reversed(self.changes)}.values())[::-1]


def row_key(exercise_id: int, athlete_id: int, decided: bool) -> str:
    """exercise-athlete, with what was decided apart from what was only planned."""
    return f"{exercise_id}-{athlete_id}" + ("-decided" if decided else "")


def by_row(changes: Sequence[Replanned]) -> list[DifferingRow]:
    """The changes gathered by exercise and athlete, in the order they come."""
    rows: dict[str, DifferingRow] = {}
    for change in changes:
        row = DifferingRow(change.exercise, change.draft.athlete_id, change.decided)
        rows.setdefault(row.key, row).changes.append(change)
    return list(rows.values())
