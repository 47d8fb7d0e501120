"""Writes to a block's exercises: putting one in, taking one out, another progression or day, for all or for single
athletes.
"""

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Any

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.progression.progressions import of_a_movement
from backsquat.core.sessions.order import places
from backsquat.library.templates import EXERCISES_MOST
from backsquat.storage.models import Block, Change, Exercise
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.plan.blocks import (
    ExerciseFacts,
    exercise_row,
    in_season,
    movement_code,
    next_week,
    plan_exercise,
    windowed_parameters,
)
from backsquat.work.plan.cells import bring_back, place_drafts
from backsquat.work.plan.progression_settings import (
    OWN_MANNER,
    AthleteSettings,
    ProgressionSetting,
    as_plain,
    athlete_settings,
    put_setting,
    setting_of,
)
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.policy import Act, require
from backsquat.work.sessions.arrange import mark_moved, put_in
from backsquat.work.sessions.blocks import block_of, exercise_of, session_on
from backsquat.work.squad.athletes import athlete_of, squad_athletes

CHANGEABLE = ("from_week", "progression", "parameters", "role", "superset", "variation")


def add_exercise(context: WorkContext, block_id: int, facts: ExerciseFacts) -> Exercise:
    """Put one more exercise at the end of its day and plan it as a draft. Undo takes it out again."""
    require(context.actor, Act.PLAN)
    block = block_of(context.db, context.squad_id, block_id)
    exercise = put_exercise(context, block, facts)
    _remember(context, exercise, "exercise_added", {"removed": True})
    return exercise


def put_exercise(context: WorkContext, block: Block, facts: ExerciseFacts) -> Exercise:
    """Put an exercise at the end of its day and plan it; whoever calls keeps the way back."""
    if len(block.exercises) >= EXERCISES_MOST:
        raise ImpossibleInput(Problem("movement", "too_many_exercises", {"most": EXERCISES_MOST}))
    library = context.library
    day = [
        (library.get(exercise.movement), exercise.superset)
        for exercise in block.exercises
        if exercise.weekday == facts.weekday
    ]
    place = places([*day, (library.get(movement_code(facts, library)), facts.superset)])[-1]
    exercise = exercise_row(facts, place, library, context.rules)
    if block.in_season:
        exercise.parameters = in_season(exercise.progression, exercise.parameters, context.rules)
    exercise.position = 1 + max((other.position for other in block.every_exercise), default=-1)
    exercise.session = session_on(block, facts.weekday)
    exercise.session_from = exercise.from_week = next_week(block, exercise, context.today)
    block.every_exercise.append(exercise)
    context.db.flush()
    plan_exercise(context, block, exercise)
    return exercise


def remove_exercise(context: WorkContext, exercise_id: int) -> Block:
    """Take an exercise out of the block: what was logged stays, what was planned is shown no more."""
    require(context.actor, Act.PLAN)
    exercise, block = exercise_of(context.db, context.squad_id, exercise_id)
    if len(block.exercises) <= 1:
        raise ImpossibleInput(Problem("exercise", "last_exercise"))
    exercise.removed = True
    mark_moved(context.db, block, [exercise], context.today)
    _remember(context, exercise, "exercise_removed", {"removed": False})
    return block


def change_exercise(context: WorkContext, exercise_id: int, facts: ExerciseFacts) -> Exercise:
    """Another progression, day, role or parameters. The loads follow when the coach accepts the plan again.

    Another day holds from the first week that has neither passed nor begun, and on the floor once it is
    published; refused where no such week is left.
    """
    require(context.actor, Act.PLAN)
    exercise, block = exercise_of(context.db, context.squad_id, exercise_id)
    values = {name: getattr(exercise, name) for name in CHANGEABLE}
    before = {"values": values, "places": _places([exercise])}
    held = session_on(block, facts.weekday)
    if held is not exercise.session:
        put_in(context.db, block, exercise, held, exercise.position, context.today)
    exercise.role, exercise.superset, exercise.variation = facts.role, facts.superset, facts.variation
    if not exercise.ladder and exercise.progression != facts.progression:
        exercise.progression, exercise.from_week = facts.progression, next_week(block, exercise, context.today)
    exercise.parameters = dict(facts.parameters)
    context.db.flush()
    mark_moved(context.db, block, [exercise], context.today)
    _remember(context, exercise, "exercise_changed", before)
    return exercise


def usual_parameters(context: WorkContext, block: Block, exercise: Exercise, progression: str) -> dict[str, Any]:
    """What another progression is given in an exercise where nobody says more: its usual window, in season its fewer
    sets.
    """
    library = context.library
    day = [one for one in block.exercises if one.session_id == exercise.session_id]
    place = places([(library.get(one.movement), one.superset) for one in day])[day.index(exercise)]
    facts = ExerciseFacts(exercise.weekday, exercise.movement, progression, {}, "", exercise.role, exercise.superset)
    given = windowed_parameters(facts, place, library, context.rules)
    return in_season(progression, given, context.rules) if block.in_season else given


def give_setting(
    context: WorkContext, exercise_id: int, athlete_ids: Collection[int], progression: str, given: dict[str, Any]
) -> Exercise:
    """Another progression, or other parameters, for these athletes in an exercise; the others keep the exercise's.

    The loads follow when the coach accepts the plan again.
    """
    require(context.actor, Act.PLAN)
    exercise, block = exercise_of(context.db, context.squad_id, exercise_id)
    known = {athlete.id for athlete in squad_athletes(context.db, context.squad_id)}
    wanted = sorted(set(athlete_ids) & known)
    if not wanted:
        raise ImpossibleInput(Problem("athlete", "nobody_chosen"))
    if exercise.ladder or not of_a_movement(progression):
        raise NotThere("progression")
    before, first = athlete_settings(context.db, [exercise.id]), next_week(block, exercise, context.today)
    for athlete_id in wanted:
        now = before.get((exercise.id, athlete_id)) or setting_of(exercise)
        own = {OWN_MANNER: now.given[OWN_MANNER]} if OWN_MANNER in now.given else {}
        setting = ProgressionSetting(progression, own | given, now.from_week if now.code == progression else first)
        put_setting(context, exercise.id, athlete_id, setting)
    _remember_settings(context, exercise, wanted, before)
    return exercise


def give_manner(context: WorkContext, exercise_id: int, athlete_id: int, given: dict[str, Any]) -> Exercise:
    """How one athlete does an exercise's movement, where that is not the exercise's way; the progression stays what it was.

    The loads to come follow, as drafts.
    """
    manner = manner_from(given).to_plain()
    require(context.actor, Act.PLAN)
    exercise, block = exercise_of(context.db, context.squad_id, exercise_id)
    if exercise.ladder:
        raise NotThere("progression")
    before = athlete_settings(context.db, [exercise.id])
    now = before.get((exercise.id, athlete_of(context.db, context.squad_id, athlete_id).id)) or setting_of(exercise)
    put_setting(context, exercise.id, athlete_id, replace(now, given={**now.given, OWN_MANNER: manner}))
    scope = ReplanScope([athlete_id], [exercise.id], over_decided=True)
    changes = replanned(context, block, scope)
    placed = place_drafts(context, [change.draft for change in changes])
    was = {"settings": {str(athlete_id): as_plain(before.get((exercise.id, athlete_id)))}, "cells": placed.replaced}
    _remember(context, exercise, "setting_changed", was)
    return exercise


def take_setting(context: WorkContext, exercise_id: int, athlete_id: int) -> Exercise:
    """The athlete follows the exercise's progression again."""
    require(context.actor, Act.PLAN)
    exercise, _block = exercise_of(context.db, context.squad_id, exercise_id)
    before = athlete_settings(context.db, [exercise.id])
    if (exercise.id, athlete_id) not in before:
        raise NotThere("athlete")
    put_setting(context, exercise.id, athlete_id, None)
    _remember_settings(context, exercise, [athlete_id], before)
    return exercise


def _remember_settings(
    context: WorkContext, exercise: Exercise, athlete_ids: Sequence[int], before: AthleteSettings
) -> None:
    was = {str(athlete_id): as_plain(before.get((exercise.id, athlete_id))) for athlete_id in athlete_ids}
    _remember(context, exercise, "setting_changed", {"settings": was})


def move_exercise(context: WorkContext, exercise_id: int, by: int) -> Change | None:
    """One earlier (−1) or later (1) in its session, on the floor once it is published; None at the end of it."""
    require(context.actor, Act.PLAN)
    exercise, block = exercise_of(context.db, context.squad_id, exercise_id)
    same = [other for other in block.exercises if other.session_id == exercise.session_id]
    if exercise not in same:  # taken out meanwhile
        raise Refused("exercise_gone")
    here = same.index(exercise)
    if not 0 <= here + by < len(same):
        return None
    other = same[here + by]
    before = {"places": _places([exercise, other])}
    mine, its = other.position, exercise.position
    put_in(context.db, block, exercise, exercise.session, mine + (by if mine == its else 0), context.today)
    put_in(context.db, block, other, other.session, its, context.today)
    context.db.expire(block, ["every_exercise"])
    return _remember(context, exercise, "exercise_moved", before)


def _places(exercises: Sequence[Exercise]) -> dict[str, list[int]]:
    """Where exercises stand, as the journal keeps it."""
    return {str(exercise.id): [exercise.session_id, exercise.position] for exercise in exercises}


def _remember(context: WorkContext, exercise: Exercise, what: str, before: dict[str, Any]) -> Change:
    facts = {"movement": exercise.movement, "ladder": exercise.ladder}
    return remember(
        context,
        what=what,
        subject="exercises",
        subject_id=exercise.block_id,
        before=before | {"exercise": exercise.id},
        facts=facts,
    )


@restores("exercises")
def restore_exercise(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: the exercise, its single athletes' progressions and the cells a fix replaced; answers with what
    was.
    """
    exercise, block = exercise_of(context.db, context.squad_id, change.before["exercise"])
    before, was = change.before, dict[str, Any](exercise=exercise.id)
    was["cells"] = bring_back(context, block.id, before.get("cells", [])).replaced
    was["settings"] = _give_back(context, exercise, before.get("settings", {}))
    was["values"] = {name: getattr(exercise, name) for name in before.get("values", {})}
    for name, value in before.get("values", {}).items():
        setattr(exercise, name, ExerciseRole(value) if name == "role" else value)
    moved = [other for other in block.every_exercise if str(other.id) in before.get("places", {})]
    was["places"] = _places(moved)
    sessions = {held.id: held for held in block.sessions}
    for other in moved:
        session_id, position = before["places"][str(other.id)]
        put_in(context.db, block, other, sessions[session_id], position, context.today)
    was["removed"], exercise.removed = exercise.removed, before.get("removed", exercise.removed)
    mark_moved(context.db, block, [exercise], context.today)
    context.db.expire(block, ["every_exercise"])
    return was


def _give_back(context: WorkContext, exercise: Exercise, settings: dict[str, Any]) -> dict[str, Any]:
    """The single athletes' progressions as they were; answers with those they replace."""
    now = athlete_settings(context.db, [exercise.id])
    for athlete_id, given in settings.items():
        put_setting(context, exercise.id, int(athlete_id), ProgressionSetting(*given) if given else None)
    return {athlete_id: as_plain(now.get((exercise.id, int(athlete_id)))) for athlete_id in settings}
