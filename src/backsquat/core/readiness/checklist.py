"""The readiness checks before loaded work: a checklist with pass, not yet or not tested for each line (rules 2.6).

All lines are needed, or an override with a name and a reason. Two lines are never overridden: an
open pain stop, and the guardian's consent for a minor. Nobody is let through by default.
"""

import datetime as dt
from dataclasses import dataclass, field, replace
from enum import StrEnum

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.findings import Finding, Severity
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.readiness.screens import Facts, Known
from backsquat.core.rules import Rules


class LineState(StrEnum):
    """How a line of the checklist stands."""

    PASS = "pass"
    NOT_YET = "not yet"
    NOT_TESTED = "not tested"


@dataclass(frozen=True)
class LineFact:
    """What was found for a line, or what it needs: a code whose words are the interface's, with its facts."""

    code: str
    facts: Facts = field(default_factory=dict)


@dataclass(frozen=True)
class ReadinessCheckLine:
    """One line of the checklist: what was found against what is needed. None: there is nothing to say."""

    code: str
    state: LineState
    found: LineFact | None = None
    needed: LineFact | None = None
    firm: bool = False  # no override opens it


@dataclass(frozen=True)
class Override:
    """Let through by name, on a day, for a reason."""

    by: str
    on: dt.date
    reason: str

    @property
    def signed(self) -> bool:
        """Whether it has a name and a reason; without them it opens nothing."""
        return bool(self.by.strip() and self.reason.strip())


@dataclass(frozen=True)
class Candidacy:
    """What the readiness checks must know of an athlete."""

    known: Known
    born_on: dt.date
    consent: bool
    stopped: bool
    body_mass_kg: float | None = None
    road_sessions: int = 0  # days with sound work on the road to the bar
    road_days: int = 0  # from the first to the last of them
    override: Override | None = None
    old: frozenset[str] = frozenset()  # screens that were done, and not lately
    hinge_earned: bool | None = None  # the hinge with a weight in the hands; None: on no level of that ladder
    thrust_earned: bool | None = None  # the thrust from a bench; None: on no level of that ladder
    hinge_days: int = 0  # days with clean hinges on a bar, far enough back in the log
    squat_days: int = 0  # the same of squats
    lifted_soundly: bool = (
        False  # has lifted what this readiness check is for before, clean and with nothing against it
    )
    lifts: bool = False  # has lifted behind it within the retest interval: the screens need not be done again

    def lately(self, today: dt.date, rules: Rules) -> "Candidacy":
        """What the readiness checks look at: screens past the retest interval only of who has lifted since."""
        if self.lifts:
            return self
        line = today - dt.timedelta(days=rules.retest_days)
        known = {key: result for key, result in self.known.items() if key[0] not in GROWS_OLD or result.done_on > line}
        return replace(self, known=known, old=frozenset(code for code, _ in self.known.keys() - known.keys()))


GROWS_OLD = frozenset(
    {
        "brace",
        "standing_squat",
        "knees_track",
        "pelvis",
        "side_shift",
        "deep_squat_hold",
        "counterbalanced_squat",
        "overhead_wall",
        "standing_hinge",
    }
)
OF_SCREENS = {"sound_hinge": "standing_hinge"}  # lines named otherwise than their screen


@dataclass(frozen=True)
class ReadinessCheckView:
    """A readiness check's checklist as it stands for one athlete."""

    readiness_check: ReadinessCheck
    lines: tuple[ReadinessCheckLine, ...]
    override: Override | None = None

    @property
    def passed(self) -> bool:
        """Whether every line is passed."""
        return all(line.state is LineState.PASS for line in self.lines)

    @property
    def open(self) -> bool:
        """Every line passes, or the override covers all that are not firm."""
        return not self.missing

    @property
    def missing(self) -> tuple[ReadinessCheckLine, ...]:
        """The lines that keep the readiness check shut: of somebody let through, those no override opens."""
        let_through = self.override is not None and self.override.signed
        return tuple(line for line in self.lines if line.state is not LineState.PASS and (line.firm or not let_through))


def checklist(readiness_check: ReadinessCheck, who: Candidacy, today: dt.date, rules: Rules) -> ReadinessCheckView:
    """A readiness check as it stands; what was tested once, and neither lately nor shown by lifting since, is said to be
    old.
    """
    who = who.lately(today, rules)
    view = CHECKLISTS[readiness_check](who, today, rules)
    lines = tuple(
        replace(line, found=LineFact("not_lately"))
        if line.state is LineState.NOT_TESTED and OF_SCREENS.get(line.code, line.code) in who.old
        else line
        for line in view.lines
    )
    return replace(view, lines=lines)


def lacks_consent(born_on: dt.date, consent: bool, today: dt.date, rules: Rules) -> bool:
    """Whether somebody is a minor whose guardian has not agreed: the one place that says so."""
    return not consent and age_years(born_on, today) < rules.adult_age_years


def age_years(born_on: dt.date, today: dt.date) -> int:
    """Whole years on a day."""
    if born_on > today:
        raise ImpossibleInput(Problem("born_on", "in_future", {"today": today.isoformat()}))
    return today.year - born_on.year - ((today.month, today.day) < (born_on.month, born_on.day))


def _line(
    code: str, ok: bool | None, found: LineFact | None = None, needed: LineFact | None = None, firm: bool = False
) -> ReadinessCheckLine:
    state = LineState.NOT_TESTED if ok is None else LineState.PASS if ok else LineState.NOT_YET
    return ReadinessCheckLine(code, state, found, needed, firm)


def _value(known: Known, code: str) -> float | None:
    result = known.get((code, ""))
    return None if result is None else result.value


def _yes_line(known: Known, code: str) -> ReadinessCheckLine:
    value = _value(known, code)
    return _line(code, None if value is None else bool(value))


def barbell_readiness_check(who: Candidacy, today: dt.date, rules: Rules) -> ReadinessCheckView:
    """The checklist before a bar on the back, in front or overhead."""
    known = who.known
    lines = [_yes_line(known, "brace"), _shape(known, rules), _yes_line(known, "knees_track")]
    for code in ("pelvis", "side_shift"):
        grade = _value(known, code)
        ok = None if grade is None else grade <= rules.readiness_check_grade
        lines.append(
            _line(code, ok, _found("grade", grade), LineFact("grade_most", {"value": rules.readiness_check_grade}))
        )
    held = _value(known, "deep_squat_hold")
    ok = None if held is None else held >= rules.readiness_check_hold_s
    lines.append(
        _line(
            "deep_squat_hold", ok, _found("seconds", held), LineFact("seconds", {"value": rules.readiness_check_hold_s})
        )
    )
    lines += [_counterbalanced(who, rules), _experience(who, rules), *firm_lines(who, today, rules)]
    return ReadinessCheckView(ReadinessCheck.BARBELL, tuple(lines), who.override)


def firm_lines(who: Candidacy, today: dt.date, rules: Rules) -> tuple[ReadinessCheckLine, ...]:
    """What no override opens: pain stops and, for minors, the guardian's consent."""
    age = age_years(who.born_on, today)
    lines = [_line("no_stop", not who.stopped, LineFact("open_stop") if who.stopped else None, None, True)]
    if age < rules.adult_age_years:
        lines.append(_line("consent", who.consent, LineFact("age", {"years": age}), LineFact("consent"), True))
    return tuple(lines)


def _shape(known: Known, rules: Rules) -> ReadinessCheckLine:
    shape, wedge = _value(known, "standing_squat"), _value(known, "squat_wedge") or 0.0
    needed = LineFact("wedge_most", {"value": rules.readiness_check_wedge_mm})
    if shape is None:
        return _line("standing_squat", None, None, needed)
    found = LineFact("shape_sound" if shape else "shape_unsound", {"wedge_mm": wedge})
    return _line("standing_squat", bool(shape) and wedge <= rules.readiness_check_wedge_mm, found, needed)


def _counterbalanced(who: Candidacy, rules: Rules) -> ReadinessCheckLine:
    kg = _value(who.known, "counterbalanced_squat")
    share = rules.readiness_check_counterbalance_share
    if who.body_mass_kg is None:
        return _line("counterbalanced_squat", None, _found("kg", kg), LineFact("share_of_unknown", {"share": share}))
    line = share * who.body_mass_kg
    needed = LineFact("kg_least", {"value": line})
    return _line("counterbalanced_squat", None if kg is None else kg >= line - 1e-9, _found("kg", kg), needed)


def _found(code: str, value: float | None) -> LineFact | None:
    return None if value is None else LineFact(code, {"value": value})


def _experience(who: Candidacy, rules: Rules) -> ReadinessCheckLine:
    """Either enough sessions over enough weeks, or shown by an experienced lifter in a witnessed test."""
    road: Facts = {"sessions": rules.readiness_check_sessions, "weeks": rules.readiness_check_weeks}
    needed = LineFact("road_or_test", road)
    if _value(who.known, "witnessed_test"):
        return _line("experience", True, LineFact("witnessed"), needed)
    enough = (
        who.road_sessions >= rules.readiness_check_sessions and who.road_days >= 7 * rules.readiness_check_weeks - 1
    )
    days = who.road_days + 1 if who.road_sessions else 0  # from the first to the last, both of them
    found = LineFact("road", {"sessions": who.road_sessions, "days": days})
    return _line("experience", enough, found, needed)


def overhead_readiness_check(who: Candidacy, today: dt.date, rules: Rules) -> ReadinessCheckView:
    """Before anything loaded overhead: the wall check, at the distance it was done, flat or with the wedge noted."""
    value = _value(who.known, "overhead_wall")
    distance, wedge = _value(who.known, "wall_distance"), _value(who.known, "overhead_wedge") or 0.0
    found = (
        LineFact("wall", {"cm": distance, "wedge_mm": wedge}) if distance is not None else LineFact("wall_no_distance")
    )
    ok = None if value is None or distance is None else bool(value)
    line = _line("overhead_wall", ok, None if value is None else found, LineFact("wall_clear"))
    return ReadinessCheckView(ReadinessCheck.OVERHEAD, (line, *firm_lines(who, today, rules)), who.override)


def pull_readiness_check(who: Candidacy, today: dt.date, rules: Rules) -> ReadinessCheckView:
    """Before pulls and hinges with a bar: a brace and a sound hinge, no squat shape.

    Where somebody stands on the hinge ladder says more than the screen; who has lifted there soundly has shown it.
    """
    needed = LineFact("hinge_seen_or_earned")
    seen = _value(who.known, "standing_hinge")
    brace, proven = _yes_line(who.known, "brace"), who.hinge_days >= rules.proven_sessions
    shown = LineFact("log", {"sessions": who.hinge_days})
    if brace.state is LineState.NOT_TESTED and proven:
        brace = _line("brace", True, shown)
    if who.hinge_earned is not None:
        line = _line("sound_hinge", who.hinge_earned, LineFact("hinge_level"), needed)
    elif seen is None and proven:  # a screen that failed says more than the log
        line = _line("sound_hinge", True, shown, needed)
    elif who.lifted_soundly and who.lifts:
        line = _line("sound_hinge", True, LineFact("lifted_before"), needed)
    else:
        line = _line("sound_hinge", None if seen is None else bool(seen), None, needed)
    return ReadinessCheckView(ReadinessCheck.PULL, (brace, line, *firm_lines(who, today, rules)), who.override)


def thrust_readiness_check(who: Candidacy, today: dt.date, rules: Rules) -> ReadinessCheckView:
    """Before a bar over the hips: the thrust from the floor and from a bench earned. The pad is the room's matter."""
    earned = True if who.thrust_earned is None and who.lifted_soundly else who.thrust_earned
    found = None if earned is None else LineFact("lifted_before" if who.thrust_earned is None else "level")
    if earned is None and min(who.hinge_days, who.squat_days) >= rules.proven_sessions:
        earned, found = True, LineFact("log_of_both", {"squats": who.squat_days, "hinges": who.hinge_days})
    line = _line("bench_thrust", earned, found, LineFact("bridge_and_thrust"))
    return ReadinessCheckView(ReadinessCheck.THRUST, (line, *firm_lines(who, today, rules)), who.override)


CHECKLISTS = {
    ReadinessCheck.BARBELL: barbell_readiness_check,
    ReadinessCheck.OVERHEAD: overhead_readiness_check,
    ReadinessCheck.PULL: pull_readiness_check,
    ReadinessCheck.THRUST: thrust_readiness_check,
}


def readiness_check_findings(view: ReadinessCheckView) -> tuple[Finding, ...]:
    """What keeps the readiness check from being passed, for a short note; empty means it is open."""
    missing = view.missing
    if not missing:
        return ()
    firm = [line for line in missing if line.firm]
    found = [
        Finding(f"readiness_check_{line.code}", Severity.STOP, line.found.facts if line.found else {}) for line in firm
    ]
    others = len(missing) - len(firm)
    if others:
        facts = {"missing": others, "lines": len(view.lines), "readiness_check": view.readiness_check.value}
        found.append(Finding("readiness_check_lines", Severity.STOP, facts))
    return tuple(found)
