"""How long each athlete played in a match: typed, or opened as a list."""

from collections.abc import Mapping, Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.storage.models import Change, MatchMinutes
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.policy import Act, require
from backsquat.work.season.matches import match_of
from backsquat.work.squad.athletes import squad_athletes

MINUTES_MOST = 120


def minutes_of(db: Session, match_ids: Sequence[int]) -> dict[int, dict[int, int]]:
    """Match → athlete → minutes that stand."""
    newest = select(func.max(MatchMinutes.id)).where(MatchMinutes.match_id.in_(match_ids))
    newest = newest.group_by(MatchMinutes.match_id, MatchMinutes.athlete_id)
    found: dict[int, dict[int, int]] = {match_id: {} for match_id in match_ids}
    for row in db.scalars(select(MatchMinutes).where(MatchMinutes.id.in_(newest))):
        if row.minutes is not None:
            found[row.match_id][row.athlete_id] = row.minutes
    return found


def keep_minutes(context: WorkContext, match_id: int, typed: Mapping[int, int | None]) -> tuple[Change | None, int]:
    """Keep them, none for nothing known; what changed, and of how many. ImpossibleInput where one cannot be."""
    require(context.actor, Act.PLAN)
    match = match_of(context, match_id)
    known = {athlete.id for athlete in squad_athletes(context.db, context.squad_id)}
    wrong = [
        Problem(f"minutes-{athlete_id}", "between", {"low": 0, "high": MINUTES_MOST})
        for athlete_id, minutes in typed.items()
        if minutes is not None and not 0 <= minutes <= MINUTES_MOST
    ]
    if match.played_on > context.today and any(minutes is not None for minutes in typed.values()):
        wrong.append(Problem("minutes", "not_played_yet"))
    if wrong:
        raise ImpossibleInput(*wrong)
    stand = minutes_of(context.db, [match.id])[match.id]
    new = {one: minutes for one, minutes in typed.items() if one in known and stand.get(one) != minutes}
    _add(context, match.id, new)
    if not new:
        return None, 0
    before = {str(athlete_id): stand.get(athlete_id) for athlete_id in new}
    change = remember(
        context, what="minutes_kept", subject="match_minutes", subject_id=match.id, before={"minutes": before}
    )
    return change, len(new)


def _add(context: WorkContext, match_id: int, new: Mapping[int, int | None]) -> None:
    context.db.add_all(
        MatchMinutes(match_id=match_id, athlete_id=one, minutes=minutes, by_id=context.actor.user_id, at=context.now)
        for one, minutes in new.items()
    )
    context.db.flush()


@restores("match_minutes")
def restore_minutes(context: WorkContext, change: Change) -> dict[str, dict[str, int | None]]:
    """Undo, and redo: by rows of their own."""
    before = {int(one): minutes for one, minutes in change.before["minutes"].items()}
    stand = minutes_of(context.db, [change.subject_id])[change.subject_id]
    was = {str(one): stand.get(one) for one in before}
    _add(context, change.subject_id, before)
    return {"minutes": was}
