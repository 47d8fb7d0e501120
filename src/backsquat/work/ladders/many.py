"""The same said of several athletes at once: cleared with a reason, put on a level, placed by their screens. One undo."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.readiness.checklist import ReadinessCheckView
from backsquat.core.rules import Rules
from backsquat.storage.models import Change, LevelMove, ReadinessClearance
from backsquat.work.actor import Actor
from backsquat.work.journal import RESTORERS, remember, restores
from backsquat.work.ladders.moves import move_and_follow, place_by_screens
from backsquat.work.ladders.readiness_checks import clear_with_reason
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.squad.athletes import athlete_of
from backsquat.work.squad.context import rules_of

ATHLETES_MOST = 150


@dataclass(frozen=True)
class ManyDone:
    """The change to undo (None: nothing was done), whom it was done for, and whom something stood in the way of."""

    change: Change | None
    names: tuple[str, ...]
    refused: tuple[tuple[str, Refused], ...] = ()
    still_shut: tuple[tuple[str, ReadinessCheckView], ...] = ()  # let through, and no override opens what is left


def let_through(
    db: Session, actor: Actor, ids: Sequence[int], readiness_check: ReadinessCheck, reason: str, rules: Rules
) -> ManyDone:
    """Through a readiness check, each by the actor's name and this reason; consent and stops stay in force for each."""
    require(actor, Act.KEEP_ATHLETES)
    done = _each(db, actor, ids, lambda one: clear_with_reason(db, actor, one, readiness_check, reason, rules))
    people = [athlete_of(db, actor.squad_id, athlete_id) for athlete_id in dict.fromkeys(ids)]
    ready = readiness_of(db, actor.squad_id, people, actor.today, rules)
    views = [(athlete.name, ready[athlete.id].view(readiness_check)) for athlete in people]
    return replace(done, still_shut=tuple(one for one in views if not one[1].open))


def put_on_level(
    db: Session, actor: Actor, ids: Sequence[int], place: tuple[str, str], reason: str, rules: Rules
) -> ManyDone:
    """On a level (ladder, movement); whom a readiness check, a stop or a limit keeps from it stays where they are."""
    require(actor, Act.SCREEN)
    ladder, movement = place

    def move(athlete_id: int) -> None:
        move_and_follow(db, actor, athlete_id, ladder, movement, rules, way="placed", reason=reason)

    return _each(db, actor, ids, move)


def place_all(db: Session, actor: Actor, ids: Sequence[int], rules: Rules) -> ManyDone:
    """On the levels their screens lead to, on ladders where they stand on none yet."""
    require(actor, Act.SCREEN)
    return _each(db, actor, ids, lambda one: place_by_screens(db, actor, one, rules))


def _each(db: Session, actor: Actor, ids: Sequence[int], act: Callable[[int], Any]) -> ManyDone:
    """Do it for everyone it can be done for; what it wrote is one change."""
    if not ids or len(ids) > ATHLETES_MOST:
        raise ImpossibleInput(Problem("athletes", "nobody_chosen"))
    people = [athlete_of(db, actor.squad_id, athlete_id) for athlete_id in dict.fromkeys(ids)]
    before = _newest(db)
    names: list[str] = []
    refused: list[tuple[str, Refused]] = []
    for athlete in people:
        try:
            with db.begin_nested():
                act(athlete.id)
        except Refused as error:
            refused.append((athlete.name, error))
        else:
            names.append(athlete.name)
    rows = {name: _since(db, model, before[name], actor) for name, model in KEPT.items()}
    change = None
    if any(rows.values()):
        about: dict[str, Any] = {"what": "several_done", "subject": "several", "subject_id": actor.squad_id}
        change = remember(db, actor, **about, before={"rows": rows})
    return ManyDone(change, tuple(names), tuple(refused))


KEPT: dict[str, Any] = {"override": ReadinessClearance, "level": LevelMove}


def _newest(db: Session) -> dict[str, int]:
    return {name: db.scalar(select(model.id).order_by(model.id.desc()).limit(1)) or 0 for name, model in KEPT.items()}


def _since(db: Session, model: Any, newest: int, actor: Actor) -> list[int]:
    """What this act wrote: nobody else writes while it does."""
    return list(db.scalars(select(model.id).where(model.id > newest, model.by_id == actor.user_id)))


@restores("several")
def take_back_several(db: Session, actor: Actor, change: Change) -> None:
    """Undo: each is undone as if it had been done alone, where it was not already; plans follow."""
    require(actor, Act.SCREEN)
    rules, athletes = rules_of(db, actor.squad_id), set()
    for subject, rows in change.before["rows"].items():
        for row_id in rows:
            row = db.get_one(KEPT[subject], row_id)
            athletes.add(row.athlete_id)
            alone = db.scalars(
                select(Change).where(Change.subject == subject, Change.subject_id == row_id, ~Change.undone)
            ).first()
            if alone is not None and _newest_of(db, subject, row):
                RESTORERS[subject](db, actor, alone)
                alone.undone = True
    for athlete_id in athletes:
        refresh_athlete(db, actor, athlete_id, rules)


def _newest_of(db: Session, subject: str, row: Any) -> bool:
    """Whether nothing was said since: a later move on the ladder stands, whatever is taken back before it."""
    if subject == "override":
        return not row.ended
    later = select(LevelMove.id).where(
        LevelMove.athlete_id == row.athlete_id, LevelMove.ladder == row.ladder, LevelMove.id > row.id
    )
    return db.scalars(later.limit(1)).first() is None
