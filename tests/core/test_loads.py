"""Loads that exist: exact masses, bounded subset sums, rounding, plate changes."""

from decimal import Decimal
from itertools import combinations, product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.loads.achievable import loads_at_most, loads_on
from backsquat.core.loads.bands import next_band
from backsquat.core.loads.ceilings import Ceiling, CeilingKind, round_under
from backsquat.core.loads.changes import arranged, plate_change
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.room import Band, Bar, Room
from backsquat.core.loads.rounding import Rounding, eased_load, grains, how_made, offers_under_bar, round_load
from tests.factories import BAR, LIGHT_BAR, a_room
from tests.strategies import rooms, targets_kg


def brute_force(room: Room) -> dict[int, int]:
    """Every total in grains that some choice of plates makes, with the fewest plates a side for it."""
    base = room.bars[0].mass.grains + room.collars.grains
    found: dict[int, int] = {}
    for counts in product(*(range(plate.pairs + 1) for plate in room.plates)):
        total = base + 2 * sum(n * plate.mass.grains for n, plate in zip(counts, room.plates, strict=True))
        found[total] = min(found.get(total, 99), sum(counts))
    return found


def test_a_mass_keeps_its_unit_and_compares_exactly() -> None:
    assert Mass.of(185, Unit.LB).text == "185"
    assert Mass.of("0.01", Unit.LB).grains * 100 == Mass.of(1, Unit.LB).grains == 4_535_923_700
    assert sum(Mass.of("0.1").grains for _ in range(10)) == Mass.of(1).grains


@pytest.mark.parametrize(("amount", "unit"), [("0.0001", Unit.KG), ("1.255", Unit.LB)])
def test_a_mass_finer_than_any_scale_is_refused(amount: str, unit: Unit) -> None:
    with pytest.raises(ValueError, match="finer"):
        Mass.of(amount, unit)


@given(rooms())
def test_the_bound_on_the_number_of_loads_holds(room: Room) -> None:
    assert len(brute_force(room)) <= loads_at_most(room.plates)


def test_greedy_would_be_wrong_with_limited_stock() -> None:
    room = a_room({"20": 1, "15": 2})
    assert [mass.text for mass in loads_on(room, BAR).nearest(grains(80)).side] == ["15", "15"]


def test_largest_inside_and_fewest_plates() -> None:
    load = loads_on(a_room(), BAR).nearest(grains(107.5))
    assert [mass.text for mass in load.side] == ["25", "15", "2.5", "1.25"]


@given(rooms())
def test_all_loads_and_only_those_exist_with_fewest_plates(room: Room) -> None:
    loads = loads_on(room, room.bars[0])
    assert {g: len(load.side) for g, load in zip(loads.grains, loads.loads, strict=True)} == brute_force(room)
    for load in loads.loads:
        assert sorted(load.side, key=lambda mass: -mass.grains) == list(load.side)
        for plate in room.plates:
            assert load.side.count(plate.mass) <= plate.pairs


@given(rooms(), targets_kg)
def test_what_is_proposed_can_be_loaded_and_nothing_is_closer(room: Room, target: float) -> None:
    all_totals, wanted = brute_force(room), grains(target)
    rounded = round_load(target, room, room.bars[0])
    if wanted < min(all_totals):
        assert rounded is None  # never silently rounded up to the bar
        return
    assert rounded is not None
    chosen = room.bars[0].mass.grains + room.collars.grains + 2 * sum(m.grains for m in rounded.load.side)
    assert chosen in all_totals
    best = min(abs(total - wanted) for total in all_totals)
    assert abs(chosen - wanted) == best
    assert chosen == min(total for total in all_totals if abs(total - wanted) == best)  # a tie goes down
    down = round_load(target, room, room.bars[0], Rounding.DOWN)
    assert down is not None
    assert grains(down.load.kg) <= wanted + 100
    assert down.load.kg == pytest.approx(max(t for t in all_totals if t <= wanted) / 10**10, abs=0.006)


def test_pounds_come_back_as_pounds() -> None:
    room = a_room(
        {"45": 2, "25": 1, "10": 2, "5": 1, "2.5": 1}, bars=(type(BAR)("b", "Bar", Mass.of(45, Unit.LB)),), unit=Unit.LB
    )
    load = loads_on(room, room.bars[0]).nearest(Mass.of(185, Unit.LB).grains)
    assert (load.total.text, load.total.unit) == ("185", Unit.LB)
    assert load.kg == pytest.approx(83.915, abs=0.001)


def test_collars_count() -> None:
    room = a_room({"20": 2}, collars=Mass.of(5))
    assert loads_on(room, BAR).empty.total.amount == Decimal(25)


def test_under_the_bar_lighter_things_are_offered() -> None:
    assert round_load(19.9, a_room(), BAR) is None
    offers = offers_under_bar(17.2, a_room(), BAR)
    assert [(o.kind, o.load.total.text if o.load else "") for o in offers] == [
        ("lighter_bar", "15"),
        ("held_weight", ""),
    ]
    assert [o.kind for o in offers_under_bar(9, a_room(), LIGHT_BAR)] == ["held_weight"]


def test_a_room_of_usual_size_is_worked_out_and_says_its_step() -> None:
    assert a_room().step_kg == 2.5
    assert a_room({"1.25": 1, "0.5": 1, "0.25": 0}).step_kg == 1
    assert a_room({}).step_kg == 0


def test_plate_change_moves_only_what_is_outside_the_difference() -> None:
    now, then = (Mass.of(m) for m in ("25", "15")), (Mass.of(m) for m in ("25", "20", "2.5"))
    change = plate_change(tuple(now), tuple(then))
    assert [m.text for m in change.off] == ["15"]
    assert [m.text for m in change.on] == ["20", "2.5"]
    assert change.moves == 3


def test_a_step_per_side_counts_twice_on_a_barbell() -> None:
    assert CONVENTIONS["barbell"].sides == 2


@given(rooms(), rooms(), targets_kg)
def test_a_load_moved_to_another_room_stays_under_its_cap_and_comes_home(
    here: Room, there: Room, target: float
) -> None:
    first = round_load(target, here, here.bars[0])
    moved = round_under(target, [Ceiling(CeilingKind.LIMIT, target)], there, there.bars[0])
    if moved is not None:
        assert moved.load.kg <= target + 1e-6 and moved.load in loads_on(there, there.bars[0]).loads
    assert round_under(target, (), here, here.bars[0]) == first, "the same target finds the first load again"


@given(rooms(), targets_kg)
def test_an_eased_load_exists_and_is_never_heavier(room: Room, target: float) -> None:
    rounded = round_load(target, room, room.bars[0])
    if rounded is not None:
        eased, step = eased_load(rounded.load, 0.9, room)
        loads = loads_on(room, room.bars[0])
        assert eased in loads.loads and step.output == eased.total.text and eased.kg <= rounded.load.kg
        assert eased.kg <= 0.9 * rounded.load.kg + 1e-6 or eased == loads.empty


def fewest_moves(now: tuple[Mass, ...], side_grains: int, room: Room) -> int:
    """Brute force: every way to keep some plates from the inside and put others of the stock outside them."""
    stock = [plate.mass for plate in room.plates for _ in range(plate.pairs)]
    best = 99
    for kept in range(len(now) + 1):
        left = list(stock)
        for mass in now[:kept]:
            left.remove(mass)
        inside = now[kept - 1].grains if kept else 10**20
        for count in range(5):
            for added in {tuple(sorted(c, key=lambda m: -m.grains)) for c in combinations(left, count)}:
                total = sum(m.grains for m in (*now[:kept], *added))
                if total == side_grains and all(m.grains <= inside for m in added):
                    best = min(best, len(now) - kept + count)
    return best


def test_between_two_loads_the_fewest_plates_are_moved() -> None:
    room = a_room({"20": 2, "15": 1, "10": 2, "5": 1, "2.5": 1})
    loads = [load for load in loads_on(room, BAR).loads if load.kg <= 110]
    better = 0
    for now in loads[::2]:
        for then in loads[::3]:
            side = arranged(now.side, then.side, room.plates)
            moves = plate_change(now.side, side).moves
            assert sum(m.grains for m in side) == sum(m.grains for m in then.side)
            assert list(side) == sorted(side, key=lambda m: -m.grains), "largest inside"
            assert moves == fewest_moves(now.side, sum(m.grains for m in then.side), room)
            better += moves < plate_change(now.side, then.side).moves
    assert better >= 5
    ten, fifteen = (next(load for load in loads if load.kg == kg) for kg in (40, 50))
    assert [m.text for m in arranged(ten.side, fifteen.side, room.plates)] == ["10", "5"]


def test_a_pound_bar_holds_kilogram_plates() -> None:
    bar = Bar("lb45", "Pound bar", Mass.of(45, Unit.LB))
    loads = loads_on(a_room(bars=(bar,)), bar)
    assert loads.empty.kg == pytest.approx(20.412) and loads.step_kg(60) == pytest.approx(2.5)
    assert loads.climbed(60.4, 1, 0.01).kg == pytest.approx(62.912)
    step = how_made(loads.climbed(60.4, 1, 0.01))
    assert step.facts["collars_kg"] == 0, "what is rounded away is no collar"


@given(st.lists(st.tuples(st.floats(1, 20), st.floats(0.5, 60)), min_size=1, max_size=6), st.booleans())
def test_the_next_band_helps_less_or_resists_more(pulls: list[tuple[float, float]], helps: bool) -> None:
    bands = [
        Band(f"band {n}", Mass(Decimal(f"{short:.1f}"), Unit.KG), Mass(Decimal(f"{short + more:.1f}"), Unit.KG))
        for n, (short, more) in enumerate(pulls)
    ]
    for band in bands:
        following = next_band(bands, band.name, helps=helps)
        others = [one.long.kg for one in bands]
        if following is None:
            assert band.long.kg == (min(others) if helps else max(others))
        else:
            assert following.long.kg < band.long.kg if helps else following.long.kg > band.long.kg
    assert next_band(bands, "none of ours", helps=helps) is None
