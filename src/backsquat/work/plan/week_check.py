"""The week check of a block: each athlete's week judged, gathered for the squad."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from backsquat.core.findings import Finding, Severity
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.audit import WeekItem, WeekNumbers, audit_week, count_week
from backsquat.core.progression.cell import LIFTED
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, Block, Cell, Exercise, SetEntry
from backsquat.work.context import library_of
from backsquat.work.sessions.blocks import left_out, own_days, session_day
from backsquat.work.squad.athletes import squad_athletes


@dataclass(frozen=True)
class AthleteWeek:
    """One athlete's week with what it asks for and what is to be said of it."""

    athlete: Athlete
    items: list[WeekItem]
    numbers: WeekNumbers
    findings: list[Finding]


@dataclass(frozen=True)
class Gathered:
    """One finding for the squad: who it concerns, said with the facts of the first of them."""

    finding: Finding
    athletes: list[Athlete]
    of: int  # athletes with anything in that week


def audit_block_week(
    db: Session, squad_id: int, block: Block, week: int, rules: Rules, *, done: bool = False
) -> list[AthleteWeek]:
    """Every athlete's week as planned, or as logged; a fixed number of queries."""
    return audit_block_weeks(db, squad_id, block, [week], rules, done=done)[week]


def audit_block_weeks(
    db: Session, squad_id: int, block: Block, weeks: Sequence[int], rules: Rules, *, done: bool = False
) -> dict[int, list[AthleteWeek]]:
    """The same for several weeks of a block at once."""
    items, athletes = _items(db, squad_id, block, weeks, done), squad_athletes(db, squad_id)
    return {
        week: [
            AthleteWeek(athlete, mine, count_week(mine, rules), audit_week(mine, rules, in_season=block.in_season))
            for athlete in athletes
            if (mine := items.get((athlete.id, week)))
        ]
        for week in weeks
    }


def done_in(db: Session, squad_id: int, block: Block, weeks: Sequence[int], rules: Rules) -> tuple[WeekNumbers, int]:
    """What everybody did in weeks of a block, added up, and in how many weeks of an athlete anything was done.

    Sets, families and strain add up, so they are added where they lie: a block of a season has thousands of cells.
    """
    library, exercises = library_of(db, squad_id), {exercise.id: exercise for exercise in block.exercises}
    cells = _done(list(exercises), weeks).cte()
    each = select(cells.c.athlete_id, cells.c.week).distinct().subquery()
    many = select(func.count()).select_from(each).scalar_subquery()
    same = (cells.c.exercise_id, cells.c.movement, cells.c.left)
    rows = db.execute(select(*same, func.sum(cells.c.sets), many).group_by(*same)).all()
    items = [
        WeekItem(movement, 0, sets, round(left), None, fast=_fast(exercises[exercise_id], movement))
        for exercise_id, code, left, sets, _ in rows
        for movement in [library.get(code or exercises[exercise_id].movement)]
    ]
    return count_week(items, rules), rows[0][-1] if rows else 0


def _items(
    db: Session, squad_id: int, block: Block, weeks: Sequence[int], done: bool
) -> dict[tuple[int, int], list[WeekItem]]:
    """(athlete, week) → the week's work: as planned without what is left out, or what was logged of it."""
    library, exercises = library_of(db, squad_id), {exercise.id: exercise for exercise in block.exercises}
    own = own_days(db, {held.id for held in block.sessions})
    out = set() if done else {(one.id, week) for one in block.exercises for week in weeks if left_out(one, week)}
    items: dict[tuple[int, int], list[WeekItem]] = defaultdict(list)
    for cell in db.execute((_done if done else _planned)(list(exercises), weeks)):
        exercise = exercises[cell.exercise_id]
        if (exercise.id, cell.week) in out:
            continue
        movement = library.get(cell.movement or exercise.movement)
        alone = own.get((exercise.session_in(cell.week).id, cell.week), {}).get(cell.athlete_id)
        items[cell.athlete_id, cell.week].append(
            WeekItem(
                movement,
                (alone or session_day(exercise, cell.week)).weekday(),
                cell.sets,
                round(cell.left),
                cell.load_kg / cell.planning_max_kg if cell.load_kg and cell.planning_max_kg else None,
                cell.kind is ExposureKind.DELOAD,
                exercise.id,
                _fast(exercise, movement),
            )
        )
    return items


def _fast(exercise: Exercise, movement: Movement) -> bool:
    """Work that does not end near failure, whatever is left."""
    return PROGRESSIONS[exercise.progression].fast or movement.family is Family.MOBILITY


_OF_CELL: Sequence[Any] = (
    Cell.exercise_id,
    Cell.athlete_id,
    Cell.week,
    Cell.movement,
    Cell.kind,
    Cell.load_kg,
    Cell.planning_max_kg,
)


def _planned(exercise_ids: Sequence[int], weeks: Sequence[int]) -> Select[Any]:
    """What stands in the cells with something to lift: a handful of columns of what may be thousands of rows."""
    return select(*_OF_CELL, Cell.sets, Cell.reserve_reps.label("left")).where(
        Cell.exercise_id.in_(exercise_ids), Cell.week.in_(weeks), Cell.current, Cell.state.in_(LIFTED)
    )


def _done(exercise_ids: Sequence[int], weeks: Sequence[int]) -> Select[Any]:
    """The same of those with a set logged: the sets done, and what was left of them on average where it was said."""
    sets = func.count(SetEntry.set_number.distinct()).label("sets")  # one logged side by side is one
    left = func.coalesce(func.avg(SetEntry.reserve_reps), Cell.reserve_reps).label("left")
    logged = _planned(exercise_ids, weeks).join(SetEntry, SetEntry.cell_id == Cell.id).where(SetEntry.standing)
    return logged.with_only_columns(*_OF_CELL, sets, left, maintain_column_froms=True).group_by(Cell.id)


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
