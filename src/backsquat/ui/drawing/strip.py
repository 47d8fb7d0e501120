"""A session in time: one strip an item on one common axis, drawn to scale.

Across: minutes from the start, in per cent of the width, so that a strip is as wide as there is room and its
figures keep their shape. Ramp sets are low, sets tall in their family's hue (two halves where there are two
sides), what moves or rigs is hatched, rest is a line. What lies beyond the cap stands on a pale ground.
"""

from collections.abc import Iterable, Sequence
from xml.etree import ElementTree as Tree

from markupsafe import Markup

from backsquat.core.sessions.timing import Part, Piece, TimeSpan, Timetable
from backsquat.ui.drawing.kit import markup, node

HEIGHT = 26.0
BEYOND_S = 300  # shown after the end or the cap, whichever is later
TICK_MIN = 5
LABEL_EVERY = 3  # each third tick is labelled
BARS = {Part.SET: (3.0, 20.0), Part.RAMP: (11.0, 12.0), Part.CHANGE: (10.0, 6.0)}  # top, height


def axis_s(table: Timetable) -> float:
    """How many seconds the axis is long: all of it, the spare minutes' work, and a little more."""
    end = max([table.length_s, table.cap_s, *(span.start_s + span.length_s for span in table.spans)])
    return end + BEYOND_S


def _share(seconds: float, whole: float) -> str:
    return f"{100 * seconds / whole:.2f}%"


def _svg(title: str, height: float, *children: Tree.Element) -> Markup:
    shown = (node("title", text=title), *children)
    return markup(node("svg", *shown, class_="strip", role="img", aria_label=title, width="100%", height=height))


def draw_ground(table: Timetable) -> Markup:
    """What lies beyond the cap, and its line: behind every row, as high as the row is."""
    whole, full = axis_s(table), "100%"
    at = _share(table.cap_s, whole)
    beyond = node("rect", x=at, y=0, width=_share(whole - table.cap_s, whole), height=full, class_="strip-beyond")
    line = node("line", x1=at, x2=at, y1=0, y2=full, class_="strip-cap")
    root = node("svg", beyond, line, class_="strip-ground", aria_hidden="true", width=full, height=full)
    return markup(root)


def draw_axis(table: Timetable) -> Markup:
    """The minutes above the strips, with the cap."""
    whole, marks = axis_s(table), []
    for n in range(int(whole // 60) // TICK_MIN + 1):
        at, labelled = _share(60 * TICK_MIN * n, whole), n % LABEL_EVERY == 0
        marks.append(node("line", x1=at, x2=at, y1=16 if labelled else 20, y2=25, class_="strip-tick"))
        if labelled:
            anchor = None if n == 0 else "middle"
            marks.append(node("text", x=at, y=12, text_anchor=anchor, text=f"{TICK_MIN * n}" if n else "0 min"))
    line = node("line", x1="0%", x2="100%", y1=25, y2=25, class_="strip-tick")
    cap = node("text", x=_share(table.cap_s, whole), y=12, dx=4, class_="strip-cap-words", text="cap")
    words = f"Minutes, with the cap at {table.cap_s / 60:g}"
    return _svg(words, HEIGHT, line, *marks, *([cap] if table.cap_s % 900 else []))


def draw_strip(span: TimeSpan, row: int, table: Timetable, family: str, title: str) -> Markup:
    """The strip of one item of a group; in a superset or circuit the others' sets leave their gaps."""
    whole = axis_s(table)
    pieces = [piece for piece in span.pieces if piece.row == row or piece.part in (Part.CHANGE, Part.REST)]
    shown = [piece for piece in pieces if piece.part is not Part.CHANGE or row == 0]
    spare = " is-spare" if span.group.spare else ""
    marks = [mark for piece in shown if (mark := _mark(piece, whole, family + spare)) is not None]
    return _svg(title, HEIGHT, *_thread(shown, whole), *marks)


def _thread(pieces: Sequence[Piece], whole: float) -> Iterable[Tree.Element]:
    """The line from the first set to the last, under the bars: what is between them is rest or somebody else's turn."""
    sets = [piece for piece in pieces if piece.part in (Part.SET, Part.RAMP)]
    if sets:
        first, last = _share(sets[0].start_s, whole), _share(sets[-1].start_s + sets[-1].length_s, whole)
        yield node("line", x1=first, x2=last, y1=13, y2=13, class_="strip-rest")


def _mark(piece: Piece, whole: float, family: str) -> Tree.Element | None:
    if piece.part not in BARS:
        return None
    top, height = BARS[piece.part]
    kind = {Part.SET: "is-set", Part.RAMP: "is-ramp", Part.CHANGE: "is-change"}[piece.part]
    x, width = _share(piece.start_s, whole), _share(piece.length_s, whole)
    return node("rect", x=x, y=top, width=width, height=height, class_=f"strip-bar {kind} is-{family}")


def draw_warm_up(table: Timetable, title: str) -> Markup:
    """The warm-up at the head of the strips."""
    whole = axis_s(table)
    bar = node("rect", x="0%", y=5.0, width=_share(table.warm_up_s, whole), height=16.0, class_="strip-bar is-warm-up")
    return _svg(title, HEIGHT, bar)
