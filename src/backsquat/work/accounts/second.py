"""The second factor: one-time codes of an app on the phone (RFC 6238), each good once."""

import datetime as dt

import pyotp
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.storage.models import User
from backsquat.work.accounts.sign_ins import end_all
from backsquat.work.audit import note_of

ISSUER = "Back Squat"
STEP_S = 30
LATE_STEPS = 1  # a code may be this many steps early or late


def new_secret() -> str:
    """A secret to set up; nothing is kept until a code proves that the phone has it."""
    return pyotp.random_base32()


def address_of(secret: str, name: str) -> str:
    """What the picture for the phone says."""
    return pyotp.TOTP(secret).provisioning_uri(name=name, issuer_name=ISSUER)


def _step(secret: str, code: str, now: dt.datetime, after: int) -> int | None:
    """The time step a code is of, later than the last that was used; None where it is no good."""
    typed = "".join(code.split())
    here = int(now.timestamp()) // STEP_S
    generator = pyotp.TOTP(secret)
    for step in range(here - LATE_STEPS, here + LATE_STEPS + 1):
        if step > after and pyotp.utils.strings_equal(typed, generator.generate_otp(step)):
            return step
    return None


def is_code(db: Session, user: User, code: str, now: dt.datetime) -> bool:
    """Whether a code is good now; it is used up by that."""
    step = _step(user.second_factor, code, now, user.second_used) if user.second_factor else None
    if step is None:
        return False
    user.second_used = step
    db.flush()
    return True


def set_up(db: Session, user: User, secret: str, code: str, now: dt.datetime, here: int | None) -> None:
    """Keep the secret the phone has proved to have; every other browser is signed out."""
    step = _step(secret, code, now, 0)
    if step is None:
        raise ImpossibleInput(Problem("code", "code_wrong"))
    user.second_factor, user.second_used = secret, step
    note_of(db, now, "second_factor_on", {}, user_id=user.id)
    end_all(db, user.id, now, but=here)


def take_off(db: Session, user: User, now: dt.datetime, here: int | None) -> None:
    """Without a second factor again; every other browser is signed out."""
    user.second_factor, user.second_used = "", 0
    note_of(db, now, "second_factor_off", {}, user_id=user.id)
    end_all(db, user.id, now, but=here)
