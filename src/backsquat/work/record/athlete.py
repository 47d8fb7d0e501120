"""Facts of an athlete: kept, and the plan follows (a newcomer's consent may open what was shut)."""

from sqlalchemy.orm import Session

from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete
from backsquat.work.actor import Actor
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.squad.athletes import AthleteFacts, save_athlete


def keep_athlete(
    db: Session, actor: Actor, facts: AthleteFacts, rules: Rules, athlete_id: int | None = None
) -> Athlete:
    """A new athlete (`athlete_id` None), or new facts for one."""
    athlete = save_athlete(db, actor, facts, athlete_id)
    refresh_athlete(db, actor, athlete.id, rules)
    return athlete
