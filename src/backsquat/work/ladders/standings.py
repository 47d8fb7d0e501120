"""Where an athlete stands on every ladder, and the road to the bar."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.movements.ladder import Ladder
from backsquat.core.movements.movement import Movement
from backsquat.core.readiness.checklist import ReadinessCheckView
from backsquat.core.readiness.levels import LevelProposal, LevelSession, propose_level, sessions_of
from backsquat.core.readiness.road import RoadWeek, road
from backsquat.core.readiness.verdict import LevelHeld, Readiness
from backsquat.core.rules import Rules
from backsquat.storage.models import LevelMove, User
from backsquat.work.ladders.moves import suggested_levels
from backsquat.work.log.sets import level_sets


@dataclass(frozen=True)
class LadderStanding:
    """An athlete on one ladder: the level, its recent sessions, and what they lead to."""

    ladder: Ladder
    movement: Movement | None  # None: not placed yet
    move: LevelHeld | None
    sessions: Sequence[LevelSession]
    proposal: LevelProposal | None
    to: Movement | None  # the movement a proposal leads to
    suggested: tuple[Movement, str] | None  # where the screens would place the athlete, and why


def standings(db: Session, ready: Readiness, rules: Rules) -> list[LadderStanding]:
    """Every ladder, those the athlete stands on first."""
    library = ready.library
    suggested = suggested_levels(db, ready)
    found = []
    for ladder in library.ladders.values():
        move, level = ready.levels.get(ladder.code), ready.level_on(ladder)
        if move is None or level is None:
            found.append(LadderStanding(ladder, None, None, (), None, None, suggested.get(ladder.code)))
            continue
        movement = library.get(move.movement)
        sessions = sessions_of(movement, level_sets(db, ready.person.id, move.movement, move), rules)
        proposal = propose_level(ladder, level, sessions, ready.may_earn, rules)
        to = library.get(proposal.movements[0]) if proposal else None
        found.append(LadderStanding(ladder, movement, move, sessions, proposal, to, None))
    return sorted(found, key=lambda item: (item.movement is None, item.suggested is None))


def road_plan(ready: Readiness, view: ReadinessCheckView, rules: Rules) -> tuple[RoadWeek, ...]:
    """The weeks to the readiness check for what it still asks; empty where it is open or only consent is missing."""
    work = [line for line in view.missing if not line.firm]
    if not work:
        return ()
    done = ready.road[0]
    left = max(1, rules.readiness_check_sessions - done)
    weeks = max(1, min(rules.readiness_check_weeks, -(-left // 2)))
    return road(view.lines, ready.may_earn, weeks, left, rules)


def moves_of(db: Session, athlete_id: int, most: int = 12) -> list[tuple[LevelMove, str]]:
    """The newest moves on all ladders, with who made them."""
    rows = db.execute(
        select(LevelMove, User.name)
        .join(User, LevelMove.by_id == User.id)
        .where(LevelMove.athlete_id == athlete_id)
        .order_by(LevelMove.id.desc())
        .limit(most)
    )
    return [(row, name) for row, name in rows]


def through_since(view: ReadinessCheckView, ready: Readiness) -> dt.date | None:
    """Since when the readiness check can be open: the newest of what it needed."""
    if not view.open:
        return None
    if view.override and not view.passed:
        return view.override.on
    days = [result.done_on for result in ready.known.values()]
    return max(days, default=None)
