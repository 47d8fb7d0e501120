"""Defaults: named, bounded, sourced; working and numbers as a coach reads them."""

import pytest

from backsquat.core.errors import ImpossibleInput
from backsquat.core.rules import Rules, lines, parse, with_changes
from backsquat.core.working import Step, Working, plain, signed


def test_every_default_has_meaning_source_and_unit_and_lies_in_its_bounds() -> None:
    for line in lines(Rules()):
        assert line.meaning and line.source and line.unit
        if not line.choices:
            assert line.low <= line.default <= line.high
            assert parse(line.name, str(line.default)) == line.default


@pytest.mark.parametrize(
    ("name", "text", "code"),
    [
        ("reserve_cap_reps", "4.5", "not_whole"), ("reserve_cap_reps", "9", "out_of_range"),
        ("step_cap", "much", "not_a_number"),
        ("step_cap", "nan", "not_a_number"), ("formula", "guess", "not_a_choice"), ("nonsense", "1", "unknown_rule"),
    ],
)  # fmt: skip
def test_values_out_of_bounds_are_refused(name: str, text: str, code: str) -> None:
    with pytest.raises(ImpossibleInput) as caught:
        parse(name, text)
    assert caught.value.problems[0].code == code


def test_a_squads_changes_stand_in_place_of_defaults() -> None:
    assert with_changes({"step_cap": 0.05, "gone": 1}).step_cap == 0.05
    assert parse("caution_newcomer", "0,9") == 0.9


def test_numbers_as_written_by_a_coach() -> None:
    assert [plain(n) for n in (107.5, 100.0, -0.04, -2.5)] == ["107.5", "100", "0", "−2.5"]
    assert (signed(2.5), signed(-2.5)) == ("+2.5", "−2.5")


def test_working_survives_as_plain_data() -> None:
    working = Working((Step("estimate", {"load_kg": 105.0, "reps": 7, "formula": "epley"}, 129.5, "kg"),))
    assert Working.from_plain(working.to_plain()) == working
