"""What stands in is never harder than what was earned: broken by hand, each of these fails."""

from dataclasses import replace
from typing import Any

from backsquat.core.movements.movement import Family, Movement
from backsquat.core.readiness.stand_in import earned_work, level_work, most_alike
from backsquat.core.readiness.verdict import Person
from backsquat.library.shelf import ladders, movements
from tests.core.test_verdict import EVERYTHING, LIBRARY, TODAY, held, ready

MINOR = Person(1, "Noor Visser", TODAY.replace(year=TODAY.year - 15))


def code(movement: Movement | None) -> str:
    return movement.code if movement else ""


def without(*lacking: str) -> dict[str, Any]:
    return {"equipment_on": lambda _day: EVERYTHING - set(lacking)}


def test_who_is_placed_gets_the_own_level_and_who_is_not_the_gentlest() -> None:
    wanted = movements()["rear_raised_dumbbells"]
    levels = held("split_squat", "split_squat_front_raised")
    assert code(earned_work(ready(levels=levels), wanted)) == "split_squat_front_raised"
    assert code(earned_work(ready(), wanted)) == "split_squat_support"
    assert code(earned_work(ready(**without("rail", "rack")), wanted)) == "", "or nothing"
    assert code(earned_work(ready(levels=levels, **without("box")), wanted)) == "split_squat", "the next below"
    assert code(earned_work(ready(person=MINOR, levels=held("split_squat", "rear_raised_dumbbells")), wanted)) == (
        "rear_raised"
    ), "no weight without consent"


def test_a_machine_that_is_missing_leads_to_nothing_harder() -> None:
    """Full Nordics for everybody because a bench is missing: never."""
    wanted, lacks = movements()["lying_curl"], without("lying_curl", "seated_curl", "standing_curl", "bench")
    assert code(most_alike(ready(**lacks), wanted)) == "ball_curl", "on no ladder of the family: the gentlest"
    placed_minor = ready(person=MINOR, levels=held("floor_curl", "slider_curl"), **lacks)
    assert code(most_alike(placed_minor, movements()["slider_curl"])) == "ball_curl", "no consent: the gentlest"
    on_sliders = most_alike(ready(levels=held("floor_curl", "slider_curl"), **lacks), wanted)
    assert code(on_sliders) in ("ball_curl", "slider_lowering", "slider_curl")
    assert code(most_alike(ready(**without("lying_curl", "ball", "glute_ham")), wanted)) == ""


def test_beside_the_ladders_nothing_asks_more_skill_than_what_it_stands_in_for() -> None:
    placed = ready(
        levels=held("floor_curl", "ball_curl"), **without("lying_curl", "standing_curl", "seated_curl", "ball")
    )
    wanted = movements()["lying_curl"]
    assert not code(most_alike(placed, wanted)).startswith("dumbbell_curl"), "skill 2 for a machine of skill 1"
    assert code(most_alike(placed, replace(wanted, skill=2))) == "dumbbell_curl_hanging"


def test_nor_more_skill_than_the_levels_of_the_family_that_were_earned() -> None:
    """Off the ladders a movement asks what one on them asks: who is on the first hinges gets no hinge of skill 3."""
    beside = replace(movements()["kettlebell_deadlift"], code="own_hinge", name="Own hinge", skill=3)
    library = replace(LIBRARY, movements={**movements(), "own_hinge": beside})
    wanted = replace(beside, code="what_the_room_lacks")
    for level, found in (("kettlebell_deadlift", "kettlebell_deadlift"), ("romanian_deadlift", "own_hinge")):
        assert code(most_alike(ready(levels=held("hinge", level), library=library, overrides={}), wanted)) == found
    shaky = replace(library, movements={**movements(), "own_hinge": replace(beside, balance=2)})
    on_two_feet = ready(levels=held("hinge", "romanian_deadlift"), library=shaky)
    assert code(most_alike(on_two_feet, replace(wanted, balance=2))) != "own_hinge", "no level asked for balance"


def test_a_level_on_a_machine_the_room_lacks_has_the_most_alike_in_its_stead() -> None:
    """A ladder of the glute-ham bench in a hall without one is no empty place: but for who is not placed it is."""
    ladder = ladders()["glute_ham"]
    lacks = without("glute_ham")
    placed = {**held("glute_ham", "glute_ham_lowering"), **held("floor_curl", "slider_curl")}
    work = level_work(ready(levels=placed, **lacks), ladder)
    assert work is not None and work.family is Family.CURL and "glute_ham" not in {c for g in work.equipment for c in g}
    assert ready(levels=placed, **lacks).may(work.code)
    assert level_work(ready(**lacks), ladder) is None
