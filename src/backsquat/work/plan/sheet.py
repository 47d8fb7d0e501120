"""Reading the sheet: the rows of one exercise, and one athlete's whole block."""

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
from backsquat.storage.cache import cached_each
from backsquat.storage.models import Athlete, Block, Cell, Exercise, SetEntry
from backsquat.work.context import library_of
from backsquat.work.log.estimates import weekly_best
from backsquat.work.plan.cells import standing_of
from backsquat.work.plan.chances import Chances
from backsquat.work.plan.progression_settings import AthleteSettings, athlete_settings, setting_of
from backsquat.work.plan.rows import COLUMNS, PlacedCell, RowOf, SheetCell, SheetRow
from backsquat.work.readiness.load import readiness_of, readiness_one
from backsquat.work.season.evidence import idle_weeks
from backsquat.work.season.milestones import judge_milestone, milestones_of, with_lift
from backsquat.work.sessions.blocks import left_out, session_day, week_of
from backsquat.work.squad.athletes import squad_athletes

Placed = dict[int, dict[int, PlacedCell]]  # athlete or exercise → week → cell


@dataclass
class Sheet:
    """One exercise for everybody: `counts` gathers the rows by what is to be done about them."""

    block: Block
    exercise: Exercise
    outline: tuple[Prescription, ...]
    rows: list[SheetRow]
    drafts: int  # cells that wait to be published
    published: bool
    counts: dict[str, list[SheetRow]] = field(default_factory=dict)

    def day_of(self, week: int) -> dt.date:
        """The day of the exercise in a week of the block."""
        return session_day(self.exercise, week)

    def is_out(self, week: int) -> bool:
        """Whether the exercise's session is left out of a week of the block."""
        return left_out(self.exercise, week)


def sheet_of(db: Session, squad_id: int, block: Block, exercise: Exercise, today: dt.date, rules: Rules) -> Sheet:
    """The sheet of one exercise. A handful of queries whatever the size of squad and block."""
    athletes = squad_athletes(db, squad_id)
    rows = _rows(db, squad_id, block, exercise, athletes, today, rules)
    # Strongest first, as a squad is grouped to the racks; who has no number comes last.
    rows.sort(key=lambda row: (row.max_kg is None, -(row.max_kg or 0), row.athlete.name))
    outline = _laid(block, exercise, library_of(db, squad_id).get(exercise.movement))
    sheet = Sheet(block, exercise, outline, rows, *standing_of(db, block))
    for row in rows:
        if row.fix:
            sheet.counts.setdefault(row.fix, []).append(row)
    return sheet


def _rows(
    db: Session,
    squad_id: int,
    block: Block,
    exercise: Exercise,
    athletes: Sequence[Athlete],
    today: dt.date,
    rules: Rules,
) -> list[SheetRow]:
    by_id = {athlete.id: athlete for athlete in athletes}

    def read(ids: list[int]) -> dict[int, SheetRow]:
        asked = [by_id[one] for one in ids]
        movement = library_of(db, squad_id).get(exercise.movement)
        settings = athlete_settings(db, [exercise.id])
        ready = readiness_of(db, squad_id, asked, today, rules)
        placed, done = _placed(db, exercise, ids), _sets_done(db, exercise.id, ids)
        rows = _row_of(block, exercise, movement, today)
        rows = replace(rows, chances=Chances.of(db, asked, movement.code, today, rules))
        return {
            id: rows.row(
                ready[id],
                placed[id],
                done,
                _own(settings, block, exercise, movement, id),
                settings.get((exercise.id, id), setting_of(exercise)).manner(exercise.manner).load_share(rules),
            )
            for id in ids
        }

    return list(cached_each(db, ("sheet rows", exercise.id, today, rules), by_id, read, plan=True).values())


def _placed(db: Session, exercise: Exercise, athlete_ids: Sequence[int]) -> Placed:
    found: Placed = defaultdict(dict)
    query = select(*COLUMNS).where(Cell.exercise_id == exercise.id, Cell.current, Cell.athlete_id.in_(athlete_ids))
    for values in db.execute(query):
        cell = PlacedCell._make(values)
        found[cell.athlete_id][cell.week] = cell
    return found


def _row_of(block: Block, exercise: Exercise, movement: Movement, today: dt.date) -> RowOf:
    outline = _laid(block, exercise, movement)
    days = [session_day(exercise, asked.week) for asked in outline]
    return RowOf(movement, exercise.ladder, outline, days, week_of(block, today), spare=exercise.spare)


def _laid(block: Block, exercise: Exercise, movement: Movement) -> tuple[Prescription, ...]:
    return setting_of(exercise).outline(block.weeks, movement)


def _own(
    settings: AthleteSettings, block: Block, exercise: Exercise, movement: Movement, athlete_id: int
) -> tuple[str, tuple[Prescription, ...]] | None:
    """Name and weeks of an athlete's own progression in an exercise, if there is one."""
    setting = settings.get((exercise.id, athlete_id))
    if setting is None:
        return None
    return setting.progression.name, setting.outline(block.weeks, movement)


def _sets_done(db: Session, exercise_id: int, athlete_ids: Sequence[int]) -> dict[tuple[int, int], int]:
    rows = db.execute(
        select(Cell.athlete_id, Cell.week, func.count(SetEntry.set_number.distinct()))
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(Cell.exercise_id == exercise_id, Cell.athlete_id.in_(athlete_ids), SetEntry.standing)
        .group_by(Cell.athlete_id, Cell.week)
    )
    return {(athlete_id, week): count for athlete_id, week, count in rows}


def rows_with(
    db: Session, squad_id: int, block: Block, exercise: Exercise, cell_ids: Sequence[int], today: dt.date, rules: Rules
) -> list[SheetRow]:
    """The rows of these cells' athletes as the sheet shows them."""
    ids = list(db.scalars(select(Cell.athlete_id).where(Cell.id.in_(cell_ids)).distinct()))
    athletes = list(db.scalars(select(Athlete).where(Athlete.id.in_(ids))))
    return _rows(db, squad_id, block, exercise, athletes, today, rules)


@dataclass(frozen=True)
class MilestoneNote:
    """The milestone of the row's movement as the sheet says it."""

    judgement: Judgement
    due_on: dt.date


def milestone_notes(
    db: Session, squad_id: int, exercise: Exercise, today: dt.date, since: dt.date, rules: Rules
) -> dict[int, MilestoneNote]:
    """The next milestone of an exercise's movement by athlete. Asked for after the sheet: trends take time."""
    movement = library_of(db, squad_id).get(exercise.movement)
    athletes = squad_athletes(db, squad_id)
    found = with_lift(milestones_of(db, [a.id for a in athletes]), movement.code)
    if not found:
        return {}
    ready = readiness_of(db, squad_id, athletes, today, rules)
    best = weekly_best(db, list({m.athlete_id for m in found}), movement.code, since, today)
    notes, idle = {}, idle_weeks(db, squad_id, ready)
    for milestone in reversed(found):  # the next one is put last, and stays
        weeks = best.get(milestone.athlete_id, [])
        judgement = judge_milestone(milestone, weeks, ready[milestone.athlete_id], rules, idle[milestone.athlete_id])
        notes[milestone.athlete_id] = MilestoneNote(judgement, milestone.due_on)
    return notes


@dataclass(frozen=True)
class AthleteLine:
    """One exercise of an athlete's whole block."""

    exercise: Exercise
    movement: Movement
    outline: tuple[Prescription, ...]
    row: SheetRow


def athlete_block(
    db: Session, squad_id: int, block: Block, athlete: Athlete, today: dt.date, rules: Rules
) -> list[AthleteLine]:
    """Every exercise of the block for one athlete, in a fixed number of queries."""
    ready, library = readiness_one(db, athlete, today, rules), library_of(db, squad_id)
    exercise_ids = [exercise.id for exercise in block.exercises]
    by_exercise, done = (
        _placed_by_exercise(db, exercise_ids, athlete.id),
        _done_by_exercise(db, exercise_ids, athlete.id),
    )
    settings = athlete_settings(db, exercise_ids)
    found = []
    for exercise in block.exercises:
        movement = library.get(exercise.movement)
        own = _own(settings, block, exercise, movement, athlete.id)
        rows = _row_of(block, exercise, movement, today)
        row = rows.row(ready, by_exercise[exercise.id], done[exercise.id], own)
        found.append(AthleteLine(exercise, movement, own[1] if own else tuple(rows.outline), row))
    return found


def _placed_by_exercise(db: Session, exercise_ids: Sequence[int], athlete_id: int) -> Placed:
    found: Placed = defaultdict(dict)
    query = select(Cell.exercise_id, *COLUMNS).where(
        Cell.exercise_id.in_(exercise_ids), Cell.athlete_id == athlete_id, Cell.current
    )
    for exercise_id, *values in db.execute(query):
        cell = PlacedCell._make(values)
        found[exercise_id][cell.week] = cell
    return found


def _done_by_exercise(
    db: Session, exercise_ids: Sequence[int], athlete_id: int
) -> dict[int, dict[tuple[int, int], int]]:
    found: dict[int, dict[tuple[int, int], int]] = defaultdict(dict)
    counted = db.execute(
        select(Cell.exercise_id, Cell.week, func.count(SetEntry.set_number.distinct()))
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(Cell.exercise_id.in_(exercise_ids), Cell.athlete_id == athlete_id, SetEntry.standing)
        .group_by(Cell.exercise_id, Cell.week)
    )
    for exercise_id, week, count in counted:
        found[exercise_id][athlete_id, week] = count
    return found


def cells_of(rows: Sequence[SheetRow]) -> list[SheetCell]:
    """All cells of some rows that there are."""
    return [cell for row in rows for cell in row.cells if cell.id]
