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
from backsquat.storage.models import Block, BlockSlot, Cell, Change, PlanVersion
from backsquat.work.actor import Actor
from backsquat.work.journal import restores
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.drafts import COMPARED, Draft
from backsquat.work.plan.school_settings import setting_of
from backsquat.work.policy import Act, require
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.sessions.arrange import arrange, moved_slots
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
    new: list[tuple[int, int, int]] = field(default_factory=list)  # slot, athlete, week


def place_drafts(session: Session, actor: Actor, drafts: Sequence[Draft]) -> Placed:
    """Make these the current cells; each names the one it replaces."""
    if not drafts:
        return Placed([], [])
    slot_ids = {draft.slot_id for draft in drafts}
    athlete_ids = {draft.athlete_id for draft in drafts}
    rows = session.execute(
        select(Cell.id, Cell.slot_id, Cell.athlete_id, Cell.week).where(
            Cell.slot_id.in_(slot_ids), Cell.athlete_id.in_(athlete_ids), Cell.current
        )
    )
    standing = {(slot_id, athlete_id, week): cell_id for cell_id, slot_id, athlete_id, week in rows}
    replaces = [standing.get((draft.slot_id, draft.athlete_id, draft.week)) for draft in drafts]
    replaced = [cell_id for cell_id in replaces if cell_id]
    session.execute(update(Cell).where(Cell.id.in_(replaced)).values(current=False))
    values = [draft.row(actor) | {"replaces_id": cell_id} for draft, cell_id in zip(drafts, replaces, strict=True)]
    new = session.scalars(insert(Cell).returning(Cell.id, sort_by_parameter_order=True), values)
    places = [(draft.slot_id, draft.athlete_id, draft.week) for draft in drafts]
    return Placed(list(new), replaced, [place for place in places if place not in standing])


@restores("cells")
def restore_cells(session: Session, actor: Actor, change: Change) -> dict[str, Any]:
    """Undo, and redo: the earlier numbers are written anew, new ones taken out; answers with what was there."""
    taken = take_out(session, actor, change.subject_id, change.before.get("new", []))
    placed = bring_back(session, actor, change.subject_id, change.before["cells"])
    return {"cells": placed.replaced + taken, "new": placed.new}


def take_out(session: Session, actor: Actor, block_id: int, places: Sequence[Sequence[int]]) -> list[int]:
    """Empty these places of the sheet, where nothing is logged or past; the ids of what stood there."""
    slots = {slot.id: slot for slot in block_of(session, actor.squad_id, block_id).every_slot}
    wanted = {(slot_id, athlete_id, week) for slot_id, athlete_id, week in places} - logged_cells(session, list(slots))
    cells = session.scalars(select(Cell).where(Cell.slot_id.in_({slot_id for slot_id, _, _ in wanted}), Cell.current))
    taken = [
        cell
        for cell in cells
        if (cell.slot_id, cell.athlete_id, cell.week) in wanted and to_come(slots[cell.slot_id], cell.week, actor.today)
    ]
    for cell in taken:
        cell.current = False
    session.flush()
    return [cell.id for cell in taken]


def bring_back(session: Session, actor: Actor, block_id: int, cell_ids: Sequence[int]) -> Placed:
    """Write these numbers anew; returns them and what they replace.

    What is logged or past by now keeps its own, and so does who trains in another room by now.
    """
    block, rooms = block_of(session, actor.squad_id, block_id), rooms_of(session, actor.squad_id)
    slots = {slot.id: slot for slot in block.every_slot}
    logged = logged_cells(session, list(slots))
    cells = session.scalars(select(Cell).where(Cell.id.in_(cell_ids), Cell.slot_id.in_(list(slots))))
    drafts = [
        Draft.of(cell)
        for cell in cells
        if (cell.slot_id, cell.athlete_id, cell.week) not in logged
        and to_come(slots[cell.slot_id], cell.week, actor.today)
        and cell.room_id == rooms.id_on(cell.athlete_id, session_day(slots[cell.slot_id], cell.week))
    ]
    return place_drafts(session, actor, drafts)


def publish(session: Session, actor: Actor, block_id: int, why: str = "published") -> PlanVersion:
    """Make the sheet's numbers, days and order the floor's. Refused where the floor has them all already."""
    require(actor, Act.PLAN)
    block = block_of(session, actor.squad_id, block_id)
    slot_ids = [slot.id for slot in block.slots]
    waiting = session.execute(
        select(Cell.id, Cell.slot_id, Cell.athlete_id, Cell.week).where(
            Cell.slot_id.in_(slot_ids), Cell.current, ~Cell.live
        )
    ).all()
    gone = list(session.scalars(_EMPTIED, {"slots": slot_ids}))
    if not waiting and not gone and not moved_slots(block):
        raise Refused("nothing_to_publish")
    arrange(session, block, actor.today)
    session.execute(update(Cell).where(Cell.id.in_(gone)).values(live=False))
    logged = logged_cells(session, slot_ids)
    begun = {row.id for row in waiting if (row.slot_id, row.athlete_id, row.week) in logged}
    _drop_drafts(session, begun)
    ready = [row.id for row in waiting if row.id not in begun]
    return make_live(session, actor, block.id, ready, why)


def _drop_drafts(session: Session, cell_ids: Collection[int]) -> None:
    """Somebody has lifted there meanwhile: the sheet goes back to the number that was lifted."""
    if not cell_ids:
        return
    draft = aliased(Cell)
    same = (draft.slot_id == Cell.slot_id) & (draft.athlete_id == Cell.athlete_id) & (draft.week == Cell.week)
    lifted = list(session.scalars(select(Cell).join(draft, same).where(draft.id.in_(cell_ids), Cell.live)))
    session.execute(update(Cell).where(Cell.id.in_(cell_ids)).values(current=False))
    for cell in lifted:
        cell.current = True
    session.flush()


def make_live(session: Session, actor: Actor, block_id: int, cell_ids: Sequence[int], why: str) -> PlanVersion:
    """A new version in which these cells take over from what was live."""
    number = session.scalar(select(func.max(PlanVersion.number)).where(PlanVersion.block_id == block_id)) or 0
    version = PlanVersion(block_id=block_id, number=number + 1, why=why, by_id=actor.user_id, at=actor.now)
    session.add(version)
    session.flush()
    new = select(Cell.slot_id, Cell.athlete_id, Cell.week).where(Cell.id.in_(cell_ids)).subquery()
    same = (Cell.slot_id == new.c.slot_id) & (Cell.athlete_id == new.c.athlete_id) & (Cell.week == new.c.week)
    old = select(Cell.id).join(new, same).where(Cell.live)
    unsynchronised = {"synchronize_session": False}
    session.execute(update(Cell).where(Cell.id.in_(old)).values(live=False), execution_options=unsynchronised)
    session.execute(
        update(Cell).where(Cell.id.in_(cell_ids)).values(live=True, version_id=version.id),
        execution_options=unsynchronised,
    )
    for cell in session.identity_map.values():
        if isinstance(cell, Cell):
            session.expire(cell, ["live", "version_id"])
    return version


_SLOTS: BindParameter[int] = bindparam("slots", expanding=True)


def _emptied() -> Select[int]:
    """What the floor still has although the sheet has nothing there any more."""
    drawn = aliased(Cell)
    same = (drawn.slot_id == Cell.slot_id) & (drawn.athlete_id == Cell.athlete_id) & (drawn.week == Cell.week)
    shown = select(drawn.id).where(same, drawn.current).exists()
    return select(Cell.id).where(Cell.slot_id.in_(_SLOTS), Cell.live, ~Cell.current, ~shown)


def _standing() -> Select[int, int, int]:
    """How many numbers wait, how many places are empty by now, how often the block was published."""
    live = aliased(Cell)
    same = (live.slot_id == Cell.slot_id) & (live.athlete_id == Cell.athlete_id) & (live.week == Cell.week) & live.live
    differs = or_(live.id.is_(None), *(getattr(live, name).is_distinct_from(getattr(Cell, name)) for name in COMPARED))
    drafts = (
        select(func.count())
        .select_from(Cell)
        .outerjoin(live, same)
        .where(Cell.slot_id.in_(_SLOTS), Cell.current, ~Cell.live, differs)
    )
    emptied = select(func.count()).select_from(_EMPTIED.subquery())
    published = select(func.count()).where(PlanVersion.block_id == bindparam("block"))
    return select(drafts.scalar_subquery(), emptied.scalar_subquery(), published.scalar_subquery())


_EMPTIED = _emptied()
_STANDING = _standing()  # asked at the head of every page of a block; made once, it is long


def standing_of(session: Session, block: Block) -> tuple[int, bool]:
    """How many numbers and moved slots wait to be published, and whether anything ever was.

    A draft that says what the floor has already is no change: an undo leads back to one.
    """
    asked = {"slots": [slot.id for slot in block.slots], "block": block.id}
    drafts, emptied, published = session.execute(_STANDING, asked).one()
    return drafts + emptied + len(moved_slots(block)), bool(published)


def athletes_with_load(session: Session, slot: BlockSlot) -> set[int]:
    """Ids of those who have a load planned in a slot."""
    query = select(Cell.athlete_id).where(Cell.slot_id == slot.id, Cell.current, Cell.load_kg.is_not(None))
    return set(session.scalars(query.distinct()))


def movement_of(library: Library, slot: BlockSlot, cell: Cell) -> Movement:
    """What a cell really asks for: its own movement, or the slot's."""
    return library.get(cell.movement or slot.movement)


def rest_of(cell: Cell, slot: BlockSlot) -> int:
    """Seconds of rest between the sets of a cell."""
    if cell.rest_s:
        return cell.rest_s
    rest_s: int = setting_of(slot).parameters.rest_s
    return rest_s


def working_of(session: Session, cell_id: int) -> Working:
    """How the number of a cell came about."""
    return Working.from_plain(session.scalars(select(Cell.working).where(Cell.id == cell_id)).one())


def cell_load(room: Room, movement: Movement, cell: Cell) -> Load | None:
    """The cell's load in the room as it is now; None where the room can no longer make it."""
    return planned_load(room, movement, cell.bar, cell.load_amount, cell.load_unit)
