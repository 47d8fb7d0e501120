"""The season drawn large: phases, blocks by weeks, matches, days off and milestones under one line of time."""

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from markupsafe import Markup

from backsquat.core.season.calendar import WEEK, DaySpan, monday_of
from backsquat.ui.drawing.kit import Element, node, picture

WIDTH, GUTTER = 1216.0, 92.0
TOP, PHASE_Y, BLOCK_Y, MATCH_Y, OFF_Y, GOALS_Y = 18.0, 26.0, 58.0, 112.0, 146.0, 180.0
PHASE_HEIGHT, BLOCK_HEIGHT, OFF_HEIGHT, GOAL_STEP = 22.0, 26.0, 16.0, 22.0
LETTER = 6.1  # width of a letter of the labels, about
GOALS_MOST = 4


@dataclass(frozen=True)
class Stretch:
    """Some days that are one thing, with its name; `kind` chooses its colour."""

    kind: str
    first_on: dt.date
    last_on: dt.date
    name: str


@dataclass(frozen=True)
class BlockWeeks:
    """A block: for each week how heavy it is, 0 to 1, and whether it is easy."""

    name: str
    first_week: dt.date
    published: bool
    heights: tuple[float, ...]
    deload: frozenset[dt.date]


@dataclass(frozen=True)
class MatchTick:
    """A match on a day; only those that count carry their name."""

    on: dt.date
    counts: bool
    name: str
    match_id: int | None = None  # one that can be taken and dropped on another week


@dataclass(frozen=True)
class GoalRange:
    """A milestone: its day, the days between which it is expected, and how it stands in a few words."""

    name: str
    due_on: dt.date
    early_on: dt.date | None
    late_on: dt.date | None
    said: str


@dataclass(frozen=True)
class SeasonPicture:
    """What is drawn of a season, or of some weeks of it."""

    season: DaySpan
    today: dt.date
    chosen: dt.date
    phases: tuple[Stretch, ...]
    blocks: tuple[BlockWeeks, ...]
    matches: tuple[MatchTick, ...]
    off: tuple[Stretch, ...]
    goals: tuple[GoalRange, ...]

    def window(self, weeks: int) -> "SeasonPicture":
        """Some weeks around the chosen one, for narrow screens; milestones stand in the list there."""
        first = self.season.index(self.chosen) - weeks // 2
        first = max(0, min(first, self.season.weeks - weeks))
        span = DaySpan(self.season.first_week + first * WEEK, min(weeks, self.season.weeks))
        return replace(self, season=span, goals=())


def draw_season(shown: SeasonPicture, address: str, width: float = WIDTH, *, narrow: bool = False) -> Markup:
    """The season as SVG; a click on a week goes to `address` with its Monday in the place of WEEK."""
    gutter = 0.0 if narrow else GUTTER
    first, step = shown.season.first_week, (width - gutter) / shown.season.weeks

    def x(day: dt.date) -> float:
        return min(max(gutter + (day - first).days / 7 * step, gutter), width)

    goals = shown.goals[:GOALS_MOST]
    height = GOALS_Y + GOAL_STEP * len(goals) + 22.0
    parts = _months(shown.season, x, height)
    if not narrow:
        names = (("Phases", PHASE_Y), ("Blocks", BLOCK_Y + 8), ("Matches", MATCH_Y), ("Away, off", OFF_Y))
        parts += [node("text", text=name, x=0.0, y=y + 15, class_="season-row") for name, y in names]
        if goals:
            parts.append(node("text", text="Milestones", x=0.0, y=GOALS_Y + 15, class_="season-row"))
    parts += [part for phase in shown.phases for part in _phase(phase, shown.season, x)]
    parts += [part for block in shown.blocks for part in _block(block, shown, x, step)]
    parts += [part for match in shown.matches for part in _match(match, shown.season, x, width)]
    parts += _days_off(shown, x)
    parts += [part for n, goal in enumerate(goals) for part in _goal(goal, GOALS_Y + n * GOAL_STEP, x, width)]
    parts += _chosen(shown, x, step, height, width)
    for week in shown.season:
        words = f"Week of {week.day} {week:%b}"
        parts.append(
            node(
                "a",
                node("title", text=words),
                node("rect", x=x(week), y=0.0, width=step, height=height, class_="season-week"),
                href=address.replace("WEEK", week.isoformat()),
                tabindex="-1",
                aria_label=words,
                data_week=week.isoformat(),
            )
        )
    parts += [] if narrow else [_handle(match, address, x) for match in shown.matches if match.match_id]
    return picture(width, height, "The season", *parts, class_="season" + " is-narrow" * narrow, role="group")


def _months(season: DaySpan, x: Callable[[dt.date], float], height: float) -> list[Element]:
    parts = []
    for week in season:
        if week.day <= 7:
            parts.append(node("line", x1=x(week), x2=x(week), y1=4.0, y2=height - 16, class_="season-month"))
            parts.append(node("text", text=f"{week:%b}", x=x(week) + 4, y=14.0, class_="season-quiet"))
    return parts


def _inside(first_on: dt.date, last_on: dt.date, season: DaySpan) -> bool:
    return first_on < season.last_week + WEEK and last_on >= season.first_week


def _phase(phase: Stretch, season: DaySpan, x: Callable[[dt.date], float]) -> list[Element]:
    if not _inside(phase.first_on, phase.last_on, season):
        return []
    left, right = x(phase.first_on), x(phase.last_on + dt.timedelta(days=1))
    parts = [
        node("rect", x=left, y=PHASE_Y, width=right - left, height=PHASE_HEIGHT, class_=f"season-phase is-{phase.kind}")
    ]
    if len(phase.name) * LETTER < right - left - 8:
        parts.append(node("text", text=phase.name, x=left + 6, y=PHASE_Y + 15, class_="season-name"))
    return parts


def _block(block: BlockWeeks, shown: SeasonPicture, x: Callable[[dt.date], float], step: float) -> list[Element]:
    span = DaySpan(block.first_week, len(block.heights))
    weeks = [(week, tall) for week, tall in zip(span, block.heights, strict=True) if week in shown.season]
    parts: list[Element] = []
    base = BLOCK_Y + 16 + BLOCK_HEIGHT
    for week, tall in weeks:
        high = 6.0 if week in block.deload else 6.0 + (BLOCK_HEIGHT - 6) * tall
        kind = "is-deload" if week in block.deload else "is-draft" if not block.published else "is-work"
        parts.append(
            node("rect", x=x(week) + 1, y=base - high, width=step - 2, height=high, class_=f"season-block {kind}")
        )
    if weeks and len(block.name) * LETTER < step * len(weeks):
        parts.append(node("text", text=block.name, x=x(weeks[0][0]) + 1, y=BLOCK_Y + 10, class_="season-name"))
    return parts


def _match(match: MatchTick, season: DaySpan, x: Callable[[dt.date], float], width: float) -> list[Element]:
    if not _inside(match.on, match.on, season):
        return []
    at, top = x(match.on), MATCH_Y + (0.0 if match.counts else 7.0)
    parts = [node("line", x1=at, x2=at, y1=top, y2=MATCH_Y + 22, class_="season-match" + " is-big" * match.counts)]
    if match.counts and match.name:
        ends = at + 5 + len(match.name) * LETTER > width
        place = {"x": at - 5, "class_": "season-small is-end"} if ends else {"x": at + 5, "class_": "season-small"}
        parts.append(node("text", text=match.name, y=MATCH_Y + 6, **place))
    return parts


def _handle(match: MatchTick, address: str, x: Callable[[dt.date], float]) -> Element:
    """What a match is taken by: over the weeks, wide enough for a pointer; the form of the page moves it."""
    day = match.on.isoformat()
    return node(
        "rect",
        node("title", text=f"Match of {match.on.day} {match.on:%b}: drag it to another week"),
        x=x(match.on) - 7,
        y=MATCH_Y - 2,
        width=14.0,
        height=28.0,
        class_="season-handle",
        data_drag=day,
        data_match=match.match_id,
        data_form="match-move",
        data_opens=address.replace("WEEK", monday_of(match.on).isoformat()),
    )


def _days_off(shown: SeasonPicture, x: Callable[[dt.date], float]) -> list[Element]:
    """Stretches as bars; the name of one behind it where it ends before the next begins."""
    parts: list[Element] = []
    here = [one for one in shown.off if _inside(one.first_on, one.last_on, shown.season)]
    for n, one in enumerate(here):
        left, right = x(one.first_on), x(one.last_on + dt.timedelta(days=1))
        behind = left + max(right - left, 5.0) + 5
        kind = "season-off" if one.kind in ("holiday", "trip") else "season-camp"
        bar = node("rect", x=left, y=OFF_Y, width=max(right - left, 5.0), height=OFF_HEIGHT, class_=kind)
        room = min((x(later.first_on) for later in here[n + 1 :]), default=WIDTH) - behind
        bar.append(node("title", text=one.name))
        parts.append(bar)
        if len(one.name) * LETTER < room:
            parts.append(node("text", text=one.name, x=behind, y=OFF_Y + 12, class_="season-quiet"))
    return parts


def _goal(goal: GoalRange, y: float, x: Callable[[dt.date], float], width: float) -> list[Element]:
    """The range as a bar, its day as a diamond, the name before it, how it stands behind."""
    due, parts = x(goal.due_on), []
    left = right = due
    if goal.early_on:
        left, right = x(goal.early_on), x(goal.late_on) if goal.late_on else width
        kind = "season-range" + ("" if goal.late_on else " is-open")
        parts.append(node("rect", x=left, y=y + 5, width=max(right - left, 4.0), height=10.0, rx=5.0, class_=kind))
    parts.append(node("path", d=f"M{due:.1f} {y + 2:.1f}l6 8l-6 8l-6 -8z", class_="season-due"))
    low, high = min(left, due) - 10, max(right, due) + 10
    before = low > len(goal.name) * LETTER + GUTTER
    parts.append(
        node("text", text=goal.name, x=low if before else high, y=y + 14, class_="season-small" + " is-end" * before)
    )
    after = high if before else high + len(goal.name) * LETTER + 10
    if after + len(goal.said) * LETTER < width:
        parts.append(node("text", text=goal.said, x=after, y=y + 14, class_="season-quiet"))
    return parts


def _chosen(
    shown: SeasonPicture, x: Callable[[dt.date], float], step: float, height: float, width: float
) -> Sequence[Element]:
    if shown.chosen not in shown.season:
        return []
    words = "this week" if monday_of(shown.today) == shown.chosen else f"{shown.chosen.day} {shown.chosen:%b}"
    left = x(shown.chosen)
    middle = min(max(left + step / 2, 32.0), width - 32.0)
    return [
        node("rect", x=left, y=TOP, width=step, height=height - TOP - 16, class_="season-chosen"),
        node("text", text=words, x=middle, y=height - 3, class_="season-small is-middle"),
    ]
