"""Limits of an athlete: from a day, until a day or until ended; the plan follows."""

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.movement import Family, Region
from backsquat.core.readiness.limits import ActiveLimit as LimitFacts
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.storage.models import Change, Limit
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.plan.replan import replan_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import core_limit
from backsquat.work.squad.athletes import athlete_of

LIMIT_KG = (0, 400)


def add_limit(context: WorkContext, athlete_id: int, facts: LimitFacts, stop_id: int | None = None) -> Limit:
    """A limit from a day on; the weeks to come follow it at once, as drafts."""
    require(context.actor, Act.TREAT)
    athlete_of(context.db, context.squad_id, athlete_id)
    _check_limit(context, facts)
    limit = Limit(
        athlete_id=athlete_id,
        scope=facts.scope.value,
        what=facts.what,
        kind=facts.kind.value,
        load_kg=facts.load_kg,
        words=facts.words,
        from_on=facts.from_on,
        until_on=facts.until_on,
        set_by=facts.set_by,
        stop_id=stop_id,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(limit)
    context.db.flush()
    remember(context, what="limit_set", subject="limit", subject_id=limit.id, before={"ended": True})
    replan_athlete(context, athlete_id, core_limit(limit).touches)
    return limit


def _check_limit(context: WorkContext, facts: LimitFacts) -> None:
    known = {
        Scope.MOVEMENT: set(context.library.movements),
        Scope.FAMILY: {family.value for family in Family},
        Scope.REGION: {region.value for region in Region},
    }
    found = []
    if facts.what not in known[facts.scope]:
        found.append(Problem("what", "unknown_what"))
    low, high = LIMIT_KG
    if facts.kind is LimitKind.LOAD and (facts.load_kg is None or not low <= facts.load_kg <= high):
        found.append(Problem("load_kg", "out_of_range", {"low": low, "high": high}))
    if facts.kind in (LimitKind.RANGE, LimitKind.SIDE) and not facts.words:
        found.append(Problem("words", "limit_needs", {"what": "for example to thigh level, or right side only"}))
    if facts.until_on and facts.until_on < facts.from_on:
        found.append(Problem("until_on", "until_before", {"first": facts.from_on.isoformat()}))
    if found:
        raise ImpossibleInput(*found)


def end_limit(context: WorkContext, limit_id: int) -> Change:
    """The limit holds no longer; the weeks to come follow."""
    require(context.actor, Act.TREAT)
    limit = context.db.get(Limit, limit_id)
    if limit is None or limit.ended:
        raise NotThere("limit")
    athlete_of(context.db, context.squad_id, limit.athlete_id)
    limit.ended = True
    change = remember(context, what="limit_ended", subject="limit", subject_id=limit.id, before={"ended": False})
    replan_athlete(context, limit.athlete_id, core_limit(limit).touches)
    return change


@restores("limit")
def restore_limit(context: WorkContext, change: Change) -> None:
    """Undo: ended or holding as before; the plan follows."""
    limit = context.db.get_one(Limit, change.subject_id)
    limit.ended = change.before["ended"]
    context.db.flush()
    replan_athlete(context, limit.athlete_id, core_limit(limit).touches)
