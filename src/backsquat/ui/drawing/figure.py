"""A line figure of a movement: start and end position, from joint angles."""

from collections.abc import Callable

from markupsafe import Markup

from backsquat.core.movements.pose import HEAD, Point, Pose, Prop, joints
from backsquat.ui.drawing.kit import Element, node, picture

SCALE, WIDTH, HEIGHT, FLOOR = 190.0, 460.0, 250.0, 226.0
CENTRES = (120.0, 345.0)
LIMB = 1.0  # how far under the middle of a limb what it lies on begins
WIDTHS = {"behind": 44, "belly": 44, "bench": 46, "seat": 44, "pad": 26}


def draw_figure(name: str, start: Pose, end: Pose, held: str, loaded: bool) -> Markup:
    """Two positions side by side with an arrow between; the load is drawn where it is held."""
    parts: list[Element] = [node("line", x1=8, x2=WIDTH - 8, y1=FLOOR, y2=FLOOR, class_="figure-floor")]
    for pose, centre in zip((start, end), CENTRES, strict=True):
        parts.append(_body(pose, held, loaded, centre))
    parts.append(node("path", d="M214 120 H244 M236 113 L244 120 L236 127", class_="figure-arrow"))
    for words, centre in zip(("start", "end"), CENTRES, strict=True):
        parts.append(node("text", x=centre, y=HEIGHT - 6, text=words, class_="figure-word"))
    return picture(WIDTH, HEIGHT, f"{name}: start and end position", *parts, class_="figure")


def _body(pose: Pose, held: str, loaded: bool, centre: float) -> Element:
    points = joints(pose, held)
    xs = [x for x, _ in points.values()]
    middle = (min(xs) + max(xs)) / 2

    def at(name: str) -> Point:
        x, y = points[name]
        return centre + (x - middle) * SCALE, FLOOR - 4 - y * SCALE

    group = node("g", class_="figure-body")
    for prop in pose.touched:
        group.extend(_prop(prop, at))
    if pose.rear:
        group.append(_line([at("hip"), at("rear_knee"), at("rear_ankle")], "figure-rear"))
    group.append(_line([at("toe"), at("ankle"), at("knee"), at("hip"), at("shoulder")], "figure-limb"))
    group.append(_line([at("shoulder"), at("elbow"), at("hand")], "figure-arm"))
    head_x, head_y = at("head")
    group.append(node("circle", cx=head_x, cy=head_y, r=HEAD * SCALE * 0.42, class_="figure-head"))
    for name in ("knee", "hip", "shoulder"):
        x, y = at(name)
        group.append(node("circle", cx=x, cy=y, r=2.6, class_="figure-joint"))
    if loaded:
        group.append(_load(held, at))
    return group


def _line(points: list[Point], class_: str) -> Element:
    return node("polyline", points=" ".join(f"{x:.1f},{y:.1f}" for x, y in points), class_=class_)


def _load(held: str, point_of: Callable[[str], Point]) -> Element:
    where = {"on the upper back": "shoulder", "on the hips": "hip", "front rack": "shoulder"}.get(held, "hand")
    x, y = point_of(where)
    if held == "on the upper back":
        x -= 9
    if held == "front rack":
        x += 9
    if held == "on the hips":
        y -= 8
    return node("circle", cx=x, cy=y, r=9, class_="figure-load")


def _prop(prop: Prop, point_of: Callable[[str], Point]) -> list[Element]:
    """A wall or rail at a joint, a ball under it, or a thing as high as it is, whatever the body does."""
    if prop.kind == "back_pad" or not prop.joint:
        return []
    x, y = point_of({"behind": "hip", "belly": "hip"}.get(prop.joint, prop.joint))
    if prop.kind == "wall":
        return [node("line", x1=x - 7, x2=x - 7, y1=30, y2=FLOOR, class_="figure-wall")]
    if prop.kind == "rail" or prop.height is None:
        return [node("line", x1=x + 3, x2=x + 3, y1=y - 12, y2=FLOOR, class_="figure-wall")]
    height = max(4.0, prop.height * SCALE - LIMB)
    if prop.kind == "ball":
        return [node("circle", cx=x, cy=FLOOR - height / 2, r=height / 2, class_="figure-prop")]
    x += {"behind": -34, "belly": 26}.get(prop.joint, 0)
    width = WIDTHS.get(prop.joint) or WIDTHS.get(prop.kind, 34)
    return [node("rect", x=x - width / 2, y=FLOOR - height, width=width, height=height, class_="figure-prop")]
