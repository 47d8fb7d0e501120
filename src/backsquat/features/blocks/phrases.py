"""Wording of the sheet."""

from typing import Any

from backsquat.core.progression.row import State

WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")

SHORT_DAYS = tuple(day[:3] for day in WEEKDAYS)
OWN_RUNG = "Own rung: {}"
ROLE_WORDS = {"main": "main", "second": "second", "assistance": "assistance", "spare": "if minutes are left"}
WINDOW_WHY = {
    "single_first": "first in the session: few and heavy", "single_second": "second in the session",
    "single_third": "third in the session: more and lighter", "single_general": "one leg, general",
    "squat_last": "placed last: more reps, slow, about 15 % lighter", "squat_strength": "strength squat, fresh",
    "hinge": "hinge while fresh", "hinge_light": "hinge later in the session", "ball_curl": "curl on the ball",
    "curl": "curl", "calf": "calves, with an end hold", "thrust": "thrust", "general": "general",
    "own_work": "the movement's own usual work",
}  # fmt: skip
STAND_IN = {
    "rung": "own rung",
    "gate": "in place of {movement}: gate still shut",
    "room": "in place of {movement}: not in this room",
    "limit": "in place of {movement}: a limit",
}  # fmt: skip

STATES = {
    State.NEEDS_TEST.value: "Needs a test: a set of 3 to 8 reps to depth.",
    State.GATED.value: "Not yet through the barbell gate.",
    State.LOCKED.value: "Locked by pain or by a limit when this was planned. Plan anew once it is open.",
    State.NO_RUNG.value: "Not placed on this ladder yet: place the athlete under Gates and ladders.",
    State.NO_ROOM.value: "This room cannot rig it, and nothing like it is open to this athlete.",
    State.WORK.value: "No load is worked out here: it goes on from the last session.",
}
SHORT_STATES = {
    State.NEEDS_TEST.value: "needs a test", State.GATED.value: "gate", State.LOCKED.value: "locked",
    State.UNDER_BAR.value: "under the bar", State.NO_RUNG.value: "no rung", State.NO_ROOM.value: "not here",
}  # fmt: skip
CHANGES = {
    "slot_added": "Slot added.",
    "slot_removed": "Slot taken out.",
    "slot_changed": "Slot changed.",
    "week_eased": "Week made easy.",
    "course_changed": "Another school for single athletes.",
    "cells_edited": "Loads changed.",
    "restored": "Version restored.",
    "cell_edited": "Load changed.",
    "replanned": "Planned anew from today's records.",
}

FLAG_WORDS = {
    "flag_misses": "{missed} missed sessions in seven days",
    "flag_low": "{times} of {of} check-ins low in {days} days",
    "flag_back": "lower back sorer from check-in to check-in: {words}",
    "flag_estimate": "{movement}: estimate down {percent:g} %, {before_kg:.0f} to {now_kg:.0f} kg",
}
FINDING_WORDS = {  # code → what, and why
    "sets_high": ("{sets:g} hard sets for the {muscle} a week, {high} at most",
                  "More than this is seldom recovered from beside the sport; the range is a rule you can change."),
    "sets_low": ("{sets:g} hard sets for the {muscle} a week, {low} at least",
                 "Fewer than this builds little; the range is a rule you can change."),
    "no_squat": ("No squat this week", "The squat stays in every week; a light one counts."),
    "few_posterior": ("{days} of {least} days with a hinge, a curl or a thrust",
                      "The back of the legs is trained often, not much."),
    "no_curl": ("No knee curl", "Squats and hinges move the hamstrings at the hip only: a part is missed without a curl."),
    "curl_not_short": ("{hinge_sets} hinge sets, and no curl that loads the shortened position",
                       "Hinges load the stretched position already, so take a curl that loads the other end."),
    "no_stretch": ("Curls only, nothing that stretches the hamstrings", "A hinge loads them where they are long."),
    "hinge_session": ("{sets} hard sets of hinges on {day}, {most} at most",
                      "Hinges that never touch the floor tire for days; more in one session is not recovered from."),
    "back_session": ("Lower-back index {cost:g} on {day}, {most:g} at most",
                     "Sets × index × share of the max: a planning index, not a measurement."),
    "back_week": ("Lower-back index {cost:g} in the week, {most:g} at most",
                  "Sets × index × share of the max: a planning index, not a measurement."),
    "back_running": ("Two days running that cost the lower back: {day} and {next}", "Put a day between them."),
    "back_little": ("Lower-back index {cost:g} in the week, your target is {least:g}",
                    "Your squad trains the lower back directly."),
    "strain": ("Strain on the {place} {strain} in the week, {most:g} at most beside this sport",
               "The sport itself loads it (grade {sport} of 3); what is planned comes on top."),
}  # fmt: skip


def reps_words(parameters: Any) -> str:
    """Sets and reps a school asks for, as short as they can be said: "4 × 8, 6, 4"."""
    if hasattr(parameters, "low"):
        reps = f"{parameters.low}–{parameters.high}"
    elif hasattr(parameters, "reps"):
        reps = str(parameters.reps)
    elif hasattr(parameters, "weeks"):
        reps = ", ".join(str(reps) for reps, _left in parameters.weeks)
    elif hasattr(parameters, "stages"):
        reps = ", ".join(f"{low}–{high}" for low, high in parameters.stages)
    elif hasattr(parameters, "start_s"):
        reps = f"{parameters.start_s} s"
    else:
        return "as the rung says"
    return f"{parameters.sets} × {reps}"
