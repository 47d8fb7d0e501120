"""One slot as planning sees it: movement, school, rooms, terms."""

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from sqlalchemy.orm import Session

from backsquat.core.loads.rigs import rig_named, rigs_for
from backsquat.core.loads.room import Rig, Room
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.progression.parameters import Parameters
from backsquat.core.progression.prescription import Basis, Kind, Prescription
from backsquat.core.progression.row import Candidate
from backsquat.core.progression.school import School
from backsquat.core.progression.terms import Terms
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.storage.models import Block, BlockSlot, Cell
from backsquat.work.library.movements import library_of
from backsquat.work.plan.candidates import SlotDemand, candidates
from backsquat.work.plan.school_settings import AthleteSettings, SchoolSetting, athlete_settings, setting_of
from backsquat.work.rooms.rooms import Rooms, rooms_of
from backsquat.work.sessions.blocks import session_day


def room_of(session: Session, squad_id: int) -> Room:
    """The squad's own room; Refused where none is described yet."""
    return rooms_of(session, squad_id).own


@dataclass(frozen=True)
class SlotPlan:
    """One slot with what a setting of its school lays out, and the terms for an athlete."""

    block: Block
    slot: BlockSlot
    rooms: Rooms
    rules: Rules
    movement: Movement
    setting: SchoolSetting
    own: Mapping[int, SchoolSetting] = field(default_factory=dict)  # athlete → another setting than the slot's
    elsewhere: Mapping[int, int] = field(default_factory=dict)  # week → room in which the athlete trains then

    def of(self, athlete_id: int) -> "SlotPlan":
        """The plan as it is for one athlete: their own setting, and where they train week by week."""
        setting, elsewhere = self.own.get(athlete_id), {}
        if self.rooms.assignments:
            at = {w: self.rooms.id_on(athlete_id, self.day(w)) for w in range(self.block.weeks)}
            elsewhere = {week: room_id for week, room_id in at.items() if room_id is not None}
        if setting is None and not elsewhere:
            return self
        return replace(self, setting=setting or self.setting, elsewhere=elsewhere)

    def day(self, week: int) -> dt.date:
        """The day of the slot in a week of the block."""
        return session_day(self.slot, week)

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
        """What the school lays out, its loads as the manner of the slot asks them."""
        laid = self.setting.outline(self.block.weeks, self.movement)
        share = self.setting.manner(self.slot.manner).load_share(self.rules)
        return laid if share == 1 else tuple(_by_share(p, share) for p in laid)

    def asked(self, cell: Cell) -> Prescription:
        """What a cell asks for: its own numbers over what the school lays out for that week."""
        laid = next(p for p in self.outline if p.week == cell.week)
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
        )


def _by_share(asked: Prescription, share: float) -> Prescription:
    """A prescription whose load is a share of what it would be; a load that climbs from the last one is left."""
    if asked.aim.basis not in (Basis.MAX, Basis.SHARE):
        return asked
    return replace(asked, aim=replace(asked.aim, share=asked.aim.share * share))


def slot_plan(
    session: Session, block: Block, slot: BlockSlot, rules: Rules, settings: AthleteSettings | None = None
) -> SlotPlan:
    """`settings` are asked for here where nobody has asked for those of the whole block."""
    movement = library_of(session, block.squad_id).get(slot.movement)
    settings = athlete_settings(session, [slot.id]) if settings is None else settings
    own = {athlete_id: one for (slot_id, athlete_id), one in settings.items() if slot_id == slot.id}
    rooms = rooms_of(session, block.squad_id)
    return SlotPlan(block, slot, rooms, rules, movement, setting_of(slot), own)


def known_candidates(session: Session, ready: Mapping[int, Readiness], plan: SlotPlan) -> dict[int, Candidate]:
    """What planning must know for a slot of the athletes whose readiness is given."""
    days = {week: session_day(plan.slot, week) for week in range(plan.block.weeks)}
    demand = SlotDemand(plan.movement, days, plan.slot.ladder)
    return candidates(session, ready, demand, plan.rules)
