"""A body from the side, to scale: limbs, load, plumb line, the arms at hip, knee and lower back.

Every mark says in `data-ends` from which points of the posture it is drawn: "hip hip -9" is as far along as the hip and
9 cm under it. The script beside it (`ui/static/linkage.js`) moves the same marks by the same words as a slider moves.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from markupsafe import Markup

from backsquat.core.working import plain
from backsquat.ui.drawing.kit import Element, node, picture

Point = tuple[float, float]
WIDTH, HEIGHT, FLOOR = 400.0, 420.0, 392.0
PX, PX_OVERHEAD, PX_WIDE = 2.75, 1.95, 2.2  # pixels a cm: of a squat, with a bar overhead, of a hinge or a long stance
MIDDLE, MIDDLE_SPLIT = 6.0, -12.0  # which cm stands in the middle
HEAD_CM, PLATE_CM, BELL_CM = 10.5, 22.5, 8.0
LIMBS = (  # what goes from where to where; the far leg first
    ("is-far", ("rear_ball", "rear_ankle", "rear_knee", "hip")),
    ("is-leg", ("ankle", "knee", "hip")), ("is-trunk", ("hip", "shoulder")), ("is-neck", ("shoulder", "head")),
)  # fmt: skip
ARM_UNDER, WORDS_UNDER = -14.0, -21.5  # how far under the hip an arm is drawn, and its centimetres


@dataclass(frozen=True)
class Side:
    """A posture to draw: points in cm, and which load there is (plates, a bell, or nothing)."""

    points: Mapping[str, Point]
    load: str  # plates, bell, none
    name: str
    px: float = PX
    middle: float = MIDDLE
    plumb: str = "line"  # from which point the arms are taken
    path: Sequence[Point] = ()
    off_balance: bool = False
    arms_cm: Mapping[str, float] = field(default_factory=dict)  # hip, knee, back


def draw_linkage(side: Side, key: str) -> Markup:
    """The picture; `key` names it on the page."""
    pen = _Pen(side.points, side.px, side.middle)
    points = side.points
    parts: list[Element] = [
        node("line", x1=10, x2=WIDTH - 10, y1=FLOOR, y2=FLOOR, class_="link-floor"),
        pen.marks("polygon", "link-wedge", [("heel", "heel", 0), ("ball", "ball", 0), ("heel", "floor", 0)]),
        pen.marks("line", "link-middle", [("middle", "floor", 0), ("middle", "floor", -4)]),
        pen.marks(
            "line",
            f"link-plumb{' is-off' if side.off_balance else ''}",
            [("line", "floor", -3), ("line", "floor", FLOOR / side.px - 6)],
        ),
    ]
    if side.path:
        parts.append(node("polyline", points=pen.spoken(side.path), class_="link-path"))
    for kind, names in LIMBS:
        if all(name in points for name in names):
            parts.append(pen.marks("polyline", f"link-limb {kind}", [(name, name, 0) for name in names]))
    parts.append(pen.marks("polygon", "link-foot", [(name, name, 0) for name in ("heel", "toe", "ball", "ankle")]))
    if side.load != "none":
        size = PLATE_CM if side.load == "plates" else BELL_CM
        parts.append(pen.marks("circle", f"link-load is-{side.load}", [("load", "load", 0)], r=size * side.px))
    parts.append(pen.marks("polyline", "link-limb is-arm", [(n, n, 0) for n in ("shoulder", "elbow", "load")]))
    parts.append(pen.marks("circle", "link-head", [("head", "head", 0)], r=HEAD_CM * side.px))
    for name in ("ankle", "knee", "hip", "shoulder"):
        parts.append(pen.marks("circle", "link-joint", [(name, name, 0)], r=5))
    return picture(WIDTH, HEIGHT, side.name, *parts, *_arms(pen, side), class_=f"linkage is-{key}")


def _arms(pen: "_Pen", side: Side) -> list[Element]:
    """The distances as lines with their centimetres."""
    parts = []
    for name, cm in side.arms_cm.items():
        ends = [(name, "hip", ARM_UNDER), (side.plumb, "hip", ARM_UNDER)]
        words = f"{name} {plain(cm, 0)} cm"
        parts.append(pen.marks("line", f"link-arm is-{name}", ends))
        parts.append(
            pen.marks("text", f"link-word is-{name}", [(name, "hip", WORDS_UNDER)], text=words, data_says=name)
        )
    if "carried" in side.points:
        parts.append(pen.marks("line", "link-arm is-back", [("back", "back", 0), ("carried", "back", 0)]))
    return parts


End = tuple[str, str, float]


@dataclass(frozen=True)
class _Pen:
    """Draws marks between points, which each mark names."""

    points: Mapping[str, Point]
    px: float
    middle: float

    def marks(self, tag: str, class_: str, ends: Sequence[End], **more: Any) -> Element:
        placed = [(self.x(self.points[x][0]), self.y(self.points[y][1] + up)) for x, y, up in ends]
        spoken = ";".join(f"{x} {y} {up:g}" for x, y, up in ends)
        where: dict[str, Any] = {"points": " ".join(f"{x},{y}" for x, y in placed)}
        if tag == "line":
            where = {"x1": placed[0][0], "y1": placed[0][1], "x2": placed[1][0], "y2": placed[1][1]}
        elif tag in ("circle", "text"):
            names = ("cx", "cy") if tag == "circle" else ("x", "y")
            where = dict(zip(names, placed[0], strict=True))
        return node(tag, class_=class_, data_ends=spoken, **where, **more)

    def spoken(self, way: Sequence[Point]) -> str:
        return " ".join(f"{self.x(x)},{self.y(y)}" for x, y in way)

    def x(self, cm: float) -> float:
        return round(WIDTH / 2 + (cm - self.middle) * self.px, 1)

    def y(self, cm: float) -> float:
        return round(FLOOR - cm * self.px, 1)
