"""Pictures more than one page shows: the bar of a load, a ladder with an athlete on it."""

from markupsafe import Markup

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.bands import AlongRange, along_range
from backsquat.core.loads.room import RigKind, Room
from backsquat.core.movements.ladder import Ladder
from backsquat.core.movements.library import Library
from backsquat.core.progression.terms import BARS
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.ui.drawing.bar import Plate, draw_bar
from backsquat.ui.drawing.ladder import Level, draw_ladder
from backsquat.work.readiness.variant import blocked


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


ABOVE = {Reason.UNEARNED.value}  # being above the own level shuts none: the picture shows that by where they stand


def ladder_picture(ladder: Ladder, library: Library, ready: Readiness | None, shown: int | None = None) -> Markup:
    """The ladder with an athlete on it, or without one with the level `shown` picked out."""
    here = ready.level_on(ladder) if ready else shown
    levels, standing = [], here if ready and here is not None else 0
    for n, level in enumerate(ladder.levels):
        movements = [library.movements[code] for code in level]
        levels.append(
            Level(
                " or ".join(movement.name for movement in movements),
                n == here,
                n < standing,
                ready is not None and all(ready.lacking(movement) for movement in movements),
                ready is not None and all(set(blocked(ready, movement)) - ABOVE for movement in movements),
            )
        )
    return draw_ladder(ladder.name, levels)
