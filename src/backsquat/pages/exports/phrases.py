"""What stands in the tables that are handed out, and a plan's cell in one line."""

from backsquat.core.progression.cell import Origin, State
from backsquat.core.working import plain
from backsquat.work.exports.plan import PlanLine

STATES = {
    State.LOAD: "load",
    State.UNDER_BAR: "under the lightest load",
    State.NEEDS_TEST: "needs a test",
    State.NOT_READY: "not ready for the bar",
    State.LOCKED: "not now",
    State.LEVEL: "own level",
    State.WORK: "without a load",
    State.NO_LEVEL: "no level yet",
    State.NO_ROOM: "not in this room",
    State.LEFT_OUT: "left out",
}

NUMBER_BY = {Origin.PLAN: "the plan", Origin.COACH: "the coach", Origin.DECISION: "a decision"}


def cell_words(line: PlanLine) -> str:
    """3 × 5 · 82.5 kg, and whether the coach put it there; what stands in the way where there is nothing to lift."""
    if line.state not in (State.LOAD, State.LEVEL, State.WORK):
        return STATES[line.state]
    amount = f"{line.hold_s} s" if line.hold_s else str(line.reps)
    load = f" · {plain(float(line.load))} {line.unit}" if line.load is not None else ""
    own = ", the coach's" if line.origin is Origin.COACH else ""
    return f"{line.sets} × {amount}{load}{own}"
