"""The one record of a set, for the floor, tests, work of a level, and whatever comes in later.

Whatever was really lifted is stored. What spoke against it when it came in (a stop, a readiness check not passed, a number
that was planned again) is kept beside it as flags; refusing belongs to what is offered, never to what
happened. Entries are only added: a correction points back, a taken-back set says so.
"""

import datetime as dt
import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum
from uuid import uuid4

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import Doubtful, ImpossibleInput, Problem, Refused
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.mass import Unit, exact_mass
from backsquat.core.movements.manner import Manner
from backsquat.core.movements.movement import DepthStandard, HeldWhere, Movement, Region
from backsquat.core.pain import STOPPING, stops
from backsquat.core.readiness.verdict import Readiness, Reason, Verdict
from backsquat.core.rules import Rules
from backsquat.core.strength.doubt import doubts
from backsquat.core.strength.estimate import Trust
from backsquat.core.strength.record import REPS_MOST, Effort, problems
from backsquat.core.strength.set_notes import SetNotes, set_notes_from
from backsquat.storage.models import Athlete, SetEntry, Stop
from backsquat.work.actor import Actor
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.log.beliefs import bring_up_to_date
from backsquat.work.log.depth import depth_of
from backsquat.work.log.estimates import put_estimate
from backsquat.work.log.sets import best_on_record, stored_before
from backsquat.work.policy import Act, may, only_own, require
from backsquat.work.readiness.load import readiness_one
from backsquat.work.record.stops import PainFacts, put_stop
from backsquat.work.squad.athletes import body_masses, rules_for

NO_NOTES, PLAIN = SetNotes(), Manner()
WITHDRAWN_SHOWS = (  # what the entry that takes a set back repeats of it
    *("athlete_id", "movement", "family", "done_on", "side", "cell_id", "effort", "set_number", "load_amount"),
    *("load_unit", "load_kg", "reps", "reps_to_depth", "depth_standard", "reserve_reps", "reserve_at_least", "manner"),
)


class Flag(StrEnum):
    """What spoke against a set when it was received; those of a verdict have its reasons' codes."""

    STOPPED = Reason.STOPPED.value
    AWAY = Reason.AWAY.value
    BARRED = Reason.BARRED.value
    NOT_READY = Reason.NOT_READY.value
    UNEARNED = Reason.UNEARNED.value
    OVER_LIMIT = Reason.OVER_LIMIT.value
    REPLANNED = "replanned"  # for a number that another had replaced by then
    ALSO_LOGGED = "also_logged"  # another device had logged a set meanwhile: both are kept
    EXTRA = "extra"  # beyond the sets asked for
    DOUBTED = "doubted"  # far from what was to be expected, and somebody said it was so, or nobody could be asked
    NOT_IN_STOCK = "not_in_stock"  # no load of the room
    NOT_ASKED = "not_asked"  # where the plan had nothing to lift
    MOVED = "moved"  # its session had been moved to a later day by then
    SAME_ID = "same_id"  # the device had sent something else by the same name: both are kept
    IMPORTED = "imported"  # from a log kept elsewhere: nobody here saw it


@dataclass(frozen=True)
class SetFacts:
    """One set as it was reported, whatever screen or device it came from."""

    client_id: str
    load: Decimal
    unit: Unit
    reps: int
    reps_to_depth: int
    reserve_reps: int | None  # None: nobody said
    done_on: dt.date
    fault: str = ""
    pain: int = 0
    pain_region: str = ""
    pain_character: str = ""
    hold_s: int | None = None
    supported: bool = False
    side: str = ""
    happened_at: dt.datetime | None = None  # when it was lifted, where that is known
    device_at: dt.datetime | None = None  # what the device's clock said when it was sent
    seen: int | None = None  # how many sets of the exposure the one who logs could see; None: not known
    confirmed: frozenset[str] | None = None  # questions that were said yes to; None: nobody can be asked
    faults: tuple[str, ...] = ()  # all that were seen; empty: `fault` alone
    left_reps: int | None = None  # where both sides were done as one set: `reps` is then the fewer of the two
    right_reps: int | None = None
    notes: SetNotes = NO_NOTES
    reserve_at_least: bool = False  # said as "so many or more"
    own_ids: frozenset[str] = frozenset()  # client ids of sets the same device has sent: no other's


@dataclass(frozen=True)
class Occasion:
    """What a set was done for: a planned cell's n-th set, a test, work outside any block."""

    effort: Effort
    cell_id: int | None = None
    set_number: int = 1
    corrects_id: int | None = None
    flags: tuple[Flag, ...] = ()
    manner: Manner = PLAIN  # how the exercise asks it to be done
    asked: tuple[int, int] | None = None  # reps and reserve the plan asks at the load of the set; None: nothing


@dataclass(frozen=True)
class StoredSet:
    """The entry as it stands, the stop it led to, and whether it was here before."""

    entry: SetEntry
    stop: Stop | None = None
    again: bool = False


@dataclass
class Lifter:
    """An athlete at a movement, with what every set of it asks: read once for all of them."""

    athlete: Athlete
    movement: Movement
    ready: Readiness
    depth: DepthStandard
    body_kg: float | None
    stored: dict[str, SetEntry]  # by client id, what is here already
    best_kg: float | None = None  # the best estimate on record


def lifter(context: WorkContext, athlete: Athlete, movement: Movement, sets: Sequence[SetFacts]) -> Lifter:
    """What is known before these sets of one day are stored."""
    ready = readiness_one(context.db, athlete, context.today, context.rules)
    first = min((facts.done_on for facts in sets), default=context.today)
    today = first == context.today
    return Lifter(
        athlete,
        movement,
        ready,
        depth_of(context.db, athlete.id, movement),
        ready.body_mass_kg if today else body_masses(context.db, [athlete.id], first).get(athlete.id),
        stored_before(context.db, [facts.client_id for facts in sets]),
        best_on_record(context.db, athlete.id, movement.code),
    )


def store_set(context: WorkContext, who: Lifter, facts: SetFacts, occasion: Occasion) -> StoredSet:
    """Check, flag and keep one set, with its estimate and the stop its pain asks for.

    ImpossibleInput where it cannot have been so. The same client id keeps one set; the same id for
    somebody else is refused.
    """
    require(context.actor, Act.LOG_OWN)
    only_own(context.actor, who.athlete.id)
    known = who.stored.get(facts.client_id)
    if known and _says_the_same(known, facts, who):
        return StoredSet(known, again=True)
    if known:  # another set by the same name: kept beside it, by a name that what it says gives it
        facts = replace(facts, client_id=_second_name(facts))
        occasion = replace(occasion, flags=(*occasion.flags, Flag.SAME_ID))
        if second := stored_before(context.db, [facts.client_id]).get(facts.client_id):
            return StoredSet(second, again=True)
    found = [*set_problems(facts, who.movement, context.today), *_before_birth(facts, who.athlete)]
    if found:
        raise ImpossibleInput(*found)
    load_kg = exact_mass("load", facts.load, facts.unit).kg
    verdict = who.ready.judge(who.movement, facts.done_on, load_kg)
    own = rules_for(who.athlete, context.rules)
    asked = doubts(who.movement, load_kg, facts.reps, who.body_kg, who.best_kg, own) if facts.load > 0 else []
    if asked:
        ask(facts, asked)
    entry = _entry(context.actor, who, facts, occasion)
    entry.flags = [flag.value for flag in (*_flags(verdict, facts.done_on), *occasion.flags)]
    entry.flags += [Flag.DOUBTED.value] if asked else []
    put_estimate(entry, own)
    context.db.add(entry)
    context.db.flush()
    _believe(context.db, entry, own)
    who.stored[facts.client_id] = entry
    stop = _stop(context.ruled_by(own), entry, who.movement)
    if stop:  # the sets after it are judged with it
        who.ready = readiness_one(context.db, who.athlete, context.today, context.rules)
    return StoredSet(entry, stop)


def _says_the_same(entry: SetEntry, facts: SetFacts, who: Lifter) -> bool:
    """Whether a set is one that is here already, sent again; one corrected since may still be waiting on a device."""
    about = (entry.athlete_id, entry.movement, entry.reps, entry.load_amount, entry.hold_s, entry.pain_region)
    return about == (
        *(who.athlete.id, who.movement.code, facts.reps, facts.load, facts.hold_s),
        facts.pain_region if facts.pain else "",
    )


def _second_name(facts: SetFacts) -> str:
    said = repr((facts.load, facts.reps, facts.reps_to_depth, facts.hold_s, facts.pain, facts.pain_region, facts.side))
    return f"{facts.client_id[:50]}-{hashlib.sha256(said.encode()).hexdigest()[:12]}"


def keep_past(context: WorkContext, who: Lifter, facts: SetFacts) -> SetEntry | None:
    """Keep one set of a log kept elsewhere; None where it is here already. What is believed is brought up to date by
    whoever takes in the whole log; no readiness check is judged by it set by set: what it shows as a whole is
    `proven_days` in work/readiness/load.py.
    """
    if facts.client_id in who.stored:
        return None
    found = [*set_problems(facts, who.movement, context.today), *_before_birth(facts, who.athlete)]
    if found:
        raise ImpossibleInput(*found)
    entry = _entry(context.actor, who, facts, Occasion(Effort.WORK))
    own = rules_for(who.athlete, context.rules)
    asked = facts.load > 0 and doubts(who.movement, entry.load_kg, facts.reps, who.body_kg, who.best_kg, own)
    entry.flags = [Flag.IMPORTED.value, *([Flag.DOUBTED.value] if asked else [])]
    put_estimate(entry, own)
    context.db.add(entry)
    who.stored[facts.client_id] = entry
    return entry


def _believe(db: Session, entry: SetEntry, rules: Rules) -> None:
    """Bring what is believed up to date; of the set it corrects too, which may be of another day or movement."""
    first = entry.done_on
    old = db.get(SetEntry, entry.corrects_id) if entry.corrects_id else None
    if old is not None and old.movement == entry.movement:
        first = min(first, old.done_on)
    elif old is not None:
        bring_up_to_date(db, old.athlete_id, old.movement, old.done_on, rules)
    bring_up_to_date(db, entry.athlete_id, entry.movement, first, rules)


def ask(facts: SetFacts, questions: Sequence[Problem]) -> None:
    """Raise what nobody has said yes to yet; a device that cannot ask keeps the set, marked."""
    if facts.confirmed is not None:
        left = [question for question in questions if question.code not in facts.confirmed]
        if left:
            raise Doubtful(*left)


def set_problems(facts: SetFacts, movement: Movement, today: dt.date) -> list[Problem]:
    """Everything impossible about a set as it was reported, all at once."""
    convention = CONVENTIONS[movement.convention]
    found = problems(
        load_kg=float(facts.load),
        reps=facts.reps,
        reps_to_depth=facts.reps_to_depth,
        reserve_reps=facts.reserve_reps,
        done_on=facts.done_on,
        today=today,
        pain=facts.pain,
        may_be_unloaded=not convention.loaded,
        helped=convention.helps,
        hold_s=facts.hold_s,
    )
    if facts.pain and facts.pain_region not in set(Region):
        found.append(Problem("pain_region", "pain_needs_region"))
    # A bad pain that nobody rated must not pass as none.
    if not facts.pain and (facts.pain_region or facts.pain_character in STOPPING):
        found.append(Problem("pain", "pain_needs_level"))
    for name in ("left_reps", "right_reps"):
        if not 0 <= (getattr(facts, name) or 0) <= REPS_MOST:
            found.append(Problem(name, "reps_range", {"most": REPS_MOST}))
    return found + facts.notes.problems()


def facts_of(entry: SetEntry) -> SetFacts:
    """A logged set as it was reported, to be said again with one thing more."""
    return SetFacts(
        client_id=entry.client_id,
        load=entry.load_amount,
        unit=Unit(entry.load_unit),
        reps=entry.reps,
        reps_to_depth=entry.reps_to_depth,
        reserve_reps=entry.reserve_reps,
        reserve_at_least=entry.reserve_at_least,
        done_on=entry.done_on,
        fault=entry.fault,
        faults=tuple(entry.faults),
        pain=entry.pain,
        pain_region=entry.pain_region,
        pain_character=entry.pain_character,
        hold_s=entry.hold_s,
        supported=entry.supported,
        side=entry.side,
        happened_at=entry.happened_at,
        device_at=entry.device_at,
        left_reps=entry.left_reps,
        right_reps=entry.right_reps,
        notes=set_notes_from(entry.notes),
    )


def _before_birth(facts: SetFacts, athlete: Athlete) -> Sequence[Problem]:
    return (Problem("done_on", "before_birth"),) if facts.done_on < athlete.born_on else ()


def _flags(verdict: Verdict, done_on: dt.date) -> Sequence[Flag]:
    """The verdict's reasons as flags; what was lifted before a stop began is not held against it."""
    return [
        Flag(obstacle.reason.value)
        for obstacle in verdict.obstacles
        if obstacle.stop is None or obstacle.stop.at.date() <= done_on
    ]


def _entry(actor: Actor, who: Lifter, facts: SetFacts, occasion: Occasion) -> SetEntry:
    movement = who.movement
    seen = [fault for code in facts.faults or (facts.fault,) if (fault := movement.fault(code))]
    fault = max(seen, key=lambda one: one.breaking, default=None)  # the gravest, the first of several
    both = movement.sides == 2 and facts.left_reps is not None and facts.right_reps is not None
    return SetEntry(
        client_id=facts.client_id,
        athlete_id=who.athlete.id,
        movement=movement.code,
        family=movement.family.value,
        done_on=facts.done_on,
        happened_at=facts.happened_at,
        device_at=facts.device_at,
        cell_id=occasion.cell_id,
        effort=occasion.effort,
        set_number=occasion.set_number,
        corrects_id=occasion.corrects_id,
        load_amount=facts.load,
        load_unit=facts.unit.value,
        load_kg=exact_mass("load", facts.load, facts.unit).kg,
        carried_kg=movement.carried_kg(who.body_kg) if facts.load or not movement.takes_load else None,
        hold_s=facts.hold_s,
        side=facts.side if movement.sides == 2 and not both else "",
        left_reps=facts.left_reps if both else None,
        right_reps=facts.right_reps if both else None,
        supported=any((facts.supported, facts.notes.left_supported, facts.notes.right_supported))
        and movement.held is not HeldWhere.SUPPORT,
        reps=facts.reps,
        reps_to_depth=facts.reps_to_depth,
        depth_standard=occasion.manner.depth_code(who.depth.code),
        manner=occasion.manner.line,
        faults=[one.code for one in seen],
        notes=facts.notes.to_plain(),
        reserve_reps=facts.reserve_reps,
        reserve_at_least=facts.reserve_at_least and facts.reserve_reps is not None,
        asked_reps=occasion.asked[0] if occasion.asked else None,
        asked_reserve=occasion.asked[1] if occasion.asked else None,
        fault=fault.code if fault else "",
        fault_breaking=any(one.breaking for one in seen),
        pain=facts.pain,
        pain_region=facts.pain_region if facts.pain else "",
        pain_character=facts.pain_character if facts.pain else "",
        trust=Trust.NONE.value,
        by_id=actor.user_id,
        at=actor.now,
    )


def _stop(context: WorkContext, entry: SetEntry, movement: Movement) -> Stop | None:
    """Lock what must be locked where a set says stopping pain; `rules` are the athlete's own."""
    if not entry.pain or not stops(entry.pain, entry.pain_character, context.rules):
        return None
    facts = PainFacts(entry.client_id, entry.pain_region, entry.pain_character, entry.pain)
    return put_stop(context, entry.athlete_id, movement, facts, entry=entry)


def take_entry_back(context: WorkContext, entry: SetEntry) -> SetEntry:
    """An entry that says another never happened; a stop that came from it stays, and says so."""
    back = never_happened(context, entry)
    own = rules_for(context.db.get_one(Athlete, entry.athlete_id), context.rules)
    bring_up_to_date(context.db, entry.athlete_id, entry.movement, entry.done_on, own)
    mark_report(context, entry, back)
    return back


def never_happened(context: WorkContext, entry: SetEntry) -> SetEntry:
    """The entry that says so; what is believed follows with whoever takes back many."""
    entry.standing = False
    context.db.flush()
    back = SetEntry(
        **{name: getattr(entry, name) for name in WITHDRAWN_SHOWS},
        client_id=str(uuid4()),
        trust=0,
        corrects_id=entry.id,
        withdrawn=True,
        standing=False,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(back)
    context.db.flush()
    return back


def may_correct(context: WorkContext, entry: SetEntry) -> None:
    """Refused where a set with pain is corrected by somebody else, or too late; coach and physio always may."""
    if not entry.pain or may(context.actor.role, Act.TREAT):
        return
    minutes = (context.now - entry.at).total_seconds() / 60
    if entry.by_id != context.actor.user_id or minutes > context.rules.correct_pain_min:
        raise Refused("pain_reported", minutes=context.rules.correct_pain_min)


def mark_report(context: WorkContext, entry: SetEntry, new: SetEntry, stop: Stop | None = None) -> None:
    """The set behind a stop was corrected or taken back: the stop stays until it is cleared, and says so.

    Only a new stop of the same region takes its stead; the movement is the same, as it is in every correction.
    """
    for known in context.db.scalars(select(Stop).where(Stop.set_id == entry.id, Stop.cleared_on.is_(None))):
        known.report_changed_by_id, known.report_changed_at = context.actor.user_id, context.now
        same = stop is not None and stop.region == known.region
        known.withdrawn = known.withdrawn or same
        about = {"athlete": entry.athlete_id, "stop": known.id, "set": entry.id, "by_set": new.id, "replaced": same}
        note(context.db, context.actor, "report_changed", **about)
    context.db.flush()
