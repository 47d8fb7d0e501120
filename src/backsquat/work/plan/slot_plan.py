"""One slot as planning sees it: movement, school, rooms, terms."""

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.loads.rigs import rig_named, rigs_for
from backsquat.core.loads.room import Rig, Room
from backsquat.core.movements.movement import Family, Gate, Movement
from backsquat.core.progression.parameters import Parameters
from backsquat.core.progression.prescription import Kind, Prescription
from backsquat.core.progression.row import Candidate
from backsquat.core.progression.school import School
from backsquat.core.progression.terms import PlannedWeek, Terms
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.storage.models import Block, BlockSlot, Cell
from backsquat.work.library.movements import library_of
from backsquat.work.plan.candidates import SlotDemand, candidates
from backsquat.work.plan.exposure_rows import row_of, same_lift
from backsquat.work.plan.school_settings import AthleteSettings, SchoolSetting, athlete_settings, setting_of
from backsquat.work.rooms.rooms import Rooms, rooms_of
from backsquat.work.sessions.blocks import session_day


def room_of(session: Session, squad_id: int) -> Room:
    """The squad's own room; Refused where none is described yet."""
    return rooms_of(session, squad_id).own


@dataclass(frozen=True)
class SlotPlan:
    """One slot with what a setting of its school lays out, and the terms for an athlete.

    A lift done on several days of a week under a school that climbs by exposure is one row (rules 2.3.2): what is
    laid out, and every week asked for here, then counts the exposures of the row. With one day they are its weeks.
    """

    block: Block
    slot: BlockSlot
    rooms: Rooms
    rules: Rules
    movement: Movement
    setting: SchoolSetting
    elsewhere: Mapping[int, int] = field(default_factory=dict)  # week → room in which the athlete trains then
    same: Sequence[BlockSlot] = ()  # the block's slots of this movement, this one among them
    settings: AthleteSettings = field(default_factory=dict)  # of all of them
    athlete_id: int = 0  # whose it is; 0: everybody's who was given nothing else

    def of(self, athlete_id: int) -> "SlotPlan":
        """The plan as it is for one athlete: their own setting, and where they train week by week."""
        mine = self
        if any((slot.id, athlete_id) in self.settings for slot in self.same):
            setting = self.settings.get((self.slot.id, athlete_id)) or setting_of(self.slot)
            mine = replace(self, setting=setting, athlete_id=athlete_id)
        if self.rooms.assignments:
            at = {nth: self.rooms.id_on(athlete_id, day) for nth, day in mine.days.items()}
            return replace(mine, elsewhere={nth: room_id for nth, room_id in at.items() if room_id is not None})
        return mine

    @cached_property
    def row(self) -> tuple[BlockSlot, ...]:
        """The slots that climb as one with this one, itself first."""
        settings = {**self.settings, (self.slot.id, self.athlete_id): self.setting}
        return row_of(self.slot, self.same, settings, self.athlete_id)

    @cached_property
    def places(self) -> tuple[tuple[BlockSlot, int], ...]:
        """The exposures of the row as they come: slot, and week of the block."""
        if len(self.row) == 1:
            return tuple((self.slot, week) for week in range(self.block.weeks))
        weeks = range(self.block.weeks)
        found = [(week, session_day(slot, week), slot.position, slot) for week in weeks for slot in self.row]
        return tuple((slot, week) for week, _, _, slot in sorted(found, key=lambda place: place[:3]))

    @cached_property
    def _nth(self) -> dict[tuple[int, int], int]:
        return {(slot.id, week): nth for nth, (slot, week) in enumerate(self.places)}

    def nth(self, slot_id: int, week: int) -> int:
        """Which exposure of the row a week of one of its slots is, from 0."""
        return self._nth[slot_id, week]

    def after(self, cell: Cell) -> tuple[int, int] | None:
        """Slot and week of the exposure after a cell's; None at the end of the block."""
        nth = self.nth(cell.slot_id, cell.week) + 1
        return (self.places[nth][0].id, self.places[nth][1]) if nth < len(self.places) else None

    def of_slot(self, weeks: Iterable[PlannedWeek]) -> list[PlannedWeek]:
        """Of planned exposures those of this slot, by week of the block."""
        mine = [(self.places[one.prescription.week], one) for one in weeks]
        return [
            replace(one, prescription=replace(one.prescription, week=week))
            for (slot, week), one in mine
            if slot is self.slot
        ]

    @cached_property
    def days(self) -> dict[int, dt.date]:
        """The day of each exposure."""
        return {nth: session_day(slot, week) for nth, (slot, week) in enumerate(self.places)}

    def room_in(self, week: int) -> Room:
        return self.rooms.room(self.elsewhere.get(week))

    def rig_in(self, week: int) -> Rig | None:
        """The rig of that week's room; None where it has nothing to load the movement with."""
        return next(iter(rigs_for(self.movement, self.room_in(week))), None)

    @property
    def school(self) -> School[Any]:
        return self.setting.school

    @property
    def parameters(self) -> Parameters:
        return self.setting.parameters

    @property
    def hinge(self) -> bool:
        return self.movement.family is Family.HINGE

    @cached_property
    def outline(self) -> tuple[Prescription, ...]:
        """What the school lays out."""
        own = [self.settings.get((slot.id, self.athlete_id)) or setting_of(slot) for slot in self.row[1:]]
        first = min(one.from_week or 0 for one in (self.setting, *own))  # one put in later goes on with the others
        return replace(self.setting, from_week=first).outline(self.block.weeks, self.movement, len(self.row))

    @property
    def manner_share(self) -> float:
        """The load as a share of the plain one, by how it is done in this slot (or by this athlete)."""
        return self.setting.manner(self.slot.manner).load_share(self.rules)

    def asked(self, cell: Cell) -> Prescription:
        """What a cell asks for: its own numbers over what the school lays out for that week."""
        nth = self.nth(cell.slot_id, cell.week)
        laid = next(p for p in self.outline if p.week == nth)
        return replace(
            laid,
            kind=Kind(cell.kind),
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
            easy_load_share=self.parameters.easy_load_share,
            elsewhere=moved,
            a_week=len(self.row),
            manner_share=self.manner_share,
        )


def slot_plan(
    session: Session, block: Block, slot: BlockSlot, rules: Rules, settings: AthleteSettings | None = None
) -> SlotPlan:
    """`settings` are asked for here where nobody has asked for those of the whole block."""
    movement = library_of(session, block.squad_id).get(slot.movement)
    same = same_lift(block, slot)
    settings = athlete_settings(session, [one.id for one in same]) if settings is None else settings
    rooms = rooms_of(session, block.squad_id)
    return SlotPlan(block, slot, rooms, rules, movement, setting_of(slot), same=same, settings=settings)


def _own_demand(demand: SlotDemand, own: SlotPlan, ready: Readiness) -> SlotDemand:
    """The demand as it is for one athlete: the road is over when the bar on the back is open."""
    work = own.setting.own_work
    if work is None or (work.on_the_road and ready.view(Gate.BARBELL).open):
        return demand
    if not work.movement:
        return replace(demand, left_out=True)
    chosen = ready.library.movements.get(work.movement)
    return replace(demand, chosen=chosen) if chosen else demand


def known_candidates(session: Session, ready: Mapping[int, Readiness], plan: SlotPlan) -> dict[int, Candidate]:
    """What planning must know for a slot of the athletes whose readiness is given."""
    rows: dict[tuple[BlockSlot, ...], SlotDemand] = {}
    demands = {}
    for athlete_id in ready:
        own = plan.of(athlete_id)
        if own.row not in rows:
            rows[own.row] = SlotDemand(plan.movement, own.days, plan.slot.ladder)
        demands[athlete_id] = _own_demand(rows[own.row], own, ready[athlete_id])
    return candidates(session, ready, demands, plan.rules)
