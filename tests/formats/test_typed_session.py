"""A session as a coach types it: what each line means, and a second reader over lines put together at random."""

from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.sessions.typed import TypedExercise
from backsquat.formats.typed_session import typed_session

SAID = [  # a line as somebody types it, and what of it is not the usual
    ("4 x 6 back squat RIR 2 rest 3 min", {"name": "back squat", "sets": 4, "low": 6, "high": 6, "reserve_reps": 2, "rest_s": 180}),
    ("goblet squat 3x8-10 @8", {"name": "goblet squat", "sets": 3, "low": 8, "high": 10, "reserve_reps": 2}),
    ("3 × 8–10 lunges, RPE 7,5, 90 s rest", {"name": "lunges", "sets": 3, "low": 8, "high": 10, "reserve_reps": 3, "rest_s": 90}),
    ("calf 15 + 30 s", {"name": "calf", "low": 15, "high": 15, "end_hold_s": 30}),
    ("calf raise 2x15 then hold 20 s", {"name": "calf raise", "sets": 2, "low": 15, "high": 15, "end_hold_s": 20}),
    ("3x40 s side plank", {"name": "side plank", "sets": 3, "low": 40, "high": 40, "seconds": True}),
    ("5 min hip switches", {"name": "hip switches", "low": 300, "high": 300, "seconds": True}),
    ("5 min", {"low": 300, "high": 300, "seconds": True}),
    ("split squat 3x8/side rest 1:30", {"name": "split squat", "sets": 3, "low": 8, "high": 8, "each_side": True, "rest_s": 90}),
    ("nordic 3 sets of 5 to failure", {"name": "nordic", "sets": 3, "low": 5, "high": 5, "to_failure": True}),
    ("back squat as wave", {"name": "back squat", "progression": "wave"}),
    ("rdl 3x8 60 kg tempo 31X0", {"name": "rdl", "sets": 3, "low": 8, "high": 8, "left_out": ("60 kg",), "tempo": "3-1-X-0"}),
    ("back squat 5x3 @ 80 %", {"name": "back squat", "sets": 5, "low": 3, "high": 3, "left_out": ("80 %",)}),
    ("- 2 x 6 90/90 switches RIR 1-2", {"name": "90/90 switches", "sets": 2, "low": 6, "high": 6, "reserve_reps": 2}),
    ("calf raise 2 sets if there is time", {"name": "calf raise", "sets": 2, "spare": True}),
]  # fmt: skip


def said(one: TypedExercise) -> dict[str, object]:
    """What of a line is not the usual."""
    usual = vars(TypedExercise(0, ""))
    return {name: value for name, value in vars(one).items() if value != usual[name] and name not in ("row", "text")}


@pytest.mark.parametrize(("line", "meant"), SAID, ids=[line for line, _ in SAID])
def test_a_line_means_what_a_coach_says_with_it(line: str, meant: dict[str, object]) -> None:
    (one,) = typed_session(line)
    assert said(one) == meant


def test_days_supersets_and_rounds_are_headings() -> None:
    found = typed_session(
        "Monday\n4x6 back squat\n\nsuperset, rest 90:\n3x8 goblet squat\n3x12 curl\n\ncalf raise 15\n"
        "Thu: 3 rounds\nnordic 5\ncopenhagen plank 20 s\n"
    )
    assert [(one.name, one.weekday, one.superset, one.circuit, one.sets, one.rest_s) for one in found] == [
        ("back squat", 0, 0, False, 4, 0),
        ("goblet squat", 0, 1, False, 3, 90),
        ("curl", 0, 1, False, 3, 90),
        ("calf raise", 0, 0, False, None, 0),
        ("nordic", 3, 1, True, 3, 0),
        ("copenhagen plank", 3, 1, True, 3, 0),
    ]


def test_letters_and_a_plus_make_supersets_and_one_alone_is_none() -> None:
    found = typed_session(
        "A1 squat 3x8\nA2) curl 3x10\nB1 nordic 3x5\nlunge 2x8 + calf raise 2x15\nsuperset\nplank 40 s"
    )
    assert [(one.name, one.superset) for one in found] == [
        ("squat", 1), ("curl", 1), ("nordic", 0), ("lunge", 2), ("calf raise", 2), ("plank", 0),
    ]  # fmt: skip


NAMES = st.lists(st.sampled_from(("goblet", "squat", "nordic", "curl", "lunge", "bridge")), min_size=1, max_size=3)


@st.composite
def sessions(draw: st.DrawFn) -> Sequence[TypedExercise]:
    """Exercises of one day, alone, in supersets or circuits, as the reader answers with them."""
    found: list[TypedExercise] = []
    number = 0
    for _ in range(draw(st.integers(1, 4))):
        kind, size = draw(st.sampled_from(("alone", "superset", "circuit"))), draw(st.integers(2, 3))
        number += kind != "alone"
        rounds = draw(st.integers(1, 9)) if kind == "circuit" else 0
        for _ in range(1 if kind == "alone" else size):
            low = draw(st.integers(1, 30))
            found.append(
                TypedExercise(
                    0,
                    "",
                    name=" ".join(draw(NAMES)),
                    weekday=2,
                    sets=rounds or draw(st.integers(1, 9)),
                    low=low,
                    high=low + draw(st.integers(0, 5)),
                    seconds=draw(st.booleans()),
                    end_hold_s=draw(st.sampled_from((0, 10, 30))),
                    reserve_reps=draw(st.sampled_from((None, 0, 2, 4))),
                    rest_s=draw(st.sampled_from((0, 45, 90, 180))),
                    tempo=draw(st.sampled_from(("", "3-1-1-0", "2-0-X-1"))),
                    each_side=draw(st.booleans()),
                    spare=draw(st.booleans()),
                    to_failure=draw(st.booleans()),
                    superset=0 if kind == "alone" else number,
                    circuit=kind == "circuit",
                    rounds=rounds,
                )
            )
    return found


def written(found: Sequence[TypedExercise]) -> str:
    """The second reader's own way of writing them."""
    lines, before = ["Wednesday"], TypedExercise(0, "")
    for one in found:
        if one.superset != before.superset:
            lines.append("")
            if one.superset:
                lines.append(f"{one.rounds} rounds:" if one.circuit else "Superset")
        amount = f"{one.low}" if one.low == one.high else f"{one.low}-{one.high}"
        dose = amount if one.circuit else f"{one.sets} x {amount}"
        parts = [
            f"{dose} s" if one.seconds else dose if one.sets and not one.circuit else f"{dose} reps",
            one.name,
            f"+ {one.end_hold_s} s" if one.end_hold_s else "",
            "" if one.reserve_reps is None else f"RIR {one.reserve_reps}",
            f"rest {one.rest_s} s" if one.rest_s else "",
            f"tempo {one.tempo}" if one.tempo else "",
            "each side" if one.each_side else "",
            "to failure" if one.to_failure else "",
            "if there is time" if one.spare else "",
        ]
        lines.append(" ".join(part for part in parts if part))
        before = one
    return "\n".join(lines)


@given(sessions())
def test_what_is_written_is_read_again(found: Sequence[TypedExercise]) -> None:
    assert [said(one) for one in typed_session(written(found))] == [said(one) for one in found]


@given(st.text(max_size=300))
def test_any_text_is_read_without_a_fault_and_no_line_is_dropped(text: str) -> None:
    found = typed_session(text)
    assert all(one.text for one in found)
