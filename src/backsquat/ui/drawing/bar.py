"""The bar with the plates of one side, largest inside, each with its mass."""

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.ui.drawing.kit import Element, node, picture

WIDTH, HEIGHT, MIDDLE = 340.0, 104.0, 46.0


@dataclass(frozen=True)
class Plate:
    """A plate to draw: its mass as text, and its size."""

    text: str
    mass_kg: float
    diameter_mm: int


def draw_bar(bar_text: str, plates: Sequence[Plate], total_text: str) -> Markup:
    """One end of the bar from the collar outwards; the masses stand under the plates."""
    parts: list[Element] = [
        node("rect", x=0.0, y=MIDDLE - 2, width=60.0, height=4.0, class_="bar-shaft"),
        node("rect", x=54.0, y=MIDDLE - 11, width=8.0, height=22.0, rx=1.5, class_="bar-stop"),
        node("rect", x=62.0, y=MIDDLE - 4, width=WIDTH - 70, height=8.0, rx=2.0, class_="bar-sleeve"),
        node("text", text=bar_text, x=4.0, y=MIDDLE - 10, class_="bar-mass"),
    ]
    left = 66.0
    for plate in plates:
        tall = 20 + 62 * min(plate.diameter_mm, 450) / 450
        # Wide enough for its number, wider the heavier it is.
        wide = 17 + min(plate.mass_kg, 25) * 0.45 + 3.2 * max(0, len(plate.text) - 2)
        parts.append(node("rect", x=left, y=MIDDLE - tall / 2, width=wide, height=tall, rx=2.0, class_="bar-plate"))
        parts.append(node("text", text=plate.text, x=left + wide / 2, y=HEIGHT - 4, class_="bar-number"))
        left += wide + 2
    parts.append(node("rect", x=left + 1, y=MIDDLE - 9, width=9.0, height=18.0, rx=2.0, class_="bar-collar"))
    side = " + ".join(plate.text for plate in plates) or "no plates"
    return picture(WIDTH, HEIGHT, f"{total_text}: each side {side}", *parts, class_="bar")
