"""Wording of the floor."""

from backsquat.core.loads.achievable import Load
from backsquat.core.movements.library import Library
from backsquat.core.progression.cell import State
from backsquat.core.working import signed
from backsquat.ui.phrases.days import day_words
from backsquat.ui.phrases.decisions import sentence
from backsquat.ui.phrases.verdicts import short_obstacle
from backsquat.work.floor.floor import KeptOff, NoWork, Turn
from backsquat.work.floor.holds import Hold
from backsquat.work.floor.steering import Steered

SCALE_WORDS = {  # name → words, what the lowest answer means, what the highest
    "sleep": ("Sleep", "badly", "well"),
    "soreness": ("Soreness", "none", "much"),
    "stress": ("Stress", "none", "much"),
    "back": ("Lower back sore", "not", "very"),
}
NO_LOAD = {
    State.UNDER_BAR: "target is under the empty bar",
    State.NEEDS_TEST: "needs a test",
    State.GATED: "through the gate since, plan anew",
    State.LOCKED: "limit lifted since, plan anew",
    State.NO_RUNG: "not placed on this ladder yet",
    State.NO_ROOM: "this room cannot rig it",
}


def kept_off_words(one: KeptOff, gates: str = "barbell") -> str:
    """Why somebody does not lift here today."""
    if one.obstacle:
        return short_obstacle(one.obstacle, gates)
    if one.why is NoWork.ELSEWHERE:
        return f"trains in {one.room_name}: publish the plan that follows"
    return NO_LOAD.get(one.cell.state, one.cell.state.value)


def hold_words(hold: Hold, planned: Load | None, library: Library) -> str:
    """What waits for the coach before the planned number, and what is offered meanwhile."""
    said = []
    if row := hold.decision:
        proposed = sentence(row.code, row.reason, row.facts, row.following, row.movement, library)
        said.append(f"Not answered since {day_words(row.done_on)}: {proposed}")
    if hold.missed:
        days = ", ".join(day_words(day) for day in hold.missed.weeks.values())
        said.append(f"Missed {days}, not answered yet.")
    if hold.load and planned:
        said.append(f"{hold.load.total.text} instead of {planned.total.text} until it is.")
    return " ".join(said)


def turn_notes(turn: Turn) -> list[str]:
    """Limits of range or side and an eased week, to be read before the set."""
    verdict = turn.verdict
    notes = [f"{limit.words} ({limit.set_by})" for limit in verdict.notes]
    if verdict.most_kg is not None and verdict.most_by:
        notes.append(f"at most {verdict.most_kg:g} kg ({verdict.most_by.set_by})")
    if verdict.ease:
        ease = verdict.ease
        notes.append(f"eased return: load × {ease.load_share:.2f}, sets × {ease.sets_share:g}")
    return notes


def steered_words(steered: Steered) -> str:
    """−6 % after the first set"""
    return f"{signed(100 * steered.moved_share)} % after the first set"
