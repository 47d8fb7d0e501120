"""One cell of the sheet with its load, marks and stair."""

from functools import lru_cache

from markupsafe import Markup, escape

from backsquat.core.progression.cell import Origin, StandIn, State
from backsquat.core.working import plain
from backsquat.ui.drawing.kit import split_load
from backsquat.ui.drawing.stair import draw_stair
from backsquat.ui.phrases.working import chance_words
from backsquat.work.plan.rows import SheetCell, SheetRow

STANDS_IN = {  # an own level is said beside the name
    StandIn.CHOSEN: "your choice",
    StandIn.LIMIT: "a limit",
    StandIn.ROOM: "not in this room",
    StandIn.LIGHT: "less than the lightest load",
}


Drawn = tuple[tuple[SheetCell, Markup], ...]


def draw_cells(row: SheetRow, *, open_id: int, published: bool, link: str, unit: str) -> Drawn:
    """The cells of a row, each with its picture; `open_id` is the cell whose working is shown."""
    here = open_id if any(cell.id == open_id for cell in row.cells) else 0
    return _draw_cells(row.cells, here, published, link, unit)


@lru_cache(maxsize=1024)  # a row is drawn again only where something in it is another: some hundred kB a squad
def _draw_cells(cells: tuple[SheetCell, ...], open_id: int, published: bool, link: str, unit: str) -> Drawn:
    stairs = draw_stair([cell.kg for cell in cells])
    return tuple(
        (cell, draw_cell(cell, stair, here=cell.id == open_id, published=published, link=link, unit=unit))
        for cell, stair in zip(cells, stairs, strict=True)
    )


def draw_cell(cell: SheetCell, stair: Markup, *, here: bool, published: bool, link: str, unit: str) -> Markup:
    """One cell of the sheet as a table cell with its link.

    A function and not a template: a sheet has hundreds, and this halves the page's time. `link` is
    the address with CELL where the cell's id goes; a load in another `unit` than the sheet's says its own.
    """
    if not cell.id:
        return Markup("<td></td>")
    address = escape(link.replace("CELL", str(cell.id)))
    inside = ""
    if cell.draft and published:
        inside = '<span class="draft"></span><span class="visually-hidden">not published</span>'
    return Markup(
        f'<td class="{_classes(cell, here)}"><a data-cell="{cell.id}" data-load="{escape(cell.load)}" '
        f'data-week="{cell.week}" href="{address}#panel" '
        f'hx-get="{address}" hx-target="#panel">{inside}{_inside(cell, stair, unit)}</a></td>'
    )


def _classes(cell: SheetCell, here: bool) -> str:
    worded = cell.other is not None or cell.state is State.WORK
    names = (
        ("is-deload", cell.deload),
        ("is-held", cell.held),
        ("is-open", here),
        ("under", cell.kg is None and not worded),
        ("is-work", cell.state is State.WORK),
        (f"shade-{cell.shade}", cell.shade),
        ("is-level", worded),
    )
    return " ".join(name for name, holds in names if holds)


def _inside(cell: SheetCell, stair: Markup, unit: str) -> str:
    if cell.other is not None:
        name = escape(cell.other.name)
        work = escape(cell.other.work.words_for(cell.sets))
        inside = f'<b title="{name}">{name}</b><small>{work} {_from(cell)}</small>{_marks(cell)}'
        if cell.why in STANDS_IN:
            said = "own work" if cell.why is StandIn.CHOSEN else "stands in"
            inside += f'<span class="stand-in" title="{said}: {STANDS_IN[cell.why]}">{said}</span>'
        return inside
    if cell.state is State.WORK:
        amount = f"{cell.hold_s} s" if cell.hold_s else str(cell.reps)
        return f"<b>{cell.sets} × {amount}</b><small>{_from(cell)}</small>{_marks(cell)}"
    if cell.state is State.LEFT_OUT:
        return "left out"
    if cell.kg is None:
        return "under the<br>lightest"
    other = f' <span class="own-reps">{escape(cell.unit)}</span>' if cell.unit != unit else ""
    reps = f'<span class="own-reps">{_own_work(cell)}</span>' if cell.own_reps else ""
    if cell.left >= 0:
        reps += f'<span class="leaves" title="the load leaves about so many reps">RIR {cell.left}</span>'
    return f'<span class="load">{split_load(cell.load)}</span>{other}{reps}{stair}{_marks(cell)}'


def _from(cell: SheetCell) -> str:
    """from 8 kg: where the first set begins to find the load."""
    return f"from {escape(cell.start)} {escape(cell.unit)}" if cell.start else ""


def _own_work(cell: SheetCell) -> str:
    """× 9 where the reps differ from the head of the week; 3 × 5 under a progression of one's own."""
    return f"{cell.own_sets} × {cell.own_reps}" if cell.own_sets else f"× {cell.own_reps}"


def _marks(cell: SheetCell) -> str:
    marks = ""
    if cell.seldom is not None:
        often = chance_words(cell.seldom)
        marks = f'<span class="change over" title="the last set is made {often}">{plain(100 * cell.seldom, 0)} %</span>'
    elif cell.over_cap:
        marks = '<span class="change over" title="over the cap">over</span>'
    elif cell.origin is Origin.COACH:
        marks = '<span class="corner"></span><span class="visually-hidden">changed by the coach</span>'
    elif cell.change_kg is not None:
        marks = f'<span class="change">{_change(cell.change_kg)}</span>'
    if cell.missed:
        marks = '<span class="change missed" title="planned, nothing logged">missed</span>'
    if cell.sets_done:
        full = " is-full" if cell.sets_done >= cell.sets else ""
        done = f"{cell.sets_done} sets logged"
        marks += f'<span class="dot{full}"></span><span class="visually-hidden">{done}</span>'
    return marks


def _change(kg: float) -> str:
    if abs(kg) < 0.05:
        return "="
    return ("+" if kg > 0 else "−") + plain(abs(kg))
