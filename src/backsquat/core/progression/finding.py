"""The way to the first load of a pattern nobody has seen the athlete in (rules 2.2).

Holding a load overhead, in front or in a one-arm rack is itself to be learnt: the first session is the empty bar, or a
bell of half the ceiling; the second is halfway on; what a ratio to a known lift gives is the ceiling, reached in the
third.
"""

from backsquat.core.progression.terms import BARS, Progress, Terms
from backsquat.core.working import Step


def still_finding(terms: Terms, progress: Progress) -> bool:
    """Whether the next working exposure belongs to the way there, or is the first at the ceiling."""
    return terms.found_in is not None and terms.found_in + progress.worked <= terms.rules.finding_sessions


def on_the_way(ceiling_kg: float, terms: Terms, progress: Progress) -> tuple[float, Step] | None:
    """The load of a session on the way, in kg as it is written, with its step of working; None at the ceiling.

    A ceiling under the lightest load there is stays what it is: nothing is rounded up to it.
    """
    nth, lightest_kg, rules = (terms.found_in or 0) + progress.worked, terms.loads.lightest.kg, terms.rules
    if nth >= rules.finding_sessions or ceiling_kg <= lightest_kg:
        return None
    first_kg = lightest_kg if terms.rig.kind in BARS else max(lightest_kg, ceiling_kg * rules.finding_first_share)
    load_kg = first_kg + (ceiling_kg - first_kg) * nth / rules.finding_sessions
    facts = {"nth": nth + 1, "of": rules.finding_sessions, "ceiling_kg": ceiling_kg}
    return load_kg, Step("finding", facts, load_kg, "kg")
