"""One-time links with which somebody chooses a password: for a new account, or a forgotten one."""

import datetime as dt
import secrets

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.storage.models import OneTimeLink, User
from backsquat.work.accounts.passwords import check_password, hasher
from backsquat.work.accounts.sign_ins import digest, end_all
from backsquat.work.audit import note_of

GOOD_FOR = dt.timedelta(hours=24)


def make_link(db: Session, user_id: int, now: dt.datetime, by_id: int | None) -> str:
    """A new link's token; earlier ones of the same person are good no more."""
    for old in db.scalars(select(OneTimeLink).where(OneTimeLink.user_id == user_id, OneTimeLink.used_at.is_(None))):
        old.used_at = now
    token = secrets.token_urlsafe(32)
    db.add(OneTimeLink(user_id=user_id, token=digest(token), until=now + GOOD_FOR, made_by_id=by_id))
    note_of(db, now, "reset_link", {"person": db.get_one(User, user_id).name}, user_id=by_id)
    return token


def link_of(db: Session, token: str, now: dt.datetime) -> tuple[OneTimeLink, User]:
    """The link and whose it is; NotThere where it was used, is too old, or never was."""
    row = db.scalars(select(OneTimeLink).where(OneTimeLink.token == digest(token))).first()
    user = db.get(User, row.user_id) if row else None
    if row is None or user is None or not user.active or row.used_at is not None or now > row.until:
        raise NotThere("link")
    return row, user


def use_link(db: Session, token: str, password: str, now: dt.datetime, cost: int) -> User:
    """Choose a password with a link: it is used up, the second factor falls, and everybody signed in so is out."""
    row, user = link_of(db, token, now)
    check_password(password, (user.sign_in, user.name))
    user.password_hash = hasher(cost).hash(password)
    user.second_factor, user.second_used = "", 0
    row.used_at = now
    note_of(db, now, "password_reset", {}, user_id=user.id)
    end_all(db, user.id, now)
    return user
