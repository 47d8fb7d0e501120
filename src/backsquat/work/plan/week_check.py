"""The week check of a block: each athlete's week judged, gathered for the squad."""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session, defer

from backsquat.core.findings import Finding, Severity
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Family
from backsquat.core.progression.audit import Item, WeekNumbers, audit_week, count_week
from backsquat.core.progression.cell import LIFTED
from backsquat.core.progression.prescription import Kind
from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, SetEntry
from backsquat.work.library.movements import library_of
from backsquat.work.plan.cells import movement_of
from backsquat.work.sessions.blocks import left_out, own_days, session_day
from backsquat.work.squad.athletes import squad_athletes


@dataclass(frozen=True)
class AthleteWeek:
    """One athlete's week with what it asks for and what is to be said of it."""

    athlete: Athlete
    items: list[Item]
    numbers: WeekNumbers
    findings: list[Finding]


@dataclass(frozen=True)
class Gathered:
    """One finding for the squad: who it concerns, said with the facts of the first of them."""

    finding: Finding
    athletes: list[Athlete]
    of: int  # athletes with anything in that week


def audit_block_week(
    session: Session, squad_id: int, block: Block, week: int, rules: Rules, *, done: bool = False
) -> list[AthleteWeek]:
    """Every athlete's week as planned, or as logged; a fixed number of queries."""
    return audit_block_weeks(session, squad_id, block, [week], rules, done=done)[week]


def audit_block_weeks(
    session: Session, squad_id: int, block: Block, weeks: Sequence[int], rules: Rules, *, done: bool = False
) -> dict[int, list[AthleteWeek]]:
    """The same for several weeks of a block at once."""
    items, athletes = _items(session, squad_id, block, weeks, done), squad_athletes(session, squad_id)
    return {
        week: [
            AthleteWeek(athlete, mine, count_week(mine, rules), audit_week(mine, rules))
            for athlete in athletes
            if (mine := items.get((athlete.id, week)))
        ]
        for week in weeks
    }


def done_weeks(session: Session, squad_id: int, block: Block, weeks: Sequence[int], rules: Rules) -> list[WeekNumbers]:
    """What was done in weeks of a block, one entry for each athlete and week with anything in it; two queries."""
    items = _items(session, squad_id, block, weeks, done=True)
    return [count_week(mine, rules) for mine in items.values()]


def _items(
    session: Session, squad_id: int, block: Block, weeks: Sequence[int], done: bool
) -> dict[tuple[int, int], list[Item]]:
    """(athlete, week) → the week's work: as planned without what is left out, or what was logged of it."""
    library = library_of(session, squad_id)
    slots = {slot.id: slot for slot in block.slots}
    cells = session.scalars(
        select(Cell)
        .where(Cell.slot_id.in_(list(slots)), Cell.week.in_(weeks), Cell.current, Cell.state.in_(LIFTED))
        .options(
            defer(Cell.working), defer(Cell.inputs)
        )  # hundreds of cells, of which nobody reads how they came about
    ).all()
    counts: dict[int, tuple[int, float | None]] = {}
    if done:
        mine = select(Cell.id).where(Cell.slot_id.in_(list(slots)), Cell.week.in_(weeks), Cell.current)
        rows = session.execute(
            select(SetEntry.cell_id, func.count(SetEntry.set_number.distinct()), func.avg(SetEntry.reserve_reps))
            .where(SetEntry.cell_id.in_(mine), SetEntry.standing)
            .group_by(SetEntry.cell_id)
        )
        counts = {cell_id: (sets, left) for cell_id, sets, left in rows if cell_id}
    items: dict[tuple[int, int], list[Item]] = defaultdict(list)
    own = own_days(session, {held.id for held in block.sessions})
    for cell in cells:
        slot = slots[cell.slot_id]
        day = own.get((slot.session_in(cell.week).id, cell.week), {}).get(cell.athlete_id)
        if cell.id in counts if done else not left_out(slot, cell.week):
            items[cell.athlete_id, cell.week].append(_item(library, slot, cell, day, counts.get(cell.id)))
    return items


def _item(
    library: Library, slot: BlockSlot, cell: Cell, own: dt.date | None, done: tuple[int, float | None] | None
) -> Item:
    relative = cell.load_kg / cell.planning_max_kg if cell.load_kg and cell.planning_max_kg else None
    left = cell.reserve_reps if done is None or done[1] is None else round(done[1])
    sets = cell.sets if done is None else done[0]
    movement = movement_of(library, slot, cell)
    fast = slot.school == "speed" or movement.family is Family.MOBILITY  # neither ends near failure
    return Item(
        movement,
        (own or session_day(slot, cell.week)).weekday(),
        sets,
        left,
        relative,
        cell.kind is Kind.EASY,
        slot.id,
        fast,
    )


def gathered(weeks: Sequence[AthleteWeek]) -> list[Gathered]:
    """The findings of the squad, those of most athletes first."""
    found: dict[tuple[str, str], list[tuple[Finding, Athlete]]] = defaultdict(list)
    for one in weeks:
        for finding in one.findings:
            found[finding.code, finding.about].append((finding, one.athlete))
    groups = [
        Gathered(max((f for f, _ in group), key=_size), [athlete for _, athlete in group], len(weeks))
        for group in found.values()
    ]
    grave = {Severity.STOP: 0, Severity.WATCH: 1, Severity.NOTE: 2}
    return sorted(groups, key=lambda group: (grave[group.finding.severity], -len(group.athletes)))


def _size(finding: Finding) -> float:
    return float(finding.facts.get("cost", finding.facts.get("sets", 0)))
