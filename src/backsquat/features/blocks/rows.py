"""One row of the sheet: the athlete's places, or the words that stand there instead."""

import datetime as dt
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache, partial
from typing import NamedTuple

from markupsafe import Markup

from backsquat.core.movements.movement import Movement
from backsquat.core.progression.prescription import Kind, Prescription
from backsquat.core.progression.row import State
from backsquat.core.working import plain
from backsquat.features.athletes.readiness import Readiness
from backsquat.features.phrases import finding_words
from backsquat.storage.models import Athlete, Cell
from backsquat.ui.drawing.stair import draw_stair

REFUSED = frozenset(
    state.value for state in (State.NEEDS_TEST, State.GATED, State.LOCKED, State.NO_RUNG, State.NO_ROOM)
)


class SheetCell(NamedTuple):
    """One place of the sheet; a tuple, since a sheet makes hundreds."""

    id: int
    week: int
    state: str
    load: str
    unit: str
    kg: float | None
    change: str  # against the working week before: "+5"
    easy: bool
    origin: str
    over_cap: bool
    held: bool
    sets: int
    sets_done: int
    draft: bool
    bar: str
    stair: Markup
    words: str = ""  # the movement in place of a load
    work: str = ""  # its sets × reps
    reps: str = ""  # where they differ from the head of the week: "× 9"
    why: str = ""  # why another movement stands in
    shade: int = 0  # load as a share of the planning max, in steps of five hundredths from 60 % on; 0: none


@dataclass(frozen=True)
class MilestoneNote:
    """The milestone of the row's movement as the sheet says it."""

    target_kg: float | None
    status: str
    due_on: dt.date


@dataclass(frozen=True)
class SheetRow:
    """`refusal` is the words in place of loads from `refused_from` on; `mend` the code of the next step."""

    athlete: Athlete
    max_kg: float | None
    note: str
    refusal: str
    mend: str
    cells: tuple[SheetCell, ...]
    school: str = ""  # name of the athlete's own, where it is not the slot's


# A place without a number: before the athlete's test, or before they joined.
EMPTY = SheetCell(0, 0, "", "", "", None, "", False, "", False, False, 0, 0, False, "", Markup())


class PlacedCell(NamedTuple):
    """What a sheet reads of a cell, in the order of COLUMNS; plain tuples are read faster than rows."""

    id: int
    athlete_id: int
    week: int
    state: str
    load_amount: Decimal | None
    load_unit: str
    load_kg: float | None
    origin: str
    over_cap: bool
    held: bool
    live: bool
    planning_max_kg: float | None
    bar: str
    movement: str
    sets: int
    reps: int
    kind: str
    hold_s: int


COLUMNS = tuple(getattr(Cell, name) for name in PlacedCell._fields)


def row_of(
    ready: Readiness, movement: Movement, cells: Mapping[int, PlacedCell], outline: Sequence[Prescription],
    days: Sequence[dt.date], done: Mapping[tuple[int, int], int], this_week: int, ladder: str = "",
    own: tuple[str, Sequence[Prescription]] | None = None,
) -> SheetRow:  # fmt: skip
    """The row of one athlete; whoever is stopped, gated or limited is shown no load to come that is not theirs.

    `outline` is what the head of the sheet says of each week; `own` the athlete's own school with what it lays out.
    """
    athlete = ready.athlete
    in_the_way = _rung_in_the_way if ladder else _in_the_way
    note, refusal, mend = in_the_way(ready, movement, cells, this_week)
    allowed = {
        p.week: day < ready.today or _within_limits(ready, movement, cells.get(p.week), day)
        for p, day in zip(outline, days, strict=True)
    }
    shown = [_with_number(cells.get(p.week)) if allowed[p.week] else None for p in outline]
    if refusal:
        shown = [c if c and c.week < this_week and (c.load_kg or c.movement) else None for c in shown]
        while shown and shown[-1] is None:  # the words take these places
            shown.pop()
    elif not all(allowed.values()):
        note = note or "limit: plan anew"
    laid = own[1] if own else None
    why = partial(_stands_in, ready, movement, ladder)
    built = _places(ready, outline, laid, days, shown, done, why)
    now = cells.get(this_week)
    max_kg = now.planning_max_kg if now and not refusal else None
    return SheetRow(athlete, max_kg, note, refusal, mend, built, own[0] if own else "")


def _in_the_way(
    ready: Readiness, movement: Movement, cells: Mapping[int, PlacedCell], this_week: int
) -> tuple[str, str, str]:
    """Note, refusal and mend of a row; empty where there is nothing."""
    stop, gate = ready.stop_on(movement), ready.gate(movement)
    coming = [cell for cell in cells.values() if cell.week >= this_week]
    if ready.absent and not stop:
        since = ready.absent.first_on
        words = f"Away since {since.day} {since:%b}. The return is recorded under Limits and health."
        return "away", words, "away"
    if stop:
        words = f"Stopped {stop.at.day} {stop.at:%b}: pain, {stop.place}. No load until it is cleared."
        return "stopped, see physio", words, "stopped"
    if gate:
        if coming and all(cell.state == State.RUNG.value for cell in coming):
            return "not yet through the gate", "", "gated"
        missing = ", ".join(map(finding_words, gate))
        return (
            "not through the gate",
            f"Not yet through the gate: {missing}. On no rung of this ladder yet.",
            "gated",
        )
    if not cells:
        return "not planned", "Joined after this block was planned.", "needs_plan"
    if any(cell.state == State.NEEDS_TEST.value for cell in coming):
        return "no record", "Needs a test: a set of 3 to 8 reps to depth.", "needs_test"
    if (
        any(cell.state == State.RUNG.value for cell in coming)
        and not ready.limits
        and not ready.lacking(movement)
    ):
        return "through the gate, needs a test", "", "needs_test"
    if any(cell.state == State.GATED.value for cell in coming):
        return "through the gate", "Through the gate since this was planned: plan anew.", "needs_plan"
    if any(cell.state == State.NO_ROOM.value for cell in coming):
        return "not in this room", "This room cannot rig it, and nothing like it is open to this athlete.", ""
    if any(cell.state == State.LOCKED.value for cell in coming):
        return "limit: some weeks without load", "", ""
    return "", "", ""


def _rung_in_the_way(
    ready: Readiness, _movement: Movement, cells: Mapping[int, PlacedCell], this_week: int
) -> tuple[str, str, str]:
    """The same for a slot of own rungs: no gate, only a place on the ladder is needed."""
    coming = [cell for cell in cells.values() if cell.week >= this_week]
    if ready.absent:
        since = ready.absent.first_on
        words = f"Away since {since.day} {since:%b}. The return is recorded under Limits and health."
        return "away", words, "away"
    if not cells:
        return "not planned", "Joined after this block was planned.", "needs_plan"
    if coming and all(cell.state == State.NO_RUNG.value for cell in coming):
        return "no rung yet", "Not placed on this ladder yet, or none of its rungs is open now.", "gated"
    return "", "", ""


def _stands_in(ready: Readiness, movement: Movement, ladder: str, day: dt.date) -> str:
    """Code of why another movement stands in a row's place on a day."""
    if ladder:
        return "rung"
    if ready.gate(movement):
        return "gate"
    return "room" if ready.lacking(movement, day) else "limit"


def _within_limits(ready: Readiness, movement: Movement, cell: PlacedCell | None, day: dt.date) -> bool:
    if not ready.limits or cell is None or cell.state != State.LOAD.value:
        return True
    bounds = ready.bounds(movement, day)
    return not bounds.barred_by and (bounds.most_kg is None or (cell.load_kg or 0) <= bounds.most_kg + 1e-9)


def _places(
    ready: Readiness, outline: Sequence[Prescription], own: Sequence[Prescription] | None, days: Sequence[dt.date],
    shown: Sequence[PlacedCell | None], done: Mapping[tuple[int, int], int], why: Callable[[dt.date], str],
) -> tuple[SheetCell, ...]:  # fmt: skip
    waves, kept = {p.week for p in own or outline if p.first_of_wave}, own is None
    stairs = draw_stair([c.load_kg if c else None for c in shown])
    built, before = [], None
    for prescription, day, cell, stair in zip(outline, days, shown, stairs, strict=False):
        if cell is None:
            before = None
            built.append(EMPTY._replace(week=prescription.week))
            continue
        easy = cell.kind == Kind.EASY.value
        change = ""
        if before is not None and cell.load_kg is not None and not easy and prescription.week not in waves:
            change = _change(cell.load_kg - before)
        if cell.load_kg is not None and not easy:
            before = cell.load_kg
        other = ready.library.movements.get(cell.movement) if cell.movement else None
        words, work = (other.name, other.work.words) if other else ("", "")
        if cell.state == State.WORK.value:
            words = f"{cell.sets} × {f'{cell.hold_s} s' if cell.hold_s else cell.reps}"
        built.append(
            SheetCell(
                cell.id, cell.week, cell.state, _written(cell.load_amount),
                cell.load_unit, cell.load_kg, change, easy, cell.origin, cell.over_cap, cell.held, cell.sets,
                done.get((ready.athlete.id, cell.week), 0), not cell.live, cell.bar, stair,
                words, work, _asks(cell, prescription, kept), why(day) if other else "",
                _shade(cell.load_kg, cell.planning_max_kg),
            )
        )  # fmt: skip
    return tuple(built)


def _asks(cell: PlacedCell, head: Prescription, kept: bool) -> str:
    """Reps where they differ from the head of the week; sets and reps under a school of one's own."""
    if not kept and (cell.sets, cell.reps) != (head.sets, head.reps):
        return f"{cell.sets} × {cell.reps}"
    return f"× {cell.reps}" if cell.reps != head.reps else ""


def _shade(load_kg: float | None, max_kg: float | None) -> int:
    """60 % → 1, 65 % → 2 … 90 % and more → 7; under 60 % nothing."""
    if not load_kg or not max_kg or max_kg <= 0:
        return 0
    return min(7, max(0, int((load_kg / max_kg - 0.55) / 0.05 + 1e-9)))


def _with_number(cell: PlacedCell | None) -> PlacedCell | None:
    """The cell, if it holds a load, a rung's work, or the word that its target is under the bar."""
    return None if cell is None or cell.state in REFUSED else cell


@lru_cache(maxsize=2048)
def _written(amount: Decimal | None) -> str:
    return "" if amount is None else f"{amount.normalize():f}"


def _change(kg: float) -> str:
    if abs(kg) < 0.05:
        return "="
    return ("+" if kg > 0 else "−") + plain(abs(kg))
