"""One exercise as planning sees it: movement, progression, rooms, terms."""

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.loads.rigs import rig_named, rigs_for
from backsquat.core.loads.room import Rig, Room
from backsquat.core.movements.movement import Family, Movement, ReadinessCheck
from backsquat.core.progression.base import Progression
from backsquat.core.progression.parameters import Parameters
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.progression.row import Candidate
from backsquat.core.progression.terms import PlannedWeek, Terms
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.storage.models import Block, Cell, Exercise
from backsquat.work.context import library_of
from backsquat.work.plan.candidates import ExerciseDemand, candidates
from backsquat.work.plan.exposure_rows import row_of, same_lift
from backsquat.work.plan.progression_settings import AthleteSettings, ProgressionSetting, athlete_settings, setting_of
from backsquat.work.rooms.rooms import Rooms, rooms_of
from backsquat.work.sessions.blocks import session_day


def room_of(db: Session, squad_id: int) -> Room:
    """The squad's own room; Refused where none is described yet."""
    return rooms_of(db, squad_id).own


@dataclass(frozen=True)
class ExercisePlan:
    """One exercise with what a setting of its progression lays out, and the terms for an athlete.

    A lift done on several days of a week under a progression that climbs by exposure is one row (rules 2.3.2): what is
    laid out, and every week asked for here, then counts the exposures of the row. With one day they are its weeks.
    """

    block: Block
    exercise: Exercise
    rooms: Rooms
    rules: Rules
    movement: Movement
    setting: ProgressionSetting
    elsewhere: Mapping[int, int] = field(default_factory=dict)  # week → room in which the athlete trains then
    same: Sequence[Exercise] = ()  # the block's exercises of this movement, this one among them
    settings: AthleteSettings = field(default_factory=dict)  # of all of them
    athlete_id: int = 0  # whose it is; 0: everybody's who was given nothing else

    def of(self, athlete_id: int) -> "ExercisePlan":
        """The plan as it is for one athlete: their own setting, and where they train week by week."""
        mine = self
        if any((exercise.id, athlete_id) in self.settings for exercise in self.same):
            setting = self.settings.get((self.exercise.id, athlete_id)) or setting_of(self.exercise)
            mine = replace(self, setting=setting, athlete_id=athlete_id)
        if self.rooms.assignments:
            at = {nth: self.rooms.id_on(athlete_id, day) for nth, day in mine.days.items()}
            return replace(mine, elsewhere={nth: room_id for nth, room_id in at.items() if room_id is not None})
        return mine

    @cached_property
    def row(self) -> tuple[Exercise, ...]:
        """The exercises that climb as one with this one, itself first."""
        settings = {**self.settings, (self.exercise.id, self.athlete_id): self.setting}
        return row_of(self.exercise, self.same, settings, self.athlete_id)

    @cached_property
    def places(self) -> tuple[tuple[Exercise, int], ...]:
        """The exposures of the row as they come: exercise, and week of the block."""
        if len(self.row) == 1:
            return tuple((self.exercise, week) for week in range(self.block.weeks))
        weeks = range(self.block.weeks)
        found = [
            (week, session_day(exercise, week), exercise.position, exercise) for week in weeks for exercise in self.row
        ]
        return tuple((exercise, week) for week, _, _, exercise in sorted(found, key=lambda place: place[:3]))

    @cached_property
    def _nth(self) -> dict[tuple[int, int], int]:
        return {(exercise.id, week): nth for nth, (exercise, week) in enumerate(self.places)}

    def nth(self, exercise_id: int, week: int) -> int:
        """Which exposure of the row a week of one of its exercises is, from 0."""
        return self._nth[exercise_id, week]

    def after(self, cell: Cell) -> tuple[int, int] | None:
        """Exercise and week of the exposure after a cell's; None at the end of the block."""
        nth = self.nth(cell.exercise_id, cell.week) + 1
        return (self.places[nth][0].id, self.places[nth][1]) if nth < len(self.places) else None

    def of_exercise(self, weeks: Iterable[PlannedWeek]) -> list[PlannedWeek]:
        """Of planned exposures those of this exercise, by week of the block."""
        mine = [(self.places[one.prescription.week], one) for one in weeks]
        return [
            replace(one, prescription=replace(one.prescription, week=week))
            for (exercise, week), one in mine
            if exercise is self.exercise
        ]

    @cached_property
    def days(self) -> dict[int, dt.date]:
        """The day of each exposure."""
        return {nth: session_day(exercise, week) for nth, (exercise, week) in enumerate(self.places)}

    def room_in(self, week: int) -> Room:
        return self.rooms.room(self.elsewhere.get(week))

    def rig_in(self, week: int) -> Rig | None:
        """The rig of that week's room; None where it has nothing to load the movement with."""
        return next(iter(rigs_for(self.movement, self.room_in(week))), None)

    @property
    def progression(self) -> Progression[Any]:
        return self.setting.progression

    @property
    def parameters(self) -> Parameters:
        return self.setting.parameters

    @property
    def hinge(self) -> bool:
        return self.movement.family is Family.HINGE

    @cached_property
    def outline(self) -> tuple[Prescription, ...]:
        """What the progression lays out."""
        own = [self.settings.get((exercise.id, self.athlete_id)) or setting_of(exercise) for exercise in self.row[1:]]
        first = min(one.from_week or 0 for one in (self.setting, *own))  # one put in later goes on with the others
        return replace(self.setting, from_week=first).outline(self.block.weeks, self.movement, len(self.row))

    @property
    def manner_share(self) -> float:
        """The load as a share of the plain one, by how it is done in this exercise (or by this athlete)."""
        return self.setting.manner(self.exercise.manner).load_share(self.rules)

    def asked(self, cell: Cell) -> Prescription:
        """What a cell asks for: its own numbers over what the progression lays out for that week."""
        nth = self.nth(cell.exercise_id, cell.week)
        laid = next(p for p in self.outline if p.week == nth)
        return replace(
            laid,
            kind=ExposureKind(cell.kind),
            sets=cell.sets,
            reps=cell.reps,
            reserve_reps=cell.reserve_reps,
            wave=cell.wave,
            low=cell.low,
            high=cell.high,
            hold_s=cell.hold_s,
        )

    def terms(self, newcomer: bool, rig_code: str = "") -> Terms | None:
        """The terms of planning, or None where no room on the way has anything to load the movement with.

        `rig_code` is the rig a plan names already; a room without it takes its first that will do.
        """
        moved = {
            week: (room, rig)
            for week in self.elsewhere
            if (rig := rig_named(self.movement, room := self.room_in(week), rig_code))
        }
        room = self.rooms.own
        rig = rig_named(self.movement, room, rig_code)
        if rig is None:
            room, rig = next(iter(moved.values()), (room, None))
        if rig is None:
            return None
        return Terms(
            room=room,
            rig=rig,
            rules=self.rules,
            newcomer=newcomer,
            in_season=self.block.in_season,
            deload_load_share=self.parameters.deload_load_share,
            elsewhere=moved,
            a_week=len(self.row),
            manner_share=self.manner_share,
        )


def exercise_plan(
    db: Session, block: Block, exercise: Exercise, rules: Rules, settings: AthleteSettings | None = None
) -> ExercisePlan:
    """`settings` are asked for here where nobody has asked for those of the whole block."""
    movement = library_of(db, block.squad_id).get(exercise.movement)
    same = same_lift(block, exercise)
    settings = athlete_settings(db, [one.id for one in same]) if settings is None else settings
    rooms = rooms_of(db, block.squad_id)
    return ExercisePlan(block, exercise, rooms, rules, movement, setting_of(exercise), same=same, settings=settings)


def _own_demand(demand: ExerciseDemand, own: ExercisePlan, ready: Readiness) -> ExerciseDemand:
    """The demand as it is for one athlete: the road is over when the bar on the back is open."""
    work = own.setting.own_work
    if work is None or (work.on_the_road and ready.view(ReadinessCheck.BARBELL).open):
        return demand
    if not work.movement:
        return replace(demand, left_out=True)
    chosen = ready.library.movements.get(work.movement)
    return replace(demand, chosen=chosen) if chosen else demand


def known_candidates(db: Session, ready: Mapping[int, Readiness], plan: ExercisePlan) -> dict[int, Candidate]:
    """What planning must know for an exercise of the athletes whose readiness is given."""
    rows: dict[tuple[Exercise, ...], ExerciseDemand] = {}
    demands = {}
    for athlete_id in ready:
        own = plan.of(athlete_id)
        if own.row not in rows:
            rows[own.row] = ExerciseDemand(plan.movement, own.days, plan.exercise.ladder)
        demands[athlete_id] = _own_demand(rows[own.row], own, ready[athlete_id])
    return candidates(db, ready, demands, plan.rules)
