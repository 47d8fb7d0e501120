"""A squad's own library entries, movements and screens alike: which row stands, putting another in its place, undo."""

from collections.abc import Collection, Iterable
from typing import Any

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import Problem, Refused
from backsquat.library import shelf
from backsquat.library.shelf import MovementEntry
from backsquat.storage.models import Athlete, Change, LibraryEntry, SetEntry
from backsquat.work.context import MOVEMENT, WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.library.movements import entry_of
from backsquat.work.library.screens import SCREEN
from backsquat.work.policy import Act, require

OWN = "own_"  # codes of what no shipped entry stands behind
CACHES = {MOVEMENT: "library", SCREEN: "screens"}  # what a session remembers of them


def standing_row(db: Session, squad_id: int, kind: str, code: str) -> LibraryEntry | None:
    """The squad's row that holds for a code; None where the shipped one does."""
    return db.scalars(
        select(LibraryEntry).where(
            LibraryEntry.squad_id == squad_id,
            LibraryEntry.kind == kind,
            LibraryEntry.code == code,
            LibraryEntry.current,
        )
    ).first()


def put_entry(context: WorkContext, kind: str, code: str, entry: dict[str, Any], retired: bool) -> Change:
    """Another row in place of the one that holds; an empty entry gives the shipped one back."""
    require(context.actor, Act.PLAN)
    before = standing_row(context.db, context.squad_id, kind, code)
    if before:
        before.current = False
        context.db.flush()
    row = LibraryEntry(
        squad_id=context.squad_id,
        kind=kind,
        code=code,
        entry=entry,
        retired=retired,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(row)
    context.db.flush()
    context.db.info.pop((CACHES.get(kind, ""), context.squad_id), None)
    return remember(
        context,
        what=f"{kind}_changed",
        subject="entry",
        subject_id=row.id,
        before={"id": before.id if before else None},
    )


# What logged sets, stops and readiness checks are read by: where sets name a movement, another of these is another movement.
MEANING = ("family", "convention", "side_mode", "body_share", "depth", "regions", "implement", "held")


def keep_meaning(db: Session, squad_id: int, code: str, after: MovementEntry) -> None:
    """Refused where sets are logged of a movement and it would mean something else: by a change, by an undo."""
    before = entry_of(db, squad_id, code)
    if all(getattr(before, name) == getattr(after, name) for name in MEANING):
        return
    logged = select(SetEntry.id).join(Athlete, SetEntry.athlete_id == Athlete.id)
    if db.scalars(logged.where(Athlete.squad_id == squad_id, SetEntry.movement == code).limit(1)).first():
        raise Refused("in_log")


@restores("entry")
def restore_entry(context: WorkContext, change: Change) -> None:
    row = context.db.get_one(LibraryEntry, change.subject_id)
    if row.kind == MOVEMENT and not (row.code.startswith(OWN) and not change.before["id"]):
        older = context.db.get(LibraryEntry, change.before["id"] or 0)
        after = MovementEntry.model_validate(older.entry) if older and older.entry else shelf.entries().get(row.code)
        if after is not None:
            keep_meaning(context.db, context.squad_id, row.code, after)
    if row.code.startswith(OWN) and not change.before["id"]:
        row.retired = True  # plans and logs may name it: out of choice, but not out of the world
        return
    row.current = False
    context.db.flush()
    if change.before["id"]:
        context.db.get_one(LibraryEntry, change.before["id"]).current = True


def retire_entry(context: WorkContext, kind: str, code: str, retired: bool) -> Change:
    """Take an entry out of choice, or back into it; what was logged or recorded keeps its name."""
    row = standing_row(context.db, context.squad_id, kind, code)
    return put_entry(context, kind, code, dict(row.entry) if row else {}, retired)


def new_code(name: str, taken: Collection[str]) -> str:
    """A code for an entry of the squad's own, made from its name."""
    stem = OWN + ("".join(c if c.isascii() and c.isalnum() else "_" for c in name.lower())[:40] or "entry")
    return next(code for code in [stem, *(f"{stem}_{n}" for n in range(2, 999))] if code not in taken)


def entry_problems(error: ValidationError) -> Iterable[Problem]:
    """What is wrong with an entry, beside its fields."""
    for item in error.errors():
        field = str(item["loc"][0]) if item["loc"] else "name"
        yield Problem(field, "entry", {"what": item["msg"].removeprefix("Value error, ")})


def own_entries(db: Session, squad_id: int) -> list[dict[str, Any]]:
    """The squad's own entries as they stand: kind, code, entry; without those taken out of choice."""
    rows = db.scalars(
        select(LibraryEntry)
        .where(LibraryEntry.squad_id == squad_id, LibraryEntry.current, ~LibraryEntry.retired)
        .order_by(LibraryEntry.kind, LibraryEntry.code)
    )
    return [{"kind": row.kind, "code": row.code, "entry": row.entry} for row in rows if row.entry]
