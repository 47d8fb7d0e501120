"""Earned week: the coach's three questions decide (progression 6).

Starts at 90 % of the load for the top of the window. After each week: sound? sure? too easy?
Three times yes: up a step. Form gone: down. Else it stays. After four weeks it starts again at 90 % of
what the newest estimate gives, but at most a step under the last load: always from the first 90 % it
would never get further (seen with made-up athletes).
"""

from dataclasses import dataclass, replace

from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Code, Decision, Exposure, evidence_of, facts_of
from backsquat.core.progression.outline import asked
from backsquat.core.progression.parameters import Parameters, parameter
from backsquat.core.progression.prescription import Aim, Basis, Prescription
from backsquat.core.rules import Rules


@dataclass(frozen=True, kw_only=True)
class EarnedParameters(Parameters):
    """What a coach can set about the earned week."""

    sets: int = parameter(3, "Working sets", "sets", 1, 10)
    low: int = parameter(6, "Bottom of the window", "reps", 1, 30)
    high: int = parameter(8, "Top of the window", "reps", 1, 30)
    start_share: float = parameter(0.9, "First week's load as a share of the window's", "share", 0.6, 1)
    start_reserve_reps: int = parameter(2, "RIR at the load of the window", "reps", 0, 6)
    cycle_weeks: int = parameter(4, "Weeks until it starts again", "weeks", 2, 8)


class EarnedProgression(Progression[EarnedParameters]):
    """Each week's step is earned by three answers of the coach (usual practice)."""

    code = "earned"
    name = "Earned week"
    summary = "Starts at 90 %; each week the coach answers: sound, sure, too easy? Three times yes earns the step."
    kind = EarnedParameters

    def weeks_of(
        self, parameters: EarnedParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """Every cycle starts at a share of the window's load; the weeks after it wait for the answers."""
        rows = []
        for week in range(weeks):
            cycle, nth = divmod(week, parameters.cycle_weeks)
            aim = Aim(
                reps=parameters.high,
                reserve_reps=parameters.start_reserve_reps,
                share=parameters.start_share,
                rises=False,
                fresh=cycle > 0,
                least_steps=-1 if cycle else None,
            )
            if nth:
                aim = replace(aim, basis=Basis.LAST, steps=1, share=1.0, fresh=False, least_steps=None)
            rows.append(
                asked(
                    week,
                    parameters,
                    reps=parameters.low,
                    low=parameters.low,
                    high=parameters.high,
                    reserve_reps=2,
                    wave=cycle,
                    first_of_wave=nth == 0,
                    top_of_wave=nth == parameters.cycle_weeks - 1,
                    aim=aim,
                )
            )
        return tuple(rows)

    def decide(self, exposure: Exposure, parameters: EarnedParameters, rules: Rules) -> Decision:
        """Not sound comes down; missing reps stay, twice in a row come down; sound, sure and too easy earn the step."""
        facts, evidence, said = facts_of(exposure), evidence_of(exposure), exposure.answers
        if said is not None and not said.sound:
            return Decision(Code.DOWN, "earned_down", facts, evidence, "form_held", load_steps=-1, next_wave_steps=0)
        if exposure.reps_missing:
            code, steps = (Code.DOWN, -1) if exposure.misses_in_a_row else (Code.STAY, 0)
            reason = "earned_missed_again" if steps else "earned_missed"
            return Decision(code, reason, facts, evidence, "three_yes", load_steps=steps, next_wave_steps=0)
        if said is None:
            return Decision(Code.LOOK, "earned_ask", facts, evidence, "three_yes", next_wave_steps=0)
        if said.sure and said.too_easy:
            return Decision(Code.UP, "earned_up", facts, evidence, "one_no", load_steps=1)
        reason = "earned_unsure" if not said.sure else "earned_enough"
        return Decision(Code.STAY, reason, facts, evidence, "three_yes", next_wave_steps=0)
