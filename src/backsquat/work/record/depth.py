"""Another depth standard for one athlete and movement: a new record line."""

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.rules import Rules
from backsquat.storage.models import DepthChoice
from backsquat.work.actor import Actor
from backsquat.work.library.movements import library_of
from backsquat.work.log.beliefs import bring_up_to_date
from backsquat.work.log.depth import DEPTHS
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of, rules_for

BOX_MM = (50, 900)


def choose_depth(
    db: Session, actor: Actor, athlete_id: int, movement_code: str, code: str, box_mm: int | None, rules: Rules
) -> DepthChoice:
    """Another depth standard from today: a new record line, and a lower load expected."""
    require(actor, Act.KEEP_ATHLETES)
    athlete = athlete_of(db, actor.squad_id, athlete_id)
    movement = library_of(db, actor.squad_id).get(movement_code)
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
        from_on=actor.today,
        by_id=actor.user_id,
        at=actor.now,
    )
    db.add(choice)
    db.flush()
    bring_up_to_date(db, athlete_id, movement_code, actor.today, rules_for(athlete, rules))
    refresh_athlete(db, actor, athlete_id, rules)
    return choice
