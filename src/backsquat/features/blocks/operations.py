"""Writes to planned cells. Cells are only added; `current` moves to the newest of a place, `live` by publishing."""

import datetime as dt
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, insert, select, update
from sqlalchemy.orm import Session, aliased, lazyload

from backsquat.core.errors import NotThere, Refused
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.row import State
from backsquat.core.rules import Rules
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.blocks.courses import own_courses
from backsquat.features.blocks.planning import (
    known_candidates,
    logged_places,
    planned_cells,
    session_day,
    slot_plan,
)
from backsquat.features.desk import Actor
from backsquat.features.journal import last_change, remember, restores
from backsquat.features.movements.queries import library_of
from backsquat.features.room.rooms import rooms_of
from backsquat.storage.models import Block, BlockSlot, Cell, Change, PlanVersion


def block_of(session: Session, squad_id: int, block_id: int) -> Block:
    block = session.get(Block, block_id)
    if block is None or block.squad_id != squad_id:
        raise NotThere("block")
    return block


def place_cells(session: Session, rows: Sequence[dict[str, Any]]) -> list[int]:
    """Make these the current cells of their places; each names the one it replaces. Returns the new ids."""
    if not rows:
        return []
    slot_ids = {row["slot_id"] for row in rows}
    athlete_ids = {row["athlete_id"] for row in rows}
    standing = {
        (slot_id, athlete_id, week): cell_id
        for cell_id, slot_id, athlete_id, week in session.execute(
            select(Cell.id, Cell.slot_id, Cell.athlete_id, Cell.week).where(
                Cell.slot_id.in_(slot_ids), Cell.athlete_id.in_(athlete_ids), Cell.current
            )
        )
    }
    for row in rows:
        row["replaces_id"] = standing.get((row["slot_id"], row["athlete_id"], row["week"]))
    replaced = [row["replaces_id"] for row in rows if row["replaces_id"]]
    session.execute(update(Cell).where(Cell.id.in_(replaced)).values(current=False))
    return list(session.scalars(insert(Cell).returning(Cell.id, sort_by_parameter_order=True), rows))


@dataclass(frozen=True)
class Replanned:
    """One place as it stands and as it would be planned now."""

    slot: BlockSlot
    before: Cell | None
    row: dict[str, Any]


@dataclass(frozen=True)
class Anew:
    """What is planned anew: which athletes, slots, weeks; all where nothing is said."""

    athlete_ids: Collection[int] | None = None
    slot_ids: Collection[int] | None = None
    from_week: int = 0
    only_refused: bool = False  # only rows that had no load
    touched: Callable[[Movement], bool] | None = None  # only slots of these movements
    keep_own: bool = True  # the coach's own loads stay


EVERYTHING = Anew()


def replanned(
    session: Session, actor: Actor, block: Block, rules: Rules, scope: Anew = EVERYTHING
) -> list[Replanned]:
    """What planning anew from today's records would change. What is past, logged or the coach's own stays."""
    athletes = [
        a
        for a in squad_athletes(session, actor.squad_id)
        if scope.athlete_ids is None or a.id in scope.athlete_ids
    ]
    logged = logged_places(session, [slot.id for slot in block.slots])
    library = library_of(session, actor.squad_id)
    courses = own_courses(session, [slot.id for slot in block.slots])
    found = []
    for slot in block.slots:
        if scope.touched and not scope.touched(library.get(slot.movement)):
            continue
        if scope.slot_ids is not None and slot.id not in scope.slot_ids:
            continue
        plan = slot_plan(session, block, slot, rules, courses)
        standing = {
            (cell.athlete_id, cell.week): cell
            for cell in session.scalars(select(Cell).where(Cell.slot_id == slot.id, Cell.current))
        }
        weeks = [
            week
            for week in range(scope.from_week, block.weeks)
            if session_day(block, slot, week) >= actor.today
        ]
        here = [a for a in athletes if not scope.only_refused or _without_load(standing, a.id, weeks)]
        known = known_candidates(session, here, plan, actor.today)
        for row in planned_cells(plan, here, known, actor, weeks):
            key = (row["athlete_id"], row["week"])
            if (slot.id, *key) not in logged and _differs(standing.get(key), row, scope.keep_own):
                found.append(Replanned(slot, standing.get(key), row))
    return found


def replan(session: Session, actor: Actor, block_id: int, rules: Rules, scope: Anew = EVERYTHING) -> int:
    """Plan the weeks to come anew as a draft; returns how many places changed."""
    block = block_of(session, actor.squad_id, block_id)
    changes = replanned(session, actor, block, rules, scope)
    before = [change.before.id for change in changes if change.before]
    place_cells(session, [change.row for change in changes])
    if before:
        remember(
            session, actor, what="replanned", subject="cells", subject_id=block.id, before={"cells": before}
        )
    return len(changes)


def _without_load(standing: dict[tuple[int, int], Cell], athlete_id: int, weeks: Sequence[int]) -> bool:
    cells = [standing.get((athlete_id, week)) for week in weeks]
    return any(cell is None or cell.state in _REFUSED for cell in cells)


_REFUSED = {
    State.NEEDS_TEST.value, State.GATED.value, State.LOCKED.value, State.RUNG.value, State.WORK.value,
    State.NO_RUNG.value, State.NO_ROOM.value,
}  # fmt: skip


DIFFERENCES = ("state", "movement", "load_kg", "sets", "reps", "kind", "hold_s", "room_id")


def _differs(cell: Cell | None, row: dict[str, Any], keep_own: bool) -> bool:
    if cell is None:
        return True
    if cell.origin == "coach" and keep_own:
        return False
    return any(getattr(cell, name) != row[name] for name in DIFFERENCES)


def refresh_athlete(session: Session, actor: Actor, athlete_id: int, rules: Rules) -> None:
    """After a test, a clearance or a passed gate: give the athlete's empty rows their loads, as drafts."""
    _replan_coming(session, actor, rules, Anew([athlete_id], only_refused=True))


def replan_athlete(
    session: Session,
    actor: Actor,
    athlete_id: int,
    rules: Rules,
    touched: Callable[[Movement], bool] | None = None,
) -> None:
    """A limit or a return has changed what the athlete may do: the weeks to come follow, as drafts."""
    _replan_coming(session, actor, rules, Anew([athlete_id], touched=touched))


def _replan_coming(session: Session, actor: Actor, rules: Rules, scope: Anew) -> None:
    for block in coming_blocks(session, actor):
        replan(session, actor, block.id, rules, scope)


def coming_blocks(session: Session, actor: Actor) -> list[Block]:
    """The squad's blocks that are not over."""
    blocks = session.scalars(select(Block).where(Block.squad_id == actor.squad_id).order_by(Block.first_week))
    return [block for block in blocks if block.first_week + dt.timedelta(weeks=block.weeks) > actor.today]


def publish_of_athlete(session: Session, actor: Actor, athlete_id: int, why: str) -> None:
    """Let the floor see an athlete's new rung work at once, in blocks that are published."""
    rows = session.execute(
        select(Cell.id, BlockSlot.block_id)
        .join(BlockSlot, Cell.slot_id == BlockSlot.id)
        .where(
            Cell.athlete_id == athlete_id, Cell.current, ~Cell.live, Cell.state == State.RUNG.value,
            select(PlanVersion.id).where(PlanVersion.block_id == BlockSlot.block_id).exists(),
        )
    ).all()  # fmt: skip
    for block_id in sorted({block_id for _, block_id in rows}):
        make_live(session, actor, block_id, [cell_id for cell_id, block in rows if block == block_id], why)


def cell_of(session: Session, squad_id: int, cell_id: int) -> tuple[Cell, BlockSlot, Block]:
    """A cell with its slot and block, if of this squad."""
    row = session.execute(
        select(Cell, BlockSlot, Block)
        .join(BlockSlot, Cell.slot_id == BlockSlot.id)
        .join(Block, BlockSlot.block_id == Block.id)
        .where(Cell.id == cell_id, Block.squad_id == squad_id)
        .options(lazyload(Block.every_slot))
    ).first()
    if row is None:
        raise NotThere("cell")
    cell, slot, block = row
    return cell, slot, block


_KEPT = (
    "slot_id", "athlete_id", "week", "kind", "wave", "sets", "reps", "reserve_reps", "low", "high", "hold_s", "rest_s",
    "state", "movement", "bar", "room_id",
    "load_amount", "load_unit", "load_kg", "side", "planning_max_kg", "estimate_kg", "cap_kg", "over_cap",
    "held", "origin", "inputs", "working",
)  # fmt: skip


def copied_cell(cell: Cell, actor: Actor) -> dict[str, Any]:
    """The values of a cell for a new row in its place."""
    return {name: getattr(cell, name) for name in _KEPT} | {
        "current": True, "live": False, "version_id": None, "by_id": actor.user_id, "at": actor.now,
    }  # fmt: skip


@restores("cells")
def restore_cells(session: Session, actor: Actor, change: Change) -> None:
    """Undo: the earlier numbers are written anew, and what they replace is kept for a redo."""
    replaced = bring_back(session, actor, change.subject_id, change.before["cells"])
    change.before = {"cells": change.before["cells"], "after": replaced}


def bring_back(session: Session, actor: Actor, block_id: int, cell_ids: Sequence[int]) -> list[int]:
    """Write these numbers anew; returns what they replace.

    Places that are logged or past by now keep theirs, and so does who trains in another room by now.
    """
    block, rooms = block_of(session, actor.squad_id, block_id), rooms_of(session, actor.squad_id)
    slots = {slot.id: slot for slot in block.every_slot}
    logged = logged_places(session, list(slots))
    cells = session.scalars(select(Cell).where(Cell.id.in_(cell_ids), Cell.slot_id.in_(list(slots))))
    rows = [
        copied_cell(cell, actor)
        for cell in cells
        if (cell.slot_id, cell.athlete_id, cell.week) not in logged
        and (day := session_day(block, slots[cell.slot_id], cell.week)) >= actor.today
        and cell.room_id == rooms.id_on(cell.athlete_id, day)
    ]
    place_cells(session, rows)
    return [row["replaces_id"] for row in rows if row["replaces_id"]]


def redoable(session: Session, squad_id: int, block_id: int, last: Change | None) -> Change | None:
    """The change a redo would bring back: the oldest undone one after `last`, the newest that stands."""
    return session.scalars(
        select(Change)
        .where(
            Change.squad_id == squad_id, Change.subject == "cells", Change.subject_id == block_id, Change.undone,
            Change.id > (last.id if last else 0),
        )
        .order_by(Change.id)
        .limit(1)
    ).first()  # fmt: skip


def redo(session: Session, actor: Actor, block_id: int) -> Change:
    """Bring back what was undone last; refused where nothing was."""
    block_of(session, actor.squad_id, block_id)
    last = last_change(session, actor.squad_id, "cells", block_id)
    change = redoable(session, actor.squad_id, block_id, last)
    if change is None or not change.before.get("after"):
        raise Refused("undone")
    bring_back(session, actor, block_id, change.before["after"])
    change.undone = False
    return change


def publish(session: Session, actor: Actor, block_id: int, why: str = "published") -> PlanVersion:
    """Make the sheet's numbers the floor's. Refused where the floor has them all already."""
    block = block_of(session, actor.squad_id, block_id)
    slot_ids = [slot.id for slot in block.slots]
    waiting = session.execute(
        select(Cell.id, Cell.slot_id, Cell.athlete_id, Cell.week).where(
            Cell.slot_id.in_(slot_ids), Cell.current, ~Cell.live
        )
    ).all()
    if not waiting:
        raise Refused("nothing_to_publish")
    logged = logged_places(session, slot_ids)
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


def make_live(
    session: Session, actor: Actor, block_id: int, cell_ids: Sequence[int], why: str
) -> PlanVersion:
    """A new version in which these cells take the place of what was live."""
    number = session.scalar(select(func.max(PlanVersion.number)).where(PlanVersion.block_id == block_id)) or 0
    version = PlanVersion(block_id=block_id, number=number + 1, why=why, by_id=actor.user_id, at=actor.now)
    session.add(version)
    session.flush()
    new = select(Cell.slot_id, Cell.athlete_id, Cell.week).where(Cell.id.in_(cell_ids)).subquery()
    old = (
        select(Cell.id)
        .join(
            new,
            (Cell.slot_id == new.c.slot_id)
            & (Cell.athlete_id == new.c.athlete_id)
            & (Cell.week == new.c.week),
        )
        .where(Cell.live)
    )
    session.execute(
        update(Cell).where(Cell.id.in_(old)).values(live=False),
        execution_options={"synchronize_session": False},
    )
    session.execute(
        update(Cell).where(Cell.id.in_(cell_ids)).values(live=True, version_id=version.id),
        execution_options={"synchronize_session": False},
    )
    for cell in session.identity_map.values():
        if isinstance(cell, Cell):
            session.expire(cell, ["live", "version_id"])
    return version
