"""What stays the same while a block is planned for one athlete and one lift, and what comes out of it."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from backsquat.core.loads.achievable import Load, Loads, loads_on
from backsquat.core.loads.room import Rig, RigKind, Room
from backsquat.core.loads.rounding import Offer
from backsquat.core.progression.caps import Cap
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.readiness.absence import EasedWeek
from backsquat.core.rules import Rules
from backsquat.core.strength.chance import KnownStrength
from backsquat.core.strength.formulas import FORMULAS, Formula, load_for_kg, maximum_kg, reps_for
from backsquat.core.working import Working

BARS = frozenset({RigKind.BAR, RigKind.TRAP_BAR})


@dataclass(frozen=True)
class PlanBase:
    """Where a plan starts from: the planning max of one wave, and what each later wave adds.

    `weeks_before` is the number of block weeks already gone when the estimate was made: the cap
    of block week n counts n + 1 − weeks_before weeks. `last_kg` is the last working load, which
    progressions that climb go on from.
    """

    planning_max_kg: float
    estimate_kg: float
    working: Working
    at_wave: int = 0
    next_wave_steps: int = 1
    hold_kg: float | None = None  # no working load of `at_wave` above this
    weeks_before: int = 0
    same_reps_kg: tuple[tuple[int, int, float], ...] = ()  # (reps, reserve, load) already done
    last_kg: float | None = None
    fresh_max_kg: float | None = None  # planning max from the newest estimate
    first_share: float = 1.0  # of the first working load: a low start where nothing was ever tested
    reps_grow: bool = True  # in a load's stead; not after a session that missed reps
    first_most_kg: float | None = None  # of the first working load: a decision said down


@dataclass(frozen=True)
class PlannedWeek:
    """One exposure: a load, or None where the target is under the empty bar (then `offers`)."""

    prescription: Prescription
    load: Load | None
    target_kg: float
    planning_max_kg: float
    cap: Cap
    breaks_cap: bool
    offers: tuple[Offer, ...]
    working: Working
    chance: float | None = None  # that the last set is made as written; None: nothing is known


@dataclass(frozen=True)
class Terms:
    """What stays the same for one athlete and one lift while a block is planned."""

    room: Room
    rig: Rig
    rules: Rules
    newcomer: bool
    in_season: bool
    deload_load_share: float
    carried_kg: float = 0.0  # body mass moved with each written load
    most_kg: Mapping[int, float] = field(default_factory=dict)  # week → the most a limit allows
    eased: Mapping[int, EasedWeek] = field(default_factory=dict)  # week → share of load and sets after time away
    elsewhere: Mapping[int, tuple[Room, Rig]] = field(default_factory=dict)  # week → another room, its rig
    known: KnownStrength | None = None  # what is believed of the maximum; None: no chance is looked at
    manner_share: float = 1.0  # of a load from the max: a pause, a raised foot, half the range
    found_in: int | None = None  # sessions gone of finding a first load; None: nothing is to be found
    a_week: int = 1  # exposures: with more than one it is they that are counted, here and in prescriptions

    def week_of(self, prescription: Prescription) -> int:
        """The week of the block, from 0, in which a prescription is done."""
        return prescription.week // self.a_week

    def ahead(self, prescription: Prescription, base: PlanBase) -> float:
        """Weeks from the start of a plan to a prescription."""
        return (prescription.week - base.weeks_before) / self.a_week

    def in_week(self, week: int) -> "Terms":
        """The terms with the room of a week, where the athlete trains in another."""
        if week not in self.elsewhere:
            return self
        room, rig = self.elsewhere[week]
        return replace(self, room=room, rig=rig)

    @cached_property
    def loads(self) -> Loads:
        """Every load the room has on this rig."""
        return loads_on(self.room, self.rig)

    @cached_property
    def formula(self) -> Formula:
        """The squad's formula, bent to the athlete's own curve where that is known."""
        return self.known.formula(self.rules) if self.known else FORMULAS[self.rules.formula]

    @property
    def gain(self) -> float:
        """Gain a week that chances of coming weeks reckon with."""
        return self.rules.gain_newcomer if self.newcomer else self.rules.gain_trained

    def least_chance(self, kind: ExposureKind) -> float:
        """The chance no planned load of this kind may fall under."""
        return self.rules.chance_test if kind is ExposureKind.TEST else self.rules.chance_work

    def most_by_chance(self, prescription: Prescription, weeks_ahead: float) -> float | None:
        """The heaviest load, as it is written, with which a prescription is made often enough."""
        if self.known is None:
            return None
        least = self.least_chance(prescription.kind)
        asked = (prescription.reps, prescription.sets, weeks_ahead, self.gain, self.rules)
        return (self.known.most_kg(least, *asked) - self.carried_kg) * self.manner_share

    def chance_of(self, load_kg: float, prescription: Prescription, weeks_ahead: float) -> float | None:
        """The chance that its last set is made at a load."""
        if self.known is None:
            return None
        return self.known.chance(
            self._plain_kg(load_kg), prescription.reps, prescription.sets, weeks_ahead, self.gain, self.rules
        )

    def left_after(self, load_kg: float, reps: int, weeks_ahead: float) -> float | None:
        """Reps that a first set at a load is expected to leave."""
        if self.known is None:
            return None
        return self.known.left(self._plain_kg(load_kg), reps, weeks_ahead, self.gain, self.rules)

    def _plain_kg(self, load_kg: float) -> float:
        """What is moved, body included, had it been done plainly: with a pause 90 kg are as hard as 100."""
        return load_kg / self.manner_share + self.carried_kg

    def step_kg(self, near_kg: float) -> float:
        """One step of the room, in all (both sides)."""
        return self.room.step_kg if self.rig.kind in BARS else self.loads.step_kg(near_kg)

    def wave_step_kg(self, max_kg: float) -> float:
        """One step of a planning max: the room's, so often that it is a step worth the name."""
        step = self.step_kg(max_kg)
        return step * max(1, math.ceil(self.rules.wave_step_least * max_kg / step - 1e-9)) if step else step

    def load_for(self, max_kg: float, reps: float) -> float:
        """Written load for r′ = `reps`; what of the body is moved goes through the formula with it."""
        return load_for_kg(max_kg + self.carried_kg, reps, self.formula) - self.carried_kg

    def max_for(self, load_kg: float, reps: float) -> float:
        """The plain maximum in kg that so many counted reps at a load imply, as the load is written."""
        return maximum_kg(self._plain_kg(load_kg), reps, self.formula) - self.carried_kg

    def reps_at(self, load_kg: float, max_kg: float) -> float:
        """Reps a plain maximum promises at a load, both in kg as written; not whole."""
        return reps_for(self._plain_kg(load_kg), max_kg + self.carried_kg, self.formula)


def counted_reps(reps: int, reserve_reps: int, rules: Rules) -> float:
    """r′: reps plus reserve, the reserve counted as in an estimate."""
    return reps + min(reserve_reps, rules.reserve_cap_reps)


def planned_reps(prescription: Prescription, rules: Rules) -> float:
    """r′ of a prescription."""
    return counted_reps(prescription.reps, prescription.reserve_reps, rules)


@dataclass
class Progress:
    """What is known on the way through the weeks: the last working load and what was planned at which reps."""

    last_kg: float | None
    last_reps: int
    done: dict[int, float]  # reps → load in kg
    last_ease: float = 1.0  # share of its load which the last one was for somebody coming back
    meant_kg: float | None = None  # what the last eased week aimed at before rounding
    last_reserve: int = 0
    reps_alike: bool = True  # every working exposure asks for as many
    fewer_reps: int = 0  # than asked, for the next load of a coarse room
    worked: int = 0  # working exposures planned so far

    @property
    def first_done(self) -> bool:
        """Whether one was planned."""
        return self.worked > 0
