"""Effort-steered: reps at a reserve; the first set steers the sets after it (progression 5).

Each rep more or fewer left than asked moves the later sets about 3 %, at most 10 %. Half of that
carries into the planning max of the weeks to come, from two reps of difference on: a rep is the noise of
a guess, and following it makes the plan swing (seen with made-up athletes).
"""

from dataclasses import dataclass

from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Code, Decision, Exposure, evidence_of, facts_of
from backsquat.core.progression.outline import asked, with_deload_weeks
from backsquat.core.progression.parameters import EveryFourth, parameter
from backsquat.core.progression.prescription import Prescription
from backsquat.core.rules import Rules
from backsquat.core.strength.record import SetRecord
from backsquat.core.working import signed


@dataclass(frozen=True, kw_only=True)
class EffortParameters(EveryFourth):
    """What a coach can set about steering by effort."""

    reps: int = parameter(6, "Reps of every set", "reps", 1, 15)
    reserve_reps: int = parameter(2, "RIR at the end of every set", "reps", 0, 4)
    share_a_rep: float = parameter(
        0.03, "Load of the later sets for each rep of difference", "share", 0, 0.06, "Helms et al. 2018"
    )
    most_share: float = parameter(0.10, "Most the later sets move", "share", 0.02, 0.2)
    carried_from_reps: int = parameter(
        2, "Difference from which the weeks to come move too: less is the noise of a guess", "reps", 1, 4
    )
    carried_share: float = parameter(0.5, "Part of that which the planning max keeps", "share", 0, 1)


class EffortProgression(Progression[EffortParameters]):
    """The first set's reserve steers the later sets and, from two reps of difference on, the plan (Helms et al. 2018)."""

    code = "effort"
    name = "Effort-steered"
    summary = "Reps at a reserve; the first set says how the day is, and the sets after it follow."
    kind = EffortParameters

    def weeks_of(
        self, parameters: EffortParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """The same reps at the same reserve every week, deload weeks between."""

        def work(week: int, nth: int) -> Prescription:
            return asked(week, parameters, reps=parameters.reps, reserve_reps=parameters.reserve_reps)

        return with_deload_weeks(range(weeks), parameters, work, begun=begun)

    def decide(self, exposure: Exposure, parameters: EffortParameters, rules: Rules) -> Decision:
        """Moves the planning max by a share of what the first set was off; unsaid reserve moves nothing."""
        facts, evidence = facts_of(exposure), evidence_of(exposure)
        if exposure.reps_missing:
            return self._missed(exposure, parameters)
        first = exposure.sets[0] if exposure.sets else None
        wanted = exposure.prescription
        margin = first_margin(first, wanted.reps, wanted.reserve_reps) if first else None
        if margin is None:
            return Decision(Code.STAY, "effort_unknown", facts, evidence[:1], "effort_said")
        share = 1 + parameters.carried_share * (moved_share(margin, parameters) - 1)
        facts |= {"left": first.reserve_reps if first and first.reserve_reps is not None else -1}
        facts["percent"] = signed(100 * (share - 1))
        if abs(margin) < parameters.carried_from_reps:
            return Decision(Code.STAY, "effort_as_asked", facts, evidence[:1], "effort_other")
        code = Code.UP if margin > 0 else Code.DOWN
        reason = "effort_more" if margin > 0 else "effort_less"
        return Decision(code, reason, facts, evidence[:1], "effort_other", share)

    def _missed(self, exposure: Exposure, parameters: EffortParameters) -> Decision:
        """Reps missing come before what the first set left; sets not done say nothing about the load."""
        facts, evidence = facts_of(exposure), evidence_of(exposure)
        short = max((exposure.prescription.reps - s.reps_to_depth for s in exposure.full_sets), default=0)
        if short <= 0:
            return Decision(Code.STAY, "effort_unfinished", facts, evidence, "all_sets")
        margin = -max(short, parameters.carried_from_reps)
        share = 1 + parameters.carried_share * (moved_share(margin, parameters) - 1)
        facts["percent"] = signed(100 * (share - 1))
        return Decision(Code.DOWN, "effort_missed", facts, evidence, "all_reps", share)


def first_margin(record: SetRecord, reps: int, reserve_reps: int) -> int | None:
    """Reps more (or fewer) than asked in a set, what was left included; None where nobody said."""
    if record.reserve_reps is None:
        return None
    return record.reserve_reps + record.reps_to_depth - reps - reserve_reps


def moved_share(margin: int, parameters: EffortParameters) -> float:
    """How the later sets move after a first set `margin` reps off: 3 % a rep, at most 10 %."""
    move = margin * parameters.share_a_rep
    return 1 + max(-parameters.most_share, min(parameters.most_share, move))
