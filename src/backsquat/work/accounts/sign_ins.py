"""Where people are signed in: kept here, so that it ends when it is told to end."""

import datetime as dt
import hashlib
import secrets
from dataclasses import dataclass

from sqlalchemy import bindparam, select, update
from sqlalchemy.orm import Session

from backsquat.storage.models import SignIn
from backsquat.work.audit import note_of

TOUCHED_EVERY = dt.timedelta(minutes=1)  # how exactly the last sight of somebody is kept


@dataclass(frozen=True)
class Lasting:
    """How long a sign-in lasts: without a request, and altogether."""

    idle: dt.timedelta = dt.timedelta(hours=2)
    whole: dt.timedelta = dt.timedelta(hours=12)

    def holds(self, row: SignIn, now: dt.datetime) -> bool:
        """Whether a sign-in still holds."""
        return row.ended_at is None and now - row.seen_at <= self.idle and now - row.began_at <= self.whole


BY_PASS = Lasting(dt.timedelta(days=30), dt.timedelta(days=180))  # the pass is what is taken back


def digest(token: str) -> str:
    """What is kept of a token: with it nobody can sign in."""
    return hashlib.sha256(token.encode()).hexdigest()


def begin(
    db: Session, user_id: int, now: dt.datetime, browser: str, *, second: bool = False, pass_id: int | None = None
) -> str:
    """Sign somebody in; returns the token for the browser."""
    token = secrets.token_urlsafe(32)
    row = SignIn(user_id=user_id, token=digest(token), began_at=now, seen_at=now, second=second, browser=browser[:120])
    row.pass_id = pass_id
    db.add(row)
    note_of(db, now, "sign_in", {"second_factor": second, "own_phone": bool(pass_id)}, user_id=user_id)
    return token


_OF_TOKEN = select(SignIn).where(SignIn.token == bindparam("token"))  # made once: asked with every request


def found(db: Session, token: str, now: dt.datetime, lasting: Lasting) -> SignIn | None:
    """The sign-in of a token, while it holds."""
    row = db.scalars(_OF_TOKEN, {"token": digest(token)}).first()
    return row if row and (BY_PASS if row.pass_id else lasting).holds(row, now) else None


def touch(db: Session, row_id: int, now: dt.datetime) -> None:
    """Seen now."""
    db.execute(update(SignIn).where(SignIn.id == row_id).values(seen_at=now))


def proved(db: Session, row_id: int | None) -> None:
    """The second factor was given in this browser."""
    db.execute(update(SignIn).where(SignIn.id == row_id).values(second=True))


def end(db: Session, row_id: int, now: dt.datetime) -> None:
    """Sign one browser out."""
    row = db.get_one(SignIn, row_id)
    row.ended_at = row.ended_at or now
    note_of(db, now, "sign_out", {}, user_id=row.user_id)


def end_all(db: Session, user_id: int, now: dt.datetime, but: int | None = None) -> int:
    """Sign somebody out everywhere, or everywhere but here; how many browsers that were."""
    rows = db.scalars(select(SignIn).where(SignIn.user_id == user_id, SignIn.ended_at.is_(None)))
    ended = [row for row in rows if row.id != but]
    for row in ended:
        row.ended_at = now
    if ended:
        note_of(db, now, "sessions_ended", {"browsers": len(ended)}, user_id=user_id)
    db.flush()
    return len(ended)


def open_of(db: Session, user_id: int, now: dt.datetime, lasting: Lasting) -> list[SignIn]:
    """Where somebody is signed in, the newest first."""
    rows = db.scalars(
        select(SignIn).where(SignIn.user_id == user_id, SignIn.ended_at.is_(None)).order_by(SignIn.id.desc())
    )
    return [row for row in rows if lasting.holds(row, now)]


def show_squad(db: Session, sign_in_id: int, squad_id: int) -> None:
    """Which squad a browser shows from now on."""
    db.get_one(SignIn, sign_in_id).squad_id = squad_id
