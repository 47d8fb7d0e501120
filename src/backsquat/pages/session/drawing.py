"""The strips of a session, with what each says to who cannot see it."""

from dataclasses import dataclass

from markupsafe import Markup

from backsquat.core.sessions.session import Group, Item
from backsquat.core.sessions.timing import TimeSpan
from backsquat.ui.drawing.strip import draw_axis, draw_ground, draw_strip, draw_warm_up
from backsquat.ui.phrases.sessions import clock_words, item_dose, minutes_words
from backsquat.work.plan.timed import TimedSession


@dataclass(frozen=True)
class StripRow:
    """One item's row: its place in its group, its strip."""

    item: Item
    first: bool
    last: bool
    strip: Markup


@dataclass(frozen=True)
class StripGroup:
    """A group as it is shown: its number in the session (0: spare), its span, its rows."""

    number: int
    group: Group
    span: TimeSpan
    rows: tuple[StripRow, ...]


@dataclass(frozen=True)
class Strips:
    """All that is drawn of a session."""

    axis: Markup
    ground: Markup
    warm_up: Markup | None
    groups: tuple[StripGroup, ...]


def strips(found: TimedSession) -> Strips:
    """The axis, the warm-up, and the strip of every item."""
    table, groups, number = found.table, [], 0
    for span in table.spans:
        number += not span.group.spare
        rows = []
        for row, item in enumerate(span.group.items):
            strip = draw_strip(span, row, table, item.movement.family.value, _title(item, span))
            rows.append(StripRow(item, row == 0, row == len(span.group.items) - 1, strip))
        groups.append(StripGroup(0 if span.group.spare else number, span.group, span, tuple(rows)))
    warm = draw_warm_up(table, f"Warm-up, {minutes_words(table.warm_up_s)} minutes") if table.warm_up_s else None
    return Strips(draw_axis(table), draw_ground(table), warm, tuple(groups))


def _title(item: Item, span: TimeSpan) -> str:
    dose = item_dose(item)
    start, end = clock_words(span.start_s), clock_words(span.start_s + span.length_s)
    return f"{item.movement.name}, {dose}: from {start} to {end}"
