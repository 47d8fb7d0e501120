"""Writes to planned cells. Cells are only added: `current` moves to the newest of a cell, `live` by publishing."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import BindParameter, Select, bindparam, func, insert, or_, select, update
from sqlalchemy.orm import Session, aliased, defer

from backsquat.core.errors import Refused
from backsquat.core.loads.achievable import Load
from backsquat.core.loads.room import Room
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Movement
from backsquat.core.working import Working
from backsquat.storage.convert import planned_load
from backsquat.storage.models import Block, Cell, Change, Exercise, PlanVersion
from backsquat.work.context import WorkContext
from backsquat.work.journal import restores
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.drafts import COMPARED, Draft
from backsquat.work.plan.progression_settings import setting_of
from backsquat.work.policy import Act, require
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.sessions.arrange import arrange, moved_exercises
from backsquat.work.sessions.blocks import block_of, session_day, to_come

UNREAD = (
    defer(Cell.working),
    defer(Cell.inputs),
    defer(Cell.side),
)  # most of what a cell weighs, read where it is shown


@dataclass(frozen=True)
class Placed:
    """The new cells in the order of their drafts, those they replace, and the places where nothing stood."""

    ids: list[int]
    replaced: list[int]
    new: list[tuple[int, int, int]] = field(default_factory=list)  # exercise, athlete, week


def place_drafts(context: WorkContext, drafts: Sequence[Draft]) -> Placed:
    """Make these the current cells; each names the one it replaces."""
    if not drafts:
        return Placed([], [])
    exercise_ids = {draft.exercise_id for draft in drafts}
    athlete_ids = {draft.athlete_id for draft in drafts}
    rows = context.db.execute(
        select(Cell.id, Cell.exercise_id, Cell.athlete_id, Cell.week).where(
            Cell.exercise_id.in_(exercise_ids), Cell.athlete_id.in_(athlete_ids), Cell.current
        )
    )
    standing = {(exercise_id, athlete_id, week): cell_id for cell_id, exercise_id, athlete_id, week in rows}
    replaces = [standing.get((draft.exercise_id, draft.athlete_id, draft.week)) for draft in drafts]
    replaced = [cell_id for cell_id in replaces if cell_id]
    context.db.execute(update(Cell).where(Cell.id.in_(replaced)).values(current=False))
    values = [
        draft.row(context.actor) | {"replaces_id": cell_id} for draft, cell_id in zip(drafts, replaces, strict=True)
    ]
    new = context.db.scalars(insert(Cell).returning(Cell.id, sort_by_parameter_order=True), values)
    places = [(draft.exercise_id, draft.athlete_id, draft.week) for draft in drafts]
    return Placed(list(new), replaced, [place for place in places if place not in standing])


@restores("cells")
def restore_cells(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: the earlier numbers are written again, new ones taken out; answers with what was there."""
    taken = take_out(context, change.subject_id, change.before.get("new", []))
    placed = bring_back(context, change.subject_id, change.before["cells"])
    return {"cells": placed.replaced + taken, "new": placed.new}


def take_out(context: WorkContext, block_id: int, places: Sequence[Sequence[int]]) -> list[int]:
    """Empty these places of the sheet, where nothing is logged or past; the ids of what stood there."""
    exercises = {exercise.id: exercise for exercise in block_of(context.db, context.squad_id, block_id).every_exercise}
    wanted = {(exercise_id, athlete_id, week) for exercise_id, athlete_id, week in places} - logged_cells(
        context.db, list(exercises)
    )
    cells = context.db.scalars(
        select(Cell).where(Cell.exercise_id.in_({exercise_id for exercise_id, _, _ in wanted}), Cell.current)
    )
    taken = [
        cell
        for cell in cells
        if (cell.exercise_id, cell.athlete_id, cell.week) in wanted
        and to_come(exercises[cell.exercise_id], cell.week, context.today)
    ]
    for cell in taken:
        cell.current = False
    context.db.flush()
    return [cell.id for cell in taken]


def bring_back(context: WorkContext, block_id: int, cell_ids: Sequence[int]) -> Placed:
    """Write these numbers again; returns them and what they replace.

    What is logged or past by now keeps its own, and so does who trains in another room by now.
    """
    block, rooms = block_of(context.db, context.squad_id, block_id), rooms_of(context.db, context.squad_id)
    exercises = {exercise.id: exercise for exercise in block.every_exercise}
    logged = logged_cells(context.db, list(exercises))
    cells = context.db.scalars(select(Cell).where(Cell.id.in_(cell_ids), Cell.exercise_id.in_(list(exercises))))
    drafts = [
        Draft.of(cell)
        for cell in cells
        if (cell.exercise_id, cell.athlete_id, cell.week) not in logged
        and to_come(exercises[cell.exercise_id], cell.week, context.today)
        and cell.room_id == rooms.id_on(cell.athlete_id, session_day(exercises[cell.exercise_id], cell.week))
    ]
    return place_drafts(context, drafts)


def publish(context: WorkContext, block_id: int, why: str = "published") -> PlanVersion:
    """Make the sheet's numbers, days and order the floor's. Refused where the floor has them all already."""
    require(context.actor, Act.PLAN)
    block = block_of(context.db, context.squad_id, block_id)
    exercise_ids = [exercise.id for exercise in block.exercises]
    waiting = context.db.execute(
        select(Cell.id, Cell.exercise_id, Cell.athlete_id, Cell.week).where(
            Cell.exercise_id.in_(exercise_ids), Cell.current, ~Cell.live
        )
    ).all()
    gone = list(context.db.scalars(_EMPTIED, {"exercises": exercise_ids}))
    if not waiting and not gone and not moved_exercises(block):
        raise Refused("nothing_to_publish")
    arrange(context.db, block, context.today)
    context.db.execute(update(Cell).where(Cell.id.in_(gone)).values(live=False))
    logged = logged_cells(context.db, exercise_ids)
    begun = {row.id for row in waiting if (row.exercise_id, row.athlete_id, row.week) in logged}
    _drop_drafts(context.db, begun)
    ready = [row.id for row in waiting if row.id not in begun]
    return make_live(context, block.id, ready, why)


def _drop_drafts(db: Session, cell_ids: Collection[int]) -> None:
    """Somebody has lifted there meanwhile: the sheet goes back to the number that was lifted."""
    if not cell_ids:
        return
    draft = aliased(Cell)
    same = (draft.exercise_id == Cell.exercise_id) & (draft.athlete_id == Cell.athlete_id) & (draft.week == Cell.week)
    lifted = list(db.scalars(select(Cell).join(draft, same).where(draft.id.in_(cell_ids), Cell.live)))
    db.execute(update(Cell).where(Cell.id.in_(cell_ids)).values(current=False))
    for cell in lifted:
        cell.current = True
    db.flush()


def make_live(context: WorkContext, block_id: int, cell_ids: Sequence[int], why: str) -> PlanVersion:
    """A new version in which these cells take over from what was live."""
    number = context.db.scalar(select(func.max(PlanVersion.number)).where(PlanVersion.block_id == block_id)) or 0
    version = PlanVersion(block_id=block_id, number=number + 1, why=why, by_id=context.actor.user_id, at=context.now)
    context.db.add(version)
    context.db.flush()
    new = select(Cell.exercise_id, Cell.athlete_id, Cell.week).where(Cell.id.in_(cell_ids)).subquery()
    same = (Cell.exercise_id == new.c.exercise_id) & (Cell.athlete_id == new.c.athlete_id) & (Cell.week == new.c.week)
    old = select(Cell.id).join(new, same).where(Cell.live)
    unsynchronised = {"synchronize_session": False}
    context.db.execute(update(Cell).where(Cell.id.in_(old)).values(live=False), execution_options=unsynchronised)
    context.db.execute(
        update(Cell).where(Cell.id.in_(cell_ids)).values(live=True, version_id=version.id),
        execution_options=unsynchronised,
    )
    for cell in context.db.identity_map.values():
        if isinstance(cell, Cell):
            context.db.expire(cell, ["live", "version_id"])
    return version


_EXERCISES: BindParameter[int] = bindparam("exercises", expanding=True)


def _emptied() -> Select[int]:
    """What the floor still has although the sheet has nothing there any more."""
    drawn = aliased(Cell)
    same = (drawn.exercise_id == Cell.exercise_id) & (drawn.athlete_id == Cell.athlete_id) & (drawn.week == Cell.week)
    shown = select(drawn.id).where(same, drawn.current).exists()
    return select(Cell.id).where(Cell.exercise_id.in_(_EXERCISES), Cell.live, ~Cell.current, ~shown)


def _standing() -> Select[int, int, int]:
    """How many numbers wait, how many places are empty by now, how often the block was published."""
    live = aliased(Cell)
    same = (
        (live.exercise_id == Cell.exercise_id)
        & (live.athlete_id == Cell.athlete_id)
        & (live.week == Cell.week)
        & live.live
    )
    differs = or_(live.id.is_(None), *(getattr(live, name).is_distinct_from(getattr(Cell, name)) for name in COMPARED))
    drafts = (
        select(func.count())
        .select_from(Cell)
        .outerjoin(live, same)
        .where(Cell.exercise_id.in_(_EXERCISES), Cell.current, ~Cell.live, differs)
    )
    emptied = select(func.count()).select_from(_EMPTIED.subquery())
    published = select(func.count()).where(PlanVersion.block_id == bindparam("block"))
    return select(drafts.scalar_subquery(), emptied.scalar_subquery(), published.scalar_subquery())


_EMPTIED = _emptied()
_STANDING = _standing()  # asked at the head of every page of a block; made once, it is long


def standing_of(db: Session, block: Block) -> tuple[int, bool]:
    """How many numbers and moved exercises wait to be published, and whether anything ever was.

    A draft that says what the floor has already is no change: an undo leads back to one.
    """
    asked = {"exercises": [exercise.id for exercise in block.exercises], "block": block.id}
    drafts, emptied, published = db.execute(_STANDING, asked).one()
    return drafts + emptied + len(moved_exercises(block)), bool(published)


def athletes_with_load(db: Session, exercise: Exercise) -> set[int]:
    """Ids of those who have a load planned in an exercise."""
    query = select(Cell.athlete_id).where(Cell.exercise_id == exercise.id, Cell.current, Cell.load_kg.is_not(None))
    return set(db.scalars(query.distinct()))


def movement_of(library: Library, exercise: Exercise, cell: Cell) -> Movement:
    """What a cell really asks for: its own movement, or the exercise's."""
    return library.get(cell.movement or exercise.movement)


def rest_of(cell: Cell, exercise: Exercise) -> int:
    """Seconds of rest between the sets of a cell."""
    if cell.rest_s:
        return cell.rest_s
    rest_s: int = setting_of(exercise).parameters.rest_s
    return rest_s


def working_of(db: Session, cell_id: int) -> Working:
    """How the number of a cell came about."""
    return Working.from_plain(db.scalars(select(Cell.working).where(Cell.id == cell_id)).one())


def cell_load(room: Room, movement: Movement, cell: Cell) -> Load | None:
    """The cell's load in the room as it is now; None where the room can no longer make it."""
    return planned_load(room, movement, cell.bar, cell.load_amount, cell.load_unit)
