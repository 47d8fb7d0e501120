"""First loads of movements nobody has tested: a coach must believe them."""

import pytest

from backsquat.core.loads.mass import Mass
from backsquat.core.loads.rigs import rigs_for
from backsquat.core.loads.room import Bells
from backsquat.core.loads.rounding import Rounding, never_nothing, round_load
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.terms import PlanBase, Terms
from backsquat.core.strength.ratio import max_by_ratio
from backsquat.core.working import Working
from backsquat.library.shelf import movements
from tests.factories import RULES, a_room

BELLS = tuple(Bells(Mass.of(kg), 2) for kg in (2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30, 32, 36, 40))
ROOM = a_room(dumbbells=BELLS)


def first_loads(code: str, squat_kg: float, body_kg: float, low: int = 8, weeks: int = 4) -> list[float]:
    """The loads in each hand of a block's first weeks, from the back squat alone."""
    movement = movements()[code]
    carried_kg = movement.carried_kg(body_kg) or 0.0
    assert movement.ratio
    max_kg, _ = max_by_ratio(squat_kg, movement.ratio.share, movement, carried_kg, RULES)
    terms = Terms(ROOM, rigs_for(movement, ROOM)[0], RULES, False, False, 0.9, carried_kg)
    progression = PROGRESSIONS["window"]
    outline = progression.outline(progression.read({"low": low, "high": low + 4}), weeks)
    base = PlanBase(max_kg, max_kg, Working(), first_share=RULES.ratio_first_week)
    return [week.load.kg if week.load else 0.0 for week in plan_weeks(outline, base, terms)]


# kg in each hand for 8 reps with RIR 2, of a light and a heavy lifter of the same squat.
LIFTERS = ((60, 50, 75), (80, 58, 85), (113, 65, 95), (140, 75, 105), (180, 85, 120))
BELIEVED = {
    "rear_raised_dumbbells": ((8, 8), (12, 10), (16, 16), (20, 20), (26, 26)),
    "reverse_lunge_loaded": ((8, 6), (10, 10), (14, 14), (18, 18), (22, 22)),
    "step_up_loaded": ((6, 6), (8, 8), (12, 12), (16, 14), (20, 18)),
}


@pytest.mark.parametrize("code", sorted(BELIEVED))
def test_five_lifters_light_and_heavy_start_where_a_coach_would_start_them(code: str) -> None:
    found = tuple(
        tuple(first_loads(code, squat_kg, body_kg)[0] for body_kg in (light, heavy))
        for squat_kg, light, heavy in LIFTERS
    )
    assert found == BELIEVED[code]


def test_who_squats_110_kg_starts_split_squats_at_14_to_20_in_each_hand() -> None:
    assert all(14 <= first_loads("rear_raised_dumbbells", 110, body_kg)[0] <= 20 for body_kg in range(50, 121, 5))


@pytest.mark.parametrize(("low", "body_kg"), [(8, 75), (12, 75), (12, 95)])
def test_an_deload_week_never_turns_a_bell_into_nothing(low: int, body_kg: float) -> None:
    loads = first_loads("step_up_loaded", 60, body_kg, low, weeks=8)
    assert not loads[0] or all(loads), loads


def test_nothing_becomes_something_only_where_a_weight_was_meant_and_allowed() -> None:
    rig = rigs_for(movements()["step_up_loaded"], ROOM)[0]
    down = round_load(1.8, ROOM, rig, Rounding.DOWN)
    assert down and down.load.kg == 0
    assert never_nothing(down, 2.0, ROOM).load.kg == 2
    assert never_nothing(down, 1.5, ROOM).load.kg == 0, "a limit is a limit"
    nothing = round_load(0, ROOM, rig)
    assert nothing and never_nothing(nothing, 20.0, ROOM).load.kg == 0, "body weight was meant"
