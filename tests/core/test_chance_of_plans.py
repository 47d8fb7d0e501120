"""Loads by the chance of making them: nothing planned is missed too often, misses and "down" move the number."""

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.loads.mass import Mass
from backsquat.core.loads.room import Rig
from backsquat.core.progression.after_decision import DoneExposure, Followed, Newest, follow
from backsquat.core.progression.decision import Answers, Code, Decision, Exposure, Past
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.terms import PlanBase, PlannedWeek, Terms
from backsquat.core.strength.belief import Belief, beliefs_of
from backsquat.core.strength.current import believed_value
from backsquat.core.strength.record import SetRecord
from backsquat.core.working import Working
from backsquat.ui.phrases.working import said
from tests.core.test_progressions import LOADED
from tests.factories import BAR, RULES, TODAY, a_room, a_set, some_terms
from tests.strategies import rooms

COARSE = a_room({"25": 4, "20": 4, "10": 4, "5": 4, "2.5": 2}, bars=(Rig("bar10", "Light bar", Mass.of(10)),))


def believed(*sets: SetRecord) -> Belief:
    return beliefs_of(sets, RULES)[-1][1]


def terms_of(belief: Belief, **changes: Any) -> Terms:
    return some_terms(**changes | {"known": believed_value(belief, 0.0, TODAY, RULES).known})


def newest(belief: Belief) -> Newest:
    value = believed_value(belief, 0.0, TODAY, RULES)
    return Newest(value.max_kg, value.max_kg, Working(), value.low_kg, value.high_kg)


def first_work(weeks: tuple[PlannedWeek, ...]) -> PlannedWeek:
    return next(week for week in weeks if week.prescription.kind is ExposureKind.WORK)


def after(code: str, asked: Prescription, load_kg: float, sets: list[SetRecord], before: Belief, terms: Terms, **more: Any) -> tuple[Decision, Followed]:  # fmt: skip
    """The decision after a session, and what follows; the belief has seen the session."""
    progression = PROGRESSIONS[code]
    parameters = progression.read({})
    decision = progression.judge(Exposure(asked, load_kg, sets, **more), parameters, RULES)
    belief = beliefs_of(sets, RULES, before)[-1][1]
    known = replace(terms, known=believed_value(belief, 0.0, TODAY, RULES).known)
    done = DoneExposure(asked, load_kg, math_max(before), TODAY)
    return decision, follow(
        progression, parameters, progression.outline(parameters, 8), done, decision, newest(belief), known
    )


def math_max(belief: Belief) -> float:
    return believed_value(belief, 0.0, TODAY, RULES).max_kg


# --- the law


@pytest.mark.parametrize("code", LOADED)
@given(
    room=rooms(),
    kg=st.floats(20, 200),
    left=st.integers(0, 4),
    newcomer=st.booleans(),
    planned_share=st.floats(0.8, 1.6),
    last=st.one_of(st.none(), st.floats(20, 240)),
)
def test_no_load_under_the_agreed_chance_is_ever_planned(code, room, kg, left, newcomer, planned_share, last) -> None:  # type: ignore[no-untyped-def]
    """Whatever the planning max, the last load or the room say."""
    belief = believed(a_set(load_kg=kg, reserve_reps=left))
    terms = terms_of(belief, room=room, rig=room.bars[0], newcomer=newcomer)
    max_kg = math_max(belief)
    base = PlanBase(max_kg * planned_share, max_kg, Working(), last_kg=last)
    progression = PROGRESSIONS[code]
    for week in plan_weeks(progression.outline(progression.read({"test_last": 1}), 10), base, terms):
        if week.load is None:
            continue
        least = RULES.chance_test if week.prescription.kind is ExposureKind.TEST else RULES.chance_work
        assert week.chance is not None and week.chance >= least - 1e-6
        assert week.prescription.reps <= max(week.prescription.high, 15) + RULES.coarse_reps


# --- the findings


def test_in_a_coarse_room_missed_forties_never_lead_to_forty_fives() -> None:
    belief = believed(*[a_set(set_id=n, load_kg=35, reps=6, reserve_reps=2) for n in range(3)])
    terms = terms_of(belief, room=COARSE, rig=COARSE.bars[0])
    missed = [a_set(set_id=10 + n, load_kg=40, reps=reps, reserve_reps=0) for n, reps in enumerate((4, 3, 3, 2))]
    for code in ("fixed", "wave", "effort", "stages", "window"):
        asked = PROGRESSIONS[code].outline(PROGRESSIONS[code].read({}), 8)[0]
        _, followed = after(code, replace(asked, reps=6), 40, missed, belief, terms)
        for week in followed.weeks:
            assert week.load is None or week.load.kg < 45 or (week.chance or 0) >= RULES.chance_work
        following = first_work(followed.weeks).load
        assert following is None or following.kg <= 40


def test_where_the_next_load_is_too_far_reps_grow_first_and_say_why() -> None:
    belief = believed(*[a_set(set_id=n, load_kg=35, reps=6, reserve_reps=3) for n in range(3)])
    terms = terms_of(belief, room=COARSE, rig=COARSE.bars[0])
    progression = PROGRESSIONS["fixed"]
    asked = progression.outline(progression.read({}), 8)
    week = plan_weeks(asked[1:2], PlanBase(math_max(belief), math_max(belief), Working(), last_kg=35), terms)[0]
    assert week.load and week.load.kg == 35 and week.prescription.reps > asked[1].reps
    step = next(step for step in week.working.steps if step.code == "coarse_reps")
    plate, then = (float(step.facts[name]) for name in ("plate_kg", "then_kg"))
    assert then == 35 + 2 * plate and terms.known
    assert terms.known.chance(then, asked[1].reps, asked[1].sets, 0, terms.gain, RULES) >= RULES.chance_work
    assert f"two plates of {plate:g} would make {then:g} possible now" in said(step).words


@given(kg=st.floats(25, 110), left=st.integers(0, 4), code=st.sampled_from(("effort", "fixed", "stages", "wave")))
def test_a_coarse_room_gives_reps_both_ways_and_never_less_in_reserve(kg: float, left: int, code: str) -> None:
    """Two reps more at this load, or two fewer at the next: each as hard as was asked, made as often as agreed."""
    belief = believed(*[a_set(set_id=n, load_kg=kg, reps=6, reserve_reps=left) for n in range(3)])
    progression, max_kg = PROGRESSIONS[code], math_max(belief)
    for in_season, newcomer in ((False, False), (True, False), (False, True)):
        terms = terms_of(belief, room=COARSE, rig=COARSE.bars[0], in_season=in_season, newcomer=newcomer)
        outline = progression.outline(progression.read({}), 8)
        for asked, week in zip(outline, plan_weeks(outline, PlanBase(max_kg, max_kg, Working()), terms), strict=True):
            fewer = next((step for step in week.working.steps if step.code == "coarse_fewer"), None)
            if fewer is None or week.load is None:
                continue
            assert not in_season and not newcomer and code != "wave", "loads stay; reps to learn with; they fall anyway"
            least = max(asked.reps - RULES.coarse_reps, RULES.coarse_least_reps)
            assert asked.reps > week.prescription.reps >= least
            assert week.load.kg > float(fewer.facts["last_kg"]) and not week.breaks_cap
            left_then = terms.left_after(
                week.load.kg, week.prescription.reps, terms.ahead(asked, PlanBase(max_kg, max_kg, Working()))
            )
            assert left_then is not None and left_then >= asked.reserve_reps
            assert week.chance is not None and week.chance >= RULES.chance_work


def test_the_next_load_of_a_coarse_room_comes_with_fewer_reps_and_says_so() -> None:
    belief = believed(*[a_set(set_id=n, load_kg=45, reps=6, reserve_reps=4) for n in range(3)])
    terms = terms_of(belief, room=COARSE, rig=COARSE.bars[0])
    max_kg = math_max(belief)
    outline = PROGRESSIONS["effort"].outline(PROGRESSIONS["effort"].read({}), 6)
    weeks = plan_weeks(outline, PlanBase(max_kg, max_kg, Working()), terms)
    assert weeks[0].load and (weeks[0].load.kg, weeks[0].prescription.reps) == (50, 4)
    words = said(next(step for step in weeks[0].working.steps if step.code == "coarse_fewer")).words
    assert "45 would leave plenty even at 8 reps" in words and "fewer reps than the 6 asked" in words
    kept = plan_weeks([replace(one, low=6, high=6) for one in outline], PlanBase(max_kg, max_kg, Working()), terms)
    assert all(week.prescription.reps == 6 for week in kept), "where the reps are fixed they stay"
    after_a_miss = plan_weeks(outline, PlanBase(max_kg, max_kg, Working(), reps_grow=False), terms)
    assert all(week.prescription.reps == one.reps for week, one in zip(after_a_miss, outline, strict=True))


def test_the_empty_bar_missed_twice_leads_to_no_bar_at_all() -> None:
    """Down, and then nothing until something lighter or other was shown: not 22.5 and 25."""
    belief = believed(a_set(load_kg=20, reps=5, reserve_reps=0))
    terms = terms_of(belief, room=a_room(bars=(BAR,)))
    asked = PROGRESSIONS["fixed"].outline(PROGRESSIONS["fixed"].read({}), 8)[1]
    missed = [a_set(set_id=10 + n, load_kg=20, reps=3, reserve_reps=0) for n in range(4)]
    decision, followed = after("fixed", asked, 20, missed, belief, terms, past=[Past("fixed_missed", 4)])
    assert decision.code is Code.DOWN
    assert all(week.load is None and week.offers for week in followed.weeks)


SHORT = [a_set(set_id=n, reps=max(1, 4 - n), reserve_reps=0) for n in range(4)]


@pytest.mark.parametrize("code", LOADED)
@pytest.mark.parametrize("seed", range(4))
def test_down_always_moves_the_number(code: str, seed: int) -> None:
    """Less load than would have come, fewer reps, or nothing that light here: in fine, usual and coarse rooms."""
    room = (a_room(), COARSE, a_room({"20": 4, "10": 2, "5": 2, "0.25": 2}), a_room({"20": 3}))[seed]
    belief = believed(*[a_set(set_id=n, load_kg=100) for n in range(4)])
    terms = terms_of(belief, room=room, rig=room.bars[0])
    progression = PROGRESSIONS[code]
    parameters = progression.read({})
    asked = progression.outline(parameters, 8)[1]
    load = terms.loads.at_most(80 * 10**10)
    assert load is not None
    stay = Decision(Code.STAY, "x", {}, (), "nothing", next_wave_steps=1)
    down = replace(stay, code=Code.DOWN, planning_max_share=0.999, load_share=0.999, next_wave_steps=0)
    done = DoneExposure(asked, load.kg, math_max(belief), TODAY)
    would, will = (
        first_work(
            follow(progression, parameters, progression.outline(parameters, 8), done, one, newest(belief), terms).weeks
        )
        for one in (stay, down)
    )
    assert would.load is not None
    assert will.load is None or will.load.kg < would.load.kg or will.prescription.reps < would.prescription.reps


def decide(code: str, sets: list[SetRecord], **more: Any) -> Decision:
    progression = PROGRESSIONS[code]
    asked = progression.outline(progression.read({}), 8)[0]
    return progression.judge(Exposure(asked, 100.0, sets, **more), progression.read({}), RULES)


def test_the_effort_progression_sees_missing_reps_before_an_easy_first_set() -> None:
    deload_then_short = [
        a_set(set_id=0, reps=6, reserve_reps=5),
        *(a_set(set_id=n, reps=4, reserve_reps=0) for n in (1, 2, 3)),
    ]
    found = decide("effort", deload_then_short)
    assert (found.code, found.reason) == (Code.DOWN, "effort_missed") and found.planning_max_share < 1
    one_of_four = decide("effort", [a_set(reps=6, reserve_reps=5)])
    assert (one_of_four.code, one_of_four.reason, one_of_four.planning_max_share) == (Code.STAY, "effort_unfinished", 1)


def test_not_sound_is_not_sound_whatever_is_missing_and_missing_twice_comes_down() -> None:
    short = [a_set(set_id=n, reps=4) for n in range(3)]
    assert decide("earned", short, answers=Answers(False, True, True)).code is Code.DOWN
    assert decide("earned", short, answers=Answers(True, True, True)).code is Code.STAY
    again = decide("earned", short, answers=Answers(True, True, True), past=[Past("earned_missed", 3)])
    assert (again.code, again.load_steps) == (Code.DOWN, -1)


@pytest.mark.parametrize("code", LOADED)
def test_after_dull_pain_the_next_load_is_lighter(code: str) -> None:
    belief = believed(*[a_set(set_id=n) for n in range(4)])
    terms = terms_of(belief)
    progression = PROGRESSIONS[code]
    asked = progression.outline(progression.read({}), 8)[0]
    made = [
        a_set(set_id=10 + n, load_kg=80, reps=asked.reps, reserve_reps=3, pain=3, pain_character="dull")
        for n in range(4)
    ]
    decision, followed = after(code, asked, 80, made, belief, terms)
    assert (decision.code, decision.reason) == (Code.DOWN, "pain_watch")
    following = first_work(followed.weeks)
    assert following.load is not None and following.load.kg <= 0.9 * 80 + 1e-6


def test_speed_that_came_down_starts_counting_again() -> None:
    short = [a_set(set_id=n, reps=1) for n in range(5)]
    assert decide("speed", short, past=[Past("speed_fell", 3)]).code is Code.DOWN
    assert decide("speed", short, past=[Past("speed_fell", 3), Past("speed_down", 3)]).code is Code.STAY


def test_tiny_plates_make_no_tiny_waves() -> None:
    tiny = a_room({"20": 4, "10": 2, "5": 2, "2.5": 2, "0.5": 2, "0.25": 2, "0.125": 2})
    assert some_terms(room=tiny).wave_step_kg(120) >= 0.015 * 120
    assert some_terms().wave_step_kg(120) == 2.5


def test_a_planning_max_that_climbed_away_is_brought_back_to_what_is_shown() -> None:
    belief = believed(*[a_set(set_id=n) for n in range(6)])
    high = believed_value(belief, 0.0, TODAY, RULES).high_kg
    asked = PROGRESSIONS["wave"].outline(PROGRESSIONS["wave"].read({}), 8)[0]
    progression, parameters = PROGRESSIONS["wave"], PROGRESSIONS["wave"].read({})
    up = Decision(Code.UP, "as_planned", {}, (), "one_rep_missed")
    done = DoneExposure(asked, 90.0, 200.0, TODAY)
    followed = follow(
        progression, parameters, progression.outline(parameters, 8), done, up, newest(belief), terms_of(belief)
    )
    assert followed.planning_max_kg == pytest.approx(high)
    assert "reconciled" in {step.code for step in followed.weeks[0].working.steps}


def test_what_is_old_or_by_ratio_is_planned_lower_because_it_is_wide() -> None:
    progression = PROGRESSIONS["wave"]
    sure_of_it = believed(*[a_set(set_id=n) for n in range(4)])
    known = believed_value(sure_of_it, 0.0, TODAY, RULES).known
    outline = progression.outline(progression.read({}), 1)
    loads = []
    for variance in (known.variance, 0.02):
        terms = some_terms(known=replace(known, variance=variance))
        week = plan_weeks(outline, PlanBase(120, 120, Working()), terms)[0]
        loads.append(week.load.kg if week.load else 0.0)
    assert loads[1] < loads[0]


def test_after_missing_reps_none_grow_and_who_did_far_less_is_believed_at_once() -> None:
    """35 × 5 with two left, then 30 × 3 with none, four times: 30 × 7 was planned next."""
    belief = believed(a_set(load_kg=35, reserve_reps=2))
    terms = terms_of(belief, room=COARSE, rig=COARSE.bars[0], newcomer=True)
    asked = PROGRESSIONS["fixed"].outline(PROGRESSIONS["fixed"].read({}), 8)[0]
    short = [a_set(set_id=10 + n, load_kg=30, reps=3, reserve_reps=0) for n in range(4)]
    decision, followed = after("fixed", asked, 30, short, belief, terms)
    assert decision.reason == "fixed_missed"
    following = first_work(followed.weeks)
    assert following.load is not None and following.load.kg < 30
    assert all(week.prescription.reps <= asked.reps for week in followed.weeks)


@pytest.mark.parametrize(("code", "rises"), [(Code.UP, True), (Code.STAY, False), (Code.LOOK, False)])
def test_only_a_decision_for_up_brings_a_planning_max_up_to_what_is_shown(code: Code, rises: bool) -> None:
    """Depth short, form broken or a coach's word to stay raise nothing, however strong the sets look."""
    belief = believed(*[a_set(set_id=n) for n in range(6)])
    progression, parameters = PROGRESSIONS["wave"], PROGRESSIONS["wave"].read({})
    outline = progression.outline(parameters, 8)
    decision = Decision(code, "x", {}, (), "nothing", next_wave_steps=0)
    done = DoneExposure(outline[0], 70.0, 90.0, TODAY)
    followed = follow(progression, parameters, outline, done, decision, newest(belief), terms_of(belief))
    assert (followed.planning_max_kg > 90.0) is rises
