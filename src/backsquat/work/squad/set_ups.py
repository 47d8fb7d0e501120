"""How an athlete sets a movement up: dated notes, the newest of a field holds."""

from collections import defaultdict
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.movement import SetUp
from backsquat.storage.models import SetUpNote
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, only_own, require
from backsquat.work.squad.athletes import athlete_of


def note_set_up(context: WorkContext, athlete_id: int, movement: str, field: str, value: str) -> SetUpNote:
    """Remember one field of a set-up from today on; an empty value takes it away."""
    require(context.actor, Act.LOG_OWN)
    only_own(context.actor, athlete_id)
    athlete_of(context.db, context.squad_id, athlete_id)
    context.library.get(movement)
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
        noted_on=context.today,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(note)
    context.db.flush()
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
