"""The library: every entry whole, ladders without holes or circles, which variant for whom."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.movements.choice import ChoiceGoal, Ranked, Situation, rank, reasons_for, substitutes
from backsquat.core.movements.ladder import Ladder, ladder_problems, level_beyond, rigged
from backsquat.core.movements.movement import Family, Movement, MuscleLength, ReadinessCheck
from backsquat.core.movements.pose import ARMS, joints
from backsquat.core.rules import Rules
from backsquat.library import shelf
from backsquat.library.shelf import ladders, movements, poses, whole
from backsquat.work.library.movements import search

SHIPPED = list(movements().values())


def test_the_library_holds_every_family_and_ladder() -> None:
    assert {movement.family for movement in SHIPPED} == set(Family)
    assert len(SHIPPED) > 100 and len(ladders()) == 15
    assert len({movement.name for movement in SHIPPED}) == len(SHIPPED)


@pytest.mark.parametrize("movement", SHIPPED, ids=lambda movement: movement.code)
def test_every_entry_is_whole(movement: Movement) -> None:
    assert movement.purpose and movement.set_up and 2 <= len(movement.cues) <= 4 and 2 <= len(movement.faults) <= 5
    assert all(fault.look and fault.fix for fault in movement.faults) and movement.felt
    assert movement.safety and movement.failing and movement.prime and movement.regions
    assert len({fault.code for fault in movement.faults}) == len(movement.faults)
    assert movement.work.low <= movement.work.high
    if movement.ratio:
        assert movement.ratio.parent in movements() and 0 < movement.ratio.share < 1.5
    if ReadinessCheck.BARBELL in movement.readiness_checks:
        assert {"bar", "trap_bar"} & {code for group in movement.equipment for code in group}


def test_nobody_reads_another_movements_words() -> None:
    assert len({movement.purpose for movement in SHIPPED}) == len(SHIPPED)
    assert len({movement.set_up for movement in SHIPPED}) == len(SHIPPED)


ENTRY = shelf._table("movements/squat")["back_squat"]  # the table itself, to take one thing away at a time


@pytest.mark.parametrize(
    "change",
    [
        {"purpose": None}, {"set_up": []}, {"cues": ["one"]}, {"faults": ["heels_up"]}, {"felt": []}, {"safety": "x"},
        {"failing": None}, {"prime": ["kneecaps"]}, {"prime": []}, {"regions": []}, {"regions": ["elbow"]},
        {"equipment": ["rope"]}, {"convention": "stones"}, {"work": "some"}, {"poses": ["stand", "float"]},
        {"emphasis": 3}, {"family": "leg"}, {"colour": "red"}, {"faults": [["a", "b", "c"], "heels_up"]},
    ],
    ids=str,
)  # fmt: skip
def test_an_incomplete_entry_is_refused(change: dict[str, Any]) -> None:
    faults = shelf._table("faults")
    assert whole({"one": dict(ENTRY)}, faults)
    changed = {name: value for name, value in (dict(ENTRY) | change).items() if value is not None}
    with pytest.raises(ValueError, match="one"):
        whole({"one": changed}, faults)


def test_likeness_fills_in_but_never_the_own_words_and_never_goes_round() -> None:
    faults = shelf._table("faults")
    child = {"like": "one", "name": "Child", "purpose": "A purpose of its own, long enough.", "set_up": ["Stand."]}
    entry = whole({"one": dict(ENTRY), "two": child}, faults)["two"]
    assert entry.safety == ENTRY["safety"] and entry.aliases == []
    for missing in ("name", "purpose", "set_up"):
        with pytest.raises(ValueError, match="two"):
            whole({"one": dict(ENTRY), "two": {k: v for k, v in child.items() if k != missing}}, faults)
    with pytest.raises(ValueError, match="comes round"):
        whole({"one": {"like": "two"}, "two": {"like": "one"}}, faults)


def a_ladder(*levels: tuple[str, ...]) -> Ladder:
    return Ladder("test", "Test", "for tests", levels)


def test_ladders_with_holes_strangers_or_circles_are_refused() -> None:
    assert ladder_problems(ladders().values(), movements()) == []
    assert ladder_problems([a_ladder(("back_squat",), ())], movements()) == ["test: level 2 is empty"]
    assert ladder_problems([a_ladder(("moon_squat",))], movements()) == ["test: unknown movement moon_squat"]
    assert "stands on it twice" in ladder_problems([a_ladder(("deadlift",), ("deadlift",))], movements())[0]
    one, two = a_ladder(("deadlift",), ("back_squat",)), a_ladder(("back_squat",), ("deadlift",))
    assert any("cycle" in problem for problem in ladder_problems([one, two], movements()))


def test_a_room_rigs_any_one_of_a_group() -> None:
    goblet = movements()["goblet_box_squat"]
    assert rigged(goblet, frozenset({"kettlebells", "bench"})) == ()
    assert rigged(goblet, frozenset({"kettlebells"})) == ("box",)
    assert rigged(goblet, frozenset()) == ("dumbbells", "box")


allowed_sets = st.sets(st.sampled_from(sorted(movements())))


@given(st.sampled_from(sorted(ladders())), st.data(), allowed_sets)
def test_a_step_never_skips_an_open_level_and_a_shut_one_never_blocks(
    code: str, data: st.DataObject, open_: set[str]
) -> None:
    ladder = ladders()[code]
    level = data.draw(st.integers(0, len(ladder.levels) - 1))
    for way in (1, -1):
        beyond = level_beyond(ladder, level, way, open_.__contains__)
        further = [n for n in range(len(ladder.levels)) if (n - level) * way > 0 and open_ & set(ladder.levels[n])]
        nearest = min(further, key=lambda n: abs(n - level), default=None)
        assert (beyond[0] if beyond else None) == nearest
        if beyond:
            assert set(beyond[1]) == open_ & set(ladder.levels[beyond[0]])


def a_situation(**changes: Any) -> Situation:
    nothing: Callable[[Movement], tuple[str, ...]] = lambda _: ()  # noqa: E731
    values: dict[str, Any] = {
        "goal": ChoiceGoal.BOTH,
        "rules": Rules(sport_knee_strain=2, sport_groin_strain=2),
        "upright_first": False,
        "back_history": False,
        "trunk_deg": None,
        "ankles_short": False,
        "newcomer": False,
        "level_steps": lambda _: None,
        "lacking": nothing,
        "blocked": nothing,
    }
    return Situation(**(values | changes))


def place(ranked: list[Ranked], code: str) -> int:
    return [item.movement.code for item in ranked].index(code)


BARS = [movements()[code] for code in ("back_squat", "front_squat", "overhead_squat")]


def test_the_two_progressions_choose_differently_and_say_why() -> None:
    back, upright = rank(BARS, a_situation()), rank(BARS, a_situation(upright_first=True))
    assert back[0].movement.code == "back_squat" and "back_loaded" in {r.code for r in back[0].reasons}
    assert place(upright, "front_squat") < place(upright, "back_squat")
    assert "sport_knee" in {r.code for r in back[place(back, "front_squat")].reasons}


def test_history_ankles_lean_and_goal_each_count() -> None:
    assert place(rank(BARS, a_situation(upright_first=True, back_history=True, trunk_deg=50.0)), "front_squat") == 0
    history = rank(BARS, a_situation(back_history=True))
    assert "back_history" in {r.code for r in history[place(history, "back_squat")].reasons}
    ankles = rank(BARS, a_situation(ankles_short=True))
    assert "ankles_short" in {r.code for r in ankles[place(ankles, "front_squat")].reasons}
    hinges = [movements()["romanian_deadlift"], movements()["trap_bar_deadlift"]]
    assert rank(hinges, a_situation(goal=ChoiceGoal.HIPS))[0].movement.code == "romanian_deadlift"
    assert rank(hinges, a_situation(goal=ChoiceGoal.THIGHS))[0].movement.code == "trap_bar_deadlift"


def test_what_may_not_be_done_is_kept_last_with_its_substitutes() -> None:
    def lacking(movement: Movement) -> tuple[str, ...]:
        return ("hack",) if movement.code == "hack_squat" else ()

    def blocked(movement: Movement) -> tuple[str, ...]:
        return ("locked",) if movement.code == "leg_press" else ()

    squats = [m for m in SHIPPED if m.family is Family.SQUAT]
    ranked = rank(squats, a_situation(lacking=lacking, blocked=blocked))
    assert {item.movement.code for item in ranked[-2:]} == {"hack_squat", "leg_press"}
    hack = ranked[place(ranked, "hack_squat")]
    assert hack.substitutes and "leg_press" not in hack.substitutes
    assert substitutes(movements()["hack_squat"], [], a_situation()) == ()


@given(st.sampled_from(list(ChoiceGoal)), st.booleans(), st.integers(0, 3), st.integers(-5, 5))
def test_the_points_are_the_sum_of_the_reasons_and_every_reason_can_be_said(
    goal: ChoiceGoal, upright: bool, knee: int, steps: int
) -> None:
    from backsquat.pages.movements.phrases import reason_words

    situation = a_situation(
        goal=goal,
        upright_first=upright,
        rules=Rules(sport_knee_strain=knee),
        level_steps=lambda _: steps,
        newcomer=True,
        trunk_deg=50.0,
    )
    for item in rank(SHIPPED, situation):
        assert item.points == pytest.approx(sum(reason.points for reason in item.reasons), abs=0.01)
        assert all(reason.points and "{" not in reason_words(reason) for reason in item.reasons)


def test_readiness_checks_stand_before_bars_only() -> None:
    assert movements()["goblet_squat"].readiness_checks == ()
    assert movements()["trap_bar_deadlift"].readiness_checks == (ReadinessCheck.PULL,)
    assert movements()["overhead_squat"].readiness_checks == (ReadinessCheck.BARBELL, ReadinessCheck.OVERHEAD)
    assert movements()["good_morning"].readiness_checks == (ReadinessCheck.BARBELL, ReadinessCheck.PULL)
    assert movements()["bench_thrust_bar"].readiness_checks == (ReadinessCheck.THRUST,)


@pytest.mark.parametrize("code", sorted(poses()))
def test_every_figure_stands_on_or_above_its_floor(code: str) -> None:
    for held in ARMS:
        points = joints(poses()[code], held)
        if not any(prop.holds for prop in poses()[code].touched):  # those are as high as what they lie on
            assert min(y for _, y in points.values()) == pytest.approx(poses()[code].lift)
        assert all(-1.3 < x < 1.3 and y < 1.5 for x, y in points.values())


def test_a_deeper_squat_has_lower_hips() -> None:
    def hip(code: str) -> float:
        return joints(poses()[code])["hip"][1]

    assert hip("squat_deep") < hip("squat_level") < hip("stand")


def test_moved_mass_counts_each_hand() -> None:
    lunge = movements()["reverse_lunge_loaded"]
    assert lunge.carried_kg(60.0) == pytest.approx(0.75 * 60 / 2)
    assert movements()["back_squat"].carried_kg(None) == 0
    assert lunge.carried_kg(None) is None
    assert replace(lunge, body_share=None).carried_kg(60.0) is None


def test_a_curl_is_credited_for_what_curls_are_for() -> None:
    """Never for an upright trunk; in a week full of hinges for the short end, else for the long one."""
    curls = [movement for movement in SHIPPED if movement.family is Family.CURL]
    for hinge_sets, best in ((8, MuscleLength.SHORTENED), (2, MuscleLength.STRETCHED)):
        situation = a_situation(upright_first=True, trunk_deg=50.0, hinge_sets=hinge_sets)
        for movement in curls:
            codes = {reason.code for reason in reasons_for(movement, situation)}
            assert not codes & {"upright_spares", "leaner_upright", "leaner_leans", "back_cost"}, movement.code
            assert bool(codes & {"short_with_hinges", "long_without_hinges"}) == (movement.length is best)


@pytest.mark.parametrize(
    ("words", "code"),
    [
        ("dumbbell", "dumbbell_squat"), ("dumb bells", "dumbbell_squat"), ("RDL", "romanian_deadlift"),
        ("bulgarian", "rear_raised_dumbbells"), ("lateral lunge", "side_squat"), ("curtsy", "lunge_wheel"),
        ("sumo", "wide_dumbbell_squat"), ("hip thrust machine", "thrust_machine"), ("ghr", "glute_ham"),
        ("split-squats", "split_squat"), ("Nordics", "nordic"),
    ],
)  # fmt: skip
def test_a_movement_is_found_under_the_names_people_type(words: str, code: str) -> None:
    found = [movement.code for movement in search(movements().values(), words)]
    assert code in found and len(found) < 40
    assert words != "RDL" or found == ["romanian_deadlift"], "not in the middle of two words"
