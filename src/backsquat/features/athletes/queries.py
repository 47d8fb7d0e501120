"""What is known of athletes, read for one or for a whole squad in the same few queries."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, ScalarSelect, Select, func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.core.readiness.screens import SIDES, Kind, Screen
from backsquat.core.readiness.sides import Sides, compare
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import monday_of
from backsquat.core.season.milestone import Judgement, MilestoneKind, judge, judge_rung, target_kg
from backsquat.core.season.trend import Point
from backsquat.core.strength.current import (
    Counted,
    CurrentEstimate,
    CurrentValue,
    current_estimate,
    current_value,
)
from backsquat.core.strength.estimate import Trust
from backsquat.core.strength.record import SetRecord
from backsquat.features.athletes.readiness import Readiness
from backsquat.storage.convert import RECORD_COLUMNS, record_from_values
from backsquat.storage.models import Athlete, DepthChoice, Milestone, SetEntry


def athlete_of(session: Session, squad_id: int, athlete_id: int) -> Athlete:
    """The athlete, if of this squad."""
    athlete = session.get(Athlete, athlete_id)
    if athlete is None or athlete.squad_id != squad_id:
        raise NotThere("athlete")
    return athlete


def squad_athletes(session: Session, squad_id: int) -> list[Athlete]:
    rows = session.scalars(
        select(Athlete).where(Athlete.squad_id == squad_id, Athlete.active).order_by(Athlete.name)
    )
    return list(rows)


def _window(
    columns: Sequence[Any], athlete_ids: Sequence[int], movement: str, today: dt.date, rules: Rules
) -> Select[Any]:
    """Each athlete's sets behind a current estimate: all from the window before the newest firm one on.

    One statement: that day comes from the estimate index for each athlete, then its window is read.
    Who has no firm set is read from the newest set that counts.
    """
    counts = (
        SetEntry.movement == movement,
        ~SetEntry.replaced,
        SetEntry.estimate_kg.is_not(None),
        SetEntry.done_on <= today,
    )

    def newest(*more: ColumnElement[bool]) -> ScalarSelect[dt.date]:
        # From the end of the athlete's stretch of the index: one step, however long the history.
        days = select(SetEntry.done_on).where(SetEntry.athlete_id == Athlete.id, *counts, *more)
        return days.order_by(SetEntry.done_on.desc()).limit(1).correlate(Athlete).scalar_subquery()

    day = func.coalesce(newest(SetEntry.firm.is_(True)), newest()).label("day")
    last = select(Athlete.id, day).where(Athlete.id.in_(athlete_ids)).subquery()
    window = func.date(last.c.day, f"-{rules.estimate_window_days} days")
    of_athlete = (SetEntry.athlete_id == last.c.id) & (SetEntry.done_on > window)
    return select(SetEntry.athlete_id, *columns).join(last, of_athlete).where(*counts)


def record_lines(
    session: Session, athlete_ids: Sequence[int], movement: str, today: dt.date
) -> dict[int, dt.date]:
    """Where an athlete's depth standard was changed: the day from which sets count, for a new standard is a new line."""
    rows = session.execute(
        select(DepthChoice.athlete_id, func.max(DepthChoice.from_on))
        .where(
            DepthChoice.athlete_id.in_(athlete_ids), DepthChoice.movement == movement, DepthChoice.from_on <= today
        )
        .group_by(DepthChoice.athlete_id)
    )  # fmt: skip
    return {athlete_id: day for athlete_id, day in rows if day}


def estimates(
    session: Session, athlete_ids: Sequence[int], movement: str, today: dt.date, rules: Rules
) -> dict[int, CurrentEstimate]:
    """Current estimates with their working, by athlete; who has none is left out."""
    found: dict[int, list[SetRecord]] = defaultdict(list)
    lines = record_lines(session, athlete_ids, movement, today)
    for athlete_id, *values in session.execute(_window(RECORD_COLUMNS, athlete_ids, movement, today, rules)):
        record = record_from_values(*values)
        if record.done_on >= lines.get(athlete_id, record.done_on):
            found[athlete_id].append(record)
    current = {athlete_id: current_estimate(records, today, rules) for athlete_id, records in found.items()}
    return {athlete_id: estimate for athlete_id, estimate in current.items() if estimate}


def current_values(
    session: Session, athlete_ids: Sequence[int], movement: str, today: dt.date, rules: Rules
) -> dict[int, CurrentValue]:
    """The same numbers without working, from the estimates kept beside the sets: for whole squads."""
    columns = (SetEntry.done_on, SetEntry.id, SetEntry.estimate_kg, SetEntry.trust, SetEntry.firm)
    trusts, lines = tuple(Trust), record_lines(session, athlete_ids, movement, today)
    found: dict[int, list[Counted]] = defaultdict(list)
    for athlete_id, day, set_id, kg, trust, firm in session.execute(
        _window(columns, athlete_ids, movement, today, rules)
    ):
        if day >= lines.get(athlete_id, day):
            found[athlete_id].append(Counted(day, set_id, kg, trusts[trust], firm))
    current = {athlete_id: current_value(sets, today, rules) for athlete_id, sets in found.items()}
    return {athlete_id: value for athlete_id, value in current.items() if value}


@dataclass(frozen=True)
class WeekBest:
    """The best estimate of one athlete's week; not `firm`: only "at least", left out of trends."""

    week: dt.date
    kg: float
    trust: Trust
    firm: bool


def weekly_best(
    session: Session, athlete_ids: Sequence[int], movement: str, first: dt.date, today: dt.date
) -> dict[int, list[WeekBest]]:
    """Best estimate per athlete and week from `first` on, oldest first; a firm one where there is any."""
    # By day, in the order of the estimate index, so that nothing is sorted or counted up by SQLite.
    best = (func.max(SetEntry.estimate_kg), func.max(SetEntry.trust))
    place = (SetEntry.athlete_id, SetEntry.done_on, SetEntry.firm)
    rows = session.execute(
        select(*place, *best)
        .where(
            SetEntry.movement == movement,
            SetEntry.athlete_id.in_(athlete_ids),
            ~SetEntry.replaced,
            SetEntry.estimate_kg.is_not(None),
            SetEntry.done_on >= first,
            SetEntry.done_on <= today,
        )
        .group_by(*place)
        .order_by(*place)
    )
    lines = record_lines(session, athlete_ids, movement, today)
    found: dict[int, dict[dt.date, WeekBest]] = defaultdict(dict)
    for athlete_id, day, firm, kg, trust in rows:
        if day < lines.get(athlete_id, day):
            continue
        week, weeks = monday_of(day), found[athlete_id]
        known = weeks.get(week)
        if known is None or (firm, kg or 0.0) > (known.firm, known.kg):
            weeks[week] = WeekBest(week, kg or 0.0, Trust(trust), firm)
    return {athlete_id: list(weeks.values()) for athlete_id, weeks in found.items()}


def milestones_of(session: Session, athlete_ids: Sequence[int]) -> list[Milestone]:
    rows = session.scalars(
        select(Milestone)
        .where(Milestone.athlete_id.in_(athlete_ids), ~Milestone.dropped)
        .order_by(Milestone.due_on, Milestone.id)
    )
    return list(rows)


def judge_milestone(
    milestone: Milestone, weeks: Sequence[WeekBest], ready: Readiness, rules: Rules
) -> Judgement:
    """Status of a milestone: from the weekly best estimates, or from where the athlete stands on the ladder."""
    kind = MilestoneKind(milestone.kind)
    if kind is MilestoneKind.RUNG:
        places = ready.library.ladders_of(milestone.movement)
        stands = [(ready.rung_on(ladder), rung) for ladder, rung in places] or [(None, 0)]
        here, wanted = max(stands, key=lambda stand: -1 if stand[0] is None else stand[0] - stand[1])
        return judge_rung(here, wanted, milestone.due_on, ready.today)
    target = target_kg(kind, float(milestone.amount), ready.body_mass_kg)
    points = [Point(best.week, best.kg) for best in weeks if best.firm]
    return judge(points, target, milestone.due_on, rules)


@dataclass(frozen=True)
class Numbers:
    """One lift of one athlete as the page shows it."""

    movement: str
    current: CurrentEstimate | None
    weeks: list[WeekBest]


def numbers(
    session: Session, athlete: Athlete, codes: Iterable[str], first: dt.date, today: dt.date, rules: Rules
) -> list[Numbers]:
    return [
        Numbers(
            code,
            estimates(session, [athlete.id], code, today, rules).get(athlete.id),
            weekly_best(session, [athlete.id], code, first, today).get(athlete.id, []),
        )
        for code in codes
    ]


def recorded_lifts(session: Session, athlete_id: int) -> list[str]:
    """Movements of which the athlete has a set that counts, those done last first."""
    rows = session.execute(
        select(SetEntry.movement, func.max(SetEntry.done_on))
        .where(SetEntry.athlete_id == athlete_id, ~SetEntry.replaced, SetEntry.estimate_kg.is_not(None))
        .group_by(SetEntry.movement)
        .order_by(func.max(SetEntry.done_on).desc())
    )
    return [movement for movement, _ in rows]


def sides_of(
    session: Session, ready: Readiness, screens: Iterable[Screen], today: dt.date, rules: Rules
) -> list[Sides]:
    """Left against right: two-sided screens in units, and the best estimate of each side in the window."""
    found = []
    for screen in screens:
        left, right = (ready.known.get((screen.code, side)) for side in SIDES)
        if screen.two_sided and screen.unit and screen.kind is not Kind.GRADE and left and right:
            found.append(
                compare(
                    screen.name, left.value, right.value, screen.unit, rules, less_is_better=screen.less_is_better,
                    error=screen.error,
                )
            )  # fmt: skip
    rows = session.execute(
        select(SetEntry.movement, SetEntry.side, func.max(SetEntry.estimate_kg))
        .where(
            SetEntry.athlete_id == ready.athlete.id, SetEntry.side != "", ~SetEntry.replaced, ~SetEntry.withdrawn,
            SetEntry.estimate_kg.is_not(None), SetEntry.done_on > today - dt.timedelta(days=rules.estimate_window_days),
        )
        .group_by(SetEntry.movement, SetEntry.side)
    )  # fmt: skip
    best = {(movement, side): kg for movement, side, kg in rows}
    for code in sorted({movement for movement, _ in best}):
        left_kg, right_kg = best.get((code, "left")), best.get((code, "right"))
        if left_kg and right_kg:
            found.append(compare(ready.library.get(code).name, left_kg, right_kg, "kg", rules))
    return found


def entries_of(session: Session, athlete_id: int, until: dt.date, most: int) -> list[SetEntry]:
    """The newest standing sets up to a day, newest first."""
    rows = session.scalars(
        select(SetEntry)
        .where(
            SetEntry.athlete_id == athlete_id,
            ~SetEntry.replaced,
            ~SetEntry.withdrawn,
            SetEntry.done_on <= until,
        )
        .order_by(SetEntry.done_on.desc(), SetEntry.id.desc())
        .limit(most)
    )
    return list(rows)
