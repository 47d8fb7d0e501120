"""The bar of a planned cell as a picture."""

from markupsafe import Markup

from backsquat.core.loads.achievable import BarLoad
from backsquat.core.loads.room import Room
from backsquat.storage.convert import bar_of, load_on_bar
from backsquat.storage.models import Cell
from backsquat.ui.drawing.bar import Plate, draw_bar


def bar_picture(room: Room, load: BarLoad) -> Markup:
    """The load on its bar, plates with the diameter the room gives them."""
    diameters = {plate.mass: plate.diameter_mm for plate in room.plates}
    plates = [Plate(mass.text, mass.kg, diameters.get(mass, 450)) for mass in load.side]
    total = f"{load.total.text} {load.total.unit}"
    return draw_bar(f"{load.bar.mass.text} {load.bar.mass.unit}", plates, total)


def cell_load(room: Room, cell: Cell) -> BarLoad | None:
    """The cell's load on the room's bar as it is now; None where the room can no longer make it."""
    if cell.load_amount is None:
        return None
    return load_on_bar(room, bar_of(room, cell.bar).code, cell.load_amount, cell.load_unit)
