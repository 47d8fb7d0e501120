"""A ladder lying on its side: rails, levels from easiest on the left, where the athlete stands, what is shut."""

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.ui.drawing.kit import Element, node, picture

WIDTH, HEIGHT, MARGIN = 520.0, 40.0, 14.0


@dataclass(frozen=True)
class Level:
    """One level: its movements in words, and what is true of it."""

    words: str
    here: bool = False
    earned: bool = False  # below where the athlete stands
    lacking: bool = False  # the room cannot rig any of its movements
    shut: bool = False  # behind a readiness check, locked or barred


def draw_ladder(name: str, levels: Sequence[Level]) -> Markup:
    """The picture; its words say the same as the list beside it."""
    step = (WIDTH - 2 * MARGIN) / max(len(levels), 1)
    top, low = 8.0, HEIGHT - 8.0
    parts: list[Element] = [node("line", x1=2, x2=WIDTH - 2, y1=y, y2=y, class_="ladder-rail") for y in (top, low)]
    for n, level in enumerate(levels):
        x = MARGIN + step * (n + 0.5)
        kind = "is-here" if level.here else "is-earned" if level.earned else "is-lacking" if level.lacking else ""
        group = node("g", node("title", text=level.words + _said(level)), class_=f"ladder-level {kind}")
        group.append(node("line", x1=x, x2=x, y1=top, y2=low))
        if level.here:
            group.append(node("circle", cx=x, cy=HEIGHT / 2, r=7))
        if level.shut:
            group.append(node("path", d=f"M{x - 5:g} {top + 3:g} L{x + 5:g} {low - 3:g}", class_="ladder-shut"))
        parts.append(group)
    standing = next((level.words for level in levels if level.here), "on no level yet")
    return picture(WIDTH, HEIGHT, f"{name}: {standing}, of {len(levels)} levels", *parts, class_="ladder")


def _said(level: Level) -> str:
    said = [
        word
        for word, holds in (
            ("here", level.here),
            ("earned", level.earned),
            ("not in this room", level.lacking),
            ("shut for now", level.shut),
        )
        if holds
    ]
    return f" ({', '.join(said)})" if said else ""
