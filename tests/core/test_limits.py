"""Limits and returns: what they leave of a movement, and that no plan goes round them."""

import datetime as dt
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.findings import Finding, Severity
from backsquat.core.progression.cell import State
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.row import Candidate, plan_row
from backsquat.core.progression.terms import PlanBase
from backsquat.core.progression.wave import WaveProgression
from backsquat.core.readiness.absence import AwayReason, EasedWeek, re_entry
from backsquat.core.readiness.limits import ActiveLimit, LimitKind, Scope, bounds_on
from backsquat.core.readiness.sides import compare
from backsquat.core.strength.current import CurrentEstimate, current_estimate
from backsquat.core.strength.estimate import bare_estimate, estimate_set
from backsquat.core.working import Working
from backsquat.library.shelf import movements
from tests.factories import RULES, TODAY, a_set, some_terms
from tests.strategies import rooms

SQUAT = movements()["back_squat"]
PROGRESSION = WaveProgression()
OUTLINE = PROGRESSION.outline(PROGRESSION.read({}), 8)


def a_limit(**changes: Any) -> ActiveLimit:
    values: dict[str, Any] = {
        "scope": Scope.MOVEMENT,
        "what": "back_squat",
        "kind": LimitKind.LOAD,
        "load_kg": 60.0,
        "words": "",
        "from_on": TODAY,
        "until_on": None,
        "set_by": "M. Ferro, physio",
    }
    return ActiveLimit(**(values | changes))


def test_a_limit_touches_movement_family_or_region() -> None:
    assert a_limit().touches(SQUAT) and not a_limit().touches(movements()["front_squat"])
    family = a_limit(scope=Scope.FAMILY, what="squat")
    assert family.touches(movements()["goblet_squat"]) and not family.touches(movements()["deadlift"])
    region = a_limit(scope=Scope.REGION, what="lower back")
    assert region.touches(movements()["deadlift"]) and not region.touches(movements()["leg_press"])


def test_a_limit_holds_from_day_to_day() -> None:
    limit = a_limit(until_on=TODAY + dt.timedelta(days=7))
    days = [limit.holds_on(TODAY + dt.timedelta(days=n)) for n in (-1, 0, 7, 8)]
    assert days == [False, True, True, False]


def test_the_strictest_of_several_holds() -> None:
    limits = [a_limit(), a_limit(load_kg=40.0), a_limit(kind=LimitKind.RANGE, load_kg=None, words="to thigh level")]
    bounds = bounds_on(limits, SQUAT, TODAY)
    assert bounds.most_kg == 40 and not bounds.barred_by and [note.words for note in bounds.notes] == ["to thigh level"]
    assert bounds_on([*limits, a_limit(kind=LimitKind.NOT_AT_ALL)], SQUAT, TODAY).barred_by
    assert bounds_on(limits, SQUAT, TODAY - dt.timedelta(days=1)).most_kg is None


def an_estimate(kg: float = 120.0) -> CurrentEstimate:
    found = current_estimate([a_set(load_kg=kg, reps=1, reserve_reps=0)], TODAY, RULES)
    assert found
    return found


def a_candidate(**changes: Any) -> Candidate:
    values: dict[str, Any] = {"newcomer": False, "readiness_check": (), "locked": False, "current": an_estimate()}
    return Candidate(**(values | changes))


def test_a_load_limit_holds_the_weeks_it_covers_and_says_so() -> None:
    row = plan_row(a_candidate(most_kg={0: 60.0, 1: 60.0}), OUTLINE, some_terms())
    loads = [week.load.kg if week.load else None for week in row.weeks]
    assert loads[:2] == [60, 60] and (loads[2] or 0) > 60
    assert "under_limit" in [step.code for step in row.weeks[0].working.steps]


def test_forbidden_weeks_get_no_load_and_the_others_do() -> None:
    row = plan_row(a_candidate(barred=frozenset({0, 1})), OUTLINE, some_terms())
    assert [week.prescription.week for week in row.weeks] == list(range(2, 8))
    everything = plan_row(a_candidate(barred=frozenset(range(8))), OUTLINE, some_terms())
    assert everything.state is State.LOCKED and not everything.weeks


def test_eased_weeks_have_less_load_and_fewer_sets() -> None:
    plain = plan_row(a_candidate(), OUTLINE, some_terms())
    eased = plan_row(a_candidate(eased={0: EasedWeek(0.9, 0.5), 1: EasedWeek(0.95, 0.7)}), OUTLINE, some_terms())
    assert [week.prescription.sets for week in eased.weeks[:3]] == [2, 3, 4]
    for n in (0, 1):
        before, after = plain.weeks[n].load, eased.weeks[n].load
        assert before and after and after.kg < before.kg
    assert all(a.load and b.load and a.load.kg <= b.load.kg for a, b in zip(eased.weeks, plain.weeks, strict=True))
    assert [week.prescription.sets for week in eased.weeks[2:]] == [week.prescription.sets for week in plain.weeks[2:]]


def test_coming_back_a_climbing_load_is_eased_once_and_does_not_sink_from_session_to_session() -> None:
    outline = PROGRESSIONS["fixed"].outline(PROGRESSIONS["fixed"].read({"deload_every": 0}), 3, a_week=3)
    terms = some_terms(a_week=3)
    back = {nth: EasedWeek(0.9 if nth < 3 else 0.95, 0.5) for nth in range(6)}
    plain = plan_row(a_candidate(), outline, terms).weeks
    eased = plan_row(a_candidate(eased=back), outline, terms).weeks
    loads = [week.load.kg for week in eased if week.load]
    assert loads == sorted(loads) and loads[0] == loads[2], "no session of the return is lighter than the one before"
    shares = [kg / week.load.kg for kg, week in zip(loads, plain, strict=True) if week.load]
    assert all(share <= 0.91 for share in shares[:3]) and all(share <= 0.96 for share in shares[3:6])


def test_after_a_session_of_the_return_the_next_is_not_eased_once_more() -> None:
    outline = PROGRESSIONS["fixed"].outline(PROGRESSIONS["fixed"].read({"deload_every": 0}), 2)[1:]
    base = PlanBase(120, 120, Working(), weeks_before=1, last_kg=80)
    back = some_terms(eased={0: EasedWeek(0.9, 0.5), 1: EasedWeek(0.9, 0.7)})
    (next_one,) = plan_weeks(outline, base, back)
    assert next_one.load is not None and next_one.load.kg == 80


READINESS_CHECK = (
    Finding("readiness_check_lines", Severity.STOP, {"missing": 2, "lines": 9, "readiness_check": "barbell"}),
)
shut = st.sampled_from(
    [
        {"locked": True},
        {"readiness_check": READINESS_CHECK},
        {"readiness_check": READINESS_CHECK, "level": movements()["goblet_squat"]},
    ]
)


@given(shut, st.floats(30, 260), rooms())
def test_nobody_locked_or_not_ready_ever_gets_a_load(why: dict[str, Any], kg: float, room: Any) -> None:
    terms = some_terms(room=room, rig=room.bars[0])
    row = plan_row(a_candidate(current=an_estimate(kg), **why), OUTLINE, terms)
    assert row.state in (State.LOCKED, State.NOT_READY, State.LEVEL) and row.weeks == ()


@given(
    st.floats(30, 260), st.dictionaries(st.integers(0, 7), st.floats(0, 200), max_size=8),
    st.sets(st.integers(0, 7)), st.dictionaries(st.integers(0, 7), st.floats(0.5, 1), max_size=3), rooms(),
)  # fmt: skip
def test_no_plan_goes_over_a_limit_or_into_a_forbidden_week(
    kg: float, most: dict[int, float], barred: set[int], eased: dict[int, float], room: Any
) -> None:
    shares = {week: EasedWeek(share, 0.5) for week, share in eased.items()}
    candidate = a_candidate(current=an_estimate(kg), most_kg=most, barred=frozenset(barred), eased=shares)
    row = plan_row(candidate, OUTLINE, some_terms(room=room, rig=room.bars[0]))
    for week in row.weeks:
        number = week.prescription.week
        assert number not in barred
        if week.load and number in most:
            assert week.load.kg <= most[number] + 1e-6
        assert week.prescription.sets >= 1


@pytest.mark.parametrize(
    ("days", "loads", "sets", "back", "screen"),
    [
        (7, [], [], False, False), (8, [0.95], [0.5], False, False), (14, [0.95], [0.5], False, False),
        (15, [0.9, 0.9333, 0.9667], [0.5, 0.7, 0.8], True, False), (28, [0.9, 0.9333, 0.9667], [0.5, 0.7, 0.8], True, False),
        (29, [0.9, 0.9333, 0.9667], [0.5, 0.7, 0.8], True, True),
    ],
)  # fmt: skip
def test_re_entry_by_days_away(days: int, loads: list[float], sets: list[float], back: bool, screen: bool) -> None:
    plan = re_entry(days, 2, AwayReason.AWAY, RULES)
    assert [week.load_share for week in plan.weeks] == pytest.approx(loads, abs=1e-4)
    assert [week.sets_share for week in plan.weeks] == sets
    assert (plan.stage_back, plan.screen, plan.needs_clearance) == (back, screen, False)
    assert plan.working.steps


def test_illness_and_injury_are_cleared_first() -> None:
    assert all(
        re_entry(3, 1, why, RULES).needs_clearance for why in (AwayReason.ILLNESS, AwayReason.INJURY, AwayReason.PAIN)
    )


@given(st.integers(0, 200))
def test_a_longer_absence_never_comes_back_harder(days: int) -> None:
    one, other = re_entry(days, 0, AwayReason.AWAY, RULES), re_entry(days + 1, 0, AwayReason.AWAY, RULES)
    first = one.weeks[0].load_share if one.weeks else 1
    assert (other.weeks[0].load_share if other.weeks else 1) <= first
    assert len(other.weeks) >= len(one.weeks)


def test_moved_mass_is_put_on_and_taken_off_again() -> None:
    entry = a_set(load_kg=20.0, reps=5, reserve_reps=1, carried_kg=30.0)
    bare = bare_estimate(entry, RULES)
    assert bare.max_kg == pytest.approx(50 * (1 + 6 / 30) - 30)
    step = estimate_set(entry, RULES).working.steps[-1]
    assert (step.facts["load_kg"], step.facts["carried_kg"]) == (20, 30)
    without = bare_estimate(replace(entry, load_kg=0.0), RULES)
    assert without.max_kg == pytest.approx(30 * 1.2 - 30)


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"carried_kg": None}, "share_unknown"),
        ({"carried_kg": None, "load_kg": 0.0}, "no_load"),
        ({"hold_s": 20}, "held"),
        ({"supported": True}, "supported"),
    ],
)
def test_some_sets_say_nothing_about_a_maximum(change: dict[str, Any], why: str) -> None:
    bare = bare_estimate(a_set(**change), RULES)
    assert bare.max_kg is None and bare.why == why


@pytest.mark.parametrize(
    ("left", "right", "less", "error", "weaker", "level"),
    [
        (90, 100, False, 0, "left", "note"), (85, 100, False, 0, "left", "act"), (91, 100, False, 0, "left", "even"),
        (100, 85, True, 0, "left", "act"), (90, 100, False, 10, "left", "even"), (50, 50, False, 0, "", "even"),
        (0, 0, False, 0, "", "even"),
    ],
)  # fmt: skip
def test_left_and_right_on_their_lines(
    left: float, right: float, less: bool, error: float, weaker: str, level: str
) -> None:
    found = compare("reach", left, right, "cm", RULES, less_is_better=less, error=error)
    assert (found.weaker, found.level) == (weaker, level)


@given(st.floats(0, 300), st.floats(0, 300), st.booleans())
def test_swapping_the_sides_swaps_only_the_weaker(left: float, right: float, less: bool) -> None:
    one = compare("x", left, right, "cm", RULES, less_is_better=less)
    other = compare("x", right, left, "cm", RULES, less_is_better=less)
    assert (one.share, one.level) == (other.share, other.level)
    assert one.share >= 0 and (less or one.share <= 1), (
        "of the better side: where less is better it can be more than all"
    )
    assert {one.weaker, other.weaker} in ({"left", "right"}, {""})


def test_a_difference_is_of_all_that_is_moved_and_of_the_better_side() -> None:
    bells = compare("split squat", 34, 38, "kg", RULES, carried=33.5)
    assert bells.share == pytest.approx(4 / 71.5) and bells.level == "even"
    assert compare("split squat", 34, 38, "kg", RULES).level == "note", "of the bells alone"
    quick = compare("lunge", 10, 12, "s", RULES, less_is_better=True)
    assert (quick.weaker, quick.share) == ("right", pytest.approx(0.2))
