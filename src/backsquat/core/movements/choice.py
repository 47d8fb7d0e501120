"""Which variant for this athlete: a ranking with the reasons for and against each.

It advises; the coach picks. Two progressions are supported (rules, `upright_first`). Back-loaded first:
a sport that already loads the front of the knee and the groin makes front-loaded and wide squats
the second choice. Upright first: the upright trunk spares the lower back, so front-loaded comes first.
A movement that may not be done now is kept in the list with what stands in its way.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.movements.movement import Family, HeldWhere, Movement, MuscleLength
from backsquat.core.rules import Rules


class ChoiceGoal(StrEnum):
    """What the coach wants more of: thighs, hips and hamstrings, or both."""

    THIGHS = "thighs"
    BOTH = "both"
    HIPS = "hips"


@dataclass(frozen=True)
class Situation:
    """What the ranking must know; the callables answer for one movement."""

    goal: ChoiceGoal
    rules: Rules
    upright_first: bool
    back_history: bool
    trunk_deg: float | None  # trunk angle from upright in the screens
    ankles_short: bool
    newcomer: bool
    level_steps: Callable[[Movement], int | None]  # levels above what was earned; negative below; None: on no ladder
    lacking: Callable[[Movement], tuple[str, ...]]  # equipment this room lacks
    blocked: Callable[[Movement], tuple[str, ...]]  # codes: locked, barred, readiness check
    hinge_sets: int = 0  # of the athlete's week, as planned


@dataclass(frozen=True)
class ChoiceReason:
    """Speaks for a movement (positive points) or against it."""

    code: str
    points: float
    facts: Mapping[str, str | float | int]


@dataclass(frozen=True)
class Ranked:
    """A movement with its points, the reasons for and against, and what stands in its way (codes)."""

    movement: Movement
    points: float
    reasons: tuple[ChoiceReason, ...]
    lacking: tuple[str, ...]
    blocked: tuple[str, ...]
    substitutes: tuple[str, ...] = ()

    @property
    def open(self) -> bool:
        """Whether the room can rig it and nothing forbids it."""
        return not self.lacking and not self.blocked


def reasons_for(movement: Movement, situation: Situation) -> list[ChoiceReason]:
    """Each reason with its points; those of no weight are left out."""
    found = [
        _goal(movement, situation),
        *_sport(movement, situation),
        *(_trunk(movement, situation) if movement.family in UPRIGHT_MATTERS else _back(movement, situation)),
        _curl(movement, situation),
        _level(movement, situation),
    ]
    easy_to_learn = situation.rules.variant_skill_newcomer if situation.newcomer else situation.rules.variant_skill
    if movement.skill > easy_to_learn:
        found.append(ChoiceReason("skill", -1.5 * (movement.skill - easy_to_learn), {"skill": movement.skill}))
    if movement.rig_s >= situation.rules.variant_rig_s:
        found.append(ChoiceReason("rig", -0.5, {"minutes": round(movement.rig_s / 60, 1)}))
    return [reason for reason in found if reason and reason.points]


def _goal(movement: Movement, situation: Situation) -> ChoiceReason:
    wanted = {ChoiceGoal.THIGHS: -1.5, ChoiceGoal.BOTH: 0.0, ChoiceGoal.HIPS: 1.5}[situation.goal]
    points = round(2.0 - abs(movement.emphasis - wanted), 2)
    return ChoiceReason("goal_fits" if points > 0 else "goal_off", points, {"goal": situation.goal.value})


def _sport(movement: Movement, situation: Situation) -> list[ChoiceReason]:
    weight = 0.5 if situation.upright_first else 1.0
    found = []
    for code, strain, sport in (
        ("sport_knee", movement.knee_strain, situation.rules.sport_knee_strain),
        ("sport_groin", movement.groin_strain, situation.rules.sport_groin_strain),
    ):
        if strain >= 2 and sport >= 2:
            found.append(ChoiceReason(code, -weight * (strain - 1) * sport / 2, {"strain": strain}))
    if not situation.upright_first and movement.held is HeldWhere.BACK and situation.rules.sport_knee_strain >= 2:
        found.append(ChoiceReason("back_loaded", 1.0, {}))
    return found


UPRIGHT_MATTERS = frozenset({Family.SQUAT, Family.SINGLE_LEG})  # an upright trunk is no merit of a curl
HEAVY_HINGE_SETS = 6  # from here on the week has its stretch already (rules 2.7)


def _back(movement: Movement, situation: Situation) -> list[ChoiceReason]:
    """What a history of the lower back says of any family."""
    if not situation.back_history or movement.back_index < 1:
        return []
    return [ChoiceReason("back_history", -1.5 * movement.back_index, {"index": movement.back_index})]


def _curl(movement: Movement, situation: Situation) -> ChoiceReason | None:
    """Hinges load the hamstrings long: in a week full of them a curl for the short end, else one for the long."""
    if movement.family is not Family.CURL:
        return None
    heavy = situation.hinge_sets >= HEAVY_HINGE_SETS
    fits = movement.length is (MuscleLength.SHORTENED if heavy else MuscleLength.STRETCHED)
    code = ("short_with_hinges" if heavy else "long_without_hinges") if fits else ""
    return ChoiceReason(code, 1.0, {"sets": situation.hinge_sets}) if fits else None


def _trunk(movement: Movement, situation: Situation) -> list[ChoiceReason]:
    found = _back(movement, situation)
    upright = movement.trunk_lean <= 1
    if not found and situation.upright_first and movement.back_index:
        points = 1.0 if upright else -0.5 * movement.back_index
        code = "upright_spares" if upright else "back_cost"
        found.append(ChoiceReason(code, points, {"index": movement.back_index}))
    if situation.trunk_deg is not None and situation.trunk_deg >= situation.rules.variant_lean_deg:
        code, points = ("leaner_upright", 1.0) if upright else ("leaner_leans", -1.0)
        found.append(ChoiceReason(code, points, {"degrees": situation.trunk_deg}))
    if situation.ankles_short and upright and movement.knee_strain >= 2:
        found.append(ChoiceReason("ankles_short", -1.0, {}))
    return found


def _level(movement: Movement, situation: Situation) -> ChoiceReason | None:
    steps = situation.level_steps(movement)
    if steps is None:
        return None
    if steps == 0:
        return ChoiceReason("on_level", 2.0, {})
    if steps > 0:
        return ChoiceReason("above_level", -1.0 * min(steps, 4), {"steps": steps})
    return ChoiceReason("below_level", -0.5 * min(-steps, 8), {"steps": -steps})


def rank(movements: Iterable[Movement], situation: Situation) -> list[Ranked]:
    """Best first; what may be done before what may not, and ties by name so that the order never wavers."""
    known = list(movements)
    ranked = []
    for movement in known:
        reasons = tuple(reasons_for(movement, situation))
        points = round(sum(reason.points for reason in reasons), 2)
        lacking, blocked = situation.lacking(movement), situation.blocked(movement)
        others = substitutes(movement, known, situation) if lacking else ()
        ranked.append(Ranked(movement, points, reasons, lacking, blocked, others))
    return sorted(ranked, key=lambda item: (not item.open, -item.points, item.movement.name))


def substitutes(
    movement: Movement, movements: Iterable[Movement], situation: Situation, most: int = 3
) -> tuple[str, ...]:
    """Movements of the same family that this room can rig and that may be done now, the most alike first."""
    others = [
        other
        for other in movements
        if other.code != movement.code
        and other.family is movement.family
        and not situation.lacking(other)
        and not situation.blocked(other)
    ]
    others.sort(key=lambda other: (unlikeness(movement, other), other.name))
    return tuple(other.code for other in others[:most])


def unlikeness(one: Movement, other: Movement) -> float:
    """How far two movements are apart: emphasis, length, sides, cost to the back, skill, a hand that helps."""
    return (
        abs(one.emphasis - other.emphasis)
        + (one.length is not other.length) * 0.75
        + (one.sides != other.sides)
        + abs(one.back_index - other.back_index) * 0.5
        + abs(one.skill - other.skill) * 0.25
        + ((one.held is HeldWhere.SUPPORT) is not (other.held is HeldWhere.SUPPORT)) * 0.75
    )
