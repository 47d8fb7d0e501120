"""Reading the sheet: the rows of one slot, and one athlete's whole block."""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.movements.movement import Movement
from backsquat.core.progression.prescription import Prescription
from backsquat.core.rules import Rules
from backsquat.core.season.milestone import Judgement
from backsquat.storage.kept import kept_each
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, SetEntry
from backsquat.work.library.movements import library_of
from backsquat.work.log.estimates import weekly_best
from backsquat.work.plan.cells import standing_of
from backsquat.work.plan.chances import Chances
from backsquat.work.plan.rows import COLUMNS, PlacedCell, RowOf, SheetCell, SheetRow
from backsquat.work.plan.school_settings import AthleteSettings, athlete_settings, setting_of
from backsquat.work.readiness.load import readiness_of, readiness_one
from backsquat.work.season.evidence import idle_weeks
from backsquat.work.season.milestones import judge_milestone, milestones_of, with_lift
from backsquat.work.sessions.blocks import left_out, session_day, week_of
from backsquat.work.squad.athletes import squad_athletes

Placed = dict[int, dict[int, PlacedCell]]  # athlete or slot → week → cell


@dataclass
class Sheet:
    """One slot for everybody: `counts` gathers the rows by what is to be done about them."""

    block: Block
    slot: BlockSlot
    outline: tuple[Prescription, ...]
    rows: list[SheetRow]
    drafts: int  # cells that wait to be published
    published: bool
    counts: dict[str, list[SheetRow]] = field(default_factory=dict)

    def day_of(self, week: int) -> dt.date:
        """The day of the slot in a week of the block."""
        return session_day(self.slot, week)

    def is_out(self, week: int) -> bool:
        """Whether the slot's session is left out of a week of the block."""
        return left_out(self.slot, week)


def sheet_of(session: Session, squad_id: int, block: Block, slot: BlockSlot, today: dt.date, rules: Rules) -> Sheet:
    """The sheet of one slot. A handful of queries whatever the size of squad and block."""
    athletes = squad_athletes(session, squad_id)
    rows = _rows(session, squad_id, block, slot, athletes, today, rules)
    # Strongest first, as a squad is grouped to the racks; who has no number comes last.
    rows.sort(key=lambda row: (row.max_kg is None, -(row.max_kg or 0), row.athlete.name))
    outline = _laid(block, slot, library_of(session, squad_id).get(slot.movement))
    sheet = Sheet(block, slot, outline, rows, *standing_of(session, block))
    for row in rows:
        if row.mend:
            sheet.counts.setdefault(row.mend, []).append(row)
    return sheet


def _rows(
    session: Session,
    squad_id: int,
    block: Block,
    slot: BlockSlot,
    athletes: Sequence[Athlete],
    today: dt.date,
    rules: Rules,
) -> list[SheetRow]:
    by_id = {athlete.id: athlete for athlete in athletes}

    def read(ids: list[int]) -> dict[int, SheetRow]:
        asked = [by_id[one] for one in ids]
        movement = library_of(session, squad_id).get(slot.movement)
        settings = athlete_settings(session, [slot.id])
        ready = readiness_of(session, squad_id, asked, today, rules)
        placed, done = _placed(session, slot, ids), _sets_done(session, slot.id, ids)
        rows = _row_of(block, slot, movement, today)
        rows = replace(rows, chances=Chances.of(session, asked, movement.code, today, rules))
        return {
            id: rows.row(
                ready[id],
                placed[id],
                done,
                _own(settings, block, slot, movement, id),
                settings.get((slot.id, id), setting_of(slot)).manner(slot.manner).load_share(rules),
            )
            for id in ids
        }

    return list(kept_each(session, ("sheet rows", slot.id, today, rules), by_id, read, plan=True).values())


def _placed(session: Session, slot: BlockSlot, athlete_ids: Sequence[int]) -> Placed:
    found: Placed = defaultdict(dict)
    query = select(*COLUMNS).where(Cell.slot_id == slot.id, Cell.current, Cell.athlete_id.in_(athlete_ids))
    for values in session.execute(query):
        cell = PlacedCell._make(values)
        found[cell.athlete_id][cell.week] = cell
    return found


def _row_of(block: Block, slot: BlockSlot, movement: Movement, today: dt.date) -> RowOf:
    outline = _laid(block, slot, movement)
    days = [session_day(slot, asked.week) for asked in outline]
    return RowOf(movement, slot.ladder, outline, days, week_of(block, today), spare=slot.spare)


def _laid(block: Block, slot: BlockSlot, movement: Movement) -> tuple[Prescription, ...]:
    return setting_of(slot).outline(block.weeks, movement)


def _own(
    settings: AthleteSettings, block: Block, slot: BlockSlot, movement: Movement, athlete_id: int
) -> tuple[str, tuple[Prescription, ...]] | None:
    """Name and weeks of an athlete's own school in a slot, if there is one."""
    setting = settings.get((slot.id, athlete_id))
    if setting is None:
        return None
    return setting.school.name, setting.outline(block.weeks, movement)


def _sets_done(session: Session, slot_id: int, athlete_ids: Sequence[int]) -> dict[tuple[int, int], int]:
    rows = session.execute(
        select(Cell.athlete_id, Cell.week, func.count(SetEntry.set_number.distinct()))
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(Cell.slot_id == slot_id, Cell.athlete_id.in_(athlete_ids), SetEntry.standing)
        .group_by(Cell.athlete_id, Cell.week)
    )
    return {(athlete_id, week): count for athlete_id, week, count in rows}


def rows_with(
    session: Session,
    squad_id: int,
    block: Block,
    slot: BlockSlot,
    cell_ids: Sequence[int],
    today: dt.date,
    rules: Rules,
) -> list[SheetRow]:
    """The rows of these cells' athletes as the sheet shows them."""
    ids = list(session.scalars(select(Cell.athlete_id).where(Cell.id.in_(cell_ids)).distinct()))
    athletes = list(session.scalars(select(Athlete).where(Athlete.id.in_(ids))))
    return _rows(session, squad_id, block, slot, athletes, today, rules)


@dataclass(frozen=True)
class MilestoneNote:
    """The milestone of the row's movement as the sheet says it."""

    judgement: Judgement
    due_on: dt.date


def milestone_notes(
    session: Session, squad_id: int, slot: BlockSlot, today: dt.date, since: dt.date, rules: Rules
) -> dict[int, MilestoneNote]:
    """The next milestone of a slot's movement by athlete. Asked for after the sheet: trends take time."""
    movement = library_of(session, squad_id).get(slot.movement)
    athletes = squad_athletes(session, squad_id)
    found = with_lift(milestones_of(session, [a.id for a in athletes]), movement.code)
    if not found:
        return {}
    ready = readiness_of(session, squad_id, athletes, today, rules)
    best = weekly_best(session, list({m.athlete_id for m in found}), movement.code, since, today)
    notes, idle = {}, idle_weeks(session, squad_id, ready)
    for milestone in reversed(found):  # the next one is put last, and stays
        weeks = best.get(milestone.athlete_id, [])
        judgement = judge_milestone(milestone, weeks, ready[milestone.athlete_id], rules, idle[milestone.athlete_id])
        notes[milestone.athlete_id] = MilestoneNote(judgement, milestone.due_on)
    return notes


@dataclass(frozen=True)
class AthleteLine:
    """One slot of an athlete's whole block."""

    slot: BlockSlot
    movement: Movement
    outline: tuple[Prescription, ...]
    row: SheetRow


def athlete_block(
    session: Session, squad_id: int, block: Block, athlete: Athlete, today: dt.date, rules: Rules
) -> list[AthleteLine]:
    """Every slot of the block for one athlete, in a fixed number of queries."""
    ready, library = readiness_one(session, athlete, today, rules), library_of(session, squad_id)
    slot_ids = [slot.id for slot in block.slots]
    by_slot, done = (_placed_by_slot(session, slot_ids, athlete.id), _done_by_slot(session, slot_ids, athlete.id))
    settings = athlete_settings(session, slot_ids)
    found = []
    for slot in block.slots:
        movement = library.get(slot.movement)
        own = _own(settings, block, slot, movement, athlete.id)
        rows = _row_of(block, slot, movement, today)
        row = rows.row(ready, by_slot[slot.id], done[slot.id], own)
        found.append(AthleteLine(slot, movement, own[1] if own else tuple(rows.outline), row))
    return found


def _placed_by_slot(session: Session, slot_ids: Sequence[int], athlete_id: int) -> Placed:
    found: Placed = defaultdict(dict)
    query = select(Cell.slot_id, *COLUMNS).where(
        Cell.slot_id.in_(slot_ids), Cell.athlete_id == athlete_id, Cell.current
    )
    for slot_id, *values in session.execute(query):
        cell = PlacedCell._make(values)
        found[slot_id][cell.week] = cell
    return found


def _done_by_slot(session: Session, slot_ids: Sequence[int], athlete_id: int) -> dict[int, dict[tuple[int, int], int]]:
    found: dict[int, dict[tuple[int, int], int]] = defaultdict(dict)
    counted = session.execute(
        select(Cell.slot_id, Cell.week, func.count(SetEntry.set_number.distinct()))
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(Cell.slot_id.in_(slot_ids), Cell.athlete_id == athlete_id, SetEntry.standing)
        .group_by(Cell.slot_id, Cell.week)
    )
    for slot_id, week, count in counted:
        found[slot_id][athlete_id, week] = count
    return found


def cells_of(rows: Sequence[SheetRow]) -> list[SheetCell]:
    """All cells of some rows that there are."""
    return [cell for row in rows for cell in row.cells if cell.id]
