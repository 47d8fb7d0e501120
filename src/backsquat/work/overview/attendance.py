"""Who trained: for every athlete and week the sessions that were planned, and what came of each."""

import datetime as dt
from collections import defaultdict
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.progression.cell import LIFTED
from backsquat.core.readiness.verdict import Absence
from backsquat.core.season.calendar import monday_of
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, SessionDay, SetEntry, SlotWeek
from backsquat.work.readiness.load import absences_by_athlete
from backsquat.work.squad.athletes import squad_athletes
from backsquat.work.squad.context import SquadContext

PART = 0.5  # of the work planned: less than this done is a session done in part


class Came(StrEnum):
    """What came of a planned session."""

    DONE = "done"
    PART = "part"
    MISSED = "missed"
    AWAY = "away"


@dataclass(frozen=True)
class Trained:
    """One athlete's season: by week what came of each session, and how many were to be expected and done."""

    athlete: Athlete
    weeks: dict[dt.date, list[Came]]

    @property
    def expected(self) -> int:
        """Sessions planned while the athlete was there."""
        return sum(one is not Came.AWAY for week in self.weeks.values() for one in week)

    @property
    def done(self) -> int:
        """Those of them in which the athlete trained, in part counts too."""
        return sum(one in (Came.DONE, Came.PART) for week in self.weeks.values() for one in week)

    @property
    def away(self) -> int:
        """Sessions planned while the athlete was away."""
        return sum(one is Came.AWAY for week in self.weeks.values() for one in week)

    @property
    def running(self) -> int:
        """Sessions missed one after the other up to now, time away not counted."""
        found = 0
        for one in reversed([one for week in sorted(self.weeks) for one in self.weeks[week] if one is not Came.AWAY]):
            if one is not Came.MISSED:
                break
            found += 1
        return found


def attendance(
    session: Session, here: SquadContext, first_on: dt.date | None = None, last_on: dt.date | None = None
) -> list[Trained]:
    """The season, or these days of it, up to yesterday, and what is done of today; a fixed number of queries.

    A session that was left out is no session. What was logged outside the plan counts nowhere here.
    """
    athletes = squad_athletes(session, here.squad.id)
    ids = [athlete.id for athlete in athletes]
    done = select(func.count()).where(SetEntry.cell_id == Cell.id, SetEntry.standing).correlate(Cell).scalar_subquery()
    rows = session.execute(
        select(Cell.athlete_id, SessionDay.held_on, SlotWeek.session_id, func.count(), func.sum(done > 0))
        .join(SlotWeek, (SlotWeek.slot_id == Cell.slot_id) & (SlotWeek.week == Cell.week))
        .join(SessionDay, (SessionDay.session_id == SlotWeek.session_id) & (SessionDay.week == SlotWeek.week))
        .join(BlockSlot, BlockSlot.id == Cell.slot_id)
        .join(Block, Block.id == BlockSlot.block_id)
        .where(Block.squad_id == here.squad.id, ~BlockSlot.removed, ~SlotWeek.spare, ~SessionDay.left_out)
        .where(SessionDay.held_on.between(first_on or here.season.first_week, min(last_on or here.today, here.today)))
        .where(Cell.live, Cell.state.in_(LIFTED), Cell.athlete_id.in_(ids))
        .group_by(Cell.athlete_id, SessionDay.held_on, SlotWeek.session_id)
        .order_by(SessionDay.held_on, SlotWeek.session_id)
    )
    away = absences_by_athlete(session, ids)
    found: dict[int, dict[dt.date, list[Came]]] = defaultdict(lambda: defaultdict(list))
    for athlete_id, day, _, planned, made in rows:
        if day == here.today and not made:
            continue  # it may still come
        found[athlete_id][monday_of(day)].append(_came(planned, made or 0, away.get(athlete_id, []), day))
    return [Trained(athlete, dict(found[athlete.id])) for athlete in athletes]


def _came(planned: int, made: int, away: list[Absence], day: dt.date) -> Came:
    if made:
        return Came.DONE if made >= PART * planned else Came.PART
    gone = any(one.holds_on(day) and not (one.movement or one.region) for one in away)
    return Came.AWAY if gone else Came.MISSED
