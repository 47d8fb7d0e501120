"""After a match: whose next session is to be easier, by the minutes they played; taken as a draft."""

import datetime as dt
from collections.abc import Collection
from dataclasses import dataclass

from backsquat.core.errors import Refused
from backsquat.storage.models import Athlete, Block, BlockSession, Change, Match
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember
from backsquat.work.plan.cells import place_drafts
from backsquat.work.plan.ease import eased_drafts, easings
from backsquat.work.plan.timed import exercises_in
from backsquat.work.policy import Act, require
from backsquat.work.season.matches import match_of
from backsquat.work.season.minutes import minutes_of
from backsquat.work.sessions.blocks import block_in_week, squad_blocks
from backsquat.work.squad.athletes import squad_athletes


@dataclass(frozen=True)
class After:
    """The next session after a match, and who played long before it and still has something to be made easier."""

    block: Block
    week: int  # of the block, from 0
    held: BlockSession
    day: dt.date
    exercise_ids: frozenset[int]
    athletes: tuple[tuple[Athlete, int], ...]  # with the minutes played


def after_match(context: WorkContext, match: Match) -> After | None:
    """None where no session is near enough, or nobody played that long, or nothing is left to be made easier."""
    played = minutes_of(context.db, [match.id])[match.id]
    long = {one: minutes for one, minutes in played.items() if minutes >= context.rules.match_long_min}
    found = _next_session(context, match.played_on) if long else None
    if found is None:
        return None
    block, week, held = found
    exercise_ids = frozenset(exercise.id for exercise in exercises_in(block, held, week))
    open_to = {
        athlete_id
        for athlete_id, easing in easings(context, block, week).items()
        if any(cell.exercise_id in exercise_ids for cell in easing.open)
    }
    athletes = [
        (one, long[one.id])
        for one in squad_athletes(context.db, context.squad_id)
        if one.id in long and one.id in open_to
    ]
    athletes.sort(key=lambda line: (-line[1], line[0].name))
    return After(block, week, held, held.days[week].held_on, exercise_ids, tuple(athletes)) if athletes else None


def _next_session(context: WorkContext, played_on: dt.date) -> tuple[Block, int, BlockSession] | None:
    """The first session held within the days after a match that are meant, from today on."""
    last = played_on + dt.timedelta(days=context.rules.match_long_days)
    found: list[tuple[dt.date, Block, int, BlockSession]] = []
    blocks = squad_blocks(context.db, context.squad_id)
    for monday in {day - dt.timedelta(days=day.weekday()) for day in (played_on, last)}:
        block = block_in_week(blocks, monday)
        if block is None:
            continue
        week = (monday - block.first_week).days // 7
        for held in block.sessions:
            day = held.days[week]
            if played_on < day.held_on <= last and day.held_on >= context.today and not day.left_out:
                found.append((day.held_on, block, week, held))
    first = min(found, key=lambda one: (one[0], one[3].position, one[3].id), default=None)
    return None if first is None else first[1:]


def ease_after(context: WorkContext, match_id: int, athlete_ids: Collection[int]) -> tuple[Change, int]:
    """Their next session with fewer sets and a lighter load, as a draft; one undo. Refused where nothing is left."""
    require(context.actor, Act.PLAN)
    after = after_match(context, match_of(context, match_id))
    chosen = {one.id for one, _ in after.athletes if one.id in athlete_ids} if after else set()
    drafts = eased_drafts(context, after.block, after.week, chosen, after.exercise_ids) if after and chosen else []
    if not drafts or after is None:
        raise Refused("no_easing")
    replaced = place_drafts(context, drafts).replaced
    names = sorted(one.name for one, _ in after.athletes if one.id in chosen)
    facts = {"names": names, "week": after.week + 1}
    change = remember(
        context, what="week_eased", subject="cells", subject_id=after.block.id, before={"cells": replaced}, facts=facts
    )
    return change, len(chosen)
