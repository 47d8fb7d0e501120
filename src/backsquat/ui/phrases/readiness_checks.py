"""Wording of readiness checks, placements and moves on ladders."""

from backsquat.core.findings import Finding
from backsquat.core.readiness.checklist import LineFact, ReadinessCheckLine
from backsquat.core.working import plain
from backsquat.ui.phrases.names import in_text

FINDINGS: dict[str, str] = {
    "readiness_check_no_stop": "an open pain stop",
    "readiness_check_consent": "{years} years old, no guardian's consent on file",
    "readiness_check_lines": "{missing} of {lines} readiness checks missing ({readiness_check})",
}


def finding_words(finding: Finding) -> str:
    """What keeps a readiness check shut, in a few words."""
    return FINDINGS[finding.code].format(**finding.facts)


READINESS_CHECK_NAMES = {
    "barbell": "Ready for the bar",
    "overhead": "Ready for the bar overhead",
    "pull": "Ready for bar pulls",
    "thrust": "Ready for bar thrusts",
}
READINESS_CHECK_SCOPES = {
    "barbell": "Before a bar on the back, in front or overhead.",
    "overhead": "Before a bar overhead, besides being ready for the bar.",
    "pull": "Before pulls and hinges with a bar; no squat shape is asked.",
    "thrust": "Before a bar over the hips, with a pad; no squat shape is asked.",
}


READINESS_CHECK_LINES = {
    "brace": "Braces and breathes", "standing_squat": "Squat shape to depth, heels down",
    "knees_track": "Knees track the toes", "pelvis": "Pelvis steady", "side_shift": "No drift to one side",
    "deep_squat_hold": "Held deep squat", "counterbalanced_squat": "Counterbalanced squat, 3 × 10 clean",
    "experience": "Time on the road, or shown", "no_stop": "No open pain stop", "consent": "Guardian's consent",
    "overhead_wall": "Overhead wall check", "sound_hinge": "Hinge sound", "bench_thrust": "Thrust from floor and bench",
}  # fmt: skip


LINE_FACTS = {
    "grade": "grade {value}",
    "grade_most": "at most {value}",
    "seconds": "{value} s",
    "kg": "{value} kg",
    "kg_least": "{value} kg",
    "share_of_unknown": "{percent} % of body mass, which is not known",
    "open_stop": "open stop",
    "age": "{years} years",
    "consent": "guardian's consent on file",
    "wedge_most": "wedge at most {value} mm",
    "shape_sound": "sound, {wedge}",
    "shape_unsound": "not sound, {wedge}",
    "road": "{sessions} sessions in {days} days",
    "witnessed": "shown in a witnessed test",
    "road_or_test": "{sessions} sessions over {weeks} weeks, or shown in a witnessed test",
    "wall_no_distance": "distance not noted",
    "wall": "toes {cm} cm from the wall, {wedge}",
    "wall_clear": "face and bar clear the wall at the distance noted",
    "hinge_seen_or_earned": "seen sound in the screen, or earned with a weight in the hands",
    "level": "by the level",
    "hinge_level": "by the level on the hinge ladder",
    "lifted_before": "lifted soundly before",
    "not_lately": "not tested lately",
    "log": "shown by {sessions} sessions in the log",
    "bridge_and_thrust": "floor bridge and hip thrust earned",
    "log_of_both": "shown by {squats} sessions of squats and {hinges} of hinges in the log",
}


def line_fact_words(fact: LineFact) -> str:
    """What was found for a line of a checklist, or what it needs: sound, wedge 10 mm · at most 1"""
    facts = {name: plain(value, 1) if isinstance(value, float) else value for name, value in fact.facts.items()}
    if wedge := fact.facts.get("wedge_mm"):
        facts["wedge"] = f"wedge {wedge:g} mm"
    share = fact.facts.get("share")
    about = {"wedge": "flat", "percent": f"{100 * float(share):.0f}" if share is not None else ""} | facts
    return LINE_FACTS[fact.code].format(**about)


def line_words(line: ReadinessCheckLine) -> str:
    """What was found, or how the line stands where there is nothing to say of it."""
    return line_fact_words(line.found) if line.found else line.state.value


PLACE_REASONS = {
    "readiness_check_passed": "ready for the bar", "range_first": "range is missing",
    "pattern_first": "the pattern is missing",
    "shape_sound": "shape sound, not loaded yet", "shape_and_load": "shape sound and a weight held",
    "balance_or_hip": "balance or hip extension not there yet", "balance_sound": "balance and hips sound",
    "hinge_grade": "by the single-leg hinge screen", "brace": "by the brace screen", "bridge": "by the bridge hold",
    "overhead_wall": "by the overhead wall check", "gentlest": "nothing known yet: the gentlest level open here",
}  # fmt: skip


WAYS = {"placed": "placed", "harder": "up", "easier": "down", "taken back": "taken back"}
MOVE_REASONS = {  # codes the application writes itself; a person's own words stand as they are
    "undone": "the move before was undone",
    "gentlest": "nothing was known: the gentlest level",
    "level_earned": "earned by clean sessions",
    "level_form": "form broke in half of the sets or more",
    "level_pain": "pain was noted",
}


def place_words(reason: str) -> str:
    """Why somebody would be placed on a level."""
    if reason.startswith("log "):
        return f"shown by {reason.removeprefix('log ')} sessions in the log"
    return PLACE_REASONS[reason]


NEED_WORDS = {  # what keeps somebody from an exercise, where a readiness check or a ladder has no name of its own
    "consent": "A guardian's consent",
    "stopped": "Stopped by pain: a clearance from a physio or doctor",
    "test": "A test: a set of 3 to 8 reps to depth",
}


def shown_words(movement: str, days: int) -> str:
    """From the log: back squat on 12 days without pain or a fault."""
    return f"From the log: {in_text(movement)} on {days} day{'s' if days != 1 else ''} without pain or a fault"


def move_words(reason: str) -> str:
    """Why somebody moved on a ladder."""
    kind, _, detail = reason.partition(":")
    if kind == "screens" and detail.startswith("log "):
        return place_words(detail)
    if kind == "screens" and detail in PLACE_REASONS:
        return f"screens: {PLACE_REASONS[detail]}"
    if kind == "away" and detail.isdecimal():
        return f"back after {detail} days away"
    return MOVE_REASONS.get(reason, reason)
