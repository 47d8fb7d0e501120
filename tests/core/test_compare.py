"""Moved mass, usual windows, progressions compared, ratios of published tables."""

import csv
from pathlib import Path

import pytest

from backsquat.core.progression.compare import measure
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.terms import PlanBase
from backsquat.core.progression.usual_window import in_seconds, usual_window
from backsquat.core.sessions.order import Place
from backsquat.core.strength.formulas import FORMULAS, maximum_kg
from backsquat.core.working import Working
from backsquat.library.shelf import movements
from tests.factories import RULES, a_prescription, some_terms

ORACLES = Path(__file__).parents[1] / "oracles"


# --- moved mass, places, comparing, published tables


def test_a_movement_that_carries_the_body_is_planned_on_the_moved_mass() -> None:
    """Max 40 external with 45 carried: 85 ÷ (1 + 8 ÷ 30) = 67.1, less 45: 22.1 in all."""
    weeks = plan_weeks([a_prescription()], PlanBase(40.0, 40.0, Working()), some_terms(carried_kg=45.0))
    assert weeks[0].target_kg == pytest.approx(22.105, abs=0.01)
    assert weeks[0].load and weeks[0].load.kg == 22.5


@pytest.mark.parametrize(
    ("code", "place", "of", "main", "window"),
    [
        ("rear_raised_dumbbells", 0, 3, True, (4, 6)), ("rear_raised_dumbbells", 1, 3, True, (6, 10)),
        ("rear_raised_dumbbells", 2, 3, True, (10, 12)), ("rear_raised_dumbbells", 0, 3, False, (8, 15)),
        ("back_squat", 0, 3, True, (3, 6)), ("back_squat", 2, 3, True, (3, 6)), ("rear_raised_dumbbells", 2, 3, False, (10, 12)), ("romanian_deadlift", 0, 2, True, (6, 10)),
        ("ball_curl", 1, 2, False, (8, 30)), ("lying_curl", 1, 2, False, (8, 20)), ("calf_raise", 2, 3, False, (12, 20)),
        ("bench_thrust_bar", 0, 3, True, (8, 15)), ("nordic", 1, 3, False, (3, 6)), ("glute_ham", 2, 3, True, (3, 6)),
        ("groin_plank_long", 2, 3, False, (10, 20)), ("free_exploration", 0, 1, False, (180, 300)),
    ],
)  # fmt: skip
def test_the_place_in_the_session_sets_the_window(
    code: str, place: int, of: int, main: bool, window: tuple[int, int]
) -> None:
    found = usual_window(movements()[code], Place(place, of), main, RULES)
    assert (found.low, found.high) == window


def test_a_squat_that_comes_last_is_slow_and_lighter() -> None:
    found = usual_window(movements()["back_squat"], Place(2, 3, after_hips=True), True, RULES)
    assert (found.low, found.high) == (8, 12)
    second = usual_window(movements()["front_squat"], Place(1, 2), True, RULES)
    assert (second.low, second.high) == (3, 6), "the second squat of a day is not placed last"
    parameters = PROGRESSIONS["window"].read({"low": found.low, "high": found.high, **dict(found.changes)})
    assert parameters.tempo.startswith("4") and parameters.start_share == 0.85


def test_measures_of_a_progression_by_hand() -> None:
    terms, movement = some_terms(), movements()["back_squat"]
    progression = PROGRESSIONS["fixed"]
    weeks = plan_weeks(progression.outline(progression.read({}), 2), PlanBase(120.0, 120.0, Working()), terms)
    measured = measure(weeks, 120.0, movement, terms)
    first = measured.weeks[0]
    assert (first.load_kg, first.tonnage_kg) == (95, 95 * 4 * 5)
    assert first.relative == pytest.approx(95 / 120)
    assert first.back_cost == pytest.approx(4 * movement.back_index * 95 / 120)
    assert measured.end_kg == pytest.approx(95 * (1 + 8 / 30)), "95 × 5 with three left is more than 97.5 with two"
    legs = movements()["rear_raised_dumbbells"]
    assert measure(weeks, 120.0, legs, terms).weeks[0].tonnage_kg == 95 * 4 * 5 * 4, "two sides, two hands"


with (ORACLES / "percent_reps.csv").open() as file:
    PUBLISHED = list(csv.DictReader(row for row in file if not row.startswith("#")))


@pytest.mark.parametrize("row", PUBLISHED, ids=lambda row: f"{row['formula']}-{row['reps']}")
def test_percent_of_the_maximum_by_reps_equals_what_the_formulas_papers_give(row: dict[str, str]) -> None:
    share = 100 / maximum_kg(1, float(row["reps"]), FORMULAS[row["formula"]])
    assert share == pytest.approx(float(row["percent"]), abs=float(row["within"]))


def test_a_hold_stays_seconds_whatever_the_progression_counts() -> None:
    progression = PROGRESSIONS["window"]
    asked = progression.outline(progression.read({}), 1)[0]
    plank, curl = movements()["groin_plank_long"], movements()["lying_curl"]
    held = in_seconds(asked, plank)
    assert (held.reps, held.hold_s, held.low, held.high) == (1, plank.work.high, 0, 0)
    assert in_seconds(asked, curl) == asked
    own = PROGRESSIONS["holds"].outline(PROGRESSIONS["holds"].read({}), 1)[0]
    assert in_seconds(own, plank) == own, "a progression of holds counts seconds itself"
