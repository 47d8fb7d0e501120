"""A ladder lying on its side: rails, rungs from easiest on the left, where the athlete stands, what is shut."""

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.ui.drawing.kit import Element, node, picture

WIDTH, HEIGHT, MARGIN = 520.0, 40.0, 14.0


@dataclass(frozen=True)
class Rung:
    """One rung: its movements in words, and what is true of it."""

    words: str
    here: bool = False
    earned: bool = False  # below where the athlete stands
    lacking: bool = False  # the room cannot rig any of its movements
    shut: bool = False  # behind a gate, locked or barred


def draw_ladder(name: str, rungs: Sequence[Rung]) -> Markup:
    """The picture; its words say the same as the list beside it."""
    step = (WIDTH - 2 * MARGIN) / max(len(rungs), 1)
    top, low = 8.0, HEIGHT - 8.0
    parts: list[Element] = [node("line", x1=2, x2=WIDTH - 2, y1=y, y2=y, class_="ladder-rail") for y in (top, low)]
    for n, rung in enumerate(rungs):
        x = MARGIN + step * (n + 0.5)
        kind = "is-here" if rung.here else "is-earned" if rung.earned else "is-lacking" if rung.lacking else ""
        group = node("g", node("title", text=rung.words + _said(rung)), class_=f"ladder-rung {kind}")
        group.append(node("line", x1=x, x2=x, y1=top, y2=low))
        if rung.here:
            group.append(node("circle", cx=x, cy=HEIGHT / 2, r=7))
        if rung.shut:
            group.append(node("path", d=f"M{x - 5:g} {top + 3:g} L{x + 5:g} {low - 3:g}", class_="ladder-shut"))
        parts.append(group)
    standing = next((rung.words for rung in rungs if rung.here), "on no level yet")
    return picture(WIDTH, HEIGHT, f"{name}: {standing}, of {len(rungs)} levels", *parts, class_="ladder")


def _said(rung: Rung) -> str:
    said = [
        word
        for word, holds in (
            ("here", rung.here),
            ("earned", rung.earned),
            ("not in this room", rung.lacking),
            ("shut for now", rung.shut),
        )
        if holds
    ]
    return f" ({', '.join(said)})" if said else ""
