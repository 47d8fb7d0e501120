"""Writes about one athlete."""

import datetime as dt
from dataclasses import dataclass
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import DepthStandard, Held, Movement, Region
from backsquat.core.readiness.pain import locked_by, stops
from backsquat.core.rules import Rules
from backsquat.core.season.milestone import MilestoneKind
from backsquat.core.strength.current import is_firm
from backsquat.core.strength.estimate import Trust, bare_estimate
from backsquat.core.strength.record import Effort
from backsquat.features.athletes.queries import athlete_of
from backsquat.features.athletes.readiness import Readiness, readiness_one, rules_for
from backsquat.features.athletes.readings import body_masses
from backsquat.features.desk import Actor
from backsquat.features.fields import weighed
from backsquat.features.journal import remember, restores
from backsquat.features.movements.queries import Library, library_of
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import Athlete, BodyMass, Change, DepthChoice, Milestone, SetEntry, Stop

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
    consent: bool


FACTS = ("name", "position", "newcomer", "consent", "active")  # undone as they are


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
    athlete.newcomer, athlete.consent = facts.newcomer, facts.consent
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
    hold_s: int | None = None
    supported: bool = False
    side: str = ""


def store_set(
    session: Session, actor: Actor, athlete_id: int, movement: Movement, facts: SetFacts, rules: Rules,
    *, effort: Effort, set_number: int = 1, cell_id: int | None = None, corrects_id: int | None = None,
) -> SetEntry:  # fmt: skip
    """Add one set entry with the estimate it gives; the caller has looked for its client id."""
    rules = rules_for(session.get_one(Athlete, athlete_id), rules)
    fault = movement.fault(facts.fault)
    mass = body_masses(session, [athlete_id], facts.done_on).get(athlete_id) if movement.body_share else None
    entry = SetEntry(
        client_id=facts.client_id, athlete_id=athlete_id, movement=movement.code, done_on=facts.done_on,
        family=movement.family.value, carried_kg=movement.carried_kg(mass), hold_s=facts.hold_s,
        side=facts.side if movement.sides == 2 else "", supported=facts.supported and movement.held is not Held.SUPPORT,
        cell_id=cell_id, effort=effort.value, set_number=set_number, load_amount=facts.load,
        load_unit=facts.unit.value, load_kg=weighed("load", facts.load, facts.unit).kg, reps=facts.reps,
        reps_to_depth=facts.reps_to_depth, depth_standard=depth_of(session, athlete_id, movement).code,
        reserve_reps=facts.reserve_reps,
        fault=fault.code if fault else "", fault_breaking=bool(fault and fault.breaking), pain=facts.pain,
        pain_place=facts.pain_place if facts.pain else "", pain_character=facts.pain_character if facts.pain else "",
        trust=Trust.NONE.value, corrects_id=corrects_id, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    put_estimate(entry, rules)
    session.add(entry)
    session.flush()
    return entry


def depth_of(session: Session, athlete_id: int, movement: Movement) -> DepthStandard:
    """The depth standard of this athlete for this movement: their own, or the movement's."""
    own = session.scalars(
        select(DepthChoice)
        .where(DepthChoice.athlete_id == athlete_id, DepthChoice.movement == movement.code)
        .order_by(DepthChoice.id.desc())
    ).first()
    return DepthStandard(own.code, own.words) if own else movement.depth


def stop_for_pain(
    session: Session, actor: Actor, entry: SetEntry, movement: Movement, library: Library, rules: Rules
) -> Stop | None:
    """Lock what must be locked where a set says stopping pain."""
    rules = rules_for(session.get_one(Athlete, entry.athlete_id), rules)
    if not entry.pain or not stops(entry.pain, entry.pain_character, rules):
        return None
    locked = locked_by(movement, Region(entry.pain_place), library.movements.values())
    stop = Stop(
        athlete_id=entry.athlete_id, set_id=entry.id, movement=movement.code, locked=sorted(locked),
        level=entry.pain, place=entry.pain_place, character=entry.pain_character, by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(stop)
    session.flush()
    return stop


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
    movement = library_of(session, actor.squad_id).get(movement_code)
    if facts.done_on < athlete.born_on:
        raise ImpossibleInput(Problem("done_on", "before_birth"))
    known = stored_before(session, facts.client_id)
    if known:
        if known.athlete_id != athlete.id:
            raise Refused("replaced")
        return known
    refuse_unsafe(session, athlete, movement, actor.today, rules)
    return store_set(session, actor, athlete.id, movement, facts, rules, effort=Effort.TEST)


def refuse_unsafe(
    session: Session, athlete: Athlete, movement: Movement, today: dt.date, rules: Rules
) -> None:
    """Raise where the athlete may not do this movement now: locked, barred, or behind a shut gate."""
    refuse_unready(readiness_one(session, athlete, today, rules), movement)


def refuse_unready(ready: Readiness, movement: Movement) -> None:
    """The same, where the readiness has been read already."""
    athlete = ready.athlete
    stop, barred = ready.stop_on(movement), ready.bounds(movement).barred_by
    if stop:
        raise Refused("locked", name=athlete.name, place=stop.place)
    if ready.absent:
        raise Refused("away", name=athlete.name, since=f"{ready.absent.first_on:%d %B}")
    if barred:
        raise Refused("barred", name=athlete.name, movement=movement.name, by=barred.set_by)
    if ready.gate(movement):
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
