"""From a planning max to the loads one athlete will really lift, week by week.

For each week: the school's prescription → load from the inverse formula → cap → nearest load of
this room. What comes back holds the working of every number.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from backsquat.core.loads.achievable import BarLoad, bar_loads
from backsquat.core.loads.room import Bar, Room
from backsquat.core.loads.rounding import (
    Offer,
    RoundedLoad,
    Rounding,
    grains,
    offers_under_bar,
    round_load,
    side_step,
)
from backsquat.core.progression.caps import Cap, cap_for
from backsquat.core.progression.prescription import Kind, Prescription
from backsquat.core.readiness.absence import EasedWeek
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, load_for_kg
from backsquat.core.working import Step, Working, plain


@dataclass(frozen=True)
class PlanBase:
    """Where a plan starts from: the planning max of one wave, and what each later wave adds.

    `weeks_before` is the number of block weeks already gone when the estimate was made: the cap
    of block week n counts n + 1 − weeks_before weeks.
    """

    planning_max_kg: float
    estimate_kg: float
    working: Working
    at_wave: int = 0
    next_wave_steps: int = 1
    hold_kg: float | None = None  # no working load of `at_wave` above this
    weeks_before: int = 0
    same_reps_kg: tuple[tuple[int, int, float], ...] = ()  # (reps, reserve, load) already done


@dataclass(frozen=True)
class PlannedWeek:
    """One exposure: a load, or None where the target is under the empty bar (then `offers`)."""

    prescription: Prescription
    load: BarLoad | None
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
    bar: Bar
    rules: Rules
    newcomer: bool
    in_season: bool
    easy_load_share: float
    most_kg: Mapping[int, float] = field(default_factory=dict)  # week → the most a limit allows
    eased: Mapping[int, EasedWeek] = field(
        default_factory=dict
    )  # week → share of load and sets after time away

    @property
    def step_kg(self) -> float:
        """One step of the room, in all (both sides)."""
        return self.room.step_kg


def planned_reps(prescription: Prescription, rules: Rules) -> float:
    """r′ of a prescription: reps plus reserve, the reserve counted as in an estimate."""
    return prescription.reps + min(prescription.reserve_reps, rules.reserve_cap_reps)


def plan_weeks(
    prescriptions: Sequence[Prescription], base: PlanBase, terms: Terms
) -> tuple[PlannedWeek, ...]:
    """Plan the given weeks in order. Never above a cap unless marked; never a load the room lacks."""
    done = {(reps, reserve): load for reps, reserve, load in base.same_reps_kg}
    weeks = []
    for prescription in prescriptions:
        ease = terms.eased.get(prescription.week)
        if ease:
            prescription = replace(
                prescription, sets=max(1, math.ceil(prescription.sets * ease.sets_share - 1e-9))
            )
        week = _plan_week(prescription, base, terms, done)
        if week.load and prescription.kind is Kind.WORK:
            done[prescription.reps, prescription.reserve_reps] = week.load.kg
        weeks.append(week)
    return tuple(weeks)


def _plan_week(
    prescription: Prescription, base: PlanBase, terms: Terms, done: dict[tuple[int, int], float]
) -> PlannedWeek:
    rules, reps = terms.rules, planned_reps(prescription, terms.rules)
    max_kg, steps = _planning_max(prescription, base, terms)
    target, target_step = _target(prescription, max_kg, reps, terms)
    before = done.get((prescription.reps, prescription.reserve_reps))
    cap = cap_for(
        estimate_kg=base.estimate_kg,
        weeks_ahead=prescription.week + 1 - base.weeks_before,
        reps=reps,
        same_reps_kg=before,
        newcomer=terms.newcomer,
        rules=rules,
    )
    steps += (target_step,)
    easy = prescription.kind is Kind.EASY
    wanted, held = target, False
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
    load, breaks_cap = _load(wanted, cap, rounding, before, terms)
    if load and most is not None and load.load.kg > most + 1e-9:
        load, breaks_cap = None, False  # even the empty bar is over the limit
    if load is None:
        offers = offers_under_bar(min(wanted, cap.most_kg), terms.room, terms.bar)
        under = Step("This room", f"under the empty bar ({terms.bar.name})", "no load")
        working = base.working.then(*steps, under)
        return PlannedWeek(prescription, None, wanted, max_kg, cap, False, offers, working)
    steps += (cap.step(load.load.kg),)
    if breaks_cap:
        steps += (
            Step(
                "Mark",
                "the smallest step this room has; over the cap, allowed and marked",
                load.load.total.text,
            ),
        )
    steps += (replace(load, target_kg=wanted).step, side_step(load.load))
    return PlannedWeek(
        prescription, load.load, wanted, max_kg, cap, breaks_cap, (), base.working.then(*steps)
    )


def _planning_max(prescription: Prescription, base: PlanBase, terms: Terms) -> tuple[float, tuple[Step, ...]]:
    """The planning max of the prescription's wave, with its step of working where it differs from the base."""
    waves = prescription.wave - base.at_wave
    if waves <= 0:
        return base.planning_max_kg, ()
    steps = base.next_wave_steps + waves - 1
    max_kg = base.planning_max_kg + steps * terms.step_kg
    words = f"{plain(base.planning_max_kg)} + {steps} × {plain(terms.step_kg, 2)}, if the wave before is made"
    return max_kg, (Step(f"Wave {prescription.wave + 1}", words, plain(max_kg), "kg"),)


def _target(prescription: Prescription, max_kg: float, reps: float, terms: Terms) -> tuple[float, Step]:
    formula = FORMULAS[terms.rules.formula]
    target = load_for_kg(max_kg, reps, formula)
    words = f"{prescription.reps} reps with {prescription.reserve_reps} left: {plain(max_kg)} ÷ {formula.words(reps)}"
    if prescription.kind is Kind.EASY:
        target *= terms.easy_load_share
        words += f" × {plain(terms.easy_load_share, 2)}, easy week"
    return target, Step(f"Week {prescription.week + 1}", words, plain(target), "kg")


def _load(
    wanted: float, cap: Cap, rounding: Rounding, before: float | None, terms: Terms
) -> tuple[RoundedLoad | None, bool]:
    """The load for a wanted kg under a cap, and whether it is the smallest step over the cap."""
    room, bar = terms.room, terms.bar
    rounded = round_load(wanted, room, bar, rounding)
    if rounded is None or cap.allows(rounded.load.kg):
        return rounded, False
    lower = round_load(cap.most_kg, room, bar, Rounding.DOWN)
    if before is not None and wanted > before and (lower is None or lower.load.kg <= before + 1e-6):
        smallest = bar_loads(room, bar).next_above(grains(before))
        if smallest is not None and smallest.kg <= rounded.load.kg + 1e-6:
            return replace(rounded, load=smallest), True
    return lower, False
