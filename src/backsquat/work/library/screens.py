"""The squad's battery of screens: the shipped ones with the squad's own laid over them."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.readiness.screens import Screen
from backsquat.library import battery
from backsquat.library.battery import ScreenEntry
from backsquat.storage.models import LibraryEntry

SCREEN = "screen"


def screens_of(db: Session, squad_id: int) -> dict[str, Screen]:
    """The default battery with the squad's own screens and changes laid over it; retired ones included."""
    key = ("screens", squad_id)
    if key not in db.info:
        found = dict(battery.screens())
        rows = db.execute(
            select(LibraryEntry.code, LibraryEntry.entry, LibraryEntry.retired)
            .where(LibraryEntry.squad_id == squad_id, LibraryEntry.kind == SCREEN, LibraryEntry.current)
            .order_by(LibraryEntry.id)
        )
        for code, entry, retired in rows:
            if entry:
                found[code] = ScreenEntry.model_validate(entry).screen(own=True, retired=retired)
            elif code in battery.entries():
                found[code] = battery.entries()[code].screen(retired=retired)
        db.info[key] = found
    return db.info[key]  # type: ignore[no-any-return]
