"""A block looked back on: sessions and sets planned and done, which maxima went where, what was decided and how it went."""

import datetime as dt
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.movements.movement import Muscle
from backsquat.core.progression.cell import LIFTED
from backsquat.core.progression.decision import Code
from backsquat.core.readiness.screens import Result, ResultKind, Screen, change_since
from backsquat.core.readiness.sides import Sides
from backsquat.core.rules import Rules
from backsquat.core.season.outcome import MaxChange, change
from backsquat.core.sessions.running import ActKind
from backsquat.storage.models import (
    Answer,
    Athlete,
    Block,
    BlockSession,
    Cell,
    DecisionRow,
    Exercise,
    ExerciseWeek,
    ScreenResult,
    SessionAct,
    SessionDay,
    SetEntry,
)
from backsquat.work.context import library_of
from backsquat.work.library.screens import screens_of
from backsquat.work.log.estimates import current_values
from backsquat.work.log.left_right import MeasuredSides, sides_of_all
from backsquat.work.overview.attendance import Trained, attendance
from backsquat.work.plan.week_check import done_in
from backsquat.work.readiness.screens import newest_results
from backsquat.work.sessions.blocks import lifts_of
from backsquat.work.squad.athletes import body_masses, squad_athletes
from backsquat.work.squad.context import SquadContext

MUSCLES = (Muscle.HAMSTRINGS, Muscle.QUADS, Muscle.GLUTES, Muscle.ADDUCTORS, Muscle.CALVES)


@dataclass(frozen=True)
class LiftOutcome:
    """One main lift: everybody's change, those who rose most first; who has no number before or after is not in it."""

    movement: str
    changes: list[tuple[Athlete, MaxChange]]

    @property
    def counts(self) -> Counter[str]:
        """How many rose, stayed and fell."""
        return Counter(str(one.course) for _, one in self.changes)


@dataclass(frozen=True)
class Overridden:
    """A proposal that was decided differently, and what the next session of that lift said (None: there was none yet)."""

    athlete: Athlete
    movement: str
    done_on: dt.date
    proposed: Code
    decided: Code
    reason: str
    next_made: bool | None


@dataclass(frozen=True)
class MeasuredOutcome:
    """A jump, a sprint or the like: everybody's newest value before the block and in it."""

    screen: Screen
    values: list[tuple[Athlete, float, float]]

    def beyond(self, before: float, after: float) -> int:
        """1 better, −1 worse, 0 within the typical error of the test."""
        change = change_since(self.screen, Result(after, dt.date.min), Result(before, dt.date.min))
        if change is None or not change.real:
            return 0
        return 1 if (change.by > 0) is not self.screen.less_is_better else -1


@dataclass(frozen=True)
class Outcome:
    """A block as far as it has gone. `sets`: (planned, done); `muscles`: name → hard sets a week and its range."""

    block: Block
    last_on: dt.date
    trained: list[Trained]
    sets: tuple[int, int]
    lifts: list[LiftOutcome]
    decided: Counter[Code]
    overridden: list[Overridden]
    muscles: dict[str, tuple[float, int, int]]
    families: dict[str, float]  # hard sets a week of squats, hinges, single-leg work, curls
    carried: dict[ActKind, int]  # work skipped, taken up, let go
    tests: list[MeasuredOutcome]
    lopsided: list[tuple[Athlete, Sides]]  # beyond the test's error, as things stood at its end

    @property
    def sessions(self) -> tuple[int, int]:
        """Sessions expected and done, of everybody."""
        return sum(row.expected for row in self.trained), sum(row.done for row in self.trained)


def outcome(db: Session, here: SquadContext, block: Block) -> Outcome:
    """What became of a block up to today; a fixed number of queries for each main lift."""
    last_on = min(block.first_week + dt.timedelta(weeks=block.weeks, days=-1), here.today)
    athletes, codes = squad_athletes(db, here.squad.id), lifts_of(db, here.squad.id, block.first_week)
    return Outcome(
        block,
        last_on,
        attendance(db, here, block.first_week, last_on),
        _sets(db, block, last_on),
        [_lift(db, code, athletes, block, last_on, here.rules) for code in codes],
        *_decisions(db, block, athletes),
        *_week_of(db, here, block, last_on),
        _carried(db, block, [athlete.id for athlete in athletes]),
        _tests(db, here, block, last_on, athletes),
        _lopsided(db, here, last_on, athletes),
    )


def _tests(
    db: Session, here: SquadContext, block: Block, last_on: dt.date, athletes: Sequence[Athlete]
) -> list[MeasuredOutcome]:
    """What is measured without a line to pass, in cm or seconds and by no side: jumps, sprints."""
    screens = [
        screen
        for screen in screens_of(db, here.squad.id).values()
        if screen.kind in (ResultKind.CENTIMETRES, ResultKind.SECONDS)
        and screen.error
        and screen.pass_at is None
        and not screen.two_sided
    ]
    rows = db.execute(
        select(ScreenResult.athlete_id, ScreenResult.screen, ScreenResult.done_on, ScreenResult.value)
        .where(ScreenResult.athlete_id.in_([athlete.id for athlete in athletes]), ~ScreenResult.replaced)
        .where(ScreenResult.screen.in_([screen.code for screen in screens]), ScreenResult.value.is_not(None))
        .where(
            ScreenResult.done_on.between(block.first_week - dt.timedelta(days=here.rules.outcome_test_days), last_on)
        )
        .order_by(ScreenResult.done_on)
    )
    ends: dict[tuple[int, str], list[float | None]] = defaultdict(lambda: [None, None])
    for athlete_id, code, done_on, value in rows:
        ends[athlete_id, code][done_on > block.first_week] = value
    found = []
    for screen in screens:
        values = [
            (athlete, was, now)
            for athlete in athletes
            for was, now in [ends[athlete.id, screen.code]]
            if was is not None and now is not None
        ]
        if values:
            found.append(MeasuredOutcome(screen, values))
    return found


def _lopsided(
    db: Session, here: SquadContext, last_on: dt.date, athletes: Sequence[Athlete]
) -> list[tuple[Athlete, Sides]]:
    ids = [athlete.id for athlete in athletes]
    known, masses = newest_results(db, ids, last_on), body_masses(db, ids, last_on)
    measured = {one: MeasuredSides(known.get(one, {}), masses.get(one)) for one in ids}
    screens = [one for one in screens_of(db, here.squad.id).values() if not one.retired]
    library = library_of(db, here.squad.id)
    found = sides_of_all(db, library, measured, screens, last_on, here.rules)
    return [(athlete, one) for athlete in athletes for one in found[athlete.id] if one.level != "even"]


def _sets(db: Session, block: Block, last_on: dt.date) -> tuple[int, int]:
    both_sides = func.count(SetEntry.set_number.distinct())  # a set logged side by side is one
    done = select(both_sides).where(SetEntry.cell_id == Cell.id, SetEntry.standing).correlate(Cell).scalar_subquery()
    row = db.execute(
        select(func.sum(Cell.sets), func.sum(done))
        .join(Exercise, Exercise.id == Cell.exercise_id)
        .join(ExerciseWeek, (ExerciseWeek.exercise_id == Cell.exercise_id) & (ExerciseWeek.week == Cell.week))
        .join(SessionDay, (SessionDay.session_id == ExerciseWeek.session_id) & (SessionDay.week == ExerciseWeek.week))
        .where(Exercise.block_id == block.id, ~Exercise.removed, Cell.live, Cell.state.in_(LIFTED))
        .where(~SessionDay.left_out, ~ExerciseWeek.spare, SessionDay.held_on <= last_on)
    ).one()
    return row[0] or 0, row[1] or 0


def _lift(
    db: Session, code: str, athletes: Sequence[Athlete], block: Block, last_on: dt.date, rules: Rules
) -> LiftOutcome:
    ids = [athlete.id for athlete in athletes]
    before = current_values(db, ids, code, block.first_week, rules)
    after = current_values(db, ids, code, last_on, rules)
    found = [
        (athlete, change(before[athlete.id], after[athlete.id], rules))
        for athlete in athletes
        if athlete.id in before and athlete.id in after
    ]
    return LiftOutcome(code, sorted(found, key=lambda one: -one[1].share))


def _decisions(db: Session, block: Block, athletes: Sequence[Athlete]) -> tuple[Counter[Code], list[Overridden]]:
    known = {athlete.id: athlete for athlete in athletes}
    told = (
        DecisionRow.athlete_id,
        DecisionRow.movement,
        DecisionRow.done_on,
        DecisionRow.code,
        DecisionRow.missing_reps,
    )
    rows = db.execute(
        select(*told, Answer.code, Answer.accepted, Answer.reason)
        .join(Cell, Cell.id == DecisionRow.cell_id)
        .join(Exercise, Exercise.id == Cell.exercise_id)
        .outerjoin(Answer, Answer.decision_id == DecisionRow.id)
        .where(Exercise.block_id == block.id, DecisionRow.athlete_id.in_(list(known)))
        .order_by(DecisionRow.done_on, DecisionRow.id)
    ).all()
    after: dict[tuple[int, str], list[tuple[dt.date, int]]] = defaultdict(list)
    for who, movement, done_on, _, missing, *_ in rows:
        after[who, movement].append((done_on, missing))
    decided: Counter[Code] = Counter()
    overridden = []
    for who, movement, done_on, proposed, _, code, accepted, reason in rows:
        if code is None:
            continue
        decided[code] += 1
        if not accepted:
            later = [missing for day, missing in after[who, movement] if day > done_on]
            made = later[0] == 0 if later else None
            overridden.append(Overridden(known[who], movement, done_on, proposed, code, reason, made))
    return decided, overridden


def _week_of(
    db: Session, here: SquadContext, block: Block, last_on: dt.date
) -> tuple[dict[str, tuple[float, int, int]], dict[str, float]]:
    """Hard sets a week by muscle with its range, and by family: the mean of who trained, of the weeks that are over."""
    weeks = [week for week in range(block.weeks) if block.first_week + dt.timedelta(weeks=week + 1) <= last_on]
    numbers, many = done_in(db, here.squad.id, block, weeks, here.rules)
    many = max(many, 1)
    muscles = {}
    for muscle in MUSCLES:
        low, high = (int(getattr(here.rules, f"sets_{muscle.value}_{end}")) for end in ("low", "high"))
        muscles[muscle.value] = (numbers.sets.get(muscle, 0.0) / many, low, high)
    families = {
        "squat": numbers.squat_sets,
        "hinge": numbers.hinge_sets,
        "single-leg": numbers.single_leg_sets,
        "curl": numbers.curl_sets,
    }
    return muscles, {name: sets / many for name, sets in families.items()}


def _carried(db: Session, block: Block, ids: Sequence[int]) -> dict[ActKind, int]:
    """What was skipped in the block, and of skipped work what was taken up in it or let go."""
    rows = db.execute(
        select(SessionAct.what, func.count())
        .join(BlockSession, BlockSession.id == SessionAct.session_id)
        .where(BlockSession.block_id == block.id, SessionAct.athlete_id.in_(ids), ~SessionAct.taken_back)
        .group_by(SessionAct.what)
    )
    counts = dict(rows.all())
    return {what: counts.get(what, 0) for what in (ActKind.SKIPPED, ActKind.TAKEN, ActKind.LET_GO)}
