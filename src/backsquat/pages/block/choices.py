"""What the forms of exercises offer."""

from typing import Any

from backsquat.core.movements.ladder import rigged
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.library.shelf import equipment
from backsquat.pages.block.forms import parameter_text, what_names
from backsquat.pages.block.phrases import ROLE_WORDS, WINDOW_WHY, reps_words
from backsquat.pages.request import context, reader, squad_library
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.work.plan.progression_settings import setting_of
from backsquat.work.rooms.rooms import room_equipment


def _lacking() -> dict[str, str]:
    """By name, what the squad's own room lacks for a movement: said while planning."""
    names, here = equipment(), room_equipment(reader(), context().squad.id)
    found = ((movement.name, rigged(movement, here)) for movement in squad_library().in_use())
    return {name: names.get(lack[0], lack[0]) for name, lack in found if lack}


def exercise_choices() -> dict[str, Any]:
    """Days, progressions, roles and movements, and the words for an exercise's parameters."""
    return {
        "weekdays": WEEKDAYS,
        "progressions": PROGRESSIONS,
        "roles": ROLE_WORDS,
        "parameter_text": parameter_text,
        "whats": sorted(what_names(squad_library())),
        "lacks": _lacking(),
        "window_why": WINDOW_WHY,
        "reps_words": reps_words,
        "setting_of": setting_of,
    }
