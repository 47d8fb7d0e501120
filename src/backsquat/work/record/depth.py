"""Another depth standard for one athlete and movement: a new record line."""

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.storage.models import DepthChoice
from backsquat.work.context import WorkContext
from backsquat.work.log.beliefs import bring_up_to_date
from backsquat.work.log.depth import DEPTHS
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of, rules_for

BOX_MM = (50, 900)


def choose_depth(
    context: WorkContext, athlete_id: int, movement_code: str, code: str, box_mm: int | None
) -> DepthChoice:
    """Another depth standard from today: a new record line, and a lower load expected."""
    require(context.actor, Act.KEEP_ATHLETES)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    movement = context.library.get(movement_code)
    known = DEPTHS | {movement.depth.code: movement.depth.words}
    if code not in known:
        raise ImpossibleInput(Problem("depth", "not_a_choice", {"choices": ", ".join(known.values())}))
    if code == "box" and (box_mm is None or not BOX_MM[0] <= box_mm <= BOX_MM[1]):
        raise ImpossibleInput(Problem("box_mm", "box_height"))
    choice = DepthChoice(
        athlete_id=athlete_id,
        movement=movement_code,
        code=code,
        words=f"box {box_mm} mm" if code == "box" else known[code],
        box_mm=box_mm if code == "box" else None,
        from_on=context.today,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(choice)
    context.db.flush()
    bring_up_to_date(context.db, athlete_id, movement_code, context.today, rules_for(athlete, context.rules))
    refresh_athlete(context, athlete_id)
    return choice
