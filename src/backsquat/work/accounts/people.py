"""Accounts: made from the command line, checked at sign-in."""

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.roles import Role
from backsquat.storage.models import Membership, User

PASSWORD_LEAST = 10


def hasher(cost: int) -> PasswordHasher:
    """Argon2id; cost 3 is the library's default, 1 with little memory is for tests."""
    return PasswordHasher(time_cost=cost) if cost > 1 else PasswordHasher(time_cost=1, memory_cost=1024)


def add_person(
    session: Session, *, sign_in: str, name: str, password: str, squad_id: int, role: Role, cost: int
) -> User:
    """A person with a role in a squad; ImpossibleInput where the name is taken or the password short."""
    if session.scalars(select(User).where(User.sign_in == sign_in)).first():
        raise ImpossibleInput(Problem("sign_in", "name_taken", {"name": sign_in}))
    if len(password) < PASSWORD_LEAST:
        raise ImpossibleInput(Problem("password", "password_short", {"least": PASSWORD_LEAST}))
    user = User(sign_in=sign_in, name=name, password_hash=hasher(cost).hash(password))
    session.add(user)
    session.flush()
    session.add(Membership(user_id=user.id, squad_id=squad_id, role=role))
    return user


def check(session: Session, sign_in: str, password: str, cost: int) -> User | None:
    """The person, or None. A hash is worked out for unknown names too, so that time tells nothing."""
    user = session.scalars(select(User).where(User.sign_in == sign_in, User.active)).first()
    keeper = hasher(cost)
    if user is None:
        keeper.hash(password)
        return None
    try:
        keeper.verify(user.password_hash, password)
    except (VerificationError, InvalidHashError):
        return None
    return user


def membership_of(session: Session, user_id: int) -> Membership | None:
    """A person's first membership with its squad; None for somebody who belongs to none."""
    found = session.scalars(
        select(Membership)
        .where(Membership.user_id == user_id)
        .order_by(Membership.id)
        .options(joinedload(Membership.squad))
    )
    return found.first()


def person_of(session: Session, user_id: int) -> User | None:
    """Somebody with an account that is open, or None."""
    user = session.get(User, user_id)
    return user if user and user.active else None


def everybody(session: Session) -> list[tuple[User, Role]]:
    """All people with their roles: the demo's list of whom one can be."""
    rows = session.execute(
        select(User, Membership.role).join(Membership, Membership.user_id == User.id).order_by(User.id)
    )
    return [(user, role) for user, role in rows]
