"""The filter: against brute force, what may move it and how far, and that what it says comes true."""

import datetime as dt
import math
import random
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.movements.movement import Family
from backsquat.core.rules import Rules
from backsquat.core.strength.belief import NORMAL, Belief, beliefs_of, believe, on_day
from backsquat.core.strength.chance import KnownStrength, last_set_reps
from backsquat.core.strength.current import believed_value, current_estimate
from backsquat.core.strength.estimate import Trust
from backsquat.core.strength.record import Effort, SetRecord
from tests.factories import RULES, TODAY, a_set

ONE_NUMBER = replace(RULES, curve_spread=0.0, reserve_bias_spread=0.0, day_spread=0.0, gain_trained=0.0)


def days_ago(days: int) -> dt.date:
    return TODAY - dt.timedelta(days=days)


def value(sets: list[SetRecord], rules: Rules = RULES, today: dt.date = TODAY):  # type: ignore[no-untyped-def]
    estimate = current_estimate(sets, today, rules)
    assert estimate is not None
    return estimate.value


def after(sets: list[SetRecord], rules: Rules = RULES) -> Belief:
    return beliefs_of(sets, rules)[-1][1]


# --- against brute force: one number, every maximum there may be, weighed by what the sets say


def by_grid(sets: list[SetRecord], rules: Rules) -> tuple[float, float]:
    """Mean and spread of ln max by weighing 8,000 maxima: the first set widely, then each set's own likelihood."""
    grid = [math.log(60) + n * (math.log(240) - math.log(60)) / 8_000 for n in range(8_000)]
    start = math.log(sets[0].load_kg * (1 + (sets[0].reps + (sets[0].reserve_reps or 0)) / 30))
    weights = [NORMAL.pdf((x - start) / 0.25) for x in grid]
    for n, record in enumerate(sets):
        left = min(record.reserve_reps or 0, rules.belief_reserve_reps)
        at_least = record.reserve_reps is None or (record.reserve_reps or 0) > left
        reps = record.reps + left + min(n * rules.tired_a_set, rules.tired_most)
        spread = rules.reserve_error_reps + rules.reserve_error_grows * left
        for i, x in enumerate(grid):
            able = 30 * (math.exp(x) / record.load_kg - 1)
            off = (able - reps) / spread
            weights[i] *= NORMAL.cdf(off) if at_least else NORMAL.pdf(off)
    total = sum(weights)
    mean = sum(x * w for x, w in zip(grid, weights, strict=True)) / total
    return mean, math.sqrt(sum((x - mean) ** 2 * w for x, w in zip(grid, weights, strict=True)) / total)


@pytest.mark.parametrize(
    "sets",
    [
        [(100, 5, 1)],
        [(100, 5, 1), (100, 5, 1), (100, 5, 0)],
        [(100, 5, 2), (102.5, 4, 1), (97.5, 7, 1)],
        [(100, 5, 1), (100, 8, None)],
        [(100, 5, 1), (90, 8, 8)],
    ],
)
def test_with_one_number_the_filter_is_the_brute_force(sets: list[tuple[float, int, int | None]]) -> None:
    records = [a_set(set_id=n, load_kg=kg, reps=reps, reserve_reps=left) for n, (kg, reps, left) in enumerate(sets, 1)]
    belief, (mean, spread) = after(records, ONE_NUMBER), by_grid(records, ONE_NUMBER)
    assert belief.mean[0] == pytest.approx(mean, abs=0.006)
    assert belief.sd == pytest.approx(spread, rel=0.25)


# --- the findings


def test_one_set_with_plenty_left_among_seven_firm_days_moves_it_little() -> None:
    firm = [a_set(set_id=n, done_on=days_ago(30 - 4 * n)) for n in range(7)]
    lucky = a_set(set_id=9, reps=8, reserve_reps=6)
    found = value([*firm, lucky])
    assert value(firm).max_kg <= found.max_kg < 124, "by the set alone 140"


def test_what_was_tested_long_ago_is_wide_and_stale_whatever_nobody_rated_since() -> None:
    tested = a_set(set_id=1, done_on=days_ago(150))
    unrated = [a_set(set_id=2 + n, done_on=days_ago(147 - 7 * n), load_kg=80, reserve_reps=None) for n in range(21)]
    fresh, old = value([tested], today=days_ago(150)), value([tested, *unrated])
    assert old.stale and not fresh.stale
    assert old.high_kg - old.low_kg > 1.6 * (fresh.high_kg - fresh.low_kg)
    assert old.trust < fresh.trust is Trust.GOOD
    assert abs(old.max_kg - fresh.max_kg) < 2


def test_a_single_and_near_failure_say_more_than_many_left() -> None:
    single = value([a_set(load_kg=120, reps=1, reserve_reps=0)])
    many = value([a_set(load_kg=90, reps=6, reserve_reps=4)])
    assert single.spread < many.spread
    assert single.max_kg == pytest.approx(120, abs=0.5)


def test_sets_of_one_day_are_not_days() -> None:
    one_day = [a_set(set_id=n) for n in range(4)]
    four_days = [a_set(set_id=n, done_on=days_ago(9 - 3 * n)) for n in range(4)]
    assert after(one_day).spread[0][0] > after(four_days).spread[0][0] - RULES.max_drift_week**2


def test_hinges_are_wider() -> None:
    squat, hinge = (value([a_set(family=family)]) for family in (Family.SQUAT, Family.HINGE))
    assert hinge.spread > squat.spread


@pytest.mark.parametrize(
    "changes", [{"pain": 6, "pain_character": "sharp"}, {"breaking_fault": "x"}, {"supported": True}, {"reps": 21}]
)
def test_what_says_nothing_moves_nothing(changes: dict[str, object]) -> None:
    known = after([a_set(set_id=1)])
    assert believe(known, a_set(set_id=2, load_kg=140, **changes), RULES) == (known, 0.0)


def test_a_curve_is_learnt_from_light_and_heavy_sets_and_slowly() -> None:
    chance, sets = random.Random(1), []
    for n in range(60):  # somebody whose reps cost little: 4 at 108, 12 at 98, of 120
        kg, reps = ((108, 4), (98, 12))[n % 2]
        left = chance.choice((0, 1, 1, 2))
        sets.append(a_set(set_id=n, done_on=days_ago(200 - 3 * n), load_kg=kg, reps=reps - left, reserve_reps=left))
    few, many = after(sets[:4]), after(sets)
    assert many.curve < few.curve < 1.0
    assert many.curve < 0.9


def test_who_always_says_two_too_many_is_believed_less() -> None:
    sets = []
    for n in range(60):  # sets to failure now and then show what was truly left
        fails = n % 3 == 0
        sets.append(
            a_set(set_id=n, done_on=days_ago(200 - 3 * n), reps=6 if fails else 4, reserve_reps=0 if fails else 4)
        )
    assert after(sets).mean[3] > 0.2


@given(st.lists(st.tuples(st.integers(0, 60), st.floats(40, 160), st.integers(1, 20), st.one_of(st.none(), st.integers(0, 10)), st.booleans()), min_size=1, max_size=25))  # fmt: skip
def test_no_history_breaks_it_and_more_than_expected_never_lowers_it(rows) -> None:  # type: ignore[no-untyped-def]
    sets = [
        a_set(set_id=n, done_on=days_ago(age), load_kg=kg, reps=reps, reserve_reps=left, effort=Effort.DELOAD if deload else Effort.WORK)
        for n, (age, kg, reps, left, deload) in enumerate(rows)
    ]  # fmt: skip
    for record, belief, share in beliefs_of(sets, RULES):
        assert math.isfinite(belief.mean[0]) and 0 <= share <= 1
        assert 0 < belief.spread[0][0] < 1 and all(belief.spread[i][i] >= 0 for i in range(4))
        assert Belief.from_plain(belief.to_plain()) == belief
        today = on_day(belief, record.done_on, RULES)
        better = replace(
            record, set_id=999, load_kg=math.exp(today.mean[0]) * 1.05, reps=1, reps_to_depth=1, reserve_reps=0
        )
        assert believe(today, better, RULES)[0].mean[0] >= today.mean[0]  # type: ignore[union-attr]


def test_the_order_in_which_sets_are_read_does_not_matter_and_they_may_come_one_by_one() -> None:
    sets = [a_set(set_id=n, done_on=days_ago(20 - n // 3), reserve_reps=n % 4) for n in range(12)]
    belief = None
    for record in sets:
        belief, _ = believe(belief, record, RULES)
    assert belief == after(sets[::-1]) == after(sets)


def test_the_body_is_in_what_is_moved() -> None:
    found = value([a_set(load_kg=20, carried_kg=60, reps=5, reserve_reps=1)])
    assert found.max_kg == pytest.approx(80 * 1.2 - 60, abs=0.1)
    assert found.low_kg < found.max_kg < found.high_kg


# --- chances


def known_of(*sets: SetRecord) -> KnownStrength:
    return believed_value(after(list(sets)), 0.0, TODAY, RULES).known


def test_a_chance_and_the_load_for_it_are_each_others_inverse() -> None:
    known = known_of(a_set())
    for chance in (0.5, 0.8, 0.95):
        kg = known.most_kg(chance, 6, 4, 0, 0.0, RULES)
        assert known.chance(kg, 6, 4, 0, 0.0, RULES) == pytest.approx(chance)


def test_a_maximum_is_made_every_other_time_and_more_reps_sets_or_doubt_make_less() -> None:
    known = known_of(*[a_set(set_id=n, done_on=days_ago(9 - n)) for n in range(9)])
    assert known.chance(math.exp(known.level), 1, 1, 0, 0.0, RULES) == pytest.approx(0.5)
    usual = known.chance(95, 5, 4, 0, 0.0, RULES)
    assert usual > known.chance(95, 6, 4, 0, 0.0, RULES) and usual > known.chance(97.5, 5, 4, 0, 0.0, RULES)
    assert known.chance(95, 5, 1, 0, 0.0, RULES) > usual
    assert usual > replace(known, variance=0.01).chance(95, 5, 4, 0, 0.0, RULES)
    assert last_set_reps(5, 4, RULES) == pytest.approx(5 - 0.5 + 3 * RULES.tired_a_set)


def test_what_is_left_is_what_the_load_leaves() -> None:
    known = known_of(a_set())
    assert known.left(100, 5, 0, 0.0, RULES) == pytest.approx(1, abs=0.1)
    assert known.left(80, 5, 0, 0.0, RULES) == pytest.approx(10, abs=0.2)


def test_until_something_firm_was_shown_the_most_that_was_shown_is_believed() -> None:
    light = [a_set(set_id=n, load_kg=kg, reserve_reps=None) for n, kg in enumerate((40, 80, 60))]
    assert value(light).max_kg == pytest.approx(80 * (1 + 5 / 30))
    assert value(light).stale and not value(light).firm
    assert value([*light, a_set(set_id=9)]).max_kg == pytest.approx(120, abs=0.1)


def test_the_same_at_least_said_twice_in_a_day_is_said_once() -> None:
    """ "This or more" says nothing new of itself: sets alike are no proofs of an ever higher maximum."""
    firm = [a_set(set_id=n, done_on=days_ago(21 - 7 * n), load_kg=100, reserve_reps=1) for n in range(3)]
    more = a_set(set_id=9, load_kg=130, reps=5, reserve_reps=None, reps_to_depth=5)
    once, share = believe(after(firm), more, RULES)
    assert share > 0 and once.max_kg(0.0) > after(firm).max_kg(0.0)
    again, none = believe(once, replace(more, set_id=10), RULES)
    assert none == 0 and again.mean[0] == once.mean[0]


# --- only what was said


WEEKS = [a_set(set_id=n, done_on=days_ago(120 - 7 * n), load_kg=100, reserve_reps=2) for n in range(4)]


def test_the_first_firm_set_forgets_nothing_that_was_moved_before_it() -> None:
    """A heavy set nobody rated, then a light one that was: the maximum is not below the heavy one."""
    heavy = a_set(set_id=1, load_kg=80, reps=3, reserve_reps=None)
    light = a_set(set_id=2, load_kg=40, reps=5, reserve_reps=2)
    assert after([heavy, light]).max_kg(0.0) >= 80 - 1e-9


def test_a_larger_surprise_never_moves_the_maximum_less_and_what_was_moved_is_its_least() -> None:
    known = after([a_set(set_id=n, done_on=days_ago(21 - 7 * n), load_kg=100, reserve_reps=1) for n in range(3)])
    for reps in (1, 3, 5):
        found = []
        for kg in range(100, 200, 5):
            surprise = a_set(set_id=9, load_kg=kg, reps=reps, reserve_reps=0)
            belief, _ = believe(known, surprise, RULES)
            assert belief and math.exp(belief.mean[0]) >= kg - 1e-9, (reps, kg)
            found.append(round(belief.mean[0], 5))
        assert found == sorted(found), reps
    single, _ = believe(known, a_set(set_id=9, load_kg=150, reps=1, reserve_reps=0), RULES)
    again, _ = believe(single, a_set(set_id=10, load_kg=90, reps=3, reserve_reps=0), RULES)
    assert single and again and math.exp(again.mean[0]) >= 150 - 1e-9, "nor by a tired set after it"
    later = on_day(again, TODAY + dt.timedelta(days=RULES.estimate_window_days), RULES)
    weak, _ = believe(later, a_set(set_id=11, load_kg=90, reps=3, reserve_reps=0, done_on=later.day), RULES)
    assert weak and math.exp(weak.mean[0]) < 150, "not for ever: only as long as a record is new"


@pytest.mark.parametrize("asked", [(None, None), (5, 2)])
def test_equal_sessions_that_nobody_rated_lift_nobody(asked: tuple[int | None, int | None]) -> None:
    before = after(WEEKS)
    sets = [
        a_set(set_id=10 + n, done_on=days_ago(92 - 7 * (n // 4)), load_kg=100, reps=5, reserve_reps=None, asked_reps=asked[0], asked_reserve=asked[1])
        for n in range(52)
    ]  # fmt: skip
    steps = beliefs_of([*WEEKS, *sets], RULES)
    assert steps[-1][1].max_kg(0) <= before.max_kg(0) * 1.012, (
        "no more than the gain of the week after the last rated day"
    )


def test_made_as_asked_says_weakly_and_both_ways_what_was_asked() -> None:
    known = after(WEEKS)
    made = {"load_kg": 100, "reps": 5, "reserve_reps": None, "asked_reps": 5, "done_on": days_ago(98)}
    more, _ = believe(known, a_set(set_id=20, asked_reserve=6, **made), RULES)
    less, _ = believe(known, a_set(set_id=20, asked_reserve=0, **made), RULES)
    said, _ = believe(known, a_set(set_id=20, **(made | {"reserve_reps": 6})), RULES)
    assert more and less and said
    assert less.mean[0] < on_day(known, days_ago(98), RULES).mean[0] < more.mean[0] < said.mean[0]
    assert not (more.newest_on > known.newest_on), "nothing firm was shown"


def test_reps_that_fall_short_of_those_asked_mean_none_were_left() -> None:
    known = after(WEEKS)
    short = {"load_kg": 100, "reps": 3, "reserve_reps": None, "asked_reserve": 2, "done_on": days_ago(98)}
    fell, _ = believe(known, a_set(set_id=20, asked_reps=5, **short), RULES)
    nought, _ = believe(known, a_set(set_id=20, **(short | {"reserve_reps": 0})), RULES)
    unknown, _ = believe(known, a_set(set_id=20, **(short | {"asked_reserve": None})), RULES)
    assert fell and nought and unknown
    assert fell.mean == nought.mean and fell.mean[0] < known.mean[0]
    assert unknown.mean[0] >= known.mean[0], "three reps of nobody knows how many lower nothing"
