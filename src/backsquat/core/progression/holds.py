"""Holds: seconds first, then a harder level (progression 8)."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Code, Decision, Exposure, evidence_of, facts_of
from backsquat.core.progression.outline import asked
from backsquat.core.progression.parameters import Parameters, parameter
from backsquat.core.progression.prescription import Aim, Basis, Prescription
from backsquat.core.rules import Rules


@dataclass(frozen=True, kw_only=True)
class HoldsParameters(Parameters):
    """What a coach can set about holds, in seconds."""

    sets: int = parameter(3, "Holds", "sets", 1, 10)
    rest_s: int = parameter(60, "Rest between holds", "s", 30, 600)
    start_s: int = parameter(15, "Seconds at the start", "s", 5, 300)
    step_s: int = parameter(5, "Seconds more when all were held", "s", 1, 60)
    top_s: int = parameter(45, "Seconds from which a harder level is next", "s", 10, 600)


class HoldsProgression(Progression[HoldsParameters]):
    """Seconds grow before the level does (usual practice)."""

    code = "holds"
    name = "Holds"
    summary = "Seconds grow first; held to the top, a harder version follows."
    kind = HoldsParameters
    loaded = False
    holds = True

    def weeks_of(
        self, parameters: HoldsParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """Seconds from the start, a step more every week."""
        return tuple(_hold(week, parameters.start_s + week * parameters.step_s, parameters) for week in range(weeks))

    def resume(
        self, outline: Iterable[Prescription], asked: Prescription, decision: Decision, parameters: HoldsParameters
    ) -> tuple[Prescription, ...]:
        """The weeks to come from the seconds the decision names."""
        seconds = int(decision.facts.get("next_s", asked.hold_s))
        return tuple(
            _hold(p.week, seconds + (p.week - asked.week - 1) * parameters.step_s, parameters)
            for p in outline
            if p.week > asked.week
        )

    def judge(self, exposure: Exposure, parameters: HoldsParameters, rules: Rules) -> Decision:
        """As every progression, and says the seconds that come next."""
        decision = super().judge(exposure, parameters, rules)
        now = exposure.prescription.hold_s
        down = max(parameters.step_s, now - parameters.step_s) if decision.code is Code.DOWN else now
        return replace(decision, facts={"next_s": down, **decision.facts})

    def decide(self, exposure: Exposure, parameters: HoldsParameters, rules: Rules) -> Decision:
        """All held to the end: longer, or at the top a harder version; one cut short: the same again."""
        now = exposure.prescription.hold_s
        facts, evidence = facts_of(exposure) | {"hold_s": now}, evidence_of(exposure)
        held = [s.hold_s or 0 for s in exposure.sets]
        if len(held) < exposure.prescription.sets or min(held, default=0) < now:
            facts["next_s"] = now
            return Decision(Code.STAY, "hold_short", facts, evidence, "all_held")
        facts["next_s"] = min(now + parameters.step_s, parameters.top_s)
        if now < parameters.top_s:
            return Decision(Code.UP, "hold_longer", facts, evidence, "one_short_hold")
        return Decision(Code.STAY, "hold_top", facts, evidence, "one_short_hold")


def _hold(week: int, seconds: int, parameters: HoldsParameters) -> Prescription:
    return asked(
        week, parameters, reps=1, reserve_reps=0, hold_s=min(max(seconds, 1), parameters.top_s), aim=Aim(Basis.NONE)
    )
