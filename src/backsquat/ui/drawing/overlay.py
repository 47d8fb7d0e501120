"""Pictures of one body over each other: ankles on one place, legs of one length, level, facing right."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.ui.drawing.kit import Element, node, picture

Point = tuple[float, float]
WIDTH, HEIGHT = 420.0, 470.0
ANKLE = (205.0, 400.0)  # where every ankle comes to stand
LEG = 104.0  # how long shank and thigh come out, each, in the middle
BONES = (("ankle", "knee"), ("knee", "hip"), ("hip", "shoulder"), ("hip", "rear_knee"), ("heel", "toe"))


@dataclass(frozen=True)
class LaidOver:
    """A picture and where its points are, in its pixels; `leg` is how long the leg's halves are on average."""

    address: str
    width: int
    height: int
    ankle: Point
    leg: float
    turn_deg: float
    faces_right: bool
    points: Mapping[str, Point]


def draw_overlay(pictures: Sequence[LaidOver], words: str) -> Markup:
    """The first underneath, the last on top: the slider's picture, whose class says so."""
    parts: list[Element] = [node("rect", width=WIDTH, height=HEIGHT, class_="overlay-ground")]
    for n, one in enumerate(pictures):
        top = n == len(pictures) - 1 and n > 0
        image = node("image", href=one.address, width=one.width, height=one.height, transform=_transform(one))
        lines = [
            node("polyline", points=" ".join(f"{x:.1f},{y:.1f}" for x, y in ends), class_="overlay-bone")
            for start, end in BONES
            if (ends := [placed(one, one.points[name]) for name in (start, end) if name in one.points])
            and len(ends) == 2
        ]
        parts.append(node("g", image, *lines, class_=f"overlay-picture is-{'new' if top else 'old'}"))
    frame = node("clipPath", node("rect", width=WIDTH, height=HEIGHT), id=f"overlay-{len(pictures)}")
    group = node("g", *parts, clip_path=f"url(#overlay-{len(pictures)})")
    return picture(WIDTH, HEIGHT, words, node("defs", frame), group, class_="overlay")


def _transform(one: LaidOver) -> str:
    scale = LEG / one.leg
    side = scale if one.faces_right else -scale
    return (
        f"translate({ANKLE[0]:.2f} {ANKLE[1]:.2f}) scale({side:.5f} {scale:.5f}) "
        f"rotate({one.turn_deg:.3f}) translate({-one.ankle[0]:.2f} {-one.ankle[1]:.2f})"
    )


def placed(one: LaidOver, point: Point) -> Point:
    """Where a pixel of a picture comes to stand."""
    x, y, turn = point[0] - one.ankle[0], point[1] - one.ankle[1], math.radians(one.turn_deg)
    x, y = x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)
    scale = LEG / one.leg
    return ANKLE[0] + (x if one.faces_right else -x) * scale, ANKLE[1] + y * scale
