"""Speed: light, few reps, full rest, never loaded up for its own sake (progression 9).

A set ends when speed or snap falls, 10 % by default; what was not done is no miss to repeat but a
sign to do less. It follows the base.
"""

from dataclasses import dataclass

from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Code, Decision, Exposure, evidence_of, facts_of
from backsquat.core.progression.outline import asked
from backsquat.core.progression.parameters import Parameters, parameter
from backsquat.core.progression.prescription import Aim, Basis, Prescription
from backsquat.core.rules import Rules
from backsquat.core.working import plain


@dataclass(frozen=True, kw_only=True)
class SpeedParameters(Parameters):
    """What a coach can set about speed work."""

    sets: int = parameter(5, "Working sets", "sets", 1, 10)
    reps: int = parameter(3, "Reps of every set", "reps", 1, 10)
    rest_s: int = parameter(150, "Rest between sets", "s", 30, 600)
    load_share: float = parameter(0.4, "Load as a share of the planning max", "share", 0, 0.7)
    drop_share: float = parameter(0.1, "Loss of speed or height that ends a set", "share", 0.03, 0.3)


class SpeedProgression(Progression[SpeedParameters]):
    """Light and fast; a set ends when the speed does (usual practice)."""

    code = "speed"
    name = "Speed"
    summary = "Light, few reps, full rest; a set ends when the snap goes. The load does not climb."
    kind = SpeedParameters
    fast = True

    def weeks_of(
        self, parameters: SpeedParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """Every week the same share of the planning max."""
        aim = Aim(Basis.SHARE, share=parameters.load_share)
        return tuple(asked(week, parameters, reps=parameters.reps, reserve_reps=4, aim=aim) for week in range(weeks))

    def decide(self, exposure: Exposure, parameters: SpeedParameters, rules: Rules) -> Decision:
        """Sets that end early twice in a row come down; nothing goes up."""
        facts, evidence = facts_of(exposure), evidence_of(exposure)
        facts["percent"] = plain(100 * parameters.drop_share)
        if exposure.reps_missing:
            if exposure.misses_in_a_row:
                return Decision(
                    Code.DOWN, "speed_down", facts, evidence, "snap_kept", parameters.missed_share, next_wave_steps=0
                )
            return Decision(Code.STAY, "speed_fell", facts, evidence, "snap_kept")
        return Decision(Code.STAY, "speed_kept", facts, evidence, "nothing_up")
