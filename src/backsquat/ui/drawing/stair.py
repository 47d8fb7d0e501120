"""The load staircase of a sheet row, one piece a cell: from the last week's level to this week's."""

from collections.abc import Sequence
from functools import lru_cache

from markupsafe import Markup

from backsquat.ui.drawing.kit import Scale, markup, node, path

WIDTH, HEIGHT = 100.0, 12.0


def draw_stair(loads_kg: Sequence[float | None]) -> list[Markup]:
    """Pieces for a row of loads; a week without a load has an empty piece. Decoration: the numbers say it."""
    known = [load for load in loads_kg if load is not None]
    if not known:
        return [Markup("") for _ in loads_kg]
    scale = Scale(min(known), max(known), HEIGHT - 2.5, 2.5)
    pieces, before = [], None
    for load in loads_kg:
        if load is None:
            pieces.append(Markup(""))
            before = None
            continue
        level = round(scale(load), 1)
        pieces.append(_piece(level if before is None else before, level))
        before = level
    return pieces


@lru_cache(maxsize=4096)
def _piece(start: float, level: float) -> Markup:
    """One cell's piece, from the level before to its own; the same few come again and again."""
    area = path([(0.0, HEIGHT), (0.0, level), (WIDTH, level), (WIDTH, HEIGHT)]) + " Z"
    line = path([(0.0, start), (0.0, level), (WIDTH, level)])
    root = node(
        "svg",
        node("path", d=area, class_="stair-fill"),
        node("path", d=line, class_="stair-line", vector_effect="non-scaling-stroke"),
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        preserveAspectRatio="none",
        class_="stair",
        aria_hidden="true",
    )
    return markup(root)
