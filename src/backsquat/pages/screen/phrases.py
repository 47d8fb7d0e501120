"""Wording of screens and their findings."""

from collections.abc import Callable, Mapping

from backsquat.core.findings import Finding
from backsquat.core.readiness.screens import Known, Result, ResultKind, Screen, ScreenChange
from backsquat.core.working import plain, signed
from backsquat.ui.phrases.names import in_text

FINDINGS = {
    "pattern_missing": "Pattern, not range: the shape is there lying, not standing. Pattern drills.",
    "range_missing": "Range, not pattern: the shape is missing lying too. Range drills.",
    "shape_sound": "Lying and standing both sound: load may come.",
    "shape_sound_ankles_short": "The shape is sound; the ankles are short. Wedge and ankle work beside the load.",
    "wedge_lend": "Lend a {mm:g} mm wedge.",
    "wedge_lower": "Lower the wedge from {from_mm:g} to {mm:g} mm: trunk and heels held in the last checks.",
    "wedge_keep": "Keep the {mm:g} mm wedge; {more} more sound check before it is lowered.",
    "ankle_short": "Short ankle: {where}, under {line:g} cm. Ankle work.",
    "side_gap": "{screen}: {side} weaker by {by:g} {unit}.",
    "not_passed": "{screen}{at}: not passed.",
}


def finding_words(finding: Finding) -> str:
    where = finding.facts.get("where")
    return FINDINGS[finding.code].format(**{**finding.facts, "at": f", {where}" if where else ""})


def drills_of(finding: Finding, name: Callable[[str], str]) -> list[tuple[str, str]]:
    """Code and name of the drills a finding gives."""
    return [(code, name(code)) for code in str(finding.facts.get("drills", "")).split()]


def evidence_words(finding: Finding, known: Known, screens: Mapping[str, Screen]) -> str:
    """Squat shape standing no, 2 Nov; knee to wall left 7 cm, 23 Nov"""
    said = []
    for code in str(finding.facts.get("evidence", "")).split():
        screen = screens.get(code)
        for side in screen.sides if screen else ():
            result = known.get((code, side))
            if screen and result:
                where = f" {side}" if side else ""
                day = f"{result.done_on.day} {result.done_on:%b}"
                said.append(f"{in_text(screen.name)}{where} {result_words(screen, result)}, {day}")
    return "; ".join(said)


def value_words(screen: Screen, value: float | None) -> str:
    if value is None:
        return ""
    if screen.kind is ResultKind.YES_NO:
        return "yes" if value else "no"
    return plain(value)


def result_words(screen: Screen, result: Result | None) -> str:
    if result is None:
        return ""
    words = value_words(screen, result.value)
    unit = "" if screen.kind in (ResultKind.YES_NO, ResultKind.GRADE) else f" {screen.unit}"
    return f"{words}{unit}"


def change_words(screen: Screen, change: ScreenChange | None) -> str:
    """+1.5 since 3 Sep, within the test's error"""
    if change is None or screen.kind is ResultKind.YES_NO:
        return ""
    if not change.by:
        return "same as before"
    words = f"{signed(change.by)} since {change.since.day} {change.since:%b}"
    return words if change.real else f"{words}, within the test's error"


def pass_words(screen: Screen) -> str:
    if screen.pass_at is None:
        return ""
    if screen.kind is ResultKind.YES_NO:
        return "passes: yes"
    return f"passes: {'at most' if screen.less_is_better else 'at least'} {plain(screen.pass_at)} {screen.unit}"


def kinds() -> Mapping[str, str]:
    return {kind.value: kind.value for kind in ResultKind}
