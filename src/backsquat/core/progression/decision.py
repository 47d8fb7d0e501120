"""What to do after an exposure: the decision, its reason and evidence as data (rules 2.4).

Order of judgement: pain → readiness check and limits → depth → form, the same for every progression; then the
progression's own view of misses, reps and effort. A decision never changes a past record.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from backsquat.core.pain import stops
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.rules import Rules
from backsquat.core.strength.record import SetRecord
from backsquat.core.working import plain

Facts = Mapping[str, str | float | int]


class Code(StrEnum):
    """What is proposed after an exposure."""

    UP = "up"
    STAY = "stay"
    DOWN = "down"
    EASIER_LEVEL = "easier level"
    HARDER_LEVEL = "harder level"
    STOP = "stop and refer"
    LOOK = "needs a look"


STRICT = {  # the order in which one answer is stricter than another
    Code.HARDER_LEVEL: 0, Code.UP: 0, Code.STAY: 1, Code.EASIER_LEVEL: 2, Code.DOWN: 2, Code.LOOK: 3, Code.STOP: 4,
}  # fmt: skip


@dataclass(frozen=True)
class Decision:
    """What is proposed, and how the weeks to come follow.

    `planning_max_share` and `steps` change the planning max of the weeks to come; `hold` keeps
    the rest of the wave at or under today's load; `next_wave_steps` is what the next wave adds.
    Progressions that climb from the last load take `load_share` and `load_steps` instead, and `reps`
    where the reps grow. `keeps`: the plan stays as it stands.
    """

    code: Code
    reason: str  # code of the sentence in phrases
    facts: Facts
    evidence: tuple[int, ...]  # ids of the sets
    would_change: str  # code of what would have led to another decision
    planning_max_share: float = 1.0
    steps: int = 0
    next_wave_steps: int = 1
    hold: bool = False
    load_share: float = 1.0
    load_steps: int = 0
    hold_share: float = 1.0  # of today's load, where it is held
    reps: int = 0  # asked next time; 0: as laid out
    keeps: bool = False

    @property
    def lasts(self) -> bool:
        """Whether it changes anything beyond the next session: a planning max, a wave to come, what is held."""
        moved = (self.planning_max_share, self.load_share, self.hold_share) != (1.0, 1.0, 1.0)
        return moved or self.hold or bool(self.steps) or self.next_wave_steps != 1

    @property
    def may_repeat(self) -> bool:
        """Whether it could be no more than the plan says: made, or stays, with nothing that lasts and no question."""
        return self.code in (Code.UP, Code.STAY) and not self.lasts and self.reason != "earned_ask"


@dataclass(frozen=True)
class Past:
    """An earlier decision on the same lift, as much as the next one needs of it."""

    reason: str
    missing: int  # reps missing then


@dataclass(frozen=True)
class Answers:
    """What the coach says of a week of the earned-week progression."""

    sound: bool
    sure: bool
    too_easy: bool


@dataclass(frozen=True)
class Pain:
    """Pain said by itself in an exposure: 0–10, None where no number was asked for."""

    level: int | None
    character: str
    set_id: int = 0  # of the set it was said with; 0: of none

    @property
    def evidence(self) -> tuple[int, ...]:
        """The set it was said with."""
        return (self.set_id,) if self.set_id else ()


@dataclass(frozen=True)
class Exposure:
    """One athlete's session of one movement: what was asked for and what was logged."""

    prescription: Prescription
    load_kg: float
    sets: Sequence[SetRecord]
    pain_last_time: bool = False  # pain was noted in the session before this one
    not_ready: bool = False  # a readiness check or limit has closed since the plan was made
    past: Sequence[Past] = ()  # of work weeks in this block, oldest first
    next_load_kg: float | None = None  # the next load up that this room has
    carried_kg: float = 0.0  # body mass moved with the load
    answers: Answers | None = None
    hinge: bool = False
    reported: Sequence[Pain] = ()  # pain that was said by itself
    left_out: bool = False  # what is left of it was left out with a reason: sets not done are no miss

    @property
    def pains(self) -> list[Pain]:
        """All pain of the exposure, said with a set or by itself."""
        with_sets = [Pain(s.pain, s.pain_character, s.set_id) for s in self.sets if s.pain]
        return [*with_sets, *self.reported]

    @property
    def sets_done(self) -> int:
        """How many sets there are."""
        return len(self.sets)

    @property
    def reps_missing(self) -> int:
        """Prescribed reps to depth that were not done, over the sets logged at the load or above it, and sets not done."""
        asked = self.prescription.reps
        done = [min(s.reps_to_depth if s.load_kg >= self.load_kg - 0.01 else 0, asked) for s in self.sets]
        missing_sets = 0 if self.left_out else max(0, self.prescription.sets - len(done))
        return sum(asked - reps for reps in done) + missing_sets * asked

    @property
    def cut_short(self) -> bool:
        """Left out before it was whole, and what was done was made: neither made nor missed."""
        return self.left_out and self.sets_done < self.prescription.sets and not self.reps_missing

    @property
    def full_sets(self) -> list[SetRecord]:
        """The sets at the load or above it."""
        return [s for s in self.sets if s.load_kg >= self.load_kg - 0.01]

    @property
    def margin_left(self) -> int:
        """What was left in the last set; nought where nobody said."""
        return (self.sets[-1].reserve_reps or 0) if self.sets else 0

    @property
    def misses_in_a_row(self) -> int:
        """Sessions before this one, newest first, that missed reps; a load taken down starts the count again."""
        count = 0
        for past in reversed(self.past):
            if not past.missing or past.reason in TAKEN_DOWN:
                break
            count += 1
        return count

    def times(self, reason: str) -> int:
        """How often a reason was given in the weeks before."""
        return sum(past.reason == reason for past in self.past)

    @property
    def reps_short_of_depth(self) -> int:
        """Reps that did not meet the athlete's depth standard, over all sets."""
        return sum(s.reps - s.reps_to_depth for s in self.sets)

    def promised(self, rules: Rules) -> int:
        """Whole reps the last set was expected to leave: what the first promises, less what the sets before it take."""
        return max(math.floor(self._expected_left(rules) + EVEN), 0)

    def _expected_left(self, rules: Rules) -> float:
        tired = min(max(self.prescription.sets - 1, 0) * rules.tired_a_set, rules.tired_most)
        return self.prescription.reserve_reps - tired

    def margin_reps(self, rules: Rules) -> int | None:
        """How many more were left in the last set than it was to leave, extra reps included; None if nobody said."""
        last = self.sets[-1] if self.sets else None
        if last is None or last.reserve_reps is None:
            return None
        more = last.reps_to_depth - self.prescription.reps
        return math.trunc(last.reserve_reps + more - self._expected_left(rules))  # a part of a rep is no difference


EVEN = 1e-9


TAKEN_DOWN = frozenset(
    {
        "reset",
        "reset_again",
        "missed",
        "stage_down",
        "window_down",
        "earned_down",
        "earned_missed_again",
        "effort_missed",
        "speed_down",
        "depth_lost",
        "pain_watch",
    }
)


def facts_of(exposure: Exposure) -> dict[str, str | float | int]:
    """What the sentences of every progression can say."""
    last = exposure.sets[-1] if exposure.sets else None
    return {
        "load_kg": exposure.load_kg,
        "sets": exposure.sets_done,
        "reps": exposure.prescription.reps,
        "left": -1 if last is None or last.reserve_reps is None else last.reserve_reps,
        "promised": exposure.prescription.reserve_reps,
        "missing": exposure.reps_missing,
        "shallow": exposure.reps_short_of_depth,
        **_worst_set(exposure),
        "low": exposure.prescription.low,
        "high": exposure.prescription.high,
    }


def _worst_set(exposure: Exposure) -> dict[str, str | float | int]:
    """The set that fell short the most, the first of several: its number, what was done and what was asked."""
    asked = exposure.prescription.reps
    short = [(n, s) for n, s in enumerate(exposure.sets, 1) if s.reps_to_depth < asked]
    if short:
        number, worst = min(short, key=lambda item: item[1].reps_to_depth)
        return {"short_set": number, "short_done": worst.reps_to_depth, "short_asked": asked}
    undone = exposure.prescription.sets - len(exposure.sets)
    return {"short_set": len(exposure.sets) + 1, "short_done": 0, "short_asked": asked} if undone > 0 else {}


def evidence_of(exposure: Exposure) -> tuple[int, ...]:
    """Ids of the sets a judgement rests on."""
    return tuple(s.set_id for s in exposure.sets)


def deload_done(exposure: Exposure) -> Decision:
    """After a deload week or a test the plan stands."""
    reason = "test_done" if exposure.prescription.kind is ExposureKind.TEST else "deload_done"
    return Decision(Code.STAY, reason, facts_of(exposure), evidence_of(exposure), "nothing", keeps=True)


def cut_short(exposure: Exposure) -> Decision:
    """Part of it was left out with a reason, the rest was made: the same again."""
    facts, evidence = facts_of(exposure), evidence_of(exposure)
    return Decision(Code.STAY, "cut_short", facts, evidence, "all_sets_done", next_wave_steps=0, hold=True)


def clock_done(exposure: Exposure) -> Decision:
    """Work by the clock under a progression of reps: its seconds are its own dose, and stay."""
    now = exposure.prescription.hold_s
    held = [s.hold_s or 0 for s in exposure.sets]
    whole = len(held) >= exposure.prescription.sets and min(held, default=0) >= now
    facts = facts_of(exposure) | {"hold_s": now, "next_s": now}
    reason = "clock_done" if whole else "hold_short"
    return Decision(Code.STAY, reason, facts, evidence_of(exposure), "all_held" if not whole else "one_short_hold")


def judge_safety(exposure: Exposure, lower_share: float, rules: Rules) -> Decision | None:
    """The part every progression shares: pain, readiness check, depth, form. None: nothing in the way, ask the progression.

    `lower_share` is what the progression leaves of the planning max when half the work was shallow or
    broken.
    """
    if found := _judge_pain(exposure, rules):
        return found
    if exposure.not_ready:
        return Decision(
            Code.LOOK, "readiness_check_open", _of(exposure), evidence_of(exposure), "readiness_check_passed", hold=True
        )
    if exposure.reps_short_of_depth:
        return _judge_depth(exposure, lower_share)
    return _judge_form(exposure, lower_share)


def worst_pain(pains: Sequence[Pain], rules: Rules) -> Pain | None:
    """The pain that decides: what stops before what does not, then the higher."""
    return max(pains, key=lambda p: (stops(p.level or 0, p.character, rules), p.level or 0), default=None)


def pain_stopped(hurt: Pain, facts: Facts, rules: Rules) -> Decision | None:
    """Stop and refer, where the pain asks for it."""
    if not stops(hurt.level or 0, hurt.character, rules):
        return None
    return Decision(Code.STOP, "pain_stop", {**facts, **pain_facts(hurt)}, hurt.evidence, "pain_below_line", hold=True)


def pain_facts(hurt: Pain) -> Facts:
    """What a sentence about pain names; −1 where nobody was asked for a number."""
    return {"pain": -1 if hurt.level is None else hurt.level, "character": hurt.character}


def _of(exposure: Exposure) -> dict[str, str | float | int]:
    return {"load_kg": exposure.load_kg, "sets": exposure.sets_done}


def _judge_pain(exposure: Exposure, rules: Rules) -> Decision | None:
    hurt = worst_pain(exposure.pains, rules)
    if hurt is None:
        return None
    if stop := pain_stopped(hurt, _of(exposure), rules):
        return stop
    if not hurt.level:
        return None
    code, reason = (Code.LOOK, "pain_again") if exposure.pain_last_time else (Code.DOWN, "pain_watch")
    share = rules.pain_ease_load
    facts = {**_of(exposure), **pain_facts(hurt), "percent": plain(100 * (1 - share))}
    eased = Decision(code, reason, facts, hurt.evidence, "no_pain", next_wave_steps=0, hold=True)
    return replace(eased, load_share=share, hold_share=share)


def _judge_depth(exposure: Exposure, lower_share: float) -> Decision:
    short = tuple(s.set_id for s in exposure.sets if s.reps_to_depth < s.reps)
    reps = sum(s.reps for s in exposure.sets)
    half = 2 * exposure.reps_short_of_depth >= reps
    code, share, reason = (Code.DOWN, lower_share, "depth_lost") if half else (Code.STAY, 1.0, "depth_short")
    facts = _of(exposure) | {"short": exposure.reps_short_of_depth, "reps": reps}
    return Decision(code, reason, facts, short, "depth_held", share, next_wave_steps=0, hold=True, load_share=share)


def _judge_form(exposure: Exposure, lower_share: float) -> Decision | None:
    broke = [s for s in exposure.sets if s.breaking_fault]
    if not broke:
        return None
    half = 2 * len(broke) >= len(exposure.sets) > 1
    code, share = (Code.DOWN, lower_share) if half else (Code.STAY, 1.0)
    facts, ids = _of(exposure) | {"fault": broke[0].breaking_fault, "broke": len(broke)}, tuple(s.set_id for s in broke)
    return Decision(code, "form_broke", facts, ids, "form_held", share, next_wave_steps=0, hold=True, load_share=share)
