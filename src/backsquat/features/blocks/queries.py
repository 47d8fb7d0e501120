"""Reading the sheet: blocks of a squad, rows of cells with what stands in their way, one cell's panel."""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from functools import lru_cache
from typing import NamedTuple

from markupsafe import Markup
from sqlalchemy import func, select
from sqlalchemy.orm import Session, aliased

from backsquat.core.progression.prescription import Kind, Prescription
from backsquat.core.progression.row import State
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.rules import Rules
from backsquat.core.working import Working, plain
from backsquat.features.athletes.queries import gate_of, open_stops, squad_athletes, stop_locking
from backsquat.features.blocks.planning import session_day
from backsquat.features.phrases import finding_words
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, PlanVersion, SetEntry, Stop, User
from backsquat.ui.drawing.stair import draw_stair


def squad_blocks(session: Session, squad_id: int) -> list[Block]:
    """The squad's blocks by date, read once in a session: the rail and most pages need them."""
    key = ("squad_blocks", squad_id)
    if key not in session.info:
        session.info[key] = list(
            session.scalars(select(Block).where(Block.squad_id == squad_id).order_by(Block.first_week))
        )
    return session.info[key]  # type: ignore[no-any-return]


def block_in_week(blocks: Sequence[Block], week: dt.date) -> Block | None:
    """The block that plans the week."""
    return next((b for b in blocks if 0 <= (week - b.first_week).days // 7 < b.weeks), None)


REFUSED = frozenset({State.NEEDS_TEST.value, State.GATED.value, State.LOCKED.value})


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
    sets_done: int
    draft: bool
    bar: str
    stair: Markup


@dataclass(frozen=True)
class SheetRow:
    """`refusal` is the words in place of loads from `refused_from` on; `mend` the code of the next step."""

    athlete: Athlete
    max_kg: float | None
    note: str
    refusal: str
    mend: str
    cells: tuple[SheetCell, ...]


@dataclass
class Sheet:
    block: Block
    slot: BlockSlot
    outline: tuple[Prescription, ...]
    rows: list[SheetRow]
    drafts: int
    published: bool
    counts: dict[str, list[SheetRow]] = field(default_factory=dict)

    def day_of(self, week: int) -> dt.date:
        return session_day(self.block, self.slot, week)


# A place without a number: before the athlete's test, or before they joined.
EMPTY = SheetCell(0, 0, "", "", "", None, "", False, "", False, False, 0, False, "", Markup())


class PlacedCell(NamedTuple):
    """What a sheet reads of a cell, in the order of _COLUMNS; plain tuples are read faster than rows."""

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


_COLUMNS = tuple(getattr(Cell, name) for name in PlacedCell._fields)


def sheet_of(
    session: Session, squad_id: int, block: Block, slot: BlockSlot, today: dt.date, rules: Rules
) -> Sheet:
    """The sheet of one slot. A handful of queries whatever the size of squad and block."""
    school = SCHOOLS[slot.school]
    outline = school.outline(school.read(slot.parameters), block.weeks)
    athletes = squad_athletes(session, squad_id)
    stops = open_stops(session, [athlete.id for athlete in athletes])
    by_athlete: dict[int, dict[int, PlacedCell]] = defaultdict(dict)
    for values in session.execute(select(*_COLUMNS).where(Cell.slot_id == slot.id, Cell.current)):
        cell = PlacedCell._make(values)
        by_athlete[cell.athlete_id][cell.week] = cell
    done = _sets_done(session, slot.id)
    this_week = min(max((today - block.first_week).days // 7, 0), block.weeks - 1)
    rows = []
    for athlete in athletes:
        stop = stop_locking(stops.get(athlete.id, ()), slot.movement)
        rows.append(_row(athlete, by_athlete[athlete.id], outline, done, stop, this_week, today, rules))
    # Strongest first, as a squad is grouped to the racks; who has no number comes last.
    rows.sort(key=lambda row: (row.max_kg is None, -(row.max_kg or 0), row.athlete.name))
    drafts = session.scalar(
        select(func.count()).where(Cell.slot_id.in_([s.id for s in block.slots]), Cell.current, ~Cell.live)
    )
    published = session.scalar(select(func.count()).where(PlanVersion.block_id == block.id))
    sheet = Sheet(block, slot, outline, rows, drafts or 0, bool(published))
    for row in rows:
        if row.mend:
            sheet.counts.setdefault(row.mend, []).append(row)
    return sheet


def _sets_done(session: Session, slot_id: int) -> dict[tuple[int, int], int]:
    rows = session.execute(
        select(Cell.athlete_id, Cell.week, func.count())
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(Cell.slot_id == slot_id, ~SetEntry.replaced, ~SetEntry.withdrawn)
        .group_by(Cell.athlete_id, Cell.week)
    )
    return {(athlete_id, week): count for athlete_id, week, count in rows}


def _row(
    athlete: Athlete, cells: dict[int, PlacedCell], outline: Sequence[Prescription], done: dict[tuple[int, int], int],
    stop: Stop | None, this_week: int, today: dt.date, rules: Rules,
) -> SheetRow:  # fmt: skip
    gate = gate_of(athlete, today, rules)
    refusal = note = mend = ""
    if stop:
        refusal, mend = (
            f"Stopped {stop.at.day} {stop.at:%b}: pain, {stop.place}. No load until it is cleared.",
            "stopped",
        )
        note = "stopped, see physio"
    elif gate:
        refusal, mend = f"Not yet through the barbell gate: {', '.join(map(finding_words, gate))}.", "gated"
        note = "not through the gate"
    elif cells:
        if any(c.week >= this_week and c.state in REFUSED for c in cells.values()):
            refusal, mend = "Needs a test: a set of 3 to 8 reps to depth.", "needs_test"
            note = "no record"
    else:
        refusal, mend, note = "Joined after this block was planned.", "needs_plan", "not planned"
    shown = [_with_number(cells.get(p.week)) for p in outline]
    if refusal:  # nobody who is stopped or gated is shown a load to come, whatever was planned before
        shown = [c if c and c.week < this_week and c.load_kg else None for c in shown]
        while shown and shown[-1] is None:  # the words take these places
            shown.pop()
    stairs = draw_stair([c.load_kg if c else None for c in shown])
    built, before = [], None
    for prescription, cell, stair in zip(outline, shown, stairs, strict=False):
        if cell is None:
            before = None
            built.append(EMPTY._replace(week=prescription.week))
            continue
        easy = prescription.kind is Kind.EASY
        change = ""
        if before is not None and cell.load_kg is not None and not easy and not prescription.first_of_wave:
            change = _change(cell.load_kg - before)
        if cell.load_kg is not None and not easy:
            before = cell.load_kg
        built.append(
            SheetCell(
                cell.id, cell.week, cell.state, _written(cell.load_amount),
                cell.load_unit, cell.load_kg, change, easy, cell.origin, cell.over_cap, cell.held,
                done.get((athlete.id, cell.week), 0), not cell.live, cell.bar, stair,
            )
        )  # fmt: skip
    now = cells.get(this_week)
    max_kg = now.planning_max_kg if now and not refusal else None
    return SheetRow(athlete, max_kg, note, refusal, mend, tuple(built))


def _with_number(cell: PlacedCell | None) -> PlacedCell | None:
    """The cell, if it holds a load or the word that its target is under the bar."""
    return None if cell is None or cell.state in REFUSED else cell


@lru_cache(maxsize=2048)
def _written(amount: Decimal | None) -> str:
    return "" if amount is None else f"{amount.normalize():f}"


def _change(kg: float) -> str:
    if abs(kg) < 0.05:
        return "="
    return ("+" if kg > 0 else "−") + plain(abs(kg))


@dataclass(frozen=True)
class Panel:
    """One cell opened: the load, how it came about, and what it was before."""

    cell: Cell
    slot: BlockSlot
    block: Block
    athlete: Athlete
    day: dt.date
    working: Working
    history: list[tuple[str, str, str]]  # load, person, date
    refused: str
    rest_s: int
    may_edit: bool


def panel_of(session: Session, squad_id: int, cell_id: int, today: dt.date, rules: Rules) -> Panel | None:
    """The panel of a current cell, or None where there is no such cell in this squad."""
    row = session.execute(
        select(Cell, BlockSlot, Block, Athlete)
        .join(BlockSlot, Cell.slot_id == BlockSlot.id)
        .join(Block, BlockSlot.block_id == Block.id)
        .join(Athlete, Cell.athlete_id == Athlete.id)
        .where(Cell.id == cell_id, Block.squad_id == squad_id)
    ).first()
    if row is None:
        return None
    cell, slot, block, athlete = row
    stop = stop_locking(open_stops(session, [athlete.id]).get(athlete.id, ()), slot.movement)
    gate = gate_of(athlete, today, rules)
    day = session_day(block, slot, cell.week)
    refused = ""
    if stop and day >= today:
        refused = f"Stopped: pain, {stop.place}. No load until it is cleared."
    elif gate and day >= today:
        refused = f"Not yet through the barbell gate: {', '.join(map(finding_words, gate))}."
    logged = session.scalar(
        select(func.count()).where(SetEntry.cell_id == cell.id, ~SetEntry.replaced, ~SetEntry.withdrawn)
    )
    parameters = SCHOOLS[slot.school].read(slot.parameters)
    return Panel(
        cell, slot, block, athlete, day, Working.from_plain(cell.working), _history(session, cell), refused,
        parameters.rest_s, not refused and not logged and day >= today and cell.current,
    )  # fmt: skip


def _history(session: Session, cell: Cell) -> list[tuple[str, str, str]]:
    """Earlier numbers of the same place, newest first."""
    author = aliased(User)
    rows = session.execute(
        select(Cell.load_amount, Cell.origin, author.name, Cell.at)
        .join(author, Cell.by_id == author.id)
        .where(
            Cell.slot_id == cell.slot_id,
            Cell.athlete_id == cell.athlete_id,
            Cell.week == cell.week,
            Cell.id < cell.id,
        )
        .order_by(Cell.id.desc())
        .limit(5)
    )
    origins = {"plan": "planned", "coach": "changed", "decision": "after a session"}
    return [
        (
            "–" if amount is None else f"{amount.normalize():f}",
            f"{origins[origin]}, {name}",
            f"{at.day} {at:%b}",
        )
        for amount, origin, name, at in rows
    ]
