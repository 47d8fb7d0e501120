"""One row of the sheet: the athlete's cells, or the code of what stands there instead."""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from functools import lru_cache
from typing import NamedTuple

from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import LIFTED, Origin, StandIn, State
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.readiness.verdict import Obstacle, Person, Readiness, Reason, Short
from backsquat.storage.models import Cell
from backsquat.work.plan.chances import Chances, SetChance

NOTHING_THERE = frozenset({State.NEEDS_TEST, State.NOT_READY, State.LOCKED, State.NO_LEVEL, State.NO_ROOM})


class RowState(StrEnum):
    """What is to be said of a row, the gravest first; those in REFUSED stand in the stead of loads to come."""

    PLAIN = ""
    STOPPED = "stopped"
    AWAY = "away"
    NOT_READY_ON_LEVEL = "not_ready_on_level"  # works on the own level meanwhile
    NOT_READY = "not_ready"
    UNEARNED_ON_LEVEL = "unearned_on_level"  # works on the own level, the exercise's is harder
    UNEARNED = "unearned"
    NO_LEVEL = "no_level"
    NOT_PLANNED = "not_planned"  # joined after the block was planned
    NEEDS_TEST = "needs_test"
    THROUGH_NEEDS_TEST = "through_needs_test"
    THROUGH = "through"  # past the readiness check since this was planned
    NOT_HERE = "not_here"
    OWN_WORK = "own_work"  # the coach has given this athlete another movement here
    LEFT_OUT = "left_out"  # or nothing
    LIMIT_WEEKS = "limit_weeks"
    LIMIT_REPLAN = "limit_replan"  # a limit set since: the plan is to follow


REFUSED = frozenset(
    {
        RowState.STOPPED,
        RowState.AWAY,
        RowState.NOT_READY,
        RowState.UNEARNED,
        RowState.NO_LEVEL,
        RowState.NOT_PLANNED,
        RowState.NEEDS_TEST,
        RowState.THROUGH,
        RowState.NOT_HERE,
    }
)
FIXES = {  # what the next step for a row is, counted above the sheet
    RowState.STOPPED: "stopped",
    RowState.AWAY: "away",
    RowState.NOT_READY_ON_LEVEL: "not_ready",
    RowState.NOT_READY: "not_ready",
    RowState.UNEARNED_ON_LEVEL: "on_level",
    RowState.UNEARNED: "unearned",
    RowState.NO_LEVEL: "unearned",
    RowState.NOT_PLANNED: "needs_plan",
    RowState.THROUGH: "needs_plan",
    RowState.NEEDS_TEST: "needs_test",
    RowState.THROUGH_NEEDS_TEST: "needs_test",
}


class SheetCell(NamedTuple):
    """One cell of the sheet; a tuple, since a sheet makes hundreds."""

    id: int
    week: int
    state: State
    load: str  # the amount as it is written
    unit: str
    kg: float | None
    change_kg: float | None  # against the working week before
    deload: bool
    origin: Origin
    over_cap: bool
    held: bool
    sets: int
    sets_done: int
    draft: bool
    bar: str
    reps: int = 0
    hold_s: int = 0
    other: Movement | None = None  # done in the stead of the exercise's
    why: StandIn = StandIn.NOT
    own_sets: int = 0  # where they differ from the head of the week, under a progression of one's own
    own_reps: int = 0  # where they differ from the head of the week
    missed: bool = False  # planned, the day is past, and nothing was logged by somebody who could have come
    left: int = -1  # what its first set is expected to leave, where that is not what was asked; −1: as asked
    seldom: float | None = None  # the chance, where it is less than this squad plans with
    start: str = ""  # to begin with, where the first set finds the load
    shade: int = 0  # load as a share of the planning max, in steps of five hundredths from 60 % on; 0: none


# A cell without a number: before the athlete's test, or before they joined.
EMPTY = SheetCell(0, 0, State.LOCKED, "", "", None, None, False, Origin.PLAN, False, False, 0, 0, False, "")


@dataclass(frozen=True)
class SheetRow:
    """An athlete's row; `obstacle` is what the state is about, where the verdict named one."""

    athlete: Person
    max_kg: float | None
    state: RowState
    obstacle: Obstacle | None
    cells: tuple[SheetCell, ...]
    progression: str = ""  # name of the athlete's own, where it is not the exercise's

    @property
    def refused(self) -> bool:
        """Whether words stand in the stead of loads to come."""
        return self.state in REFUSED

    @property
    def fix(self) -> str:
        """Code of the next step for this row; empty where there is none."""
        unearned = self.obstacle.unearned if self.obstacle else None
        if unearned and unearned.why is Short.NO_CONSENT:
            return "no_consent"
        if self.state is RowState.UNEARNED_ON_LEVEL and unearned and unearned.why is Short.NOT_PLACED:
            return "unplaced"  # on a gentlest level until somebody places them
        return FIXES.get(self.state, "")


class PlacedCell(NamedTuple):
    """What a sheet reads of a cell, in the order of COLUMNS; plain tuples are read faster than rows."""

    id: int
    athlete_id: int
    week: int
    state: State
    load_amount: Decimal | None
    load_unit: str
    load_kg: float | None
    origin: Origin
    over_cap: bool
    held: bool
    live: bool
    planning_max_kg: float | None
    bar: str
    movement: str
    sets: int
    reps: int
    kind: ExposureKind
    hold_s: int
    stands_in: StandIn
    start_amount: Decimal | None


COLUMNS = tuple(getattr(Cell, name) for name in PlacedCell._fields)


@dataclass(frozen=True)
class RowOf:
    """What all rows of an exercise share: what the head of the sheet says of each week, and the session's days."""

    movement: Movement
    ladder: str
    outline: Sequence[Prescription]
    days: Sequence[dt.date]
    this_week: int
    chances: Chances | None = None
    spare: bool = False  # only if minutes are left: nothing of it is missed

    def row(
        self,
        ready: Readiness,
        cells: Mapping[int, PlacedCell],
        done: Mapping[tuple[int, int], int],
        own: tuple[str, Sequence[Prescription]] | None = None,
        manner_share: float = 1.0,
    ) -> SheetRow:
        """The row of one athlete; whoever is stopped, not ready or limited is shown no load to come that is not theirs.

        `cells` by week, `done` the sets logged by (athlete, week), `own` the athlete's own progression with
        what it lays out, `manner_share` of a plain load by how this athlete does it.
        """
        state, obstacle = self._state(ready, cells)
        allowed = {
            asked.week: day < ready.today or self._within_limits(ready, cells.get(asked.week), day)
            for asked, day in zip(self.outline, self.days, strict=True)
        }
        shown = [_with_number(cells.get(p.week)) if allowed[p.week] else None for p in self.outline]
        if state in REFUSED:
            shown = [c if c and c.week < self.this_week and (c.load_kg or c.movement) else None for c in shown]
            while shown and shown[-1] is None:  # the words take these weeks
                shown.pop()
        elif not all(allowed.values()) and state is RowState.PLAIN:
            state = RowState.LIMIT_REPLAN
        built = self._cells(ready, shown, done, own[1] if own else None, manner_share)
        now = cells.get(self.this_week)
        max_kg = now.planning_max_kg if now and state not in REFUSED else None
        return SheetRow(ready.person, max_kg, state, obstacle, built, own[0] if own else "")

    def _state(self, ready: Readiness, cells: Mapping[int, PlacedCell]) -> tuple[RowState, Obstacle | None]:
        coming = {cell.state for cell in cells.values() if cell.week >= self.this_week}
        if self.ladder:
            return self._level_state(ready, cells, coming)
        own = self._own_work(ready, cells)
        verdict = ready.judge(own or self.movement).but(Reason.BARRED)
        first = verdict.first
        if first and first.reason is Reason.STOPPED:
            return RowState.STOPPED, first
        if first and first.reason is Reason.AWAY:
            return RowState.AWAY, first
        if coming == {State.LEFT_OUT}:
            return RowState.LEFT_OUT, None
        if own:
            return RowState.OWN_WORK, None
        if first and first.reason is Reason.NOT_READY:
            on_level = coming == {State.LEVEL}
            return RowState.NOT_READY_ON_LEVEL if on_level else RowState.NOT_READY, first
        if first and first.reason is Reason.UNEARNED and cells:
            on_level = bool(coming) and coming <= {State.LEVEL, State.LOCKED, State.NO_ROOM}
            return RowState.UNEARNED_ON_LEVEL if on_level else RowState.UNEARNED, first
        return self._planned_state(ready, cells, coming), None

    def _own_work(self, ready: Readiness, cells: Mapping[int, PlacedCell]) -> Movement | None:
        """What the athlete was given in the place of the exercise's movement in all weeks to come; None: nothing was."""
        coming = [cell for cell in cells.values() if cell.week >= self.this_week and cell.state is not State.LEFT_OUT]
        given = {cell.movement for cell in coming if cell.stands_in is StandIn.CHOSEN}
        chosen = given and all(cell.stands_in is StandIn.CHOSEN for cell in coming)
        return ready.library.movements.get(min(given)) if chosen else None

    def _planned_state(self, ready: Readiness, cells: Mapping[int, PlacedCell], coming: set[State]) -> RowState:
        # A level for a weight too light to be had says nothing of a readiness check.
        alone = (StandIn.LIGHT, StandIn.CHOSEN)
        standing = any(c.state is State.LEVEL and c.stands_in not in alone for c in cells.values())
        by_level = standing and State.LEVEL in coming and not ready.limits and not ready.lacking(self.movement)
        states = (
            (RowState.NOT_PLANNED, not cells),
            (RowState.NEEDS_TEST, State.NEEDS_TEST in coming),
            (RowState.THROUGH_NEEDS_TEST, by_level),
            (RowState.THROUGH, State.NOT_READY in coming),
            (RowState.NOT_HERE, State.NO_ROOM in coming),
            (RowState.LIMIT_WEEKS, State.LOCKED in coming),
        )
        return next((state for state, holds in states if holds), RowState.PLAIN)

    def _level_state(
        self, ready: Readiness, cells: Mapping[int, PlacedCell], coming: set[State]
    ) -> tuple[RowState, Obstacle | None]:
        """For an exercise of own levels: no readiness check, only a level on the ladder is needed."""
        if ready.absent:
            return RowState.AWAY, Obstacle(Reason.AWAY, absence=ready.absent)
        if not cells:
            return RowState.NOT_PLANNED, None
        return (RowState.NO_LEVEL if coming == {State.NO_LEVEL} else RowState.PLAIN), None

    def _likely(self, athlete_id: int, cell: PlacedCell, day: dt.date, manner_share: float) -> SetChance | None:
        """How likely the work of a loaded cell to come is made, and what it leaves."""
        if self.chances is None or cell.state is not State.LOAD or cell.kind is not ExposureKind.WORK or cell.movement:
            return None
        asked = (cell.load_kg, cell.sets, cell.reps, cell.week)
        return self.chances.on(athlete_id, day, *asked, manner_share=manner_share, only_seldom=True)

    def _within_limits(self, ready: Readiness, cell: PlacedCell | None, day: dt.date) -> bool:
        if not ready.limits or cell is None or cell.state is not State.LOAD:
            return True
        return not ready.judge(self.movement, day, cell.load_kg).has(Reason.BARRED, Reason.OVER_LIMIT)

    def _cells(
        self,
        ready: Readiness,
        shown: Sequence[PlacedCell | None],
        done: Mapping[tuple[int, int], int],
        own: Sequence[Prescription] | None,
        manner_share: float,
    ) -> tuple[SheetCell, ...]:
        waves = {asked.week for asked in own or self.outline if asked.first_of_wave}
        built, before, lifted = [], None, False
        for asked, day, cell in zip(self.outline, self.days, shown, strict=False):
            if cell is None:
                before = None
                built.append(EMPTY._replace(week=asked.week))
                continue
            change_kg = None
            if cell.load_kg is not None and cell.kind is not ExposureKind.DELOAD:
                if before is not None and asked.week not in waves:
                    change_kg = cell.load_kg - before
                before = cell.load_kg
            other = ready.library.movements.get(cell.movement) if cell.movement else None
            sets_done = done.get((ready.person.id, cell.week), 0)
            gone = day < ready.today and cell.live and cell.state in LIFTED
            missed = gone and not sets_done and not self.spare and ready.could_come(day)
            likely = None if sets_done else self._likely(ready.person.id, cell, day, manner_share)
            sheet_cell = _sheet_cell(cell, asked, change_kg, sets_done, own is not None, other, missed, likely)
            built.append(sheet_cell._replace(start="") if lifted or day < ready.today else sheet_cell)
            lifted = lifted or bool(sets_done) or bool(built[-1].start)  # from then on it goes on from the last time
        return tuple(built)


def _sheet_cell(
    cell: PlacedCell,
    head: Prescription,
    change_kg: float | None,
    sets_done: int,
    has_own: bool,
    other: Movement | None,
    missed: bool,
    likely: SetChance | None,
) -> SheetCell:
    differs = (cell.sets, cell.reps) != (head.sets, head.reps)
    return SheetCell(
        cell.id,
        cell.week,
        cell.state,
        written(cell.load_amount),
        cell.load_unit,
        cell.load_kg,
        change_kg,
        cell.kind is ExposureKind.DELOAD,
        cell.origin,
        cell.over_cap,
        cell.held,
        cell.sets,
        sets_done,
        not cell.live,
        cell.bar,
        cell.reps,
        cell.hold_s,
        other,
        cell.stands_in,
        cell.sets if has_own and differs else 0,
        cell.reps if (has_own and differs) or cell.reps != head.reps else 0,
        missed,
        likely.left if likely and likely.off(head.reserve_reps) else -1,
        likely.chance if likely and likely.seldom else None,
        written(cell.start_amount),
        _shade(cell.load_kg, cell.planning_max_kg),
    )


def _shade(load_kg: float | None, max_kg: float | None) -> int:
    """60 % → 1, 65 % → 2 … 90 % and more → 7; under 60 % nothing."""
    if not load_kg or not max_kg or max_kg <= 0:
        return 0
    return min(7, max(0, int((load_kg / max_kg - 0.55) / 0.05 + 1e-9)))


def _with_number(cell: PlacedCell | None) -> PlacedCell | None:
    """The cell, if it holds a load, a level's work, or the word that its target is under the bar."""
    return None if cell is None or cell.state in NOTHING_THERE else cell


@lru_cache(maxsize=2048)
def written(amount: Decimal | None) -> str:
    """An amount as it is written on a plate; empty for none."""
    return "" if amount is None else f"{amount.normalize():f}"
