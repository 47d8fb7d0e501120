"""Who is here, late or absent: said on the floor by those who run it; a set logged after it says more than what was said."""

import datetime as dt
from collections.abc import Iterable, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.sessions.running import PRESENCE, ActKind
from backsquat.storage.models import BlockSession, SessionAct, SetEntry
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require
from backsquat.work.sessions.acts import acts_in, do_act


def say_presence(context: WorkContext, athlete_id: int, held: BlockSession, week: int, what: ActKind) -> SessionAct:
    """Somebody is here, late or absent. What was said before stands as it was said; the newest holds."""
    require(context.actor, Act.LOG)
    said = [act for act in acts_in(context.db, held.id, week, [athlete_id]).get(athlete_id, ()) if act.what in PRESENCE]
    if said and said[-1].what is what:
        return said[-1]
    return do_act(context, what, athlete_id, held, week, facts={"after": said[-1].id} if said else {})


def awaited(acts: Sequence[SessionAct], entries: Iterable[SetEntry]) -> ActKind | None:
    """LATE or ABSENT of somebody said to be so who has logged nothing since; None of everybody else."""
    said = next((act for act in reversed(acts) if act.what in PRESENCE), None)
    if said is None or said.what is ActKind.HERE or any(entry.at >= said.at for entry in entries):
        return None
    return said.what


def came_at(acts: Sequence[SessionAct], entries: Iterable[SetEntry]) -> dt.datetime | None:
    """When somebody came who had been late, or not there; None of everybody else."""
    said = [act for act in acts if act.what in PRESENCE]
    away = next((act for act in said if act.what is not ActKind.HERE), None)
    if away is None:
        return None
    came = [act.at for act in said if act.what is ActKind.HERE and act.id > away.id]
    return min([*came, *(entry.at for entry in entries if entry.at >= away.at)], default=None)


def said_absent(db: Session, session_ids: Iterable[int]) -> set[tuple[int, int, int]]:
    """(athlete, session, week) of whom the last word on the floor was that they are absent."""
    rows = select(SessionAct.athlete_id, SessionAct.session_id, SessionAct.week, SessionAct.what).where(
        SessionAct.session_id.in_(session_ids), SessionAct.what.in_(PRESENCE), ~SessionAct.taken_back
    )
    newest = {(who, held, week): what for who, held, week, what in db.execute(rows.order_by(SessionAct.id))}
    return {place for place, what in newest.items() if what is ActKind.ABSENT}
