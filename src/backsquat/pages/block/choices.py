"""What the forms of slots offer."""

from typing import Any

from backsquat.core.progression.schools import SCHOOLS
from backsquat.pages.block.forms import parameter_text, what_names
from backsquat.pages.block.phrases import ROLE_WORDS, WINDOW_WHY, reps_words
from backsquat.pages.request import squad_library
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.work.plan.school_settings import setting_of


def slot_choices() -> dict[str, Any]:
    """Days, schools, roles and movements, and the words for a slot's parameters."""
    return {
        "weekdays": WEEKDAYS,
        "schools": SCHOOLS,
        "roles": ROLE_WORDS,
        "parameter_text": parameter_text,
        "whats": sorted(what_names(squad_library())),
        "window_why": WINDOW_WHY,
        "reps_words": reps_words,
        "setting_of": setting_of,
    }
