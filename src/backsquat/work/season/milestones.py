"""Milestones of athletes and of the whole squad: set, dropped, judged."""

import datetime as dt
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from uuid import uuid4

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.core.season.milestone import Judgement, MilestoneKind, judge, judge_rung, target_kg
from backsquat.core.season.trend import Point
from backsquat.storage.models import Athlete, Change, Milestone, Squad
from backsquat.work.actor import Actor
from backsquat.work.journal import remember, restores
from backsquat.work.library.movements import library_of
from backsquat.work.log.estimates import WeekBest, weekly_best
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.squad.athletes import athlete_of, squad_athletes
from backsquat.work.squad.context import SquadContext

MILESTONE_RANGE = {MilestoneKind.LOAD: (10, 400), MilestoneKind.BODY_MASSES: (0.3, 4)}


def add_milestone(
    session: Session,
    actor: Actor,
    athlete_id: int,
    movement: str,
    kind: MilestoneKind,
    amount: Decimal,
    due_on: dt.date,
) -> Milestone:
    """Set a milestone for one athlete."""
    require(actor, Act.PLAN)
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    milestone = Milestone(
        athlete_id=athlete.id,
        movement=movement,
        kind=kind.value,
        amount=amount,
        due_on=due_on,
        by_id=actor.user_id,
        at=actor.now,
    )
    session.add(milestone)
    session.flush()
    remember(
        session, actor, what="milestone_set", subject="milestone", subject_id=milestone.id, before={"dropped": True}
    )
    return milestone


def drop_milestone(session: Session, actor: Actor, milestone_id: int) -> Change:
    """Take a milestone away; undo gives it back."""
    require(actor, Act.PLAN)
    milestone = session.get(Milestone, milestone_id)
    if milestone is None or milestone.dropped:
        raise NotThere("milestone")
    athlete_of(session, actor.squad_id, milestone.athlete_id)
    milestone.dropped = True
    return remember(
        session,
        actor,
        what="milestone_dropped",
        subject="milestone",
        subject_id=milestone.id,
        before={"dropped": False},
    )


@restores("milestone")
def restore_milestone(session: Session, _actor: Actor, change: Change) -> None:
    session.get_one(Milestone, change.subject_id).dropped = change.before["dropped"]


def milestones_of(session: Session, athlete_ids: Sequence[int]) -> list[Milestone]:
    rows = session.scalars(
        select(Milestone)
        .where(Milestone.athlete_id.in_(athlete_ids), ~Milestone.dropped)
        .order_by(Milestone.due_on, Milestone.id)
    )
    return list(rows)


def judge_milestone(milestone: Milestone, weeks: Sequence[WeekBest], ready: Readiness, rules: Rules) -> Judgement:
    """Status of a milestone: from the weekly best estimates, or from where the athlete stands on the ladder."""
    kind = MilestoneKind(milestone.kind)
    if kind is MilestoneKind.RUNG:
        found = ready.library.ladders_of(milestone.movement)
        stands = [(ready.rung_on(ladder), rung) for ladder, rung in found] or [(None, 0)]
        here, wanted = max(stands, key=lambda stand: -1 if stand[0] is None else stand[0] - stand[1])
        return judge_rung(here, wanted, milestone.due_on, ready.today)
    target = target_kg(kind, float(milestone.amount), ready.body_mass_kg)
    firm = [best for best in weeks if best.firm]
    points, believed = [Point(best.week, best.kg) for best in firm], {best.week: best.believed_kg for best in firm}
    return judge(points, target, milestone.due_on, rules, ready.today, believed)


@dataclass(frozen=True)
class SquadMilestone:
    """What everybody is to reach: a load, a share of body mass, or a rung (then `movement` is the rung's)."""

    movement: str
    kind: MilestoneKind
    amount: Decimal
    due_on: dt.date


def set_for_squad(session: Session, actor: Actor, rule: SquadMilestone) -> tuple[int, Change]:
    """One milestone for each athlete; who has one for the same movement and kind still open gets this instead."""
    require(actor, Act.PLAN)
    movement = library_of(session, actor.squad_id).get(rule.movement)
    athletes = squad_athletes(session, actor.squad_id)
    if not athletes:
        raise ImpossibleInput(Problem("what", "nobody_here"))
    ids = [athlete.id for athlete in athletes]
    before = list(
        session.scalars(
            select(Milestone.id).where(
                Milestone.athlete_id.in_(ids),
                Milestone.movement == movement.code,
                Milestone.kind == rule.kind.value,
                ~Milestone.dropped,
            )
        )
    )
    session.execute(update(Milestone).where(Milestone.id.in_(before)).values(dropped=True))
    batch = uuid4().hex
    session.add_all(
        Milestone(
            athlete_id=athlete_id,
            movement=movement.code,
            kind=rule.kind.value,
            amount=rule.amount,
            due_on=rule.due_on,
            batch=batch,
            by_id=actor.user_id,
            at=actor.now,
        )
        for athlete_id in ids
    )
    session.flush()
    change = remember(
        session,
        actor,
        what="milestones_set",
        subject="milestones",
        subject_id=actor.squad_id,
        before={"batch": batch, "dropped": True, "earlier": before},
    )
    return len(ids), change


def drop_batch(session: Session, actor: Actor, batch: str) -> Change:
    """Take a rule's milestones away from everybody."""
    require(actor, Act.PLAN)
    ids = [athlete.id for athlete in squad_athletes(session, actor.squad_id)]
    found = session.scalars(
        select(Milestone.id).where(Milestone.batch == batch, Milestone.athlete_id.in_(ids), ~Milestone.dropped)
    ).all()
    if not batch or not found:
        raise NotThere("milestone")
    session.execute(update(Milestone).where(Milestone.batch == batch).values(dropped=True))
    return remember(
        session,
        actor,
        what="milestones_dropped",
        subject="milestones",
        subject_id=actor.squad_id,
        before={"batch": batch, "dropped": False, "earlier": []},
    )


@restores("milestones")
def restore_batch(session: Session, actor: Actor, change: Change) -> None:
    session.get_one(Squad, actor.squad_id)
    before = change.before
    session.execute(update(Milestone).where(Milestone.batch == before["batch"]).values(dropped=before["dropped"]))
    session.execute(update(Milestone).where(Milestone.id.in_(before["earlier"])).values(dropped=False))


@dataclass(frozen=True)
class Standing:
    athlete: Athlete
    milestone: Milestone
    judgement: Judgement


@dataclass(frozen=True)
class Goal:
    """One thing asked for by one day, of one athlete or of many."""

    milestone: Milestone
    standings: list[Standing]

    @property
    def counts(self) -> list[tuple[str, int]]:
        return Counter(str(standing.judgement.status) for standing in self.standings).most_common()


def judged(
    session: Session, here: SquadContext, ready: dict[int, Readiness], milestones: Iterable[Milestone]
) -> list[tuple[Milestone, Judgement]]:
    """Each milestone with its judgement: one query a movement."""
    found = list(milestones)
    best = {
        code: weekly_best(session, list(ready), code, here.season.first_week, here.today)
        for code in {milestone.movement for milestone in found}
    }
    return [
        (m, judge_milestone(m, best[m.movement].get(m.athlete_id, []), ready[m.athlete_id], here.rules)) for m in found
    ]


def goals(session: Session, here: SquadContext) -> list[Goal]:
    """All open milestones, the next first."""
    athletes = {athlete.id: athlete for athlete in squad_athletes(session, here.squad.id)}
    ready = readiness_of(session, here.squad.id, list(athletes.values()), here.today, here.rules)
    grouped: dict[tuple[object, ...], Goal] = {}
    for milestone, judgement in judged(session, here, ready, milestones_of(session, list(athletes))):
        key = (milestone.due_on, milestone.movement, milestone.kind, str(milestone.amount), milestone.batch)
        goal = grouped.setdefault(key, Goal(milestone, []))
        goal.standings.append(Standing(athletes[milestone.athlete_id], milestone, judgement))
    return sorted(grouped.values(), key=lambda goal: (goal.milestone.due_on, -len(goal.standings)))
