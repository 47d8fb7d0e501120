"""How long a session takes: tables worked by hand, and laws that hold for any session."""

import csv
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.errors import ImpossibleInput
from backsquat.core.movements.manner import DIRECTIONS, Manner, Range, Stance, Style, manner_from, rep_s, tempo_seconds
from backsquat.core.movements.movement import SideMode
from backsquat.core.sessions.moves import Move, MoveKind, moved
from backsquat.core.sessions.session import Form, Item, Session
from backsquat.core.sessions.timing import Part, group_rest_s, group_s, ramp_s, set_s, timetable
from backsquat.core.strength.reach import reach_targets
from backsquat.core.strength.set_notes import Reach
from backsquat.library.shelf import movements
from tests.factories import RULES

DOSES: dict[str, dict[str, Any]] = {
    "back_squat": {"sets": 4, "reps": 4, "rest_s": 180, "main": True},
    "romanian_deadlift": {"sets": 4, "reps": 8, "rest_s": 150, "main": True},
    "rear_raised_dumbbells": {"sets": 3, "reps": 8, "rest_s": 120},
    "lying_curl": {"sets": 3, "reps": 9, "rest_s": 75, "tempo": "3-0-1-0"},
    "bench_thrust": {"sets": 3, "reps": 10, "rest_s": 60},
    "calf_raise": {"sets": 3, "reps": 15, "rest_s": 60},
    "reverse_lunge": {"sets": 2, "reps": 8, "rest_s": 90},
    "groin_plank_ankle": {"sets": 2, "reps": 1, "hold_s": 20, "rest_s": 60},
    "box_jump": {"sets": 3, "reps": 4, "rest_s": 120, "fast": True},
    "overhead_squat": {"sets": 3, "reps": 5, "rest_s": 180},
}


def an_item(code: str, key: int = 0, **changes: Any) -> Item:
    movement = movements()[code]
    dose = {"tempo": movement.work.tempo} | DOSES[code] | changes
    return Item(key or list(DOSES).index(code) + 1, movement, **dose)


def a_session(*items: Item, **changes: Any) -> Session:
    return Session(items, **changes)


CASES = {
    "squat with ramp": (an_item("back_squat", ramp=(8, 5, 3, 2)),),
    "superset of two": (an_item("rear_raised_dumbbells", superset=1), an_item("lying_curl", superset=1)),
    "circuit of two": (
        an_item("bench_thrust", superset=1, circuit=True),
        an_item("calf_raise", superset=1, circuit=True),
    ),
    "hinge and five on the rack": (an_item("romanian_deadlift", sharing=5),),
    "one and a half": (an_item("rear_raised_dumbbells", reps=6, manner=Manner(style=Style.ONE_AND_A_HALF)),),
    "alternating": (an_item("reverse_lunge", own_rest_s=65),),
    "held on each side": (an_item("groin_plank_ankle"),),
    "half range with a pause": (an_item("back_squat", sets=2, reps=5, manner=Manner(range=Range.HALF)),),
    "small work in long rests": (an_item("back_squat", sets=3, superset=1), an_item("lying_curl", superset=1)),
    "fewer sets in a superset": (an_item("back_squat", sets=3, superset=1), an_item("lying_curl", sets=2, superset=1)),
}
TABLE = Path("tests/oracles/session_time.csv").read_text("utf-8").splitlines()
ORACLE = {row["case"]: float(row["seconds"]) for row in csv.DictReader(TABLE)}


@pytest.mark.parametrize("case", ORACLE)
def test_tables_worked_by_hand(case: str) -> None:
    (span,) = timetable(a_session(*CASES[case]), RULES).spans
    assert span.length_s == pytest.approx(ORACLE[case]), list(span.working.steps)
    assert span.working.steps[-1].output == round(ORACLE[case])


items = st.lists(st.tuples(st.sampled_from(list(DOSES)), st.integers(0, 2), st.booleans(), st.booleans()), max_size=9)
sessions = items.map(
    lambda rows: a_session(
        *(
            an_item(code, key=n + 1, superset=superset, circuit=circuit, spare=spare)
            for n, (code, superset, circuit, spare) in enumerate(rows)
        ),
        warm_up_s=300,
    )
)


@given(sessions)
def test_pieces_follow_each_other_without_gap_and_every_set_is_there(session: Session) -> None:
    table = timetable(session, RULES)
    at = 300.0
    for span in table.spans:
        assert span.start_s == pytest.approx(at)
        assert span.length_s == pytest.approx(group_s(span.group, RULES))
        for piece in span.pieces:
            assert piece.start_s == pytest.approx(at)
            at += piece.length_s
    for item in session.items:
        pieces = [p for span in table.spans for p in span.pieces if p.key == item.key and p.part is Part.SET]
        assert {p.nth for p in pieces} == set(range(1, item.sets + 1))
        assert len(pieces) == item.sets * (2 if item.movement.side_mode == "one side, then the other" else 1)


@given(sessions, st.sampled_from(list(MoveKind)), st.integers(0, 8), st.integers(0, 8), st.integers(0, 300))
def test_no_move_loses_or_doubles_work_and_what_is_spare_stays_last(
    session: Session, what: MoveKind, which: int, whither: int, much: int
) -> None:
    if not session.items:
        return
    keys = [item.key for item in session.items]
    to = {MoveKind.REST: much, MoveKind.SETS: much % 10 + 1, MoveKind.SPARE: much % 2, MoveKind.CIRCUIT: 1}.get(
        what, keys[whither % len(keys)]
    )
    key = keys[which % len(keys)]
    others = tuple(other for other in keys[:2] if other != key) if what is MoveKind.GATHER else ()
    try:
        after = moved(session, Move(what, key, to, others))
    except ImpossibleInput:
        assert what in (MoveKind.SUPERSET, MoveKind.SWAP)
        return
    assert sorted(item.key for item in after.items) == sorted(keys)
    spare = [group.spare for group in after.groups]
    assert spare == sorted(spare)
    assert all(len(group.items) <= 3 for group in after.groups if group.form is Form.SUPERSET) or any(
        len(group.items) > 3 for group in session.groups
    )
    plain = moved(after, Move(MoveKind.EARLIER, after.items[0].key))  # the first goes nowhere
    assert [item.key for item in plain.items] == [item.key for item in after.items]


def test_the_coachs_rest_goes_before_the_progressions_but_nobody_lifts_while_another_does() -> None:
    alone = a_session(an_item("back_squat", own_rest_s=120)).groups[0]
    shared = a_session(an_item("back_squat", own_rest_s=60, sharing=5)).groups[0]
    assert group_rest_s(alone, RULES) == 120
    assert group_rest_s(shared, RULES) == 4 * 27


def test_a_ramp_on_one_leg_is_done_on_both() -> None:
    one, both = an_item("overhead_squat", ramp=(5, 3)), an_item("overhead_squat", ramp=(5, 3))
    lunge = replace(both, movement=replace(both.movement, side_mode=SideMode.ONE_THEN_OTHER))
    reps_s = 8 * rep_s(one.tempo, one.manner, RULES)
    assert ramp_s(lunge, RULES) - ramp_s(one, RULES) == pytest.approx(reps_s)


def test_moves_do_what_they_say() -> None:
    squat, curl, calf = (an_item(code, n + 1) for n, code in enumerate(("back_squat", "lying_curl", "calf_raise")))
    session = a_session(squat, curl, calf)

    def order(*moves: Move) -> list[list[int]]:
        now = session
        for move in moves:
            now = moved(now, move)
        return [[item.key for item in group.items] for group in now.groups]

    assert order(Move(MoveKind.LATER, 1)) == [[2], [1], [3]]
    assert order(Move(MoveKind.BEFORE, 3, 1)) == [[3], [1], [2]]
    assert order(Move(MoveKind.BEFORE, 1)) == [[2], [3], [1]]
    superset = Move(MoveKind.SUPERSET, 3, 1)
    assert order(superset) == [[1, 3], [2]]
    assert order(superset, Move(MoveKind.LATER, 3)) == [[2], [1, 3]]
    assert order(superset, Move(MoveKind.UP, 3)) == [[3, 1], [2]]
    assert order(superset, Move(MoveKind.LEAVE_SUPERSET, 1)) == [[3], [1], [2]]
    assert order(Move(MoveKind.SPARE, 1, 1)) == [[2], [3], [1]]
    assert order(Move(MoveKind.GATHER, 2, others=(3,))) == [[1], [2, 3]]
    assert moved(session, Move(MoveKind.GATHER, 2, others=(3,))).groups[1].form is Form.CIRCUIT
    with pytest.raises(ImpossibleInput):
        moved(session, Move(MoveKind.SUPERSET, 9, 1))


def test_a_manner_acts_and_says_what_it_cannot_be() -> None:
    plain, slow = Manner(), Manner(style=Style.SLOW_LOWERING, stance=Stance.LONG)
    assert rep_s("2-0-1-0", plain, RULES) == 3 and rep_s("2-0-1-0", slow, RULES) == 6
    assert rep_s("x-1-x-2", Manner(style=Style.TENSION), RULES) == 3
    assert tempo_seconds("2-0-1") is None and tempo_seconds("0-0-0-0") is None
    assert slow.load_share(RULES) == 0.9 and plain.load_share(RULES) == 1
    assert slow.emphasis(0, RULES) == 0.5 and Manner(wedge_mm=20).emphasis(-2, RULES) == -2
    assert Manner(range=Range.HALF).depth_code("level") == "level, half" and plain.depth_code("level") == "level"
    assert manner_from(slow.to_plain()) == slow and plain.to_plain() == {}
    ways = Manner(directions=("side", "ahead"))
    assert manner_from(ways.to_plain()) == ways and manner_from({"directions": ["side", "side"]}).directions == (
        "side",
    )
    with pytest.raises(ImpossibleInput) as wrong:
        manner_from({"stance": "huge", "wedge_mm": 400, "tempo": "fast", "directions": ["up"]})
    assert [problem.field for problem in wrong.value.problems] == ["stance", "directions", "wedge_mm", "tempo"]


@given(
    st.dictionaries(st.sampled_from(DIRECTIONS), st.tuples(*[st.none() | st.floats(1, 200)] * 2)),
    st.sets(st.sampled_from(DIRECTIONS)),
)
def test_a_direction_is_aimed_at_as_far_as_was_clean_and_shorter_where_it_was_not(last: Reach, seen: set[str]) -> None:
    aimed = reach_targets(last, dict.fromkeys(seen, "knees_in"), RULES)
    assert aimed.keys() == last.keys()
    for way, pair in last.items():
        for was, now in zip(pair, aimed[way], strict=True):
            assert (now is None) is (was is None)
            if was is not None and now is not None:
                assert now == (was if way not in seen else max(was - RULES.reach_shorter_cm, min(was, 10.0)))


@pytest.mark.parametrize(("code", "sides"), [("calf_raise", 2), ("bench_thrust", 1), ("reverse_lunge", 1)])
def test_what_is_held_at_the_end_of_a_set_takes_its_seconds_on_each_side_done_alone(code: str, sides: int) -> None:
    plain, held = an_item(code, sets=3), an_item(code, sets=3, end_hold_s=30)
    assert set_s(held, RULES) - set_s(plain, RULES) == 30 * sides
    assert set_s(replace(held, hold_s=20), RULES) == set_s(replace(plain, hold_s=20), RULES), "by the clock: no more"
