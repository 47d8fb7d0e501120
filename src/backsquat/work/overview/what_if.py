"""What if: a week left out, one match more, another school. Tried on a copy, and taken as it was tried.

An idea is done by the same operations a coach's clicks use, so that what was shown is what is taken. Days count at
once when it is taken, loads are drafts; the coach's own numbers and what was decided after a session stay.
"""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.season.calendar import WEEK, monday_of
from backsquat.storage.models import Block, Change
from backsquat.work.actor import Actor
from backsquat.work.journal import last_change, remember, restore_together, restores
from backsquat.work.plan.blocks import SlotFacts
from backsquat.work.plan.days import fit_week, leave_out, open_sessions, proposed
from backsquat.work.plan.difference import Replanned
from backsquat.work.plan.drafts import COMPARED
from backsquat.work.plan.replan import ReplanScope, replanned, take_changes
from backsquat.work.plan.slots import change_slot, usual_parameters
from backsquat.work.policy import Act, require
from backsquat.work.season.matches import MatchFacts, match_days, put_match
from backsquat.work.sessions.blocks import coming_blocks, left_out, slot_of
from backsquat.work.squad.context import SquadContext

IDEAS_MOST = 6


@dataclass(frozen=True)
class WithoutWeek:
    """What is left of a week is left out, for everybody."""

    week: dt.date  # a Monday
    moves_on: bool = True  # its work is done a week later; else the plan stands


@dataclass(frozen=True)
class WithMatch:
    """One match more, and the weeks around it fitted."""

    facts: MatchFacts


@dataclass(frozen=True)
class WithSchool:
    """A slot follows another school from its next session on."""

    slot_id: int
    school: str


Idea = WithoutWeek | WithMatch | WithSchool
Asked = dict[tuple[int, int, int], tuple[Any, ...]]  # (slot, athlete, week) → what planning anew would ask there


def take(session: Session, actor: Actor, here: SquadContext, ideas: Sequence[Idea], before: Session) -> Change:
    """Do what is supposed and plan anew what follows from it; one undo for all of it.

    Schools first, so that it is their numbers that matches ease and a week left out moves on. `before` reads things as
    they stand without any idea: what waits to be planned anew there goes on waiting.
    ImpossibleInput or Refused where something of it cannot be done: then nothing is.
    """
    require(actor, Act.PLAN)
    if not 0 < len(ideas) <= IDEAS_MOST:
        raise Refused("no_idea")
    done: list[int] = []
    schools = [idea for idea in ideas if isinstance(idea, WithSchool)]
    for idea in schools:
        done.append(_follow(session, actor, here, idea))
    done += _plan_anew(session, actor, here, {idea.slot_id for idea in schools}, before)
    for other in sorted((idea for idea in ideas if not isinstance(idea, WithSchool)), key=_order):
        done += (
            _leave_out(session, actor, here, other)
            if isinstance(other, WithoutWeek)
            else _play(session, actor, here, other)
        )
    moved = {idea.week for idea in ideas if isinstance(idea, WithoutWeek) and idea.moves_on}
    out = _left_out(session, actor) - _left_out(before, actor)
    # Work that moves on is not planned anew: the coach has said where it goes.
    done += _plan_anew(session, actor, here, {slot_id for slot_id, week in out if week not in moved}, before)
    return remember(
        session,
        actor,
        what="what_if_taken",
        subject="what_if",
        subject_id=here.season_id,
        before={"changes": done},
        facts={"count": len(ideas)},
    )


def _order(idea: WithoutWeek | WithMatch) -> int:
    if isinstance(idea, WithMatch):
        return 0
    return 2 if idea.moves_on else 1


def _left_out(session: Session, actor: Actor) -> set[tuple[int, dt.date]]:
    """(slot, Monday) of what is left out in blocks that are not over."""
    return {
        (slot.id, block.first_week + week * WEEK)
        for block in coming_blocks(session, actor)
        for slot in block.slots
        for week in range(block.weeks)
        if left_out(slot, week)
    }


def _leave_out(session: Session, actor: Actor, here: SquadContext, idea: WithoutWeek) -> list[int]:
    """Every session of the week that is still to come and has not begun."""
    found = []
    for block in coming_blocks(session, actor):
        week = (idea.week - block.first_week).days // 7
        ids = open_sessions(session, actor, block).get(week)
        if ids and (change := leave_out(session, actor, ids, week, here.rules, moves_on=idea.moves_on)):
            found.append(change.id)
    if not found:
        raise ImpossibleInput(Problem("without", "nothing_left_out"))
    return found


def _play(session: Session, actor: Actor, here: SquadContext, idea: WithMatch) -> list[int]:
    """The match, and what it asks of its week and the weeks beside it; what was proposed before stays a proposal."""
    day = idea.facts.played_on
    if day < actor.today:
        raise ImpossibleInput(Problem("played_on", "day_over"))
    if any(played_on == day for played_on, _ in match_days(session, here.season_id)):
        raise ImpossibleInput(Problem("played_on", "has_match"))
    weeks = [replace(here, week=monday_of(day) + n * WEEK) for n in (-1, 0, 1)]
    before = [proposed(session, around) for around in weeks]
    found = [put_match(session, actor, here.season_id, idea.facts).id]
    for around, known in zip(weeks, before, strict=True):
        new = proposed(session, around) - known
        if new:
            found.append(fit_week(session, actor, around, new)[0].id)
    return found


def _follow(session: Session, actor: Actor, here: SquadContext, idea: WithSchool) -> int:
    slot, block = slot_of(session, actor.squad_id, idea.slot_id)
    if slot.removed or slot.ladder or idea.school == "ladder" or idea.school not in SCHOOLS:
        raise NotThere("school")
    if slot.school == idea.school:
        raise ImpossibleInput(Problem("school", "same_school"))
    given = usual_parameters(session, actor, block, slot, idea.school, here.rules)
    facts = SlotFacts(slot.weekday, slot.movement, idea.school, given, "", slot.role, slot.stack, slot.variation)
    change_slot(session, actor, slot.id, facts)
    return _newest(session, actor, "slots", block)


def _newest(session: Session, actor: Actor, subject: str, block: Block) -> int:
    change = last_change(session, actor.squad_id, subject, block.id)
    if change is None:
        raise NotThere("change")
    return change.id


def _anew(
    session: Session, actor: Actor, here: SquadContext, slot_ids: set[int]
) -> list[tuple[Block, list[Replanned]]]:
    """What planning anew would change in blocks that are not over; what was decided stays."""
    scope = ReplanScope(slot_ids=slot_ids)
    return [
        (block, [one for one in replanned(session, actor, block, here.rules, scope) if not one.decided])
        for block in coming_blocks(session, actor)
    ]


def _asked(anew: Iterable[tuple[Block, list[Replanned]]]) -> Asked:
    return {_place(one): tuple(getattr(one.draft, name) for name in COMPARED) for _, many in anew for one in many}


def _place(one: Replanned) -> tuple[int, int, int]:
    return one.slot.id, one.draft.athlete_id, one.draft.week


def _plan_anew(session: Session, actor: Actor, here: SquadContext, slot_ids: set[int], before: Session) -> list[int]:
    """The rows of these slots as they follow now, as drafts; what waited to be planned anew before goes on waiting."""
    if not slot_ids:
        return []
    found, waited = [], _asked(_anew(before, actor, here, slot_ids))
    for block, many in _anew(session, actor, here, slot_ids):
        asked = _asked([(block, many)])
        rows = {_row(one) for one in many if waited.get(_place(one)) != asked[_place(one)]}
        if rows and take_changes(session, actor, block, [one for one in many if _row(one) in rows]):
            found.append(_newest(session, actor, "cells", block))
    return found


def _row(one: Replanned) -> tuple[int, int]:
    return one.slot.id, one.draft.athlete_id


@restores("what_if")
def restore_what_if(session: Session, actor: Actor, change: Change) -> None:
    """Undo: everything of it."""
    restore_together(session, actor, change)
