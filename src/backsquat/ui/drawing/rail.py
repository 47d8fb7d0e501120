"""The week rail: the season as one line, block bands, matches as ticks, deload weeks hollow, today open."""

import datetime as dt
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, lru_cache

from markupsafe import Markup

from backsquat.core.season.calendar import WEEK, DaySpan, monday_of
from backsquat.ui.drawing.kit import Element, node, picture

WIDTH, HEIGHT = 1248.0, 66.0
LIST_WIDTH = 96.0  # "Season as a list", at the right below the line
LINE_Y, BAND_Y, BAND_HEIGHT = 27.0, 30.0, 17.0


@dataclass(frozen=True)
class RailBlock:
    name: str
    first_week: dt.date
    weeks: int
    published: bool
    deload_weeks: frozenset[dt.date]


@dataclass(frozen=True)
class Rail:
    """What the rail shows; `matches` are (day, important)."""

    season: DaySpan
    today: dt.date
    chosen: dt.date
    blocks: tuple[RailBlock, ...]
    matches: tuple[tuple[dt.date, bool], ...]
    whole: DaySpan | None = None  # the season weeks are numbered from, where only a window is shown

    @cached_property
    def match_days(self) -> dict[dt.date, list[dt.date]]:
        """Match days by the Monday of their week."""
        found: dict[dt.date, list[dt.date]] = defaultdict(list)
        for day, _ in self.matches:
            found[monday_of(day)].append(day)
        return found

    def number(self, week: dt.date) -> int:
        return (self.whole or self.season).index(week) + 1

    def window(self, weeks: int) -> "Rail":
        """The same rail cut to `weeks` around the chosen one, for narrow screens."""
        first = self.season.index(self.chosen) - weeks // 2
        first = max(0, min(first, self.season.weeks - weeks))
        span = DaySpan(self.season.first_week + first * WEEK, min(weeks, self.season.weeks))
        return Rail(span, self.today, self.chosen, self.blocks, self.matches, self.season)

    def describe(self, week: dt.date) -> str:
        parts = [f"Week {self.number(week)}, from {week.day} {week:%b}"]
        for block in self.blocks:
            index = (week - block.first_week).days // 7
            if 0 <= index < block.weeks:
                parts.append(f"{block.name}, week {index + 1}" + (", deload" if week in block.deload_weeks else ""))
        played = self.match_days.get(week, ())
        parts += [f"match on {day:%a} {day.day} {day:%b}" for day in played]
        if monday_of(self.today) == week:
            parts.append("this week")
        return " · ".join(parts)


@lru_cache(maxsize=128)
def draw_rail(rail: Rail, address: str, width: float = WIDTH, name: str = "rail") -> Markup:
    """The rail as SVG: each week is a link to `address` with its date in index of WEEK.

    Kept for a while: the same season stands on every page.
    """
    step = width / rail.season.weeks
    first = rail.season.first_week
    this_week = monday_of(rail.today)

    def x(day: dt.date) -> float:
        return (day - first).days / 7 * step

    parts: list[Element | None] = []
    for week in rail.season:
        if week.day <= 7:
            parts.append(node("text", text=f"{week:%b}", x=x(week) + 2, y=10.0, class_="rail-month"))
    open_from, open_to = x(this_week), x(this_week) + step
    for start, end in ((0.0, open_from), (open_to, width)):
        if this_week in rail.season:
            parts.append(node("line", x1=start, x2=end, y1=LINE_Y, y2=LINE_Y, class_="rail-line"))
        elif start == 0:
            parts.append(node("line", x1=0.0, x2=width, y1=LINE_Y, y2=LINE_Y, class_="rail-line"))
    for day, important in rail.matches:
        if 0 <= (day - first).days < 7 * rail.season.weeks:
            top = 12.0 if important else 18.0
            parts.append(
                node("line", x1=x(day), x2=x(day), y1=top, y2=LINE_Y, class_="rail-match" + " is-big" * important)
            )
    for block in rail.blocks:
        parts += _band(block, rail, x, step)
    parts += _marker(rail, x(rail.chosen), step, width)
    parts += [_name(block, rail, x, step) for block in rail.blocks]  # last: nothing strikes a name through
    for week in rail.season:
        words = rail.describe(week)
        parts.append(
            node(
                "a",
                node("title", text=words),
                node("rect", x=x(week), y=0.0, width=step, height=HEIGHT, class_="rail-week"),
                href=address.replace("WEEK", week.isoformat()),
                tabindex="-1",
                aria_label=words,
            )
        )
    return picture(width, HEIGHT, "Season by weeks", *parts, class_=name, role="group")


def _band(block: RailBlock, rail: Rail, x: Callable[[dt.date], float], step: float) -> list[Element]:
    """A block's band: its deload weeks are gaps with only an outline, a draft is all outline."""
    parts: list[Element] = []
    span = DaySpan(block.first_week, block.weeks)
    shown = [week for week in span if week in rail.season]
    if not shown:
        return []
    for week in shown:
        hollow = week in block.deload_weeks or not block.published
        past = week < monday_of(rail.today)
        kind = "rail-hollow" if hollow else ("rail-band is-past" if past else "rail-band")
        inset = 0.75 if hollow else 0.0
        parts.append(
            node(
                "rect",
                x=x(week) + inset,
                y=BAND_Y + inset,
                width=step - 2 * inset,
                height=BAND_HEIGHT - 2 * inset,
                class_=kind,
            )
        )
    parts.append(node("line", x1=x(shown[0]), x2=x(shown[0]), y1=LINE_Y, y2=BAND_Y + BAND_HEIGHT, class_="rail-edge"))
    return parts


def _name(block: RailBlock, rail: Rail, x: Callable[[dt.date], float], step: float) -> Element | None:
    """The block's name on its band, where it fits."""
    shown = [week for week in DaySpan(block.first_week, block.weeks) if week in rail.season]
    if not shown or len(block.name) * 6.2 >= step * len(shown):
        return None
    return node("text", text=block.name, x=x(shown[0]) + 5, y=BAND_Y + 12.5, class_="rail-name")


def _marker(rail: Rail, left: float, step: float, width: float) -> list[Element]:
    """The chosen week: a box around it with its date below."""
    caption = f"Week {rail.number(rail.chosen)} · {rail.chosen.day} {rail.chosen:%b}"
    if monday_of(rail.today) == rail.chosen:
        caption += " · now"
    half = len(caption) * 3.15 + 6
    room = LIST_WIDTH if width >= WIDTH else 0.0  # at the end the words beside it stay free; a phone has none there
    middle = min(max(left + step / 2, half), width - half - room)
    return [
        node("rect", x=left, y=13.0, width=step, height=37.0, class_="rail-chosen"),
        node("rect", x=middle - half, y=50.0, width=2 * half, height=16.0, class_="rail-flag"),
        node("text", text=caption, x=middle, y=62.0, class_="rail-caption"),
    ]
