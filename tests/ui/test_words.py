"""Words are put to data when it is shown: every code the core and the operations use has its words."""

import ast
import datetime as dt
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.readiness.absence import AwayReason
from backsquat.core.readiness.levels import placements
from backsquat.core.readiness.limits import ActiveLimit, LimitKind, Scope
from backsquat.core.readiness.screens import Result
from backsquat.core.readiness.verdict import Obstacle, OpenStop, Reason, Short, TimeAway, Unearned
from backsquat.core.rules import Rules
from backsquat.core.season.milestone import judge, judge_level
from backsquat.core.season.trend import Point
from backsquat.core.working import Step
from backsquat.library.shelf import ladders, movements
from backsquat.ui.phrases.decisions import outcome_words, sentence
from backsquat.ui.phrases.flags import FLAGS
from backsquat.ui.phrases.milestones import status_words
from backsquat.ui.phrases.readiness_checks import place_words
from backsquat.ui.phrases.verdicts import obstacle_words, short_obstacle
from backsquat.ui.phrases.working import LABELS, WORDS, said
from backsquat.work.record.record import Flag

SCREENED = [
    (code, "")
    for code in ("lying_squat", "standing_squat", "counterbalanced_squat", "brace", "standing_hinge", "bridge_hold")
] + [("overhead_wall", "")]
SOURCE = Path(__file__).parents[2] / "src/backsquat"
DAY = dt.date(2026, 11, 23)


def codes_of_steps() -> set[str]:
    """The code of every `Step(...)` in the source."""
    found = set()
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "Step" and node.args:
                code = node.args[0]
                if isinstance(code, ast.Constant):
                    found.add(str(code.value))
                elif isinstance(code, ast.IfExp):
                    found |= {str(part.value) for part in (code.body, code.orelse) if isinstance(part, ast.Constant)}
    return found


def test_every_step_has_a_label_and_words() -> None:
    codes = codes_of_steps()
    assert len(codes) > 25
    assert codes <= LABELS.keys() and codes <= WORDS.keys()


@pytest.mark.parametrize(
    ("step", "words"),
    [
        (Step("under_limit", {}, 60.0, "kg"), ("Limit", "not above the limit for now", "60", "kg")),
        (Step("planning_max", {"share": 0.95, "caution": "stale"}, 114.0, "kg"), ("Planning max", "× 0.95, stale record", "114", "kg")),
        (Step("against_last", {"side_kg": 2.5}, 5.0, "kg"), ("Against the load before", "2.5 a side = 5 in all", "5", "kg")),
        (Step("take", {"rig": "Dumb-bells", "kind": "dumb-bells"}, "12.5", "kg"), ("Take", "Dumb-bells", "2 × 12.5", "kg")),
        (Step("take", {"rig": "Lying curl", "kind": "stack"}, "15", "kg"), ("Take", "Lying curl", "pin at 15", "kg")),
        (Step("as_written", {"label": "Coach", "words": "R. Amari changed it"}, "80", "kg"), ("Coach", "R. Amari changed it", "80", "kg")),
    ],
)  # fmt: skip
def test_steps_as_a_coach_reads_them(step: Step, words: tuple[str, str, str, str]) -> None:
    assert said(step) == words


def test_a_logged_set_says_its_load_and_what_was_left() -> None:
    facts = {"done_on": "2026-10-26", "load_kg": 102.5, "reps": 4, "to_depth": 4, "left": 2}
    assert said(Step("logged_set", facts, 102.5, "kg")).words == "26 Oct · 102.5 × 4, RIR 2, all to depth"


def test_an_estimate_says_its_formula_its_trust_and_what_did_not_count() -> None:
    facts = {
        "load_kg": 100.0, "carried_kg": 0.0, "formula": "epley", "reps": 9, "trust": "fair", "all_to_depth": True,
        "left": 7, "left_cap": 4,
    }  # fmt: skip
    words = said(Step("estimate", facts, 130.0, "kg")).words
    assert words == "100 × (1 + 9 ÷ 30), Epley 1985, trust: fair; only 4 of RIR 7 counts"
    carried = said(Step("estimate", facts | {"load_kg": 20.0, "carried_kg": 30.0, "left": 2}, 30.0, "kg")).words
    assert carried.startswith("(20 + 30 of the body) × (1 + 9 ÷ 30) − 30")


RULES = Rules()
STOP = OpenStop(1, 2, "back_squat", "knee", 6, "sharp", dt.datetime.combine(DAY, dt.time(18)))
LIMIT = ActiveLimit(Scope.MOVEMENT, "back_squat", LimitKind.LOAD, 60.0, "", DAY, None, "M. Ferro, physio")
OBSTACLES = {
    Reason.STOPPED: Obstacle(Reason.STOPPED, stop=STOP),
    Reason.AWAY: Obstacle(Reason.AWAY, absence=TimeAway(1, DAY, None, AwayReason.ILLNESS)),
    Reason.BARRED: Obstacle(Reason.BARRED, limit=LIMIT),
    Reason.NOT_READY: Obstacle(Reason.NOT_READY),
    Reason.UNEARNED: Obstacle(Reason.UNEARNED, unearned=Unearned(Short.ABOVE_LEVEL, ladders()["thrust"], 5, 2)),
    Reason.OVER_LIMIT: Obstacle(Reason.OVER_LIMIT, limit=LIMIT),
}


@pytest.mark.parametrize("reason", list(Reason))
def test_everything_in_the_way_can_be_said(reason: Reason) -> None:
    long, short = obstacle_words(OBSTACLES[reason]), short_obstacle(OBSTACLES[reason])
    assert long and short and "{" not in long + short and "None" not in long + short


def test_every_flag_of_a_set_can_be_said() -> None:
    assert {flag.value for flag in Flag} == FLAGS.keys()


def test_what_was_missed_is_named_and_what_a_milestone_lacks() -> None:
    facts = {"missing": 1, "sets": 3, "reps": 4, "short_set": 3, "short_done": 3, "short_asked": 4, "left": 0}
    library = Library(movements(), ladders())
    said_so = sentence("stay", "fixed_missed", facts, {"next_load": "80", "next_reps": 4}, "back_squat", library)
    assert "one rep (3 of 4 in set 3) missing" in said_so
    undone = sentence("stay", "fixed_missed", facts | {"missing": 4, "short_done": 0}, {}, "back_squat", library)
    assert "4 reps (set 3 not done) missing" in undone
    nothing = judge((), None, DAY, RULES)
    short = judge((Point(DAY, 80.0),), 100.0, DAY, RULES)
    assert status_words(nothing) == "no data: no body mass yet"
    assert status_words(short) == f"no data: 1 of {RULES.trend_points} weeks with a record"
    assert status_words(judge_level(None, 3, DAY, DAY)) == "no data: not placed yet"
    assert status_words(judge_level(1, 3, DAY, DAY)) == "no data: on level 2"


@given(
    st.dictionaries(
        st.sampled_from([*SCREENED, ("balance", "left"), ("hip_extension", "left"), ("one_leg_hinge", "left")]),
        st.sampled_from([0.0, 1.0, 30.0]),
    ),
    st.booleans(),
)
def test_every_way_onto_a_level_has_its_words(known: dict[tuple[str, str], float], ready: bool) -> None:
    results = {key: Result(value, dt.date(2026, 11, 3)) for key, value in known.items()}
    for place in placements(results, tuple(ReadinessCheck) if ready else (), Rules()):
        assert place_words(place.reason)


def test_the_number_after_a_deload_week_is_said_to_come_after_it() -> None:
    following = {"next_load": "50 kg", "next_reps": 6, "then": "62.5 kg", "then_reps": 5}
    assert outcome_words("up", following, Library({}, {})) == "62.5 kg × 5 after the deload week"
    assert "after the deload week" not in outcome_words("up", following | {"then": ""}, Library({}, {}))
