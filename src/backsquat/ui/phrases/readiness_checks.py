"""Wording of readiness checks, placements and moves on ladders."""

from backsquat.core.findings import Finding

FINDINGS: dict[str, str] = {
    "readiness_check_no_stop": "an open pain stop",
    "readiness_check_consent": "{found} old, no guardian's consent on file",
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


PLACE_REASONS = {
    "readiness_check_passed": "ready for the bar", "range_first": "range is missing",
    "pattern_first": "the pattern is missing",
    "shape_sound": "shape sound, not loaded yet", "shape_and_load": "shape sound and a weight held",
    "balance_or_hip": "balance or hip extension not there yet", "balance_sound": "balance and hips sound",
    "hinge_grade": "by the single-leg hinge screen", "brace": "by the brace screen", "bridge": "by the bridge hold",
    "overhead_wall": "by the overhead wall check",
}  # fmt: skip


WAYS = {"placed": "placed", "harder": "up", "easier": "down", "taken back": "taken back"}
MOVE_REASONS = {  # codes the application writes itself; a person's own words stand as they are
    "undone": "the move before was undone",
    "level_earned": "earned by clean sessions",
    "level_form": "form broke in half of the sets or more",
    "level_pain": "pain was noted",
}


def place_words(reason: str) -> str:
    """Why somebody would be placed on a level."""
    if reason.startswith("log "):
        return f"shown by {reason.removeprefix('log ')} sessions in the log"
    return PLACE_REASONS[reason]


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
