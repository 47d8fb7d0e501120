"""Moving on the ladders. Rows are only added, each with its reason."""

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.movement import Movement
from backsquat.core.readiness.levels import fitting, log_placements, placements
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.storage.models import Change, LevelMove
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.plan.replan import publish_of_athlete, refresh_athlete
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import proven_days, readiness_one
from backsquat.work.readiness.refuse import refuse
from backsquat.work.squad.athletes import athlete_of


def move_level(
    context: WorkContext,
    athlete_id: int,
    ladder_code: str,
    movement_code: str,
    *,
    way: str,
    reason: str,
    facts: dict[str, Any] | None = None,
) -> tuple[LevelMove, Change]:
    """Put an athlete on the level of a movement. Refused where the movement may not be done now."""
    require(context.actor, Act.SCREEN, Act.TREAT)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    library = context.library
    ladder, movement = library.ladders.get(ladder_code), library.get(movement_code)
    level = ladder.level_of(movement_code) if ladder else None
    if ladder is None or level is None:
        raise NotThere("level")
    if not reason.strip():
        raise ImpossibleInput(Problem("reason", "reason_missing"))
    ready = readiness_one(context.db, athlete, context.today, context.rules)
    refuse(ready, movement, leaving=(Reason.AWAY, Reason.BARRED, Reason.UNEARNED))
    if movement.takes_load and ready.lacks_consent:
        raise Refused("consent", name=athlete.name)
    before = ready.levels.get(ladder_code)
    if before and level < (ready.level_on(ladder) or 0):
        way = "easier"  # whatever it was called: a readiness check open since does not lift them over it
    move = LevelMove(
        athlete_id=athlete_id,
        ladder=ladder_code,
        level=level,
        movement=movement_code,
        way=way,
        reason=reason.strip()[:200],
        facts=facts or {},
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(move)
    context.db.flush()
    change = remember(
        context,
        what="level_moved",
        subject="level",
        subject_id=move.id,
        before={"movement": before.movement if before else None},
    )
    return move, change


def suggested_levels(db: Session, ready: Readiness) -> dict[str, tuple[Movement, str]]:
    """Ladder → where the log or the screens would place the athlete in this room, and why.

    What the log proves goes before a screen: who lifts it is no beginner. A hinge seen to fail is not placed by the log.
    """
    codes = [code for ladder in ready.library.ladders.values() for level in ladder.levels for code in level]
    proven = proven_days(db, [ready.person.id], codes, ready.today, ready.rules).get(ready.person.id, {})
    return suggested_from(ready, proven)


def suggested_from(ready: Readiness, proven: Mapping[str, int]) -> dict[str, tuple[Movement, str]]:
    """The same from the days with clean sets of each movement, where they were read for many at once."""
    library = ready.library
    by_log = log_placements(proven, library.ladders, ready.rules)
    failed = {ladder for screen, ladder in FAILED.items() if (seen := ready.known.get((screen, ""))) and not seen.value}
    places = [*placements(ready.known, ready.opened, ready.rules), *(one for one in by_log if one.ladder not in failed)]
    return {
        found.ladder: (library.get(level[1]), found.reason)
        for found in places
        if (level := fitting(found, library.ladders, ready.may_earn))
    }


FAILED = {"standing_hinge": "hinge", "standing_squat": "squat_to_bar"}  # a screen that failed says more than the log


def move_and_follow(
    context: WorkContext, athlete_id: int, ladder_code: str, movement_code: str, *, way: str, reason: str
) -> tuple[LevelMove, Change]:
    """Another level on somebody's word; what is planned follows, and the floor sees it at once."""
    moved = move_level(context, athlete_id, ladder_code, movement_code, way=way, reason=reason)
    refresh_athlete(context, athlete_id)
    publish_of_athlete(context, athlete_id, "level moved")
    return moved


def place_by_screens(context: WorkContext, athlete_id: int) -> int:
    """Onto every level the screens lead to, on ladders where the athlete stands on none yet. How many."""
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    ready = readiness_one(context.db, athlete, context.today, context.rules)
    todo = [
        (ladder, *found) for ladder, found in suggested_levels(context.db, ready).items() if ladder not in ready.levels
    ]
    for ladder, movement, reason in todo:
        move_level(context, athlete_id, ladder, movement.code, way="placed", reason=f"screens:{reason}")
    refresh_athlete(context, athlete_id)
    publish_of_athlete(context, athlete_id, "placed on the ladders")
    return len(todo)


@restores("level")
def restore_level(context: WorkContext, change: Change) -> None:
    """Undo: the level before is written again, so that the moves stay on record."""
    move = context.db.get_one(LevelMove, change.subject_id)
    athlete_of(context.db, context.squad_id, move.athlete_id)
    ladder = context.library.ladders[move.ladder]
    movement = change.before["movement"] or ladder.levels[0][0]
    context.db.add(
        LevelMove(
            athlete_id=move.athlete_id,
            ladder=move.ladder,
            level=ladder.level_of(movement) or 0,
            movement=movement,
            way="taken back",
            reason="undone",
            facts={},
            by_id=context.actor.user_id,
            at=context.now,
        )
    )
