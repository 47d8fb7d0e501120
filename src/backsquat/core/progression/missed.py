"""A session nobody came to: what the coach can make of it, and what follows (rules 2.3, 2.9).

Planned loads never climb past work that was not done unless the coach says so. *Repeat*: the missed work is
done next time, and what was planned moves one session on. *Ease*: the same, the first of it lighter and with
fewer sets. *Leave*: the plan stands.
"""

from collections.abc import Sequence
from enum import StrEnum
from typing import TypeVar


class MissedChoice(StrEnum):
    """What is done about a missed session."""

    REPEAT = "repeat"
    EASE = "ease"
    LEAVE = "leave"


Work = TypeVar("Work")


def moved_on(missed: Sequence[Work], coming: Sequence[Work]) -> list[tuple[Work, Work]]:
    """(where, what): the missed work first, then what was planned, each in its turn; the last of it falls out."""
    return list(zip(coming, [*missed, *coming], strict=False))
