"""From a planning max to the loads one athlete will really lift, week by week.

For each week: the school's prescription → load from the inverse formula, or from the last load →
cap → nearest load of this room. What comes back holds the working of every number.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from backsquat.core.loads.achievable import Load, Loads, loads_on
from backsquat.core.loads.room import Rig, RigKind, Room
from backsquat.core.loads.rounding import (
    Offer,
    RoundedLoad,
    Rounding,
    grains,
    how_made,
    offers_under_bar,
    round_load,
)
from backsquat.core.progression.caps import Cap, cap_for
from backsquat.core.progression.prescription import Basis, Kind, Prescription
from backsquat.core.readiness.absence import EasedWeek
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, load_for_kg, maximum_kg, reps_for
from backsquat.core.working import Step, Working, plain

BARS = frozenset({RigKind.BAR, RigKind.TRAP_BAR})


@dataclass(frozen=True)
class PlanBase:
    """Where a plan starts from: the planning max of one wave, and what each later wave adds.

    `weeks_before` is the number of block weeks already gone when the estimate was made: the cap
    of block week n counts n + 1 − weeks_before weeks. `last_kg` is the last working load, which
    schools that climb go on from.
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


@dataclass(frozen=True)
class Terms:
    """What stays the same for one athlete and one lift while a block is planned."""

    room: Room
    rig: Rig
    rules: Rules
    newcomer: bool
    in_season: bool
    easy_load_share: float
    carried_kg: float = 0.0  # body mass moved with each written load
    most_kg: Mapping[int, float] = field(default_factory=dict)  # week → the most a limit allows
    eased: Mapping[int, EasedWeek] = field(
        default_factory=dict
    )  # week → share of load and sets after time away
    elsewhere: Mapping[int, tuple[Room, Rig]] = field(default_factory=dict)  # week → another room, its rig

    def in_week(self, week: int) -> "Terms":
        """The terms with the room of a week, where the athlete trains in another."""
        if week not in self.elsewhere:
            return self
        room, rig = self.elsewhere[week]
        return replace(self, room=room, rig=rig)

    @property
    def loads(self) -> Loads:
        return loads_on(self.room, self.rig)

    def step_kg(self, near_kg: float) -> float:
        """One step of the room, in all (both sides)."""
        return self.room.step_kg if self.rig.kind in BARS else self.loads.step_kg(near_kg)

    def load_for(self, max_kg: float, reps: float) -> float:
        """Written load for r′ = `reps`; what of the body is moved goes through the formula with it."""
        return load_for_kg(max_kg + self.carried_kg, reps, FORMULAS[self.rules.formula]) - self.carried_kg

    def max_for(self, load_kg: float, reps: float) -> float:
        return maximum_kg(load_kg + self.carried_kg, reps, FORMULAS[self.rules.formula]) - self.carried_kg

    def reps_at(self, load_kg: float, max_kg: float) -> float:
        return reps_for(load_kg + self.carried_kg, max_kg + self.carried_kg, FORMULAS[self.rules.formula])


def counted_reps(reps: int, reserve_reps: int, rules: Rules) -> float:
    """r′: reps plus reserve, the reserve counted as in an estimate."""
    return reps + min(reserve_reps, rules.reserve_cap_reps)


def planned_reps(prescription: Prescription, rules: Rules) -> float:
    """r′ of a prescription."""
    return counted_reps(prescription.reps, prescription.reserve_reps, rules)


@dataclass
class _Way:
    """What is known on the way through the weeks."""

    last_kg: float | None
    last_reps: int
    done: dict[tuple[int, int], float]
    first_done: bool = False


def plan_weeks(
    prescriptions: Sequence[Prescription], base: PlanBase, terms: Terms
) -> tuple[PlannedWeek, ...]:
    """Plan the given weeks in order. Never above a cap unless marked; never a load the room lacks."""
    way = _Way(base.last_kg, 0, {(reps, reserve): load for reps, reserve, load in base.same_reps_kg})
    working = [p for p in prescriptions if p.kind is Kind.WORK]
    weeks, place = [], 0
    for prescription in prescriptions:
        if prescription.kind is Kind.WORK:
            asked = replace(working[place], week=prescription.week)
            if _must_wait(asked, base, way, terms.in_week(prescription.week)):
                aim = replace(asked.aim, steps=0)
                prescription = replace(asked, reps=way.last_reps + 1, aim=aim, wave=max(asked.wave - 1, 0))
            else:
                prescription, place = asked, place + 1
        ease = terms.eased.get(prescription.week)
        if ease:
            sets = max(1, math.ceil(prescription.sets * ease.sets_share - 1e-9))
            prescription = replace(prescription, sets=sets)
        week = _plan_week(prescription, base, terms, way)
        if week.load and prescription.kind is Kind.WORK:
            way.done[prescription.reps, prescription.reserve_reps] = week.load.kg
            way.last_kg, way.last_reps, way.first_done = week.load.kg, prescription.reps, True
        weeks.append(week)
    return tuple(weeks)


def _must_wait(asked: Prescription, base: PlanBase, way: _Way, terms: Terms) -> bool:
    """A coarse step is paid in reps first: the next load must promise the bottom of the window."""
    if not asked.aim.waits or way.last_kg is None or not way.last_reps or way.last_reps >= 30:
        return False
    following = terms.loads.climbed(way.last_kg, asked.aim.steps, terms.rules.step_least).kg
    reached = terms.max_for(way.last_kg, counted_reps(way.last_reps, asked.reserve_reps, terms.rules))
    return terms.reps_at(following, max(reached, base.planning_max_kg)) < asked.low


def _plan_week(prescription: Prescription, base: PlanBase, terms: Terms, way: _Way) -> PlannedWeek:
    rules, reps = terms.rules, planned_reps(prescription, terms.rules)
    max_kg, steps = _planning_max(prescription, base, terms)  # its steps are those of the squad's own room
    if prescription.week in terms.elsewhere:
        terms = terms.in_week(prescription.week)
        steps += (Step("Room", terms.room.name, terms.rig.name),)
    target, target_step = _target(prescription, max_kg, base, terms, way)
    before = way.done.get((prescription.reps, prescription.reserve_reps))
    cap = cap_for(
        estimate_kg=base.estimate_kg,
        weeks_ahead=prescription.week + 1 - base.weeks_before,
        reps=reps,
        same_reps_kg=before,
        newcomer=terms.newcomer,
        rules=rules,
        carried_kg=terms.carried_kg,
    )
    steps += (target_step,)
    easy = prescription.kind is Kind.EASY
    wanted, held = target, prescription.aim.share < 1 and prescription.aim.basis is Basis.LAST
    ease, most = terms.eased.get(prescription.week), terms.most_kg.get(prescription.week)
    if ease:
        wanted, held = wanted * ease.load_share, True
        words = f"back after time away: × {plain(ease.load_share, 2)}, sets × {plain(ease.sets_share, 2)}"
        steps += (Step("Return", words, plain(wanted), "kg"),)
    if most is not None and wanted > most:
        wanted, held = most, True
        steps += (Step("Limit", f"not above {plain(most)} kg for now", plain(most), "kg"),)
    if base.hold_kg is not None and prescription.wave == base.at_wave and not easy and wanted > base.hold_kg:
        wanted, held = base.hold_kg, True
        steps += (Step("Hold", "not above the last session's load until the next wave", plain(wanted), "kg"),)
    rounding = Rounding.DOWN if easy or held or terms.in_season else Rounding.NEAREST
    load, breaks_cap = _load(prescription, wanted, cap, rounding, before, terms, way)
    holds = base.hold_kg is not None and prescription.wave == base.at_wave and not easy
    if load and holds and base.hold_kg is not None and load.load.kg > base.hold_kg + 1e-9:
        # The nearest load would be over it.
        load, breaks_cap = round_load(base.hold_kg, terms.room, terms.rig, Rounding.DOWN), False
    if load and most is not None and load.load.kg > most + 1e-9:
        load, breaks_cap = None, False  # even the empty bar is over the limit
    if load is None:
        offers = offers_under_bar(min(wanted, cap.most_kg), terms.room, terms.rig)
        under = Step("This room", f"under the empty bar ({terms.rig.name})", "no load")
        working = base.working.then(*steps, under)
        return PlannedWeek(prescription, None, wanted, max_kg, cap, False, offers, working)
    steps += (cap.step(load.load.kg),)
    if breaks_cap:
        same = way.last_kg is not None and load.load.kg <= way.last_kg + 1e-6
        what = "the load of the last session again" if same else "the smallest step this room has"
        words = f"{what}; over the cap, allowed and marked"
        steps += (Step("Mark", words, load.load.total.text),)
    steps += (replace(load, target_kg=wanted).step, *_both_ways(way.last_kg, load.load), how_made(load.load))
    return PlannedWeek(
        prescription, load.load, wanted, max_kg, cap, breaks_cap, (), base.working.then(*steps)
    )


def _both_ways(before_kg: float | None, load: Load) -> tuple[Step, ...]:
    """A step on a bar said both ways: so much a side is twice that in all."""
    if before_kg is None or load.rig.kind not in BARS or abs(load.kg - before_kg) < 1e-6:
        return ()
    more = load.kg - before_kg
    words = f"{plain(more / 2, 3)} a side = {plain(more, 2)} in all"
    return (Step("Against the load before", words, plain(more, 2), "kg"),)


def _planning_max(prescription: Prescription, base: PlanBase, terms: Terms) -> tuple[float, tuple[Step, ...]]:
    """The planning max of the prescription's wave, with its step of working where it differs from the base."""
    fresh = base.fresh_max_kg
    if prescription.aim.fresh and fresh is not None and fresh > base.planning_max_kg:
        return fresh, (Step("Starts anew", "from the newest estimate", plain(fresh), "kg"),)
    waves = prescription.wave - base.at_wave
    if waves <= 0 or prescription.aim.basis is not Basis.MAX or not prescription.aim.rises:
        return base.planning_max_kg, ()
    steps, step_kg = base.next_wave_steps + waves - 1, terms.step_kg(base.planning_max_kg)
    max_kg = base.planning_max_kg + steps * step_kg
    words = f"{plain(base.planning_max_kg)} + {steps} × {plain(step_kg, 2)}, if the wave before is made"
    return max_kg, (Step(f"Wave {prescription.wave + 1}", words, plain(max_kg), "kg"),)


def _target(
    prescription: Prescription, max_kg: float, base: PlanBase, terms: Terms, way: _Way
) -> tuple[float, Step]:
    """What the school asks for in kg, before caps and rounding, with its step of working."""
    aim, label, easy = prescription.aim, f"Week {prescription.week + 1}", prescription.kind is Kind.EASY
    if aim.basis is Basis.LAST and way.last_kg is not None:
        return _from_last(prescription, label, terms, way.last_kg)
    if aim.basis is Basis.SHARE:
        target = max_kg * aim.share
        return target, Step(label, f"{plain(max_kg)} × {plain(aim.share, 2)}, for speed", plain(target), "kg")
    reps = aim.reps or prescription.reps
    left = prescription.reserve_reps if aim.reserve_reps is None else aim.reserve_reps
    counted = counted_reps(reps, left, terms.rules)
    target = terms.load_for(max_kg, counted)
    formula = FORMULAS[terms.rules.formula]
    moved = (
        plain(max_kg)
        if not terms.carried_kg
        else f"({plain(max_kg)} + {plain(terms.carried_kg)} of the body)"
    )
    words = f"{reps} reps with {left} left: {moved} ÷ {formula.words(counted)}"
    if terms.carried_kg:
        words += f" − {plain(terms.carried_kg)}"
    share = aim.share if aim.basis is Basis.MAX else 1.0
    if not way.first_done and base.first_share < 1:
        share *= base.first_share
        words += f" × {plain(base.first_share, 2)}, a low start"
    if share < 1 and aim.share < 1:
        words += f" × {plain(aim.share, 2)}"
    if easy:
        share *= terms.easy_load_share
        words += f" × {plain(terms.easy_load_share, 2)}, easy week"
    target *= share
    if aim.least_steps is not None and way.last_kg is not None and not easy:
        least = terms.loads.climbed(way.last_kg, aim.least_steps, terms.rules.step_least).kg
        if target < least:
            target, words = (
                least,
                f"{words} = {plain(target)}; not under what was reached, {plain(way.last_kg, 2)}",
            )
    return target, Step(label, words, plain(target), "kg")


def _from_last(prescription: Prescription, label: str, terms: Terms, last_kg: float) -> tuple[float, Step]:
    aim = prescription.aim
    if prescription.kind is Kind.EASY:
        target = last_kg * terms.easy_load_share
        words = f"{plain(last_kg, 2)} × {plain(terms.easy_load_share, 2)}, easy week"
    elif aim.share < 1:
        target = last_kg * aim.share
        words = f"{plain(last_kg, 2)} × {plain(aim.share, 3)}"
    elif aim.steps:
        target = terms.loads.climbed(last_kg, aim.steps, terms.rules.step_least).kg
        count = {1: "one step", 2: "two steps", -1: "one step down"}.get(aim.steps, f"{aim.steps} steps")
        words = f"{plain(last_kg, 2)} and {count}" + (", if the week before is made" if aim.steps > 0 else "")
    else:
        target, words = last_kg, "the same load"
    return target, Step(label, words, plain(target, 2), "kg")


def _load(
    prescription: Prescription, wanted: float, cap: Cap, rounding: Rounding, before: float | None, terms: Terms,
    way: _Way,
) -> tuple[RoundedLoad | None, bool]:  # fmt: skip
    """The load for a wanted kg under a cap, and whether it is the smallest step over the cap."""
    room, rig = terms.room, terms.rig
    rounded = round_load(wanted, room, rig, rounding)
    if rounded is None or cap.allows(rounded.load.kg):
        return rounded, False
    lower = round_load(cap.most_kg, room, rig, Rounding.DOWN)
    aim, last = prescription.aim, way.last_kg
    if aim.basis is Basis.LAST and not aim.steps and last is not None and rounded.load.kg <= last + 1e-6:
        return rounded, prescription.kind is Kind.WORK  # a cap limits rises: what was lifted may be repeated
    if before is None and aim.basis is Basis.LAST and aim.steps > 0:
        before = last
    if before is not None and wanted > before and (lower is None or lower.load.kg <= before + 1e-6):
        smallest = terms.loads.next_above(grains(before))
        if smallest is not None and smallest.kg <= rounded.load.kg + 1e-6:
            return replace(rounded, load=smallest), True
    return lower, False
