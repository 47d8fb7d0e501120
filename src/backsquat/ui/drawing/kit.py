"""The drawing kit: elements, scales and ticks. Every picture is a function from core results to SVG.

Built on the standard library's ElementTree, which escapes text and attributes. Coordinates: origin
top left, x to the right, y down, in the units of the viewBox. Colours come from classes, never from
style attributes (the content policy forbids those).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from xml.etree import ElementTree as Tree

from markupsafe import Markup

Element = Tree.Element


def node(tag: str, *children: Element | None, text: str | None = None, **attributes: object) -> Element:
    """An SVG element; `class_` is the class, underscores in other names become hyphens, None is left out."""
    names = {
        ("class" if name == "class_" else name.replace("_", "-")): _value(value)
        for name, value in attributes.items()
        if value is not None
    }
    element = Tree.Element(tag, names)
    element.text = text
    element.extend(child for child in children if child is not None)
    return element


def _value(value: object) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)


def picture(
    width: float, height: float, title: str, *children: Element | None, class_: str, role: str = "img"
) -> Markup:
    """A whole drawing with its name for screen readers, ready for a template."""
    root = node(
        "svg",
        node("title", text=title),
        *children,
        viewBox=f"0 0 {_value(float(width))} {_value(float(height))}",
        class_=class_,
        role=role,
        aria_label=title,
    )
    return markup(root)


def markup(root: Element) -> Markup:
    """The element as text for a template; ElementTree has escaped what is inside."""
    return Markup(Tree.tostring(root, encoding="unicode"))


@dataclass(frozen=True)
class Scale:
    """Maps values from `low..high` to coordinates `start..end`."""

    low: float
    high: float
    start: float
    end: float

    def __call__(self, value: float) -> float:
        if self.high == self.low:
            return (self.start + self.end) / 2
        return self.start + (value - self.low) / (self.high - self.low) * (self.end - self.start)


def ticks(low: float, high: float, most: int) -> list[float]:
    """At most `most` round values from low to high: steps of 1, 2, 2.5 or 5 × a power of ten."""
    if high <= low:
        return [low]
    step = 10.0**-2
    while True:
        for factor in (1, 2, 2.5, 5):
            size = step * factor
            first = -int(-low // size) * size
            count = int((high - first) / size + 1e-9) + 1
            if count <= most:
                return [first + n * size for n in range(count)]
        step *= 10


def path(points: Sequence[tuple[float, float]]) -> str:
    return "M" + " L".join(f"{_value(float(x))} {_value(float(y))}" for x, y in points)


@lru_cache(maxsize=4096)
def split_load(text: str) -> Markup:
    """A load with its decimals set small: 107<small>.5</small>."""
    whole, dot, decimals = str(text).partition(".")
    return Markup("{}<small>{}</small>").format(whole, dot + decimals) if dot else Markup("{}").format(whole)
