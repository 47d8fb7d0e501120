"""The squad, one line an athlete: this week's numbers, what waits, milestone, last logged."""

import datetime as dt
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import BindParameter, bindparam, func, select
from sqlalchemy.orm import Session

from backsquat.core.findings import Finding
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.readiness.checklist import age_years
from backsquat.core.readiness.verdict import OpenStop, Readiness, Reason
from backsquat.core.rules import Rules
from backsquat.core.season.milestone import Judgement
from backsquat.core.strength.current import CurrentValue
from backsquat.storage.cache import cached_each
from backsquat.storage.models import Athlete, Cell, DecisionRow, Exercise, Milestone, SetEntry
from backsquat.work.context import library_of
from backsquat.work.decisions.waiting import unanswered
from backsquat.work.log.estimates import current_values
from backsquat.work.log.sets import newest_days
from backsquat.work.plan.missed import missed_sessions
from backsquat.work.readiness.load import readiness_of
from backsquat.work.season.milestones import judged_of
from backsquat.work.sessions.blocks import block_in_week, lifts_of, squad_blocks
from backsquat.work.squad.athletes import squad_athletes
from backsquat.work.squad.context import SquadContext


@dataclass(frozen=True)
class WeekNumber:
    """One lift of one athlete in the chosen week: the planned load and the sets logged."""

    load: str
    unit: str
    reps: int
    sets: int
    done: int
    deload: bool
    other: Movement | None = None  # the athlete's own level, in the stead of a load


@dataclass
class SquadLine:
    """One athlete of the squad."""

    athlete: Athlete
    age: int
    ready: Readiness
    readiness_check: tuple[Finding, ...]  # what shuts the readiness check before one of the lifts
    current: dict[str, CurrentValue | None] = field(default_factory=dict)
    week: dict[str, WeekNumber | None] = field(default_factory=dict)
    waiting: int = 0
    missed: int = 0  # sessions nobody has said anything about
    milestone: Milestone | None = None
    judgement: Judgement | None = None
    last_on: dt.date | None = None

    @property
    def stops(self) -> tuple[OpenStop, ...]:
        """Open pain stops."""
        return self.ready.stops

    @property
    def untested(self) -> list[str]:
        """Codes of the lifts without any estimate."""
        return [code for code, current in self.current.items() if current is None]

    @property
    def needs_me(self) -> bool:
        """Whether something waits for the coach."""
        return bool(self.stops or self.readiness_check or self.waiting or self.missed or self.untested)

    def kept(self, movement: str) -> bool:
        """Locked, limited or not ready for a lift: no load to come is shown."""
        lift = self.ready.library.movements[movement]
        return not self.ready.judge(lift).but(Reason.AWAY).may


def squad_lines(db: Session, here: SquadContext) -> tuple[list[str], list[SquadLine]]:
    """The lifts shown and the whole squad, in a fixed number of queries."""
    athletes = squad_athletes(db, here.squad.id)
    ids = [athlete.id for athlete in athletes]
    codes, library = lifts_of(db, here.squad.id, here.week), library_of(db, here.squad.id)
    ready = readiness_of(db, here.squad.id, athletes, here.today, here.rules)
    lines = {
        athlete.id: SquadLine(
            athlete,
            age_years(athlete.born_on, here.today),
            ready[athlete.id],
            _first_readiness_check(ready[athlete.id], codes, library),
        )
        for athlete in athletes
    }
    for code in codes:
        current = current_values(db, ids, code, here.today, here.rules)
        for athlete_id, line in lines.items():
            line.current[code] = current.get(athlete_id)
            line.week[code] = None
    _week_numbers(db, here, codes, lines)
    _waiting(db, ids, lines, here.rules)
    for (athlete_id, _), missed in missed_sessions(db, here.squad.id, ready, here.today, here.rules).items():
        lines[athlete_id].missed += len(missed.weeks)
    _milestones(db, here, ready, lines)
    for athlete_id, day in newest_days(db, ids, here.today).items():
        lines[athlete_id].last_on = day
    return codes, list(lines.values())


_IDS: BindParameter[int] = bindparam("ids", expanding=True)
_TO_DECIDE = (
    select(DecisionRow.athlete_id, func.count())
    .where(DecisionRow.athlete_id.in_(_IDS))
    .group_by(DecisionRow.athlete_id)
)


_DONE = select(func.count()).where(SetEntry.cell_id == Cell.id, SetEntry.standing).correlate(Cell).scalar_subquery()
_OF_WEEK = (
    select(Cell.athlete_id, Exercise.movement, Cell.load_amount, Cell.load_unit, Cell.reps, Cell.sets, Cell.kind)
    .add_columns(Cell.movement, _DONE)
    .join(Exercise, Cell.exercise_id == Exercise.id)
    .where(Exercise.block_id == bindparam("block"), Exercise.movement.in_(bindparam("codes", expanding=True)))
    .where(Cell.week == bindparam("week"), Cell.live, Cell.athlete_id.in_(_IDS))
    .where(Cell.load_amount.is_not(None) | (Cell.movement != ""))
)


def _first_readiness_check(ready: Readiness, codes: list[str], library: Library) -> tuple[Finding, ...]:
    return next(
        (readiness_check for code in codes if (readiness_check := ready.readiness_check(library.get(code)))), ()
    )


def _week_numbers(db: Session, here: SquadContext, codes: Sequence[str], lines: dict[int, SquadLine]) -> None:
    block = block_in_week(squad_blocks(db, here.squad.id), here.week)
    if block is None:
        return
    library, asked = library_of(db, here.squad.id), {"block": block.id, "codes": list(codes)}
    asked["week"] = (here.week - block.first_week).days // 7

    def read(ids: list[int]) -> dict[int, list[Any]]:
        found: dict[int, list[Any]] = defaultdict(list)
        for row in db.execute(_OF_WEEK, {**asked, "ids": ids}):
            found[row.athlete_id].append(row)
        return found

    rows = cached_each(db, ("week numbers", block.id, asked["week"], tuple(codes)), lines, read, plan=True)
    for athlete_id, mine in rows.items():
        line = lines[athlete_id]
        for _, movement, amount, unit, reps, sets, kind, own, count in mine:
            if own:
                line.week[movement] = WeekNumber("", "", reps, sets, count, False, library.get(own))
            elif count or not line.kept(movement):  # who is stopped or not ready is shown what was lifted before only
                deload = kind is ExposureKind.DELOAD
                line.week[movement] = WeekNumber(f"{amount.normalize():f}", unit, reps, sets, count, deload)


def _waiting(db: Session, ids: list[int], lines: dict[int, SquadLine], rules: Rules) -> None:
    for athlete_id, count in db.execute(_TO_DECIDE.where(unanswered(rules)), {"ids": ids}):
        lines[athlete_id].waiting = count


def _milestones(db: Session, here: SquadContext, ready: Mapping[int, Readiness], lines: dict[int, SquadLine]) -> None:
    """The next milestone of each athlete, judged."""
    for milestone, judgement in judged_of(db, here, ready):
        line = lines[milestone.athlete_id]
        if line.milestone is None:
            line.milestone, line.judgement = milestone, judgement
