"""One angle over the season: a point a picture with how far it may be off, and the wedge it was taken with."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.core.season.calendar import DaySpan
from backsquat.core.working import plain
from backsquat.ui.drawing.kit import Element, Scale, node, path, picture, ticks

WIDTH, HEIGHT = 560.0, 190.0
LEFT, RIGHT, TOP, BOTTOM = 38.0, 16.0, 22.0, 26.0


@dataclass(frozen=True)
class TurnPoint:
    """A reading of a day."""

    on: dt.date
    value: float
    off: float
    wedge_mm: int


@dataclass(frozen=True)
class Turning:
    """What is drawn: its name and unit, the season, the points oldest first."""

    name: str
    unit: str
    season: DaySpan
    points: Sequence[TurnPoint]


def draw_turning(model: Turning) -> Markup:
    """The points of a season; those from before it stand at its edge."""
    first, last = model.season.first_week, model.season.last_week + dt.timedelta(days=6)
    low = min(point.value - point.off for point in model.points)
    high = max(point.value + point.off for point in model.points)
    margin = max((high - low) * 0.15, 2.0)
    x = Scale(0, (last - first).days, LEFT, WIDTH - RIGHT)
    y = Scale(low - margin, high + margin, HEIGHT - BOTTOM, TOP)

    def day(on: dt.date) -> float:
        return x((min(max(on, first), last) - first).days)

    parts: list[Element] = []
    for value in ticks(low - margin, high + margin, 5):
        parts.append(node("line", x1=LEFT, x2=WIDTH - RIGHT, y1=y(value), y2=y(value), class_="chart-grid"))
        parts.append(node("text", text=plain(value), x=LEFT - 6, y=y(value) + 4, class_="chart-tick is-left"))
    for week in model.season:
        if week.day <= 7:
            parts.append(node("text", text=f"{week:%b}", x=day(week), y=HEIGHT - 8, class_="chart-tick"))
    places = [(day(point.on), y(point.value)) for point in model.points]
    if len(places) > 1:
        parts.append(node("path", d=path(places), class_="chart-trend"))
    for point, (across, down) in zip(model.points, places, strict=True):
        ends = y(point.value + point.off), y(point.value - point.off)
        parts.append(node("line", x1=across, x2=across, y1=ends[0], y2=ends[1], class_="turn-off"))
        parts.append(node("circle", cx=across, cy=down, r=4.5, class_="chart-point is-good"))
        wedge = f"{point.wedge_mm} mm" if point.wedge_mm else "flat"
        parts.append(node("text", text=wedge, x=across, y=ends[0] - 6, class_="turn-word"))
    return picture(WIDTH, HEIGHT, f"{model.name}, {model.unit}, by picture", *parts, class_="chart")
