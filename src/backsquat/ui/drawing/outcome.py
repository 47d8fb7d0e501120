"""What came of a block: each maximum from before to after as an arrow, and hard sets a week against their range."""

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.core.working import plain, signed
from backsquat.ui.drawing.kit import Element, Scale, node, picture, ticks

WIDTH, HALF, ROW, LEFT, RIGHT, TOP = 760.0, 480.0, 18.0, 150.0, 90.0, 22.0  # HALF: two beside each other on a page


@dataclass(frozen=True)
class Arrow:
    """One maximum: from, to in kg; `course`: rose, stayed, fell."""

    label: str
    before_kg: float
    after_kg: float
    share: float
    course: str


def draw_arrows(name: str, rows: Sequence[Arrow], width: float = WIDTH) -> Markup:
    """One line a row: a hollow dot before, a full one after, the change in per cent at the end."""
    values = [value for row in rows for value in (row.before_kg, row.after_kg)]
    low, high = (min(values), max(values)) if values else (0.0, 1.0)
    x = Scale(low - 2, high + 2, LEFT, width - RIGHT)
    height = TOP + ROW * len(rows) + 6
    parts: list[Element] = []
    for value in ticks(low, high, 7 if width == WIDTH else 4):
        parts.append(node("line", x1=x(value), x2=x(value), y1=TOP - 4, y2=height - 4, class_="chart-grid"))
        parts.append(node("text", text=plain(value), x=x(value), y=TOP - 9, class_="chart-tick"))
    for n, row in enumerate(rows):
        y = TOP + ROW * n + 9
        kind = f"outcome-line is-{row.course}"
        parts.append(node("text", text=row.label, x=LEFT - 10, y=y + 4, class_="is-left"))
        parts.append(node("line", x1=x(row.before_kg), x2=x(row.after_kg), y1=y, y2=y, class_=kind))
        parts.append(node("circle", cx=x(row.before_kg), cy=y, r=3.5, class_="outcome-before"))
        parts.append(node("circle", cx=x(row.after_kg), cy=y, r=4.0, class_="outcome-after"))
        words = f"{signed(100 * row.share)} %"
        parts.append(node("text", text=words, x=width - 6, y=y + 4, class_="is-left"))
    return picture(width, height, name, *parts, class_="chart outcome")


@dataclass(frozen=True)
class SetsBar:
    """A muscle's hard sets a week and the range they are to be in."""

    muscle: str
    sets: float
    low: int
    high: int


def draw_sets(rows: Sequence[SetsBar], width: float = WIDTH) -> Markup:
    """A bar a muscle over a frame that is its range."""
    most = max([row.sets for row in rows] + [float(row.high) for row in rows] + [1.0])
    x = Scale(0, most, LEFT, width - RIGHT)
    parts: list[Element] = []
    for n, row in enumerate(rows):
        y = 22.0 * n + 6
        wide = x(row.high) - x(row.low)
        parts.append(node("rect", x=x(row.low), y=y - 2, width=wide, height=16.0, class_="outcome-range"))
        parts.append(node("rect", x=x(0), y=y + 2, width=x(row.sets) - x(0), height=8.0, class_="outcome-sets"))
        parts.append(node("text", text=row.muscle, x=LEFT - 10, y=y + 10, class_="is-left"))
        parts.append(node("text", text=plain(row.sets), x=max(x(row.sets), x(row.high)) + 22, y=y + 10))
    return picture(width, 22.0 * len(rows) + 8, "Hard sets a week", *parts, class_="chart outcome")
