"""Fixed step: the same sets and reps, a little more each time they are made (progression 2).

Made: the smallest sensible step, hinges twice that. Missed: repeat. Missed twice in a row: 7.5 %
off. A second such reset: the load has outgrown the progression, a weekly progression is offered.
"""

from dataclasses import dataclass

from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Code, Decision, Exposure, evidence_of, facts_of
from backsquat.core.progression.outline import asked, with_deload_weeks
from backsquat.core.progression.parameters import EveryFourth, parameter
from backsquat.core.progression.prescription import Aim, Basis, Prescription
from backsquat.core.rules import Rules
from backsquat.core.working import plain

RESETS = ("reset", "reset_again")


@dataclass(frozen=True, kw_only=True)
class FixedParameters(EveryFourth):
    """What a coach can set about the fixed step."""

    reps: int = parameter(5, "Reps of every set", "reps", 1, 15)
    rest_s: int = parameter(210, "Rest between sets", "s", 30, 600)
    start_reserve_reps: int = parameter(3, "RIR in the first session", "reps", 0, 6)
    step: int = parameter(1, "Steps after a session that was made", "steps", 1, 4)
    hinge_step: int = parameter(2, "The same for hinges", "steps", 1, 4)
    reset_share: float = parameter(0.925, "Load after two misses in a row, as a share", "share", 0.7, 1)
    resets: int = parameter(2, "Resets after which a weekly progression is offered", "resets", 1, 5)


class FixedProgression(Progression[FixedParameters]):
    """The same sets and reps; made: a step up (usual practice)."""

    code = "fixed"
    name = "Fixed step"
    summary = "The same sets and reps; made: a step up, missed: once more, missed twice: 7.5 % off."
    kind = FixedParameters
    by_exposure = True

    def weeks_of(
        self, parameters: FixedParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """The first session from the estimate, every later one a step up on the last."""
        return self.exposures_of(parameters, weeks, 1, hinge, begun)

    def exposures_of(
        self, parameters: FixedParameters, weeks: int, a_week: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """The same from one day of the week to the next, as one row (rules 2.3.2)."""
        start = Aim(Basis.MAX, reserve_reps=parameters.start_reserve_reps)
        climb = Aim(
            Basis.LAST,
            steps=parameters.hinge_step if hinge else parameters.step,
            reserve_reps=parameters.start_reserve_reps,
        )

        def work(week: int, nth: int) -> Prescription:
            return asked(
                week,
                parameters,
                reps=parameters.reps,
                reserve_reps=max(1, parameters.start_reserve_reps - nth),
                first_of_wave=nth == 0,
                aim=climb if nth else start,
            )

        return with_deload_weeks(range(weeks * a_week), parameters, work, a_week, begun)

    def decide(self, exposure: Exposure, parameters: FixedParameters, rules: Rules) -> Decision:
        """Made: up; missed: once more; missed twice in a row: a reset."""
        facts, evidence = facts_of(exposure), evidence_of(exposure)
        if not exposure.reps_missing:
            steps = parameters.hinge_step if exposure.hinge else parameters.step
            return Decision(Code.UP, "fixed_made", facts, evidence, "one_rep_missed_stays", load_steps=steps)
        if not exposure.misses_in_a_row:
            return Decision(Code.STAY, "fixed_missed", facts, evidence, "all_reps_up")
        resets = 1 + sum(exposure.times(reason) for reason in RESETS)
        facts |= {"percent": plain(100 * (1 - parameters.reset_share)), "resets": resets}
        reason = "reset_again" if resets >= parameters.resets else "reset"
        return Decision(Code.DOWN, reason, facts, evidence, "all_reps_up", load_share=parameters.reset_share)
