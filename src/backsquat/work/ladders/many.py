"""The same said of several athletes at once: cleared with a reason, put on a level, placed by their screens. One undo."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.readiness.checklist import ReadinessCheckView
from backsquat.storage.models import Change, LevelMove, ReadinessClearance
from backsquat.work.context import WorkContext
from backsquat.work.journal import RESTORERS, remember, restores
from backsquat.work.ladders.moves import move_and_follow, place_by_screens
from backsquat.work.ladders.readiness_checks import clear_with_reason
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.squad.athletes import athlete_of

ATHLETES_MOST = 150


@dataclass(frozen=True)
class ManyDone:
    """The change to undo (None: nothing was done), whom it was done for, and whom something stood in the way of."""

    change: Change | None
    names: tuple[str, ...]
    refused: tuple[tuple[str, Refused], ...] = ()
    still_shut: tuple[tuple[str, ReadinessCheckView], ...] = ()  # let through, and no override opens what is left


def let_through(context: WorkContext, ids: Sequence[int], readiness_check: ReadinessCheck, reason: str) -> ManyDone:
    """Through a readiness check, each by the actor's name and this reason; consent and stops stay in force for each."""
    require(context.actor, Act.KEEP_ATHLETES)
    done = _each(context, ids, lambda one: clear_with_reason(context, one, readiness_check, reason))
    people = [athlete_of(context.db, context.squad_id, athlete_id) for athlete_id in dict.fromkeys(ids)]
    ready = readiness_of(context.db, context.squad_id, people, context.today, context.rules)
    views = [(athlete.name, ready[athlete.id].view(readiness_check)) for athlete in people]
    return replace(done, still_shut=tuple(one for one in views if not one[1].open))


def put_on_level(context: WorkContext, ids: Sequence[int], place: tuple[str, str], reason: str) -> ManyDone:
    """On a level (ladder, movement); whom a readiness check, a stop or a limit keeps from it stays where they are."""
    require(context.actor, Act.SCREEN)
    ladder, movement = place

    def move(athlete_id: int) -> None:
        move_and_follow(context, athlete_id, ladder, movement, way="placed", reason=reason)

    return _each(context, ids, move)


def place_all(context: WorkContext, ids: Sequence[int]) -> ManyDone:
    """On the levels their screens lead to, on ladders where they stand on none yet."""
    require(context.actor, Act.SCREEN)
    return _each(context, ids, lambda one: place_by_screens(context, one))


@dataclass(frozen=True)
class Settled:
    """What a coach settles for one athlete: past a readiness check, or (check empty) on a level of a ladder."""

    reason: str
    readiness_check: str = ""
    ladder: str = ""
    movement: str = ""


def settle(context: WorkContext, wanted: Mapping[int, Sequence[Settled]]) -> ManyDone:
    """All of these for each athlete, or none of an athlete's where something stands in the way of one."""
    require(context.actor, Act.KEEP_ATHLETES)

    def act(athlete_id: int) -> None:
        for one in wanted[athlete_id]:
            if one.readiness_check:
                clear_with_reason(context, athlete_id, ReadinessCheck(one.readiness_check), one.reason)
            else:
                move_and_follow(context, athlete_id, one.ladder, one.movement, way="placed", reason=one.reason)

    return _each(context, list(wanted), act)


def _each(context: WorkContext, ids: Sequence[int], act: Callable[[int], Any]) -> ManyDone:
    """Do it for everyone it can be done for; what it wrote is one change."""
    if not ids or len(ids) > ATHLETES_MOST:
        raise ImpossibleInput(Problem("athletes", "nobody_chosen"))
    people = [athlete_of(context.db, context.squad_id, athlete_id) for athlete_id in dict.fromkeys(ids)]
    before = _newest(context.db)
    names: list[str] = []
    refused: list[tuple[str, Refused]] = []
    for athlete in people:
        try:
            with context.db.begin_nested():
                act(athlete.id)
        except Refused as error:
            refused.append((athlete.name, error))
        else:
            names.append(athlete.name)
    rows = {name: _since(context, model, before[name]) for name, model in KEPT.items()}
    change = None
    if any(rows.values()):
        about: dict[str, Any] = {"what": "several_done", "subject": "several", "subject_id": context.squad_id}
        change = remember(context, **about, before={"rows": rows})
    return ManyDone(change, tuple(names), tuple(refused))


KEPT: dict[str, Any] = {"override": ReadinessClearance, "level": LevelMove}


def _newest(db: Session) -> dict[str, int]:
    return {name: db.scalar(select(model.id).order_by(model.id.desc()).limit(1)) or 0 for name, model in KEPT.items()}


def _since(context: WorkContext, model: Any, newest: int) -> list[int]:
    """What this act wrote: nobody else writes while it does."""
    return list(context.db.scalars(select(model.id).where(model.id > newest, model.by_id == context.actor.user_id)))


@restores("several")
def take_back_several(context: WorkContext, change: Change) -> None:
    """Undo: each is undone as if it had been done alone, where it was not already; plans follow."""
    require(context.actor, Act.SCREEN)
    athletes = set()
    for subject, rows in change.before["rows"].items():
        for row_id in rows:
            row = context.db.get_one(KEPT[subject], row_id)
            athletes.add(row.athlete_id)
            alone = context.db.scalars(
                select(Change).where(Change.subject == subject, Change.subject_id == row_id, ~Change.undone)
            ).first()
            if alone is not None and _newest_of(context.db, subject, row):
                RESTORERS[subject](context, alone)
                alone.undone = True
    for athlete_id in athletes:
        refresh_athlete(context, athlete_id)


def _newest_of(db: Session, subject: str, row: Any) -> bool:
    """Whether nothing was said since: a later move on the ladder stands, whatever is taken back before it."""
    if subject == "override":
        return not row.ended
    later = select(LevelMove.id).where(
        LevelMove.athlete_id == row.athlete_id, LevelMove.ladder == row.ladder, LevelMove.id > row.id
    )
    return db.scalars(later.limit(1)).first() is None
