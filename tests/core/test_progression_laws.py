"""Laws every progression keeps: loads that exist, caps or marks, the same input the same plan, no rise over pain or lost depth."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.errors import ImpossibleInput
from backsquat.core.progression.after_decision import DoneExposure, Newest, follow
from backsquat.core.progression.decision import Answers, Code, Exposure, Past
from backsquat.core.progression.parameters import lines
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.terms import planned_reps
from backsquat.core.strength.formulas import FORMULAS, maximum_kg
from backsquat.core.working import Working
from tests.core.test_progressions import LOADED, base, judge, planned
from tests.factories import RULES, TODAY, a_set, some_terms
from tests.strategies import maxima_kg, rooms


@pytest.mark.parametrize("code", PROGRESSIONS)
def test_every_parameter_names_its_meaning_unit_and_source(code: str) -> None:
    for line in lines(PROGRESSIONS[code].kind):
        assert line.meaning and line.unit and line.source
        if isinstance(line.default, (int, float)):
            assert line.low is not None and line.high is not None and line.low <= line.default <= line.high


@pytest.mark.parametrize("code", PROGRESSIONS)
def test_a_parameter_out_of_bounds_is_refused_and_unknown_ones_are_left_out(code: str) -> None:
    for line in lines(PROGRESSIONS[code].kind):
        if line.high is not None:
            with pytest.raises(ImpossibleInput):
                PROGRESSIONS[code].read({line.name: line.high + 1})
    assert PROGRESSIONS[code].read({"moon": 1}) == PROGRESSIONS[code].read({})


@pytest.mark.parametrize("code", PROGRESSIONS)
@pytest.mark.parametrize("weeks", [1, 4, 12, 26])
def test_an_outline_has_every_week_once(code: str, weeks: int) -> None:
    progression = PROGRESSIONS[code]
    outline = progression.outline(progression.read({}), weeks)
    assert [p.week for p in outline] == list(range(weeks))
    assert all(p.sets >= 1 and p.reps >= 1 and p.words for p in outline)


@pytest.mark.parametrize("code", LOADED)
def test_the_last_week_can_be_a_test(code: str) -> None:
    week = planned(code, 8, changes={"test_last": 1})[-1]
    assert (week.prescription.kind, week.prescription.sets, week.prescription.reps) == (ExposureKind.TEST, 1, 5)
    assert week.load.kg == 100, "120 ÷ (1 + 6 ÷ 30), five reps with one left"


@pytest.mark.parametrize("code", LOADED)
@given(
    room=rooms(),
    max_kg=maxima_kg,
    newcomer=st.booleans(),
    in_season=st.booleans(),
    hinge=st.booleans(),
    weeks=st.integers(1, 14),
    a_week=st.integers(1, 3),
)
def test_laws_of_every_plan(code, room, max_kg, newcomer, in_season, hinge, weeks, a_week) -> None:  # type: ignore[no-untyped-def]
    """Only loads this room has, never over a cap without a mark, the same input the same plan."""
    progression = PROGRESSIONS[code]
    a_week = a_week if progression.by_exposure else 1
    terms = some_terms(room=room, rig=room.bars[0], newcomer=newcomer, in_season=in_season, a_week=a_week)
    outline = progression.outline(progression.read({}), weeks, hinge, a_week)
    assert [p.week for p in outline] == list(range(weeks * a_week))
    plan = plan_weeks(outline, base(max_kg), terms)
    assert plan == plan_weeks(outline, base(max_kg), terms)
    weekly = 0.05 if newcomer else 0.025
    for week in plan:
        if week.load is None:
            assert week.offers
            continue
        assert week.load in terms.loads.loads
        implied = maximum_kg(week.load.kg, planned_reps(week.prescription, RULES), FORMULAS["epley"])
        over = implied > max_kg * (1 + weekly * (week.prescription.week / a_week + 1)) + 1e-3
        assert not over or week.breaks_cap or week.prescription.kind is ExposureKind.DELOAD


@pytest.mark.parametrize("code", LOADED)
@given(
    st.lists(st.tuples(st.integers(0, 20), st.one_of(st.none(), st.integers(0, 6)), st.integers(0, 10)), min_size=1, max_size=5),
    st.lists(st.tuples(st.sampled_from(["fixed_missed", "reset", "window_under", "stage_stay", "x"]), st.integers(0, 9)), max_size=5),
)  # fmt: skip
def test_no_history_raises_anything_over_pain_or_lost_depth(code, rows, past) -> None:  # type: ignore[no-untyped-def]
    sets = [
        a_set(
            set_id=n,
            reps=max(reps, 1),
            reps_to_depth=max(reps - (n % 2), 0),
            reserve_reps=left,
            pain=pain,
            pain_character="dull",
        )
        for n, (reps, left, pain) in enumerate(rows)
    ]
    asked = PROGRESSIONS[code].outline(PROGRESSIONS[code].read({}), 1)[0]
    done = Exposure(asked, 100.0, sets, past=[Past(reason, missing) for reason, missing in past], next_load_kg=102.5)
    decision = judge(code, done)
    if any(s.pain >= 4 for s in sets):
        assert decision.code is Code.STOP
    if any(s.pain or s.reps_to_depth < s.reps for s in sets):
        assert decision.code is not Code.UP
        assert decision.load_steps <= 0 and decision.steps == 0
        assert decision.planning_max_share <= 1 and decision.load_share <= 1
    assert decision == judge(code, done)


@pytest.mark.parametrize("code", LOADED)
@given(max_kg=maxima_kg, made=st.lists(st.booleans(), min_size=1, max_size=8))
def test_following_decisions_never_leaves_the_room_or_touches_a_week_that_is_over(code, max_kg, made) -> None:  # type: ignore[no-untyped-def]
    progression, terms = PROGRESSIONS[code], some_terms()
    parameters = progression.read({})
    outline = progression.outline(parameters, 12)
    coming, past = plan_weeks(outline, base(max_kg), terms), []
    for week, ok in enumerate(made):
        now = coming[0]
        assert now.prescription.week == week
        if now.load is None:
            return
        asked = now.prescription
        reps = asked.reps if ok else max(asked.reps - 2, 1)
        sets = [a_set(set_id=n, load_kg=now.load.kg, reps=reps, reserve_reps=2) for n in range(asked.sets)]
        done = Exposure(asked, now.load.kg, sets, past=tuple(past), answers=Answers(True, ok, ok))
        decision = progression.judge(done, parameters, RULES)
        if asked.kind is ExposureKind.WORK:
            past.append(Past(decision.reason, done.reps_missing))
        coming = coming[1:]
        if not decision.keeps:
            newest = Newest(max_kg, max_kg, Working())
            before = DoneExposure(asked, now.load.kg, now.planning_max_kg, TODAY)
            coming = follow(progression, parameters, outline, before, decision, newest, terms).weeks
        assert [w.prescription.week for w in coming] == list(range(week + 1, 12))
        assert all(w.load is None or w.load in terms.loads.loads for w in coming)
        following = next((w for w in coming if w.prescription.kind is ExposureKind.WORK), None)
        if decision.code is Code.DOWN and decision.load_share < 1 and following and following.load:
            assert following.load.kg < now.load.kg or following.prescription.wave > asked.wave
