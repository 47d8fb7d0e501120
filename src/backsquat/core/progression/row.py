"""One athlete's row of a block: loads, or the plain reason why there are none.

This is the only way from an athlete to planned loads, so nobody who is locked or not ready gets one.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from backsquat.core.findings import Finding
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import StandIn, State
from backsquat.core.progression.plan import plan_weeks
from backsquat.core.progression.prescription import Prescription
from backsquat.core.progression.terms import PlanBase, PlannedWeek, Terms
from backsquat.core.readiness.absence import EasedWeek
from backsquat.core.strength.current import CurrentEstimate, PlanningMax, planning_max


@dataclass(frozen=True)
class Candidate:
    """What planning must know of an athlete for one movement."""

    newcomer: bool
    readiness_check: tuple[Finding, ...]
    locked: bool
    current: CurrentEstimate | None
    level: Movement | None = None  # done in place of a movement behind a readiness check not passed
    barred: frozenset[int] = frozenset()  # weeks of the block a limit forbids, or a room cannot rig
    lacks: frozenset[int] = frozenset()  # the weeks of them in which it is the room
    most_kg: Mapping[int, float] = field(default_factory=dict)  # week → the most a limit allows
    eased: Mapping[int, EasedWeek] = field(default_factory=dict)  # week → share of load and sets
    carried_kg: float | None = 0.0  # body mass moved with each written load; None: not known
    by_ratio: bool = False  # `current` comes from a known lift, not from sets of this one
    by_reps: bool = False  # the body is the load: reps grow, then the level
    found_in: int | None = None  # sessions gone of finding the first load of a new pattern; None: nothing to find
    levels: Mapping[int, Movement | None] = field(default_factory=dict)  # by week, where limits come and go
    why: StandIn = StandIn.NOT  # why `level` stands in
    by_level: bool = False  # the exercise is everybody's own level
    chosen: bool = False  # the coach has given this athlete another movement here: `level`, or what may stand in for it
    left_out: bool = False  # the coach has left it out for this athlete
    lacking: bool = False  # no room on the way can rig it
    must_be_tested: bool = True  # no load without a record
    lighter: Movement | None = None  # the level without a load, where the target is under the lightest there is
    body_mass_kg: float | None = None
    starts: Mapping[str, float | None] = field(default_factory=dict)  # movement never lifted → its maximum by ratio
    growing: bool = False  # fast: planned with caution
    unearned: bool = False  # the movement is a harder level than was earned

    def level_in(self, week: int) -> Movement | None:
        """What stands in in a week of the block."""
        return self.levels.get(week, self.level)

    @property
    def refusal(self) -> State | None:
        """Why there can be no load, pain first; None where there can."""
        if self.left_out:
            return State.LEFT_OUT
        if self.chosen:
            return State.LEVEL if self.level else State.LOCKED
        if self.by_level:
            return State.LEVEL if self.level else State.NO_LEVEL
        if self.locked:
            return State.LOCKED
        if self.readiness_check:
            return State.LEVEL if self.level else State.NOT_READY
        if self.unearned:
            return State.LEVEL if self.level else State.NO_LEVEL
        if self.lacking:
            return State.LEVEL if self.level else State.NO_ROOM
        if self.by_reps:
            return State.WORK
        if self.carried_kg is None or self.current is None:
            return State.NEEDS_TEST if self.must_be_tested else State.WORK
        return None


@dataclass(frozen=True)
class Row:
    """`state` is LOAD with planned weeks (those no limit forbids), or a refusal without any."""

    state: State
    planning: PlanningMax | None
    weeks: tuple[PlannedWeek, ...]


def plan_row(candidate: Candidate, prescriptions: Sequence[Prescription], terms: Terms) -> Row:
    """Plan the given weeks from the athlete's current estimate. `prescriptions` start at the next week."""
    refusal = candidate.refusal
    if refusal or candidate.current is None or not prescriptions:
        return Row(refusal or State.NEEDS_TEST, None, ())
    planning = planning_max(
        candidate.current, newcomer=candidate.newcomer, rules=terms.rules, growing=candidate.growing
    )
    prescriptions = [p for p in prescriptions if p.week not in candidate.barred]
    if not prescriptions:
        return Row(State.LOCKED, planning, ())
    base = PlanBase(
        planning_max_kg=planning.max_kg,
        estimate_kg=candidate.current.max_kg,
        working=planning.working,
        at_wave=prescriptions[0].wave,
        weeks_before=prescriptions[0].week,
        first_share=terms.rules.ratio_first_week if candidate.by_ratio else 1.0,
    )
    return Row(State.LOAD, planning, plan_weeks(prescriptions, base, bounded(terms, candidate)))


def bounded(terms: Terms, candidate: Candidate) -> Terms:
    """The terms with what limits and a return leave of the weeks, and what is believed of the athlete."""
    return replace(
        terms,
        most_kg=candidate.most_kg,
        eased=candidate.eased,
        carried_kg=candidate.carried_kg or 0.0,
        # Of what was never tried no chance is claimed: the ratio is the ceiling.
        known=candidate.current.value.known if candidate.current and not candidate.by_ratio else None,
        found_in=candidate.found_in,
    )
