"""Left against right, from screens or from what each side lifted (rules 2.9).

Difference = (better − weaker) ÷ better, of all that is moved. Beyond the test's error, it is noted from `side_note` and
acted on from `side_act`: the weaker side first, the stronger matches its reps.
"""

from dataclasses import dataclass

from backsquat.core.numbers import sure
from backsquat.core.rules import Rules
from backsquat.core.working import Step, Working


@dataclass(frozen=True)
class Sides:
    """Two sides of one thing; `level` is even, note or act."""

    name: str
    left: float
    right: float
    unit: str
    weaker: str
    share: float
    level: str
    working: Working


def compare(
    name: str,
    left: float,
    right: float,
    unit: str,
    rules: Rules,
    *,
    less_is_better: bool = False,
    error: float = 0.0,
    carried: float = 0.0,
) -> Sides:
    """How far the sides are apart as a share of the better one, and what follows.

    `carried` is what of the body each side moves with a load: 34 and 38 kg beside 60 kg of body are 4 %, not 11.
    """
    for side, value in (("left", left), ("right", right), ("error", error), ("carried", carried)):
        sure(side, value)
    better, worse = (min(left, right), max(left, right)) if less_is_better else (max(left, right), min(left, right))
    weaker = "left" if worse == left and left != right else "right" if left != right else ""
    by = better + carried
    share = abs(better - worse) / by if by > 0 else 1.0 if better != worse else 0.0
    real = abs(left - right) > error + 1e-9
    level = "even"
    if real and share >= rules.side_act - 1e-9:
        level = "act"
    elif real and share >= rules.side_note - 1e-9:
        level = "note"
    steps = [Step("difference", {"high": max(left, right), "low": min(left, right), "by": by}, 100 * share, "%")]
    if error and not real:
        steps.append(Step("within_error", {"error": error, "unit": unit}))
    return Sides(name, left, right, unit, weaker, share, level, Working(tuple(steps)))
