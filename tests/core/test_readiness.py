"""When pain stops a movement and what it locks; the gate to the bar."""

import datetime as dt
from dataclasses import replace

import pytest

from backsquat.core.movements.movement import Region
from backsquat.core.readiness.gate import age_years, gate_findings
from backsquat.core.readiness.pain import Character, locked_by, stops
from backsquat.library.shelf import movements
from tests.factories import RULES, TODAY


@pytest.mark.parametrize(("level", "stop"), [(0, False), (1, False), (3, False), (4, True), (10, True)])
def test_dull_pain_stops_from_the_line_on(level: int, stop: bool) -> None:
    assert stops(level, "dull", RULES) is stop


@pytest.mark.parametrize("character", [c for c in Character if c is not Character.DULL])
def test_every_other_character_stops_at_any_number(character: Character) -> None:
    assert stops(0, character, RULES)


def test_a_squad_may_allow_no_discomfort_at_all_or_another_line() -> None:
    assert stops(1, "dull", replace(RULES, no_discomfort=1))
    assert not stops(0, "dull", replace(RULES, no_discomfort=1))
    assert stops(2, "dull", replace(RULES, pain_stop_level=2))


def test_a_stop_locks_the_family_and_whatever_loads_the_place() -> None:
    squat, hinge = movements()["back_squat"], movements()["romanian_deadlift"]
    assert locked_by(squat, Region.KNEE, movements().values()) == {squat.code}
    assert locked_by(squat, Region.LOWER_BACK, movements().values()) == {squat.code, hinge.code}
    assert locked_by(hinge, Region.THIGH_BACK, movements().values()) == {hinge.code}


def test_age_on_the_birthday() -> None:
    assert age_years(dt.date(2008, 11, 23), TODAY) == 18
    assert age_years(dt.date(2008, 11, 24), TODAY) == 17


@pytest.mark.parametrize(
    ("born", "shown", "consent", "codes"),
    [
        ("2000-01-01", True, False, []), ("2000-01-01", False, False, ["squat_not_shown"]),
        ("2010-01-01", True, False, ["no_consent"]), ("2010-01-01", True, True, []),
        ("2010-01-01", False, False, ["squat_not_shown", "no_consent"]),
    ],
)  # fmt: skip
def test_the_gate(born: str, shown: bool, consent: bool, codes: list[str]) -> None:
    found = gate_findings(
        shown_sound=shown, consent=consent, born_on=dt.date.fromisoformat(born), today=TODAY, rules=RULES
    )
    assert [finding.code for finding in found] == codes
