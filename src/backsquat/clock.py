"""The only "now" of the application. In the demo the day stands still, so that pictures and tests repeat."""

import datetime as dt


class Clock:
    """Today and now; with `fixed_day` the date never moves, only the time of day does."""

    def __init__(self, fixed_day: dt.date | None = None) -> None:
        self.fixed_day = fixed_day

    def now(self) -> dt.datetime:
        now = dt.datetime.now().replace(microsecond=0)
        return now if self.fixed_day is None else dt.datetime.combine(self.fixed_day, now.time())

    def real(self) -> dt.datetime:
        """The moment it really is, in the demo too: how long somebody has been signed in."""
        return dt.datetime.now().replace(microsecond=0)

    def today(self) -> dt.date:
        return self.now().date()
