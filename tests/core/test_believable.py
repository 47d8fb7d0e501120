"""Plans a coach would sign: laws over lifters, rooms and weeks."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.mass import Mass
from backsquat.core.loads.rigs import DUMBBELLS, rigs_for
from backsquat.core.loads.room import Bells, Rig, RigKind, Room, Stack
from backsquat.core.movements.movement import BARS, HeldWhere, Movement
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.terms import BARS as BAR_RIGS
from backsquat.core.progression.terms import PlanBase, PlannedWeek, Terms, planned_reps
from backsquat.core.progression.usual_rest import usual_rest_s
from backsquat.core.readiness.absence import AwayReason, EasedWeek, re_entry
from backsquat.core.rules import Rules
from backsquat.core.strength.chance import KnownStrength
from backsquat.core.strength.first_load import first_load
from backsquat.core.strength.formulas import maximum_kg
from backsquat.core.working import Working
from backsquat.library.shelf import movements
from tests.core.test_progressions import LOADED
from tests.factories import BAR, RULES, a_prescription, a_room, some_terms
from tests.strategies import maxima_kg, rooms

FINE = a_room({"25": 4, "20": 4, "10": 4, "5": 4, "2.5": 2, "1.25": 2, "0.5": 2}, bars=(BAR,))
COARSE = a_room({"20": 4, "10": 4, "5": 2, "2.5": 1}, bars=(BAR,))
STEPPED = st.lists(st.integers(2, 40), min_size=1, max_size=8, unique=True)


def bells(masses: Sequence[int]) -> Room:
    stock = tuple(Bells(Mass.of(kg), 2) for kg in sorted(masses))
    return a_room(dumbbells=stock, kettlebells=stock)


def known(max_kg: float, carried_kg: float = 0.0) -> KnownStrength:
    """A maximum that is well known."""
    from math import log

    return KnownStrength(log(max_kg + carried_kg), 0.02**2)


def planned(code: str, max_kg: float, terms: Terms, weeks: int = 12, **given_to: int) -> tuple[PlannedWeek, ...]:
    progression = PROGRESSIONS[code]
    return plan_weeks(
        progression.outline(progression.read(given_to), weeks), PlanBase(max_kg, max_kg, Working()), terms
    )


def working(weeks: Sequence[PlannedWeek]) -> list[PlannedWeek]:
    return [week for week in weeks if week.prescription.kind is ExposureKind.WORK]


# --- never nothing in the hands, never over what is known


@pytest.mark.parametrize("code", LOADED)
@given(masses=STEPPED, max_kg=st.floats(1, 60), carried_kg=st.floats(0, 40), in_season=st.booleans())
def test_no_bell_of_nothing_is_ever_planned(
    code: str, masses: list[int], max_kg: float, carried_kg: float, in_season: bool
) -> None:
    room = bells(masses)
    terms = some_terms(
        room=room, rig=DUMBBELLS, carried_kg=carried_kg, in_season=in_season, known=known(max_kg, carried_kg)
    )
    for week in planned(code, max_kg, terms):
        assert week.load is None or week.load.kg > 0


@pytest.mark.parametrize("code", LOADED)
@given(room=rooms(), max_kg=maxima_kg)
def test_a_pattern_never_tried_begins_with_the_empty_bar_and_the_ratio_is_a_ceiling(
    code: str, room: Room, max_kg: float
) -> None:
    terms = some_terms(room=room, rig=room.bars[0], found_in=0)
    for nth, week in enumerate(working(planned(code, max_kg, terms))[: RULES.finding_sessions + 1]):
        if week.load is None:
            continue
        if nth == 0:
            assert week.load == terms.loads.empty
        asked = week.prescription
        ceiling = terms.load_for(max_kg, 1) if code == "speed" else terms.load_for(max_kg, asked.reps)
        assert week.load.kg <= ceiling + 1e-6 or week.load == terms.loads.empty
        assert week.chance is None, "not tried yet: no chance is claimed"


def test_a_one_arm_rack_begins_with_half_a_bell_and_a_bar_goes_halfway_in_the_second_session() -> None:
    bar = working(planned("effort", 100, some_terms(room=FINE, found_in=0)))[:3]
    asked = 100 / (1 + 8 / 30)
    assert bar[0].load and bar[0].load.kg == 20
    assert bar[1].load and bar[1].load.kg == pytest.approx((20 + asked) / 2, abs=1.25)
    assert bar[2].load and bar[2].load.kg == pytest.approx(asked, abs=1.25)
    held = working(planned("effort", 30, some_terms(room=bells(range(2, 30, 2)), rig=DUMBBELLS, found_in=0)))[:3]
    assert [week.load.kg for week in held if week.load] == [10, 16, 22], "half of 23.7, three quarters, never over"


@given(mass_kg=st.one_of(st.none(), st.floats(35, 130)), ratio_kg=st.one_of(st.none(), st.floats(5, 200)))
@pytest.mark.parametrize("code", [code for code, one in movements().items() if one.takes_load])
def test_every_movement_with_a_load_has_a_first_one(code: str, mass_kg: float | None, ratio_kg: float | None) -> None:
    movement = movements()[code]
    stacks = tuple(
        Stack(name, name, Mass.of(5), Mass.of(5), Mass.of(100)) for group in movement.equipment for name in group
    )
    stock = tuple(Bells(Mass.of(kg), 2) for kg in range(2, 42, 2))
    trap = Rig("trap", "Trap bar", Mass.of(25), RigKind.TRAP_BAR)
    room = a_room(dumbbells=stock, kettlebells=stock, bags=stock, stacks=stacks, bars=(BAR, trap))
    loads = loads_on(room, rigs_for(movement, room)[0])
    found = first_load(movement, loads, mass_kg, ratio_kg, RULES)
    assert found is not None and found.kg > 0
    if movement.new_pattern and movement.implement in BARS:
        assert found == loads.empty
    if ratio_kg is None and mass_kg is not None and movement.start_share and found != loads.lightest:
        assert found.kg <= mass_kg * movement.start_share + 1e-6


def test_every_shipped_movement_that_takes_a_load_says_where_one_begins() -> None:
    missing = {
        code for code, one in movements().items()
        if one.takes_load and one.ratio is None and one.start_share is None and code not in ("back_squat", "bench_thrust_bar")
    }  # fmt: skip
    assert not missing
    assert all(one.start_share is None or one.start_share <= 0.6 for one in movements().values())


def test_what_the_body_loads_gains_reps_and_no_weight() -> None:
    gains = {code for code, one in movements().items() if one.gains_reps}
    assert {"nordic", "calf_raise", "split_squat", "back_extension", "floor_bridge"} <= gains
    assert not gains & {"goblet_squat", "back_squat", "nordic_band", "hack_squat"}


@pytest.mark.parametrize(("max_kg", "load_kg"), [(12.0, None), (13.0, 10.0)])
def test_a_bell_is_taken_for_more_than_half_of_it(max_kg: float, load_kg: float | None) -> None:
    """Two fifths of 12 are 4.8, of 13 are 5.2; the one bell is of 10."""
    week = planned("speed", max_kg, some_terms(room=bells([10]), rig=DUMBBELLS, newcomer=True))[0]
    assert (week.load.kg if week.load else None) == load_kg


# --- reps, reserve, deload


@pytest.mark.parametrize("code", LOADED)
@given(room=rooms(), max_kg=maxima_kg, in_season=st.booleans())
def test_a_deload_is_never_heavier_than_the_work_before_it(
    code: str, room: Room, max_kg: float, in_season: bool
) -> None:
    last_kg = None
    for week in planned(code, max_kg, some_terms(room=room, rig=room.bars[0], in_season=in_season)):
        if week.load is None:
            continue
        if week.prescription.kind is ExposureKind.DELOAD and last_kg is not None:
            assert week.load.kg <= last_kg + 1e-6
        if week.prescription.kind is ExposureKind.WORK:
            last_kg = week.load.kg


@pytest.mark.parametrize("code", LOADED)
@pytest.mark.parametrize("room", [FINE, COARSE])
@given(max_kg=st.floats(40, 220), newcomer=st.booleans(), in_season=st.booleans())
@example(max_kg=58.5, newcomer=False, in_season=False)  # 8 × 45 after 4 × 50, where 5 kg are the smallest step
def test_a_deload_week_asks_no_more_and_leaves_no_less_than_the_weeks_around_it(
    code: str, room: Room, max_kg: float, newcomer: bool, in_season: bool
) -> None:
    terms = some_terms(room=room, newcomer=newcomer, in_season=in_season, known=known(max_kg))
    weeks = planned(code, max_kg, terms)
    for n, week in enumerate(weeks):
        if week.prescription.kind is not ExposureKind.DELOAD or week.load is None:
            continue
        before = [one for one in weeks[:n] if one.prescription.kind is ExposureKind.WORK][-3:]
        after = [one for one in weeks[n + 1 : n + 4] if one.prescription.kind is ExposureKind.WORK]
        assert week.prescription.reps <= max(one.prescription.reps for one in [*before, *after])
        assert week.prescription.reserve_reps >= before[-1].prescription.reserve_reps

        def left(one: PlannedWeek) -> float:
            assert one.load
            return terms.left_after(one.load.kg, one.prescription.reps, 0.0) or 0.0

        assert left(week) >= left(before[-1]) - 1e-6


@pytest.mark.parametrize("room", [FINE, COARSE])
@given(max_kg=st.floats(40, 220), low=st.integers(3, 10), span=st.integers(2, 6), in_season=st.booleans())
def test_a_rep_window_climbs_to_its_top_before_it_steps(
    room: Room, max_kg: float, low: int, span: int, in_season: bool
) -> None:
    terms = some_terms(room=room, in_season=in_season, known=known(max_kg))
    for before, after in pairwise(working(planned("window", max_kg, terms, 14, low=low, high=low + span))):
        if before.load and after.load and after.load.kg > before.load.kg:
            assert before.prescription.reps >= low + span, "the top first"


def test_at_the_heaviest_bell_reps_grow_on() -> None:
    terms = some_terms(room=bells([16, 20]), rig=DUMBBELLS, known=known(60))
    weeks = working(planned("window", 60, terms, 10, low=6, high=8, deload_every=0))
    assert [week.load.kg for week in weeks if week.load] == [20] * 10
    assert [week.prescription.reps for week in weeks] == list(range(6, 16))


@pytest.mark.parametrize("code", ["wave", "effort", "fixed", "stages"])
@given(max_kg=st.floats(40, 220), step=st.sampled_from(["2.5", "5", "10"]))
def test_a_coarse_room_drifts_two_reps_from_what_was_asked_and_then_holds(code: str, max_kg: float, step: str) -> None:
    room = a_room({step: 20}, bars=(BAR,))
    progression, terms = PROGRESSIONS[code], some_terms(room=room, known=known(max_kg))
    outline = progression.outline(progression.read({}), 12)
    for asked, week in zip(outline, planned(code, max_kg, terms), strict=True):
        assert week.prescription.reps - asked.reps <= 2


@pytest.mark.parametrize("code", ["stages", "fixed", "wave", "effort"])
@given(max_kg=st.floats(60, 220), share=st.sampled_from([1.0, 0.8, 0.9]))
def test_what_a_first_week_is_said_to_leave_is_what_its_load_leaves_however_it_is_done(
    code: str, max_kg: float, share: float
) -> None:
    terms = some_terms(room=FINE, known=known(max_kg), manner_share=share)
    week = planned(code, max_kg, terms)[0]
    assert week.load
    assert terms.left_after(week.load.kg, week.prescription.reps, 0.0) == pytest.approx(
        week.prescription.reserve_reps, abs=1.3
    )


@pytest.mark.parametrize("code", ["stages", "fixed", "wave", "effort", "window"])
@given(max_kg=st.floats(60, 220), share=st.sampled_from([0.7, 0.8, 0.9, 1.2]), believed=st.booleans())
def test_no_manner_carries_a_load_over_the_cap_of_the_plain_lift(
    code: str, max_kg: float, share: float, believed: bool
) -> None:
    """Also where nothing is believed yet: a pause at the plain lift's cap is harder than the cap allows; and what is
    said to be easier than the whole lift allows nothing above it.
    """
    about: dict[str, Any] = {"room": FINE, "manner_share": share} | ({"known": known(max_kg)} if believed else {})
    terms = some_terms(**about)
    for week in planned(code, max_kg, terms):
        if week.load is None or week.breaks_cap:
            continue
        counted = planned_reps(week.prescription, RULES)
        for kg in (week.load.kg, week.cap.most_kg):  # what is planned, and the most that could have been
            rise = maximum_kg(kg / min(share, 1.0), counted, terms.formula) / max_kg - 1
            assert rise <= RULES.rise_a_week_trained * (week.prescription.week + 1) + 1e-6


# --- after time away


@given(st.integers(0, 400), st.integers(0, 400))
def test_the_longer_away_the_lower_the_start_and_the_longer_the_way_back(one: int, other: int) -> None:
    shorter, longer = (re_entry(days, 0, AwayReason.AWAY, RULES).weeks for days in sorted((one, other)))
    assert len(shorter) <= len(longer)
    if shorter:
        assert longer[0].load_share <= shorter[0].load_share + 1e-9
    for weeks in (shorter, longer):
        assert all(a.load_share <= b.load_share and a.sets_share <= b.sets_share for a, b in pairwise(weeks))
        assert all(RULES.absence_least_load - 1e-9 <= week.load_share < 1 for week in weeks)


def test_sixty_days_away_are_not_fifteen() -> None:
    fifteen, sixty = (re_entry(days, 0, AwayReason.AWAY, RULES).weeks for days in (15, 60))
    assert (len(fifteen), len(sixty)) == (3, 6)
    assert sixty[0].load_share == pytest.approx(0.9 - 0.015 * 31 / 7)


@pytest.mark.parametrize("code", LOADED)
@given(max_kg=st.floats(60, 220), days=st.integers(8, 200), in_season=st.booleans())
def test_no_deload_comes_right_on_a_return_and_no_return_freezes(
    code: str, max_kg: float, days: int, in_season: bool
) -> None:
    eased = dict(enumerate(re_entry(days, 0, AwayReason.AWAY, RULES).weeks))
    terms = some_terms(room=COARSE, eased=eased, in_season=in_season, known=known(max_kg))
    weeks = planned(code, max_kg, terms)
    back = weeks[: min(len(eased) + 1, 4)]
    assert all(week.prescription.kind is not ExposureKind.DELOAD for week in back)
    if in_season:
        assert all(week.prescription.sets >= 2 for week in weeks)


def test_a_coarse_room_does_not_hold_a_return_back_and_then_jump() -> None:
    eased = {n: EasedWeek(0.9 + n / 30, 1.0) for n in range(3)}
    weeks = planned("fixed", 113, some_terms(room=COARSE, eased=eased, known=known(113)), deload_every=0)
    loads = [week.load.kg for week in weeks[:5] if week.load]
    assert loads == sorted(loads) and all(b - a <= 5 for a, b in pairwise(loads)), loads


# --- in season, rests


@pytest.mark.parametrize("code", LOADED)
@given(max_kg=st.floats(60, 220))
def test_in_season_nothing_is_planned_over_the_estimate(code: str, max_kg: float) -> None:
    terms = some_terms(room=FINE, in_season=True)
    last_kg = 0.0
    for week in working(planned(code, max_kg, terms)):
        assert week.load
        implied = terms.max_for(week.load.kg, week.prescription.reps + week.prescription.reserve_reps)
        assert implied <= max_kg + 1e-6 or week.load.kg <= last_kg, "the load is kept, it does not rise"
        last_kg = week.load.kg


def rested(movement: Movement, rules: Rules = RULES, given_to: dict[str, int] | None = None, **asked: int) -> int:
    return usual_rest_s(a_prescription(**{"rest_s": 90, **asked}), movement, given_to or {}, rules)


def test_a_heavy_bar_rests_three_minutes_in_any_progression() -> None:
    squat, hinge = movements()["back_squat"], movements()["romanian_deadlift"]
    assert rested(squat, reps=3) == rested(hinge, reps=8) == 180
    assert rested(squat, reps=12) == 90, "light and many"
    assert rested(movements()["goblet_squat"], reps=6) == 90
    assert rested(squat, given_to={"rest_s": 90}, reps=3) == 90, "the coach's own"
    assert rested(squat, reps=3, rest_s=240) == 240
    assert rested(squat, replace(RULES, rest_bar_s=150), reps=3) == 150


def test_only_front_and_overhead_are_patterns_to_be_learnt() -> None:
    new = {code for code, one in movements().items() if one.new_pattern}
    assert {"front_squat", "overhead_squat", "reverse_lunge_one_front_rack"} <= new
    assert all(movements()[code].held in (HeldWhere.FRONT, HeldWhere.OVERHEAD) for code in new)
    assert "romanian_deadlift" not in new and BAR.kind in BAR_RIGS
