"""Movements, screens and templates of another squad opened: what is not here yet is added, in one undoable act."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.library.battery import ScreenEntry
from backsquat.library.shelf import MovementEntry
from backsquat.library.templates import TemplateEntry
from backsquat.storage.models import Change, LibraryEntry
from backsquat.work.context import MOVEMENT, WorkContext, library_of
from backsquat.work.journal import remember, restores
from backsquat.work.library.block_templates import TEMPLATE, squad_templates
from backsquat.work.library.own_entries import CACHES, entry_problems, new_code, standing_row
from backsquat.work.library.screens import SCREEN, screens_of
from backsquat.work.policy import Act, require

ENTRIES_MOST = 300
READ: dict[str, Callable[[str, dict[str, Any]], Any]] = {  # in this order: templates name movements
    MOVEMENT: lambda code, entry: MovementEntry.model_validate(entry | {"code": code}),
    SCREEN: lambda code, entry: ScreenEntry.model_validate(entry | {"code": code}),
    TEMPLATE: lambda _, entry: TemplateEntry.model_validate(entry),
}


@dataclass(frozen=True)
class Opened:
    """The change to undo, the names of what was added, and of what was here already."""

    change: Change | None
    added: Sequence[str]
    known: Sequence[str]


def open_library(context: WorkContext, entries: Sequence[Any]) -> Opened:
    """Add what nobody here has under this name or code; ImpossibleInput, and nothing added, where one is no good."""
    require(context.actor, Act.PLAN)
    if len(entries) > ENTRIES_MOST or not all(_is_entry(one) for one in entries):
        raise ImpossibleInput(Problem("file", "library_kind"))
    added: list[str] = []
    known: list[str] = []
    rows: list[int] = []
    for kind, read in READ.items():
        taken = _names(context.db, context.squad_id, kind)
        for code, entry in [(one["code"], one["entry"]) for one in entries if one["kind"] == kind]:
            try:
                made = read(code, entry)
            except ValidationError as error:
                what = next(iter(entry_problems(error))).facts["what"]
                raise ImpossibleInput(Problem("file", "library_entry", {"code": code[:60], "what": what})) from None
            if code in taken or made.name.casefold() in taken.values():
                known.append(made.name)
                continue
            free = code if code.startswith("own_") else new_code(made.name, taken)
            if standing_row(context.db, context.squad_id, kind, free):  # taken out of choice here: another code
                free = new_code(made.name, {*taken, free})
            rows.append(_add(context, kind, free, made.model_dump(mode="json") | _coded(kind, free)))
            taken[free] = made.name.casefold()
            added.append(made.name)
    _forget(context.db, context.squad_id)
    change = None
    if rows:
        about: dict[str, Any] = {"what": "library_opened", "subject": "library_opened", "subject_id": rows[0]}
        change = remember(context, **about, before={"rows": rows})
    return Opened(change, added, known)


def _is_entry(one: Any) -> bool:
    plain = isinstance(one, dict) and isinstance(one.get("code"), str) and isinstance(one.get("entry"), dict)
    return plain and one.get("kind") in READ and 0 < len(one["code"]) <= 80


def _coded(kind: str, code: str) -> dict[str, str]:
    return {} if kind == TEMPLATE else {"code": code}


def _names(db: Session, squad_id: int, kind: str) -> dict[str, str]:
    """Code → name in small letters of all there are."""
    if kind == MOVEMENT:
        return {code: one.name.casefold() for code, one in library_of(db, squad_id).movements.items()}
    if kind == SCREEN:
        return {code: one.name.casefold() for code, one in screens_of(db, squad_id).items()}
    return {code: one.name.casefold() for code, one in squad_templates(db, squad_id).items()}


def _add(context: WorkContext, kind: str, code: str, entry: dict[str, Any]) -> int:
    row = LibraryEntry(
        squad_id=context.squad_id, kind=kind, code=code, entry=entry, by_id=context.actor.user_id, at=context.now
    )
    context.db.add(row)
    context.db.flush()
    _forget(context.db, context.squad_id)
    return row.id


def _forget(db: Session, squad_id: int) -> None:
    for cache in CACHES.values():
        db.info.pop((cache, squad_id), None)


@restores("library_opened")
def take_back_library(context: WorkContext, change: Change) -> None:
    """Undo: what was added is out of choice; plans and logs that name it meanwhile still can."""
    for row_id in change.before["rows"]:
        context.db.get_one(LibraryEntry, row_id).retired = True
    _forget(context.db, context.squad_id)
