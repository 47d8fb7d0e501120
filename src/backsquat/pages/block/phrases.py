"""Wording of the sheet."""

from typing import Any, assert_never

from backsquat.core.movements.library import Library
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.cell import ExerciseRole, Origin, StandIn, State
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.readiness.verdict import Short
from backsquat.ui.phrases.days import daydate_words
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.sessions import manner_words
from backsquat.ui.phrases.verdicts import obstacle_words
from backsquat.work.plan.blocks import ExerciseFacts
from backsquat.work.plan.difference import ChangeReason, Replanned
from backsquat.work.plan.filled import Filled
from backsquat.work.plan.fixes import ProposedFix
from backsquat.work.plan.on_match_days import OnMatchDay
from backsquat.work.plan.rows import RowState, SheetRow

ROLE_WORDS = {role: role.value for role in ExerciseRole} | {ExerciseRole.SPARE: "if there is time"}


WINDOW_WHY = {
    "single_first": "first in the session: few and heavy", "single_second": "second in the session",
    "single_third": "third in the session: more and lighter", "single_general": "one leg, general",
    "squat_last": "placed last: more reps, slow, about 15 % lighter", "squat_strength": "strength squat, fresh",
    "hinge": "hinge while fresh", "hinge_light": "hinge later in the session", "ball_curl": "curl on the ball",
    "curl": "curl", "calf": "calves, with an end hold", "thrust": "thrust", "general": "general",
    "own_work": "the movement's own usual work",
}  # fmt: skip


STAND_IN = {
    StandIn.LEVEL: "own level",
    StandIn.CHOSEN: "instead of {movement}: your choice for this athlete",
    StandIn.READINESS_CHECK: "instead of {movement}: not ready for the bar yet",
    StandIn.LADDER: "own level, instead of {movement}",
    StandIn.ROOM: "instead of {movement}: not in this room",
    StandIn.LIMIT: "instead of {movement}: a limit",
    StandIn.LIGHT: "instead of {movement}: it would ask for less than the lightest load here",
}  # fmt: skip


INSTEAD = {  # why, in a word or two, where many exercises are listed
    StandIn.NOT: "",
    StandIn.LEVEL: "own level",
    StandIn.CHOSEN: "your choice",
    StandIn.READINESS_CHECK: "not ready for the bar",
    StandIn.LADDER: "level not earned",
    StandIn.ROOM: "not in this room",
    StandIn.LIMIT: "a limit",
    StandIn.LIGHT: "under the lightest load",
}


NOTHING = {  # the same of who has nothing to do there
    State.NEEDS_TEST: "needs a test",
    State.NOT_READY: "not ready for the bar, nothing in its stead",
    State.LOCKED: "stopped",
    State.UNDER_BAR: "under the lightest load",
    State.NO_LEVEL: "not placed on the ladder",
    State.NO_ROOM: "not in this room, nor anything like it",
    State.LEFT_OUT: "left out by you",
    **dict.fromkeys((State.LOAD, State.LEVEL, State.WORK), ""),
}


def filled_words(one: Filled, library: Library) -> tuple[str, str]:
    """(what is done in an exercise's stead, who has nothing), with how many and why."""
    instead = [
        f"{count} {in_text(library.get(movement).name)} ({INSTEAD[why]})"
        for (movement, why), count in sorted(one.instead.items(), key=lambda item: -item[1])
    ]
    nothing = [f"{count} {NOTHING[state]}" for state, count in sorted(one.nothing.items())]
    return "; ".join(instead), "; ".join(nothing)


def on_match_words(one: OnMatchDay) -> str:
    """Fri 4 Dec is a match day; Thu 3 Dec is the day before a match"""
    near = {0: "a match day", 1: "the day before a match"}.get(one.days, f"{one.days} days before a match")
    return f"{one.name}, {daydate_words(one.day)}: {near}" if one.name else f"{daydate_words(one.day)} is {near}"


def state_words(state: State) -> str:
    """What a cell without a number to lift says, in the panel and where planning again leads to it."""
    match state:
        case State.LOAD:
            return "A load."
        case State.UNDER_BAR:
            return "Under the lightest load there is."
        case State.NEEDS_TEST:
            return "Needs a test: a set of 3 to 8 reps to depth."
        case State.NOT_READY:
            return "Not ready for the bar yet."
        case State.LOCKED:
            return "Stopped by pain, or kept out by a limit, when this was planned. Replan once it is open."
        case State.LEVEL:
            return "The work of the own level."
        case State.WORK:
            return "No load is worked out here: it goes on from the last session."
        case State.NO_LEVEL:
            return "Not placed on this ladder yet: place the athlete under Readiness and ladders."
        case State.NO_ROOM:
            return "This room cannot rig it, and nothing like it is open to this athlete."
        case State.LEFT_OUT:
            return "Left out for this athlete, as you said."
        case _:
            assert_never(state)


def short_state(state: State) -> str:
    """The same in a table, where there is no number."""
    match state:
        case State.NEEDS_TEST:
            return "needs a test"
        case State.NOT_READY:
            return "not ready"
        case State.LOCKED:
            return "locked"
        case State.UNDER_BAR:
            return "under the lightest"
        case State.NO_LEVEL:
            return "no level"
        case State.NO_ROOM:
            return "not here"
        case State.LEFT_OUT:
            return "left out"
        case State.LOAD | State.LEVEL | State.WORK:
            return "no load"
        case _:
            assert_never(state)


ORIGINS = {Origin.PLAN: "planned", Origin.COACH: "changed", Origin.DECISION: "after a session"}
ROW_NOTES = {  # beside the name
    RowState.STOPPED: "stopped, see physio",
    RowState.AWAY: "away",
    RowState.NOT_READY_ON_LEVEL: "not ready for the bar yet",
    RowState.NOT_READY: "not ready for the bar",
    RowState.UNEARNED_ON_LEVEL: "on the own level",
    RowState.UNEARNED: "level not earned",
    RowState.NO_LEVEL: "no level yet",
    RowState.NOT_PLANNED: "not planned",
    RowState.NEEDS_TEST: "no record",
    RowState.THROUGH_NEEDS_TEST: "ready for the bar, needs a test",
    RowState.THROUGH: "ready for the bar",
    RowState.NOT_HERE: "not in this room",
    RowState.OWN_WORK: "own work here",
    RowState.LEFT_OUT: "left out here",
    RowState.LIMIT_WEEKS: "limit: some weeks without load",
    RowState.LIMIT_REPLAN: "limit: replan",
}
ROW_WORDS = {  # in the stead of loads to come
    RowState.NO_LEVEL: "Not placed on this ladder yet, or none of its levels is open now.",
    RowState.NOT_PLANNED: "Joined after this block was planned.",
    RowState.NEEDS_TEST: "Needs a test: a set of 3 to 8 reps to depth.",
    RowState.THROUGH: "Ready for the bar since this was planned: replan.",
    RowState.NOT_HERE: "This room cannot rig it, and nothing like it is open to this athlete.",
}


LEVEL_NOTES = {
    Short.ABOVE_LEVEL: "own level {stands}, this is {level}",
    Short.NOT_PLACED: "not placed: gentlest level",
    Short.NO_CONSENT: "no consent: no weight",
}


def row_note(row: SheetRow) -> str:
    """A few words beside the athlete's name; empty where there is nothing to say."""
    unearned = row.obstacle.unearned if row.obstacle else None
    on_level = row.state is RowState.UNEARNED_ON_LEVEL
    if unearned and (on_level or unearned.why is Short.NO_CONSENT):
        return LEVEL_NOTES[unearned.why].format(stands=(unearned.stands or 0) + 1, level=unearned.level + 1)
    return ROW_NOTES.get(row.state, "")


def row_words(row: SheetRow) -> str:
    """What stands in the stead of loads to come; empty where there are loads."""
    if not row.refused:
        return ""
    if row.obstacle is None:
        return ROW_WORDS[row.state]
    words = obstacle_words(row.obstacle)
    if row.state is RowState.UNEARNED:
        return words if row.fix == "no_consent" else f"{words} Place or move the athlete, or replan."
    return f"{words} On no level of this ladder yet." if row.state is RowState.NOT_READY else words


FLAG_WORDS = {
    "flag_misses": "{missed} missed sessions in seven days",
    "flag_low": "{times} of {of} check-ins low in {days} days",
    "flag_back": "lower back sorer from check-in to check-in: {words}",
    "flag_estimate": "{movement}: e1RM down {percent:g} %, {before_kg:.0f} to {now_kg:.0f} kg",
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


def why_words(change: Replanned) -> str:
    """Why planning again would move a number."""
    why, facts = change.why
    match why:
        case ChangeReason.NEW:
            return "not planned before"
        case ChangeReason.IN_THE_WAY:
            words = obstacle_words(change.obstacle) if change.obstacle else state_words(change.draft.state)
            return words.rstrip(".")
        case ChangeReason.LOAD_KNOWN:
            return "a load can be worked out now"
        case ChangeReason.LOAD_UNKNOWN:
            return "no load can be worked out any more: it goes on from the last session"
        case ChangeReason.OPEN_NOW:
            return "open now: what stood in the way is gone"
        case ChangeReason.OWN_WORK:
            return "your choice for this athlete"
        case ChangeReason.STANDS_IN:
            return "another movement stands in now"
        case ChangeReason.ROOM:
            return "another room on that day"
        case ChangeReason.NOT_IN_STOCK:
            return "the room has this load no more"
        case ChangeReason.EASED:
            return "eased after time away"
        case ChangeReason.MANNER:
            how = manner_words(manner_from(change.exercise.manner)) or "how it is done"
            return f"{how}: {facts['percent']} % of the load"
        case ChangeReason.WORK:
            amount = f"{facts['seconds']} s" if facts.get("seconds") else str(facts.get("reps", ""))
            return f"the progression asks {facts['sets']} × {amount} now"
        case ChangeReason.RECORDS_UP | ChangeReason.RECORDS_DOWN:
            return f"e1RM {facts['was_kg']:.1f} → {facts['now_kg']:.1f} kg"
        case ChangeReason.CAUTION:
            return f"planning max {facts['was_kg']:.1f} → {facts['now_kg']:.1f} kg"
        case ChangeReason.LOADS:
            return "the same max: what was lifted before it, the plates or a rule has changed"
        case _:
            assert_never(why)


def reps_words(parameters: Any) -> str:
    """Sets and reps a progression asks for, as short as they can be said: "4 × 8, 6, 4"."""
    if hasattr(parameters, "low"):
        reps = str(parameters.low) if parameters.low == parameters.high else f"{parameters.low}–{parameters.high}"
    elif hasattr(parameters, "reps"):
        reps = str(parameters.reps)
    elif hasattr(parameters, "weeks"):
        reps = ", ".join(str(reps) for reps, _left in parameters.weeks)
    elif hasattr(parameters, "stages"):
        reps = ", ".join(f"{low}–{high}" for low, high in parameters.stages)
    elif hasattr(parameters, "start_s"):
        reps = f"{parameters.start_s} s"
    else:
        return "as the level says"
    return f"{parameters.sets} × {reps}"


def proposed_words(proposed: ProposedFix | None) -> str:
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
    ("hatched", "a deload week"),
    ("RIR 4", "what the load leaves in reserve, other than the head of the week asks"),
    ("62 %", "the last set is made so often: less than this squad plans with"),
    ("over", "more than the cap of the prescription"),
    ("× 9, 3 × 5", "other reps or sets than the head of the week: an own progression, or a decision"),
    ("stands in", "another movement is done instead: a limit, or what this room lacks"),
)


def typed_words(facts: ExerciseFacts) -> str:
    """A typed exercise as it is understood: "3 × 8–10 · RIR 2 · rest 90 s · then 30 s held"."""
    parameters = PROGRESSIONS[facts.progression].read(facts.parameters)
    said, words = facts.parameters, [reps_words(parameters)]
    if facts.progression == "window" and "low" not in said:
        words = [f"{parameters.sets} × the usual reps of its place" if "sets" in said else "usual sets and reps"]
    reserve = said.get("reserve_reps", said.get("start_reserve_reps"))
    words += [f"RIR {reserve}"] if reserve is not None else []
    words += [f"then {said['end_hold_s']} s held"] if "end_hold_s" in said else []
    words += ["last set to failure"] if "last_to_failure" in said else []
    words += [f"tempo {said['tempo']}"] if "tempo" in said else []
    words += [f"rest {facts.rest_s or said['rest_s']} s"] if facts.rest_s or "rest_s" in said else []
    return " · ".join(words)
