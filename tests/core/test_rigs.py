"""What a movement is loaded with, how a load is taken, steps, bands and ramps."""

from dataclasses import replace

import pytest

from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.bands import along_range
from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.ramp import needs_blocks, ramp_to
from backsquat.core.loads.rigs import rig_named, rigs_for
from backsquat.core.loads.room import Band, Bells, Rig, RigKind, Room, Stack
from backsquat.core.loads.rounding import grains, how_made
from backsquat.library.shelf import movements
from tests.factories import BAR, a_room


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

    def made(code: str, kg: float) -> tuple[str, object]:
        rig = rigs_for(movements()[code], room)[0]
        step = how_made(loads_on(room, rig).nearest(grains(kg)))
        return step.code, step.output

    assert made("rear_raised_dumbbells", 12) == ("take", "12.5")
    assert made("lying_curl", 15) == ("take", "15")
    assert made("back_squat", 60)[0] == "each_side"


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
