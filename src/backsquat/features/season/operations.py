"""Milestones for everybody by one rule, undone in one go."""

import datetime as dt
from dataclasses import dataclass
from decimal import Decimal
from uuid import uuid4

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.season.milestone import MilestoneKind
from backsquat.features.athletes.queries import squad_athletes
from backsquat.features.desk import Actor
from backsquat.features.journal import remember, restores
from backsquat.features.movements.queries import library_of
from backsquat.storage.models import Change, Milestone, Squad


@dataclass(frozen=True)
class Rule:
    """What everybody is to reach: a load, a share of body mass, or a rung (then `movement` is the rung's)."""

    movement: str
    kind: MilestoneKind
    amount: Decimal
    due_on: dt.date


def set_for_squad(session: Session, actor: Actor, rule: Rule) -> tuple[int, Change]:
    """One milestone for each athlete; who has one for the same movement and kind still open gets this in its place."""
    movement = library_of(session, actor.squad_id).get(rule.movement)
    athletes = squad_athletes(session, actor.squad_id)
    if not athletes:
        raise ImpossibleInput(Problem("what", "nobody_here"))
    ids = [athlete.id for athlete in athletes]
    before = list(
        session.scalars(
            select(Milestone.id).where(
                Milestone.athlete_id.in_(ids), Milestone.movement == movement.code,
                Milestone.kind == rule.kind.value, ~Milestone.dropped,
            )
        )
    )  # fmt: skip
    session.execute(update(Milestone).where(Milestone.id.in_(before)).values(dropped=True))
    batch = uuid4().hex
    session.add_all(
        Milestone(
            athlete_id=athlete_id, movement=movement.code, kind=rule.kind.value, amount=rule.amount, due_on=rule.due_on,
            batch=batch, by_id=actor.user_id, at=actor.now,
        )
        for athlete_id in ids
    )  # fmt: skip
    session.flush()
    change = remember(
        session, actor, what="milestones_set", subject="milestones", subject_id=actor.squad_id,
        before={"batch": batch, "dropped": True, "earlier": before},
    )  # fmt: skip
    return len(ids), change


def drop_batch(session: Session, actor: Actor, batch: str) -> Change:
    """Take a rule's milestones away from everybody."""
    ids = [athlete.id for athlete in squad_athletes(session, actor.squad_id)]
    found = session.scalars(
        select(Milestone.id).where(
            Milestone.batch == batch, Milestone.athlete_id.in_(ids), ~Milestone.dropped
        )
    ).all()
    if not batch or not found:
        raise NotThere("milestone")
    session.execute(update(Milestone).where(Milestone.batch == batch).values(dropped=True))
    return remember(
        session, actor, what="milestones_dropped", subject="milestones", subject_id=actor.squad_id,
        before={"batch": batch, "dropped": False, "earlier": []},
    )  # fmt: skip


@restores("milestones")
def restore_batch(session: Session, actor: Actor, change: Change) -> None:
    session.get_one(Squad, actor.squad_id)
    before = change.before
    session.execute(
        update(Milestone).where(Milestone.batch == before["batch"]).values(dropped=before["dropped"])
    )
    session.execute(update(Milestone).where(Milestone.id.in_(before["earlier"])).values(dropped=False))
