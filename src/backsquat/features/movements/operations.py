"""A squad's own movements: added, copied, changed, retired, restored. Rows are only added.

What gives old logs their meaning (family, load, sides, share of the body, depth) stays as it is once
sets have been logged; a copy can have others.
"""

from typing import Any

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.features.desk import Actor
from backsquat.features.journal import remember, restores
from backsquat.features.movements.queries import MOVEMENT, entry_of, library_of, standing_row
from backsquat.library import shelf
from backsquat.library.shelf import MovementEntry
from backsquat.storage.models import Athlete, Change, LibraryEntry, SetEntry

MEANING = ("family", "convention", "side_mode", "body_share", "depth")


def save_movement(
    session: Session, actor: Actor, values: dict[str, Any], code: str | None = None
) -> MovementEntry:
    """A new movement of the squad (`code` None), or new words and numbers for one."""
    known = library_of(session, actor.squad_id).movements
    if code is None:
        code = _new_code(str(values.get("name", "")), set(known))
    elif code not in known:
        raise NotThere("movement")
    try:
        entry = MovementEntry(code=code, **values)
    except ValidationError as error:
        raise ImpossibleInput(*(_problem(item) for item in error.errors())) from None
    same_name = next(
        (m for m in known.values() if m.name == entry.name and m.code != code and not m.retired), None
    )
    if same_name:
        raise ImpossibleInput(Problem("name", "movement_taken", {"name": entry.name}))
    if code in known and _logged(session, actor.squad_id, code):
        before = entry_of(session, actor.squad_id, code)
        if any(getattr(before, name) != getattr(entry, name) for name in MEANING):
            raise Refused("in_log")
    retired = known[code].retired if code in known else False
    _put(session, actor, code, entry.model_dump(mode="json"), retired)
    return entry


def _new_code(name: str, taken: set[str]) -> str:
    stem = "own_" + (
        "".join(c if c.isascii() and c.isalnum() else "_" for c in name.lower())[:40] or "movement"
    )
    return next(code for code in [stem, *(f"{stem}_{n}" for n in range(2, 999))] if code not in taken)


def _problem(item: Any) -> Problem:
    field = str(item["loc"][0]) if item["loc"] else "name"
    return Problem(field, "entry", {"what": item["msg"].removeprefix("Value error, ")})


def _logged(session: Session, squad_id: int, code: str) -> bool:
    return (
        session.scalars(
            select(SetEntry.id)
            .join(Athlete, SetEntry.athlete_id == Athlete.id)
            .where(Athlete.squad_id == squad_id, SetEntry.movement == code)
            .limit(1)
        ).first()
        is not None
    )


def retire_movement(session: Session, actor: Actor, code: str, retired: bool) -> Change:
    """Take a movement out of choice, or back into it. Old logs and plans keep their name."""
    library_of(session, actor.squad_id).get(code)
    row = standing_row(session, actor.squad_id, code)
    return _put(session, actor, code, dict(row.entry) if row else {}, retired)


def restore_shipped(session: Session, actor: Actor, code: str) -> Change:
    """Put the shipped entry back in place of the squad's own words."""
    if code not in shelf.entries():
        raise Refused("not_shipped")
    return _put(session, actor, code, {}, False)


def _put(session: Session, actor: Actor, code: str, entry: dict[str, Any], retired: bool) -> Change:
    before = standing_row(session, actor.squad_id, code)
    if before:
        before.current = False
        session.flush()
    row = LibraryEntry(
        squad_id=actor.squad_id, kind=MOVEMENT, code=code, entry=entry, retired=retired, by_id=actor.user_id,
        at=actor.now,
    )  # fmt: skip
    session.add(row)
    session.flush()
    session.info.pop(("library", actor.squad_id), None)
    return remember(
        session, actor, what="movement_changed", subject="movement", subject_id=row.id,
        before={"id": before.id if before else None},
    )  # fmt: skip


@restores("movement")
def restore_movement(session: Session, _actor: Actor, change: Change) -> None:
    session.get_one(LibraryEntry, change.subject_id).current = False
    session.flush()
    if change.before["id"]:
        session.get_one(LibraryEntry, change.before["id"]).current = True
