"""What a loading progression is.

A progression lays out a block (`outline`: sets, reps, reserve and where each load comes from), reacts
to what was done (`judge`), and lays out the weeks after a decision again (`resume`). Loads, caps
and rounding are the same for all and live in `plan.py`.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, ClassVar, Generic, TypeVar, cast

from backsquat.core.progression.decision import (
    STRICT,
    Code,
    Decision,
    Exposure,
    clock_done,
    cut_short,
    deload_done,
    judge_safety,
)
from backsquat.core.progression.outline import with_test
from backsquat.core.progression.parameters import Parameters, read
from backsquat.core.progression.prescription import Basis, ExposureKind, Prescription
from backsquat.core.rules import Rules

P = TypeVar("P", bound=Parameters)


class Progression(Generic[P]):
    """Base of the progressions, over the parameters a coach can set: subclasses give `weeks_of` and `decide`."""

    code: ClassVar[str]
    name: ClassVar[str]
    summary: ClassVar[str]
    kind: ClassVar[type[Parameters]]
    loaded: ClassVar[bool] = True  # False: no load is worked out
    by_exposure: ClassVar[bool] = False  # True: on several days of a week it climbs from one to the next, as one row
    own_levels: ClassVar[bool] = False  # True: of a ladder, everybody on the own level; False: of a movement
    windowed: ClassVar[bool] = False  # True: it grows in a window of reps, the usual one where nobody says another
    fast: ClassVar[bool] = False  # True: its sets end with the speed and never near failure
    holds: ClassVar[bool] = False  # True: it makes seconds grow; for the others work by the clock stays as it is

    def read(self, changes: Mapping[str, Any]) -> P:
        """The progression's parameters with a coach's changes; ImpossibleInput where they make no sense."""
        return cast(P, read(self.kind, changes))

    def weeks_of(self, parameters: P, weeks: int, hinge: bool, begun: int = 0) -> tuple[Prescription, ...]:
        """One prescription a week, before any test week; `begun`: the week of the block in which the first is."""
        raise NotImplementedError

    def exposures_of(
        self, parameters: P, weeks: int, a_week: int, hinge: bool, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """One for each exposure of a lift done so many times a week; of progressions that climb by exposure."""
        raise NotImplementedError

    def judge(self, exposure: Exposure, parameters: P, rules: Rules) -> Decision:
        """The decision after an exposure, the stricter of two.

        Pain, readiness check, depth and form are judged the same for all; the progression has its own view.
        """
        safe = judge_safety(exposure, parameters.missed_share, rules)
        if exposure.prescription.kind is not ExposureKind.WORK:
            return safe or deload_done(exposure)
        if exposure.prescription.hold_s and not self.holds:
            return safe or clock_done(exposure)
        if safe is None and exposure.cut_short:
            return cut_short(exposure)
        if safe is not None and (STRICT[safe.code] == STRICT[Code.STOP] or exposure.cut_short):
            return safe
        own = self.decide(exposure, parameters, rules)
        # The stricter of both: a shallow rep makes nothing of two misses in a row.
        stricter = safe is None or (own.code is not Code.LOOK and STRICT[own.code] > STRICT[safe.code])
        return own if stricter or safe is None else safe

    def decide(self, exposure: Exposure, parameters: P, rules: Rules) -> Decision:
        """The progression's own view of a working exposure that was sound."""
        raise NotImplementedError

    def outline(
        self, parameters: P, weeks: int, hinge: bool = False, a_week: int = 1, begun: int = 0
    ) -> tuple[Prescription, ...]:
        """One prescription a week, or `a_week` of them, as it goes when everything is made.

        `begun`: the week of the block in which the first is; deload weeks are the block's, not each exercise's own.
        """
        if a_week == 1:
            return with_test(self.weeks_of(parameters, weeks, hinge, begun), parameters, weeks - 1)
        return with_test(self.exposures_of(parameters, weeks, a_week, hinge, begun), parameters, weeks * a_week - 1)

    def resume(
        self, outline: Iterable[Prescription], asked: Prescription, decision: Decision, parameters: P
    ) -> tuple[Prescription, ...]:
        """The weeks after `asked` with what the decision says of the next load."""
        rows = [p for p in outline if p.week > asked.week]
        return _next_load(rows, decision)


def _next_load(rows: Sequence[Prescription], decision: Decision) -> tuple[Prescription, ...]:
    """The first working week that climbs from the last load follows the decision instead."""
    changed = list(rows)
    for n, row in enumerate(rows):
        if row.kind is not ExposureKind.WORK:
            continue
        if row.aim.basis is Basis.LAST:
            aim = replace(row.aim, steps=decision.load_steps, share=decision.load_share, waits=False)
            changed[n] = replace(row, aim=aim)
        break
    return tuple(changed)
