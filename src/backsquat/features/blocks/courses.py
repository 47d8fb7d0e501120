"""Who follows which school in a slot: the slot's own, or another one given to single athletes."""

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.progression.prescription import Prescription
from backsquat.core.progression.school import School
from backsquat.core.progression.schools import SCHOOLS
from backsquat.features.desk import Actor
from backsquat.storage.models import BlockSlot, SlotCourse


@dataclass(frozen=True)
class Course:
    """A school with the parameters a coach gave it, and the week of the block in which it starts."""

    code: str
    given: Mapping[str, Any] = field(default_factory=dict)
    from_week: int = 0

    @property
    def school(self) -> School:
        return SCHOOLS[self.code]

    @cached_property
    def parameters(self) -> Any:
        return self.school.read(self.given)

    def outline(self, weeks: int, hinge: bool) -> tuple[Prescription, ...]:
        """What the school lays out, week by week of the block.

        A course begun later starts its school in its own first week; the weeks before stand for
        nothing but their place.
        """
        first = min(self.from_week or 0, weeks - 1)
        return _laid_out(self.code, json.dumps(dict(self.given), sort_keys=True), first, weeks, hinge)


@lru_cache(maxsize=512)
def _laid_out(code: str, given: str, first: int, weeks: int, hinge: bool) -> tuple[Prescription, ...]:
    """Every page's rail and every sheet ask for the same few outlines."""
    school = SCHOOLS[code]
    outline = school.outline(school.read(json.loads(given)), weeks - first, hinge)
    before = tuple(replace(outline[0], week=week) for week in range(first))
    return before + tuple(replace(p, week=p.week + first) for p in outline)


def course_of(slot: BlockSlot) -> Course:
    """What everybody follows who was given nothing else."""
    return Course(slot.school, slot.parameters, slot.from_week)


Courses = dict[tuple[int, int], Course]


def own_courses(session: Session, slot_ids: Collection[int]) -> Courses:
    """(slot, athlete) → the athlete's own course, of those who have one."""
    return {
        (row.slot_id, row.athlete_id): Course(row.school, row.parameters, row.from_week)
        for row in _newest(session, slot_ids)
        if row.school
    }


def _newest(session: Session, slot_ids: Collection[int]) -> Sequence[SlotCourse]:
    ids = (
        select(func.max(SlotCourse.id))
        .where(SlotCourse.slot_id.in_(slot_ids))
        .group_by(SlotCourse.slot_id, SlotCourse.athlete_id)
    )
    return session.scalars(select(SlotCourse).where(SlotCourse.id.in_(ids))).all()


def put_course(session: Session, actor: Actor, slot_id: int, athlete_id: int, course: Course | None) -> None:
    """Give an athlete a course of their own, or the slot's again. Rows are only added."""
    session.add(
        SlotCourse(
            slot_id=slot_id, athlete_id=athlete_id, school=course.code if course else "",
            parameters=dict(course.given) if course else {}, from_week=course.from_week if course else 0,
            by_id=actor.user_id, at=actor.now,
        )
    )  # fmt: skip
    session.flush()


def as_plain(course: Course | None) -> list[Any] | None:
    """A course as the journal keeps it."""
    return [course.code, dict(course.given), course.from_week] if course else None
