"""Wording of the sheet."""

from typing import Any

from backsquat.core.progression.cell import Origin, SlotRole, StandIn, State
from backsquat.core.readiness.verdict import Short
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.verdicts import obstacle_words
from backsquat.work.plan.difference import Replanned, Why
from backsquat.work.plan.mends import Proposed
from backsquat.work.plan.rows import RowState, SheetRow

ROLE_WORDS = {role: role.value for role in SlotRole} | {SlotRole.SPARE: "if there is time"}


WINDOW_WHY = {
    "single_first": "first in the session: few and heavy", "single_second": "second in the session",
    "single_third": "third in the session: more and lighter", "single_general": "one leg, general",
    "squat_last": "placed last: more reps, slow, about 15 % lighter", "squat_strength": "strength squat, fresh",
    "hinge": "hinge while fresh", "hinge_light": "hinge later in the session", "ball_curl": "curl on the ball",
    "curl": "curl", "calf": "calves, with an end hold", "thrust": "thrust", "general": "general",
    "own_work": "the movement's own usual work",
}  # fmt: skip


STAND_IN = {
    StandIn.RUNG: "own rung",
    StandIn.GATE: "instead of {movement}: gate still shut",
    StandIn.LADDER: "own rung, instead of {movement}",
    StandIn.ROOM: "instead of {movement}: not in this room",
    StandIn.LIMIT: "instead of {movement}: a limit",
}  # fmt: skip


STATES = {
    State.NEEDS_TEST: "Needs a test: a set of 3 to 8 reps to depth.",
    State.GATED: "Not yet through the barbell gate.",
    State.LOCKED: "Stopped by pain, or kept out by a limit, when this was planned. Replan once it is open.",
    State.NO_RUNG: "Not placed on this ladder yet: place the athlete under Gates and ladders.",
    State.NO_ROOM: "This room cannot rig it, and nothing like it is open to this athlete.",
    State.WORK: "No load is worked out here: it goes on from the last session.",
}


SHORT_STATES = {
    State.NEEDS_TEST: "needs a test", State.GATED: "gate", State.LOCKED: "locked",
    State.UNDER_BAR: "under the bar", State.NO_RUNG: "no rung", State.NO_ROOM: "not here",
}  # fmt: skip


ORIGINS = {Origin.PLAN: "planned", Origin.COACH: "changed", Origin.DECISION: "after a session"}
ROW_NOTES = {  # beside the name
    RowState.STOPPED: "stopped, see physio",
    RowState.AWAY: "away",
    RowState.GATED_ON_RUNG: "not yet through the gate",
    RowState.GATED: "not through the gate",
    RowState.UNEARNED_ON_RUNG: "on the own rung",
    RowState.UNEARNED: "rung not earned",
    RowState.NO_RUNG: "no rung yet",
    RowState.NOT_PLANNED: "not planned",
    RowState.NEEDS_TEST: "no record",
    RowState.THROUGH_NEEDS_TEST: "through the gate, needs a test",
    RowState.THROUGH: "through the gate",
    RowState.NOT_HERE: "not in this room",
    RowState.LIMIT_WEEKS: "limit: some weeks without load",
    RowState.LIMIT_REPLAN: "limit: replan",
}
ROW_WORDS = {  # in the stead of loads to come
    RowState.NO_RUNG: "Not placed on this ladder yet, or none of its rungs is open now.",
    RowState.NOT_PLANNED: "Joined after this block was planned.",
    RowState.NEEDS_TEST: "Needs a test: a set of 3 to 8 reps to depth.",
    RowState.THROUGH: "Through the gate since this was planned: replan.",
    RowState.NOT_HERE: "This room cannot rig it, and nothing like it is open to this athlete.",
}


RUNG_NOTES = {
    Short.ABOVE_RUNG: "own rung {stands}, this is {rung}",
    Short.NOT_PLACED: "not placed: gentlest rung",
    Short.NO_CONSENT: "no consent: no weight",
}


def row_note(row: SheetRow) -> str:
    """A few words beside the athlete's name; empty where there is nothing to say."""
    unearned = row.obstacle.unearned if row.obstacle else None
    on_rung = row.state is RowState.UNEARNED_ON_RUNG
    if unearned and (on_rung or unearned.why is Short.NO_CONSENT):
        return RUNG_NOTES[unearned.why].format(stands=(unearned.stands or 0) + 1, rung=unearned.rung + 1)
    return ROW_NOTES.get(row.state, "")


def row_words(row: SheetRow) -> str:
    """What stands in the stead of loads to come; empty where there are loads."""
    if not row.refused:
        return ""
    if row.obstacle is None:
        return ROW_WORDS[row.state]
    words = obstacle_words(row.obstacle)
    if row.state is RowState.UNEARNED:
        return words if row.mend == "no_consent" else f"{words} Place or move the athlete, or replan."
    return f"{words} On no rung of this ladder yet." if row.state is RowState.GATED else words


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
    "strain": ("Strain on the {region} {strain} in the week, {most:g} at most beside this sport",
               "The sport itself loads it (grade {sport} of 3); what is planned comes on top."),
}  # fmt: skip


WHYS = {
    Why.NEW: "not planned before",
    Why.OPEN_NOW: "open now: what stood in the way is gone",
    Why.STANDS_IN: "another movement stands in now",
    Why.ROOM: "another room on that day",
    Why.NOT_IN_STOCK: "the room has this load no more",
    Why.EASED: "eased after time away",
    Why.WORK: "the school asks {sets} × {amount} now",
    Why.RECORDS_UP: "estimate {was_kg:.1f} → {now_kg:.1f} kg",
    Why.RECORDS_DOWN: "estimate {was_kg:.1f} → {now_kg:.1f} kg",
    Why.CAUTION: "planning max {was_kg:.1f} → {now_kg:.1f} kg",
    Why.LOADS: "the same max: what was lifted before it, the plates or a rule has changed",
}


def why_words(change: Replanned) -> str:
    """Why planning anew would move a number."""
    why, facts = change.why
    if why is Why.IN_THE_WAY:
        return (
            obstacle_words(change.obstacle).rstrip(".") if change.obstacle else STATES[change.draft.state].rstrip(".")
        )
    amount = f"{facts['seconds']} s" if facts.get("seconds") else str(facts.get("reps", ""))
    return WHYS[why].format(**facts, amount=amount)


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


def proposed_words(proposed: Proposed | None) -> str:
    """What one click would do; empty where nothing sensible can be done."""
    if proposed is None:
        return ""
    name = in_text(proposed.movement.name)
    if proposed.added_sets:
        return f"Add {name}, {proposed.added_sets} sets"
    return f"One set less of {name}"


SHEET_MARKS = (  # as they stand in a cell → what they say
    ("●", "all sets logged; 2/3: so many of them"),
    ("+5 = −2.5", "against the working week before, in the sheet's unit"),
    ("◥", "your own number: replanning leaves it"),
    ("○", "not published yet: the floor has the number before"),
    ("hatched", "an easy week"),
    ("4 left", "the load leaves so many reps, other than the head of the week asks"),
    ("62 %", "the last set is made so often: less than this squad plans with"),
    ("over", "more than the cap of the prescription"),
    ("× 9, 3 × 5", "other reps or sets than the head of the week: an own school, or a decision"),
    ("stands in", "another movement is done instead: a limit, or what this room lacks"),
)
