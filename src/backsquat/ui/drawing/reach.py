"""The reach of lunges as a figure that grows: one wheel a side, a ring of rays from the standing leg.

Ahead is up; directions go clockwise for the left leg and are mirrored for the right, so that both open outwards.
Earlier measurings are thin lines, the newest is filled; those with a hand on support are dashed and stand apart.
"""

import math
from collections.abc import Sequence
from xml.etree import ElementTree as Tree

from markupsafe import Markup

from backsquat.core.strength.set_notes import Reach
from backsquat.core.working import plain
from backsquat.ui.drawing.kit import node, path, picture

SIZE, MIDDLE, LONGEST = 260.0, 130.0, 96.0
TURNS = {  # eighths of a turn from ahead; across the standing leg both ways beside the open side
    "ahead": 0, "diagonal ahead": 1, "side": 2, "diagonal back": 3, "back": 4, "behind and across": 5, "open side": 6,
    "ahead and across": 7,
}  # fmt: skip


def draw_reach(wheels: Sequence[tuple[Reach, bool]], side: int, title: str) -> Markup:
    """One side's wheel (0 left, 1 right): (reach, supported) oldest first; up to five are drawn."""
    shown = [one for one in wheels if any(pair[side] for pair in one[0].values())][-5:]
    most = max((pair[side] or 0 for reach, _ in shown for pair in reach.values()), default=1) or 1
    parts: list[Tree.Element] = []
    for way, n in TURNS.items():
        x, y = _point(n, LONGEST, side)
        parts.append(node("line", x1=MIDDLE, y1=MIDDLE, x2=x, y2=y, class_="chart-grid"))
        tx, ty = _point(n, LONGEST + 16, side)
        newest = next((reach[way][side] for reach, _ in reversed(shown) if way in reach and reach[way][side]), None)
        anchor = "middle" if abs(tx - MIDDLE) < 12 else "start" if tx > MIDDLE else "end"
        parts.append(node("text", x=tx, y=ty + 4, text=plain(newest) if newest else "–", text_anchor=anchor))
    for n, (reach, supported) in enumerate(shown):
        corners = [_point(k, LONGEST * (pair[side] or 0) / most, side) for k, pair in _known(reach, side)]
        kind = "is-supported" if supported else "is-newest" if n == len(shown) - 1 else "is-earlier"
        parts.append(node("path", d=path(corners) + "Z", class_=f"reach-shape {kind}"))
    return picture(SIZE, SIZE, title, *parts, class_="chart reach-figure")


def _known(reach: Reach, side: int) -> list[tuple[int, tuple[float | None, float | None]]]:
    found = [(TURNS[way], pair) for way, pair in reach.items() if pair[side]]
    return sorted(found, key=lambda one: one[0])


def _point(n: int, length: float, side: int) -> tuple[float, float]:
    angle = 2 * math.pi * n / len(TURNS) * (-1 if side == 0 else 1)
    return MIDDLE + length * math.sin(angle), MIDDLE - length * math.cos(angle)
