"""Ladder: no load is worked out; a level when it is earned (progression 7). The judging is in `level.py`."""

from dataclasses import dataclass

from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Decision, Exposure, deload_done
from backsquat.core.progression.outline import asked
from backsquat.core.progression.parameters import Parameters, parameter
from backsquat.core.progression.prescription import Aim, Basis, Prescription
from backsquat.core.rules import Rules


@dataclass(frozen=True, kw_only=True)
class LadderParameters(Parameters):
    """What a coach can set where everybody works on their own level."""

    sets: int = parameter(3, "Sets where the level says nothing else", "sets", 1, 10)
    rest_s: int = parameter(90, "Rest between sets", "s", 30, 600)


class LadderProgression(Progression[LadderParameters]):
    """Work of the own level; the level itself says reps or seconds."""

    code = "ladder"
    name = "Ladder"
    summary = "Everybody works on their own level; a harder one follows when it is earned. No load is worked out."
    kind = LadderParameters
    loaded = False
    own_levels = True

    def weeks_of(
        self, parameters: LadderParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """A line a week; what is done is the level's."""
        return tuple(asked(week, parameters, reps=1, reserve_reps=0, aim=Aim(Basis.NONE)) for week in range(weeks))

    def decide(self, exposure: Exposure, parameters: LadderParameters, rules: Rules) -> Decision:
        """A level's own work is judged by `judge_level`; what has no level stays as it is."""
        return deload_done(exposure)
