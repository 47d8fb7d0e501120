"""The emphasis map: thighs on the left, hips and hamstrings on the right, against skill or cost to the back.

Movements that fall on one spot are laid out side by side, so that none hides another. Only what is
picked out carries its name; the list beside the map names all.
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.ui.drawing.kit import Element, Scale, node, picture

WIDTH, HEIGHT = 660.0, 430.0
LEFT, RIGHT, TOP, BOTTOM = 46.0, 650.0, 16.0, 396.0
DOT, GAP = 8.5, 18.0
ROW = 3  # dots side by side before the next row


@dataclass(frozen=True)
class Dot:
    """One movement on the map; `dim` for what may not be done now."""

    name: str
    tag: str
    family: str
    emphasis: float
    height: float
    link: str
    dim: bool = False
    named: bool = False


@dataclass(frozen=True)
class Axis:
    """The upright axis: what it is, its ends in words, and its bounds."""

    name: str
    low_words: str
    high_words: str
    low: float
    high: float


SKILL = Axis("skill", "easy to learn", "hard to learn", 1, 5)
BACK = Axis("cost to the lower back", "spares the back", "costs the back", 0, 3)


def draw_map(dots: Sequence[Dot], axis: Axis) -> Markup:
    across = Scale(-2.25, 2.25, LEFT + 30, RIGHT - 30)
    up = Scale(axis.low, axis.high, BOTTOM - 34, TOP + 34)
    parts: list[Element] = [node("rect", x=LEFT, y=TOP, width=RIGHT - LEFT, height=BOTTOM - TOP, class_="map-ground")]
    for value in (-2, -1, 0, 1, 2):
        x = across(value)
        parts.append(node("line", x1=x, x2=x, y1=TOP, y2=BOTTOM, class_="map-grid" if value else "map-middle"))
    parts += [
        node("text", x=LEFT, y=BOTTOM + 18, text="◀ thighs", class_="map-word"),
        node("text", x=RIGHT, y=BOTTOM + 18, text="hips and hamstrings ▶", class_="map-word is-end"),
        node("text", x=(LEFT + RIGHT) / 2, y=BOTTOM + 18, text="both", class_="map-word is-middle"),
        _upright(axis.high_words, TOP + 60),
        _upright(axis.low_words, BOTTOM - 60),
    ]
    columns: dict[float, list[Dot]] = defaultdict(list)
    for dot in dots:
        columns[round(dot.emphasis * 2) / 2].append(dot)
    for emphasis, together in columns.items():
        parts += _column(together, across(emphasis), up)
    title = f"Emphasis map of {len(dots)} movements: thighs to hips and hamstrings, against {axis.name}"
    return picture(WIDTH, HEIGHT, title, *parts, class_="map", role="group")


def _upright(words: str, y: float) -> Element:
    return node("text", x=20, y=y, text=words, class_="map-word is-middle", transform=f"rotate(-90 20 {y:g})")


def _column(dots: Sequence[Dot], x: float, up: Scale) -> list[Element]:
    """The dots of one emphasis, in rows near their height; rows that would meet are pushed apart, none leaves the ground."""
    spots: dict[float, list[Dot]] = defaultdict(list)
    for dot in dots:
        spots[round(dot.height * 2) / 2].append(dot)
    rows: list[tuple[float, list[Dot]]] = []  # wanted y and dots, lowest first
    for height, together in sorted(spots.items()):
        ordered = sorted(together, key=lambda dot: (dot.family, dot.name))
        chunks = [ordered[n : n + ROW] for n in range(0, len(ordered), ROW)]
        middle = up(height) + (len(chunks) - 1) * GAP / 2
        rows += [(middle - n * GAP, chunk) for n, chunk in enumerate(chunks)]
    placed: list[float] = []
    for wanted, _ in rows:  # from the bottom up
        placed.append(min(wanted, placed[-1] - GAP if placed else BOTTOM - DOT - 4))
    low = TOP + DOT + 4
    for n in reversed(range(len(placed))):  # and back down, where the top was reached
        placed[n] = max(placed[n], low)
        low = placed[n] + GAP
    return [
        _dot(dot, x + (n - (len(chunk) - 1) / 2) * GAP, y)
        for (_, chunk), y in zip(rows, placed, strict=True)
        for n, dot in enumerate(chunk)
    ]


def _dot(dot: Dot, x: float, y: float) -> Element:
    mark = node(
        "a",
        node("title", text=dot.name),
        node("circle", cx=x, cy=y, r=DOT),
        node("text", x=x, y=y + 4, text=dot.tag, class_="map-tag"),
        href=dot.link,
        aria_label=dot.name,
        class_=f"map-dot is-{dot.family}{' is-dim' if dot.dim else ''}",
    )
    if dot.named:
        end = x > (LEFT + RIGHT) / 2
        mark.append(
            node(
                "text", x=x + (-12 if end else 12), y=y + 4, text=dot.name, class_=f"map-name{' is-end' if end else ''}"
            )
        )
    return mark
