"""Who follows which school in a slot: the slot's own, or another one given to single athletes."""

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

from backsquat.core.movements.manner import Manner, manner_from
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.parameters import Parameters
from backsquat.core.progression.prescription import Prescription
from backsquat.core.progression.school import School
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.progression.usual_window import in_seconds
from backsquat.storage.models import AthleteSchool, BlockSlot
from backsquat.work.actor import Actor

OWN_MANNER = "manner"  # beside an athlete's own parameters: how they do it, where that is not the slot's way
OWN_MOVEMENT = "own_movement"  # what they do in the slot's place; empty: nothing
OWN_SETS = "own_sets"  # of it
ON_THE_ROAD = "on_the_road"  # only while the bar on the back is not open to them


@dataclass(frozen=True)
class OwnWork:
    """What one athlete does in the place of a slot's movement; no movement: nothing."""

    movement: str = ""
    sets: int = 0  # 0: the movement's usual
    on_the_road: bool = False


@dataclass(frozen=True)
class SchoolSetting:
    """A school with the parameters a coach gave it, and the week of the block in which it starts."""

    code: str
    given: Mapping[str, Any] = field(default_factory=dict)
    from_week: int = 0

    @property
    def school(self) -> School[Any]:
        return SCHOOLS[self.code]

    @cached_property
    def parameters(self) -> Parameters:
        found: Parameters = self.school.read(self.given)
        return found

    def manner(self, planned: Mapping[str, Any]) -> Manner:
        """How it is done: the athlete's own way, or what is planned (or published) for the slot."""
        return manner_from(self.given.get(OWN_MANNER) or planned or {})

    @property
    def own_work(self) -> OwnWork | None:
        """What is done in the slot's place; None: the slot's movement."""
        if OWN_MOVEMENT not in self.given:
            return None
        sets, road = self.given.get(OWN_SETS, 0), self.given.get(ON_THE_ROAD, False)
        return OwnWork(str(self.given[OWN_MOVEMENT]), int(sets), bool(road))

    def outline(self, weeks: int, movement: Movement, a_week: int = 1) -> tuple[Prescription, ...]:
        """What the school lays out for a movement, week by week of the block; by the clock where that is its dose.

        `a_week`: exposures of a row that climbs by them; they are then counted in the weeks' stead.

        A setting begun later starts its school in its own first week, with the block's easy weeks; the weeks before
        stand for nothing but their week.
        """
        first = min(self.from_week or 0, weeks - 1)
        hinge = movement.family is Family.HINGE
        laid = _laid_out(self.code, json.dumps(dict(self.given), sort_keys=True), first, weeks, hinge, a_week)
        return tuple(in_seconds(p, movement) for p in laid) if movement.work.seconds else laid


@lru_cache(maxsize=512)
def _laid_out(code: str, given: str, first: int, weeks: int, hinge: bool, a_week: int) -> tuple[Prescription, ...]:
    """Every page's rail and every sheet ask for the same few outlines."""
    school = SCHOOLS[code]
    outline = school.outline(school.read(json.loads(given)), weeks - first, hinge, a_week, first)
    gone = first * a_week
    before = tuple(replace(outline[0], week=week) for week in range(gone))
    return before + tuple(replace(p, week=p.week + gone) for p in outline)


def setting_of(slot: BlockSlot) -> SchoolSetting:
    """What everybody follows who was given nothing else."""
    return SchoolSetting(slot.school, slot.parameters, slot.from_week)


_NEWEST = select(AthleteSchool).where(  # made once: every plan of a slot asks for it
    AthleteSchool.id.in_(
        select(func.max(AthleteSchool.id))
        .where(AthleteSchool.slot_id.in_(bindparam("slots", expanding=True)))
        .group_by(AthleteSchool.slot_id, AthleteSchool.athlete_id)
    )
)
AthleteSettings = dict[tuple[int, int], SchoolSetting]


def athlete_settings(session: Session, slot_ids: Collection[int]) -> AthleteSettings:
    """(slot, athlete) → the athlete's own setting, of those who have one."""
    return {
        (row.slot_id, row.athlete_id): SchoolSetting(row.school, row.parameters, row.from_week)
        for row in _newest(session, slot_ids)
        if row.school
    }


def _newest(session: Session, slot_ids: Collection[int]) -> Sequence[AthleteSchool]:
    return session.scalars(_NEWEST, {"slots": list(slot_ids)}).all()


def put_setting(session: Session, actor: Actor, slot_id: int, athlete_id: int, setting: SchoolSetting | None) -> None:
    """Give an athlete a setting of their own, or the slot's again. Rows are only added."""
    session.add(
        AthleteSchool(
            slot_id=slot_id,
            athlete_id=athlete_id,
            school=setting.code if setting else "",
            parameters=dict(setting.given) if setting else {},
            from_week=setting.from_week if setting else 0,
            by_id=actor.user_id,
            at=actor.now,
        )
    )
    session.flush()


def as_plain(setting: SchoolSetting | None) -> list[Any] | None:
    """A setting as the journal keeps it."""
    return [setting.code, dict(setting.given), setting.from_week] if setting else None
