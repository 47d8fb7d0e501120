"""The squad's athletes: who they are, their body mass, the rules that hold for each."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from sqlalchemy import BindParameter, bindparam, func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.readiness.checklist import age_years
from backsquat.core.rules import Rules
from backsquat.storage.cache import cached
from backsquat.storage.models import Athlete, BodyMass, Change, Membership, User
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.policy import Act, require
from backsquat.work.squad.consents import set_consent

_DAY: BindParameter[dt.date] = bindparam("day")


# Statements are made once: they are asked at every door, and making one takes longer than running it.
_IDS: BindParameter[int] = bindparam("ids", expanding=True)


def athlete_of(db: Session, squad_id: int, athlete_id: int) -> Athlete:
    """The athlete, if of this squad."""
    athlete = db.get(Athlete, athlete_id)
    if athlete is None or athlete.squad_id != squad_id:
        raise NotThere("athlete")
    return athlete


_OF_SQUAD = select(Athlete).where(Athlete.squad_id == bindparam("squad")).order_by(Athlete.name)  # made once
_ACTIVE, _ARCHIVED = _OF_SQUAD.where(Athlete.active), _OF_SQUAD.where(~Athlete.active)


def squad_athletes(db: Session, squad_id: int) -> list[Athlete]:
    """Everybody in the squad now, by name."""
    return list(cached(db, ("athletes", squad_id), lambda: db.scalars(_ACTIVE, {"squad": squad_id}).all()))


def archived_athletes(db: Session, squad_id: int) -> list[Athlete]:
    """Who was put away, or added by mistake: out of plans and lists, the log kept."""
    return list(cached(db, ("archived", squad_id), lambda: db.scalars(_ARCHIVED, {"squad": squad_id}).all()))


def athlete_names(db: Session, squad_id: int) -> dict[int, str]:
    """Everybody's name by id, of those who are here and those who were."""
    return dict(db.execute(select(Athlete.id, Athlete.name).where(Athlete.squad_id == squad_id)).all())


def archive_athlete(context: WorkContext, athlete_id: int, active: bool = False) -> Change:
    """Out of plans and lists, with the whole log kept; or back again, where nobody else has the name by now."""
    require(context.actor, Act.KEEP_ATHLETES)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    if athlete.active is active:
        raise Refused("archived_already" if not active else "not_archived", name=athlete.name)
    if active and any(other.name == athlete.name for other in squad_athletes(context.db, context.squad_id)):
        raise Refused("name_in_use", name=athlete.name)
    athlete.active = active
    context.db.flush()
    what = "athlete_brought_back" if active else "athlete_archived"
    return remember(context, what=what, subject="athlete", subject_id=athlete.id, before={"active": not active})


AGE_YEARS = (10, 80)
NAME_MOST = 60


BODY_MASS_KG = (25, 250)


@dataclass(frozen=True)
class AthleteFacts:
    """What the athlete form says."""

    name: str
    born_on: dt.date
    body_mass_kg: Decimal | None
    position: str
    newcomer: bool
    consent: bool
    guardian: str = ""  # whose consent it is


FACTS = ("name", "position", "newcomer", "consent", "active")  # undone as they are


def fact_problems(name: str, born_on: dt.date | None, mass_kg: Decimal | None, today: dt.date) -> list[Problem]:
    """What is impossible about somebody, whatever way it came in."""
    found = []
    if len(name) > NAME_MOST:
        found.append(Problem("name", "too_long", {"most": NAME_MOST}))
    low, high = AGE_YEARS
    if born_on and born_on > today:
        found.append(Problem("born_on", "in_future", {"today": today.isoformat()}))
    elif born_on and not low <= age_years(born_on, today) <= high:
        found.append(Problem("born_on", "age_range", {"low": low, "high": high}))
    low, high = BODY_MASS_KG
    if mass_kg is not None and not low <= mass_kg <= high:
        found.append(Problem("body_mass_kg", "mass_range", {"low": low, "high": high}))
    return found


def save_athlete(context: WorkContext, facts: AthleteFacts, athlete_id: int | None = None) -> Athlete:
    """A new athlete, or new facts for one; body mass is added to its history when it changed."""
    require(context.actor, Act.KEEP_ATHLETES)
    if found := fact_problems(facts.name, facts.born_on, facts.body_mass_kg, context.today):
        raise ImpossibleInput(*found)
    taken = context.db.scalars(
        select(Athlete).where(Athlete.squad_id == context.squad_id, Athlete.name == facts.name, Athlete.active)
    ).first()
    if taken and taken.id != athlete_id:
        raise ImpossibleInput(Problem("name", "name_taken", {"name": facts.name}))
    if athlete_id is None:
        athlete = Athlete(squad_id=context.squad_id, by_id=context.actor.user_id, at=context.now)
        before = None
    else:
        athlete = athlete_of(context.db, context.squad_id, athlete_id)
        before = {name: getattr(athlete, name) for name in FACTS} | {"born_on": athlete.born_on.isoformat()}
    _name(context.db, athlete, facts.name)
    athlete.born_on, athlete.position = facts.born_on, facts.position
    athlete.newcomer, athlete.consent = facts.newcomer, bool(athlete.consent)
    context.db.add(athlete)
    context.db.flush()
    set_consent(context, athlete, facts.consent, facts.guardian)
    _weigh(context, athlete.id, facts.body_mass_kg)
    what, before = ("athlete_added", {"active": False}) if before is None else ("athlete_changed", before)
    remember(context, what=what, subject="athlete", subject_id=athlete.id, before=before)
    return athlete


def _name(db: Session, athlete: Athlete, name: str) -> None:
    """The name, and that of the athlete's own sign-in where it was the same: a phone greets nobody else."""
    if athlete.id is not None and athlete.name != name:
        own = select(User).join(Membership, Membership.user_id == User.id)
        for user in db.scalars(own.where(Membership.athlete_id == athlete.id, User.name == athlete.name)):
            user.name = name
    athlete.name = name


def _weigh(context: WorkContext, athlete_id: int, mass_kg: Decimal | None) -> None:
    if mass_kg is None:
        return
    last = context.db.scalars(
        select(BodyMass)
        .where(BodyMass.athlete_id == athlete_id)
        .order_by(BodyMass.measured_on.desc(), BodyMass.id.desc())
    ).first()
    if last is None or last.mass_kg != mass_kg:
        context.db.add(
            BodyMass(
                athlete_id=athlete_id,
                measured_on=context.today,
                mass_kg=mass_kg,
                by_id=context.actor.user_id,
                at=context.now,
            )
        )


def weigh_on(context: WorkContext, athlete_id: int, mass_kg: Decimal, day: dt.date) -> BodyMass | None:
    """A body mass of an earlier day; None where it is known already. ImpossibleInput for a day to come."""
    if day > context.today:
        raise ImpossibleInput(Problem("done_on", "in_future", {"today": context.today.isoformat()}))
    if found := fact_problems("", None, mass_kg, context.today):
        raise ImpossibleInput(*found)
    same = (BodyMass.athlete_id == athlete_id, BodyMass.measured_on == day, BodyMass.mass_kg == mass_kg)
    if context.db.scalars(select(BodyMass.id).where(*same)).first():
        return None
    row = BodyMass(athlete_id=athlete_id, measured_on=day, mass_kg=mass_kg, by_id=context.actor.user_id, at=context.now)
    context.db.add(row)
    context.db.flush()
    return row


@restores("athlete")
def restore_athlete(context: WorkContext, change: Change) -> None:
    """Undo: the facts before; who was added is in the squad no more."""
    athlete = athlete_of(context.db, context.squad_id, change.subject_id)
    if "consent" in change.before:
        set_consent(context, athlete, change.before["consent"], "undone")
    _name(context.db, athlete, change.before.get("name", athlete.name))
    for name, value in change.before.items():
        setattr(athlete, name, dt.date.fromisoformat(value) if name == "born_on" else value)


_PAIN_LINES = select(Athlete.id, Athlete.pain_line).where(Athlete.id.in_(_IDS), Athlete.pain_line.is_not(None))


def own_rules(db: Session, athlete_ids: Sequence[int], rules: Rules) -> dict[int, Rules]:
    """The athlete's own rules, of those who have a pain line of their own."""
    rows = db.execute(_PAIN_LINES, {"ids": list(athlete_ids)})
    return {athlete_id: replace(rules, pain_stop_level=line) for athlete_id, line in rows if line is not None}


def rules_for(athlete: Athlete, rules: Rules) -> Rules:
    """The squad's rules with the athlete's own pain line, where a physio or doctor has set one."""
    return rules if athlete.pain_line is None else replace(rules, pain_stop_level=athlete.pain_line)


_BY_DAY = (BodyMass.measured_on.desc(), BodyMass.id.desc())  # a list may bring those of earlier days later
_RANKED = (
    select(
        BodyMass.athlete_id,
        BodyMass.mass_kg,
        func.row_number().over(partition_by=BodyMass.athlete_id, order_by=_BY_DAY).label("place"),
    ).where(BodyMass.athlete_id.in_(_IDS), BodyMass.measured_on <= _DAY)
).subquery()


_MASSES = select(_RANKED.c.athlete_id, _RANKED.c.mass_kg).where(_RANKED.c.place == 1)


def body_masses(db: Session, athlete_ids: Sequence[int], today: dt.date) -> dict[int, float]:
    """Each athlete's newest body mass in kg up to today."""
    rows = db.execute(_MASSES, {"ids": athlete_ids, "day": today})
    return {athlete_id: float(mass_kg) for athlete_id, mass_kg in rows}


def masses_of(db: Session, athlete_id: int, since: dt.date) -> list[tuple[dt.date, float]]:
    """Every body mass of somebody since a day, oldest first: day, kg."""
    rows = db.execute(
        select(BodyMass.measured_on, BodyMass.mass_kg)
        .where(BodyMass.athlete_id == athlete_id, BodyMass.measured_on >= since)
        .order_by(BodyMass.measured_on, BodyMass.id)
    )
    return [(day, float(mass_kg)) for day, mass_kg in rows]
