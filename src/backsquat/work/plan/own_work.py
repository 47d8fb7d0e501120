"""What one athlete does in the place of the squad's work: another movement, nothing, or the road to the bar.

It is kept beside the athlete's own progression of that place (`OWN_MOVEMENT` in progression_settings.py), so that
planning again
knows of it; what may not be done has the most alike in its stead, as anywhere. The loads follow as drafts.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.readiness.road import road_sessions
from backsquat.storage.models import Block, Change, Exercise
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.plan.blocks import next_week
from backsquat.work.plan.cells import bring_back, place_drafts, take_out
from backsquat.work.plan.progression_settings import (
    ON_THE_ROAD,
    OWN_MOVEMENT,
    OWN_SETS,
    OwnWork,
    ProgressionSetting,
    as_plain,
    athlete_settings,
    put_setting,
    setting_of,
)
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_one
from backsquat.work.sessions.blocks import block_of, coming_blocks, exercise_of
from backsquat.work.squad.athletes import athlete_of

SETS_MOST = 8
OWN = (OWN_MOVEMENT, OWN_SETS, ON_THE_ROAD)


def give_work(context: WorkContext, exercise_id: int, athlete_id: int, work: OwnWork, from_week: int) -> Change:
    """Another movement (or nothing) for one athlete in an exercise's place, from a week of the block (from 0) on.

    A movement that is not open to the athlete is refused; one that closes later has the most alike in its stead.
    """
    require(context.actor, Act.PLAN)
    exercise, block = exercise_of(context.db, context.squad_id, exercise_id)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    if not 0 <= work.sets <= SETS_MOST:
        raise ImpossibleInput(Problem("sets", "sets_range", {"most": SETS_MOST}))
    if work.movement:
        context.library.get(work.movement)
        ready = readiness_one(context.db, athlete, context.today, context.rules)
        if not ready.may(work.movement):
            raise ImpossibleInput(Problem("movement", "not_open", {"name": athlete.name}))
    first = min(max(from_week, next_week(block, exercise, context.today)), block.weeks - 1)
    return _give(context, block, athlete_id, {exercise: (work, first)}, "own_work_given")


def take_work(context: WorkContext, exercise_id: int, athlete_id: int) -> Change:
    """The athlete does the exercise's own movement again."""
    require(context.actor, Act.PLAN)
    exercise, block = exercise_of(context.db, context.squad_id, exercise_id)
    setting = athlete_settings(context.db, [exercise.id]).get((exercise.id, athlete_id))
    if setting is None or setting.own_work is None:
        raise NotThere("athlete")
    return _give(context, block, athlete_id, {exercise: None}, "own_work_ended")


def put_on_road(context: WorkContext, athlete_id: int) -> Change:
    """The road to the bar beside the squad: in every session to come a few movements of it in the places of the others.

    What else the session has is left out for the athlete. It ends by itself where the readiness check opens.
    """
    require(context.actor, Act.PLAN)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    ready = readiness_one(context.db, athlete, context.today, context.rules)
    view = ready.view(ReadinessCheck.BARBELL)
    block = next(iter(coming_blocks(context)), None)
    if block is None:
        raise Refused("no_block")
    held = [one for one in block.sessions if any(exercise.session_id == one.id for exercise in block.exercises)]
    laid = road_sessions(view.lines, ready.may, len(held), context.rules)
    if view.open or not any(laid):
        raise Refused("no_road")
    wanted: dict[Exercise, tuple[OwnWork, int] | None] = {}
    for one, items in zip(held, laid, strict=True):
        exercises = sorted(
            (exercise for exercise in block.exercises if exercise.session_id == one.id),
            key=lambda exercise: exercise.position,
        )
        for n, exercise in enumerate(exercises):
            item = items[n] if n < len(items) else None
            work = OwnWork(item.movement, item.sets, on_the_road=True) if item else OwnWork(on_the_road=True)
            wanted[exercise] = work, next_week(block, exercise, context.today)
    return _give(context, block, athlete_id, wanted, "put_on_road")


def take_off_road(context: WorkContext, athlete_id: int) -> Change:
    """Back to what the squad does, as far as it is open: by the coach's word, whatever the check says."""
    require(context.actor, Act.PLAN)
    for block in coming_blocks(context):
        exercises = [exercise for exercise in block.exercises if exercise.id in _on_road(context.db, block, athlete_id)]
        if exercises:
            return _give(context, block, athlete_id, dict.fromkeys(exercises), "taken_off_road")
    raise NotThere("athlete")


def is_on_road(context: WorkContext, athlete_id: int) -> bool:
    """Whether the athlete follows the road in a block that is not over."""
    return any(_on_road(context.db, block, athlete_id) for block in coming_blocks(context))


def _on_road(db: Session, block: Block, athlete_id: int) -> set[int]:
    settings = athlete_settings(db, [exercise.id for exercise in block.exercises])
    works = {exercise_id: one.own_work for (exercise_id, whose), one in settings.items() if whose == athlete_id}
    return {exercise_id for exercise_id, work in works.items() if work and work.on_the_road}


def _give(
    context: WorkContext,
    block: Block,
    athlete_id: int,
    wanted: Mapping[Exercise, tuple[OwnWork, int] | None],
    what: str,
) -> Change:
    """Keep what is wanted of each exercise (None: the exercise's own movement), plan it, and remember the way back."""
    before = athlete_settings(context.db, [exercise.id for exercise in wanted])
    was = {str(exercise.id): as_plain(before.get((exercise.id, athlete_id))) for exercise in wanted}
    for exercise, given in wanted.items():
        put_setting(
            context, exercise.id, athlete_id, _with_work(exercise, before.get((exercise.id, athlete_id)), given)
        )
    scope = ReplanScope([athlete_id], [exercise.id for exercise in wanted], over_decided=True, keep_own=False)
    changes = replanned(context, block, scope)
    placed = place_drafts(context, [change.draft for change in changes])
    first = next(iter(wanted))
    return remember(
        context,
        what=what,
        subject="own_work",
        subject_id=block.id,
        before={"athlete": athlete_id, "settings": was, "cells": placed.replaced, "new": placed.new},
        facts={
            "movement": first.movement,
            "ladder": first.ladder,
            "name": athlete_of(context.db, context.squad_id, athlete_id).name,
        },
    )


def _with_work(
    exercise: Exercise, now: ProgressionSetting | None, given: tuple[OwnWork, int] | None
) -> ProgressionSetting | None:
    """The athlete's setting with other work; None where nothing of their own is left in it."""
    base = now or setting_of(exercise)
    rest = {name: value for name, value in base.given.items() if name not in OWN}
    if given is None:
        return None if (base.code, rest) == (exercise.progression, exercise.parameters) else replace(base, given=rest)
    work, first = given
    own = {OWN_MOVEMENT: work.movement, OWN_SETS: work.sets, ON_THE_ROAD: work.on_the_road}
    return replace(base, given=rest | own, from_week=first)


@restores("own_work")
def restore_own_work(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: the athlete's settings and the numbers as they were; answers with what was there."""
    block = block_of(context.db, context.squad_id, change.subject_id)
    athlete_id, before = change.before["athlete"], change.before
    ids: Sequence[int] = [int(exercise_id) for exercise_id in before["settings"]]
    now = athlete_settings(context.db, ids)
    was = {str(exercise_id): as_plain(now.get((exercise_id, athlete_id))) for exercise_id in ids}
    for exercise_id, given in before["settings"].items():
        put_setting(context, int(exercise_id), athlete_id, ProgressionSetting(*given) if given else None)
    taken = take_out(context, block.id, before.get("new", []))
    placed = bring_back(context, block.id, before["cells"])
    return {"athlete": athlete_id, "settings": was, "cells": placed.replaced + taken, "new": placed.new}
