"""A squad made from nothing: its season, its first head coach. From the browser only while there is none at all."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.roles import Role
from backsquat.core.season.calendar import monday_of
from backsquat.storage.models import Membership, Season, Squad, User
from backsquat.work.accounts.people import add_person
from backsquat.work.audit import note_of
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require

NAME_MOST = 60
WEEKS = (1, 60)


@dataclass(frozen=True)
class FirstFacts:
    """Whose squad, from when for how long, and who coaches it. The season begins in the week of `first_on`."""

    club: str
    squad: str
    first_on: dt.date
    weeks: int
    coach: str
    sign_in: str
    password: str


def is_empty(db: Session) -> bool:
    """Whether there is no squad yet."""
    return not db.scalar(select(func.count(Squad.id)))


def make_first(db: Session, facts: FirstFacts, now: dt.datetime, cost: int) -> User:
    """The first squad with its coach, who is returned; Refused once there is one."""
    if not is_empty(db):
        raise Refused("not_first")
    squad = make_squad(db, facts, cost)
    note_of(db, now, "first_squad", {"squad": squad.id})
    return db.scalars(select(User).join(Membership).where(Membership.squad_id == squad.id)).one()


def make_squad(db: Session, facts: FirstFacts, cost: int) -> Squad:
    """A squad with its season and its coach; ImpossibleInput names what is wrong."""
    squad = _squad(db, facts.club, facts.squad, facts.first_on, facts.weeks)
    about = {"sign_in": facts.sign_in, "name": facts.coach, "password": facts.password}
    add_person(db, squad_id=squad.id, role=Role.COACH, cost=cost, **about)
    return squad


def another_squad(context: WorkContext, club: str, name: str, first_on: dt.date, weeks: int) -> Squad:
    """One more squad of somebody who coaches one: with nobody in it, its own room, rules and season."""
    require(context.actor, Act.KEEP_PEOPLE)
    squad = _squad(context.db, club, name, first_on, weeks)
    context.db.add(Membership(user_id=context.actor.user_id, squad_id=squad.id, role=Role.COACH))
    context.db.flush()
    note_of(
        context.db, context.now, "squad_made", {"squad": squad.id}, user_id=context.actor.user_id, squad_id=squad.id
    )
    return squad


def _squad(db: Session, club: str, name: str, first_on: dt.date, weeks: int) -> Squad:
    found = [
        Problem(field, "missing") if not text.strip() else Problem(field, "too_long", {"most": NAME_MOST})
        for field, text in (("club", club), ("squad", name))
        if not text.strip() or len(text.strip()) > NAME_MOST
    ]
    if not WEEKS[0] <= weeks <= WEEKS[1]:
        found.append(Problem("weeks", "out_of_range", {"low": WEEKS[0], "high": WEEKS[1]}))
    if found:
        raise ImpossibleInput(*found)
    squad = Squad(club=club.strip(), name=name.strip())
    db.add(squad)
    db.flush()
    monday = monday_of(first_on)
    db.add(Season(squad_id=squad.id, name=str(monday.year), first_week=monday, weeks=weeks))
    return squad
