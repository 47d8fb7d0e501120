"""Progressions side by side: the same measures in small charts over the weeks, a line and a mark each."""

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.core.working import plain
from backsquat.ui.drawing.kit import Element, Scale, node, path, picture, ticks

WIDTH, HEIGHT = 260.0, 140.0
LEFT, RIGHT, TOP, BOTTOM = 32.0, 6.0, 8.0, 22.0


@dataclass(frozen=True)
class ProgressionLine:
    """One progression's values by week from 0; None where there is none."""

    name: str
    values: Sequence[float | None]


def draw_progressions(title: str, lines: Sequence[ProgressionLine], *, from_nought: bool = False) -> Markup:
    """One measure of up to three progressions; each has its own dash and mark besides its colour."""
    known = [value for line in lines for value in line.values if value is not None]
    low, high = (min(known), max(known)) if known else (0.0, 1.0)
    if from_nought:
        low = 0.0
    margin = max((high - low) * 0.08, 0.01 * max(abs(high), 1.0))
    weeks = max((len(line.values) for line in lines), default=1)
    x = Scale(0, max(weeks - 1, 1), LEFT + 8, WIDTH - RIGHT - 8)
    y = Scale(low if from_nought else low - margin, high + margin, HEIGHT - BOTTOM, TOP)
    parts: list[Element] = []
    for value in ticks(y.low, y.high, 5):
        parts.append(node("line", x1=LEFT, x2=WIDTH - RIGHT, y1=y(value), y2=y(value), class_="chart-grid"))
        parts.append(node("text", text=plain(value, 2), x=LEFT - 6, y=y(value) + 4, class_="is-left"))
    for week in range(0, weeks, 1 if weeks <= 12 else 2):
        parts.append(node("text", text=str(week + 1), x=x(week), y=HEIGHT - 7, class_="is-middle"))
    for n, line in enumerate(lines):
        points = [(x(week), y(value)) for week, value in enumerate(line.values) if value is not None]
        if len(points) > 1:
            parts.append(node("path", d=path(points), class_=f"progression-line is-{n + 1}"))
        parts += [_mark(n, *point) for point in points]
    return picture(WIDTH, HEIGHT, title, *parts, class_="chart progressions-chart")


def _mark(n: int, x: float, y: float) -> Element:
    """Round, square, diamond."""
    if n == 0:
        return node("circle", cx=x, cy=y, r=3.4, class_="progression-mark is-1")
    if n == 1:
        return node("rect", x=x - 3.2, y=y - 3.2, width=6.4, height=6.4, class_="progression-mark is-2")
    d = f"M{x:.1f} {y - 4.4:.1f} l4.4 4.4 l-4.4 4.4 l-4.4 -4.4 z"
    return node("path", d=d, class_="progression-mark is-3")


def progression_sign(n: int) -> Markup:
    """The mark of the n-th progression for a legend."""
    return picture(14, 14, "", _mark(n, 7.0, 7.0), class_="progression-sign", role="presentation")
