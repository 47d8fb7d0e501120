"""Who follows which progression in an exercise: the exercise's own, or another one given to single athletes."""

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

from backsquat.core.movements.manner import Manner, manner_from
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.base import Progression
from backsquat.core.progression.parameters import Parameters
from backsquat.core.progression.prescription import Prescription
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.usual_window import in_seconds
from backsquat.storage.models import AthleteProgression, Exercise
from backsquat.work.context import WorkContext

OWN_MANNER = "manner"  # beside an athlete's own parameters: how they do it, where that is not the exercise's way
OWN_MOVEMENT = "own_movement"  # what they do in the exercise's place; empty: nothing
OWN_SETS = "own_sets"  # of it
ON_THE_ROAD = "on_the_road"  # only while the bar on the back is not open to them


@dataclass(frozen=True)
class OwnWork:
    """What one athlete does in the place of an exercise's movement; no movement: nothing."""

    movement: str = ""
    sets: int = 0  # 0: the movement's usual
    on_the_road: bool = False


@dataclass(frozen=True)
class ProgressionSetting:
    """A progression with the parameters a coach gave it, and the week of the block in which it starts."""

    code: str
    given: Mapping[str, Any] = field(default_factory=dict)
    from_week: int = 0

    @property
    def progression(self) -> Progression[Any]:
        return PROGRESSIONS[self.code]

    @cached_property
    def parameters(self) -> Parameters:
        found: Parameters = self.progression.read(self.given)
        return found

    def manner(self, planned: Mapping[str, Any]) -> Manner:
        """How it is done: the athlete's own way, or what is planned (or published) for the exercise."""
        return manner_from(self.given.get(OWN_MANNER) or planned or {})

    @property
    def own_work(self) -> OwnWork | None:
        """What is done in the exercise's place; None: the exercise's movement."""
        if OWN_MOVEMENT not in self.given:
            return None
        sets, road = self.given.get(OWN_SETS, 0), self.given.get(ON_THE_ROAD, False)
        return OwnWork(str(self.given[OWN_MOVEMENT]), int(sets), bool(road))

    def outline(self, weeks: int, movement: Movement, a_week: int = 1) -> tuple[Prescription, ...]:
        """What the progression lays out for a movement, week by week of the block; by the clock where that is its dose.

        `a_week`: exposures of a row that climbs by them; they are then counted in the weeks' stead.

        A setting begun later starts its progression in its own first week, with the block's deload weeks; the weeks before
        stand for nothing but their week.
        """
        first = min(self.from_week or 0, weeks - 1)
        hinge = movement.family is Family.HINGE
        laid = _laid_out(self.code, json.dumps(dict(self.given), sort_keys=True), first, weeks, hinge, a_week)
        return tuple(in_seconds(p, movement) for p in laid) if movement.work.seconds else laid


@lru_cache(maxsize=512)
def _laid_out(code: str, given: str, first: int, weeks: int, hinge: bool, a_week: int) -> tuple[Prescription, ...]:
    """Every page's rail and every sheet ask for the same few outlines."""
    progression = PROGRESSIONS[code]
    outline = progression.outline(progression.read(json.loads(given)), weeks - first, hinge, a_week, first)
    gone = first * a_week
    before = tuple(replace(outline[0], week=week) for week in range(gone))
    return before + tuple(replace(p, week=p.week + gone) for p in outline)


def setting_of(exercise: Exercise) -> ProgressionSetting:
    """What everybody follows who was given nothing else."""
    return ProgressionSetting(exercise.progression, exercise.parameters, exercise.from_week)


_NEWEST = select(AthleteProgression).where(  # made once: every plan of an exercise asks for it
    AthleteProgression.id.in_(
        select(func.max(AthleteProgression.id))
        .where(AthleteProgression.exercise_id.in_(bindparam("exercises", expanding=True)))
        .group_by(AthleteProgression.exercise_id, AthleteProgression.athlete_id)
    )
)
AthleteSettings = dict[tuple[int, int], ProgressionSetting]


def athlete_settings(db: Session, exercise_ids: Collection[int]) -> AthleteSettings:
    """(exercise, athlete) → the athlete's own setting, of those who have one."""
    return {
        (row.exercise_id, row.athlete_id): ProgressionSetting(row.progression, row.parameters, row.from_week)
        for row in _newest(db, exercise_ids)
        if row.progression
    }


def _newest(db: Session, exercise_ids: Collection[int]) -> Sequence[AthleteProgression]:
    return db.scalars(_NEWEST, {"exercises": list(exercise_ids)}).all()


def put_setting(context: WorkContext, exercise_id: int, athlete_id: int, setting: ProgressionSetting | None) -> None:
    """Give an athlete a setting of their own, or the exercise's again. Rows are only added."""
    context.db.add(
        AthleteProgression(
            exercise_id=exercise_id,
            athlete_id=athlete_id,
            progression=setting.code if setting else "",
            parameters=dict(setting.given) if setting else {},
            from_week=setting.from_week if setting else 0,
            by_id=context.actor.user_id,
            at=context.now,
        )
    )
    context.db.flush()


def as_plain(setting: ProgressionSetting | None) -> list[Any] | None:
    """A setting as the journal keeps it."""
    return [setting.code, dict(setting.given), setting.from_week] if setting else None
