"""Facts of an athlete: kept, and the plan follows (a newcomer's consent may open what was shut)."""

from backsquat.storage.models import Athlete
from backsquat.work.context import WorkContext
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.squad.athletes import AthleteFacts, save_athlete


def keep_athlete(context: WorkContext, facts: AthleteFacts, athlete_id: int | None = None) -> Athlete:
    """A new athlete (`athlete_id` None), or new facts for one."""
    athlete = save_athlete(context, facts, athlete_id)
    refresh_athlete(context, athlete.id)
    return athlete
