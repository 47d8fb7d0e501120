"""Reading the sheet: blocks of a squad, rows of cells with what stands in their way, one cell's panel."""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field

from sqlalchemy import func, select
from sqlalchemy.orm import Session, aliased

from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.prescription import Prescription
from backsquat.core.progression.row import State
from backsquat.core.rules import Rules
from backsquat.core.working import Working
from backsquat.features.athletes.queries import judge_milestone, milestones_of, squad_athletes, weekly_best
from backsquat.features.athletes.readiness import readiness_of, readiness_one
from backsquat.features.blocks.courses import Courses, course_of, own_courses
from backsquat.features.blocks.planning import movement_of, rest_of, session_day, week_of
from backsquat.features.blocks.rows import COLUMNS, MilestoneNote, PlacedCell, SheetCell, SheetRow, row_of
from backsquat.features.movements.queries import library_of
from backsquat.features.phrases import finding_words
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, PlanVersion, SetEntry, User


def squad_blocks(session: Session, squad_id: int) -> list[Block]:
    """The squad's blocks by date, read once in a session: the rail and most pages need them."""
    key = ("squad_blocks", squad_id)
    if key not in session.info:
        session.info[key] = list(
            session.scalars(select(Block).where(Block.squad_id == squad_id).order_by(Block.first_week))
        )
    return session.info[key]  # type: ignore[no-any-return]


MILESTONE_WEEKS = 40  # a season of records behind the trend of a milestone
DEFAULT_LIFTS = ("back_squat", "romanian_deadlift")


def lifts_of(session: Session, squad_id: int, week: dt.date) -> list[str]:
    """The main lifts of the squad in a week: its block's, else the last block's before it; three at most."""
    blocks = squad_blocks(session, squad_id)
    block = block_in_week(blocks, week) or next((b for b in reversed(blocks) if b.first_week <= week), None)
    slots = [slot for slot in block.slots if not slot.ladder] if block else []
    codes = [slot.movement for slot in slots if slot.role == "main"] or [slot.movement for slot in slots]
    return list(dict.fromkeys(codes))[:3] or list(DEFAULT_LIFTS)


def block_in_week(blocks: Sequence[Block], week: dt.date) -> Block | None:
    """The block that plans the week."""
    return next((b for b in blocks if 0 <= (week - b.first_week).days // 7 < b.weeks), None)


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


def sheet_of(
    session: Session, squad_id: int, block: Block, slot: BlockSlot, today: dt.date, rules: Rules
) -> Sheet:
    """The sheet of one slot. A handful of queries whatever the size of squad and block."""
    movement = library_of(session, squad_id).get(slot.movement)
    outline = _laid(block, slot, movement)
    courses = own_courses(session, [slot.id])
    athletes = squad_athletes(session, squad_id)
    ready = readiness_of(session, squad_id, athletes, today, rules)
    by_athlete: dict[int, dict[int, PlacedCell]] = defaultdict(dict)
    for values in session.execute(select(*COLUMNS).where(Cell.slot_id == slot.id, Cell.current)):
        cell = PlacedCell._make(values)
        by_athlete[cell.athlete_id][cell.week] = cell
    done = _sets_done(session, slot.id)
    this_week = week_of(block, today)
    rows = []
    for athlete in athletes:
        days = [session_day(block, slot, p.week) for p in outline]
        rows.append(
            row_of(
                ready[athlete.id],
                movement,
                by_athlete[athlete.id],
                outline,
                days,
                done,
                this_week,
                slot.ladder,
                _own(courses, block, slot, movement, athlete.id),
            )
        )
    # Strongest first, as a squad is grouped to the racks; who has no number comes last.
    rows.sort(key=lambda row: (row.max_kg is None, -(row.max_kg or 0), row.athlete.name))
    sheet = Sheet(block, slot, outline, rows, *standing_of(session, block))
    for row in rows:
        if row.mend:
            sheet.counts.setdefault(row.mend, []).append(row)
    return sheet


def standing_of(session: Session, block: Block) -> tuple[int, bool]:
    """How many places wait to be published, and whether anything ever was."""
    drafts = session.scalar(
        select(func.count()).where(Cell.slot_id.in_([s.id for s in block.slots]), Cell.current, ~Cell.live)
    )
    published = session.scalar(select(func.count()).where(PlanVersion.block_id == block.id))
    return drafts or 0, bool(published)


def _laid(block: Block, slot: BlockSlot, movement: Movement) -> tuple[Prescription, ...]:
    return course_of(slot).outline(block.weeks, movement.family is Family.HINGE)


def _own(
    courses: Courses, block: Block, slot: BlockSlot, movement: Movement, athlete_id: int
) -> tuple[str, tuple[Prescription, ...]] | None:
    """Name and weeks of an athlete's own school in a slot, if there is one."""
    course = courses.get((slot.id, athlete_id))
    if course is None:
        return None
    return course.school.name, course.outline(block.weeks, movement.family is Family.HINGE)


def milestone_notes(
    session: Session, squad_id: int, slot: BlockSlot, today: dt.date, rules: Rules
) -> dict[int, MilestoneNote]:
    """The next milestone of a slot's movement by athlete, with its status. Asked for after the sheet: trends take time."""
    movement = library_of(session, squad_id).get(slot.movement)
    athletes = squad_athletes(session, squad_id)
    found = [m for m in milestones_of(session, [a.id for a in athletes]) if m.movement == movement.code]
    if not found:
        return {}
    ready = readiness_of(session, squad_id, athletes, today, rules)
    first = today - dt.timedelta(weeks=MILESTONE_WEEKS)
    best = weekly_best(session, list({m.athlete_id for m in found}), movement.code, first, today)
    notes = {}
    for milestone in reversed(found):  # the next one is put last, and stays
        mine = ready[milestone.athlete_id]
        judgement = judge_milestone(milestone, best.get(milestone.athlete_id, []), mine, rules)
        notes[milestone.athlete_id] = MilestoneNote(
            judgement.target_kg, str(judgement.status), milestone.due_on
        )
    return notes


def places_of(
    session: Session, squad_id: int, block: Block, slot: BlockSlot, cell_ids: Sequence[int], today: dt.date, rules: Rules
) -> list[SheetCell]:  # fmt: skip
    """The rows of these cells' athletes as the sheet shows them."""
    ids = list(session.scalars(select(Cell.athlete_id).where(Cell.id.in_(cell_ids)).distinct()))
    athletes = list(session.scalars(select(Athlete).where(Athlete.id.in_(ids))))
    ready = readiness_of(session, squad_id, athletes, today, rules)
    movement = library_of(session, squad_id).get(slot.movement)
    outline, courses = _laid(block, slot, movement), own_courses(session, [slot.id])
    days = [session_day(block, slot, p.week) for p in outline]
    rows: dict[int, dict[int, PlacedCell]] = defaultdict(dict)
    query = select(*COLUMNS).where(Cell.slot_id == slot.id, Cell.current, Cell.athlete_id.in_(ids))
    for values in session.execute(query):
        cell = PlacedCell._make(values)
        rows[cell.athlete_id][cell.week] = cell
    done = _sets_done(session, slot.id)
    this_week = week_of(block, today)
    drawn = [
        row_of(
            ready[a.id], movement, rows[a.id], outline, days, done, this_week, slot.ladder,
            _own(courses, block, slot, movement, a.id),
        )
        for a in athletes
    ]  # fmt: skip
    return [cell for row in drawn for cell in row.cells if cell.id]


def _sets_done(session: Session, slot_id: int) -> dict[tuple[int, int], int]:
    rows = session.execute(
        select(Cell.athlete_id, Cell.week, func.count())
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(Cell.slot_id == slot_id, ~SetEntry.replaced, ~SetEntry.withdrawn)
        .group_by(Cell.athlete_id, Cell.week)
    )
    return {(athlete_id, week): count for athlete_id, week, count in rows}


def athletes_with_load(session: Session, slot: BlockSlot) -> set[int]:
    """Who has a load planned in a slot."""
    query = select(Cell.athlete_id).where(Cell.slot_id == slot.id, Cell.current, Cell.load_kg.is_not(None))
    return set(session.scalars(query.distinct()))


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
    by_slot: dict[int, dict[int, PlacedCell]] = defaultdict(dict)
    query = select(Cell.slot_id, *COLUMNS).where(
        Cell.slot_id.in_(slot_ids), Cell.athlete_id == athlete.id, Cell.current
    )
    for slot_id, *values in session.execute(query):
        cell = PlacedCell._make(values)
        by_slot[slot_id][cell.week] = cell
    done: dict[int, dict[tuple[int, int], int]] = defaultdict(dict)
    counted = (
        select(Cell.slot_id, Cell.week, func.count())
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(
            Cell.slot_id.in_(slot_ids), Cell.athlete_id == athlete.id, ~SetEntry.replaced, ~SetEntry.withdrawn
        )
        .group_by(Cell.slot_id, Cell.week)
    )
    for slot_id, week, count in session.execute(counted):
        done[slot_id][athlete.id, week] = count
    this_week = week_of(block, today)
    courses = own_courses(session, slot_ids)
    found = []
    for slot in block.slots:
        movement = library.get(slot.movement)
        own = _own(courses, block, slot, movement, athlete.id)
        outline = own[1] if own else _laid(block, slot, movement)
        days = [session_day(block, slot, p.week) for p in outline]
        row = row_of(
            ready, movement, by_slot[slot.id], outline, days, done[slot.id], this_week, slot.ladder, own
        )
        found.append(AthleteLine(slot, movement, outline, row))
    return found


@dataclass(frozen=True)
class Panel:
    """One cell opened: the load, how it came about, and what it was before."""

    cell: Cell
    slot: BlockSlot
    block: Block
    athlete: Athlete
    movement: Movement
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
    ready, library = readiness_one(session, athlete, today, rules), library_of(session, squad_id)
    movement, day = movement_of(library, slot, cell), session_day(block, slot, cell.week)
    stop, bounds = ready.stop_on(movement), ready.bounds(movement, day)
    gate = ready.gate(movement) if cell.movement or not slot.ladder else ()
    refused = ""
    if day < today:
        pass  # what was lifted stays to be read
    elif stop:
        refused = f"Stopped: pain, {stop.place}. No load until it is cleared."
    elif gate:
        refused = f"Not yet through the gate: {', '.join(map(finding_words, gate))}."
    elif bounds.barred_by:
        refused = f"A limit set by {bounds.barred_by.set_by} forbids it on this day."
    elif bounds.most_kg is not None and (cell.load_kg or 0) > bounds.most_kg + 1e-9:
        refused = f"Over the limit of {bounds.most_kg:g} kg: plan anew, and the sheet follows the limit."
    logged = session.scalar(
        select(func.count()).where(SetEntry.cell_id == cell.id, ~SetEntry.replaced, ~SetEntry.withdrawn)
    )
    return Panel(
        cell, slot, block, athlete, movement, day, Working.from_plain(cell.working), _history(session, cell), refused,
        rest_of(cell, slot), cell.state != State.RUNG.value and not refused and not logged and day >= today and cell.current,
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
