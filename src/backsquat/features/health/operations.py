"""Limits, absences and returns, health notes, clearances. Ended, never removed; every one names its person."""

import datetime as dt

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.movements.ladder import rung_beyond
from backsquat.core.movements.movement import BARS, Family, Region
from backsquat.core.readiness.absence import NEEDS_CLEARANCE, ReEntry, Why, re_entry
from backsquat.core.readiness.limits import Limit as LimitFacts
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.core.readiness.pain import locks
from backsquat.core.rules import Rules
from backsquat.features.athletes.operations import Clearance, record_clearance
from backsquat.features.athletes.queries import athlete_of
from backsquat.features.athletes.readiness import readiness_one
from backsquat.features.athletes.readings import core_limit
from backsquat.features.blocks.operations import replan_athlete
from backsquat.features.desk import Actor, rules_of
from backsquat.features.health.queries import missed_sessions
from backsquat.features.journal import remember, restores
from backsquat.features.ladders.operations import move_rung
from backsquat.features.movements.queries import library_of
from backsquat.storage.models import Absence, Change, HealthNote, Limit, Reading, ScreenResult, Stop

LIMIT_KG = (0, 400)


def add_limit(
    session: Session,
    actor: Actor,
    athlete_id: int,
    facts: LimitFacts,
    rules: Rules,
    stop_id: int | None = None,
) -> Limit:
    """A limit from a day on; the weeks to come follow it at once, as drafts."""
    athlete_of(session, actor.squad_id, athlete_id)
    _check_limit(session, actor, facts)
    limit = Limit(
        athlete_id=athlete_id, scope=facts.scope.value, what=facts.what, kind=facts.kind.value, load_kg=facts.load_kg,
        words=facts.words, from_on=facts.from_on, until_on=facts.until_on, set_by=facts.set_by, stop_id=stop_id,
        by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(limit)
    session.flush()
    remember(session, actor, what="limit_set", subject="limit", subject_id=limit.id, before={"ended": True})
    replan_athlete(session, actor, athlete_id, rules, core_limit(limit).touches)
    return limit


def _check_limit(session: Session, actor: Actor, facts: LimitFacts) -> None:
    known = {
        Scope.MOVEMENT: set(library_of(session, actor.squad_id).movements),
        Scope.FAMILY: {family.value for family in Family}, Scope.REGION: {region.value for region in Region},
    }  # fmt: skip
    found = []
    if facts.what not in known[facts.scope]:
        found.append(Problem("what", "unknown_what"))
    low, high = LIMIT_KG
    if facts.kind is LimitKind.LOAD and (facts.load_kg is None or not low <= facts.load_kg <= high):
        found.append(Problem("load_kg", "out_of_range", {"low": low, "high": high}))
    if facts.kind in (LimitKind.RANGE, LimitKind.SIDE) and not facts.words:
        found.append(
            Problem("words", "limit_needs", {"what": "for example to thigh level, or right side only"})
        )
    if facts.until_on and facts.until_on < facts.from_on:
        found.append(Problem("until_on", "until_before", {"first": facts.from_on.isoformat()}))
    if found:
        raise ImpossibleInput(*found)


def end_limit(session: Session, actor: Actor, limit_id: int, rules: Rules) -> Change:
    limit = session.get(Limit, limit_id)
    if limit is None or limit.ended:
        raise NotThere("limit")
    athlete_of(session, actor.squad_id, limit.athlete_id)
    limit.ended = True
    change = remember(
        session, actor, what="limit_ended", subject="limit", subject_id=limit.id, before={"ended": False}
    )
    replan_athlete(session, actor, limit.athlete_id, rules, core_limit(limit).touches)
    return change


@restores("limit")
def restore_limit(session: Session, actor: Actor, change: Change) -> None:
    limit = session.get_one(Limit, change.subject_id)
    limit.ended = change.before["ended"]
    session.flush()
    replan_athlete(
        session, actor, limit.athlete_id, rules_of(session, actor.squad_id), core_limit(limit).touches
    )


def go_away(session: Session, actor: Actor, athlete_id: int, first_on: dt.date, why: Why) -> Absence:
    """Record that an athlete is away from a day on. One absence at a time."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    if first_on > actor.today:
        raise ImpossibleInput(Problem("first_on", "in_future", {"today": actor.today.isoformat()}))
    open_one = session.scalars(
        select(Absence.id).where(
            Absence.athlete_id == athlete.id, Absence.back_on.is_(None), ~Absence.withdrawn
        )
    ).first()
    if open_one:
        raise Refused("still_away")
    absence = Absence(
        athlete_id=athlete.id, first_on=first_on, back_on=None, why=why.value, weeks=[], by_id=actor.user_id,
        at=actor.now,
    )  # fmt: skip
    session.add(absence)
    session.flush()
    remember(
        session,
        actor,
        what="absence_added",
        subject="absence",
        subject_id=absence.id,
        before={"withdrawn": True},
    )
    return absence


def proposal(session: Session, absence: Absence, back_on: dt.date, rules: Rules) -> ReEntry:
    """What the re-entry rule proposes for coming back on a day."""
    missed = missed_sessions(session, absence.athlete_id, absence.first_on, back_on)
    return re_entry((back_on - absence.first_on).days, missed, Why(absence.why), rules)


def come_back(
    session: Session, actor: Actor, absence_id: int, back_on: dt.date, cleared: str, rules: Rules
) -> tuple[Absence, ReEntry]:
    """Accept the return as the rule proposes it: eased weeks, a rung back, and the plan made anew as a draft."""
    absence = session.get(Absence, absence_id)
    if absence is None or absence.withdrawn or absence.back_on:
        raise NotThere("absence")
    athlete = athlete_of(session, actor.squad_id, absence.athlete_id)
    if back_on < absence.first_on:
        raise ImpossibleInput(Problem("back_on", "back_before", {"first": absence.first_on.isoformat()}))
    if back_on > actor.today + dt.timedelta(days=14):
        raise ImpossibleInput(Problem("back_on", "in_future", {"today": actor.today.isoformat()}))
    plan = proposal(session, absence, back_on, rules)
    if Why(absence.why) in NEEDS_CLEARANCE and not cleared.strip():
        raise Refused("not_cleared")
    if plan.screen and not _screened_since(session, athlete.id, absence.first_on):
        raise Refused("screen_first", days=(back_on - absence.first_on).days)
    absence.back_on, absence.cleared = back_on, cleared.strip()[:80]
    absence.weeks = [[week.load_share, week.sets_share] for week in plan.weeks]
    session.flush()
    remember(
        session, actor, what="returned", subject="return", subject_id=absence.id, before={"back_on": None}
    )
    if plan.stage_back:
        _rung_back(session, actor, athlete.id, (back_on - absence.first_on).days, rules)
    replan_athlete(session, actor, athlete.id, rules)
    return absence, plan


def _screened_since(session: Session, athlete_id: int, day: dt.date) -> bool:
    row = session.scalars(
        select(ScreenResult.id).where(
            ScreenResult.athlete_id == athlete_id, ScreenResult.screen == "standing_squat",
            ScreenResult.done_on > day, ~ScreenResult.replaced, ScreenResult.value.is_not(None),
        )
    ).first()  # fmt: skip
    return row is not None


def _rung_back(session: Session, actor: Actor, athlete_id: int, days: int, rules: Rules) -> None:
    """One rung back where an athlete works on rungs; who lifts a bar has the load eased instead."""
    athlete, library = athlete_of(session, actor.squad_id, athlete_id), library_of(session, actor.squad_id)
    ready = readiness_one(session, athlete, actor.today, rules)
    for code, move in ready.rungs.items():
        movement = library.movements.get(move.movement)
        if movement is None or movement.implement in BARS:
            continue
        beyond = rung_beyond(library.ladders[code], move.rung, -1, ready.may)
        if beyond:
            reason = f"back after {days} days away"
            move_rung(session, actor, athlete_id, code, beyond[1][0], rules, way="easier", reason=reason)


def withdraw_absence(session: Session, actor: Actor, absence_id: int, rules: Rules) -> Change:
    """It was recorded by mistake."""
    absence = session.get(Absence, absence_id)
    if absence is None or absence.withdrawn:
        raise NotThere("absence")
    athlete_of(session, actor.squad_id, absence.athlete_id)
    absence.withdrawn = True
    change = remember(
        session, actor, what="absence_withdrawn", subject="absence", subject_id=absence.id,
        before={"withdrawn": False},
    )  # fmt: skip
    replan_athlete(session, actor, absence.athlete_id, rules)
    return change


@restores("absence")
def restore_absence(session: Session, actor: Actor, change: Change) -> None:
    absence = session.get_one(Absence, change.subject_id)
    absence.withdrawn = change.before["withdrawn"]
    session.flush()
    replan_athlete(session, actor, absence.athlete_id, rules_of(session, actor.squad_id))


@restores("return")
def restore_return(session: Session, actor: Actor, change: Change) -> None:
    absence = session.get_one(Absence, change.subject_id)
    absence.back_on, absence.weeks, absence.cleared = None, [], ""
    session.flush()
    replan_athlete(session, actor, absence.athlete_id, rules_of(session, actor.squad_id))


def clear_stop(
    session: Session, actor: Actor, stop_id: int, clearance: Clearance, limit: LimitFacts | None, rules: Rules
) -> tuple[Stop, ReEntry]:
    """A clearance ends a stop; the return is eased by the days it lasted, one week at the least, within its limit."""
    stop = record_clearance(session, actor, stop_id, clearance)
    stopped_on = stop.at.date()
    days = max((clearance.on - stopped_on).days, rules.absence_short_days)
    missed = missed_sessions(session, stop.athlete_id, stopped_on, clearance.on)
    plan = re_entry(days, missed, Why.PAIN, rules)
    session.add(
        Absence(
            athlete_id=stop.athlete_id, first_on=stopped_on, back_on=clearance.on, why=Why.PAIN.value,
            cleared=f"{clearance.by}, {clearance.role}", movement=stop.movement, place=stop.place,
            weeks=[[week.load_share, week.sets_share] for week in plan.weeks], by_id=actor.user_id, at=actor.now,
        )
    )  # fmt: skip
    session.flush()
    if limit:
        add_limit(session, actor, stop.athlete_id, limit, rules, stop.id)
    stopped = library_of(session, actor.squad_id).movements.get(stop.movement)
    family = stopped.family if stopped else None
    replan_athlete(
        session,
        actor,
        stop.athlete_id,
        rules,
        lambda movement: locks(stop.movement, family, stop.place, movement),
    )
    return stop, plan


def set_pain_line(session: Session, actor: Actor, athlete_id: int, level: int | None, by: str) -> Change:
    """Another pain line for one athlete, on the word of a physio or doctor; None gives the squad's back."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    found = []
    if level is not None and not 1 <= level <= 10:
        found.append(Problem("pain_line", "out_of_range", {"low": 1, "high": 10}))
    if level is not None and not by.strip():
        found.append(Problem("pain_line", "line_by"))
    if found:
        raise ImpossibleInput(*found)
    before = {"pain_line": athlete.pain_line, "pain_line_by": athlete.pain_line_by}
    athlete.pain_line, athlete.pain_line_by = level, by.strip()[:80] if level is not None else ""
    session.flush()
    return remember(
        session, actor, what="pain_line_set", subject="athlete", subject_id=athlete.id, before=before
    )


def add_note(session: Session, actor: Actor, athlete_id: int, words: str, region: str) -> HealthNote:
    athlete_of(session, actor.squad_id, athlete_id)
    found = []
    if not words.strip():
        found.append(Problem("words", "missing"))
    if len(words) > 500:
        found.append(Problem("words", "too_long", {"most": 500}))
    if region and region not in set(Region):
        found.append(Problem("region", "unknown_what"))
    if found:
        raise ImpossibleInput(*found)
    note = HealthNote(
        athlete_id=athlete_id, region=region, words=words.strip(), by_id=actor.user_id, at=actor.now
    )
    session.add(note)
    session.flush()
    return note


def end_note(session: Session, actor: Actor, note_id: int) -> None:
    note = session.get(HealthNote, note_id)
    if note is None or note.ended:
        raise NotThere("note")
    athlete_of(session, actor.squad_id, note.athlete_id)
    note.ended = True


def log_reading(session: Session, actor: Actor, athlete_id: int) -> None:
    """Opening somebody's health notes leaves a line; one a person and day is enough."""
    again = session.scalars(
        select(Reading.at)
        .where(Reading.athlete_id == athlete_id, Reading.by_id == actor.user_id)
        .order_by(Reading.id.desc())
    ).first()
    if again is None or again.date() != actor.today:
        session.add(Reading(athlete_id=athlete_id, what="health notes", by_id=actor.user_id, at=actor.now))
