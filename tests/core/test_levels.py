"""Ladders: earned by the rule, never skipped, placed at the cautious end; the road to the bar; the decision."""

import datetime as dt
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.movements.movement import Implement
from backsquat.core.progression.decision import Code
from backsquat.core.progression.level import judge_level
from backsquat.core.readiness.checklist import LineState, ReadinessCheckLine
from backsquat.core.readiness.levels import fitting, placements, propose_level, sessions_of
from backsquat.core.readiness.road import BASE, SERVES, road, road_sessions
from backsquat.core.readiness.screens import Result
from backsquat.core.strength.record import SetRecord
from backsquat.library.shelf import ladders, movements
from tests.factories import RULES, TODAY, a_set

LADDER = ladders()["squat_to_bar"]
GOBLET = movements()["goblet_squat"]  # 3 × 10–12
LEVEL = LADDER.level_of("goblet_squat") or 0


def a_day(days_ago: int, reps: int = 12, sets: int = 3, **changes: Any) -> list[SetRecord]:
    day = TODAY - dt.timedelta(days=days_ago)
    return [
        a_set(set_id=1000 - 10 * days_ago + n, done_on=day, reps=reps, load_kg=12.0, **changes) for n in range(sets)
    ]


def propose(*days: list[SetRecord], allowed: Any = lambda _: True) -> tuple[str, str] | None:
    sessions = sessions_of(GOBLET, [entry for day in days for entry in day], RULES)
    found = propose_level(LADDER, LEVEL, sessions, allowed, RULES)
    return (found.way, found.movements[0]) if found else None


def test_two_clean_sessions_in_a_row_earn_the_next_level() -> None:
    assert propose(a_day(7)) is None
    assert propose(a_day(7), a_day(0)) == ("harder", "dumbbell_squat")


@pytest.mark.parametrize(
    ("last", "why"),
    [
        ({"reps": 11}, "amount"), ({"sets": 2}, "amount"), ({"breaking_fault": "heels_up"}, "form"),
        ({"reps_to_depth": 11}, "depth"), ({"supported": True}, "supported"), ({"pain": 3}, "pain"),
    ],
)  # fmt: skip
def test_one_thing_missing_does_not_earn(last: dict[str, Any], why: str) -> None:
    found = sessions_of(GOBLET, [*a_day(7), *a_day(0, **last)], RULES)
    assert (found[-1].met, found[-1].why_not) == (False, why)
    assert (propose(a_day(7), a_day(0, **last)) or ("", ""))[0] != "harder"
    assert propose(a_day(14), a_day(7, **last), a_day(0)) is None, "the row has to be without a break"


def test_pain_of_two_still_earns_and_three_asks_for_an_easier_level() -> None:
    assert propose(a_day(7, pain=2), a_day(0, pain=2)) == ("harder", "dumbbell_squat")
    assert propose(a_day(7), a_day(0, pain=3)) == ("easier", "goblet_box_squat")


def test_broken_form_in_half_of_the_sets_asks_for_an_easier_level() -> None:
    one = [*a_day(0, sets=2), *[a_set(set_id=5, done_on=TODAY, reps=12, breaking_fault="knees_in")]]
    assert propose(a_day(7), one) is None
    assert propose(a_day(7), a_day(0, breaking_fault="knees_in")) == ("easier", "goblet_box_squat")


def test_seconds_are_earned_by_seconds() -> None:
    hold = movements()["deep_squat_hold"]  # 3 × 15–30 s
    done = [a_set(set_id=n, done_on=TODAY, reps=1, hold_s=30) for n in range(3)]
    assert sessions_of(hold, done, RULES)[0].met
    assert not sessions_of(hold, [replace(s, hold_s=29) for s in done], RULES)[0].met


def test_one_side_alone_does_not_meet_the_criterion() -> None:
    split = movements()["split_squat"]  # 3 × 8–12 each side
    sides = [a_set(set_id=n, done_on=TODAY, reps=12, side=side) for n, side in enumerate(["left", "right"] * 3)]
    assert sessions_of(split, sides, RULES)[0].met
    assert not sessions_of(split, [s for s in sides if s.side == "left"], RULES)[0].met
    assert sessions_of(split, [*sides[:2], *a_day(0, sets=2)], RULES)[0].met, "one pair and two of both"


def test_a_supported_movement_is_meant_to_be_supported() -> None:
    # The mark is only kept where the movement should be free, so a supported level is earned with a hand.
    entry = a_set(reps=10, supported=False)
    split = movements()["split_squat_support"]
    assert sessions_of(split, [replace(entry, set_id=n) for n in range(2)], RULES)[0].met


def test_the_room_without_a_level_goes_on_to_the_next() -> None:
    lacks = {"dumbbell_squat"}
    assert propose(a_day(7), a_day(0), allowed=lambda code: code not in lacks) == ("harder", "belt_squat")
    lacks |= {"belt_squat"}
    assert propose(a_day(7), a_day(0), allowed=lambda code: code not in lacks) == ("harder", "back_squat")
    assert propose(a_day(7), a_day(0), allowed=lambda code: LADDER.level_of(code) == LEVEL) is None


@given(
    st.lists(
        st.tuples(st.integers(8, 13), st.integers(1, 4), st.integers(0, 3), st.booleans()), min_size=1, max_size=6
    ),
    st.sets(st.sampled_from([code for level in LADDER.levels for code in level])),
)
def test_whatever_was_done_a_proposal_is_the_next_open_level(
    days: list[tuple[int, int, int, bool]], open_: set[str]
) -> None:
    done = [
        entry
        for n, (reps, sets, pain, broke) in enumerate(days)
        for entry in a_day(7 * (len(days) - n), reps, sets, pain=pain, breaking_fault="knees_in" if broke else "")
    ]
    found = propose_level(LADDER, LEVEL, sessions_of(GOBLET, done, RULES), open_.__contains__, RULES)
    if found is None:
        return
    way = 1 if found.way == "harder" else -1
    between = range(LEVEL + way, found.level, way)
    assert not any(open_ & set(LADDER.levels[n]) for n in between), "an open level was skipped"
    assert set(found.movements) <= open_
    if way == 1:
        assert all(reps >= 12 and sets >= 3 and pain <= 2 and not broke for reps, sets, pain, broke in days[-2:])
    decision = judge_level(LADDER, GOBLET, done, open_.__contains__, RULES)
    assert decision.code in (Code.HARDER_LEVEL, Code.EASIER_LEVEL)
    assert decision.facts["to"] == found.movements[0] or decision.code is Code.STOP


def test_the_decision_puts_pain_first() -> None:
    stop = judge_level(LADDER, GOBLET, a_day(0, pain=1, pain_character="electric"), lambda _: True, RULES)
    assert stop.code is Code.STOP
    again = judge_level(LADDER, GOBLET, a_day(0, pain=1), lambda _: True, RULES, pain_last_time=True)
    assert again.code is Code.LOOK
    assert judge_level(LADDER, GOBLET, a_day(0), lambda _: True, RULES).reason == "level_row"
    assert judge_level(LADDER, GOBLET, [*a_day(7), *a_day(0)], lambda _: False, RULES).reason == "level_last"


def known(**values: float) -> dict[tuple[str, str], Result]:
    return {(code, ""): Result(value, TODAY) for code, value in values.items()}


@pytest.mark.parametrize(
    ("values", "movement"),
    [
        ({"lying_squat": 0, "standing_squat": 0}, "deep_squat_supported"),
        ({"lying_squat": 1, "standing_squat": 0}, "press_down_squat"), ({"standing_squat": 1}, "goblet_box_squat"),
        ({"standing_squat": 1, "counterbalanced_squat": 12}, "goblet_squat"),
    ],
)  # fmt: skip
def test_newcomers_land_at_the_cautious_end(values: dict[str, float], movement: str) -> None:
    places = {place.ladder: place.movement for place in placements(known(**values), (), RULES)}
    assert places["squat_to_bar"] == movement


@given(st.dictionaries(st.sampled_from(["lying_squat", "standing_squat", "brace", "bridge_hold"]), st.floats(0, 90)))
def test_nobody_is_placed_under_a_bar_behind_a_shut_readiness_check(values: dict[str, float]) -> None:
    for place in placements(known(**values), (), RULES):
        assert movements()[place.movement].implement not in (Implement.BAR, Implement.TRAP_BAR)


def test_a_place_this_room_lacks_leads_to_an_easier_one() -> None:
    place = next(p for p in placements(known(standing_squat=1), (), RULES) if p.ladder == "squat_to_bar")
    assert fitting(place, ladders(), lambda code: code == "press_down_squat") == (6, "press_down_squat")
    assert fitting(place, ladders(), lambda _: True) == (7, "goblet_box_squat")
    assert fitting(place, ladders(), lambda _: False) is None


def test_the_road_works_on_what_is_missing_and_on_what_the_room_has() -> None:
    lines = [
        ReadinessCheckLine("brace", LineState.NOT_YET),
        ReadinessCheckLine("deep_squat_hold", LineState.NOT_TESTED),
        ReadinessCheckLine("pelvis", LineState.PASS),
    ]
    weeks = road(lines, lambda code: code not in ("leg_press", "knee_extension"), 4, 7, RULES)
    assert [len(week.sessions) for week in weeks] == [2, 2, 2, 1]
    work = {item.movement: item.serves for week in weeks for items in week.sessions for item in items}
    assert work["press_down_squat"] == "brace" and work["deep_squat_hold"] == "deep_squat_hold"
    assert "squat_from_plank" not in work, "the pelvis passes already"
    assert "hack_squat" in work and "leg_press" not in work and "knee_extension" not in work
    sets = [[item.sets for items in week.sessions for item in items] for week in weeks]
    assert set(sets[0]) == {2} and set(sets[1]) == {3}


@given(
    st.sets(st.sampled_from(sorted(SERVES))),
    st.sets(st.sampled_from(sorted({code for group in (*SERVES.values(), *BASE) for code in group}))),
    st.integers(1, 12),
    st.integers(3, 20),
    st.integers(1, 6),
)
def test_a_session_of_the_road_is_a_few_movements_and_no_more_sets_than_the_rule(
    missing: set[str], shut: set[str], sessions: int, most: int, each: int
) -> None:
    lines = [ReadinessCheckLine(code, LineState.NOT_YET) for code in sorted(missing)]
    rules = replace(RULES, road_sets_day=most, road_sets=each)
    laid = road_sessions(lines, lambda code: code not in shut, sessions, rules)
    assert len(laid) == sessions
    for items in laid:
        assert len(items) <= rules.road_items and sum(item.sets for item in items) <= most
        assert all(item.sets <= each for item in items)
        assert len({item.movement for item in items}) == len(items) and not {item.movement for item in items} & shut
        assert not items or items[0].serves or not any(set(SERVES[code]) - shut for code in missing), "a drill leads"


def test_the_road_never_leads_over_a_bar() -> None:
    for code in {code for group in (*SERVES.values(), *BASE) for code in group}:
        assert movements()[code].implement not in (Implement.BAR, Implement.TRAP_BAR), code
