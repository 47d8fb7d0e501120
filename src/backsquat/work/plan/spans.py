"""A block in time: moved by weeks, shortened, lengthened, dropped. What anybody has trained in stays where it was."""

import datetime as dt
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.season.calendar import DaySpan
from backsquat.library.templates import WEEKS_MOST
from backsquat.storage.models import Block, Change, OwnDay, SessionDay
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.blocks import span_problem
from backsquat.work.plan.cells import place_drafts
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.policy import Act, require
from backsquat.work.sessions.blocks import block_of


@dataclass(frozen=True)
class BlockSpan:
    """What a coach says of a block that is there."""

    name: str
    purpose: str
    first_week: dt.date
    weeks: int


def weeks_begun(context: WorkContext, block: Block) -> int:
    """Weeks of the block up to the last one in which anybody has logged a set; 0 where nobody has."""
    logged = logged_cells(context.db, [exercise.id for exercise in block.every_exercise])
    return max((week + 1 for _, _, week in logged), default=0)


def change_span(context: WorkContext, block_id: int, wanted: BlockSpan, season: DaySpan) -> Change | None:
    """Another name, first week or length; None where nothing changes. Sessions keep their days of the week.

    Weeks added are planned as drafts; weeks taken off are on no floor. ImpossibleInput where somebody has trained in
    what would move or go, outside the season, or where another block plans the weeks.
    """
    require(context.actor, Act.PLAN)
    block = block_of(context.db, context.squad_id, block_id)
    if block.dropped:
        raise NotThere("block")
    begun, before = weeks_begun(context, block), _as_it_was(context, block)
    found = []
    if not 1 <= wanted.weeks <= WEEKS_MOST:
        found.append(Problem("weeks", "weeks_range", {"most": WEEKS_MOST}))
    elif wanted.weeks < begun:
        found.append(Problem("weeks", "weeks_begun", {"weeks": begun}))
    if wanted.first_week != block.first_week and begun:
        found.append(Problem("first_week", "block_begun"))
    elif not found and (wanted.first_week, wanted.weeks) != (block.first_week, block.weeks):
        found += span_problem(context, wanted.first_week, wanted.weeks, season, block)
    if found:
        raise ImpossibleInput(*found)
    by, had = (wanted.first_week - block.first_week).days // 7, block.weeks
    block.name, block.purpose = wanted.name, wanted.purpose
    block.first_week, block.weeks = wanted.first_week, wanted.weeks
    _move_days(context, block, by)
    _fit_days(block, had)
    context.db.flush()
    after = _as_it_was(context, block)
    if before == after:
        return None
    if wanted.weeks > had:
        changes = replanned(context, block, ReplanScope(from_week=had))
        place_drafts(context, [change.draft for change in changes])
    what = "block_moved" if by else "block_resized" if wanted.weeks != had else "block_named"
    return _remember(context, block, what, before)


def drop_block(context: WorkContext, block_id: int) -> Change:
    """Plan the block no longer: it is on no floor and no card, and can be brought back. Refused once anybody trained."""
    require(context.actor, Act.PLAN)
    block = block_of(context.db, context.squad_id, block_id)
    if block.dropped:
        raise NotThere("block")
    if weeks_begun(context, block):
        raise Refused("block_begun")
    before = _as_it_was(context, block)
    block.dropped = True
    for held in block.sessions:
        for day in held.days:
            day.left_out = True
    return _remember(context, block, "block_dropped", before)


def _move_days(context: WorkContext, block: Block, by: int) -> None:
    """Every day of every session so many weeks on; days of single athletes with them."""
    for held in block.sessions:
        for day in held.days:
            day.held_on += dt.timedelta(weeks=by)
    for own in _own_days(context, block):
        own.held_on += dt.timedelta(weeks=by)


def _fit_days(block: Block, had: int) -> None:
    """As many days as weeks: those beyond are left out, those that come back are held, missing ones are made."""
    for held in block.sessions:
        for day in held.days[block.weeks :]:
            day.left_out = True
        for day in held.days[had : block.weeks]:
            day.left_out = False
        for week in range(len(held.days), block.weeks):
            on = block.first_week + dt.timedelta(weeks=week, days=held.weekday)
            held.days.append(SessionDay(week=week, held_on=on))


def _own_days(context: WorkContext, block: Block) -> list[OwnDay]:
    sessions = [held.id for held in block.sessions]
    return list(context.db.scalars(select(OwnDay).where(OwnDay.session_id.in_(sessions))))


def _as_it_was(context: WorkContext, block: Block) -> dict[str, Any]:
    """A block's name, span and days, as the journal keeps them."""
    return {
        "name": block.name,
        "purpose": block.purpose,
        "first_week": block.first_week.isoformat(),
        "weeks": block.weeks,
        "dropped": block.dropped,
        "days": {
            str(held.id): [[day.held_on.isoformat(), day.left_out] for day in held.days] for held in block.sessions
        },
        "own": {str(own.id): own.held_on.isoformat() for own in _own_days(context, block)},
    }


def _remember(context: WorkContext, block: Block, what: str, before: dict[str, Any]) -> Change:
    facts = {"name": before["name"], "weeks": block.weeks, "first_on": block.first_week.isoformat()}
    return remember(context, what=what, subject="spans", subject_id=block.id, before=before, facts=facts)


@restores("spans")
def restore_span(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: name, span and days as they were; Refused where somebody has trained in what would move or go."""
    block = block_of(context.db, context.squad_id, change.subject_id)
    was, before = _as_it_was(context, block), change.before
    begun, first_week = weeks_begun(context, block), dt.date.fromisoformat(before["first_week"])
    if begun and (first_week != block.first_week or before["weeks"] < begun or before["dropped"]):
        raise Refused("block_begun")
    _free(context, block, first_week, before)
    block.name, block.purpose, block.weeks = before["name"], before["purpose"], before["weeks"]
    block.first_week, block.dropped = first_week, before["dropped"]
    for held in block.sessions:
        days = before["days"].get(str(held.id))
        for day, (on, left_out) in zip(held.days, days or (), strict=False):
            day.held_on, day.left_out = dt.date.fromisoformat(on), left_out
        for day in held.days[len(days) if days is not None else 0 :]:  # made since
            day.held_on = first_week + dt.timedelta(weeks=day.week, days=held.weekday)
            day.left_out = block.dropped or day.week >= block.weeks
    for own in _own_days(context, block):
        own.held_on = dt.date.fromisoformat(before["own"].get(str(own.id), own.held_on.isoformat()))
    return was


def _free(context: WorkContext, block: Block, first_week: dt.date, before: dict[str, Any]) -> None:
    """Refused where another block was made meanwhile in the weeks that come back."""
    if before["dropped"]:
        return
    taken = span_problem(context, first_week, before["weeks"], None, block)
    if taken:
        raise Refused("weeks_taken", name=str(taken[0].facts.get("name", "")))


@restores("blocks")
def restore_made(context: WorkContext, change: Change) -> None:
    """Undo of making a block: it is dropped, and comes back as any dropped one does, with all its days."""
    drop_block(context, change.subject_id)
