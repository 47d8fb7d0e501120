"""Wave with a deload week: fewer reps and more load week by week, then a deload week (progression 4).

Each working week is given as reps with some left in reserve; its load comes from the inverse
formula on the planning max. The deload week takes the first week's load less a tenth, half the
sets. The next wave adds one step of the room to the planning max if the top week was made with
what it promised (two with clearly more left), nothing if it was just made, and takes 5 % off if not.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Code, Decision, Exposure, evidence_of, facts_of
from backsquat.core.progression.outline import asked
from backsquat.core.progression.parameters import Parameters, deload_sets, parameter
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.rules import Rules
from backsquat.core.working import plain


@dataclass(frozen=True, kw_only=True)
class WaveParameters(Parameters):
    """Named defaults of the progression; see docs/RULES.md."""

    weeks: tuple[tuple[int, int], ...] = parameter(((8, 3), (6, 2), (4, 2)), "Working weeks of a wave", "reps / RIR")
    more_left_reps: int = parameter(
        2, "RIR beyond what was asked of the last set that raises the planning max mid-wave", "reps", 1, 6
    )
    fewer_left_reps: int = parameter(1, "RIR short of what was asked of the last set that holds the load", "reps", 1, 6)


class WaveProgression(Progression[WaveParameters]):
    """Weeks of falling reps and rising load, a deload week after them (usual practice)."""

    code = "wave"
    name = "Wave with a deload week"
    summary = "Reps fall and load rises for three weeks, then a deload week; the next wave starts a step up."
    kind = WaveParameters

    def read(self, changes: Mapping[str, Any]) -> WaveParameters:
        """The parameters; ImpossibleInput for reps or reserve out of range."""
        parameters = super().read(changes)
        parameters = replace(parameters, weeks=tuple((int(reps), int(left)) for reps, left in parameters.weeks))
        found = []
        if not parameters.weeks or any(not 1 <= reps <= 15 for reps, _ in parameters.weeks):
            found.append(Problem("weeks", "wave_reps_range", {"most": 15}))
        if any(not 0 <= left <= 4 for _, left in parameters.weeks):
            found.append(Problem("weeks", "wave_reserve_range", {"most": 4}))
        if found:
            raise ImpossibleInput(*found)
        return parameters

    def weeks_of(self, parameters: WaveParameters, weeks: int, hinge: bool, begun: int = 0) -> tuple[Prescription, ...]:
        """Wave after wave, a deload week at the end of each."""
        length = len(parameters.weeks) + 1
        rows = []
        for week in range(weeks):
            wave, nth = divmod(week, length)
            deload = nth == length - 1
            reps, left = parameters.weeks[0 if deload else nth]
            rows.append(
                asked(
                    week,
                    parameters,
                    kind=ExposureKind.DELOAD if deload else ExposureKind.WORK,
                    reps=reps,
                    reserve_reps=left,
                    sets=deload_sets(parameters) if deload else parameters.sets,
                    wave=wave,
                    first_of_wave=nth == 0,
                    top_of_wave=nth == length - 2,
                )
            )
        return tuple(rows)

    def decide(self, exposure: Exposure, parameters: WaveParameters, rules: Rules) -> Decision:
        """The top week decides where the next wave starts; missing reps bring the plan down."""
        asked, margin = exposure.prescription, exposure.margin_reps(rules)
        evidence = evidence_of(exposure)
        last_id = evidence[-1:]
        facts = facts_of(exposure) | {"percent": plain(100 * (1 - parameters.missed_share))}
        facts["promised"] = exposure.promised(rules)
        if exposure.reps_missing:
            if exposure.reps_missing == 1 and not asked.top_of_wave:
                return Decision(Code.STAY, "one_short", facts, evidence, "one_more_rep", next_wave_steps=1, hold=True)
            return Decision(
                Code.DOWN, "missed", facts, evidence, "all_reps", parameters.missed_share, next_wave_steps=0
            )
        if asked.top_of_wave:
            if margin is not None and margin >= parameters.more_left_reps:
                return Decision(Code.UP, "top_more", facts, evidence, "one_fewer_left", next_wave_steps=2)
            if margin is not None and margin >= 0:
                return Decision(Code.UP, "top_made", facts, evidence, "one_fewer_left")
            reason = "top_just" if margin is not None else "top_effort_unknown"
            return Decision(Code.STAY, reason, facts, last_id, "promise_kept", next_wave_steps=0)
        if margin is not None and margin >= parameters.more_left_reps:
            return Decision(Code.UP, "more_left", facts, last_id, "fewer_left", steps=1)
        if margin is not None and margin <= -parameters.fewer_left_reps:
            return Decision(Code.STAY, "fewer_left", facts, last_id, "promise_kept", hold=True)
        return Decision(Code.UP, "as_planned", facts, evidence, "one_rep_missed")
