"""Who may be planned under a bar. The full checklist of rules 2.6 grows from here.

Today the coach says, by name, that the athlete has shown a sound squat to depth; a minor also
needs the guardian's consent on file. Nobody is let through by default.
"""

import datetime as dt

from backsquat.core.findings import Finding, Severity
from backsquat.core.rules import Rules


def age_years(born_on: dt.date, today: dt.date) -> int:
    return today.year - born_on.year - ((today.month, today.day) < (born_on.month, born_on.day))


def gate_findings(
    *, shown_sound: bool, consent: bool, born_on: dt.date, today: dt.date, rules: Rules
) -> tuple[Finding, ...]:
    """What keeps an athlete from a bar; empty means the gate is open."""
    found = []
    age = age_years(born_on, today)
    if not shown_sound:
        found.append(Finding("squat_not_shown", Severity.STOP))
    if age < rules.adult_age_years and not consent:
        found.append(Finding("no_consent", Severity.STOP, {"age": age}))
    return tuple(found)
