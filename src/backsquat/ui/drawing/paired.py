"""Planned against done, week by week: an outlined column for the plan, a filled one for what was lifted."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from backsquat.core.season.calendar import DaySpan
from backsquat.core.working import plain
from backsquat.ui.drawing.kit import Element, Scale, node, picture, ticks

WIDTH, HEIGHT = 760.0, 120.0
LEFT, RIGHT, TOP, BOTTOM = 38.0, 14.0, 8.0, 8.0


@dataclass(frozen=True)
class Pair:
    week: dt.date
    planned: float
    done: float
    deload: bool
    words: str


def draw_pairs(name: str, season: DaySpan, chosen: dt.date, pairs: Sequence[Pair]) -> Markup:
    """Columns share the season's width with the trend above them; values in kg, shown in tonnes."""
    high = max([pair.planned for pair in pairs] + [pair.done for pair in pairs] + [1.0])
    y = Scale(0, high, HEIGHT - BOTTOM, TOP)
    step = (WIDTH - LEFT - RIGHT) / season.weeks
    parts: list[Element] = []
    for value in ticks(0, high / 1000, 4):
        parts.append(
            node("line", x1=LEFT, x2=WIDTH - RIGHT, y1=y(value * 1000), y2=y(value * 1000), class_="chart-grid")
        )
        parts.append(
            node("text", text=f"{plain(value)} t", x=LEFT - 6, y=y(value * 1000) + 4, class_="chart-tick is-left")
        )
    parts.append(
        node(
            "rect",
            x=LEFT + season.index(chosen) * step,
            y=TOP,
            width=step,
            height=HEIGHT - TOP - BOTTOM,
            class_="chart-week",
        )
    )
    for pair in pairs:
        left = LEFT + season.index(pair.week) * step
        for value, inset, kind in ((pair.done, 3.5, "pair-done"), (pair.planned, 1.5, "pair-planned")):
            parts.append(
                node(
                    "rect",
                    node("title", text=pair.words),
                    x=left + inset,
                    y=y(value),
                    width=step - 2 * inset,
                    height=HEIGHT - BOTTOM - y(value),
                    class_=kind + " is-easy" * pair.deload,
                )
            )
    return picture(WIDTH, HEIGHT, name, *parts, class_="chart")
