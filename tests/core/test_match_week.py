"""A week around its matches: what days leave, and what is proposed; worked by hand, and held to its laws at random."""

import datetime as dt
from dataclasses import replace
from itertools import product

from hypothesis import given
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
    Marked,
    day_leaves,
    propose,
)

MONDAY = dt.date(2026, 11, 23)
RULES = Rules()


def day(n: int) -> dt.date:
    return MONDAY + dt.timedelta(days=n)


def days(*each: int) -> frozenset[dt.date]:
    return frozenset(day(n) for n in each)


def said(*held: HeldSession, matches: tuple[int, ...] = (), **more: object) -> list[tuple[int, str, int | None]]:
    found = propose(MONDAY, held, [Fixture(day(n)) for n in matches], RULES, **more)  # type: ignore[arg-type]
    return [(one.key, str(one.act), (one.to.day - MONDAY).days if one.to else None) for one in found]


def test_what_the_days_around_a_saturday_match_leave() -> None:
    leaves = [day_leaves(day(n), [Fixture(day(5))], NOTHING_MARKED, RULES) for n in range(7)]
    heavy, light, none = Legs.HEAVY, Legs.LIGHT, Legs.NONE
    assert [one.legs for one in leaves] == [heavy, heavy, heavy, light, none, none, light]
    assert [one.days for one in leaves] == [0, 4, 3, 2, 1, 0, 1]
    assert [one.why for one in leaves][3:] == [DayReason.BEFORE, DayReason.BEFORE, DayReason.MATCH, DayReason.AFTER]


def test_the_day_after_is_as_the_squad_says_and_the_graver_of_two_matches_counts() -> None:
    for word, legs in (("none", Legs.NONE), ("light", Legs.LIGHT), ("planned", Legs.HEAVY)):
        assert day_leaves(day(0), [Fixture(day(-1))], NOTHING_MARKED, replace(RULES, match_after=word)).legs is legs
    assert day_leaves(day(0), [Fixture(day(-1), away=True)], NOTHING_MARKED, RULES).legs is Legs.NONE
    between = day_leaves(day(1), [Fixture(day(0)), Fixture(day(2))], NOTHING_MARKED, RULES)
    assert (between.legs, between.why) == (Legs.NONE, DayReason.BEFORE)
    assert day_leaves(day(1), [], Marked(off=days(1)), RULES).why is DayReason.OFF


def test_a_usual_week_is_left_alone() -> None:
    squat, hinge = HeldSession(1, day(0), 10), HeldSession(2, day(2), 8)
    assert said(squat, hinge, matches=(5,)) == []
    assert said(squat, hinge) == []
    assert said() == []


def test_a_midweek_match_moves_what_lies_in_its_way() -> None:
    assert said(HeldSession(1, day(1), 10), matches=(2,)) == [
        (1, "move", 4)
    ]  # two days after; nothing earlier is free enough
    assert said(HeldSession(1, day(0), 10), HeldSession(2, day(3), 8), matches=(5,)) == [(2, "move", 2)]
    assert said(HeldSession(1, day(4), 10), matches=(5,), weekdays={3, 4}) == [(1, "move", 3), (1, "lighten", None)]
    assert said(HeldSession(1, day(4), 10), matches=(5,), weekdays={4}) == [(1, "leave_out", None)]


def test_two_matches_leave_one_short_session() -> None:
    squat, hinge = HeldSession(1, day(0), 10), HeldSession(2, day(3), 8)
    assert said(squat, hinge, matches=(2, 5)) == [(2, "leave_out", None), (1, "lighten", None)]
    on_day_off = said(HeldSession(1, day(2), 10), HeldSession(2, day(0), 2), matches=(2, 5))
    assert on_day_off == [(1, "leave_out", None), (2, "lighten", None)]  # the one that can stay, not the heavier
    done = replace(squat, fixed=True)
    assert said(done, hinge, matches=(2, 5)) == [(2, "leave_out", None)]
    assert said(replace(squat, light=True), replace(hinge, left_out=True), matches=(2, 5)) == []


def test_nothing_is_moved_to_a_day_gone_by_nor_to_a_day_off() -> None:
    assert said(HeldSession(1, day(4), 10), matches=(5,), today=day(4)) == [(1, "leave_out", None)]
    assert said(HeldSession(1, day(2), 10), marked=Marked(days(2))) == [(1, "move", 1)]
    assert said(HeldSession(1, day(2), 10), marked=Marked(days(*range(7)))) == [(1, "leave_out", None)]


def test_a_camp_is_light_as_the_squad_says_and_tests_are_met_fresh() -> None:
    """A session the day before tests goes elsewhere; on a day of tests it may be the test and stays."""
    squat = HeldSession(1, day(2), 10)
    assert said(squat, marked=Marked(camp=days(*range(7)))) == [(1, "lighten", None)]
    assert said(squat, marked=Marked(camp=days(1, 2, 3))) == [(1, "move", 0)]  # before it
    leaves = day_leaves(day(2), [], Marked(camp=days(2)), replace(RULES, camp_legs="none"))
    assert (leaves.legs, leaves.why) == (Legs.NONE, DayReason.CAMP)
    assert day_leaves(day(2), [], Marked(camp=days(2)), replace(RULES, camp_legs="planned")).why is DayReason.FREE
    two_days = Marked(tests=days(4, 5))
    found = [day_leaves(day(n), [], two_days, RULES) for n in range(7)]
    assert [one.legs for one in found] == [Legs.HEAVY] * 2 + [Legs.LIGHT, Legs.NONE] + [Legs.HEAVY] * 3
    assert [(one.why, one.days) for one in found][2:4] == [(DayReason.TESTS, 2), (DayReason.TESTS, 1)]
    assert said(HeldSession(1, day(3), 10), marked=two_days) == [(1, "move", 4)]  # with the tests themselves
    assert said(HeldSession(1, day(4), 10), marked=two_days) == []
    assert said(HeldSession(1, day(6), 10), marked=Marked(tests=days(7))) == [(1, "move", 4)]  # next Monday's
    off_before = replace(RULES, tests_none_before=0, tests_light_before=0)
    assert day_leaves(day(3), [], two_days, off_before).why is DayReason.FREE
    match = [Fixture(day(4))]
    assert day_leaves(day(3), match, Marked(camp=days(3)), RULES).why is DayReason.BEFORE  # the graver counts


@given(
    st.lists(st.tuples(st.integers(0, 6), st.integers(1, 20), st.booleans()), max_size=3),
    st.sets(st.integers(-2, 9), max_size=4),
    st.sets(st.integers(0, 6), max_size=3),
    st.sets(st.integers(0, 13), max_size=3),
    st.sets(st.integers(0, 6), max_size=3),
    st.booleans(),
)
def test_what_is_taken_leaves_nothing_to_say(
    sessions: list[tuple[int, int, bool]],
    matches: set[int],
    off: set[int],
    tests: set[int],
    camp: set[int],
    counts: bool,
) -> None:
    """Whoever takes everything is not asked again, and has nobody under a bar on a day that leaves nothing."""
    held = [HeldSession(n, day(on), weight, fixed=fixed) for n, (on, weight, fixed) in enumerate(sessions)]
    fixtures = [Fixture(day(n), counts) for n in matches]
    marked = Marked(days(*off), days(*camp), days(*tests))
    after = [_taken(one, propose(MONDAY, held, fixtures, RULES, marked=marked)) for one in held]
    assert [one for one in propose(MONDAY, after, fixtures, RULES, marked=marked) if one.act is not DayAct.MOVE] == []
    for one in after:
        leaves = day_leaves(one.day, fixtures, marked, RULES).legs
        assert one.fixed or one.left_out or leaves is not Legs.NONE
        assert one.fixed or one.left_out or one.light or leaves is Legs.HEAVY


DONE = {DayAct.LEAVE_OUT: {"left_out": True}, DayAct.LIGHTEN: {"light": True}, DayAct.TAPER: {"light": True}}


def _taken(one: HeldSession, proposals: list[DayProposal]) -> HeldSession:
    for proposal in proposals:
        if proposal.key == one.key:
            done = DONE.get(proposal.act)
            one = replace(one, **done) if done else replace(one, day=proposal.to.day)  # type: ignore[arg-type, union-attr]
    return one


def test_it_finds_the_cheapest_of_all_choices() -> None:
    """Against trying the same by hand: of two sessions in the way of a match neither is left out while days are free."""
    for a, b in product(range(5), repeat=2):
        if a < b:
            found = propose(MONDAY, [HeldSession(1, day(a), 9), HeldSession(2, day(b), 7)], [Fixture(day(5))], RULES)
            assert all(one.act is not DayAct.LEAVE_OUT for one in found)
            moved = {one.key: one.to.day for one in found if one.to}
            assert moved.get(1, day(a)) < moved.get(2, day(b))  # their order stays


def test_a_taper_is_the_weeks_before_a_match_that_counts_and_no_day_after_it() -> None:
    """By hand, at its edges: the match's own week up to the day before, and with two weeks the one before that."""
    squat, hinge = HeldSession(1, day(0), 10), HeldSession(2, day(2), 8)

    def tapered(on: int, weeks: int, *held: HeldSession, counts: bool = True) -> list[tuple[int, int]]:
        rules = replace(RULES, taper_weeks=weeks)
        found = propose(MONDAY, held, [Fixture(day(on), counts)], rules)
        return [(one.key, one.leaves.days) for one in found if one.act is DayAct.TAPER]

    assert tapered(5, 1, squat, hinge) == [(1, 5), (2, 3)]
    assert tapered(5, 1, squat, hinge, counts=False) == []
    assert tapered(5, 0, squat, hinge) == []
    assert tapered(12, 1, squat, hinge) == [], "the week before is not in it"
    assert tapered(12, 2, squat, hinge) == [(1, 12), (2, 10)]
    assert tapered(19, 2, squat, hinge) == []
    assert tapered(1, 1, HeldSession(2, day(3), 8)) == [], "after the match there is nothing to taper for"
    assert tapered(5, 1, replace(squat, light=True), hinge) == [(2, 3)], "what is easy already stays so"
    two_before = propose(MONDAY, [HeldSession(2, day(3), 8)], [Fixture(day(5), True)], replace(RULES, move_cost=10.0))
    assert [one.act for one in two_before] == [DayAct.LIGHTEN], "light at two days, whatever the match"
