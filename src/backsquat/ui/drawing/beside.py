"""Two plans of the same weeks beside each other: how many sets, and how heavy."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.core.working import plain
from backsquat.ui.drawing.kit import Element, Scale, node, picture

WIDTH, HEIGHT = 760.0, 196.0
LEFT, RIGHT = 92.0, 10.0
SETS_TOP, SETS_FOOT, SHARE_TOP, SHARE_FOOT = 26.0, 104.0, 124.0, 168.0


@dataclass(frozen=True)
class WeekPair:
    """A week: sets each and share of the planning max, today and then; None: nothing is planned."""

    label: str
    week: dt.date
    sets: tuple[float | None, float | None]
    share: tuple[float | None, float | None]


def draw_beside(name: str, weeks: Sequence[WeekPair]) -> Markup:
    """Columns for the sets (outlined today, filled then), and a line for the load (hollow today, full then)."""
    step = (WIDTH - LEFT - RIGHT) / max(len(weeks), 1)
    y = Scale(0, max([n for one in weeks for n in one.sets if n] + [1.0]), SETS_FOOT, SETS_TOP)
    shares = [n for one in weeks for n in one.share if n]
    height = Scale(min(shares, default=0.5) - 0.03, max(shares, default=1.0) + 0.03, SHARE_FOOT, SHARE_TOP)
    parts: list[Element] = [
        node("text", text="Sets each", x=0.0, y=SETS_FOOT, class_="beside-what"),
        node("text", text="Load, % of max", x=0.0, y=(SHARE_TOP + SHARE_FOOT) / 2 + 4, class_="beside-what"),
        node("line", x1=LEFT, x2=WIDTH - RIGHT, y1=SETS_FOOT, y2=SETS_FOOT, class_="chart-grid"),
    ]
    for n, one in enumerate(weeks):
        middle = LEFT + (n + 0.5) * step
        parts += _columns(one, middle, y)
        parts.append(node("text", text=one.label, x=middle, y=HEIGHT - 6, class_="chart-tick"))
    for side, kind in enumerate(("today", "then")):
        points = [(LEFT + (n + 0.5) * step, one.share[side]) for n, one in enumerate(weeks)]
        parts += _line([(x, height(share)) for x, share in points if share], kind)
    return picture(WIDTH, HEIGHT, name, *parts, class_="chart beside")


def _columns(one: WeekPair, middle: float, y: Scale) -> list[Element]:
    found = []
    for value, kind, x in ((one.sets[1], "then", middle - 13), (one.sets[0], "today", middle - 17)):
        if value:
            wide = 26.0 if kind == "then" else 34.0
            found.append(
                node("rect", x=x, y=y(value), width=wide, height=SETS_FOOT - y(value), class_=f"beside-{kind}")
            )
    was, now = one.sets
    said = [plain(value or 0, 0) for value in (was, now)]
    changed = said[0] != said[1]
    words = " → ".join(said) if changed else said[1]
    found.append(node("text", text=words, x=middle, y=SETS_TOP - 8, class_="beside-said" + " is-changed" * changed))
    return found


def _line(points: Sequence[tuple[float, float]], kind: str) -> list[Element]:
    path = " ".join(f"{x:.1f},{y:.1f}" for x, y in points)
    dots = [node("circle", cx=x, cy=y, r=4.5 if kind == "today" else 3.0, class_=f"beside-{kind}") for x, y in points]
    return [node("polyline", points=path, class_=f"beside-line is-{kind}"), *dots]
