"""How an athlete sets a movement up: dated notes, the newest of a field holds."""

from collections import defaultdict
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.movement import SetUp
from backsquat.storage.models import SetUpNote
from backsquat.work.actor import Actor
from backsquat.work.library.movements import library_of
from backsquat.work.policy import Act, only_own, require
from backsquat.work.squad.athletes import athlete_of


def note_set_up(db: Session, actor: Actor, athlete_id: int, movement: str, field: str, value: str) -> SetUpNote:
    """Remember one field of a set-up from today on; an empty value takes it away."""
    require(actor, Act.LOG_OWN)
    only_own(actor, athlete_id)
    athlete_of(db, actor.squad_id, athlete_id)
    library_of(db, actor.squad_id).get(movement)
    found = []
    if field not in set(SetUp):
        found.append(Problem("field", "set_up_field"))
    if len(value) > 60:
        found.append(Problem("value", "too_long", {"most": 60}))
    if found:
        raise ImpossibleInput(*found)
    note = SetUpNote(
        athlete_id=athlete_id,
        movement=movement,
        field=field,
        value=value.strip(),
        noted_on=actor.today,
        by_id=actor.user_id,
        at=actor.now,
    )
    db.add(note)
    db.flush()
    return note


def set_ups(db: Session, athlete_ids: Sequence[int]) -> dict[tuple[int, str], dict[str, SetUpNote]]:
    """(athlete, movement) → field → the note that holds."""
    newest = (
        select(func.max(SetUpNote.id))
        .where(SetUpNote.athlete_id.in_(athlete_ids))
        .group_by(SetUpNote.athlete_id, SetUpNote.movement, SetUpNote.field)
    )
    found: dict[tuple[int, str], dict[str, SetUpNote]] = defaultdict(dict)
    for note in db.scalars(select(SetUpNote).where(SetUpNote.id.in_(newest)).order_by(SetUpNote.id)):
        if note.value:
            found[note.athlete_id, note.movement][note.field] = note
    return found
