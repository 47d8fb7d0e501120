"""What a progression asks for in kg, before ceilings and rounding, with its step of working."""

import math

from backsquat.core.progression.finding import on_the_way, still_finding
from backsquat.core.progression.prescription import Basis, ExposureKind, Prescription
from backsquat.core.progression.terms import PlanBase, Progress, Terms, counted_reps
from backsquat.core.strength.formulas import load_for_kg
from backsquat.core.working import Fact, Step


def wave_max(prescription: Prescription, base: PlanBase, terms: Terms) -> tuple[float, tuple[Step, ...]]:
    """The planning max in kg of the prescription's wave, with its step of working where it differs from the base."""
    fresh = base.fresh_max_kg
    if prescription.aim.fresh and fresh is not None and fresh > base.planning_max_kg:
        return fresh, (Step("starts_again", {}, fresh, "kg"),)
    waves = prescription.wave - base.at_wave
    if waves <= 0 or prescription.aim.basis is not Basis.MAX or not prescription.aim.rises:
        return base.planning_max_kg, ()
    steps, step_kg = base.next_wave_steps + waves - 1, terms.wave_step_kg(base.planning_max_kg)
    max_kg = base.planning_max_kg + steps * step_kg
    facts: dict[str, Fact] = {
        "wave": prescription.wave + 1,
        "max_kg": base.planning_max_kg,
        "steps": steps,
        "step_kg": step_kg,
    }
    return max_kg, (Step("wave", facts, max_kg, "kg"),)


def target_of(
    prescription: Prescription, max_kg: float, base: PlanBase, terms: Terms, progress: Progress
) -> tuple[float, Step]:
    """The load in kg an exposure aims at: by the last load, by a share of the max, or by the formula."""
    if prescription.kind is ExposureKind.WORK and still_finding(terms, progress):
        ceiling, step = _by_max(prescription, max_kg, base, terms, progress)
        return on_the_way(ceiling, terms, progress) or (ceiling, step)
    aim = prescription.aim
    if aim.basis is Basis.LAST and progress.last_kg is not None:
        return _from_last(prescription, terms, progress.last_kg, terms.ahead(prescription, base))
    return _by_max(prescription, max_kg, base, terms, progress)


def _by_max(
    prescription: Prescription, max_kg: float, base: PlanBase, terms: Terms, progress: Progress
) -> tuple[float, Step]:
    aim, facts = prescription.aim, {"week": terms.week_of(prescription) + 1}
    if aim.basis is Basis.SHARE:
        target = max_kg * aim.share * terms.manner_share
        share = aim.share * terms.manner_share
        return target, Step("week_share", facts | {"max_kg": max_kg, "share": share}, target, "kg")
    return _by_formula(prescription, max_kg, base, terms, progress)


def _by_formula(
    prescription: Prescription, max_kg: float, base: PlanBase, terms: Terms, progress: Progress
) -> tuple[float, Step]:
    aim, deload = prescription.aim, prescription.kind is ExposureKind.DELOAD
    reps = aim.reps or prescription.reps
    left = prescription.reserve_reps if aim.reserve_reps is None else aim.reserve_reps
    counted = counted_reps(reps, left, terms.rules)
    facts: dict[str, Fact] = {
        "week": terms.week_of(prescription) + 1,
        "reps": reps,
        "left": left,
        "max_kg": max_kg,
        "carried_kg": terms.carried_kg,
        "formula": terms.rules.formula,
        "counted": counted,
        "curve": terms.known.curve if terms.known else 1.0,
    }
    shares = {
        "first_share": base.first_share if not progress.first_done else 1.0,
        "aim_share": aim.share if aim.basis is Basis.MAX else 1.0,
        "manner_share": terms.manner_share,
        "deload_share": terms.deload_load_share if deload else 1.0,
    }
    target = terms.load_for(max_kg, counted)
    for name, share in shares.items():
        target *= share
        if share < 1:
            facts[name] = share
    if aim.least_steps is not None and progress.last_kg is not None and not deload:
        least = terms.loads.climbed(progress.last_kg, aim.least_steps, terms.rules.step_least).kg
        if target < least:
            facts |= {"meant_kg": target, "reached_kg": progress.last_kg}
            target = least
    return target, Step("week_load", facts, target, "kg")


def _from_last(prescription: Prescription, terms: Terms, last_kg: float, ahead: float) -> tuple[float, Step]:
    aim = prescription.aim
    facts: dict[str, Fact] = {"week": terms.week_of(prescription) + 1, "last_kg": last_kg}
    if prescription.kind is ExposureKind.DELOAD:
        target = last_kg * terms.deload_load_share
        facts["deload_share"] = terms.deload_load_share
    elif aim.share < 1:
        target = last_kg * aim.share
        facts["share"] = aim.share
    elif aim.steps:
        target = terms.loads.climbed(last_kg, aim.steps, terms.rules.step_least).kg
        facts["steps"] = aim.steps
        if aim.steps > 0:
            target = max(target, _caught_up(prescription, terms, last_kg, ahead))
    else:
        target = last_kg
    return target, Step("week_from_last", facts, target, "kg")


def _caught_up(prescription: Prescription, terms: Terms, last_kg: float, ahead: float) -> float:
    """How far a climb goes at once where the last load leaves plenty: after an eased session, or with tiny plates.

    At most a share of the load (`catch_up`), and not beyond what still leaves as many more as count as plenty.
    """
    if terms.known is None:
        return last_kg
    plenty = prescription.reserve_reps + max(prescription.high - prescription.low, 0) + terms.rules.catch_up_reps
    reps = (prescription.low or prescription.reps) + plenty
    level = math.log1p(terms.gain * max(ahead, 0.0)) + terms.known.level
    leaves_kg = load_for_kg(math.exp(level), reps, terms.formula) - terms.carried_kg
    return min(leaves_kg, last_kg + terms.rules.catch_up * (last_kg + terms.carried_kg))
