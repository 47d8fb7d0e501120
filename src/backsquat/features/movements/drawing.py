"""Pictures of the library: the emphasis map, a movement's figure, a ladder with an athlete on it."""

from collections.abc import Callable, Iterable

from markupsafe import Markup

from backsquat.core.movements.ladder import Ladder
from backsquat.core.movements.movement import Implement, Movement
from backsquat.features.athletes.readiness import Readiness
from backsquat.features.movements.queries import Library
from backsquat.library.shelf import poses
from backsquat.ui.drawing.emphasis import BACK, SKILL, Dot, draw_map
from backsquat.ui.drawing.figure import draw_figure
from backsquat.ui.drawing.ladder import Rung, draw_ladder

NAMED_MOST = 14  # with more dots than this only the list carries names


def map_picture(
    shown: Iterable[Movement], axis: str, dim: Callable[[Movement], bool], link: Callable[[Movement], str]
) -> Markup:
    movements = list(shown)
    dots = [
        Dot(
            movement.name, movement.tag, movement.family.value, movement.emphasis,
            movement.back_index if axis == "back" else movement.skill, link(movement), dim(movement),
            len(movements) <= NAMED_MOST,
        )
        for movement in movements
    ]  # fmt: skip
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


def ladder_picture(
    ladder: Ladder, library: Library, ready: Readiness | None, shown: int | None = None
) -> Markup:
    """The ladder with an athlete on it, or without one with the rung `shown` picked out."""
    here = ready.rung_on(ladder) if ready else shown
    rungs, standing = [], here if ready and here is not None else 0
    for n, rung in enumerate(ladder.rungs):
        movements = [library.movements[code] for code in rung]
        rungs.append(
            Rung(
                " or ".join(movement.name for movement in movements), n == here, n < standing,
                ready is not None and all(ready.lacking(movement) for movement in movements),
                ready is not None and all(ready.blocked(movement) for movement in movements),
            )
        )  # fmt: skip
    return draw_ladder(ladder.name, rungs)
