"""Wording of the sheet."""

from backsquat.core.progression.row import State

WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")

STATES = {
    State.NEEDS_TEST.value: "Needs a test: a set of 3 to 8 reps to depth.",
    State.GATED.value: "Not yet through the barbell gate.",
    State.LOCKED.value: "Locked by pain or by a limit when this was planned. Plan anew once it is open.",
}
CHANGES = {
    "cell_edited": "Load changed.",
    "replanned": "Planned anew from today's records.",
}
