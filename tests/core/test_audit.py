"""The weekly check, worked by hand; ramps, rigs, bands; places and windows; comparing; ratios of published tables."""

import csv
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.bands import along_range
from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.ramp import needs_blocks, ramp_to
from backsquat.core.loads.rigs import rig_named, rigs_for
from backsquat.core.loads.room import Band, Bells, Rig, RigKind, Room, Stack
from backsquat.core.loads.rounding import grains, how_made
from backsquat.core.movements.movement import Muscle
from backsquat.core.progression.audit import Item, audit_week, count_week
from backsquat.core.progression.compare import measure
from backsquat.core.progression.place import usual_window
from backsquat.core.progression.plan import PlanBase, plan_weeks
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.strength.formulas import FORMULAS, maximum_kg
from backsquat.core.working import Working
from backsquat.library.shelf import movements
from tests.factories import BAR, RULES, a_prescription, a_room, some_terms

ORACLES = Path(__file__).parents[1] / "oracles"


def item(
    code: str, day: int = 0, sets: int = 3, left: int = 2, relative: float | None = 0.8, **changes: object
) -> Item:
    return Item(movements()[code], day, sets, left, relative, **changes)  # type: ignore[arg-type]


def codes(*items: Item, **rules: object) -> set[str]:
    return {finding.code for finding in audit_week(items, replace(RULES, **rules))}  # type: ignore[arg-type]


# --- the week


def test_sets_count_direct_fractional_and_squats_nothing_for_the_hamstrings() -> None:
    squat = movements()["back_squat"]
    assert Muscle.QUADS in squat.prime
    numbers = count_week([item("back_squat", sets=4), item("romanian_deadlift", 2, sets=3)], RULES)
    assert numbers.sets[Muscle.QUADS] == 4
    assert numbers.sets[Muscle.HAMSTRINGS] == 3, "the squat's share is nought"
    other = count_week([item("back_squat", sets=4)], replace(RULES, squat_hamstrings=0.5))
    expected = 2.0 if Muscle.HAMSTRINGS in (*squat.prime, *squat.helper) else 0
    assert other.sets.get(Muscle.HAMSTRINGS, 0) == expected
    assert (numbers.squat_sets, numbers.hinge_sets, numbers.curl_sets) == (4, 3, 0)


def test_a_set_with_more_than_four_left_is_not_hard() -> None:
    assert count_week([item("back_squat", left=5)], RULES).sets.get(Muscle.QUADS, 0) == 0
    assert count_week([item("back_squat", left=4)], RULES).sets[Muscle.QUADS] == 3


def test_hinges_without_a_curl_are_told_so() -> None:
    week = (item("back_squat"), item("romanian_deadlift", 2))
    assert "no_curl" in codes(*week)
    assert "no_curl" not in codes(*week, item("ball_curl", 2))


def test_hinge_heavy_weeks_want_the_shortened_end() -> None:
    lengths = {code: movements()[code].length.value for code in ("lying_curl", "seated_curl")}
    assert lengths == {"lying_curl": "shortened", "seated_curl": "stretched"}
    heavy = (item("back_squat"), item("romanian_deadlift", 0, 3), item("romanian_deadlift", 2, 3))
    assert "curl_not_short" in codes(*heavy, item("seated_curl", 2))
    assert "curl_not_short" not in codes(*heavy, item("lying_curl", 2))
    assert "no_stretch" in codes(item("back_squat"), item("lying_curl", 2))


@pytest.mark.parametrize(("sets", "flagged"), [(4, False), (5, True)])
def test_hard_hinge_sets_of_a_session_that_never_touch_the_floor(sets: int, flagged: bool) -> None:
    assert ("hinge_session" in codes(item("romanian_deadlift", 1, sets))) is flagged
    assert "hinge_session" not in codes(item("deadlift", 1, 6))


def test_the_back_index_by_hand() -> None:
    """Romanian deadlift: sets × its index × share of the planning max."""
    index = movements()["romanian_deadlift"].back_index
    numbers = count_week(
        [item("romanian_deadlift", 1, 5, relative=0.8), item("back_squat", 2, 4, relative=None)], RULES
    )
    assert numbers.back_by_day[1] == pytest.approx(5 * index * 0.8)
    assert numbers.back_by_day[2] == pytest.approx(4 * movements()["back_squat"].back_index * 0.6)
    heavy = [item("good_morning", 1, 8, relative=0.8), item("good_morning", 2, 8, relative=0.8)]
    assert {"back_session", "back_running"} <= codes(*heavy, back_session=10, back_high_day=8)
    assert "back_week" in codes(*heavy, back_week=20)
    assert "back_little" in codes(item("back_squat"), back_target_low=30)


def test_ranges_are_the_squads_own_and_an_easy_week_is_not_scolded_for_few_sets() -> None:
    week = (item("back_squat", sets=4), item("romanian_deadlift", 2), item("ball_curl", 2))
    assert "sets_low" in codes(*week)
    low = {f"sets_{name}_low": 0 for name in ("hamstrings", "quads", "glutes", "adductors", "calves")}
    assert "sets_low" not in codes(*week, **low)
    assert "sets_high" in codes(*week, **low, sets_quads_high=3)
    assert "sets_low" not in codes(*(replace(one, easy=True) for one in week))
    assert audit_week([], RULES) == []


def test_strain_counts_what_the_sport_asks_already() -> None:
    week = [item("front_squat", day, 6) for day in range(4)]
    assert "strain" in codes(*week, sport_knee_strain=3, strain_week=60)
    assert "strain" not in codes(*week, sport_knee_strain=0, sport_groin_strain=0, strain_week=200)


@given(
    st.lists(
        st.tuples(
            st.sampled_from(sorted(movements())), st.integers(0, 6), st.integers(1, 8), st.integers(0, 6)
        ),
        max_size=12,
    )
)
def test_any_week_is_judged_the_same_twice_and_gravest_first(rows) -> None:  # type: ignore[no-untyped-def]
    items = [item(code, day, sets, left) for code, day, sets, left in rows]
    found = audit_week(items, RULES)
    assert found == audit_week(items, RULES)
    order = ["stop", "watch", "note"]
    assert [order.index(f.severity) for f in found] == sorted(order.index(f.severity) for f in found)
    assert all(cost >= 0 for cost in count_week(items, RULES).back_by_day.values())


# --- every implement


def kitted() -> Room:
    return replace(
        a_room(),
        dumbbells=(Bells(Mass.of("10"), 2), Bells(Mass.of("12.5"), 2), Bells(Mass.of("40"), 1)),
        kettlebells=(Bells(Mass.of("16"), 1), Bells(Mass.of("24"), 1)),
        stacks=(Stack("lying_curl", "Lying curl", Mass.of(5), Mass.of(5), Mass.of(20), Mass.of("2.5")),),
        bands=(Band("thin", Mass.of(5), Mass.of(15)), Band("thick", Mass.of(15), Mass.of(35))),
    )


@pytest.mark.parametrize(
    ("code", "kinds", "loads"),
    [
        ("rear_raised_dumbbells", ["dumb-bells"], ["0", "10", "12.5"]),
        ("goblet_squat", ["dumb-bell", "kettlebell", "plate"], ["0", "10", "12.5", "40"]),
        ("lying_curl", ["stack"], ["5", "7.5", "10", "12.5", "15", "17.5", "20", "22.5"]),
        ("nordic_band", ["band"], ["-35", "-15", "0"]),
        ("back_squat", ["bar", "bar"], None),
    ],
)  # fmt: skip
def test_what_each_movement_is_loaded_with(code: str, kinds: list[str], loads: list[str] | None) -> None:
    room = kitted()
    rigs = rigs_for(movements()[code], room)
    assert [rig.kind.value for rig in rigs] == kinds
    if loads:
        assert [load.total.text for load in loads_on(room, rigs[0]).loads] == loads


def test_a_bare_room_has_nothing_for_a_machine_and_a_gone_rig_falls_back() -> None:
    assert rigs_for(movements()["lying_curl"], a_room()) == ()
    assert rig_named(movements()["lying_curl"], a_room(), "x") is None
    assert rig_named(movements()["back_squat"], a_room(), "gone") == BAR
    trap = replace(a_room(), bars=(BAR, Rig("trap", "Trap bar", Mass.of(25), RigKind.TRAP_BAR)))
    assert [rig.code for rig in rigs_for(movements()["trap_bar_deadlift"], trap)] == ["trap"]
    assert "trap" not in [rig.code for rig in rigs_for(movements()["back_squat"], trap)]


def test_how_a_load_is_taken_is_said_for_each_implement() -> None:
    room = kitted()

    def words(code: str, kg: float) -> tuple[str, str]:
        rig = rigs_for(movements()[code], room)[0]
        step = how_made(loads_on(room, rig).nearest(grains(kg)))
        return step.label, step.output

    assert words("rear_raised_dumbbells", 12) == ("Take", "2 × 12.5")
    assert words("lying_curl", 15) == ("Take", "pin at 15")
    assert words("back_squat", 60)[0] == "Each side"


def test_sensible_steps_skip_tiny_ones() -> None:
    tiny = loads_on(room := a_room({"10": 3, "0.25": 4}), room.bars[0])
    assert tiny.climbed(40, 1, 0.0).kg == 40.5
    assert tiny.climbed(40, 1, 0.02).kg == 41
    assert tiny.climbed(40, -1, 0.0).kg == 22 and tiny.climbed(20, -1, 0.01).kg == 20
    assert tiny.climbed(999, 1, 0.01) == tiny.loads[-1]


def test_pounds_stay_pounds_on_every_rig() -> None:
    room = Room("lb", Unit.LB, (), (), dumbbells=(Bells(Mass.of(35, Unit.LB), 2),))
    rig = rigs_for(movements()["rear_raised_dumbbells"], room)[0]
    heaviest = loads_on(room, rig).loads[-1]
    assert (heaviest.total.text, heaviest.total.unit) == ("35", Unit.LB)


def test_a_band_helps_most_at_the_bottom_or_adds_most_at_the_top() -> None:
    band = Band("thick", Mass.of(15), Mass.of(35))
    helped, added = along_range(100, band, helps=True), along_range(100, band, helps=False, bands=2)
    assert (helped.bottom_kg, helped.top_kg) == (65, 85)
    assert (added.bottom_kg, added.top_kg) == (130, 170)


def test_a_ramp_climbs_by_loads_that_exist_and_skips_what_coincides() -> None:
    room = a_room()
    loads = loads_on(room, BAR)
    ramp = ramp_to(loads.nearest(grains(100)), loads)
    assert [(one.load.total.text, one.reps) for one in ramp] == [("20", 8), ("50", 5), ("70", 3), ("85", 2)]
    assert [one.load.total.text for one in ramp_to(loads.nearest(grains(25)), loads)] == ["20"]
    assert ramp_to(loads.empty, loads) == ()
    assert ramp_to(loads.nearest(grains(100)), loads, from_floor=True)[0].note == "held_high"
    hand = loads_on(kitted(), rigs_for(movements()["rear_raised_dumbbells"], kitted())[0])
    assert ramp_to(hand.loads[-1], hand) == ()


def test_a_pull_from_the_floor_needs_a_plate_of_full_diameter() -> None:
    room = a_room({"5": 2})
    small = replace(room, plates=tuple(replace(plate, diameter_mm=230) for plate in room.plates))
    assert needs_blocks(loads_on(small, BAR).nearest(grains(30)), small)
    assert not needs_blocks(loads_on(room, BAR).nearest(grains(30)), room)


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
        ("back_squat", 0, 3, True, (3, 6)), ("back_squat", 2, 3, True, (8, 12)), ("romanian_deadlift", 0, 2, True, (6, 10)),
        ("ball_curl", 1, 2, False, (8, 30)), ("lying_curl", 1, 2, False, (8, 20)), ("calf_raise", 2, 3, False, (12, 20)),
        ("bench_thrust_bar", 0, 3, True, (8, 15)),
    ],
)  # fmt: skip
def test_the_place_in_the_session_sets_the_window(
    code: str, place: int, of: int, main: bool, window: tuple[int, int]
) -> None:
    found = usual_window(movements()[code], place, of, main)
    assert (found.low, found.high) == window


def test_a_squat_that_comes_last_is_slow_and_lighter() -> None:
    found = usual_window(movements()["back_squat"], 2, 3, True)
    parameters = SCHOOLS["window"].read({"low": found.low, "high": found.high, **dict(found.changes)})
    assert parameters.tempo.startswith("4") and parameters.start_share == 0.85


def test_measures_of_a_school_by_hand() -> None:
    terms, movement = some_terms(), movements()["back_squat"]
    school = SCHOOLS["fixed"]
    weeks = plan_weeks(school.outline(school.read({}), 2), PlanBase(120.0, 120.0, Working()), terms)
    measured = measure(weeks, 120.0, movement, terms)
    first = measured.weeks[0]
    assert (first.load_kg, first.tonnage_kg) == (95, 95 * 4 * 5)
    assert first.relative == pytest.approx(95 / 120)
    assert first.back_cost == pytest.approx(4 * movement.back_index * 95 / 120)
    assert measured.end_kg == pytest.approx(97.5 * 1.2), "97.5 × 5 with one left"
    legs = movements()["rear_raised_dumbbells"]
    assert measure(weeks, 120.0, legs, terms).weeks[0].tonnage_kg == 95 * 4 * 5 * 4, "two sides, two hands"


with (ORACLES / "percent_reps.csv").open() as file:
    PUBLISHED = list(csv.DictReader(row for row in file if not row.startswith("#")))


@pytest.mark.parametrize("row", PUBLISHED, ids=lambda row: f"{row['formula']}-{row['reps']}")
def test_percent_of_the_maximum_by_reps_equals_what_the_formulas_papers_give(row: dict[str, str]) -> None:
    share = 100 / maximum_kg(1, float(row["reps"]), FORMULAS[row["formula"]])
    assert share == pytest.approx(float(row["percent"]), abs=float(row["within"]))
