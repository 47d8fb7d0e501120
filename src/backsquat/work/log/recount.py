"""A changed rule, and the estimates kept beside the sets that follow from it.

The sets themselves never change. What is worked out again is worked out in pieces, each a short write of
its own, so that nobody on the floor waits for it; where it stands is kept with the squad, so that a
piece cut short is gone on with.
"""

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.rules import Rules
from backsquat.storage.database import Database
from backsquat.storage.models import Athlete, Change, RuleChange, SetEntry, Squad
from backsquat.work.context import WorkContext, rules_of
from backsquat.work.journal import remember, restores
from backsquat.work.log.beliefs import bring_all_up_to_date
from backsquat.work.log.estimates import put_estimate
from backsquat.work.log.unsaid import unsay_forecasts
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import rules_for

PIECE = 2_000  # sets worked out again in one write
OF_ESTIMATES = frozenset(  # rules estimates and beliefs are made with
    {
        "max_drift_week",
        "day_spread",
        "curve_spread",
        "hinge_curve",
        "reserve_bias_spread",
        "reserve_error_reps",
        "reserve_error_grows",
        "belief_reserve_reps",
        "belief_reps",
        "tired_a_set",
        "unsaid_error_reps",
        "estimate_window_days",
        "tired_most",
        "gain_trained",
        "no_discomfort",
        "formula",
        "reserve_cap_reps",
        "trust_good_reps",
        "trust_fair_reps",
        "trust_weak_reps",
        "hinge_trust_drop",
        "pain_stop_level",
    }
)


def change_rule(context: WorkContext, name: str, value: Any) -> Change:
    """Put a value in place of a default (None: back to the default)."""
    require(context.actor, Act.PLAN)
    old = getattr(context.rules, name)
    _write(context, name, value)
    before = {"name": name, "value": None if old == getattr(Rules(), name) else old}
    return remember(context, what="rule_changed", subject="rule", subject_id=context.squad_id, before=before)


@restores("rule")
def restore_rule(context: WorkContext, change: Change) -> None:
    """Undo: the value before is written again."""
    _write(context, change.before["name"], change.before["value"])


def _write(context: WorkContext, name: str, value: Any) -> None:
    row = RuleChange(squad_id=context.squad_id, name=name, value=value, by_id=context.actor.user_id, at=context.now)
    context.db.add(row)
    if name in OF_ESTIMATES:
        context.db.get_one(Squad, context.squad_id).recount_after = 0
    context.db.flush()


def recount(database: Database, squad_id: int) -> int:
    """Bring the estimates kept beside a squad's sets in line with its rules; returns how many sets were looked at."""
    count = 0
    while True:
        with database.writing() as db:
            seen = _piece(db, squad_id)
        if seen is None:
            return count
        count += seen


def unfinished(db: Session) -> list[int]:
    """Squads whose estimates are not all in line yet."""
    return list(db.scalars(select(Squad.id).where(Squad.recount_after.is_not(None))))


def _piece(db: Session, squad_id: int) -> int | None:
    """The next sets after those done already, each with its athlete's own rules; None where nothing is left."""
    squad = db.get_one(Squad, squad_id)
    if squad.recount_after is None:
        return None
    rules = rules_of(db, squad_id)
    if squad.forecasts_until is not None:
        return unsay_forecasts(db, squad, rules)
    if squad.recount_after < 0:
        return _next_athlete(db, squad, rules)
    rows = db.execute(
        select(SetEntry, Athlete)
        .join(Athlete, SetEntry.athlete_id == Athlete.id)
        .where(Athlete.squad_id == squad_id, SetEntry.standing, SetEntry.id > squad.recount_after)
        .order_by(SetEntry.id)
        .limit(PIECE)
    ).all()
    for entry, athlete in rows:
        put_estimate(entry, rules_for(athlete, rules))
    squad.recount_after = rows[-1][0].id if rows else -1
    db.flush()
    return len(rows)


def _next_athlete(db: Session, squad: Squad, rules: Rules) -> int | None:
    """When the sets are done: the beliefs of one athlete more, the last of whom `recount_after` names, less one."""
    after = -(squad.recount_after or -1) - 1
    mine = select(Athlete).where(Athlete.squad_id == squad.id, Athlete.id > after).order_by(Athlete.id).limit(1)
    athlete = db.scalars(mine).first()
    if athlete is None:
        squad.recount_after = None
        return None
    bring_all_up_to_date(db, athlete.id, rules_for(athlete, rules))
    squad.recount_after = -athlete.id - 1
    db.flush()
    return 0
