"""Writes to the order of a session: one move, one transaction, one undo; the floor has it once it is published."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.sessions.moves import Move, MoveKind, moved
from backsquat.core.sessions.order import places, second_of_superset
from backsquat.core.sessions.session import Item, Session
from backsquat.storage.models import Block, BlockSession, Change, Exercise
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext, library_of
from backsquat.work.journal import last_change, remember, restores
from backsquat.work.plan.blocks import ExerciseFacts, next_week, windowed_parameters
from backsquat.work.plan.cells import Placed, bring_back, place_drafts
from backsquat.work.plan.exercises import change_exercise, put_exercise
from backsquat.work.plan.fixes import one_set_less
from backsquat.work.plan.progression_settings import setting_of
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.plan.timed import exercises_in, held_session
from backsquat.work.policy import Act, require
from backsquat.work.sessions.arrange import mark_moved, put_in
from backsquat.work.sessions.blocks import block_of

KEPT = ("position", "superset", "circuit", "rest_s", "manner")  # of an exercise, beside its session and its role
MINUTES = (15, 180)


def arrange(context: WorkContext, session_id: int, move: Move) -> Change | None:
    """Do one move to a session; None where it changes nothing. ImpossibleInput where it cannot be done."""
    require(context.actor, Act.PLAN)
    held, block = held_session(context.db, context.squad_id, session_id)
    exercises = exercises_in(block, held, _week(block, held, context.actor))
    if move.what in (MoveKind.SETS, MoveKind.WINDOW, MoveKind.DAY):
        exercise = next((exercise for exercise in exercises if exercise.id == move.key), None)
        if exercise is None:
            raise NotThere("exercise")
        return _of_exercise(context, block, exercise, move)
    if move.what is MoveKind.SWAP:
        return _swap(context, block, held, exercises, move)
    before = _session_of(context, block, exercises)
    after = moved(before, move)
    known = {exercise.id: exercise for exercise in exercises}
    was = {str(exercise.id): _as_it_was(exercise) for exercise in exercises}
    for position, item in enumerate(after.items):
        _put(known[item.key], item, position)
    changed = [exercise for exercise in exercises if was[str(exercise.id)] != _as_it_was(exercise)]
    if not changed:
        return None
    mark_moved(context.db, block, changed, context.today)
    return _remember(context, block, held, {"exercises": was}, "session_arranged")


def _swap(context: WorkContext, block: Block, held: BlockSession, exercises: Sequence[Exercise], move: Move) -> Change:
    """Another movement in an exercise's stead, as a draft: the exercise goes out, one of its progression and place comes
    in.
    """
    exercise = next((exercise for exercise in exercises if exercise.id == move.key), None)
    if exercise is None or move.into is None or move.into.retired or exercise.ladder:
        raise NotThere("exercise")
    exercise.removed = True  # first: a block that is full may still change one for another
    context.db.flush()
    own = {name: value for name, value in exercise.parameters.items() if name not in PLACED}
    facts = replace(_as_facts(exercise), movement=move.into.code, parameters=own, variation="")
    new = put_exercise(context, block, replace(facts, circuit=exercise.circuit, rest_s=exercise.rest_s))
    put_in(context.db, block, new, held, exercise.position, context.today)
    mark_moved(context.db, block, [exercise], context.today)
    before = {"removed": {str(new.id): True, str(exercise.id): False}}
    return _remember(context, block, held, before, "exercise_swapped", new)


def _week(block: Block, held: BlockSession, actor: Actor) -> int:
    """The week whose order the coach is changing: the next one to come."""
    exercises = [exercise for exercise in block.exercises if exercise.session is held]
    if not exercises:
        raise NotThere("session")
    return max(next_week(block, exercise, actor.today) for exercise in exercises)


def _session_of(context: WorkContext, block: Block, exercises: Sequence[Exercise]) -> Session:
    """The order alone: what a move needs to know."""
    library = library_of(context.db, block.squad_id)
    return Session(
        tuple(
            Item(
                key=exercise.id,
                movement=library.get(exercise.movement),
                sets=setting_of(exercise).parameters.sets,
                reps=1,
                superset=exercise.superset,
                circuit=exercise.circuit,
                spare=exercise.spare,
                own_rest_s=exercise.rest_s,
            )
            for exercise in exercises
        )
    )


def _put(exercise: Exercise, item: Item, position: int) -> None:
    if item.spare != exercise.spare:
        exercise.role = ExerciseRole.SPARE if item.spare else ExerciseRole.ASSISTANCE
    exercise.superset, exercise.circuit, exercise.rest_s, exercise.position = (
        item.superset,
        item.circuit,
        item.own_rest_s,
        position,
    )


def _as_it_was(exercise: Exercise) -> dict[str, Any]:
    """An exercise's place, as the journal keeps it."""
    return {name: getattr(exercise, name) for name in KEPT} | {"role": exercise.role.value}


def _of_exercise(context: WorkContext, block: Block, exercise: Exercise, move: Move) -> Change:
    """A move that changes an exercise: one set less with the loads planned again, the usual window, another day."""
    if move.what is MoveKind.SETS:
        if exercise.ladder or setting_of(exercise).parameters.sets < 2:
            raise Refused("no_fix")
        return one_set_less(context, block, exercise)
    if move.what is MoveKind.DAY:
        held, _ = held_session(context.db, context.squad_id, move.to)
        change_exercise(context, exercise.id, replace(_as_facts(exercise), weekday=held.weekday))
    else:
        library = context.library
        mates = [one for one in block.exercises if one.session is exercise.session and not one.spare]
        work = [(library.get(one.movement), one.superset) for one in mates]
        place = places(work)[mates.index(exercise)]
        own = {name: value for name, value in exercise.parameters.items() if name not in PLACED}
        facts = replace(_as_facts(exercise), parameters=own)
        usual = windowed_parameters(facts, place, library, context.rules)
        if (exercise.session.supersets or context.rules.supersets) == "same" and second_of_superset(
            work, mates.index(exercise)
        ):
            usual["start_share"] = usual.get("start_share", 1.0) * context.rules.superset_second_share
        change_exercise(context, exercise.id, replace(facts, parameters=usual))
    change = last_change(context.db, context.squad_id, "exercises", block.id)
    if change is None:
        raise NotThere("change")
    return change


PLACED = ("low", "high", "placed", "tempo", "start_share")  # what a place gives


def _as_facts(exercise: Exercise) -> ExerciseFacts:
    return ExerciseFacts(
        exercise.weekday,
        exercise.movement,
        exercise.progression,
        dict(exercise.parameters),
        exercise.ladder,
        exercise.role,
        exercise.superset,
        exercise.variation,
    )


def change_manner(context: WorkContext, exercise_id: int, given: dict[str, Any]) -> Change | None:
    """How an exercise's movement is done: stance, lean, range, wedge, tempo, style. The loads to come follow, as drafts.

    What was decided after a session follows too, for it was decided of the other way; a coach's own number stays.
    """
    require(context.actor, Act.PLAN)
    exercise = context.db.get(Exercise, exercise_id)
    if exercise is None:
        raise NotThere("exercise")
    block = block_of(context.db, context.squad_id, exercise.block_id)
    manner = manner_from(given).to_plain()
    was = {str(exercise.id): _as_it_was(exercise)}
    if exercise.manner == manner:
        return None
    share = manner_from(exercise.manner).load_share(context.rules)
    exercise.manner = manner
    context.db.flush()
    mark_moved(context.db, block, [exercise], context.today)
    placed = Placed([], [])
    if manner_from(manner).load_share(context.rules) != share:
        scope = ReplanScope(exercise_ids=[exercise.id], over_decided=True)
        changes = replanned(context, block, scope)
        placed = place_drafts(context, [change.draft for change in changes])
    before = {"exercises": was, "cells": placed.replaced}
    return _remember(context, block, exercise.session, before, "manner_changed", exercise, count=len(placed.ids))


@dataclass(frozen=True)
class SessionFacts:
    """What a coach says of a session; `supersets` empty: as the squad's rule."""

    name: str = ""
    minutes: int = 60
    supersets: str = ""
    hips_first: bool = False


def change_session(context: WorkContext, session_id: int, facts: SessionFacts) -> Change | None:
    """A session's name, its minutes, what its supersets are for, and whether the hips lead."""
    require(context.actor, Act.PLAN)
    held, block = held_session(context.db, context.squad_id, session_id)
    if not MINUTES[0] <= facts.minutes <= MINUTES[1]:
        raise ImpossibleInput(Problem("minutes", "parameter_range", {"name": "Minutes", "low": 15, "high": 180}))
    if facts.supersets not in ("", "apart", "same"):
        raise ImpossibleInput(Problem("supersets", "not_a_choice", {"choices": "apart, same"}))
    was = _facts(held)
    held.name, held.minutes = facts.name.strip()[:40], facts.minutes
    held.supersets, held.hips_first = facts.supersets, facts.hips_first
    context.db.flush()
    if was == _facts(held):
        return None
    return _remember(context, block, held, {"held": was}, "session_changed")


def repeat_session(context: WorkContext, session_id: int, weekday: int) -> Change:
    """The same work on another day of the week as well, as a draft; what climbs by exposure goes on from day to day."""
    require(context.actor, Act.PLAN)
    held, block = held_session(context.db, context.squad_id, session_id)
    if weekday == held.weekday or not 0 <= weekday <= 6:
        raise ImpossibleInput(Problem("day", "another_day"))
    exercises = exercises_in(block, held, _week(block, held, context.actor))
    there = _last_superset(block, weekday)
    new = []
    for exercise in exercises:
        facts = replace(_as_facts(exercise), weekday=weekday, superset=exercise.superset and exercise.superset + there)
        facts = replace(facts, circuit=exercise.circuit, rest_s=exercise.rest_s, manner=dict(exercise.manner))
        new.append(put_exercise(context, block, facts))
    before = {"removed": {str(exercise.id): True for exercise in new}}
    return _remember(context, block, held, before, "session_repeated")


def add_exercises(context: WorkContext, block_id: int, wanted: Sequence[ExerciseFacts]) -> Change:
    """Put these exercises at the end of their days and plan them as drafts, all or none; one undo takes them out again.

    Their supersets are counted on from those that stand there.
    """
    require(context.actor, Act.PLAN)
    block = block_of(context.db, context.squad_id, block_id)
    there = {day: _last_superset(block, day) for day in {facts.weekday for facts in wanted}}
    new = [
        put_exercise(context, block, replace(facts, superset=facts.superset and facts.superset + there[facts.weekday]))
        for facts in wanted
    ]
    before = {"removed": {str(exercise.id): True for exercise in new}}
    return _remember(context, block, new[0].session, before, "exercises_added", count=len(new))


def _last_superset(block: Block, weekday: int) -> int:
    return max((exercise.superset for exercise in block.exercises if exercise.weekday == weekday), default=0)


def _facts(held: BlockSession) -> dict[str, Any]:
    return {name: getattr(held, name) for name in ("name", "minutes", "supersets", "hips_first")}


def _remember(
    context: WorkContext,
    block: Block,
    held: BlockSession,
    before: dict[str, Any],
    what: str,
    exercise: Exercise | None = None,
    **facts: Any,
) -> Change:
    context.db.flush()
    context.db.expire(block, ["every_exercise"])
    facts |= {"day": held.weekday}
    if exercise is not None:
        facts |= {"movement": exercise.movement, "ladder": exercise.ladder}
    before = {"session": held.id} | before
    return remember(context, what=what, subject="sessions", subject_id=block.id, before=before, facts=facts)


@restores("sessions")
def restore_session(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: the session and its exercises as they were; answers with what stood there."""
    held, block = held_session(context.db, context.squad_id, change.before["session"])
    was: dict[str, Any] = {"session": held.id}
    if "held" in change.before:
        was["held"] = _facts(held)
        for name, value in change.before["held"].items():
            setattr(held, name, value)
    exercises = {str(exercise.id): exercise for exercise in block.every_exercise}
    was["cells"] = bring_back(context, block.id, change.before.get("cells", [])).replaced
    was["removed"] = {key: exercises[key].removed for key in change.before.get("removed", {}) if key in exercises}
    for key, gone in change.before.get("removed", {}).items():
        exercises[key].removed = gone
    was["exercises"] = {
        key: _as_it_was(exercises[key]) for key in change.before.get("exercises", {}) if key in exercises
    }
    for key, values in change.before.get("exercises", {}).items():
        exercise = exercises[key]
        for name in KEPT[1:]:
            setattr(exercise, name, values[name])
        exercise.role, exercise.position = ExerciseRole(values["role"]), values["position"]
    touched = {*change.before.get("removed", {}), *change.before.get("exercises", {})}
    mark_moved(context.db, block, [exercises[key] for key in touched if key in exercises], context.today)
    context.db.expire(block, ["every_exercise"])
    return was
