"""When pain stops a movement and what it locks; the readiness check to the bar."""

import datetime as dt
from dataclasses import replace
from typing import Any

import pytest

from backsquat.core.movements.movement import Family, ReadinessCheck, Region
from backsquat.core.pain import Character, stops
from backsquat.core.readiness.absence import AwayReason, re_entry
from backsquat.core.readiness.checklist import (
    Candidacy,
    LineFact,
    LineState,
    Override,
    ReadinessCheckView,
    age_years,
    barbell_readiness_check,
    checklist,
    overhead_readiness_check,
    readiness_check_findings,
)
from backsquat.core.readiness.pain import locked_by, locks
from backsquat.core.readiness.screens import Result
from backsquat.library.shelf import movements
from tests.factories import RULES, TODAY


@pytest.mark.parametrize(("level", "stop"), [(0, False), (1, False), (3, False), (4, True), (10, True)])
def test_dull_pain_stops_from_the_line_on(level: int, stop: bool) -> None:
    assert stops(level, "dull", RULES) is stop


@pytest.mark.parametrize("character", [c for c in Character if c is not Character.DULL])
def test_every_other_character_stops_at_any_number(character: Character) -> None:
    assert stops(0, character, RULES)


@pytest.mark.parametrize("character", ["stabbing", "Sharp", " electric ", "burning", "NUMB", "?"])
def test_a_character_however_written_or_unknown_stops(character: str) -> None:
    assert stops(1, character, RULES)


@pytest.mark.parametrize("level", [float("nan"), float("inf"), -1, 11])
def test_a_level_that_is_no_level_stops(level: float) -> None:
    assert stops(level, "dull", RULES)


@pytest.mark.parametrize("written", ["dull", "Dull", " DULL ", ""])
def test_dull_is_dull_however_written(written: str) -> None:
    assert not stops(3, written, RULES) and stops(4, written, RULES)


@pytest.mark.parametrize(("by", "reason"), [("", "seen it"), ("R. Amari", " "), (" ", " ")])
def test_an_override_without_name_or_reason_opens_nothing(by: str, reason: str) -> None:
    signed = Override("R. Amari", TODAY, "seen it elsewhere")
    assert barbell_readiness_check(somebody(road_sessions=0, override=signed), TODAY, RULES).open
    assert not barbell_readiness_check(
        somebody(road_sessions=0, override=Override(by, TODAY, reason)), TODAY, RULES
    ).open


@pytest.mark.parametrize("why", ["flu", "illness", "injury", "pain stop", "Away"])
def test_coming_back_from_anything_but_plain_absence_needs_somebody_qualified(why: str) -> None:
    assert re_entry(20, 4, why, RULES).needs_clearance  # type: ignore[arg-type]
    assert not re_entry(20, 4, AwayReason.AWAY, RULES).needs_clearance


def test_a_squad_may_allow_no_discomfort_at_all_or_another_line() -> None:
    assert stops(1, "dull", replace(RULES, no_discomfort=1))
    assert not stops(0, "dull", replace(RULES, no_discomfort=1))
    assert stops(2, "dull", replace(RULES, pain_stop_level=2))


def test_a_stop_locks_the_family_and_whatever_loads_the_place() -> None:
    library = movements()
    locked = locked_by(library["back_squat"], Region.LOWER_BACK, library.values())
    for code, movement in library.items():
        assert (code in locked) == (movement.family is Family.SQUAT or Region.LOWER_BACK in movement.regions), code
    assert "romanian_deadlift" in locked and "ball_curl" not in locked
    assert "romanian_deadlift" not in locked_by(library["back_squat"], Region.GROIN, library.values())


def test_a_movement_made_after_the_stop_is_locked_too() -> None:
    later = replace(movements()["ball_curl"], code="own_new", regions=frozenset({Region.GROIN}))
    assert locks("back_squat", Family.SQUAT, "groin", later)
    assert not locks("back_squat", Family.SQUAT, "knee", replace(later, regions=frozenset({Region.HIP})))


def test_age_on_the_birthday() -> None:
    assert age_years(dt.date(2008, 11, 23), TODAY) == 18
    assert age_years(dt.date(2008, 11, 24), TODAY) == 17


SOUND = {
    "brace": 1, "standing_squat": 1, "squat_wedge": 20, "knees_track": 1, "pelvis": 1, "side_shift": 1,
    "deep_squat_hold": 15, "counterbalanced_squat": 15,
}  # fmt: skip


def somebody(values: dict[str, float] | None = None, **changes: Any) -> Candidacy:
    known = {(code, ""): Result(float(value), TODAY) for code, value in (SOUND if values is None else values).items()}
    facts: dict[str, Any] = {
        "known": known,
        "born_on": dt.date(2000, 1, 1),
        "consent": False,
        "stopped": False,
        "body_mass_kg": 60.0,
        "road_sessions": 8,
        "road_days": 27,
    }
    return Candidacy(**(facts | changes))


def state(view: ReadinessCheckView, code: str) -> LineState:
    return next(line.state for line in view.lines if line.code == code)


def test_every_line_on_its_boundary_opens_the_readiness_check() -> None:
    view = barbell_readiness_check(somebody(), TODAY, RULES)
    assert view.open and view.passed and not view.missing and not readiness_check_findings(view)


@pytest.mark.parametrize(
    ("line", "values"),
    [
        ("brace", {"brace": 0}), ("standing_squat", {"standing_squat": 0}), ("standing_squat", {"squat_wedge": 30}),
        ("knees_track", {"knees_track": 0}), ("pelvis", {"pelvis": 2}), ("side_shift", {"side_shift": 2}),
        ("deep_squat_hold", {"deep_squat_hold": 14}), ("counterbalanced_squat", {"counterbalanced_squat": 14}),
    ],
)  # fmt: skip
def test_one_line_short_keeps_it_shut_and_an_override_opens_it(line: str, values: dict[str, float]) -> None:
    who = somebody(SOUND | values)
    view = barbell_readiness_check(who, TODAY, RULES)
    assert not view.open and [missing.code for missing in view.missing] == [line]
    assert [finding.code for finding in readiness_check_findings(view)] == ["readiness_check_lines"]
    let = replace(who, override=Override("R. Amari", TODAY, "seen it elsewhere"))
    assert barbell_readiness_check(let, TODAY, RULES).open and not barbell_readiness_check(let, TODAY, RULES).passed


def test_what_was_never_tested_is_said_so_and_shuts_the_readiness_check() -> None:
    view = barbell_readiness_check(somebody({}), TODAY, RULES)
    assert not view.open
    assert {line.code for line in view.lines if line.state is LineState.NOT_TESTED} == {
        "brace",
        "standing_squat",
        "knees_track",
        "pelvis",
        "side_shift",
        "deep_squat_hold",
        "counterbalanced_squat",
    }


def test_time_on_the_road_or_a_witnessed_test() -> None:
    assert state(barbell_readiness_check(somebody(road_sessions=7), TODAY, RULES), "experience") is LineState.NOT_YET
    assert state(barbell_readiness_check(somebody(road_days=26), TODAY, RULES), "experience") is LineState.NOT_YET
    shown = somebody(SOUND | {"witnessed_test": 1}, road_sessions=0, road_days=0)
    assert barbell_readiness_check(shown, TODAY, RULES).open


def test_neither_a_stop_nor_a_minors_missing_consent_is_overridden() -> None:
    override = Override("R. Amari", TODAY, "in a hurry")
    child = {"born_on": dt.date(2010, 1, 1), "override": override}
    assert [f.code for f in readiness_check_findings(barbell_readiness_check(somebody(**child), TODAY, RULES))] == [
        "readiness_check_consent"
    ]
    assert [one.code for one in barbell_readiness_check(somebody(road_sessions=0, **child), TODAY, RULES).missing] == [
        "consent"
    ]
    assert barbell_readiness_check(somebody(**child, consent=True), TODAY, RULES).open
    stopped = barbell_readiness_check(somebody(stopped=True, override=override), TODAY, RULES)
    assert [f.code for f in readiness_check_findings(stopped)] == ["readiness_check_no_stop"]


def test_without_a_body_mass_the_counterbalance_is_not_judged() -> None:
    assert (
        state(barbell_readiness_check(somebody(body_mass_kg=None), TODAY, RULES), "counterbalanced_squat")
        is LineState.NOT_TESTED
    )


def test_the_overhead_readiness_check_needs_the_distance_too() -> None:
    wall = {"overhead_wall": 1.0}
    assert not overhead_readiness_check(somebody(wall), TODAY, RULES).open
    view = overhead_readiness_check(somebody(wall | {"wall_distance": 12, "overhead_wedge": 10}), TODAY, RULES)
    assert view.open and view.lines[0].found == LineFact("wall", {"cm": 12, "wedge_mm": 10})


def test_a_squad_may_ask_for_more() -> None:
    rules = replace(RULES, readiness_check_wedge_mm=0, readiness_check_hold_s=30)
    assert {line.code for line in barbell_readiness_check(somebody(), TODAY, rules).missing} == {
        "standing_squat",
        "deep_squat_hold",
    }


@pytest.mark.parametrize(
    ("age", "lifts", "passes"), [(27, False, True), (28, False, False), (28, True, True), (400, True, True)]
)
def test_screens_grow_old_for_whoever_has_not_lifted_since(age: int, lifts: bool, passes: bool) -> None:
    day = TODAY - dt.timedelta(days=age)
    known = {(code, ""): Result(1.0, day) for code in ("brace", "overhead_wall", "wall_distance", "standing_hinge")}
    who = Candidacy(known, dt.date(1998, 1, 1), True, False, lifts=lifts)
    for readiness_check in (ReadinessCheck.OVERHEAD, ReadinessCheck.PULL):
        view = checklist(readiness_check, who, TODAY, RULES)
        assert view.open is passes
        assert all(line.state is LineState.NOT_TESTED and line.found == LineFact("not_lately") for line in view.missing)
