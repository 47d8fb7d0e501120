"""What a typed line asks for, as an exercise: which progression follows from what was said, and which role."""

from collections.abc import Iterable
from typing import Any

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import BARS, SideMode
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.progression.holds import HoldsParameters
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.sessions.moves import REST_MOST_S
from backsquat.core.sessions.typed import TypedExercise
from backsquat.work.plan.blocks import ExerciseFacts

EFFORT_MOST_REPS, EFFORT_MOST_RESERVE = 15, 4  # of the progression that is steered by effort


def typed_facts(
    typed: TypedExercise, what: tuple[str, str], weekday: int, before: Iterable[ExerciseRole], library: Library
) -> ExerciseFacts:
    """A typed line as an exercise of a day on which exercises of these roles stand already.

    `what`: movement code, or ladder code. ImpossibleInput names what cannot be, as the progression's own reading does.
    """
    movement, ladder = what
    progression = typed.progression or ("ladder" if ladder else fitting_progression(typed, movement, library))
    if bool(ladder) != PROGRESSIONS[progression].own_levels:
        raise ImpossibleInput(Problem("progression", "ladder_progression" if ladder else "no_ladder"))
    if typed.each_side and not ladder and library.get(movement).side_mode is SideMode.BOTH:
        raise ImpossibleInput(Problem("what", "no_sides"))
    if typed.seconds and not ladder and not library.get(movement).work.seconds:
        raise ImpossibleInput(Problem("reps", "done_in_reps", {"name": library.get(movement).name}))
    if typed.rounds and typed.sets != typed.rounds:
        raise ImpossibleInput(Problem("sets", "rounds_or_sets", {"rounds": typed.rounds, "sets": typed.sets or 0}))
    if typed.rest_s > REST_MOST_S:
        raise ImpossibleInput(Problem("rest", "rest_range", {"low": 0, "high": REST_MOST_S}))
    parameters = _parameters(typed, progression)
    PROGRESSIONS[progression].read(parameters)
    return ExerciseFacts(
        weekday,
        movement,
        progression,
        parameters,
        ladder,
        _role(typed, list(before)),
        typed.superset,
        circuit=typed.circuit,
        rest_s=typed.rest_s if typed.superset else 0,
    )


def fitting_progression(typed: TypedExercise, movement: str, library: Library) -> str:
    """Which progression the words ask for: seconds are a hold, two numbers a window, a reserve steers by effort, the
    same reps on a bar a fixed step; else a window of one number, which waits until the step can be paid for in reps.
    """
    if typed.seconds:
        return "holds"
    if typed.low is None or typed.low != typed.high:
        return "window"
    if typed.low > EFFORT_MOST_REPS or library.get(movement).implement not in BARS:
        return "window"
    if typed.reserve_reps is not None and typed.reserve_reps <= EFFORT_MOST_RESERVE:
        return "effort"
    return "fixed"


def _parameters(typed: TypedExercise, progression: str) -> dict[str, Any]:
    """What was said, under the progression's own names; what it has no name for is refused, never dropped."""
    said: dict[str, Any] = {"sets": typed.sets, "tempo": typed.tempo or None}
    if not typed.superset:
        said["rest_s"] = typed.rest_s or None
    said["end_hold_s"] = typed.end_hold_s or None
    said["last_to_failure"] = 1 if typed.to_failure else None
    if typed.low is not None:
        said |= _amount(typed, progression)
    if typed.reserve_reps is not None:
        said |= _reserve(typed.reserve_reps, progression)
    return {name: value for name, value in said.items() if value is not None}


def _amount(typed: TypedExercise, progression: str) -> dict[str, Any]:
    low, high = typed.low or 0, typed.high or 0
    if typed.seconds != PROGRESSIONS[progression].holds:
        raise ImpossibleInput(Problem("reps", "seconds_or_reps"))
    if progression == "holds":
        return {"start_s": low, "top_s": high if high > low else max(low, HoldsParameters().top_s)}
    if progression == "window":
        return {"low": low, "high": high}
    if low != high or "reps" not in vars(PROGRESSIONS[progression].kind()):
        raise ImpossibleInput(Problem("reps", "own_reps", {"name": PROGRESSIONS[progression].name}))
    return {"reps": low}


def _reserve(reserve_reps: int, progression: str) -> dict[str, Any]:
    known = vars(PROGRESSIONS[progression].kind())
    if "start_reserve_reps" in known:  # the first sessions; with a window the end of its sets too
        return {"start_reserve_reps": reserve_reps} | (
            {"reserve_reps": min(reserve_reps, 4)} if "reserve_reps" in known else {}
        )
    if "reserve_reps" in known:
        return {"reserve_reps": reserve_reps}
    raise ImpossibleInput(Problem("reserve", "own_reserve", {"name": PROGRESSIONS[progression].name}))


def _role(typed: TypedExercise, before: list[ExerciseRole]) -> ExerciseRole:
    """The first of a day is what it is about, the second beside it; what goes round or comes later assists."""
    if typed.spare:
        return ExerciseRole.SPARE
    if typed.circuit:
        return ExerciseRole.ASSISTANCE
    if ExerciseRole.MAIN not in before:
        return ExerciseRole.MAIN
    if ExerciseRole.SECOND not in before and not typed.superset:
        return ExerciseRole.SECOND
    return ExerciseRole.ASSISTANCE
