"""One athlete's row of a block: loads, or the plain reason why there are none.

This is the only way from an athlete to planned loads, so nobody who is locked or gated gets one.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.findings import Finding
from backsquat.core.progression.plan import PlanBase, PlannedWeek, Terms, plan_weeks
from backsquat.core.progression.prescription import Prescription
from backsquat.core.strength.current import CurrentEstimate, PlanningMax, planning_max


class State(StrEnum):
    """What a place in the sheet holds."""

    LOAD = "load"
    UNDER_BAR = "under_bar"
    NEEDS_TEST = "needs_test"
    GATED = "gated"
    LOCKED = "locked"


@dataclass(frozen=True)
class Candidate:
    """What planning must know of an athlete for one movement."""

    newcomer: bool
    gate: tuple[Finding, ...]
    locked: bool
    current: CurrentEstimate | None

    @property
    def refusal(self) -> State | None:
        """Why there can be no load, pain first; None where there can."""
        if self.locked:
            return State.LOCKED
        if self.gate:
            return State.GATED
        return None if self.current else State.NEEDS_TEST


@dataclass(frozen=True)
class Row:
    """`state` is LOAD with planned weeks, or a refusal without any."""

    state: State
    planning: PlanningMax | None
    weeks: tuple[PlannedWeek, ...]


def plan_row(candidate: Candidate, prescriptions: Sequence[Prescription], terms: Terms) -> Row:
    """Plan the given weeks from the athlete's current estimate. `prescriptions` start at the next week."""
    refusal = candidate.refusal
    if refusal or candidate.current is None or not prescriptions:
        return Row(refusal or State.NEEDS_TEST, None, ())
    planning = planning_max(
        candidate.current, newcomer=candidate.newcomer, in_season=terms.in_season, rules=terms.rules
    )
    base = PlanBase(
        planning_max_kg=planning.max_kg,
        estimate_kg=candidate.current.max_kg,
        working=planning.working,
        at_wave=prescriptions[0].wave,
        weeks_before=prescriptions[0].week,
    )
    return Row(State.LOAD, planning, plan_weeks(prescriptions, base, terms))
