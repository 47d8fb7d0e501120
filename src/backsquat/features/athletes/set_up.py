"""How an athlete sets a movement up, and to which depth: dated notes, the newest holds."""

from collections import defaultdict
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.movement import DepthStandard, SetUp
from backsquat.core.rules import Rules
from backsquat.features.athletes.queries import athlete_of
from backsquat.features.blocks.operations import refresh_athlete
from backsquat.features.desk import Actor
from backsquat.features.movements.queries import library_of
from backsquat.storage.models import DepthChoice, SetUpNote

BOX_MM = (50, 900)
DEPTHS = {  # general standards beside the movement's own
    "thigh_level": "thigh level", "hip_below_knee": "hip below knee", "box": "own marked depth, box",
    "held_deep": "held deep squat",
}  # fmt: skip


def note_set_up(
    session: Session, actor: Actor, athlete_id: int, movement: str, field: str, value: str
) -> SetUpNote:
    """Remember one field of a set-up from today on; an empty value takes it away."""
    athlete_of(session, actor.squad_id, athlete_id)
    library_of(session, actor.squad_id).get(movement)
    found = []
    if field not in set(SetUp):
        found.append(Problem("field", "set_up_field"))
    if len(value) > 60:
        found.append(Problem("value", "too_long", {"most": 60}))
    if found:
        raise ImpossibleInput(*found)
    note = SetUpNote(
        athlete_id=athlete_id, movement=movement, field=field, value=value.strip(), noted_on=actor.today,
        by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(note)
    session.flush()
    return note


def set_ups(session: Session, athlete_ids: Sequence[int]) -> dict[tuple[int, str], dict[str, SetUpNote]]:
    """(athlete, movement) → field → the note that holds."""
    newest = (
        select(func.max(SetUpNote.id))
        .where(SetUpNote.athlete_id.in_(athlete_ids))
        .group_by(SetUpNote.athlete_id, SetUpNote.movement, SetUpNote.field)
    )
    found: dict[tuple[int, str], dict[str, SetUpNote]] = defaultdict(dict)
    for note in session.scalars(select(SetUpNote).where(SetUpNote.id.in_(newest)).order_by(SetUpNote.id)):
        if note.value:
            found[note.athlete_id, note.movement][note.field] = note
    return found


def choose_depth(
    session: Session, actor: Actor, athlete_id: int, movement_code: str, code: str, box_mm: int | None, rules: Rules
) -> DepthChoice:  # fmt: skip
    """Another depth standard for one athlete and movement: a new record line from today, and a lower load expected."""
    athlete_of(session, actor.squad_id, athlete_id)
    movement = library_of(session, actor.squad_id).get(movement_code)
    known = DEPTHS | {movement.depth.code: movement.depth.words}
    if code not in known:
        raise ImpossibleInput(Problem("depth", "not_a_choice", {"choices": ", ".join(known.values())}))
    if code == "box" and (box_mm is None or not BOX_MM[0] <= box_mm <= BOX_MM[1]):
        raise ImpossibleInput(Problem("box_mm", "box_height"))
    words = f"box {box_mm} mm" if code == "box" else known[code]
    choice = DepthChoice(
        athlete_id=athlete_id, movement=movement_code, code=code, words=words, box_mm=box_mm if code == "box" else None,
        from_on=actor.today, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(choice)
    session.flush()
    refresh_athlete(session, actor, athlete_id, rules)
    return choice


def depths_of(session: Session, athlete_id: int) -> dict[str, DepthStandard]:
    """The athlete's own standards by movement; where there is none the movement's holds."""
    rows = session.scalars(
        select(DepthChoice).where(DepthChoice.athlete_id == athlete_id).order_by(DepthChoice.id)
    )
    return {row.movement: DepthStandard(row.code, row.words) for row in rows}
