"""What is done in a session besides sets: ramp sets and drills ticked, work skipped, taken up again, let go.

Rows are only added, or marked as taken back. Skipped work stands on the athlete's shelf with its reason until
somebody takes it up in a later session, or lets it go.
"""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.rules import Rules
from backsquat.core.sessions.running import ActKind
from backsquat.storage.models import Athlete, BlockSession, SessionAct
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, only_own, require

REASON_MOST = 80


def do_act(
    context: WorkContext,
    what: ActKind,
    athlete_id: int,
    held: BlockSession,
    week: int,
    exercise_id: int | None = None,
    facts: dict[str, Any] | None = None,
    closes: SessionAct | None = None,
    client_id: str | None = None,
) -> SessionAct:
    """Note something done in a session; the same again is noted once."""
    require(context.actor, Act.LOG_OWN)
    only_own(context.actor, athlete_id, (held.id, week))
    athlete = context.db.get(Athlete, athlete_id)
    if athlete is None or athlete.squad_id != context.squad_id:
        raise NotThere("athlete")
    for known in acts_in(context.db, held.id, week, [athlete_id]).get(athlete_id, []):
        if (known.what, known.exercise_id, known.facts) == (what, exercise_id, facts or {}):
            return known
    act = SessionAct(
        athlete_id=athlete_id,
        session_id=held.id,
        exercise_id=exercise_id,
        week=week,
        done_on=context.today,
        what=what,
        facts=facts or {},
        closes_id=closes.id if closes else None,
        client_id=client_id,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(act)
    context.db.flush()
    return act


def reason_of(text: str) -> str:
    """A reason as it is kept; ImpossibleInput where there is none."""
    reason = " ".join(text.split())[:REASON_MOST]
    if not reason:
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    return reason


def take_act_back(context: WorkContext, act_id: int) -> SessionAct:
    """It was not done after all; what it closed is open again."""
    require(context.actor, Act.LOG_OWN)
    act = act_of(context, act_id)
    only_own(context.actor, act.athlete_id, (act.session_id, act.week))
    act.taken_back = True
    context.db.flush()
    return act


def act_of(context: WorkContext, act_id: int) -> SessionAct:
    """An act of this squad that stands."""
    act = context.db.get(SessionAct, act_id)
    athlete = context.db.get(Athlete, act.athlete_id) if act else None
    if act is None or athlete is None or athlete.squad_id != context.squad_id or act.taken_back:
        raise NotThere("act")
    return act


def acts_in(db: Session, session_id: int, week: int, athlete_ids: Sequence[int]) -> dict[int, list[SessionAct]]:
    """By athlete, what was done in a session of one week besides sets."""
    rows = db.scalars(
        select(SessionAct)
        .where(
            SessionAct.session_id == session_id,
            SessionAct.week == week,
            SessionAct.athlete_id.in_(athlete_ids),
            ~SessionAct.taken_back,
        )
        .order_by(SessionAct.id)
    )
    found: dict[int, list[SessionAct]] = defaultdict(list)
    for row in rows:
        found[row.athlete_id].append(row)
    return found


def shelf(db: Session, athlete_ids: Sequence[int], day: dt.date, rules: Rules) -> dict[int, list[SessionAct]]:
    """By athlete, the work skipped before a day that nobody has taken up or let go, the newest first."""
    closing = aliased(SessionAct)
    closed = select(closing.id).where(closing.closes_id == SessionAct.id, ~closing.taken_back).exists()
    rows = db.scalars(
        select(SessionAct)
        .where(
            SessionAct.athlete_id.in_(athlete_ids),
            SessionAct.what == ActKind.SKIPPED,
            SessionAct.done_on < day,
            SessionAct.done_on >= day - dt.timedelta(days=rules.shelf_days),
            ~SessionAct.taken_back,
            ~closed,
        )
        .order_by(SessionAct.done_on.desc(), SessionAct.id)
    )
    found: dict[int, list[SessionAct]] = defaultdict(list)
    for row in rows:
        found[row.athlete_id].append(row)
    return found
