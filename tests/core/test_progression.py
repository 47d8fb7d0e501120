"""The wave progression forwards and reactive, caps, and rows that refuse."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.errors import ImpossibleInput
from backsquat.core.findings import Finding, Severity
from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.room import Room
from backsquat.core.loads.rounding import grains
from backsquat.core.progression.after_decision import true_to_its_name
from backsquat.core.progression.cell import State
from backsquat.core.progression.decision import Code, Past
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.row import Candidate, plan_row
from backsquat.core.progression.terms import PlanBase, planned_reps
from backsquat.core.progression.wave import WaveParameters
from backsquat.core.strength.current import current_estimate
from backsquat.core.strength.formulas import FORMULAS, maximum_kg
from backsquat.core.working import Working
from tests.factories import RULES, TODAY, a_prescription, a_room, a_set, an_exposure, some_terms
from tests.strategies import maxima_kg, rooms

WAVE = PROGRESSIONS["wave"]
PARAMETERS = WaveParameters(sets=3)
TOP = a_prescription(top_of_wave=True, week=2, reps=4)


def base(max_kg: float = 129.5, **changes: object) -> PlanBase:
    return PlanBase(max_kg, max_kg, Working(), **changes)  # type: ignore[arg-type]


def judge(exposure):  # type: ignore[no-untyped-def]
    return WAVE.judge(exposure, PARAMETERS, RULES)


# --- forwards


def test_outline_of_two_waves() -> None:
    weeks = WAVE.outline(WaveParameters(), 8)
    assert [(p.reps, p.reserve_reps, p.sets, p.kind.value) for p in weeks[:4]] == [
        (8, 3, 4, "work"),
        (6, 2, 4, "work"),
        (4, 2, 4, "work"),
        (8, 3, 2, "deload"),
    ]
    assert [p.wave for p in weeks] == [0] * 4 + [1] * 4
    assert [p.week for p in weeks if p.top_of_wave] == [2, 6]


def test_loads_of_a_wave_by_hand() -> None:
    """129.5: ÷ (1+11/30) = 94.8 → 95; ÷ (1+8/30) = 102.2 → 102.5; ÷ 1.2 = 107.9 → 107.5; easy 94.8 × 0.9 = 85.3 → 85."""
    weeks = plan_weeks(WAVE.outline(PARAMETERS, 4), base(), some_terms())
    assert [week.load.total.text for week in weeks if week.load] == ["95", "102.5", "107.5", "85"]
    assert [step.code for step in weeks[2].working.steps] == [
        "week_load",
        "cap",
        "room_load",
        "against_last",
        "each_side",
    ]
    assert weeks[2].working.steps[3].facts["side_kg"] == 2.5


def test_the_next_wave_starts_one_step_up() -> None:
    weeks = plan_weeks(WAVE.outline(PARAMETERS, 8), base(), some_terms())
    assert weeks[4].planning_max_kg == pytest.approx(132)
    assert weeks[6].load and weeks[2].load and weeks[6].load.kg >= weeks[2].load.kg


def test_in_season_rounds_down() -> None:
    weeks = plan_weeks(WAVE.outline(PARAMETERS, 3), base(), some_terms(in_season=True))
    assert [week.load.total.text for week in weeks if week.load] == ["92.5", "100", "107.5"]


def test_a_hold_keeps_the_wave_under_the_load() -> None:
    weeks = plan_weeks(WAVE.outline(PARAMETERS, 8)[1:], base(hold_kg=95.0), some_terms())
    assert [week.load.kg for week in weeks[:2] if week.load] == [95, 95]
    assert weeks[4].load and weeks[4].load.kg > 95


def test_under_the_bar_there_is_no_load_but_offers() -> None:
    week = plan_weeks(WAVE.outline(PARAMETERS, 1), base(25.0), some_terms())[0]
    assert week.load is None
    assert [offer.kind for offer in week.offers] == ["lighter_bar", "held_weight"]


@given(rooms(), maxima_kg, st.booleans(), st.booleans(), st.integers(1, 12), st.one_of(st.none(), st.floats(20, 200)))
def test_no_plan_breaks_a_cap_unless_marked_and_every_load_exists(
    room: Room, max_kg: float, newcomer: bool, in_season: bool, weeks: int, hold: float | None
) -> None:
    terms = some_terms(room=room, rig=room.bars[0], newcomer=newcomer, in_season=in_season)
    plan = plan_weeks(WAVE.outline(PARAMETERS, weeks), base(max_kg, hold_kg=hold), terms)
    all_loads, weekly = loads_on(room, room.bars[0]), 0.05 if newcomer else 0.025
    before: dict[int, float] = {}
    for week in plan:
        if week.load is None:
            assert week.offers
            continue
        asked, load = week.prescription, week.load
        assert load in all_loads.loads
        implied = maximum_kg(load.kg, planned_reps(asked, RULES), FORMULAS["epley"])
        within = implied <= max_kg * (1 + weekly * (asked.week + 1)) + 1e-3
        last = before.get(asked.reps)
        within_step = last is None or load.kg <= last * 1.10 + 1e-3
        if not (within and within_step):
            assert week.breaks_cap
            smallest = all_loads.next_above(grains(last or 0))
            assert smallest is not None and load == smallest  # only ever the smallest step the room has
        if asked.kind is ExposureKind.WORK:
            before[asked.reps] = load.kg
            if hold is not None and asked.wave == 0:
                assert load.kg <= hold + 1e-6


@given(rooms(), maxima_kg)
def test_the_same_input_gives_the_same_plan(room: Room, max_kg: float) -> None:
    terms = some_terms(room=room, rig=room.bars[0])
    assert plan_weeks(WAVE.outline(PARAMETERS, 8), base(max_kg), terms) == plan_weeks(
        WAVE.outline(PARAMETERS, 8), base(max_kg), terms
    )


def test_a_coarse_room_is_marked_when_its_smallest_step_breaks_the_cap() -> None:
    """Pairs of 10 only: 40 → 60 is half as much again, yet the smallest step there is."""
    terms = some_terms(room=a_room({"10": 6}))
    asked = [a_prescription(week=4, wave=1)]
    week = plan_weeks(asked, base(80.0, same_reps_kg=((6, 2, 40.0),)), terms)[0]
    assert week.load and week.load.kg == 60
    assert week.breaks_cap
    assert any(step.code == "over_cap" for step in week.working.steps)


@pytest.mark.parametrize(
    "changes", [{"sets": 0}, {"weeks": ((0, 3),)}, {"weeks": ((8, 5),)}, {"weeks": ()}, {"rest_s": 5}]
)
def test_parameters_that_make_no_sense_are_refused(changes: dict[str, object]) -> None:
    with pytest.raises(ImpossibleInput):
        WAVE.read(changes)


# --- who gets a row at all


READINESS_CHECK = (Finding("squat_not_shown", Severity.STOP),)


@pytest.mark.parametrize(
    ("locked", "readiness_check", "tested", "state"),
    [
        (True, READINESS_CHECK, True, State.LOCKED), (True, (), True, State.LOCKED), (False, READINESS_CHECK, True, State.NOT_READY),
        (False, (), False, State.NEEDS_TEST), (False, (), True, State.LOAD),
    ],
)  # fmt: skip
def test_nobody_locked_or_not_ready_gets_a_load(
    locked: bool, readiness_check: tuple[Finding, ...], tested: bool, state: State
) -> None:
    current = current_estimate([a_set()], TODAY, RULES) if tested else None
    row = plan_row(Candidate(False, readiness_check, locked, current), WAVE.outline(PARAMETERS, 4), some_terms())
    assert row.state is state
    assert bool(row.weeks) is (state is State.LOAD)


# --- reactive


def sets(*reserves: int | None, reps: int = 6, **changes: object) -> list:  # type: ignore[type-arg]
    return [a_set(set_id=n + 1, reps=reps, reserve_reps=left, **changes) for n, left in enumerate(reserves)]


@pytest.mark.parametrize(
    ("reserves", "code", "steps", "hold"),
    [
        ((3, 2, 2), Code.UP, 0, False), ((3, 2, 3), Code.UP, 0, False), ((4, 4, 4), Code.UP, 1, False),
        ((2, 1, 1), Code.UP, 0, False), ((1, 0, 0), Code.STAY, 0, True), ((3, 2, None), Code.UP, 0, False),
    ],
)  # fmt: skip
def test_mid_wave_by_what_was_left(reserves: tuple[int, ...], code: Code, steps: int, hold: bool) -> None:
    decision = judge(an_exposure(sets=sets(*reserves)))
    assert (decision.code, decision.steps, decision.hold, decision.planning_max_share) == (code, steps, hold, 1.0)


@pytest.mark.parametrize(
    ("reserves", "code", "next_wave_steps"),
    [((3, 2, 2), Code.UP, 1), ((2, 2, 1), Code.UP, 1), ((2, 2, 0), Code.STAY, 0), ((2, 2, None), Code.STAY, 0)],
)
def test_top_week_by_the_promise(reserves: tuple[int, ...], code: Code, next_wave_steps: int) -> None:
    decision = judge(an_exposure(TOP, sets(*reserves, reps=4)))
    assert (decision.code, decision.next_wave_steps, decision.planning_max_share) == (code, next_wave_steps, 1.0)


def test_top_week_one_rep_short_takes_five_percent_off() -> None:
    short = [*sets(2, 2, reps=4), a_set(set_id=3, reps=3, reserve_reps=0)]
    decision = judge(an_exposure(TOP, short))
    assert (decision.code, decision.planning_max_share, decision.next_wave_steps) == (Code.DOWN, 0.95, 0)


def test_mid_wave_one_rep_short_holds_and_two_go_down() -> None:
    one = [*sets(2, 2), a_set(set_id=3, reps=5, reserve_reps=0)]
    two = [*sets(2, 2), a_set(set_id=3, reps=4, reserve_reps=0)]
    assert (judge(an_exposure(sets=one)).code, judge(an_exposure(sets=one)).hold) == (Code.STAY, True)
    assert judge(an_exposure(sets=two)).code is Code.DOWN


def test_missing_sets_and_lighter_sets_are_missed_reps() -> None:
    assert an_exposure(sets=sets(2, 2)).reps_missing == 6
    assert an_exposure(sets=[*sets(2, 2), a_set(set_id=3, reps=6, load_kg=90)]).reps_missing == 6


def test_deload_week_keeps_the_plan() -> None:
    decision = judge(an_exposure(a_prescription(kind=ExposureKind.DELOAD, sets=2), sets(6, 6)))
    assert (decision.code, decision.reason, decision.hold) == (Code.STAY, "deload_done", False)


def test_lost_depth_is_never_paid_with_load() -> None:
    few = [a_set(set_id=1, reps=6, reps_to_depth=5, reserve_reps=4), *sets(4, 4, 4)[1:]]
    assert judge(an_exposure(sets=few)).code is Code.STAY
    many = [a_set(set_id=n, reps=6, reps_to_depth=3, reserve_reps=4) for n in (1, 2, 3)]
    decision = judge(an_exposure(sets=many))
    assert (decision.code, decision.reason, decision.evidence) == (Code.DOWN, "depth_lost", (1, 2, 3))


def test_broken_form_stops_the_rise() -> None:
    broke = [*sets(4, 4), a_set(set_id=3, reps=6, reserve_reps=4, breaking_fault="heels_up")]
    decision = judge(an_exposure(sets=broke))
    assert (decision.code, decision.hold, decision.evidence) == (Code.STAY, True, (3,))


def test_pain_comes_before_everything() -> None:
    worst = [a_set(set_id=1, reps=6, reps_to_depth=0, breaking_fault="heels_up", pain=4, pain_character="dull")]
    assert judge(an_exposure(sets=worst)).code is Code.STOP
    tingling = [*sets(4, 4), a_set(set_id=3, reps=6, pain=1, pain_character="tingling")]
    assert judge(an_exposure(sets=tingling)).code is Code.STOP


def test_dull_pain_eases_the_next_load_and_twice_in_a_row_is_looked_at() -> None:
    dull = [*sets(4, 4), a_set(set_id=3, reps=6, reserve_reps=4, pain=2, pain_character="dull")]
    eased = judge(an_exposure(sets=dull))
    assert (eased.code, eased.load_share, eased.hold_share) == (Code.DOWN, 0.9, 0.9)
    assert judge(an_exposure(sets=dull, pain_last_time=True)).code is Code.LOOK


def test_a_closed_readiness_check_needs_a_look() -> None:
    assert judge(an_exposure(not_ready=True)).code is Code.LOOK


@given(
    st.lists(
        st.tuples(st.integers(1, 12), st.integers(0, 12), st.one_of(st.none(), st.integers(0, 6)), st.integers(0, 10)),
        min_size=1, max_size=5,
    ),
    st.booleans(),
)  # fmt: skip
def test_no_history_raises_load_over_pain_or_lost_depth(rows, top) -> None:  # type: ignore[no-untyped-def]
    done = [
        a_set(set_id=n, reps=reps, reps_to_depth=min(deep, reps), reserve_reps=left, pain=pain, pain_character="dull")
        for n, (reps, deep, left, pain) in enumerate(rows)
    ]
    decision = judge(an_exposure(TOP if top else None, done))
    if any(s.pain >= 4 for s in done):
        assert decision.code is Code.STOP
    if any(s.pain or s.reps_to_depth < s.reps for s in done):
        assert decision.code is not Code.UP
        assert decision.steps == 0 and decision.planning_max_share <= 1


# --- the stricter of safety and progression; what was left out; answers true to their names


def test_a_shallow_rep_makes_nothing_of_two_misses_in_a_row() -> None:
    fixed, past = PROGRESSIONS["fixed"], (Past("fixed_missed", 3),)
    short = sets(0, 0, 0, reps=4)
    shallow = [a_set(set_id=1, reps=4, reps_to_depth=3, reserve_reps=0), *short[1:]]
    asked = a_prescription(reps=6)
    alone = fixed.judge(an_exposure(asked, short, past=past), fixed.read({}), RULES)
    both = fixed.judge(an_exposure(asked, shallow, past=past), fixed.read({}), RULES)
    assert alone.code is both.code is Code.DOWN
    first = fixed.judge(an_exposure(asked, shallow), fixed.read({}), RULES)
    assert (first.code, first.reason) == (Code.STAY, "depth_short"), "alike in strictness, depth is what is said"


@pytest.mark.parametrize("code", ["wave", "fixed", "window", "stages", "effort", "speed"])
def test_left_out_with_a_reason_is_no_miss_and_ended_without_one_is(code: str) -> None:
    progression = PROGRESSIONS[code]
    done = sets(2, 2)
    left_out = an_exposure(sets=done, left_out=True)
    decision = progression.judge(left_out, progression.read({}), RULES)
    assert (decision.code, decision.reason, left_out.reps_missing) == (Code.STAY, "cut_short", 0)
    assert an_exposure(sets=done).reps_missing == 6
    fell = an_exposure(sets=[*sets(2), *sets(0, reps=3)], left_out=True)
    assert fell.reps_missing == 3, "what was tried and not made is a miss all the same"
    whole = an_exposure(left_out=True)
    assert progression.judge(whole, progression.read({}), RULES).reason != "cut_short"


def test_the_promise_is_judged_by_what_the_last_set_was_to_leave() -> None:
    four = a_prescription(top_of_wave=True, reps=4, sets=4, reserve_reps=2)
    for left, reason in ((1, "top_made"), (0, "top_just"), (4, "top_more")):
        decision = judge(an_exposure(four, sets(2, 2, 2, left, reps=4)))
        assert decision.reason == reason, left


@given(
    room=rooms(),
    max_kg=st.floats(50, 200),
    code=st.sampled_from(["wave", "fixed", "window", "stages", "effort", "earned"]),
    weeks=st.integers(2, 8),
    said=st.sampled_from([Code.UP, Code.STAY, Code.DOWN]),
)
def test_up_stay_and_down_lead_where_they_say(room: Room, max_kg: float, code: str, weeks: int, said: Code) -> None:
    terms, progression = some_terms(room=room, rig=room.bars[0]), PROGRESSIONS[code]
    planned = plan_weeks(progression.outline(progression.read({}), weeks), base(max_kg), terms)
    now = planned[0]
    if now.load is None:
        return
    after = true_to_its_name(planned[1:], said, now.load.kg, now.prescription.reps, None, terms)
    before = {week.prescription.week: week for week in planned}
    work = [week for week in after if week.prescription.kind is ExposureKind.WORK]
    if not work or work[0].load is None:
        return
    next_kg, ends = work[0].load.kg, {loads_on(room, terms.rig).loads[0].kg, loads_on(room, terms.rig).loads[-1].kg}
    match said:
        case Code.UP:
            assert next_kg > now.load.kg or next_kg in ends
        case Code.STAY:
            assert (next_kg, work[0].prescription.reps) == (now.load.kg, now.prescription.reps)
        case _:
            assert next_kg < now.load.kg or next_kg in ends
    assert all(week == before[week.prescription.week] for week in work[1:]), "the weeks after stay as planned"
    limited = true_to_its_name(planned[1:], Code.UP, now.load.kg, now.prescription.reps, now.load.kg, terms)
    assert all(
        a.load is None or b.load is None or a.load.kg <= b.load.kg for a, b in zip(limited, planned[1:], strict=True)
    )
