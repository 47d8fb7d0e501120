"""Milestones of athletes and of the whole squad: set, dropped, judged."""

import datetime as dt
from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from uuid import uuid4

from sqlalchemy import bindparam, select, update
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.core.season.milestone import (
    Judgement,
    MilestoneKind,
    Status,
    judge,
    judge_attended,
    judge_level,
    judge_value,
    target_kg,
)
from backsquat.core.season.trend import Point
from backsquat.core.strength.formulas import FORMULAS, maximum_kg
from backsquat.storage.cache import cached_each
from backsquat.storage.models import Athlete, Change, Milestone, Squad
from backsquat.work.context import WorkContext, library_of
from backsquat.work.journal import remember, restores
from backsquat.work.library.screens import screens_of
from backsquat.work.log.estimates import WeekBest, weekly_best
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.season.evidence import (
    Attended,
    idle_weeks,
    most_reps,
    screen_points,
    sessions_attended,
    weekly_holds,
)
from backsquat.work.squad.athletes import athlete_of, squad_athletes
from backsquat.work.squad.context import SquadContext

MILESTONE_RANGE = {
    MilestoneKind.LOAD: (10, 400), MilestoneKind.BODY_MASSES: (0.3, 4), MilestoneKind.REPS: (1, 50),
    MilestoneKind.SECONDS: (5, 600), MilestoneKind.SESSIONS: (1, 300),
}  # fmt: skip
Idle = Mapping[int, Sequence[dt.date]]  # athlete → weeks ahead without training
WITH_LIFT = (MilestoneKind.LOAD, MilestoneKind.BODY_MASSES, MilestoneKind.LEVEL)  # shown where the lift is


def add_milestone(
    context: WorkContext, athlete_id: int, movement: str, kind: MilestoneKind, amount: Decimal, due_on: dt.date
) -> Milestone:
    """Set a milestone for one athlete."""
    require(context.actor, Act.PLAN)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    milestone = Milestone(
        athlete_id=athlete.id,
        movement=movement,
        kind=kind.value,
        amount=amount,
        due_on=due_on,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(milestone)
    context.db.flush()
    remember(context, what="milestone_set", subject="milestone", subject_id=milestone.id, before={"dropped": True})
    return milestone


def drop_milestone(context: WorkContext, milestone_id: int) -> Change:
    """Take a milestone away; undo gives it back."""
    require(context.actor, Act.PLAN)
    milestone = context.db.get(Milestone, milestone_id)
    if milestone is None or milestone.dropped:
        raise NotThere("milestone")
    athlete_of(context.db, context.squad_id, milestone.athlete_id)
    milestone.dropped = True
    return remember(
        context, what="milestone_dropped", subject="milestone", subject_id=milestone.id, before={"dropped": False}
    )


@restores("milestone")
def restore_milestone(context: WorkContext, change: Change) -> None:
    context.db.get_one(Milestone, change.subject_id).dropped = change.before["dropped"]


_STANDING = (  # made once
    select(Milestone)
    .where(Milestone.athlete_id.in_(bindparam("ids", expanding=True)), ~Milestone.dropped)
    .order_by(Milestone.due_on, Milestone.id)
)


def milestones_of(db: Session, athlete_ids: Sequence[int]) -> list[Milestone]:
    return list(db.scalars(_STANDING, {"ids": list(athlete_ids)}))


def with_lift(milestones: Iterable[Milestone], movement: str) -> list[Milestone]:
    """Those that stand beside a lift's own numbers, the next first."""
    return [one for one in milestones if one.movement == movement and MilestoneKind(one.kind) in WITH_LIFT]


def judge_milestone(
    milestone: Milestone, weeks: Sequence[WeekBest], ready: Readiness, rules: Rules, idle: Sequence[dt.date]
) -> Judgement:
    """Status of one with a lift: from the weekly best estimates, or from where the athlete stands on the ladder.

    `idle`: the athlete's weeks ahead without training (`evidence.idle_weeks`).
    """
    kind = MilestoneKind(milestone.kind)
    if kind is MilestoneKind.LEVEL:
        found = ready.library.ladders_of(milestone.movement)
        stands = [(ready.level_on(ladder), level) for ladder, level in found] or [(None, 0)]
        here, wanted = max(stands, key=lambda stand: -1 if stand[0] is None else stand[0] - stand[1])
        return judge_level(here, wanted, milestone.due_on, ready.today)
    target = target_kg(kind, float(milestone.amount), ready.body_mass_kg)
    firm = [best for best in weeks if best.firm]
    points, believed = [Point(best.week, best.kg) for best in firm], {best.week: best.believed_kg for best in firm}
    return judge(points, target, milestone.due_on, rules, ready.today, believed, idle=idle)


@dataclass(frozen=True)
class SquadMilestone:
    """What many are to reach. `movement` is the level's movement, or a screen's code; empty for sessions."""

    movement: str
    kind: MilestoneKind
    amount: Decimal
    due_on: dt.date
    load_kg: Decimal | None = None


def set_for_squad(
    context: WorkContext, rule: SquadMilestone, only: Collection[int] | None = None
) -> tuple[int, Change]:
    """One milestone for each athlete, or for these only; who has one for the same thing still open gets this instead."""
    require(context.actor, Act.PLAN)
    _known(context.db, context.squad_id, rule)
    athletes = [one for one in squad_athletes(context.db, context.squad_id) if only is None or one.id in only]
    if not athletes:
        raise ImpossibleInput(Problem("what", "nobody_here"))
    ids = [athlete.id for athlete in athletes]
    before = list(
        context.db.scalars(
            select(Milestone.id).where(
                Milestone.athlete_id.in_(ids),
                Milestone.movement == rule.movement,
                Milestone.kind == rule.kind.value,
                ~Milestone.dropped,
            )
        )
    )
    context.db.execute(update(Milestone).where(Milestone.id.in_(before)).values(dropped=True))
    batch = uuid4().hex
    context.db.add_all(
        Milestone(
            athlete_id=athlete_id,
            movement=rule.movement,
            kind=rule.kind.value,
            amount=rule.amount,
            load_kg=rule.load_kg,
            due_on=rule.due_on,
            batch=batch,
            by_id=context.actor.user_id,
            at=context.now,
        )
        for athlete_id in ids
    )
    context.db.flush()
    change = remember(
        context,
        what="milestones_set",
        subject="milestones",
        subject_id=context.squad_id,
        before={"batch": batch, "dropped": True, "earlier": before},
    )
    return len(ids), change


def _known(db: Session, squad_id: int, rule: SquadMilestone) -> None:
    """NotThere where a milestone is about something this squad does not have."""
    if rule.kind is MilestoneKind.SCREEN:
        if rule.movement not in screens_of(db, squad_id):
            raise NotThere("screen")
    elif rule.kind is not MilestoneKind.SESSIONS:
        library_of(db, squad_id).get(rule.movement)


def drop_batch(context: WorkContext, batch: str) -> Change:
    """Take a rule's milestones away from everybody."""
    require(context.actor, Act.PLAN)
    ids = [athlete.id for athlete in squad_athletes(context.db, context.squad_id)]
    found = context.db.scalars(
        select(Milestone.id).where(Milestone.batch == batch, Milestone.athlete_id.in_(ids), ~Milestone.dropped)
    ).all()
    if not batch or not found:
        raise NotThere("milestone")
    context.db.execute(update(Milestone).where(Milestone.batch == batch).values(dropped=True))
    return remember(
        context,
        what="milestones_dropped",
        subject="milestones",
        subject_id=context.squad_id,
        before={"batch": batch, "dropped": False, "earlier": []},
    )


@restores("milestones")
def restore_batch(context: WorkContext, change: Change) -> None:
    context.db.get_one(Squad, context.squad_id)
    before = change.before
    context.db.execute(update(Milestone).where(Milestone.batch == before["batch"]).values(dropped=before["dropped"]))
    context.db.execute(update(Milestone).where(Milestone.id.in_(before["earlier"])).values(dropped=False))


@dataclass(frozen=True)
class MilestoneStanding:
    athlete: Athlete
    milestone: Milestone
    judgement: Judgement


@dataclass(frozen=True)
class Goal:
    """One thing asked for by one day, of one athlete or of many."""

    milestone: Milestone
    standings: list[MilestoneStanding]

    @property
    def counts(self) -> list[tuple[str, int]]:
        return Counter(str(standing.judgement.status) for standing in self.standings).most_common()


Judged = list[tuple[Milestone, Judgement]]


def judged_of(db: Session, here: SquadContext, ready: Mapping[int, Readiness]) -> Judged:
    """The milestones of these athletes with their judgements, the next first."""

    def read(ids: list[int]) -> dict[int, Judged]:
        found: dict[int, Judged] = defaultdict(list)
        for one in judged(db, here, {id: ready[id] for id in ids}, milestones_of(db, ids)):
            found[one[0].athlete_id].append(one)
        return found

    question = ("milestones", here.squad.id, here.records_from, here.today, here.rules)
    found = cached_each(db, question, ready, read, plan=True)
    return sorted((one for mine in found.values() for one in mine), key=lambda one: (one[0].due_on, one[0].id))


def judged(db: Session, here: SquadContext, ready: Mapping[int, Readiness], milestones: Iterable[Milestone]) -> Judged:
    """Each milestone with its judgement; as many queries as there are different things asked for."""
    found = list(milestones)
    grouped: dict[tuple[object, ...], list[Milestone]] = defaultdict(list)
    for milestone in found:
        grouped[_asks(milestone)].append(milestone)
    said: dict[int, Judgement] = {}
    idle = idle_weeks(db, here.squad.id, ready) if found else {}
    for group in grouped.values():
        said |= _judged_alike(db, here, ready, group, idle)
    return [(milestone, said[milestone.id]) for milestone in found]


def _asks(milestone: Milestone) -> tuple[object, ...]:
    """What is looked up for a milestone: those that ask for the same are judged together."""
    kind = MilestoneKind(milestone.kind)
    if kind is MilestoneKind.REPS:
        return kind, milestone.movement, milestone.load_kg
    if kind is MilestoneKind.SESSIONS:
        return kind, milestone.at.date(), milestone.due_on
    return ("with lift" if kind in WITH_LIFT else kind), milestone.movement


def _judged_alike(
    db: Session, here: SquadContext, ready: Mapping[int, Readiness], group: Sequence[Milestone], idle: Idle
) -> dict[int, Judgement]:
    first, ids = group[0], [milestone.athlete_id for milestone in group]
    kind, since, today = MilestoneKind(first.kind), here.records_from, here.today
    if kind is MilestoneKind.SESSIONS:
        came = sessions_attended(db, here.squad.id, ids, first.at.date(), first.due_on, today)
        none = Attended(0, 0, 0)
        return {one.id: _attended(one, came.get(one.athlete_id, none), today) for one in group}
    if kind is MilestoneKind.SECONDS:
        holds = weekly_holds(db, ids, first.movement, since, today)
        return {one.id: _valued(one, holds.get(one.athlete_id, []), here, "s") for one in group}
    if kind is MilestoneKind.SCREEN:
        screen = screens_of(db, here.squad.id)[first.movement]
        points = screen_points(db, ids, screen, since, today)
        less = screen.less_is_better
        return {one.id: _valued(one, points.get(one.athlete_id, []), here, screen.unit, less) for one in group}
    best = weekly_best(db, ids, first.movement, since, today)
    if kind is MilestoneKind.REPS:
        shown = most_reps(db, ids, first.movement, float(first.load_kg or 0), today)
        return {
            one.id: _repped(one, best.get(one.athlete_id, []), shown.get(one.athlete_id, 0), here, idle[one.athlete_id])
            for one in group
        }
    return {
        one.id: judge_milestone(
            one, best.get(one.athlete_id, []), ready[one.athlete_id], here.rules, idle[one.athlete_id]
        )
        for one in group
    }


def _attended(milestone: Milestone, came: Attended, today: dt.date) -> Judgement:
    return judge_attended(came.came, came.ahead, came.share, int(milestone.amount), milestone.due_on, today)


def _valued(
    milestone: Milestone, points: Sequence[Point], here: SquadContext, unit: str, less: bool = False
) -> Judgement:
    amount, set_on = float(milestone.amount), milestone.at.date()
    return judge_value(points, amount, milestone.due_on, here.rules, here.today, unit, less, set_on)


def _repped(
    milestone: Milestone, weeks: Sequence[WeekBest], shown: int, here: SquadContext, idle: Sequence[dt.date]
) -> Judgement:
    """Reps at a load: judged by the maximum that would make them, done only once they were shown."""
    load, reps = float(milestone.load_kg or 0), int(milestone.amount)
    target = maximum_kg(load, reps, FORMULAS[here.rules.formula])
    firm = [best for best in weeks if best.firm]
    believed = {best.week: best.believed_kg for best in firm}
    points = [Point(best.week, best.kg) for best in firm]
    found = judge(points, target, milestone.due_on, here.rules, here.today, believed, idle=idle)
    if shown >= reps:
        return replace(found, status=Status.DONE, sure=True)
    if found.status is Status.DONE:  # strong enough for it, and not shown
        late = here.today > milestone.due_on
        return replace(found, status=Status.MISSED if late else Status.ON_COURSE, sure=False)
    return found


def goals(db: Session, here: SquadContext) -> list[Goal]:
    """All open milestones, the next first."""
    athletes = {athlete.id: athlete for athlete in squad_athletes(db, here.squad.id)}
    ready = readiness_of(db, here.squad.id, list(athletes.values()), here.today, here.rules)
    grouped: dict[tuple[object, ...], Goal] = {}
    for milestone, judgement in judged_of(db, here, ready):
        key = (
            milestone.due_on,
            milestone.movement,
            milestone.kind,
            str(milestone.amount),
            milestone.load_kg,
            milestone.batch,
        )
        goal = grouped.setdefault(key, Goal(milestone, []))
        goal.standings.append(MilestoneStanding(athletes[milestone.athlete_id], milestone, judgement))
    return sorted(grouped.values(), key=lambda goal: (goal.milestone.due_on, -len(goal.standings)))
