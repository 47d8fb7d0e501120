"""Accounts: made by the head coach or from the command line, checked at sign-in, changed and closed."""

import datetime as dt
from collections.abc import Sequence

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session, joinedload

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.roles import Role
from backsquat.storage.cache import cached
from backsquat.storage.models import Membership, User
from backsquat.work.accounts.passwords import check_password, hasher, is_password
from backsquat.work.accounts.sign_ins import end_all
from backsquat.work.audit import note, note_of
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require

NAME_MOST = 80


def key_of(sign_in: str) -> str:
    """A sign-in name whatever its capitals and the spaces around it."""
    return sign_in.strip().casefold()


def add_person(
    db: Session, *, sign_in: str, name: str, password: str | None, squad_id: int, role: Role, cost: int
) -> User:
    """A person with a role in a squad; ImpossibleInput where the name is taken or the password no good.

    Without a password nobody can sign in until one is chosen by a link.
    """
    sign_in, name = sign_in.strip(), name.strip()
    for field, text in (("sign_in", sign_in), ("name", name)):
        if not text:
            raise ImpossibleInput(Problem(field, "missing"))
        if len(text) > NAME_MOST:
            raise ImpossibleInput(Problem(field, "too_long", {"most": NAME_MOST}))
    if db.scalars(select(User).where(User.sign_in_key == key_of(sign_in))).first():
        raise ImpossibleInput(Problem("sign_in", "name_taken", {"name": sign_in}))
    if password is not None:
        check_password(password, (sign_in, name))
    hashed = hasher(cost).hash(password) if password is not None else "none yet"
    user = User(sign_in=sign_in, sign_in_key=key_of(sign_in), name=name, password_hash=hashed)
    db.add(user)
    db.flush()
    db.add(Membership(user_id=user.id, squad_id=squad_id, role=role))
    db.flush()
    return user


def check(db: Session, sign_in: str, password: str, cost: int) -> User | None:
    """The person, or None. A hash is worked out for unknown names too, so that time tells nothing."""
    user = db.scalars(select(User).where(User.sign_in_key == key_of(sign_in), User.active)).first()
    if user is None:
        hasher(cost).hash(password[:NAME_MOST])
        return None
    return user if is_password(user.password_hash, password, cost) else None


def change_password(db: Session, user: User, now: dt.datetime, old: str, new: str, cost: int, here: int | None) -> None:
    """Another password; every other browser is signed out. ImpossibleInput where the old one is wrong."""
    if not is_password(user.password_hash, old, cost):
        raise ImpossibleInput(Problem("old", "password_wrong"))
    check_password(new, (user.sign_in, user.name))
    user.password_hash = hasher(cost).hash(new)
    note_of(db, now, "password_changed", {}, user_id=user.id)
    end_all(db, user.id, now, but=here)


def invite(context: WorkContext, *, sign_in: str, name: str, role: Role, cost: int) -> User:
    """A new person in the actor's squad, who chooses a password by a link."""
    require(context.actor, Act.KEEP_PEOPLE)
    user = add_person(
        context.db, sign_in=sign_in, name=name, password=None, squad_id=context.squad_id, role=role, cost=cost
    )
    note(context.db, context.actor, "account_made", person=user.name, role=role.value)
    return user


def names_here(context: WorkContext) -> list[User]:
    """People whose names an archive of this squad brought, and who have not been invited since."""
    require(context.actor, Act.KEEP_PEOPLE)
    return [row.user for row in _named_by_archive(context)]


def _named_by_archive(context: WorkContext) -> Sequence[Membership]:
    named = select(Membership).join(User, Membership.user_id == User.id).options(joinedload(Membership.user))
    waiting = (Membership.squad_id == context.squad_id, ~User.active, User.password_hash == "")
    return context.db.scalars(named.where(*waiting).order_by(Membership.id)).all()


def invite_again(context: WorkContext, user_id: int, role: Role) -> User:
    """Somebody an archive named, in the squad again with a role; NotThere for anybody else."""
    require(context.actor, Act.KEEP_PEOPLE)
    row = next((row for row in _named_by_archive(context) if row.user_id == user_id), None)
    if row is None:
        raise NotThere("person")
    row.role, row.user.active = role, True
    context.db.flush()
    note(context.db, context.actor, "account_made", person=row.user.name, role=role.value)
    return row.user


def member_of(context: WorkContext, user_id: int) -> Membership:
    """Somebody's membership in the actor's squad; NotThere for anybody else."""
    require(context.actor, Act.KEEP_PEOPLE)
    row = context.db.scalars(
        select(Membership).where(Membership.user_id == user_id, Membership.squad_id == context.squad_id)
    ).first()
    if row is None or row.role is Role.ATHLETE:  # an athlete's way in is kept with the athlete
        raise NotThere("person")
    return row


def change_role(context: WorkContext, user_id: int, role: Role, now: dt.datetime) -> Membership:
    """Another role; who has it is signed out everywhere. The last head coach stays one."""
    row = member_of(context, user_id)
    if row.role is role:
        return row
    _not_the_last(context, row)
    note(context.db, context.actor, "role_changed", person=row.user.name, was=row.role.value, role=role.value)
    row.role = role
    context.db.flush()
    end_all(context.db, user_id, now)
    return row


def close_account(context: WorkContext, user_id: int, now: dt.datetime) -> User:
    """Somebody can sign in no more, and is signed out everywhere; what they wrote stays theirs."""
    row = member_of(context, user_id)
    _not_the_last(context, row)
    user = row.user
    if _elsewhere(context, user_id):
        context.db.delete(row)  # what they are to another squad is not ours to end
    else:
        user.active = False
    note(context.db, context.actor, "account_closed", person=user.name)
    context.db.flush()
    end_all(context.db, user_id, now)
    return user


def may_reset(context: WorkContext, user_id: int) -> User:
    """Somebody the head coach may make a link for: who is in no other squad, whose data it would open."""
    row = member_of(context, user_id)
    if _elsewhere(context, user_id):
        raise Refused("elsewhere_too", name=row.user.name)
    return row.user


def _elsewhere(context: WorkContext, user_id: int) -> bool:
    other = select(Membership.id).where(Membership.user_id == user_id, Membership.squad_id != context.squad_id)
    return context.db.scalar(other.limit(1)) is not None


def _not_the_last(context: WorkContext, row: Membership) -> None:
    coaches = context.db.scalars(
        select(Membership.user_id)
        .join(User, Membership.user_id == User.id)
        .where(Membership.squad_id == context.squad_id, Membership.role == Role.COACH, User.active)
    ).all()
    if row.role is Role.COACH and list(coaches) == [row.user_id]:
        raise Refused("last_coach")


def membership_of(db: Session, user_id: int, squad_id: int | None = None) -> Membership | None:
    """A person's membership in a squad, else the first they have; None for somebody who belongs to none."""
    found = memberships_of(db, user_id)
    return next((one for one in found if one.squad_id == squad_id), found[0] if found else None)


_MINE = (  # made once: asked with every request
    select(Membership)
    .where(Membership.user_id == bindparam("user"))
    .order_by(Membership.id)
    .options(joinedload(Membership.squad))
)


def memberships_of(db: Session, user_id: int) -> list[Membership]:
    """What somebody is to which squads, oldest first."""
    return list(cached(db, ("memberships", user_id), lambda: db.scalars(_MINE, {"user": user_id}).all()))


def person_of(db: Session, user_id: int) -> User | None:
    """Somebody with an account that is open, or None."""
    user = db.get(User, user_id)
    return user if user and user.active else None


def account_of(db: Session, user_id: int) -> User:
    """Somebody's account, to be changed; NotThere where there is none that is open."""
    user = person_of(db, user_id)
    if user is None:
        raise NotThere("person")
    return user


def everybody(db: Session, squad_id: int | None = None) -> list[tuple[User, Role]]:
    """People with their roles, of one squad or of all: whom one can be in the demo, and the list of accounts."""
    rows = select(User, Membership.role).join(Membership, Membership.user_id == User.id).order_by(User.id)
    if squad_id is not None:
        rows = rows.where(Membership.squad_id == squad_id)
    return [(user, role) for user, role in db.execute(rows)]
