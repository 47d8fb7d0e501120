"""Pictures of the sheet: one place with its load, marks and stair; the bar of a planned cell."""

from markupsafe import Markup, escape

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.bands import AlongRange, along_range
from backsquat.core.loads.room import RigKind, Room
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.plan import BARS
from backsquat.features.blocks.rows import SheetCell
from backsquat.storage.convert import planned_load
from backsquat.storage.models import Cell
from backsquat.ui.drawing.bar import Plate, draw_bar
from backsquat.ui.drawing.kit import split_load


def bar_picture(room: Room, load: Load) -> Markup:
    """The load on its bar, plates with the diameter the room gives them; nothing for what has no plates."""
    if load.rig.kind not in BARS:
        return Markup("")
    diameters = {plate.mass: plate.diameter_mm for plate in room.plates}
    plates = [Plate(mass.text, mass.kg, diameters.get(mass, 450)) for mass in load.side]
    total = f"{load.total.text} {load.total.unit}"
    return draw_bar(f"{load.rig.mass.text} {load.rig.mass.unit}", plates, total)


def band_ranges(room: Room, load: Load) -> list[tuple[str, str, AlongRange]]:
    """Band, where it is fixed, and the load in kg at the bottom and at the top: for bars, and for help by a band."""
    if load.rig.kind is RigKind.BAND:
        return [
            (band.name, "fixed high", along_range(0.0, band, helps=True))
            for band in room.bands
            if band.long.grains == -load.total.grains
        ]
    if load.rig.kind not in BARS:
        return []
    return [
        (f"two, {band.name}", words, along_range(load.kg, band, helps=helps, bands=2))
        for band in room.bands
        for words, helps in (("fixed low", False), ("fixed high", True))
    ]


def cell_load(room: Room, movement: Movement, cell: Cell) -> Load | None:
    """The cell's load in the room as it is now; None where the room can no longer make it."""
    return planned_load(room, movement, cell.bar, cell.load_amount, cell.load_unit)


def draw_place(cell: SheetCell, *, here: bool, published: bool, link: str, unit: str) -> Markup:
    """One place of the sheet as a table cell with its link.

    A function and not a template: a sheet has hundreds, and this halves the page's time. `link` is
    the address with CELL where the cell's id goes; a load in another `unit` than the sheet's says its own.
    """
    classes = " ".join(
        name
        for name, holds in (
            ("is-easy", cell.easy),
            ("is-held", cell.held),
            ("is-open", here),
            ("under", cell.kg is None and not cell.words),
            ("is-work", cell.state == "work"),
            (f"shade-{cell.shade}", cell.shade),
            ("is-rung", bool(cell.words)),
        )
        if holds
    )
    if not cell.id:
        return Markup("<td></td>")
    address = escape(link.replace("CELL", str(cell.id)))
    inside = (
        '<span class="draft"></span><span class="visually-hidden">not published</span>'
        if cell.draft and published
        else ""
    )
    if cell.words:
        inside += f"<b>{escape(cell.words)}</b><small>{escape(cell.work)}</small>{_marks(cell)}"
        if cell.why in ("limit", "room"):
            words = "a limit" if cell.why == "limit" else "not in this room"
            inside += f'<span class="stand-in" title="stands in: {words}">stands in</span>'
    elif cell.kg is None:
        inside += "under<br>the bar"
    else:
        other = f' <span class="own-reps">{escape(cell.unit)}</span>' if cell.unit != unit else ""
        reps = f'<span class="own-reps">{escape(cell.reps)}</span>' if cell.reps else ""
        inside += f'<span class="load">{split_load(cell.load)}</span>{other}{reps}{cell.stair}{_marks(cell)}'
    return Markup(
        f'<td class="{classes}"><a data-cell="{cell.id}" data-load="{escape(cell.load)}" '
        f'data-week="{cell.week}" href="{address}#panel" '
        f'hx-get="{address}" hx-target="#panel">{inside}</a></td>'
    )


def _marks(cell: SheetCell) -> str:
    marks = ""
    if cell.over_cap:
        marks = '<span class="change over" title="over the cap">over</span>'
    elif cell.origin == "coach":
        marks = '<span class="corner"></span><span class="visually-hidden">changed by the coach</span>'
    elif cell.change:
        marks = f'<span class="change">{escape(cell.change)}</span>'
    if cell.sets_done:
        full = " is-full" if cell.sets_done >= cell.sets else ""
        marks += f'<span class="dot{full}"></span><span class="visually-hidden">{cell.sets_done} sets logged</span>'
    return marks
