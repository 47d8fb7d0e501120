"""Fixes of the week check: what one click would do, and doing it as a draft with one undo."""

from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.findings import Finding
from backsquat.core.movements.ladder import rigged
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.cell import ExerciseRole
from backsquat.storage.models import Block, Change, Exercise
from backsquat.work.context import WorkContext, library_of
from backsquat.work.journal import last_change, remember
from backsquat.work.plan.blocks import ExerciseFacts
from backsquat.work.plan.cells import place_drafts
from backsquat.work.plan.exercises import add_exercise
from backsquat.work.plan.progression_settings import as_plain, athlete_settings, put_setting, setting_of
from backsquat.work.plan.replan import ReplanScope, replanned
from backsquat.work.policy import Act, require
from backsquat.work.rooms.rooms import room_equipment
from backsquat.work.sessions.blocks import block_of

ADDED: dict[str, tuple[tuple[str, ...], dict[str, Any]]] = {  # fix → movements by choice, parameters
    "add_curl": (("ball_curl", "lying_curl", "slider_curl"), {"low": 12, "high": 20, "sets": 3}),
    "add_short_curl": (("lying_curl", "standing_curl", "ball_curl"), {"low": 8, "high": 15, "sets": 3}),
    "add_squat": (("back_squat", "goblet_squat"), {"low": 6, "high": 10, "sets": 3}),
    "add_hinge": (("romanian_deadlift", "kettlebell_deadlift"), {"low": 8, "high": 12, "sets": 3}),
    "add_back": (("back_extension",), {"low": 10, "high": 15, "sets": 2}),
}  # fmt: skip


FOR_MUSCLE: dict[str, tuple[tuple[str, ...], dict[str, Any]]] = {
    "hamstrings": (("ball_curl", "lying_curl", "slider_curl"), {"low": 12, "high": 20, "sets": 3}),
    "quads": (("knee_extension", "leg_press", "goblet_squat"), {"low": 10, "high": 15, "sets": 3}),
    "glutes": (("bench_thrust_held", "bench_thrust", "floor_bridge"), {"low": 8, "high": 15, "sets": 3}),
    "adductors": (("side_squat", "adductor_shift", "goblet_side_squat"), {"low": 8, "high": 12, "sets": 3}),
    "calves": (("calf_raise",), {"low": 12, "high": 20, "sets": 3}),
}


@dataclass(frozen=True)
class ProposedFix:
    """What one click would do: `added_sets` of a movement put in, or (0) one set less of it."""

    movement: Movement
    added_sets: int


def proposed(db: Session, block: Block, finding: Finding) -> ProposedFix | None:
    """What one click would do; None where nothing sensible can be done."""
    library = library_of(db, block.squad_id)
    if finding.fix in ADDED or finding.fix == "more_sets":
        movement = _to_add(db, block, finding, library)
        return ProposedFix(movement, int(_added_parameters(finding)["sets"])) if movement else None
    exercise = _exercise_to_trim(block, finding, library)
    return ProposedFix(library.get(exercise.movement), 0) if exercise else None


def fix(context: WorkContext, block_id: int, finding: Finding) -> Change:
    """Put the proposed movement in, or take a set off, and plan it; one undo takes all of it back."""
    require(context.actor, Act.PLAN)
    block = block_of(context.db, context.squad_id, block_id)
    library = context.library
    if finding.fix in ADDED or finding.fix == "more_sets":
        movement = _to_add(context.db, block, finding, library)
        if movement is None:
            raise Refused("no_fix")
        facts = ExerciseFacts(
            _lightest_day(block),
            movement.code,
            "window",
            dict(_added_parameters(finding)),
            role=ExerciseRole.ASSISTANCE,
        )
        add_exercise(context, block.id, facts)
        change = last_change(context.db, context.squad_id, "exercises", block.id)
        assert change is not None  # add_exercise has just made it
        return change
    exercise = _exercise_to_trim(block, finding, library)
    if exercise is None:
        raise Refused("no_fix")
    return one_set_less(context, block, exercise)


def _added_parameters(finding: Finding) -> dict[str, Any]:
    """Parameters of what a fix adds."""
    return ADDED[finding.fix][1] if finding.fix in ADDED else FOR_MUSCLE[str(finding.facts["muscle"])][1]


def _to_add(db: Session, block: Block, finding: Finding, library: Library) -> Movement | None:
    """The first choice this room can rig that is not in the block yet."""
    muscle = str(finding.facts.get("muscle", ""))
    choices = ADDED[finding.fix][0] if finding.fix in ADDED else FOR_MUSCLE.get(muscle, ((), {}))[0]
    here = {exercise.movement for exercise in block.exercises if not exercise.ladder}
    equipment = room_equipment(db, block.squad_id)
    known = [library.movements[code] for code in choices if code in library.movements]
    return next((m for m in known if m.code not in here and not m.retired and not rigged(m, equipment)), None)


def _lightest_day(block: Block) -> int:
    """The training day with the fewest exercises."""
    days = sorted({exercise.weekday for exercise in block.exercises})
    return min(days, key=lambda day: sum(exercise.weekday == day for exercise in block.exercises))


def _exercise_to_trim(block: Block, finding: Finding, library: Library) -> Exercise | None:
    """The exercise of most sets among those that make the finding, main lifts last; none with a single set left."""

    def concerned(exercise: Exercise) -> bool:
        movement, facts = library.get(exercise.movement), finding.facts
        if "day" in facts and exercise.weekday != facts["day"] and finding.code != "back_running":
            return False
        if finding.fix == "fewer_hinge_sets":
            return movement.family is Family.HINGE
        if finding.fix == "fewer_back_sets":
            return movement.back_index > 0
        if finding.fix == "fewer_strain_sets":
            return (movement.knee_strain if facts["region"] == "knee" else movement.groin_strain) > 0
        return facts.get("muscle") in (*movement.prime, *movement.helper)

    exercises = [
        exercise
        for exercise in block.exercises
        if not exercise.ladder and setting_of(exercise).parameters.sets > 1 and concerned(exercise)
    ]

    def worth(exercise: Exercise) -> tuple[bool, bool, int, int]:
        """No main lift where another will do; what trains the muscle itself before what only helps."""
        direct = finding.facts.get("muscle") in library.get(exercise.movement).prime
        return exercise.role is not ExerciseRole.MAIN, direct, setting_of(exercise).parameters.sets, exercise.id

    return max(exercises, key=worth, default=None)


def one_set_less(context: WorkContext, block: Block, exercise: Exercise) -> Change:
    """For everybody, whichever progression they follow there; who is down to one set keeps it."""
    before = {"parameters": dict(exercise.parameters)}
    exercise.parameters = dict(exercise.parameters) | {"sets": setting_of(exercise).parameters.sets - 1}
    context.db.flush()
    own = athlete_settings(context.db, [exercise.id])
    for (_, athlete_id), setting in own.items():
        fewer = dict(setting.given) | {"sets": max(1, setting.parameters.sets - 1)}
        put_setting(context, exercise.id, athlete_id, replace(setting, given=fewer))
    changes = replanned(context, block, ReplanScope(exercise_ids=[exercise.id]))
    replaced = place_drafts(context, [change.draft for change in changes]).replaced
    kept = {
        "exercise": exercise.id,
        "values": before,
        "cells": replaced,
        "settings": {str(athlete_id): as_plain(setting) for (_, athlete_id), setting in own.items()},
    }
    facts = {"movement": exercise.movement, "ladder": exercise.ladder}
    return remember(
        context, what="exercise_changed", subject="exercises", subject_id=block.id, before=kept, facts=facts
    )
