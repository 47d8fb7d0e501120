"""Who acts, for which squad, in which role, and when: what operations get instead of the request."""

import datetime as dt
from dataclasses import dataclass

from backsquat.core.roles import Role


@dataclass(frozen=True)
class Actor:
    """The person behind a write, the squad it is for, the role in it, and the moment."""

    user_id: int
    squad_id: int
    now: dt.datetime
    role: Role = Role.COACH
    athlete_id: int | None = None  # who the athlete is, where an athlete acts
    only_session: tuple[int, int] | None = None  # (session, week from 0): all that a code for one session is for

    @property
    def today(self) -> dt.date:
        """The day of the moment."""
        return self.now.date()
