"""Passwords: which are good enough, how they are kept and checked."""

from collections.abc import Sequence

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from zxcvbn import zxcvbn

from backsquat.core.errors import ImpossibleInput, Problem

LEAST, MOST = 10, 200  # characters
LOOKED_AT = 64  # characters of which the strength is guessed
SCORE_LEAST = 2  # of 0 to 4: withstands guessing from lists and names


def hasher(cost: int) -> PasswordHasher:
    """Argon2id; cost 3 is the library's default, 1 with little memory is for tests."""
    return PasswordHasher(time_cost=cost) if cost > 1 else PasswordHasher(time_cost=1, memory_cost=1024)


def check_password(password: str, about: Sequence[str] = ()) -> None:
    """ImpossibleInput where a password is short, long, common, or made of the person's own names."""
    if len(password) < LEAST:
        raise ImpossibleInput(Problem("password", "password_short", {"least": LEAST}))
    if len(password) > MOST:
        raise ImpossibleInput(Problem("password", "too_long", {"most": MOST}))
    names = [word.casefold() for text in about for word in (text, *text.split()) if len(word) > 2]
    bare = password.casefold()
    for name in names:
        bare = bare.replace(name, "")
    if len(bare.strip()) < LEAST // 2 or zxcvbn(password[:LOOKED_AT], user_inputs=names)["score"] < SCORE_LEAST:
        raise ImpossibleInput(Problem("password", "password_common"))


def is_password(hashed: str, password: str, cost: int) -> bool:
    """Whether this is the password that was kept."""
    try:
        return hasher(cost).verify(hashed, password[: MOST + 1])
    except (VerificationError, InvalidHashError):
        return False
