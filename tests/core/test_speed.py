"""The speed of the bar: the drop across a set, the day's maximum by a line, worked by hand."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.errors import ImpossibleInput
from backsquat.core.movements.movement import Family
from backsquat.core.rules import Rules
from backsquat.core.strength.speed import day_maximum, drop_share, ends_at, jump_height_m, read_speeds, speed_at_maximum

RULES = Rules()


def test_points_on_a_line_are_read_off_without_a_doubt() -> None:
    # 1.4 m/s at no load, 1 cm/s less a kilogram: 0.32 m/s at 108 kg
    found = day_maximum([(40, (1.0, 0.97)), (60, (0.75, 0.8)), (80, (0.6,))], 0.32, RULES)
    assert found and (round(found.kg, 6), round(found.low_kg, 6), round(found.high_kg, 6)) == (108, 108, 108)
    assert found.loads == 3


def test_the_range_of_points_off_the_line() -> None:
    # by hand: slope −8.2/800, start 1.41833, off 0.028577; 2.78803 × √(4/3 + 47.154²/800) × 3.078 = 17.40
    found = day_maximum([(40, (1.02,)), (60, (0.78,)), (80, (0.61,))], 0.32, RULES)
    assert found and found.kg == pytest.approx(107.154, abs=0.001)
    assert found.low_kg == pytest.approx(107.154 - 17.403, abs=0.01)
    assert found.high_kg == pytest.approx(107.154 + 17.403, abs=0.01)


@pytest.mark.parametrize(
    "sets",
    [
        [(40, (1.0,)), (80, (0.6,))],  # two loads
        [(70, (0.7,)), (75, (0.65,)), (80, (0.6,))],  # too close together
        [(40, (0.6,)), (60, (0.7,)), (80, (0.8,))],  # heavier is faster: somebody holds back
        [(40, (0.35,)), (60, (0.33,)), (80, (0.2,))],  # lifted slower than a maximum already
        [],
    ],
)
def test_too_little_says_nothing(sets: list[tuple[float, tuple[float, ...]]]) -> None:
    assert day_maximum(sets, 0.32, RULES) is None


@given(
    max_kg=st.floats(60, 220), start_ms=st.floats(1.0, 1.8),
    shares=st.lists(st.sampled_from([0.3, 0.45, 0.6, 0.7, 0.8, 0.9]), min_size=3, max_size=6, unique=True),
)  # fmt: skip
def test_whoever_lifts_along_a_line_is_read_off_right(max_kg: float, start_ms: float, shares: list[float]) -> None:
    sets = [(share * max_kg, (start_ms - (start_ms - 0.32) * share,)) for share in shares]
    found = day_maximum(sets, 0.32, RULES)
    if min(shares) <= RULES.speed_spread * max(shares):
        assert found and math.isclose(found.kg, max_kg, rel_tol=1e-6)
    else:
        assert found is None


def test_a_set_is_over_at_the_rep_that_falls_too_far() -> None:
    speeds = (0.80, 0.82, 0.78, 0.73, 0.70)
    assert drop_share(speeds[:1]) == 0 and drop_share(()) == 0
    assert drop_share(speeds) == pytest.approx(1 - 0.70 / 0.82)
    assert ends_at(speeds, 0.10) == 4 and ends_at(speeds, 0.2) is None
    assert ends_at((0.8, 0.72), 0.1) == 2  # just so far is so far


def test_every_family_has_its_speed_and_a_jump_its_height() -> None:
    assert [speed_at_maximum(one, RULES) for one in (Family.SQUAT, Family.HINGE, Family.THRUST)] == [0.32, 0.15, 0.25]
    assert jump_height_m(0.5) == pytest.approx(0.3066, abs=0.0001)  # 9.81 × 0.25 ÷ 8


def test_what_is_no_speed_is_said_so() -> None:
    assert read_speeds("0.71 0,68") == (0.71, 0.68) and read_speeds(" ") == ()
    for text in ("fast", "0.7 -0.1", "0", "9", " ".join(["0.5"] * 41), "nan"):
        with pytest.raises(ValueError):
            read_speeds(text)
    with pytest.raises(ImpossibleInput):
        day_maximum([(40, (9.0,))], 0.32, RULES)
    with pytest.raises(ImpossibleInput):
        day_maximum([(float("nan"), (0.9,))], 0.32, RULES)
