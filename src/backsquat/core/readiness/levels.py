"""Where an athlete stands on a ladder, and when the next level is earned (rules 2.6).

A level's criterion is the movement's usual work at the top of its window: all sets, all reps to
depth. It is earned when it was met cleanly in `earned_sessions` sessions in a row: no breaking
fault, no hand on support unless the movement says so, pain at most `earned_pain`.
"""

import datetime as dt
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

from backsquat.core.movements.ladder import Ladder, level_beyond
from backsquat.core.movements.movement import Movement, ReadinessCheck
from backsquat.core.readiness.screens import SIDES, Known
from backsquat.core.rules import Rules
from backsquat.core.strength.record import SetRecord


@dataclass(frozen=True)
class LevelSession:
    """One day's sets of one movement, judged against the level's criterion."""

    done_on: dt.date
    set_ids: tuple[int, ...]
    met: bool
    why_not: str = ""  # code of what was missing
    broke: bool = False  # form broke in half of the sets or more
    pain: int = 0


def judge_session(movement: Movement, sets: Sequence[SetRecord], rules: Rules) -> LevelSession:
    """Whether a day's sets meet the criterion cleanly."""
    work, ids = movement.work, tuple(s.set_id for s in sets)
    pain = max((s.pain for s in sets), default=0)
    broke = 2 * sum(bool(s.breaking_fault) for s in sets) >= len(sets) > 0
    done = [s for s in sets if (s.hold_s or 0 if work.seconds else s.reps_to_depth) >= work.high]
    left, right = (sum(s.side == side for s in done) for side in SIDES)
    enough = sum(not s.side for s in done) + min(left, right)  # a set of one side counts with one of the other
    if pain > rules.earned_pain:
        why = "pain"
    elif any(s.breaking_fault for s in sets):
        why = "form"
    elif any(s.supported for s in sets):
        why = "supported"
    elif not work.seconds and any(s.reps_to_depth < s.reps for s in sets):
        why = "depth"
    elif enough < work.sets:
        why = "amount"
    else:
        why = ""
    return LevelSession(sets[0].done_on, ids, not why, why, broke, pain)


def sessions_of(movement: Movement, sets: Sequence[SetRecord], rules: Rules) -> list[LevelSession]:
    """The days on which the movement was done, oldest first."""
    ordered = sorted(sets, key=lambda s: (s.done_on, s.set_id))
    return [judge_session(movement, list(group), rules) for _, group in groupby(ordered, key=lambda s: s.done_on)]


@dataclass(frozen=True)
class LevelProposal:
    """A move up or down a ladder: to which level, by which movements, and why."""

    way: str  # harder or easier
    level: int
    movements: tuple[str, ...]
    reason: str  # code of the sentence
    evidence: tuple[int, ...]


def propose_level(
    ladder: Ladder, level: int, sessions: Sequence[LevelSession], allowed: Callable[[str], bool], rules: Rules
) -> LevelProposal | None:
    """What the sessions on a level lead to; None: stay. `sessions` are those since the athlete came onto it.

    Never over a level that is allowed: the next allowed one up or down is proposed, whatever the
    room lacks in between.
    """
    if not sessions:
        return None
    last = sessions[-1]
    if last.pain > rules.earned_pain or last.broke:
        beyond = level_beyond(ladder, level, -1, allowed)
        reason = "level_pain" if last.pain > rules.earned_pain else "level_form"
        return LevelProposal("easier", *beyond, reason, last.set_ids) if beyond else None
    row = sessions[-rules.earned_sessions :]
    if len(row) == rules.earned_sessions and all(session.met for session in row):
        beyond = level_beyond(ladder, level, 1, allowed)
        evidence = tuple(set_id for session in row for set_id in session.set_ids)
        return LevelProposal("harder", *beyond, "level_earned", evidence) if beyond else None
    return None


@dataclass(frozen=True)
class Placement:
    """Where an athlete would be placed on a ladder after screening, and why."""

    ladder: str
    movement: str
    reason: str  # code


def log_placements(proven: Mapping[str, int], ladders: Mapping[str, Ladder], rules: Rules) -> list[Placement]:
    """The hardest level of each ladder that the log proves: `proven` has the days with clean sets of each movement."""
    found = []
    for ladder in ladders.values():
        shown = {n: code for n, level in enumerate(ladder.levels) for code in level if _days(proven, code, rules)}
        if shown:
            found.append(Placement(ladder.code, shown[max(shown)], f"log {proven[shown[max(shown)]]}"))
    return found


def _days(proven: Mapping[str, int], code: str, rules: Rules) -> bool:
    return proven.get(code, 0) >= rules.proven_sessions


def _reach(known: Known, code: str, side: str = "") -> float | None:
    result = known.get((code, side))
    return result.value if result else None


def _both(known: Known, code: str) -> float | None:
    """The worse side of a two-sided screen where more is better."""
    values = [value for side in ("left", "right") if (value := _reach(known, code, side)) is not None]
    return min(values) if values else None


def placements(known: Known, opened: Collection[ReadinessCheck], rules: Rules) -> list[Placement]:
    """First levels from the screens and the readiness checks passed; a ladder about which nothing is known is left out.

    Always the cautious end: earning moves people up quickly enough.
    """
    squat, hinge = _squat_to_bar(known, opened), _hinge(known, opened)
    found = (squat, *_on_one_leg(known, rules), hinge, _thrust(known, rules), _overhead(known))
    return [one for one in found if one is not None]


def _squat_to_bar(known: Known, opened: Collection[ReadinessCheck]) -> Placement | None:
    lying, standing = _reach(known, "lying_squat"), _reach(known, "standing_squat")
    if ReadinessCheck.BARBELL in opened:
        return Placement("squat_to_bar", "back_squat", "readiness_check_passed")
    if lying == 0:
        return Placement("squat_to_bar", "deep_squat_supported", "range_first")
    if standing is None:
        return None
    if not standing:
        return Placement("squat_to_bar", "press_down_squat", "pattern_first")
    loaded = _reach(known, "counterbalanced_squat")
    return Placement(
        "squat_to_bar", *(("goblet_squat", "shape_and_load") if loaded else ("goblet_box_squat", "shape_sound"))
    )


def _on_one_leg(known: Known, rules: Rules) -> list[Placement]:
    """Split squat, step-up and hinge on one leg."""
    balance, hip = _both(known, "balance"), _both(known, "hip_extension")
    found = []
    if balance is not None or hip is not None:
        short = (balance is not None and balance < rules.place_balance_s) or hip == 0
        first = ("split_squat_support", "step_up_rail") if short else ("split_squat_front_raised", "step_up_low")
        reason = "balance_or_hip" if short else "balance_sound"
        found += [Placement(ladder, code, reason) for ladder, code in zip(("split_squat", "step"), first, strict=True)]
    grades = [g for side in ("left", "right") if (g := _reach(known, "one_leg_hinge", side)) is not None]
    if grades:
        code = "one_leg_hinge_support" if max(grades) >= 1 else "one_leg_hinge"
        found.append(Placement("one_leg_hinge", code, "hinge_grade"))
    return found


def _hinge(known: Known, opened: Collection[ReadinessCheck]) -> Placement | None:
    if ReadinessCheck.PULL in opened:
        return Placement("hinge", "romanian_deadlift", "readiness_check_passed")
    brace = _reach(known, "brace")
    if brace is None:
        return None
    sound = bool(brace) and _reach(known, "standing_hinge") != 0  # what failed wins
    return Placement("hinge", "kettlebell_deadlift" if sound else "kneeling_hinge", "brace")


def _thrust(known: Known, rules: Rules) -> Placement | None:
    bridge = _reach(known, "bridge_hold")
    if bridge is None:
        return None
    return Placement("thrust", "bench_thrust" if bridge >= rules.place_bridge_s else "floor_bridge", "bridge")


def _overhead(known: Known) -> Placement | None:
    """With a stick, whatever the readiness check says: a bar is put overhead by the ladder's own way through."""
    wall = _reach(known, "overhead_wall")
    if wall is None:
        return None
    return Placement("overhead", "overhead_stick" if wall else "overhead_stick_wall", "overhead_wall")


def fitting(
    placement: Placement, ladders: Mapping[str, Ladder], allowed: Callable[[str], bool]
) -> tuple[int, str] | None:
    """The level and movement a placement really leads to in this room: easier ones where it lacks something."""
    ladder = ladders[placement.ladder]
    level = ladder.level_of(placement.movement)
    if level is None:
        return None
    if allowed(placement.movement):
        return level, placement.movement
    same = next((code for code in ladder.levels[level] if allowed(code)), None)
    if same:
        return level, same
    beyond = level_beyond(ladder, level, -1, allowed)
    return (beyond[0], beyond[1][0]) if beyond else None
