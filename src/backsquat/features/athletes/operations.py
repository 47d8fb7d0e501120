"""Writes about one athlete."""

import datetime as dt
from dataclasses import dataclass
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import Movement
from backsquat.core.rules import Rules
from backsquat.core.season.milestone import MilestoneKind
from backsquat.core.strength.current import is_firm
from backsquat.core.strength.estimate import Trust, bare_estimate
from backsquat.core.strength.record import Effort
from backsquat.features.athletes.queries import athlete_of, gate_of, open_stops, stop_locking
from backsquat.features.desk import Actor
from backsquat.features.fields import weighed
from backsquat.features.journal import remember, restores
from backsquat.library.shelf import movements
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import Athlete, BodyMass, Change, Milestone, SetEntry, Stop

AGE_YEARS = (10, 80)
BODY_MASS_KG = (25, 250)
MILESTONE_RANGE = {MilestoneKind.LOAD: (10, 400), MilestoneKind.BODY_MASSES: (0.3, 4)}


@dataclass(frozen=True)
class AthleteFacts:
    """What the athlete form says."""

    name: str
    born_on: dt.date
    body_mass_kg: Decimal | None
    position: str
    newcomer: bool
    shown_sound: bool
    consent: bool


FACTS = ("name", "position", "newcomer", "shown_sound", "consent", "active")  # undone as they are


def save_athlete(
    session: Session, actor: Actor, facts: AthleteFacts, athlete_id: int | None = None
) -> Athlete:
    """A new athlete, or new facts for one; body mass is added to its history when it changed."""
    taken = session.scalars(
        select(Athlete).where(Athlete.squad_id == actor.squad_id, Athlete.name == facts.name, Athlete.active)
    ).first()
    if taken and taken.id != athlete_id:
        raise ImpossibleInput(Problem("name", "name_taken", {"name": facts.name}))
    if athlete_id is None:
        athlete = Athlete(squad_id=actor.squad_id, by_id=actor.user_id, at=actor.now)
        before = None
    else:
        athlete = athlete_of(session, actor.squad_id, athlete_id)
        before = {name: getattr(athlete, name) for name in FACTS} | {"born_on": athlete.born_on.isoformat()}
    athlete.name, athlete.born_on, athlete.position = facts.name, facts.born_on, facts.position
    athlete.newcomer, athlete.shown_sound, athlete.consent = facts.newcomer, facts.shown_sound, facts.consent
    session.add(athlete)
    session.flush()
    _weigh(session, actor, athlete.id, facts.body_mass_kg)
    what, before = ("athlete_added", {"active": False}) if before is None else ("athlete_changed", before)
    remember(session, actor, what=what, subject="athlete", subject_id=athlete.id, before=before)
    return athlete


def _weigh(session: Session, actor: Actor, athlete_id: int, mass_kg: Decimal | None) -> None:
    if mass_kg is None:
        return
    last = session.scalars(
        select(BodyMass).where(BodyMass.athlete_id == athlete_id).order_by(BodyMass.id.desc())
    ).first()
    if last is None or last.mass_kg != mass_kg:
        session.add(
            BodyMass(
                athlete_id=athlete_id,
                measured_on=actor.today,
                mass_kg=mass_kg,
                by_id=actor.user_id,
                at=actor.now,
            )
        )


@restores("athlete")
def restore_athlete(session: Session, actor: Actor, change: Change) -> None:
    athlete = athlete_of(session, actor.squad_id, change.subject_id)
    for name, value in change.before.items():
        setattr(athlete, name, dt.date.fromisoformat(value) if name == "born_on" else value)


@dataclass(frozen=True)
class SetFacts:
    """One set as it was reported, whatever screen it came from."""

    client_id: str
    load: Decimal
    unit: Unit
    reps: int
    reps_to_depth: int
    reserve_reps: int | None
    done_on: dt.date
    fault: str = ""
    pain: int = 0
    pain_place: str = ""
    pain_character: str = ""


def store_set(
    session: Session, actor: Actor, athlete_id: int, movement: Movement, facts: SetFacts, rules: Rules,
    *, effort: Effort, set_number: int = 1, cell_id: int | None = None, corrects_id: int | None = None,
) -> SetEntry:  # fmt: skip
    """Add one set entry with the estimate it gives; the caller has looked for its client id."""
    fault = movement.fault(facts.fault)
    entry = SetEntry(
        client_id=facts.client_id, athlete_id=athlete_id, movement=movement.code, done_on=facts.done_on,
        cell_id=cell_id, effort=effort.value, set_number=set_number, load_amount=facts.load,
        load_unit=facts.unit.value, load_kg=weighed("load", facts.load, facts.unit).kg, reps=facts.reps,
        reps_to_depth=facts.reps_to_depth, depth_standard=movement.depth.code, reserve_reps=facts.reserve_reps,
        fault=fault.code if fault else "", fault_breaking=bool(fault and fault.breaking), pain=facts.pain,
        pain_place=facts.pain_place if facts.pain else "", pain_character=facts.pain_character if facts.pain else "",
        trust=Trust.NONE.value, corrects_id=corrects_id, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    put_estimate(entry, rules)
    session.add(entry)
    session.flush()
    return entry


def stored_before(session: Session, client_id: str) -> SetEntry | None:
    """The entry this client id has made already: a set sent twice is stored once."""
    return session.scalars(select(SetEntry).where(SetEntry.client_id == client_id)).first()


def put_estimate(entry: SetEntry, rules: Rules) -> None:
    """Keep the set's estimate beside it, for lists and trends; the set itself is what counts."""
    record = record_from_row(entry)
    estimate = bare_estimate(record, rules)
    entry.firm = is_firm(record, estimate)
    entry.estimate_kg, entry.trust = estimate.max_kg, estimate.trust.value


def log_test(
    session: Session, actor: Actor, athlete_id: int, movement_code: str, facts: SetFacts, rules: Rules
) -> SetEntry:
    """Record a test set. Nobody locked or not through the gate is tested under a bar."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    movement = movements().get(movement_code)
    if movement is None:
        raise NotThere("movement")
    if facts.done_on < athlete.born_on:
        raise ImpossibleInput(Problem("done_on", "before_birth"))
    known = stored_before(session, facts.client_id)
    if known:
        if known.athlete_id != athlete.id:
            raise Refused("replaced")
        return known
    refuse_unsafe(session, athlete, movement.code, actor.today, rules)
    return store_set(session, actor, athlete.id, movement, facts, rules, effort=Effort.TEST)


def refuse_unsafe(session: Session, athlete: Athlete, movement: str, today: dt.date, rules: Rules) -> None:
    """Raise where the athlete may not do this movement with a bar now."""
    stop = stop_locking(open_stops(session, [athlete.id]).get(athlete.id, ()), movement)
    if stop:
        raise Refused("locked", name=athlete.name, place=stop.place)
    if gate_of(athlete, today, rules):
        raise Refused("gated", name=athlete.name)


def add_milestone(
    session: Session,
    actor: Actor,
    athlete_id: int,
    movement: str,
    kind: MilestoneKind,
    amount: Decimal,
    due_on: dt.date,
) -> Milestone:
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    milestone = Milestone(
        athlete_id=athlete.id, movement=movement, kind=kind.value, amount=amount, due_on=due_on,
        by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(milestone)
    session.flush()
    remember(
        session,
        actor,
        what="milestone_set",
        subject="milestone",
        subject_id=milestone.id,
        before={"dropped": True},
    )
    return milestone


def drop_milestone(session: Session, actor: Actor, milestone_id: int) -> Change:
    milestone = session.get(Milestone, milestone_id)
    if milestone is None or milestone.dropped:
        raise NotThere("milestone")
    athlete_of(session, actor.squad_id, milestone.athlete_id)
    milestone.dropped = True
    return remember(
        session, actor, what="milestone_dropped", subject="milestone", subject_id=milestone.id,
        before={"dropped": False},
    )  # fmt: skip


@restores("milestone")
def restore_milestone(session: Session, _actor: Actor, change: Change) -> None:
    session.get_one(Milestone, change.subject_id).dropped = change.before["dropped"]


@dataclass(frozen=True)
class Clearance:
    """Who opened a stopped movement again, in which role, when, and within which limits."""

    by: str
    role: str
    on: dt.date
    limits: str


def record_clearance(session: Session, actor: Actor, stop_id: int, clearance: Clearance) -> Stop:
    stop = session.get(Stop, stop_id)
    if stop is None or stop.withdrawn or stop.cleared_on:
        raise NotThere("stop")
    athlete_of(session, actor.squad_id, stop.athlete_id)
    if clearance.on < stop.at.date():
        raise ImpossibleInput(Problem("on", "clear_before_stop", {"stopped": stop.at.date().isoformat()}))
    stop.cleared_on, stop.cleared_by, stop.cleared_role = clearance.on, clearance.by, clearance.role
    stop.cleared_limits, stop.cleared_recorded_by_id = clearance.limits, actor.user_id
    return stop
