"""Every progression at its boundaries: exactly made, one short, again and again, caps, coarse rooms, deload weeks and tests."""

from dataclasses import replace
from itertools import pairwise
from typing import Any

import pytest

from backsquat.core.errors import ImpossibleInput
from backsquat.core.progression.after_decision import DoneExposure, Newest, follow
from backsquat.core.progression.decision import Answers, Code, Decision, Exposure, Past
from backsquat.core.progression.effort import EffortProgression, first_margin, moved_share
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import Basis, ExposureKind
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.terms import PlanBase
from backsquat.core.progression.window import promised_reps
from backsquat.core.strength.formulas import FORMULAS, maximum_kg, reps_for
from backsquat.core.working import Working
from tests.factories import RULES, TODAY, a_prescription, a_room, a_set, an_exposure, some_terms

LOADED = [code for code, progression in PROGRESSIONS.items() if progression.loaded]


def base(max_kg: float = 120.0, **changes: Any) -> PlanBase:
    return PlanBase(max_kg, max_kg, Working(), **changes)


def planned(code: str, weeks: int = 12, max_kg: float = 120.0, changes: dict[str, Any] | None = None, **terms: Any):  # type: ignore[no-untyped-def]
    progression = PROGRESSIONS[code]
    parameters = progression.read(changes or {})
    hinge = terms.pop("hinge", False)
    return plan_weeks(progression.outline(parameters, weeks, hinge), base(max_kg), some_terms(**terms))


def loads(weeks) -> list[float | None]:  # type: ignore[no-untyped-def]
    return [week.load.kg if week.load else None for week in weeks]


def exposure(code: str, reps: list[int], left: list[int | None] | int = 1, week: int = 0, **changes: Any) -> Exposure:
    """Sets done of a progression's `week`-th exposure at 100 kg."""
    progression = PROGRESSIONS[code]
    asked = progression.outline(progression.read({}), week + 1)[week]
    lefts = left if isinstance(left, list) else [left] * len(reps)
    sets = [
        a_set(set_id=n + 1, reps=max(r, 1), reps_to_depth=r, reserve_reps=m)
        for n, (r, m) in enumerate(zip(reps, lefts, strict=True))
    ]
    return Exposure(prescription=changes.pop("asked", asked), load_kg=100.0, sets=sets, **changes)


def judge(code: str, done: Exposure, changes: dict[str, Any] | None = None) -> Decision:
    return PROGRESSIONS[code].judge(done, PROGRESSIONS[code].read(changes or {}), RULES)


def said(decision: Decision) -> tuple[Code, str]:
    return decision.code, decision.reason


# --- fixed step


def test_fixed_step_climbs_by_one_step_and_hinges_by_two() -> None:
    """120 ÷ (1 + 8 ÷ 30) = 94.7 → 95, then 2.5 each; the fourth week is easy, 97.5 × … from the last load."""
    assert loads(planned("fixed", 6)) == [95, 97.5, 100, 90, 102.5, 105]
    assert loads(planned("fixed", 6, hinge=True)) == [95, 100, 105, 92.5, 110, 115]


@pytest.mark.parametrize(
    ("reps", "past", "expected", "share", "steps"),
    [
        ([5, 5, 5, 5], (), (Code.UP, "fixed_made"), 1.0, 1),
        ([5, 5, 5, 4], (), (Code.STAY, "fixed_missed"), 1.0, 0),
        ([5, 5, 5], (), (Code.STAY, "fixed_missed"), 1.0, 0),
        ([5, 5, 5, 4], (Past("fixed_missed", 1),), (Code.DOWN, "reset"), 0.925, 0),
        ([5, 5, 5, 4], (Past("fixed_missed", 1), Past("fixed_made", 0)), (Code.STAY, "fixed_missed"), 1.0, 0),
        ([5, 5, 5, 4], (Past("fixed_missed", 2), Past("reset", 1)), (Code.STAY, "fixed_missed"), 1.0, 0),
        (
            [5, 5, 4, 4],
            (Past("fixed_missed", 2), Past("reset", 1), Past("fixed_missed", 1)),
            (Code.DOWN, "reset_again"), 0.925, 0,
        ),
    ],
)  # fmt: skip
def test_fixed_step_made_missed_and_reset(reps, past, expected, share, steps) -> None:  # type: ignore[no-untyped-def]
    decision = judge("fixed", exposure("fixed", reps, past=past))
    assert said(decision) == expected
    assert (decision.load_share, decision.load_steps) == (share, steps)


def test_a_missed_session_is_repeated_and_a_reset_takes_seven_and_a_half_percent_off() -> None:
    progression, terms = PROGRESSIONS["fixed"], some_terms()
    parameters = progression.read({"deload_every": 0})
    outline = progression.outline(parameters, 4)
    done, newest = DoneExposure(outline[0], 100.0, 120.0, TODAY), Newest(120.0, 120.0, Working())

    def after(decision: Decision) -> list[float | None]:
        return loads(follow(progression, parameters, outline, done, decision, newest, terms).weeks)

    short = exposure("fixed", [5, 5, 5, 4])
    assert after(judge("fixed", short)) == [100, 102.5, 105]
    again = replace(short, past=(Past("fixed_missed", 1),))
    assert after(judge("fixed", again)) == [92.5, 95, 97.5]


def test_an_deload_week_takes_sets_and_a_tenth_and_the_climb_goes_on_from_the_work() -> None:
    weeks = planned("fixed", 5)
    deload = weeks[3]
    assert (deload.prescription.kind, deload.prescription.sets, deload.load.kg) == (ExposureKind.DELOAD, 2, 90)
    assert weeks[4].load.kg == 102.5
    assert judge("fixed", exposure("fixed", [5, 5], week=3)).keeps


@pytest.mark.parametrize("code", ["stages", "fixed", "window", "effort"])
@pytest.mark.parametrize("begun", [1, 2, 3, 5])
def test_deload_weeks_are_the_blocks_wherever_a_exercise_was_put_in(code: str, begun: int) -> None:
    """Of eight weeks the fourth and the last; also after a decision, which had brought them to other weeks than before."""
    progression, parameters = PROGRESSIONS[code], PROGRESSIONS[code].read({})
    laid = [replace(p, week=p.week + begun) for p in progression.outline(parameters, 8 - begun, begun=begun)]
    assert [p.week for p in laid if p.kind is ExposureKind.DELOAD] == [week for week in (3, 7) if week >= begun]
    rest = progression.resume(laid, laid[0], Decision(Code.STAY, "x", {}, (), "y"), parameters)
    assert [p.week for p in rest if p.kind is ExposureKind.DELOAD] == [week for week in (3, 7) if week > begun]


def test_twice_a_week_all_of_the_blocks_deload_week_is_deload() -> None:
    laid = PROGRESSIONS["fixed"].outline(PROGRESSIONS["fixed"].read({}), 5, a_week=2, begun=3)
    assert [p.week for p in laid if p.kind is ExposureKind.DELOAD] == [0, 1, 8, 9]


def test_broken_form_in_an_deload_week_does_not_make_its_load_the_new_start() -> None:
    progression, terms = PROGRESSIONS["fixed"], some_terms()
    parameters = progression.read({})
    outline = progression.outline(parameters, 6)
    sets = [a_set(set_id=n, load_kg=90.0, breaking_fault="heels_up") for n in (1, 2)]
    deload = Exposure(outline[3], 90.0, sets)
    decision = progression.judge(deload, parameters, RULES)
    assert (decision.code, decision.load_share) == (Code.DOWN, 0.95)
    done = DoneExposure(outline[3], 90.0, 120.0, TODAY, last_work_kg=100.0)
    weeks = follow(progression, parameters, outline, done, decision, Newest(120.0, 120.0, Working()), terms).weeks
    assert loads(weeks) == [95, 97.5], "five percent off the work, not off the deload week"


# --- rep window


def test_a_window_of_one_number_is_fixed_reps_and_the_load_takes_the_steps() -> None:
    weeks = planned("window", 6, changes={"low": 15, "high": 15, "deload_every": 0})
    assert {week.prescription.reps for week in weeks} == {15}
    loads = [week.load.kg for week in weeks if week.load]
    assert len(loads) == 6 and loads == sorted(loads) and loads[-1] > loads[0]
    with pytest.raises(ImpossibleInput):
        PROGRESSIONS["window"].read({"low": 15, "high": 14})


def test_how_a_set_ends_is_said_at_the_head_and_a_deload_ends_as_any_other() -> None:
    given = {"end_hold_s": 30, "last_to_failure": 1, "deload_every": 4}
    weeks = [week.prescription for week in planned("window", 4, changes=given)]
    assert weeks[0].words == "3 × 8–12 + 30 s · RIR 2, last to failure"
    assert weeks[3].kind is ExposureKind.DELOAD and not weeks[3].last_to_failure and "failure" not in weeks[3].words


def test_reps_grow_to_the_top_then_a_step_from_the_bottom() -> None:
    weeks = planned("window", 9, changes={"low": 4, "high": 6, "deload_every": 0})
    assert [w.prescription.reps for w in weeks] == [4, 5, 6, 4, 5, 6, 4, 5, 6]
    assert loads(weeks) == [100, 100, 100, 102.5, 102.5, 102.5, 105, 105, 105]


def test_a_coarse_step_is_paid_in_reps_first() -> None:
    """Pairs of 10 only: from 60 the next is 80, which 12 reps at 60 do not promise eight of."""
    weeks = planned("window", 9, 90.0, changes={"deload_every": 0}, room=a_room({"10": 6}))
    assert loads(weeks)[:7] == [60] * 7
    assert [w.prescription.reps for w in weeks[:7]] == [8, 9, 10, 11, 12, 13, 14]


@pytest.mark.parametrize(
    ("reps", "now", "past", "expected", "next_reps", "steps"),
    [
        ([8, 8, 8], 8, (), (Code.UP, "window_reps"), 9, 0),
        ([10, 9, 9], 8, (), (Code.UP, "window_reps"), 10, 0),
        ([8, 8, 7], 8, (), (Code.STAY, "window_stay"), 8, 0),
        ([7, 7, 7], 8, (), (Code.STAY, "window_under"), 8, 0),
        ([7, 7, 7], 8, (Past("window_under", 3),), (Code.DOWN, "window_down"), 8, -1),
        ([12, 12, 12], 12, (), (Code.UP, "window_top"), 8, 1),
        ([12, 12, 11], 12, (), (Code.STAY, "window_stay"), 12, 0),
        ([12, 12], 12, (), (Code.STAY, "window_stay"), 12, 0),
    ],
)  # fmt: skip
def test_window_decisions(reps, now, past, expected, next_reps, steps) -> None:  # type: ignore[no-untyped-def]
    asked = PROGRESSIONS["window"].outline(PROGRESSIONS["window"].read({}), 12)[0]
    done = exposure("window", reps, asked=replace(asked, reps=now), past=past, next_load_kg=102.5)
    decision = judge("window", done)
    assert said(decision) == expected
    assert (decision.reps, decision.load_steps) == (next_reps, steps)


def test_at_the_top_a_next_load_that_promises_too_little_waits() -> None:
    asked = replace(PROGRESSIONS["window"].outline(PROGRESSIONS["window"].read({}), 1)[0], reps=12)
    waits = judge("window", exposure("window", [12, 12, 12], asked=asked, next_load_kg=125.0))
    assert said(waits) == (Code.UP, "window_coarse") and (waits.reps, waits.load_steps) == (13, 0)
    nothing = judge("window", exposure("window", [12, 12, 12], asked=asked, next_load_kg=100.0))
    assert said(nothing) == (Code.UP, "window_heaviest") and nothing.reps == 13
    # 100 × (1 + 13 ÷ 30) = 143.3; at 125 that is 30 × (143.3 ÷ 125 − 1) = 4.4 reps
    assert promised_reps(100, 12, 1, 125, 0, RULES) == pytest.approx(4.4, abs=0.01)


def test_two_over_the_top_in_two_sessions_is_an_option() -> None:
    once = exposure("window", [10, 10, 14], next_load_kg=102.5)
    assert judge("window", once).reason == "window_reps"
    assert judge("window", once, {"over_option": 1}).reason == "window_over"
    twice = replace(once, past=(Past("window_over", 0),))
    decision = judge("window", twice, {"over_option": 1})
    assert said(decision) == (Code.UP, "window_over_twice") and decision.load_steps == 1


def test_a_window_goes_on_from_the_reps_that_were_decided() -> None:
    progression = PROGRESSIONS["window"]
    parameters = progression.read({"low": 4, "high": 6, "deload_every": 0})
    outline = progression.outline(parameters, 8)

    def reps_after(reps: int, steps: int) -> list[int]:
        decision = Decision(Code.UP, "x", {}, (), "y", reps=reps, load_steps=steps)
        return [p.reps for p in progression.resume(outline, outline[1], decision, parameters)]

    assert reps_after(6, 0) == [6, 4, 5, 6, 4, 5]
    assert reps_after(4, 1) == [4, 5, 6, 4, 5, 6]
    assert reps_after(8, 0) == [8, 4, 5, 6, 4, 5], "over the top: the step is next"


# --- stages


def test_stages_start_light_climb_and_never_fall_under_what_was_reached() -> None:
    """12 reps with RIR 4 of 120: ÷ 1.533 = 78.3 → 77.5; 8 with 4: ÷ 1.4 = 85.7; 6 with 4: ÷ 1.333 = 90."""
    weeks = planned("stages", 9, changes={"deload_every": 0})
    assert loads(weeks) == [77.5, 80, 82.5, 85, 87.5, 90, 92.5, 95, 97.5]
    assert [w.prescription.reserve_reps for w in weeks] == [4, 3, 2] * 3, "what the load leaves at the reps asked"
    assert [(w.prescription.low, w.prescription.high) for w in weeks[::3]] == [(12, 15), (8, 12), (6, 8)]
    assert [w.prescription.rest_s for w in weeks[::3]] == [75, 110, 150]


@pytest.mark.parametrize(
    ("reps", "left", "past", "expected", "steps"),
    [
        ([12, 12, 12, 12], 1, (), (Code.UP, "stage_made"), 1),
        ([15, 15, 15, 15], 4, (), (Code.UP, "stage_much_spare"), 2),
        ([12, 12, 12, 11], 0, (), (Code.STAY, "stage_stay"), 0),
        ([12, 12, 11, 11], 0, (Past("stage_stay", 2),), (Code.DOWN, "stage_down"), -1),
        ([12, 12, 11, 11], 0, (Past("stage_stay", 2), Past("stage_down", 2)), (Code.STAY, "stage_stay"), 0),
    ],
)  # fmt: skip
def test_stage_decisions(reps, left, past, expected, steps) -> None:  # type: ignore[no-untyped-def]
    decision = judge("stages", exposure("stages", reps, left, past=past))
    assert (said(decision), decision.load_steps) == (expected, steps)


# --- effort


@pytest.mark.parametrize(
    ("left", "reason", "share"),
    [
        (2, "effort_as_asked", 1.0), (3, "effort_as_asked", 1.0), (1, "effort_as_asked", 1.0), (4, "effort_more", 1.03),
        (0, "effort_less", 0.97), (6, "effort_more", 1.05), (10, "effort_more", 1.05), (None, "effort_unknown", 1.0),
    ],
)  # fmt: skip
def test_effort_moves_the_weeks_to_come_by_half_and_ignores_a_rep(left, reason, share) -> None:  # type: ignore[no-untyped-def]
    decision = judge("effort", exposure("effort", [6, 6, 6, 6], [left, 2, 2, 2]))
    assert decision.reason == reason
    assert decision.planning_max_share == pytest.approx(share)


def test_reps_above_depth_are_no_margin() -> None:
    asked = a_prescription(reps=6, reserve_reps=2)

    def margin(**last: int) -> int | None:
        sets = [a_set(set_id=n, reps=6, reserve_reps=2) for n in (1, 2)] + [a_set(set_id=3, **last)]
        return an_exposure(asked, sets).margin_reps(RULES)

    as_asked = margin(reps=6, reserve_reps=2)
    assert as_asked is not None
    assert margin(reps=9, reps_to_depth=6, reserve_reps=2) == as_asked
    assert margin(reps=6, reps_to_depth=3, reserve_reps=2) == margin(reps=3, reserve_reps=2) != as_asked
    assert margin(reps=9, reserve_reps=2) == as_asked + 3


def test_the_first_set_steers_the_later_ones_within_ten_percent() -> None:
    parameters = EffortProgression().read({})
    assert first_margin(a_set(reps=6, reserve_reps=4), 6, 2) == 2
    assert first_margin(a_set(reps=4, reserve_reps=0), 6, 2) == -4
    assert first_margin(a_set(reps=6, reps_to_depth=4, reserve_reps=2), 6, 2) == -2, "what is above depth is no rep"
    assert first_margin(a_set(reserve_reps=None), 6, 2) is None
    assert [moved_share(margin, parameters) for margin in (0, 1, -2, 9, -9)] == pytest.approx([1, 1.03, 0.94, 1.1, 0.9])


# --- earned week


def test_earned_weeks_start_at_ninety_percent_and_restart_a_step_under_what_was_reached() -> None:
    """8 reps with RIR 2 of 120: 90; × 0.9 = 81 → 80. The next cycle: 85 − a step is more than 81."""
    assert loads(planned("earned", 6)) == [80, 82.5, 85, 87.5, 85, 87.5]


@pytest.mark.parametrize(
    ("answers", "expected", "steps"),
    [
        (None, (Code.LOOK, "earned_ask"), 0), (Answers(True, True, True), (Code.UP, "earned_up"), 1),
        (Answers(True, True, False), (Code.STAY, "earned_enough"), 0), (Answers(True, False, True), (Code.STAY, "earned_unsure"), 0),
        (Answers(False, True, True), (Code.DOWN, "earned_down"), -1),
    ],
)  # fmt: skip
def test_the_three_questions(answers, expected, steps) -> None:  # type: ignore[no-untyped-def]
    decision = judge("earned", exposure("earned", [8, 8, 8], 2, answers=answers))
    assert (said(decision), decision.load_steps) == (expected, steps)


def test_missed_reps_are_not_talked_away() -> None:
    decision = judge("earned", exposure("earned", [6, 6, 5], 0, answers=Answers(True, True, True)))
    assert said(decision) == (Code.STAY, "earned_missed")


# --- holds, speed, ladder


def test_holds_grow_in_seconds_to_the_top_and_no_further() -> None:
    progression = PROGRESSIONS["holds"]
    outline = progression.outline(progression.read({}), 8)
    assert [p.hold_s for p in outline] == [15, 20, 25, 30, 35, 40, 45, 45]
    assert {p.aim.basis for p in outline} == {Basis.NONE}


@pytest.mark.parametrize(
    ("held", "asked_s", "code", "reason", "next_s"),
    [
        ([15, 15, 15], 15, Code.UP, "hold_longer", 20), ([15, 15, 14], 15, Code.STAY, "hold_short", 15),
        ([15, 15], 15, Code.STAY, "hold_short", 15), ([45, 45, 45], 45, Code.STAY, "hold_top", 45),
    ],
)  # fmt: skip
def test_hold_decisions(held, asked_s, code, reason, next_s) -> None:  # type: ignore[no-untyped-def]
    progression = PROGRESSIONS["holds"]
    asked = replace(progression.outline(progression.read({}), 1)[0], hold_s=asked_s)
    sets = [a_set(set_id=n, reps=1, load_kg=0.0, hold_s=s) for n, s in enumerate(held)]
    decision = judge("holds", Exposure(asked, 0.0, sets))
    assert (decision.code, decision.reason, decision.facts["next_s"]) == (code, reason, next_s)


def test_speed_is_never_loaded_up_and_comes_down_when_the_snap_goes_twice() -> None:
    assert loads(planned("speed", 5)) == [47.5] * 5, "0.4 × 120 = 48"
    made = judge("speed", exposure("speed", [3] * 5, 5))
    assert (made.code, made.steps, made.load_steps) == (Code.STAY, 0, 0)
    once = judge("speed", exposure("speed", [3, 3, 3, 2, 2], 5))
    assert said(once) == (Code.STAY, "speed_fell")
    twice = judge("speed", exposure("speed", [3, 3, 3, 2, 2], 5, past=(Past("speed_fell", 2),)))
    assert said(twice) == (Code.DOWN, "speed_down") and twice.planning_max_share < 1


def test_the_top_week_of_a_wave_with_room_to_spare_earns_two_steps() -> None:
    top = exposure("wave", [4, 4, 4, 4], 4, week=2)
    assert (judge("wave", top).reason, judge("wave", top).next_wave_steps) == ("top_more", 2)


def test_reps_and_loads_are_each_others_inverse() -> None:
    for name, formula in FORMULAS.items():
        for reps in (1, 3, 5.5, 8, 12, 20):
            assert reps_for(100, maximum_kg(100, reps, formula), formula) == pytest.approx(reps, abs=1e-6), name
        assert reps_for(120, 100, formula) == 0
        assert all(a > b for a, b in pairwise(reps_for(kg, 150, formula) for kg in (80, 100, 120)))
