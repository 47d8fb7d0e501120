"""The squad's library: shipped movements with the squad's own changes laid over them."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.core.movements.movement import Movement
from backsquat.library import shelf
from backsquat.library.shelf import MovementEntry
from backsquat.storage.models import Athlete, LibraryEntry, SetEntry, User
from backsquat.work.context import MOVEMENT


def entry_of(db: Session, squad_id: int, code: str) -> MovementEntry:
    """The entry as it stands, for editing and copying."""
    own = db.scalars(
        select(LibraryEntry.entry).where(
            LibraryEntry.squad_id == squad_id,
            LibraryEntry.kind == MOVEMENT,
            LibraryEntry.code == code,
            LibraryEntry.current,
        )
    ).first()
    if own:
        return MovementEntry.model_validate(own)
    if code not in shelf.entries():
        raise NotThere("movement")
    return shelf.entries()[code]


def search(movements: Iterable[Movement], words: str) -> list[Movement]:
    """Movements under any of their names; all words must be in the same name or its family.

    Hyphens, spaces and plurals do not matter: "dumbbells" finds "dumb-bell", "RDL" and "sumo" their entries.
    """
    wanted = [_run_together(word.removesuffix("s") if len(word) > 3 else word) for word in words.split()]
    return [movement for movement in movements if _named(movement, [word for word in wanted if word])]


def _run_together(text: str) -> str:
    return "".join(letter for letter in text.lower() if letter.isalnum())


def _named(movement: Movement, wanted: list[str]) -> bool:
    """Whether one of its names has all these words, each from the beginning of a word of the name on."""
    for name in (movement.name, *movement.aliases):
        words = "".join(c if c.isalnum() else " " for c in f"{name} {movement.family.value}".lower()).split()
        starts = ["".join(words[n:]) for n in range(len(words))]
        if all(any(start.startswith(word) for start in starts) for word in wanted):
            return True
    return False


@dataclass(frozen=True)
class Use:
    """How a squad has used a movement."""

    sets: int
    athletes: int
    newest: Any
    by_athlete: list[tuple[int, str, int, Any]]  # id, name, sets, newest day


def use_of(db: Session, squad_id: int, code: str, most: int = 8) -> Use:
    counted = (SetEntry.movement == code, SetEntry.standing)
    rows = db.execute(
        select(Athlete.id, Athlete.name, func.count(), func.max(SetEntry.done_on))
        .join(SetEntry, SetEntry.athlete_id == Athlete.id)
        .where(Athlete.squad_id == squad_id, *counted)
        .group_by(Athlete.id)
        .order_by(func.max(SetEntry.done_on).desc(), Athlete.name)
    ).all()
    people = [(athlete_id, name, sets, day) for athlete_id, name, sets, day in rows]
    newest = people[0][3] if people else None
    return Use(sum(row[2] for row in people), len(people), newest, people[:most])


def history_of(db: Session, squad_id: int, code: str) -> list[tuple[LibraryEntry, str]]:
    """Earlier states of a movement with who made them, newest first."""
    rows = db.execute(
        select(LibraryEntry, User.name)
        .join(User, LibraryEntry.by_id == User.id)
        .where(LibraryEntry.squad_id == squad_id, LibraryEntry.kind == MOVEMENT, LibraryEntry.code == code)
        .order_by(LibraryEntry.id.desc())
        .limit(6)
    )
    return [(row, name) for row, name in rows]
