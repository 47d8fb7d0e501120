"""What a movement's order in the session says about its reps (rules 2.5)."""

from dataclasses import dataclass, replace
from typing import Any

from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.prescription import Prescription
from backsquat.core.rules import Rules
from backsquat.core.sessions.order import THIRD_REPS, Place

LAST_TEMPO = "4-0-1-0"


@dataclass(frozen=True)
class Window:
    """Reps from low to high, the code of why, and what else the order asks for."""

    low: int
    high: int
    why: str
    changes: tuple[tuple[str, Any], ...] = ()


SINGLE_LEG = ((4, 6), (6, 10), (THIRD_REPS, 12))  # first, second, third in the session


def usual_window(movement: Movement, place: Place, main: bool, rules: Rules) -> Window:
    """The usual window of a movement at its place in a session; usual practice throughout."""
    family = movement.family
    if own := _own_dose(movement):
        return own
    loaded = CONVENTIONS[movement.convention].loaded or movement.convention == "dumbbells"
    if family is Family.SINGLE_LEG:
        nth = min(place.nth, 2)
        if loaded and (main or nth == 2):
            return Window(*SINGLE_LEG[nth], ("single_first", "single_second", "single_third")[nth])
        return Window(8, 15, "single_general")
    if family is Family.SQUAT:
        if place.after_hips and place.nth == place.of - 1:
            changes = (("tempo", LAST_TEMPO), ("start_share", rules.last_squat_share))
            return Window(8, 12, "squat_last", changes)
        if main and CONVENTIONS[movement.convention].tested:
            return Window(3, 6, "squat_strength")
        return Window(8, 12, "general")
    if family is Family.HINGE:
        return Window(6, 10, "hinge") if main else Window(8, 15, "hinge_light")
    if family is Family.CURL:
        return Window(8, 30, "ball_curl") if movement.implement == "ball" else Window(8, 20, "curl")
    if family is Family.CALF:
        return Window(12, 20, "calf")
    if family is Family.THRUST:
        return Window(8, 15, "thrust")
    return Window(movement.work.low, max(movement.work.high, movement.work.low + 1), "own_work")


FEW = {Family.CURL: 8, Family.THRUST: 8, Family.CALF: 12}  # a dose that begins below is the movement's own


def _own_dose(movement: Movement) -> Window | None:
    """The movement's own dose, where it is not its family's: seconds, and the few slow reps of Nordics and raises."""
    work, few = movement.work, FEW.get(movement.family, 0)
    if not work.seconds and work.low >= few:
        return None
    return Window(
        work.low, max(work.high, work.low + 1), "own_work", (("tempo", work.tempo),) if work.low < few else ()
    )


def in_seconds(prescription: Prescription, movement: Movement) -> Prescription:
    """A progression's reps for a movement done by the clock: its own seconds stay, whatever the progression counts."""
    if not movement.work.seconds or prescription.hold_s:
        return prescription
    return replace(prescription, reps=1, low=0, high=0, hold_s=movement.work.high)
