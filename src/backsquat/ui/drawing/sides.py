"""Left and right as bars from a middle line, with the numbers at their ends."""

from collections.abc import Sequence

from markupsafe import Markup

from backsquat.core.readiness.sides import Sides
from backsquat.core.working import plain
from backsquat.ui.drawing.kit import Element, node, picture

WIDTH, ROW, MIDDLE, REACH = 560.0, 34.0, 280.0, 190.0


def draw_sides(rows: Sequence[Sides]) -> Markup:
    """One row a thing; the longer bar is the larger value, the mark on the weaker side says note or act."""
    parts: list[Element] = []
    for n, row in enumerate(rows):
        y, most = ROW * n + 20, max(row.left, row.right) or 1.0
        parts.append(node("line", x1=MIDDLE, x2=MIDDLE, y1=y - 5, y2=y + 8, class_="sides-middle"))
        parts.append(node("text", x=MIDDLE, y=y - 7, text=row.name, class_="sides-name"))
        for side, value, way in (("left", row.left, -1), ("right", row.right, 1)):
            length = REACH * value / most
            weak = " is-weak" if row.weaker == side and row.level != "even" else ""
            x = MIDDLE - length if way < 0 else MIDDLE
            parts.append(node("rect", x=x, y=y - 3, width=length, height=9, class_=f"sides-bar{weak}"))
            text = f"{plain(value)} {row.unit}"
            parts.append(
                node("text", x=MIDDLE + way * (length + 6), y=y + 6, text=text, class_="is-left" if way < 0 else None)
            )
    return picture(WIDTH, ROW * len(rows) + 6, "Left and right", *parts, class_="chart sides")
