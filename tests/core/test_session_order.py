"""What is said of a session's order and what would bring it in; the running list; the warm-up; finding a load."""

from dataclasses import replace

import pytest
from hypothesis import given

from backsquat.core.movements.movement import Muscle
from backsquat.core.progression.decision import Code
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.sessions.fit import length_s, proposals, what_fits
from backsquat.core.sessions.moves import Move, MoveKind, moved
from backsquat.core.sessions.order import places, rest_wanted_s, session_advice
from backsquat.core.sessions.running import Done, running
from backsquat.core.sessions.session import Item, Session
from backsquat.core.sessions.timing import timetable
from backsquat.core.sessions.warm_up import Need, own_drills, warm_up
from backsquat.core.strength.find_load import find_load
from backsquat.core.strength.record import is_whole, sets_taken, whole_sets
from backsquat.core.strength.set_notes import SetNotes, set_notes_from
from backsquat.library.shelf import movements
from tests.core.test_session_time import a_session, an_item, sessions
from tests.factories import RULES, a_prescription, a_set, an_exposure

SQUAT, HINGE, LEG = an_item("back_squat"), an_item("romanian_deadlift"), an_item("rear_raised_dumbbells")
CURL, CALF, JUMP = an_item("lying_curl"), an_item("calf_raise"), an_item("box_jump")
THRUST = an_item("bench_thrust")


def codes(session: Session) -> list[str]:
    return [advice.finding.code for advice in session_advice(session, RULES)]


@pytest.mark.parametrize(
    ("items", "code"),
    [
        ((SQUAT, JUMP), "fast_late"),
        ((SQUAT, HINGE, LEG), "wobbly_late"),
        ((SQUAT, HINGE), "hinge_after_squat"),
        ((CURL, SQUAT), "small_early"),
        ((SQUAT, an_item("overhead_squat", key=90)), "skilled_late"),
        ((an_item("back_squat", own_rest_s=60),), "rest_short"),
        ((an_item("lying_curl", own_rest_s=400),), "rest_long"),
        ((an_item("romanian_deadlift", superset=1), an_item("lying_curl", superset=1)), "superset_competes"),
        ((an_item("calf_raise", superset=1), an_item("rear_raised_dumbbells", superset=1)), "superset_order"),
    ],
)
def test_each_thing_a_coach_would_say_is_said_and_its_fix_fixes_it(items: tuple[Item, ...], code: str) -> None:
    session = a_session(*items)
    found = next(advice for advice in session_advice(session, RULES) if advice.finding.code == code)
    if code == "hinge_after_squat":
        assert found.finding.facts["cost"] == round(sum(item.back_cost(RULES) for item in items), 1)
        return
    assert found.move is not None
    assert code not in codes(moved(session, found.move))


@pytest.mark.parametrize("item", [SQUAT, HINGE, LEG, CURL, CALF], ids=lambda item: item.movement.code)
def test_a_rest_is_short_by_a_second_and_not_when_it_is_what_is_wanted(item: Item) -> None:
    wanted = rest_wanted_s(item, RULES)
    assert "rest_short" not in codes(a_session(replace(item, own_rest_s=wanted)))
    short = a_session(replace(item, own_rest_s=wanted - 1))
    found = next(advice for advice in session_advice(short, RULES) if advice.finding.code == "rest_short")
    assert found.finding.facts["least_s"] == wanted and found.move is not None
    assert "rest_short" not in codes(moved(short, found.move))


def test_what_competes_is_never_proposed_as_a_superset_unless_supersets_are_for_that() -> None:
    def supersets(session: Session) -> set[tuple[object, object]]:
        found = proposals(session, RULES, {})
        return {(one.facts["name"], one.facts["onto"]) for one in found if one.code == "superset"}

    curl, hinge = CURL.movement.name, HINGE.movement.name
    assert (curl, hinge) not in supersets(a_session(HINGE, CURL, cap_min=15))
    assert (curl, hinge) in supersets(a_session(HINGE, CURL, cap_min=15, same_muscles=True))
    assert (CALF.movement.name, hinge) in supersets(a_session(HINGE, CALF, cap_min=15))


def test_a_sound_session_has_nothing_said_of_it() -> None:
    assert codes(a_session(JUMP, SQUAT, LEG, CURL, CALF)) == []
    assert codes(a_session(an_item("rear_raised_dumbbells", superset=1), an_item("calf_raise", superset=1))) == []


def test_hips_first_makes_the_squat_last_of_the_big_ones_whatever_small_work_follows() -> None:
    assert "squat_not_last" in codes(a_session(SQUAT, THRUST, CALF, hips_first=True))
    good = a_session(THRUST, HINGE, SQUAT, CALF, hips_first=True)
    assert "squat_not_last" not in codes(good)
    assert "squat_heavy_last" in codes(good)
    slow = a_session(THRUST, HINGE, an_item("back_squat", reps=10), CALF, hips_first=True)
    assert "squat_heavy_last" not in codes(slow)
    fix = next(a.move for a in session_advice(a_session(SQUAT, THRUST, CALF, hips_first=True), RULES) if a.move)
    assert [item.key for item in moved(a_session(SQUAT, THRUST, CALF), fix).items] == [THRUST.key, SQUAT.key, CALF.key]


def test_supersets_for_the_same_muscles_turn_the_findings_round() -> None:
    curls = (an_item("romanian_deadlift", superset=1), an_item("lying_curl", superset=1))
    assert "superset_competes" not in codes(a_session(*curls, same_muscles=True))
    apart = (an_item("rear_raised_dumbbells", superset=1), an_item("calf_raise", superset=1))
    assert "superset_not_same" in codes(a_session(*apart, same_muscles=True))


def test_a_place_counts_supersets_and_not_what_is_small() -> None:
    known = movements()
    work = [("back_squat", 0), ("rear_raised_dumbbells", 1), ("lying_curl", 1), ("calf_raise", 0), ("front_squat", 0)]
    assert places([(known[code], superset) for code, superset in work]) == [
        (0, 3, False),
        (1, 3, False),
        (1, 3, False),
        (2, 3, False),
        (2, 3, False),
    ]
    hinged = [("romanian_deadlift", 0), ("back_squat", 0), ("lying_curl", 0)]
    assert [place.after_hips for place in places([(known[code], superset) for code, superset in hinged])] == [
        False,
        True,
        True,
    ]


def test_over_the_cap_the_cheapest_way_in_comes_first_and_says_what_it_saves() -> None:
    session = a_session(SQUAT, HINGE, CURL, CALF, cap_min=45, warm_up_s=480)
    found = proposals(session, RULES, {Muscle.CALVES: 4, Muscle.HAMSTRINGS: 9})
    assert found and [one.cost for one in found] == sorted(one.cost for one in found)
    for one in found:
        saved = length_s(session, RULES) - length_s(moved(session, one.move), RULES)
        assert one.saved_s == pytest.approx(saved) and saved >= 60
    hinge, curl = HINGE.movement.name, CURL.movement.name
    superset = {(one.facts["name"], one.facts["onto"]) for one in found if one.code == "superset"}
    assert superset and (curl, hinge) not in superset, "both ask the hamstrings"
    trims = {one.facts.get("muscle"): one.cost for one in found if one.code == "trim"}
    assert trims.get("calves", 2) == 2, "it takes the week under its least"
    assert proposals(a_session(SQUAT, cap_min=60), RULES) == []


@given(sessions)
def test_what_fits_of_the_spare_work_never_goes_over_the_cap(session: Session) -> None:
    fits = what_fits(session, RULES)
    assert all(item.spare for item in fits)
    table = timetable(session, RULES)
    spare = sum(span.length_s for span in table.spans if span.group.spare and span.group.items[0] in fits)
    assert not fits or table.length_s + spare <= table.cap_s + 1e-6


def walk(session: Session, done: dict[int, Done] | None = None) -> list[tuple[int, int, bool]]:
    """Every step of a session when all is done as it comes: item, set, whether it follows at once."""
    state, steps = dict(done or {}), []
    while (now := running(session, state, RULES).now) is not None:
        steps.append((now.item.key, now.number, now.inside))
        state[now.item.key] = Done(state.get(now.item.key, Done()).sets + 1)
    return steps


def test_in_a_superset_the_partner_comes_at_once_and_rest_after_the_round() -> None:
    session = a_session(an_item("back_squat", 1, sets=2), an_item("lying_curl", 2, sets=3, superset=1),
                        an_item("calf_raise", 3, sets=2, superset=1))  # fmt: skip
    assert walk(session) == [
        (1, 1, False),
        (1, 2, False),
        (2, 1, False),
        (3, 1, True),
        (2, 2, False),
        (3, 2, True),
        (2, 3, False),
    ]
    first = running(session, {1: Done(2)}, RULES).now
    assert first and first.rest_s == 0, "the change-over is rest enough"
    second = running(session, {1: Done(2), 2: Done(1), 3: Done(1)}, RULES).now
    assert second and second.rest_s >= RULES.superset_rest_s


@given(sessions)
def test_every_set_comes_once_and_spare_work_last(session: Session) -> None:
    steps = walk(session)
    assert sorted((key, number) for key, number, _ in steps) == sorted(
        (item.key, number + 1) for item in session.items for number in range(item.sets)
    )
    spare = [session.item(key).spare for key, _, _ in steps]
    assert spare == sorted(spare)
    over = {item.key: Done(0, over=True) for item in session.items}
    assert walk(session, over) == []


def test_a_warm_up_is_what_the_screens_and_the_days_lifts_ask() -> None:
    known, squat = movements(), movements()["back_squat"]
    ankle = Need("Knee to wall", ("toe_ankle_rock", "calf_raise"))
    wall = Need("Overhead", ("deep_squat_supported",), overhead=True)
    assert [d.movement for d in own_drills([ankle, ankle, wall], [squat], known, RULES)] == ["toe_ankle_rock"]
    over = own_drills([wall], [known["overhead_squat"]], known, RULES)
    assert [drill.movement for drill in over] == ["deep_squat_supported"]
    rock, deep = own_drills([ankle], [squat], known, RULES), over
    made = warm_up({1: rock, 2: rock, 3: (*rock, *deep), 4: ()}, RULES)
    assert [d.movement for d in made.everybody] == ["toe_ankle_rock"] and list(made.own) == [3]
    assert made.length_s == 60 * (RULES.warm_up_min + 2 * RULES.drill_min)


@pytest.mark.parametrize(
    ("trial", "window", "left", "expected"),
    [  # 10 kg × 12, RIR 3 → 15 kg max; the load whose reps, RIR 1, lie nearest the middle of the window
        ((10.0, 12, 3), (8, 12), 1, 10.0), ((10.0, 12, 4), (6, 8), 2, 12.0), ((30.0, 5, 0), (8, 12), 1, 25.0),
        ((10.0, 12, 9), (6, 8), 2, 12.0),
        ((14.0, 8, 2), (6, 6), 4, 14.0),  # exactly 6 are promised, with four left
    ],
)  # fmt: skip
def test_the_first_set_finds_the_load(
    trial: tuple[float, int, int], window: tuple[int, int], left: int, expected: float
) -> None:
    found = find_load(trial, window, left, [6.0, 8.0, 10.0, 12.0, 14.0, 25.0, 30.0], RULES)
    assert found and found.load_kg == expected and window[0] - 1 <= found.reps <= window[1] + 2
    assert find_load((0.0, 12, 3), window, left, [6.0], RULES) is None
    assert find_load(trial, window, left, [], RULES) is None


def test_of_several_bells_in_the_window_the_one_in_its_middle_is_taken() -> None:
    found = find_load((20.0, 10, 2), (8, 12), 1, [18.0, 20.0, 20.5, 21.0, 22.0], RULES)
    assert found and found.load_kg == 20.5, "21 promises 9, which would do as well, but is not the middle"


@pytest.mark.parametrize(
    ("held", "reason"), [((60, 60), "clock_done"), ((60, 40), "hold_short"), ((60,), "hold_short")]
)
def test_work_by_the_clock_keeps_its_seconds_under_a_progression_of_reps(held: tuple[int, ...], reason: str) -> None:
    asked = a_prescription(sets=2, reps=1, hold_s=60)
    sets = [a_set(load_kg=0.0, reps=1, hold_s=seconds, reserve_reps=None) for seconds in held]
    progression = PROGRESSIONS["window"]
    decision = progression.judge(an_exposure(asked, sets), progression.read({}), RULES)
    assert (decision.code, decision.reason, decision.facts["next_s"]) == (Code.STAY, reason, 60)


def test_whose_partner_is_left_out_or_done_rests_as_a_lift_by_itself() -> None:
    squat, curl = an_item("back_squat", sets=4, superset=1), an_item("lying_curl", sets=2, superset=1)
    session = a_session(squat, curl)
    together = {squat.key: Done(1), curl.key: Done(1)}
    step = running(session, together, RULES).now
    assert step and step.rest_s < squat.rest_s, "the curl is part of its rest"
    for alone in ({squat.key: Done(1), curl.key: Done(0, over=True)}, {squat.key: Done(2), curl.key: Done(2)}):
        step = running(session, alone, RULES).now
        assert step and (step.item.key, step.rest_s) == (squat.key, squat.rest_s)


def test_a_left_and_a_right_half_are_one_set_with_what_the_weaker_made() -> None:
    halves = [
        a_set(set_id=1, side="left", set_number=1, reps=8, reserve_reps=3),
        a_set(set_id=2, side="right", set_number=1, reps=6, reserve_reps=1, breaking_fault="knees_in"),
        a_set(set_id=3, set_number=2, reps=8),
    ]
    first, second = whole_sets(halves)
    assert (first.reps, first.reserve_reps, first.breaking_fault, first.side) == (6, 1, "knees_in", "")
    assert second.reps == 8
    taken = sets_taken([(1, "left"), (2, "left"), (2, "right"), (3, "")])
    assert [is_whole(taken[n]) for n in (1, 2, 3)] == [False, True, True]


def test_what_is_told_of_a_set_comes_back_and_nonsense_is_named() -> None:
    told = SetNotes(felt="rear thigh", soreness=3, left_supported=True, step_cm=38)
    assert set_notes_from(told.to_plain() | {"of a later version": 1}) == told and SetNotes().to_plain() == {}
    wrong = SetNotes(step_cm=900, counterweight_kg=-1, soreness=12, load_side="middle", note="x" * 300, support_cm=0)
    assert [p.field for p in wrong.problems()] == [
        "support_cm",
        "step_cm",
        "counterweight_kg",
        "soreness",
        "load_side",
        "note",
    ]


def test_a_move_that_cannot_be_leaves_everything_as_it_was() -> None:
    session = a_session(SQUAT, CURL)
    assert moved(session, Move(MoveKind.WINDOW, SQUAT.key)).items == session.items


def test_another_rig_is_proposed_for_what_it_saves_and_the_place_stays() -> None:
    bells = movements()["rear_raised_dumbbells"]
    bar = replace(an_item("rear_raised_dumbbells"), movement=movements()["rear_raised_back_bar"])
    session = a_session(SQUAT, bar, CALF, cap_min=10)
    found = [one for one in proposals(session, RULES, {}, {bar.key: bells}) if one.code == "rig"]
    assert [(one.saved_s, one.cost) for one in found] == [(bar.movement.rig_s - bells.rig_s, 1)]
    after = moved(session, found[0].move)
    assert [item.key for item in after.items] == [item.key for item in session.items]
    assert after.item(bar.key).movement is bells
    assert not any(one.code == "rig" for one in proposals(session, RULES, {}))
