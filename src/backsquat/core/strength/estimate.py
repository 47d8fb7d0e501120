"""What one set says about a maximum, and how far to trust it (rules 2.2)."""

from dataclasses import dataclass
from enum import IntEnum

from backsquat.core.movements.movement import Family
from backsquat.core.pain import stops
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, maximum_kg
from backsquat.core.strength.record import SetRecord
from backsquat.core.working import Fact, Step, Working


class Trust(IntEnum):
    """How far an estimate can be trusted; higher is better."""

    NONE = 0
    WEAK = 1
    FAIR = 2
    GOOD = 3


@dataclass(frozen=True)
class SetEstimate:
    """`max_kg` is None where the set says nothing; `why` is then the code of the reason."""

    max_kg: float | None
    trust: Trust
    working: Working
    why: str = ""
    at_least: bool = False  # part of the reserve is unknown or did not count: the true maximum is this or more


def trust_for(reps: float, family: Family, rules: Rules) -> Trust:
    """Grade by r′ (reps plus counted reserve); hinges fall by the squad's drop (LeSuer 1997)."""
    if reps <= rules.trust_good_reps:
        grade = Trust.GOOD
    elif reps <= rules.trust_fair_reps:
        grade = Trust.FAIR
    elif reps <= rules.trust_weak_reps:
        grade = Trust.WEAK
    else:
        return Trust.NONE
    drop = rules.hinge_trust_drop if family is Family.HINGE else 0
    return Trust(max(Trust.NONE, grade - drop))


def why_not_counted(record: SetRecord, rules: Rules) -> str:
    """Code of the reason a set tells nothing about strength, or empty."""
    if record.reps_to_depth == 0:
        return "no_rep_to_depth"
    if record.breaking_fault:
        return "form_broke"
    if stops(record.pain, record.pain_character, rules):
        return "pain"
    if record.hold_s is not None:
        return "held"
    if record.manner:
        return "other_manner"
    if record.supported:
        return "supported"
    if record.carried_kg is None:
        return "share_unknown" if record.load_kg else "no_load"
    if record.load_kg + record.carried_kg <= 0:
        return "all_help"
    return ""


@dataclass(frozen=True)
class BareEstimate:
    """A set's estimate without its working: for looking at many."""

    max_kg: float | None
    trust: Trust
    reps: int  # r′ that counted
    why: str = ""
    at_least: bool = False


def bare_estimate(record: SetRecord, rules: Rules) -> BareEstimate:
    """Estimated maximum of one set in kg, as the load is written (each hand, without the body).

    Where the body is carried the formula sees load + carried, and what is carried is taken off again.
    Only reps to the depth standard count. Where some were short, the reserve is taken as nought:
    what was left was left at the shallow depth. A reserve nobody gave is nought and costs a grade.
    """
    why = why_not_counted(record, rules)
    if why:
        return BareEstimate(None, Trust.NONE, 0, why)
    full_depth = record.reps_to_depth == record.reps
    said = record.reserve_reps or 0
    counted = min(said, rules.reserve_cap_reps) if full_depth else 0
    reps = record.reps_to_depth + counted
    trust = trust_for(reps, record.family, rules)
    if record.reserve_reps is None and trust > Trust.WEAK:
        trust = Trust(trust - 1)
    if trust is Trust.NONE:
        return BareEstimate(None, trust, reps, "too_many_reps")
    carried = record.carried_kg or 0.0
    max_kg = maximum_kg(record.load_kg + carried, reps, FORMULAS[rules.formula]) - carried
    unsaid = record.reserve_reps is None or record.reserve_at_least
    return BareEstimate(max_kg, trust, reps, "", unsaid or not full_depth or said > counted)


def estimate_set(record: SetRecord, rules: Rules) -> SetEstimate:
    """The estimate of one set with the working a coach can read."""
    bare = bare_estimate(record, rules)
    steps = [logged_step(record)]
    if bare.max_kg is not None:
        facts: dict[str, Fact] = {
            "load_kg": record.load_kg,
            "carried_kg": record.carried_kg or 0.0,
            "reps": bare.reps,
            "formula": rules.formula,
            "trust": bare.trust.name.lower(),
            "left": record.reserve_reps or 0,
            "left_cap": rules.reserve_cap_reps,
            "all_to_depth": int(record.reps_to_depth == record.reps),
        }
        steps.append(Step("estimate", facts, bare.max_kg, "kg"))
    return SetEstimate(bare.max_kg, bare.trust, Working(tuple(steps)), bare.why, bare.at_least)


def logged_step(record: SetRecord) -> Step:
    """The set as it was logged; `left` is −1 where nobody said what was left."""
    facts: dict[str, Fact] = {
        "done_on": record.done_on.isoformat(),
        "load_kg": record.load_kg,
        "reps": record.reps,
        "to_depth": record.reps_to_depth,
        "left": -1 if record.reserve_reps is None else record.reserve_reps,
    }
    return Step("logged_set", facts, record.load_kg, "kg")
