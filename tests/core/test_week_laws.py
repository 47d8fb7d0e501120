"""A week around its matches: the documented order wins, whatever the sums."""

import datetime as dt
from itertools import product

from hypothesis import given, settings
from hypothesis import strategies as st

from backsquat.core.rules import Rules
from backsquat.core.season.week import (
    NOTHING_MARKED,
    DayAct,
    DayProposal,
    DayReason,
    Fixture,
    HeldSession,
    Legs,
    day_leaves,
    propose,
)

MONDAY, RULES = dt.date(2026, 11, 23), Rules()
DAYS = [MONDAY + dt.timedelta(days=n) for n in range(7)]
weeks = st.tuples(
    st.lists(st.tuples(st.integers(0, 6), st.floats(1, 10)), min_size=1, max_size=3, unique_by=lambda one: one[0]),
    st.lists(st.tuples(st.integers(-1, 8), st.booleans()), max_size=1),
)


def placed(held: list[HeldSession], said: list[DayProposal]) -> dict[int, dt.date | None]:
    """Where each session is in the end; None: left out."""
    days: dict[int, dt.date | None] = {one.key: one.day for one in held}
    for one in said:
        if one.act is DayAct.MOVE and one.to:
            days[one.key] = one.to.day
        if one.act is DayAct.LEAVE_OUT:
            days[one.key] = None
    return days


@settings(max_examples=400)
@given(weeks)
def test_the_heaviest_is_lightened_only_where_no_heavy_day_is_free_and_no_two_come_on_one_day(week) -> None:  # type: ignore[no-untyped-def]
    sessions, matches = week
    held = [HeldSession(n, DAYS[day], weight) for n, (day, weight) in enumerate(sessions)]
    fixtures = [Fixture(MONDAY + dt.timedelta(days=day), away=away) for day, away in matches]
    said = propose(MONDAY, held, fixtures, RULES)
    leaves = [day_leaves(day, fixtures, NOTHING_MARKED, RULES) for day in DAYS]
    days = placed(held, said)
    stay = [day for day in days.values() if day is not None]
    assert len(stay) == len(set(stay)), "no two on one day"
    heaviest = max(held, key=lambda one: one.weight)
    if any(one.key == heaviest.key and one.act is DayAct.LIGHTEN for one in said):
        free = [one.day for one in leaves if one.legs is Legs.HEAVY]
        others = [one for one in held if one.key != heaviest.key and days[one.key] is not None]
        usable = {one.day for one in leaves if one.legs is not Legs.NONE and one.why is not DayReason.AFTER}
        for day in free:  # a heavy day: could everybody have been placed beside it?
            choices = [[*usable, one.day] for one in others]
            assert not any(
                len({day, *rest}) == 1 + len(rest) and all(leaves[at.weekday()].legs is not Legs.NONE for at in rest)
                for rest in product(*choices)
            )
