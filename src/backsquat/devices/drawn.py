"""Drawn pictures of figures from the side, with known points: demo photographs, test pictures, and what the stand-in reads.

A figure is the linkage's own posture. Its joints are marked with colours that nothing else in the picture has, so that
the stand-in finder can find them; people have none.
"""

import io
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from PIL import Image, ImageDraw

from backsquat.core.technique.still import Spot

Point = tuple[float, float]
COLOURS = {  # of the joint marks, far from each other and from all else that is drawn
    Spot.SHOULDER: (255, 0, 0), Spot.HIP: (0, 200, 0), Spot.KNEE: (0, 60, 255), Spot.ANKLE: (255, 0, 255),
    Spot.HEEL: (0, 220, 220), Spot.TOE: (255, 150, 0), Spot.REAR_KNEE: (130, 0, 255), Spot.BAR: (150, 255, 0),
}  # fmt: skip
WALL, FLOOR, SKIN, SHIRT, SHORTS, SHOE, HAIR, WOOD = (
    (214, 212, 206), (158, 148, 134), (186, 148, 122), (92, 110, 122), (58, 66, 74), (32, 38, 43), (70, 52, 42),
    (196, 160, 110),
)  # fmt: skip
LIMBS = (  # from, to, thickness at either end in cm, colour; the far leg first
    ("rear_ball", "rear_ankle", 5.0, 7.0, SHOE), ("rear_ankle", "rear_knee", 7.0, 11.0, SKIN),
    ("rear_knee", "hip", 12.0, 17.0, SHORTS), ("ankle", "knee", 7.5, 11.5, SKIN), ("knee", "hip", 12.5, 19.0, SHORTS),
    ("hip", "shoulder", 19.0, 17.0, SHIRT),
)  # fmt: skip
MARK_CM = 1.5


@dataclass(frozen=True)
class Shot:
    """How a figure is photographed: pixels a cm, the tilt of the camera in degrees, which way it faces."""

    px_per_cm: float = 5.0
    tilt_deg: float = 0.0
    faces_right: bool = True
    width: int = 800
    height: int = 960
    plate_cm: float = 0.0
    marked: bool = True


@dataclass(frozen=True)
class Drawn:
    """A picture as a file, and where its points truly are."""

    content: bytes
    points: dict[Spot, Point]


def draw(joints: Mapping[str, Point], shot: Shot) -> Drawn:
    """A picture of a figure given in cm; its points in pixels."""

    def at(point: Point) -> Point:
        side = 1 if shot.faces_right else -1
        x, y = side * (point[0] - 5) * shot.px_per_cm, -point[1] * shot.px_per_cm + shot.height * 0.36
        turn = math.radians(shot.tilt_deg)
        return (
            shot.width / 2 + x * math.cos(turn) - y * math.sin(turn),
            shot.height / 2 + x * math.sin(turn) + y * math.cos(turn),
        )

    image = Image.new("RGB", (shot.width, shot.height), WALL)
    pen = ImageDraw.Draw(image)
    pen.polygon([at((-400, 0)), at((400, 0)), at((400, -200)), at((-400, -200))], fill=FLOOR)
    pen.line([at((-62, 0)), at((-62, 145))], fill=(120, 118, 112), width=5)  # the edge of a door, upright in truth
    _figure(pen, joints, at, shot)
    found = {spot: at(joints[name]) for spot, name in _NAMES.items() if name in joints}
    found |= {Spot.LEVEL_A: at((-62, 5)), Spot.LEVEL_B: at((-62, 140))}
    if shot.plate_cm and "load" in joints:
        x, y = joints["load"]
        found |= {Spot.PLATE_A: at((x, y - shot.plate_cm / 2)), Spot.PLATE_B: at((x, y + shot.plate_cm / 2))}
    else:
        found.pop(Spot.BAR, None)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=90)
    inside = {spot: (x, y) for spot, (x, y) in found.items() if 0 <= x <= shot.width and 0 <= y <= shot.height}
    return Drawn(out.getvalue(), inside)


_NAMES = {
    Spot.SHOULDER: "shoulder", Spot.HIP: "hip", Spot.KNEE: "knee", Spot.ANKLE: "ankle", Spot.HEEL: "heel",
    Spot.TOE: "toe", Spot.REAR_KNEE: "rear_knee", Spot.BAR: "load",
}  # fmt: skip


def _figure(pen: ImageDraw.ImageDraw, joints: Mapping[str, Point], at: Callable[[Point], Point], shot: Shot) -> None:
    wide = shot.px_per_cm
    heel, ball, toe, ankle = (at(joints[name]) for name in ("heel", "ball", "toe", "ankle"))
    pen.polygon([heel, ball, at((joints["heel"][0], 0.0))], fill=WOOD)
    for start, end, first, last, colour in LIMBS:
        if start in joints and end in joints:
            _limb(pen, at(joints[start]), at(joints[end]), (first * wide / 2, last * wide / 2), colour)
    pen.polygon([heel, toe, ball, (ankle[0] + (ball[0] - ankle[0]) * 0.3, ankle[1]), ankle], fill=SHOE)
    _limb(pen, heel, toe, (1.6 * wide, 1.4 * wide), SHOE)
    shoulder, head = at(joints["shoulder"]), at(joints["head"])
    _limb(pen, shoulder, head, (4.5 * wide, 4.5 * wide), SKIN)
    _disc(pen, head, 10.5 * wide, HAIR)
    _disc(pen, (head[0] + (3 if shot.faces_right else -3) * wide, head[1] + 1.5 * wide), 8.6 * wide, SKIN)
    if "load" in joints:
        _limb(pen, shoulder, at(joints["load"]), (4 * wide, 3 * wide), SKIN)
    if shot.plate_cm and "load" in joints:
        _disc(pen, at(joints["load"]), shot.plate_cm / 2 * wide, None, SHOE)
    if shot.marked:
        for spot, name in _NAMES.items():
            if name in joints and (spot is not Spot.BAR or shot.plate_cm):
                _disc(pen, at(joints[name]), MARK_CM * wide, COLOURS[spot])


def _limb(
    pen: ImageDraw.ImageDraw, start: Point, end: Point, radii: tuple[float, float], colour: tuple[int, int, int]
) -> None:
    length = math.dist(start, end) or 1.0
    x, y = -(end[1] - start[1]) / length, (end[0] - start[0]) / length
    sides = [
        (point[0] + sign * radius * x, point[1] + sign * radius * y)
        for point, radius, sign in (
            (start, radii[0], 1),
            (end, radii[1], 1),
            (end, radii[1], -1),
            (start, radii[0], -1),
        )
    ]
    pen.polygon(sides, fill=colour)
    for point, radius in zip((start, end), radii, strict=True):
        _disc(pen, point, radius, colour)


def _disc(
    pen: ImageDraw.ImageDraw,
    middle: Point,
    radius: float,
    colour: tuple[int, int, int] | None,
    edge: tuple[int, int, int] | None = None,
) -> None:
    x, y = middle
    pen.ellipse([x - radius, y - radius, x + radius, y + radius], fill=colour, outline=edge, width=5)
