"""What was done, as undo and redo name it."""

from collections.abc import Mapping
from typing import Any

from backsquat.core.movements.library import Library
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.ui.phrases.exercises import name_of

CHANGES = {
    "assignment_ended": "{who}: back from {room}",
    "cell_edited": "{name}, week {week}: {load}",
    "cells_edited": "{count} loads changed",
    "missed_answered": "missed session answered for {count}",
    "replanned": "{count} numbers replanned",
    "restored": "version {number} brought back",
    "room_assigned": "{who}: in {room}",
    "manner_changed": "{exercise}: done another way",
    "own_work_given": "{name}: other work in the place of {exercise}",
    "own_work_ended": "{name}: {exercise} again",
    "put_on_road": "{name}: put on the road to the bar",
    "taken_off_road": "{name}: taken off the road to the bar",
    "session_arranged": "{weekday}'s order changed",
    "session_repeated": "{weekday}'s session put on another day too",
    "session_changed": "{weekday}'s session changed",
    "setting_changed": "{exercise}: another progression for single athletes",
    "block_made": "block {name} made",
    "block_moved": "block {name} moved",
    "block_resized": "block {name}: another length",
    "block_named": "block {name}: another name",
    "block_dropped": "block {name} dropped",
    "exercise_added": "{exercise} added",
    "exercises_added": "exercises added: {count}",
    "exercise_changed": "{exercise} changed",
    "exercise_moved": "{exercise} moved",
    "exercise_removed": "{exercise} removed",
    "exercise_swapped": "{exercise} in another's place",
    "session_day_moved": "week {week}: a session held on {weekday}",
    "session_kept": "week {week}: {weekday}'s session stays as it is",
    "sessions_left_out": "week {week}: {count} sessions left out",
    "what_if_taken": "{count} ideas of a what-if taken",
    "own_day_moved": "{name}: a session of week {week} on {weekday}",
    "session_left_out": "week {week}: {weekday}'s session left out",
    "week_fitted": "week {week} fitted around its matches",
    "week_unfitted": "week {week} as before it was fitted around a match",
    "week_eased": "{names}: week {week} made a deload week",
}
JOINED = "{names} joins the block"
JOINED_MANY = "{count} join the block"
OTHERS = ", {count} numbers replanned"
OTHER = "the last change"
EVERYBODY = "everybody"
NAMES_MOST = 2


UNDONE = "Undone: {}."
UNDONE_PLAIN = "Undone."


def undone_words(what: str, facts: Mapping[str, Any], library: Library) -> str:
    """That a change was taken back, named where it is one of a plan."""
    return UNDONE.format(change_words(what, facts, library)) if what in CHANGES else UNDONE_PLAIN


def change_words(what: str, facts: Mapping[str, Any], library: Library) -> str:
    """A change of a plan in a few words; those kept before they had facts have a plainer name."""
    if what not in CHANGES or not facts:
        return OTHER
    if joined := facts.get("joined"):
        words = JOINED.format(names=joined[0]) if len(joined) == 1 else JOINED_MANY.format(count=len(joined))
        return words + (OTHERS.format(count=facts["count"]) if facts["count"] else "")
    named = dict(facts)
    if "movement" in facts:
        named["exercise"] = name_of(library, facts["movement"], facts["ladder"])
    if "day" in facts:
        named["weekday"] = WEEKDAYS[facts["day"]]
    if "room" in facts:
        named["who"] = facts["name"] or EVERYBODY
    if "names" in facts:
        names = facts["names"]
        named["names"] = ", ".join(names) if len(names) <= NAMES_MOST else f"{len(names)} athletes"
    return CHANGES[what].format(**named)
