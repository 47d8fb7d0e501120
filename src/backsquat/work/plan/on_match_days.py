"""Sessions to come that lie on a match, or on a day before one that is to be free: told, never moved unasked."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.rules import Rules
from backsquat.core.season.calendar import WEEK, monday_of
from backsquat.core.season.week import NOTHING_MARKED, DayReason, Fixture, Legs, day_leaves
from backsquat.storage.models import Block, BlockSession, Match, Season, SessionDay


@dataclass(frozen=True)
class OnMatchDay:
    """A session of a block on such a day; `days` to the match, 0 where it is that day."""

    day: dt.date
    name: str
    days: int

    @property
    def week(self) -> dt.date:
        """The Monday of its week."""
        return monday_of(self.day)


def on_match_days(db: Session, squad_id: int, block: Block, today: dt.date, rules: Rules) -> list[OnMatchDay]:
    """The block's sessions from today on that are in a match's way, by day; those the coach said stay are left out."""
    held = db.execute(
        select(SessionDay.held_on, BlockSession.name)
        .join(BlockSession, BlockSession.id == SessionDay.session_id)
        .where(BlockSession.block_id == block.id, SessionDay.held_on >= today, SessionDay.week < block.weeks)
        .where(~SessionDay.left_out, ~SessionDay.kept)
        .order_by(SessionDay.held_on, BlockSession.position)
    ).all()
    if not held:
        return []
    matches = db.execute(
        select(Match.played_on, Match.important, Match.away)
        .join(Season, Season.id == Match.season_id)
        .where(Season.squad_id == squad_id, ~Match.dropped)
        .where(Match.played_on.between(held[0].held_on, held[-1].held_on + WEEK))
    )
    fixtures = [Fixture(*match) for match in matches]
    found = [(day_leaves(day, fixtures, NOTHING_MARKED, rules), name) for day, name in held]
    return [
        OnMatchDay(leaves.day, name, leaves.days)
        for leaves, name in found
        if leaves.legs is Legs.NONE and leaves.why in (DayReason.MATCH, DayReason.BEFORE)
    ]
