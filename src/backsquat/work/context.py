"""What an operation works with instead of the request: the database's session, who acts, the squad's rules and library."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cache, cached_property
from typing import Any

from sqlalchemy import BindParameter, bindparam, select
from sqlalchemy.orm import Session

from backsquat.core.movements.library import Library
from backsquat.core.rules import Rules
from backsquat.library import shelf
from backsquat.library.shelf import MovementEntry
from backsquat.storage.cache import cached
from backsquat.storage.convert import rules_from_rows
from backsquat.storage.models import LibraryEntry, RuleChange
from backsquat.work.actor import Actor

MOVEMENT = "movement"  # the kind of a library entry
_SQUAD: BindParameter[int] = bindparam("squad")
_RULES = select(RuleChange).where(RuleChange.squad_id == _SQUAD).order_by(RuleChange.id)  # made once: asked everywhere
_OWN = select(LibraryEntry.code, LibraryEntry.entry, LibraryEntry.retired).where(  # made once: asked everywhere
    LibraryEntry.squad_id == _SQUAD, LibraryEntry.kind == MOVEMENT, LibraryEntry.current
)


@dataclass(frozen=True)
class WorkContext:
    """One write or look: the database's session, who acts, and the rules it goes by (the squad's, if none are given)."""

    db: Session
    actor: Actor
    given_rules: Rules | None = None

    @cached_property
    def rules(self) -> Rules:
        """The rules it goes by."""
        return self.given_rules or rules_of(self.db, self.squad_id)

    @property
    def library(self) -> Library:
        """The squad's movements and ladders."""
        return library_of(self.db, self.squad_id)

    @property
    def squad_id(self) -> int:
        """The squad it is for."""
        return self.actor.squad_id

    @property
    def now(self) -> dt.datetime:
        """The moment."""
        return self.actor.now

    @property
    def today(self) -> dt.date:
        """The day of the moment."""
        return self.actor.today

    def ruled_by(self, rules: Rules) -> "WorkContext":
        """The same by other rules: those of one athlete."""
        return replace(self, given_rules=rules)


def rules_of(db: Session, squad_id: int) -> Rules:
    """The squad's rules: the defaults with its own values over them."""
    return cached(
        db, ("rules", squad_id), lambda: rules_from_rows(db.scalars(_RULES, {"squad": squad_id})), unchanged=True
    )


@cache
def _shipped() -> Library:
    return Library(shelf.movements(), shelf.ladders(), shelf.movements())


_OWN = select(LibraryEntry.code, LibraryEntry.entry, LibraryEntry.retired).where(  # made once: asked everywhere
    LibraryEntry.squad_id == bindparam("squad"), LibraryEntry.kind == MOVEMENT, LibraryEntry.current
)


def library_of(db: Session, squad_id: int) -> Library:
    """The squad's library, read once in a session."""
    key = ("library", squad_id)
    if key not in db.info:
        db.info[key] = cached(db, key, lambda: _library_of(db, squad_id), unchanged=True)
    return db.info[key]  # type: ignore[no-any-return]


def _library_of(db: Session, squad_id: int) -> Library:
    rows = db.execute(_OWN, {"squad": squad_id}).all()
    return _laid_over(rows) if rows else _shipped()


def _laid_over(rows: Iterable[Any]) -> Library:
    movements = dict(shelf.movements())
    for code, entry, retired in rows:
        if entry:
            movements[code] = MovementEntry.model_validate(entry).movement(own=True, retired=retired)
        elif code in shelf.movements():
            movements[code] = shelf.entries()[code].movement(retired=retired)
    return Library(movements, shelf.ladders(), shelf.movements())
