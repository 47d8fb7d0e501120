"""Rep window: reps grow from the bottom to the top of a window, then the load takes a step (progression 3).

All sets at the top: the smallest step, if it promises at least the bottom; else one more rep
first, for a coarse step is paid in reps. First set under the bottom twice: a step down. Else the
same load and one more rep.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.progression.base import Progression
from backsquat.core.progression.decision import Code, Decision, Exposure, evidence_of, facts_of
from backsquat.core.progression.outline import asked, with_deload_weeks, with_test
from backsquat.core.progression.parameters import EveryFourth, parameter
from backsquat.core.progression.prescription import Aim, Basis, ExposureKind, Prescription
from backsquat.core.rule import YES_NO
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, maximum_kg, reps_for
from backsquat.core.strength.record import REPS_MOST


@dataclass(frozen=True, kw_only=True)
class WindowParameters(EveryFourth):
    """What a coach can set about the rep window."""

    low: int = parameter(8, "Bottom of the window", "reps", 1, 30)
    high: int = parameter(12, "Top of the window", "reps", 1, 30)
    sets: int = parameter(3, "Working sets", "sets", 1, 10)
    rest_s: int = parameter(90, "Rest between sets", "s", 30, 600)
    start_reserve_reps: int = parameter(2, "RIR in the first session", "reps", 0, 6)
    reserve_reps: int = parameter(1, "RIR at the end of a set", "reps", 0, 4)
    start_share: float = parameter(
        1.0, "First load as a share of what the window gives: less where the movement comes last", "share", 0.6, 1
    )
    over_option: int = parameter(
        0, "Two reps over the top in the last set of two sessions also earn the step", YES_NO, 0, 1
    )
    over_reps: int = parameter(2, "Reps over the top that count for that", "reps", 1, 5)


class WindowProgression(Progression[WindowParameters]):
    """Reps first, then load: double progression (usual practice)."""

    code = "window"
    name = "Rep window"
    summary = "Reps grow to the top of the window at the same load; then a step, and from the bottom again."
    kind = WindowParameters
    windowed = True

    def read(self, changes: Mapping[str, Any]) -> WindowParameters:
        """The parameters; ImpossibleInput where the window is upside down. Top and bottom alike: fixed reps."""
        parameters = super().read(changes)
        if parameters.low > parameters.high:
            raise ImpossibleInput(Problem("high", "window_order"))
        return parameters

    def weeks_of(
        self, parameters: WindowParameters, weeks: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """One rep more each week to the top of the window, then a step and from the bottom again."""
        return with_deload_weeks(range(weeks), parameters, lambda week, nth: _work(week, nth, parameters), begun=begun)

    def resume(
        self, outline: Iterable[Prescription], asked: Prescription, decision: Decision, parameters: WindowParameters
    ) -> tuple[Prescription, ...]:
        """The reps go on from those the decision asks for."""
        weeks = [p for p in outline if p.week > asked.week]
        if not weeks:
            return ()
        reps = decision.reps or asked.reps
        step = Aim(Basis.LAST, share=decision.load_share, steps=decision.load_steps)
        span = parameters.high - parameters.low + 1

        def work(week: int, nth: int) -> Prescription:
            if nth == 0:
                return replace(_work(week, 1, parameters), reps=reps, wave=asked.wave, aim=step)
            # Over the top already: the next is the step, from the bottom again.
            beyond = span + nth - 1 if reps > parameters.high else reps - parameters.low + nth
            row = _work(week, beyond, parameters)
            return replace(row, wave=asked.wave + row.wave)

        rows = list(with_deload_weeks(range(weeks[0].week, weeks[-1].week + 1), parameters, work))
        if rows[0].kind is ExposureKind.DELOAD:  # eased from what was done, not from what comes after
            rows[0] = replace(rows[0], reps=asked.reps, aim=Aim(Basis.LAST))
        return (
            with_test(tuple(rows), parameters, weeks[-1].week) if weeks[-1].kind is ExposureKind.TEST else tuple(rows)
        )

    def decide(self, exposure: Exposure, parameters: WindowParameters, rules: Rules) -> Decision:
        """All sets at the top: a step, if the room has one that is not too coarse; else one more rep."""
        facts, evidence = facts_of(exposure), evidence_of(exposure)
        done = [s.reps_to_depth for s in exposure.full_sets]
        least = min(done, default=0) if len(done) >= exposure.prescription.sets else 0
        goal, now = max(parameters.high, exposure.prescription.reps), exposure.prescription.reps
        if least >= goal:
            return self._at_the_top(exposure, parameters, rules, least)
        if parameters.over_option and done and done[-1] >= parameters.high + parameters.over_reps:
            if exposure.past and exposure.past[-1].reason == "window_over":
                return Decision(
                    Code.UP, "window_over_twice", facts, evidence, "last_set_shorter", load_steps=1, reps=parameters.low
                )
            return Decision(Code.STAY, "window_over", facts, evidence, "last_set_shorter", reps=now)
        if not done or done[0] < parameters.low:
            if exposure.past and exposure.past[-1].reason == "window_under":
                return Decision(
                    Code.DOWN, "window_down", facts, evidence, "first_set_inside", load_steps=-1, reps=parameters.low
                )
            return Decision(Code.STAY, "window_under", facts, evidence, "first_set_inside", reps=now)
        if least >= now:
            facts["next_reps"] = least + 1
            return Decision(Code.UP, "window_reps", facts, evidence, "one_rep_missed_stays", reps=least + 1)
        return Decision(Code.STAY, "window_stay", facts, evidence, "all_reps_up", reps=now)

    def _at_the_top(self, exposure: Exposure, parameters: WindowParameters, rules: Rules, least: int) -> Decision:
        facts, evidence = facts_of(exposure), evidence_of(exposure)
        following = exposure.next_load_kg
        promised = None
        if following is not None and following > exposure.load_kg:
            promised = promised_reps(
                exposure.load_kg, least, exposure.margin_left, following, exposure.carried_kg, rules
            )
        if (
            following is None
            or following <= exposure.load_kg
            or (promised is not None and promised < parameters.low and least < REPS_MOST)
        ):
            if parameters.low == parameters.high:  # fixed reps: the load waits for a finer step
                return Decision(Code.STAY, "window_stay", facts, evidence, "finer_step", reps=parameters.high)
            facts |= {"promised_reps": int(promised or 0), "next_kg": following or 0.0, "next_reps": least + 1}
            reason = "window_coarse" if promised is not None else "window_heaviest"
            return Decision(Code.UP, reason, facts, evidence, "finer_step", reps=min(least + 1, REPS_MOST))
        return Decision(
            Code.UP, "window_top", facts, evidence, "one_rep_missed_stays", load_steps=1, reps=parameters.low
        )


def promised_reps(load_kg: float, reps: int, left: int, next_kg: float, carried_kg: float, rules: Rules) -> float:
    """Reps the next load promises after `reps` with `left` in reserve at `load_kg`, by the squad's formula."""
    formula = FORMULAS[rules.formula]
    moved = maximum_kg(load_kg + carried_kg, reps + min(left, rules.reserve_cap_reps), formula)
    return reps_for(next_kg + carried_kg, moved, formula)


def _work(week: int, nth: int, parameters: WindowParameters) -> Prescription:
    """The `nth`-th working exposure when everything is made: one more rep each, then a step."""
    wave, over = divmod(nth, parameters.high - parameters.low + 1)
    aim = Aim(Basis.LAST, reserve_reps=parameters.start_reserve_reps)
    if nth == 0:
        aim = replace(aim, basis=Basis.MAX, share=parameters.start_share)
    elif over == 0:
        aim = replace(aim, steps=1, waits=True)
    return asked(
        week,
        parameters,
        reps=parameters.low + over,
        low=parameters.low,
        high=parameters.high,
        reserve_reps=parameters.reserve_reps if nth else parameters.start_reserve_reps,
        wave=wave,
        first_of_wave=over == 0,
        aim=aim,
    )
