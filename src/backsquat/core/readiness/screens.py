"""Screens: what is tested before any load, and what the results mean together (rules 2.6).

A result is one number: yes is 1 and no 0, a grade 0 (sound) to 3 (lost), everything else in the
screen's unit. Findings are data; the words for them live in the features.
"""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from backsquat.core.findings import Finding, Severity
from backsquat.core.rules import Rules

SIDES = ("left", "right")
TINY = 1e-9  # typed decimals are not exact in binary


class ResultKind(StrEnum):
    """What a screen is measured in."""

    YES_NO = "yes/no"
    GRADE = "grade"
    SECONDS = "seconds"
    CENTIMETRES = "centimetres"
    MILLIMETRES = "millimetres"
    DEGREES = "degrees"
    REPS = "reps"
    KILOGRAMS = "kilograms"


UNITS = {
    ResultKind.YES_NO: "",
    ResultKind.GRADE: "0–3",
    ResultKind.SECONDS: "s",
    ResultKind.CENTIMETRES: "cm",
    ResultKind.MILLIMETRES: "mm",
    ResultKind.DEGREES: "°",
    ResultKind.REPS: "reps",
    ResultKind.KILOGRAMS: "kg",
}
MOST = {
    ResultKind.YES_NO: 1.0,
    ResultKind.GRADE: 3.0,
    ResultKind.SECONDS: 900.0,
    ResultKind.CENTIMETRES: 400.0,
    ResultKind.MILLIMETRES: 200.0,
    ResultKind.DEGREES: 180.0,
    ResultKind.REPS: 200.0,
    ResultKind.KILOGRAMS: 200.0,
}
WHOLE = frozenset({ResultKind.YES_NO, ResultKind.GRADE, ResultKind.REPS})


@dataclass(frozen=True)
class Screen:
    """`pass_at` is the line a value must reach: at least it, or at most it where less is better."""

    code: str
    name: str
    how: str  # how it is done, in a sentence or two
    kind: ResultKind
    two_sided: bool = False
    pass_at: float | None = None  # None: recorded, not passed
    less_is_better: bool = False
    gap: float | None = None  # difference between the sides that is noted
    error: float = 0.0  # typical error of the test: a smaller change says nothing
    drills: tuple[str, ...] = ()  # movements to give where it is not passed
    source: str = "usual practice"
    retest_days: int | None = None  # None: the squad's interval; 0: never due by itself
    own: bool = False
    retired: bool = False

    @property
    def unit(self) -> str:
        """The unit as it is written beside a value."""
        return UNITS[self.kind]

    @property
    def sides(self) -> tuple[str, ...]:
        """Left and right, or one value without a side."""
        return SIDES if self.two_sided else ("",)

    def passes(self, value: float) -> bool | None:
        """Whether a value passes; None where the screen has no line."""
        if self.pass_at is None:
            return None
        return value <= self.pass_at if self.less_is_better else value >= self.pass_at

    def possible(self, value: float) -> bool:
        """Whether a value can be: within the range of its kind, whole where it must be."""
        return 0 <= value <= MOST[self.kind] and (self.kind not in WHOLE or value == int(value))


@dataclass(frozen=True)
class Result:
    """One value as it stands."""

    value: float
    done_on: dt.date


Facts = dict[str, str | float | int]
Known = Mapping[tuple[str, str], Result]  # (screen, side) → the newest result


@dataclass(frozen=True)
class ScreenChange:
    """This value against the one before it; `real` where it is more than the typical error."""

    by: float
    since: dt.date
    real: bool
    better: bool | None  # None: no direction is better


def change_since(screen: Screen, now: Result, before: Result | None) -> ScreenChange | None:
    """What became of a value since the one before; None where there is none before."""
    if before is None:
        return None
    by = now.value - before.value
    better = None
    if screen.pass_at is not None and by:
        better = (by < 0) == screen.less_is_better
    return ScreenChange(by, before.done_on, abs(by) > screen.error + TINY, better)


def gap_between(screen: Screen, known: Known) -> tuple[str, float] | None:
    """The weaker side and the difference, where the two sides differ by more than is noted and than the error."""
    pair = [known.get((screen.code, side)) for side in SIDES]
    if screen.gap is None or pair[0] is None or pair[1] is None:
        return None
    by = pair[0].value - pair[1].value
    if abs(by) < screen.gap - TINY or abs(by) <= screen.error + TINY:
        return None
    left_is_weaker = (by > 0) == screen.less_is_better
    return SIDES[0] if left_is_weaker else SIDES[1], abs(by)


def due(screens: Sequence[Screen], known: Known, today: dt.date, rules: Rules) -> list[Screen]:
    """Screens never done, or not within the retest interval; what only notes a setting is never due."""
    found = []
    for screen in screens:
        days = rules.retest_days if screen.retest_days is None else screen.retest_days
        line = today - dt.timedelta(days=days)
        results = [known.get((screen.code, side)) for side in screen.sides]
        if days and any(result is None or result.done_on <= line for result in results):
            found.append(screen)
    return found


def _yes(known: Known, code: str) -> bool | None:
    result = known.get((code, ""))
    return None if result is None else bool(result.value)


def short_ankles(known: Known, rules: Rules) -> list[tuple[str, float]]:
    """Sides whose knee-to-wall distance is short, with it."""
    found = [(side, known.get(("knee_to_wall", side))) for side in SIDES]
    return [(side, result.value) for side, result in found if result and result.value < rules.ankle_short_cm]


def pattern_or_range(known: Known, rules: Rules) -> Finding | None:
    """The telling pair: the squat shape lying with the feet against a wall, and standing.

    Lying yes, standing no: the joints allow it, the pattern is missing. Lying no: the range is
    missing. Short ankles ask for a wedge and ankle work besides. Both fine: load.
    """
    lying, standing = _yes(known, "lying_squat"), _yes(known, "standing_squat")
    if lying is None and standing is None:
        return None
    if lying is False:
        return Finding(
            "range_missing", Severity.WATCH, {"drills": "deep_squat_supported toe_ankle_rock adductor_shift"}
        )
    if standing is False and lying:
        drills = {"drills": "press_down_squat squat_from_plank squat_from_all_fours"}
        return Finding("pattern_missing", Severity.WATCH, drills)
    if standing and lying and not short_ankles(known, rules):
        return Finding("shape_sound", Severity.NOTE)
    return None if standing is None or lying is None else Finding("shape_sound_ankles_short", Severity.NOTE)


WEDGES_MM = (50, 40, 30, 20, 10, 0)
FIRST_WEDGE_MM = 30  # lent first; usual practice


def wedge_advice(known: Known, checks: Sequence[tuple[float, bool]], rules: Rules) -> Finding | None:
    """A wedge to lend, or when to lower it.

    `checks` are the standing squats in order of date, each with the wedge under the heels in mm and
    whether trunk and heels held, clean sessions on the floor among them. The wedge comes down a step after
    `wedge_checks` in a row held.
    """
    short = short_ankles(known, rules)
    if not rules.wedge_allowed:
        return None
    if not checks:
        return Finding("wedge_lend", Severity.NOTE, {"mm": FIRST_WEDGE_MM}) if short else None
    wedge_mm, held = checks[-1]
    if not held and wedge_mm < WEDGES_MM[0]:
        higher = min((step for step in WEDGES_MM if step > wedge_mm), default=0) if wedge_mm else FIRST_WEDGE_MM
        return Finding("wedge_lend", Severity.NOTE, {"mm": higher}) if short or wedge_mm else None
    if held and wedge_mm > 0:
        row = [ok for mm, ok in checks[-rules.wedge_checks :] if mm <= wedge_mm]
        lower = max(step for step in WEDGES_MM if step < wedge_mm)
        if len(row) == rules.wedge_checks and all(row):
            return Finding("wedge_lower", Severity.NOTE, {"mm": lower, "from_mm": wedge_mm})
        return Finding("wedge_keep", Severity.NOTE, {"mm": wedge_mm, "more": rules.wedge_checks - sum(row)})
    return None


def screen_findings(
    screens: Sequence[Screen], known: Known, checks: Sequence[tuple[float, bool]], rules: Rules
) -> list[Finding]:
    """Everything the results say together: pattern or range, ankles, wedge, sides, what was not passed.

    The fact `evidence` names the screens a finding rests on.
    """
    found = [_resting_on(item) for item in (pattern_or_range(known, rules), wedge_advice(known, checks, rules)) if item]
    short = short_ankles(known, rules)
    if short:
        where = " and ".join(f"{side} {value:g} cm" for side, value in short)
        facts: Facts = {
            "evidence": "knee_to_wall",
            "where": where,
            "line": rules.ankle_short_cm,
            "drills": "toe_ankle_rock calf_raise",
        }
        found.append(Finding("ankle_short", Severity.WATCH, facts))
    for screen in screens:
        gap = gap_between(screen, known)
        if gap:
            facts_gap: Facts = {
                "evidence": screen.code,
                "screen": screen.name,
                "side": gap[0],
                "by": gap[1],
                "unit": screen.unit,
            }
            found.append(Finding("side_gap", Severity.NOTE, facts_gap))
        if screen.code in ("knee_to_wall", "lying_squat", "standing_squat"):
            continue  # said above
        missed = [
            side
            for side in screen.sides
            if (result := known.get((screen.code, side))) and screen.passes(result.value) is False
        ]
        if missed:
            where = " and ".join(side for side in missed if side)
            facts_missed: Facts = {
                "evidence": screen.code,
                "screen": screen.name,
                "where": where,
                "drills": " ".join(screen.drills),
            }
            found.append(Finding("not_passed", Severity.WATCH, facts_missed))
    return found


def _resting_on(finding: Finding) -> Finding:
    """The finding with the screens behind it."""
    squat = "standing_squat squat_wedge" if finding.code.startswith("wedge") else "lying_squat standing_squat"
    return replace(finding, facts={**finding.facts, "evidence": squat})
