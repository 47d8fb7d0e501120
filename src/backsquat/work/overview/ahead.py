"""What lies ahead as it is planned: loads, days, how milestones stand, what the week checks say; two of them compared."""

import datetime as dt
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.findings import Finding
from backsquat.core.progression.cell import LIFTED, State
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import WEEK
from backsquat.core.season.milestone import MilestoneKind
from backsquat.core.strength.formulas import FORMULAS, maximum_kg
from backsquat.storage.models import Block, Cell
from backsquat.work.context import library_of
from backsquat.work.overview.season import GoalStanding, standing
from backsquat.work.plan.week_check import audit_block_weeks, gathered
from backsquat.work.season.milestones import Goal, goals
from backsquat.work.sessions.blocks import left_out, session_day, squad_blocks
from backsquat.work.squad.context import SquadContext

Place = tuple[int, int, int]  # exercise, athlete, week of the block
IN_KG = (MilestoneKind.LOAD, MilestoneKind.BODY_MASSES, MilestoneKind.REPS)


class Ask(NamedTuple):
    """What a cell asks for."""

    exercise_id: int
    athlete_id: int
    week: int
    state: State
    movement: str
    sets: int
    reps: int
    reserve_reps: int
    hold_s: int
    load_amount: Decimal | None
    load_unit: str
    load_kg: float | None
    planning_max_kg: float | None


@dataclass(frozen=True)
class WeekAhead:
    """How much a week asks of those who have something in it: sets each, and the share of the planning max."""

    week: dt.date
    sets: float
    share: float | None


@dataclass(frozen=True)
class HeldDay:
    """The day of a session in a week."""

    session_id: int
    name: str
    week: dt.date
    held_on: dt.date
    left_out: bool


@dataclass(frozen=True)
class FoundAhead:
    """A finding of a week check and how many it concerns."""

    week: dt.date
    finding: Finding
    count: int


FoundIn = Mapping[tuple[dt.date, str, str], FoundAhead]  # week, code and what it is about


@dataclass(frozen=True)
class Ahead:
    """Everything planned from this week on, in blocks that are not over."""

    asks: Mapping[Place, Ask]  # without what is left out
    out: frozenset[tuple[int, int]]  # (exercise, week) left out
    weeks: Sequence[WeekAhead]
    days: Mapping[tuple[int, dt.date], HeldDay]
    found: FoundIn
    goals: Mapping[
        int, tuple[GoalStanding, int]
    ]  # first milestone of many → how it stands, of how many the plan asks it


def ahead_of(db: Session, here: SquadContext) -> Ahead:
    """What lies ahead; as many queries as there are blocks, whatever their size."""
    this_week = here.today - dt.timedelta(days=here.today.weekday())
    blocks = [one for one in squad_blocks(db, here.squad.id) if one.first_week + one.weeks * WEEK > this_week]
    coming = [(block, _weeks(block, this_week)) for block in blocks]
    out = {
        (exercise.id, week)
        for block, weeks in coming
        for exercise in block.exercises
        for week in weeks
        if left_out(exercise, week)
    }
    asks = _asks(db, coming, out)
    found = [one for block, weeks in coming for one in _found(db, here, block, weeks)]
    days = [one for block, weeks in coming for one in _days(block, weeks)]
    return Ahead(
        asks,
        frozenset(out),
        _week_sums(blocks, asks),
        {(one.session_id, one.week): one for one in days},
        {(one.week, one.finding.code, one.finding.about): one for one in found},
        _goals(db, here, blocks, asks),
    )


def _weeks(block: Block, this_week: dt.date) -> list[int]:
    return [week for week in range(block.weeks) if block.first_week + week * WEEK >= this_week]


def _asks(db: Session, coming: Sequence[tuple[Block, list[int]]], out: Collection[tuple[int, int]]) -> dict[Place, Ask]:
    exercises = {exercise.id: exercise for block, _ in coming for exercise in block.exercises}
    weeks = {block.id: set(weeks) for block, weeks in coming}
    rows = db.execute(
        select(*(getattr(Cell, name) for name in Ask._fields)).where(
            Cell.exercise_id.in_(list(exercises)), Cell.current, Cell.state.in_(LIFTED)
        )
    )
    every = map(Ask._make, rows)
    return {
        one[:3]: one
        for one in every
        if one.week in weeks[exercises[one.exercise_id].block_id] and (one.exercise_id, one.week) not in out
    }


def _week_sums(blocks: Sequence[Block], asks: Mapping[Place, Ask]) -> list[WeekAhead]:
    first = {exercise.id: block.first_week for block in blocks for exercise in block.exercises}
    weeks: dict[dt.date, list[Ask]] = defaultdict(list)
    for one in asks.values():
        weeks[first[one.exercise_id] + one.week * WEEK].append(one)
    return [_week_sum(week, weeks[week]) for week in sorted(weeks)]


def _week_sum(week: dt.date, asks: Sequence[Ask]) -> WeekAhead:
    shares = [one.load_kg / one.planning_max_kg for one in asks if one.load_kg and one.planning_max_kg]
    each = sum(one.sets for one in asks) / len({one.athlete_id for one in asks})
    return WeekAhead(week, each, sum(shares) / len(shares) if shares else None)


def _days(block: Block, weeks: Iterable[int]) -> list[HeldDay]:
    used = {exercise.session_id for exercise in block.exercises}
    return [
        HeldDay(held.id, held.name, block.first_week + week * WEEK, held.day_in(week), held.left_out_of(week))
        for held in block.sessions
        if held.id in used
        for week in weeks
    ]


def _found(db: Session, here: SquadContext, block: Block, weeks: Sequence[int]) -> list[FoundAhead]:
    audits = audit_block_weeks(db, here.squad.id, block, weeks, here.rules)
    return [
        FoundAhead(block.first_week + week * WEEK, group.finding, len(group.athletes))
        for week, of_week in audits.items()
        for group in gathered(of_week)
    ]


def _goals(
    db: Session, here: SquadContext, blocks: Sequence[Block], asks: Mapping[Place, Ask]
) -> dict[int, tuple[GoalStanding, int]]:
    found = goals(db, here)
    wanted = {goal.milestone.movement for goal in found}
    exercises = {exercise.id: exercise for block in blocks for exercise in block.exercises}
    lifts = [
        (exercises[exercise_id].movement, of_exercise)
        for exercise_id, of_exercise in _by_exercise(asks).items()
        if exercises[exercise_id].movement in wanted
    ]
    days = {
        exercise.id: [session_day(exercise, w) for w in range(block.weeks)]
        for block in blocks
        for exercise in block.exercises
    }
    carried = {code for code in wanted if _carries(db, here, code)}
    return {
        goal.milestone.id: (
            standing(goal),
            0 if goal.milestone.movement in carried else _asked(goal, lifts, days, here.rules),
        )
        for goal in found
    }


def _carries(db: Session, here: SquadContext, code: str) -> bool:
    """Whether the body is moved with the load: what a plan asks of such a lift is not said in kg of a maximum."""
    movement = library_of(db, here.squad.id).movements.get(code)
    return movement is None or bool(movement.body_share)


def _by_exercise(asks: Mapping[Place, Ask]) -> dict[int, list[Ask]]:
    found: dict[int, list[Ask]] = defaultdict(list)
    for one in asks.values():
        found[one.exercise_id].append(one)
    return found


def _asked(
    goal: Goal, lifts: Sequence[tuple[str, list[Ask]]], days: Mapping[int, Sequence[dt.date]], rules: Rules
) -> int:
    """Of how many the plan asks, by the day, for a set that takes the target: load, reps and reserve by the formula."""
    if MilestoneKind(goal.milestone.kind) not in IN_KG:
        return 0
    most: dict[int, float] = {}
    for movement, asks in lifts:
        for one in asks if movement == goal.milestone.movement else ():
            due = days[one.exercise_id][one.week] <= goal.milestone.due_on
            if due and one.state is State.LOAD and one.load_kg:
                takes = maximum_kg(one.load_kg, one.reps + one.reserve_reps, FORMULAS[rules.formula])
                most[one.athlete_id] = max(most.get(one.athlete_id, 0.0), takes)
    targets = {one.athlete.id: one.judgement.target_kg for one in goal.standings}
    return sum(kg is not None and most.get(athlete_id, 0.0) >= kg for athlete_id, kg in targets.items())


@dataclass(frozen=True)
class GoalBeside:
    """A milestone of many today and then; `asked` of how many the plan asks it."""

    today: GoalStanding
    then: GoalStanding
    asked_today: int
    asked_then: int

    @property
    def differs(self) -> bool:
        """Whether anything of it shifts."""
        says = [(one.early_on, one.late_on, one.fewest, one.most) for one in (self.today, self.then)]
        return says[0] != says[1] or self.asked_today != self.asked_then


@dataclass(frozen=True)
class Beside:
    """What would be another way: only what differs, but for the weeks, which are all there."""

    weeks: list[tuple[dt.date, WeekAhead | None, WeekAhead | None]]
    asks: dict[int, dict[int, dict[int, tuple[Ask | None, Ask | None]]]]  # exercise → athlete → week
    days: list[tuple[HeldDay, HeldDay]]
    goals: list[GoalBeside]  # all of them
    come: list[tuple[FoundAhead, int]]  # with how many it concerns today
    gone: list[tuple[FoundAhead, int]]  # with how many it concerns then

    @property
    def loads(self) -> int:
        """How many cells ask for something else."""
        return sum(len(weeks) for athletes in self.asks.values() for weeks in athletes.values())


def beside(today: Ahead, then: Ahead) -> Beside:
    """Two plans of the same weeks beside each other."""
    sums = [{one.week: one for one in side.weeks} for side in (today, then)]
    both = sums[0].keys() & sums[1].keys()
    asks: dict[int, dict[int, dict[int, tuple[Ask | None, Ask | None]]]] = {}
    out = today.out ^ then.out
    for place in sorted(today.asks.keys() | then.asks.keys()):
        was, now = today.asks.get(place), then.asks.get(place)
        if (place[0], place[2]) not in out and _other(was, now):
            asks.setdefault(place[0], {}).setdefault(place[1], {})[place[2]] = was, now
    return Beside(
        [(week, sums[0].get(week), sums[1].get(week)) for week in sorted(sums[0].keys() | sums[1].keys())],
        asks,
        [(one, then.days[key]) for key, one in today.days.items() if then.days.get(key, one) != one],
        [
            GoalBeside(stands, then.goals[key][0], asked, then.goals[key][1])
            for key, (stands, asked) in today.goals.items()
            if key in then.goals
        ],
        _more(then.found, today.found, both),
        _more(today.found, then.found, both),
    )


def _other(was: Ask | None, now: Ask | None) -> bool:
    """Whether the floor would see something else."""
    said = [one and (one.state, one.movement, one.sets, one.reps, one.hold_s, one.load_kg) for one in (was, now)]
    return said[0] != said[1]


def _more(here: FoundIn, other: FoundIn, weeks: Collection[dt.date]) -> list[tuple[FoundAhead, int]]:
    """What concerns more athletes here than there, by week, with how many there; of weeks that are planned both ways."""
    counts = {key: other[key].count if key in other else 0 for key in here}
    found = [(one, counts[key]) for key, one in here.items() if one.week in weeks and counts[key] < one.count]
    return sorted(found, key=lambda pair: (pair[0].week, pair[0].finding.code))
