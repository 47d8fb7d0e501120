"""Stages of a pre-season base: many reps, then fewer and heavier, some weeks each (progression 1).

Each stage starts at the load for the reps it asks (the bottom of its window) with four left, one fewer each week,
from the newest estimate and never under what the stage before reached, and climbs by the smallest sensible step while
every set stays inside the window; two steps where all sets reach the top with as much left as at a stage's start.
Rest grows from stage to stage.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Code, Decision, Exposure, evidence_of, facts_of
from backsquat.core.progression.outline import asked, with_deload_weeks
from backsquat.core.progression.parameters import EveryFourth, parameter
from backsquat.core.progression.prescription import Aim, Basis, Prescription
from backsquat.core.rules import Rules


@dataclass(frozen=True, kw_only=True)
class StagesParameters(EveryFourth):
    """What a coach can set about the stages of a base."""

    stages: tuple[tuple[int, int], ...] = parameter(
        ((12, 15), (8, 12), (6, 8)), "Windows of the stages", "reps low / high"
    )
    stage_weeks: int = parameter(3, "Weeks a stage lasts", "weeks", 2, 4)
    start_reserve_reps: int = parameter(4, "RIR in the first sets of a stage", "reps", 1, 6)
    rest_first_s: int = parameter(75, "Rest in the first stage", "s", 30, 300)
    rest_last_s: int = parameter(150, "Rest in the last stage", "s", 30, 300)
    deload_every: int = parameter(4, "Every so many weeks is easy; 0: none", "weeks", 0, 8)


class StagesProgression(Progression[StagesParameters]):
    """Windows fall from stage to stage while the load climbs in each (usual practice)."""

    code = "stages"
    name = "Stages of a base"
    summary = "Sets of 12–15, then 8–12, then 6–8, some weeks each: start light, climb while every set is made."
    kind = StagesParameters

    def read(self, changes: Mapping[str, Any]) -> StagesParameters:
        """The parameters; ImpossibleInput for windows upside down or out of range."""
        parameters = super().read(changes)
        parameters = replace(parameters, stages=tuple((int(low), int(high)) for low, high in parameters.stages))
        if not parameters.stages or any(not 1 <= low <= high <= 30 for low, high in parameters.stages):
            raise ImpossibleInput(Problem("stages", "window_range", {"most": 30}))
        return parameters

    def weeks_of(
        self, parameters: StagesParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """Stage after stage, each started light, its rest a little longer."""
        last = len(parameters.stages) - 1

        def work(week: int, nth: int) -> Prescription:
            stage = min(nth // parameters.stage_weeks, last)
            first = nth == stage * parameters.stage_weeks
            low, high = parameters.stages[stage]
            rise = (parameters.rest_last_s - parameters.rest_first_s) * (stage / last if last else 1)
            start = Aim(
                reserve_reps=parameters.start_reserve_reps,
                rises=False,
                fresh=stage > 0,
                least_steps=1 if stage else None,
            )
            return asked(
                week,
                parameters,
                reps=low,
                low=low,
                high=high,
                reserve_reps=max(1, parameters.start_reserve_reps - (nth - stage * parameters.stage_weeks)),
                wave=stage,
                first_of_wave=first,
                rest_s=round((parameters.rest_first_s + rise) / 5) * 5,
                aim=start if first else replace(start, basis=Basis.LAST, steps=1, fresh=False, least_steps=None),
            )

        return with_deload_weeks(range(weeks), parameters, work, begun=begun)

    def decide(self, exposure: Exposure, parameters: StagesParameters, rules: Rules) -> Decision:
        """All sets in the window: a step, two where plenty was left; under it twice in a row: a step down."""
        facts, evidence = facts_of(exposure), evidence_of(exposure)
        if not exposure.reps_missing:
            top = all(s.reps_to_depth >= exposure.prescription.high for s in exposure.full_sets)
            if top and exposure.margin_left >= parameters.start_reserve_reps:
                return Decision(Code.UP, "stage_much_spare", facts, evidence, "one_set_short", load_steps=2)
            return Decision(Code.UP, "stage_made", facts, evidence, "one_set_short", load_steps=1)
        if exposure.misses_in_a_row:
            return Decision(Code.DOWN, "stage_down", facts, evidence, "window_kept", load_steps=-1)
        return Decision(Code.STAY, "stage_stay", facts, evidence, "window_kept")
