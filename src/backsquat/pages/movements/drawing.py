"""Pictures of the library: the emphasis map, a movement's figure."""

from collections.abc import Callable, Iterable

from markupsafe import Markup

from backsquat.core.movements.movement import Implement, Movement
from backsquat.library.shelf import poses
from backsquat.ui.drawing.emphasis import BACK, SKILL, Dot, draw_map
from backsquat.ui.drawing.figure import draw_figure

NAMED_MOST = 14  # with more dots than this only the list carries names


def map_picture(
    shown: Iterable[Movement], axis: str, dim: Callable[[Movement], bool], link: Callable[[Movement], str]
) -> Markup:
    movements = list(shown)
    dots = [
        Dot(
            movement.name,
            movement.tag,
            movement.family.value,
            movement.emphasis,
            movement.back_index if axis == "back" else movement.skill,
            link(movement),
            dim(movement),
            len(movements) <= NAMED_MOST,
        )
        for movement in movements
    ]
    return draw_map(dots, BACK if axis == "back" else SKILL)


def figure_picture(movement: Movement) -> Markup:
    start, end = (poses()[code] for code in movement.poses)
    loaded = movement.implement not in (
        Implement.BODY,
        Implement.BAND,
        Implement.BALL,
        Implement.SLIDERS,
        Implement.MACHINE,
    )
    return draw_figure(movement.name, start, end, movement.held.value, loaded)
