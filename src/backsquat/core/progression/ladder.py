"""Ladder: no load is worked out; a rung when it is earned (school 7). The judging is in `rung.py`."""

from dataclasses import dataclass

from backsquat.core.progression.decision import Decision, Exposure, easy_done
from backsquat.core.progression.outline import asked
from backsquat.core.progression.parameters import Parameters, parameter
from backsquat.core.progression.prescription import Aim, Basis, Prescription
from backsquat.core.progression.school import School
from backsquat.core.rules import Rules


@dataclass(frozen=True, kw_only=True)
class LadderParameters(Parameters):
    """What a coach can set where everybody works on their own rung."""

    sets: int = parameter(3, "Sets where the level says nothing else", "sets", 1, 10)
    rest_s: int = parameter(90, "Rest between sets", "s", 30, 600)


class LadderSchool(School[LadderParameters]):
    """Work of the own rung; the rung itself says reps or seconds."""

    code = "ladder"
    name = "Ladder"
    summary = "Everybody works on their own level; a harder one follows when it is earned. No load is worked out."
    kind = LadderParameters
    loaded = False

    def weeks_of(
        self, parameters: LadderParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """A line a week; what is done is the rung's."""
        return tuple(asked(week, parameters, reps=1, reserve_reps=0, aim=Aim(Basis.NONE)) for week in range(weeks))

    def decide(self, exposure: Exposure, parameters: LadderParameters, rules: Rules) -> Decision:
        """A rung's own work is judged by `judge_rung`; what has no rung stays as it is."""
        return easy_done(exposure)
