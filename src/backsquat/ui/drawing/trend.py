"""The estimate over the season: weekly best, trend line with its range, the milestone's load and date."""

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.core.season.calendar import DaySpan
from backsquat.core.season.trend import Trend
from backsquat.core.strength.estimate import Trust
from backsquat.core.working import plain
from backsquat.ui.drawing.kit import Element, Scale, node, path, picture, ticks

WIDTH, HEIGHT = 760.0, 236.0
LEFT, RIGHT, TOP, BOTTOM = 38.0, 14.0, 14.0, 26.0


@dataclass(frozen=True)
class TrendPoint:
    """One week's best estimate; one that only says "at least" is drawn hollow and left out of the trend."""

    on: dt.date
    kg: float
    trust: Trust
    at_least: bool = False


@dataclass(frozen=True)
class TrendPicture:
    name: str
    season: DaySpan
    today: dt.date
    week: dt.date
    points: Sequence[TrendPoint]
    trend: Trend | None
    target_kg: float | None
    due_on: dt.date | None


def draw_trend(model: TrendPicture) -> Markup:
    first, last = model.season.first_week, model.season.last_week + dt.timedelta(days=6)
    values = [point.kg for point in model.points] + ([model.target_kg] if model.target_kg else [])
    low, high = (min(values), max(values)) if values else (0.0, 100.0)
    margin = max((high - low) * 0.12, 2.5)
    x = Scale(0, (last - first).days, LEFT, WIDTH - RIGHT)
    y = Scale(low - margin, high + margin, HEIGHT - BOTTOM, TOP)

    def day(on: dt.date) -> float:
        return x((min(max(on, first), last) - first).days)

    parts: list[Element] = []
    for value in ticks(low - margin, high + margin, 6):
        parts.append(node("line", x1=LEFT, x2=WIDTH - RIGHT, y1=y(value), y2=y(value), class_="chart-grid"))
        parts.append(node("text", text=plain(value), x=LEFT - 6, y=y(value) + 4, class_="chart-tick is-left"))
    for week in model.season:
        if week.day <= 7:
            parts.append(node("text", text=f"{week:%b}", x=day(week), y=HEIGHT - 8, class_="chart-tick"))
    parts.append(
        node(
            "rect",
            x=day(model.week),
            y=TOP,
            width=day(model.week + dt.timedelta(days=7)) - day(model.week),
            height=HEIGHT - TOP - BOTTOM,
            class_="chart-week",
        )
    )
    if model.trend and model.due_on:
        parts += _trend_line(model, model.trend, day, y)
    if model.target_kg is not None:
        end = day(model.due_on) if model.due_on else WIDTH - RIGHT
        parts.append(node("line", x1=LEFT, x2=end, y1=y(model.target_kg), y2=y(model.target_kg), class_="chart-target"))
        parts.append(
            node("path", d=f"M{end:.1f} {y(model.target_kg) - 6:.1f} l6 6 l-6 6 l-6 -6 z", class_="chart-flag")
        )
    for point in model.points:
        kind = "is-at-least" if point.at_least else f"is-{point.trust.name.lower()}"
        parts.append(node("circle", cx=day(point.on), cy=y(point.kg), r=3.6, class_=f"chart-point {kind}"))
    return picture(WIDTH, HEIGHT, f"{model.name}: estimated maximum by week, kg", *parts, class_="chart")


def _trend_line(model: TrendPicture, trend: Trend, day: Callable[[dt.date], float], y: Scale) -> list[Element]:
    assert model.due_on is not None
    now, due = trend.last.on, max(model.due_on, trend.last.on)
    ahead, level = (due - now).days, trend.at(now)
    fan = [
        (day(now), y(level)),
        (day(due), y(level + trend.slope_high * ahead)),
        (day(due), y(level + trend.slope_low * ahead)),
    ]
    return [
        node("path", d=path(fan) + " Z", class_="chart-range"),
        node("path", d=path([(day(trend.origin), y(trend.level)), (day(now), y(level))]), class_="chart-trend"),
        node("path", d=path([(day(now), y(level)), (day(due), y(level + trend.slope * ahead))]), class_="chart-ahead"),
    ]
