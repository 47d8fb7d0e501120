"""What athletes sign in with on their own phones: a link until it is taken back, or a code for one session of theirs.

Both are made by the coach, shown once, and kept as digests. A minor needs the guardian's consent on file, and is signed
out while it is not.
"""

import datetime as dt
import secrets

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere, Refused
from backsquat.core.readiness.checklist import lacks_consent
from backsquat.core.roles import Role
from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, AthletePass, Membership, User
from backsquat.work.accounts.people import add_person
from backsquat.work.accounts.sign_ins import digest
from backsquat.work.audit import note
from backsquat.work.context import WorkContext, rules_of
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import athlete_of

CODE_SIGNS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"  # none that look like another
CODE_LENGTH = 8


def give_pass(
    context: WorkContext, athlete_id: int, held: tuple[int, int, dt.date] | None = None
) -> tuple[AthletePass, str]:
    """A link (its token), or a code for one session alone (`held`: it, its week, its day), to the end of its day."""
    require(context.actor, Act.KEEP_ATHLETES)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    if _lacks_consent(athlete, context.today, context.rules):
        raise Refused("consent_for_phone", name=athlete.name)
    user = _account(context, athlete)
    token = secrets.token_urlsafe(32) if held is None else new_code()
    row = AthletePass(
        athlete_id=athlete.id,
        token=digest(plain_code(token) if held else token),
        session_id=held[0] if held else None,
        week=held[1] if held else 0,
        until=dt.datetime.combine(held[2], dt.time.max) if held else None,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(row)
    context.db.flush()
    note(context.db, context.actor, "pass_given", athlete=athlete.id, session=row.session_id, account=user.id)
    return row, token


def new_code() -> str:
    """Eight signs that are easy to read out, in two halves."""
    signs = "".join(secrets.choice(CODE_SIGNS) for _ in range(CODE_LENGTH))
    return f"{signs[:4]}-{signs[4:]}"


def plain_code(typed: str) -> str:
    """A code however it was typed: small letters, spaces, no dash."""
    return "".join(sign for sign in typed.upper() if sign.isalnum())


def _account(context: WorkContext, athlete: Athlete) -> User:
    """The athlete's account, made with the first pass: nobody signs in to it with a password."""
    row = context.db.scalars(select(Membership).where(Membership.athlete_id == athlete.id)).first()
    if row is not None:
        return row.user
    about = {"sign_in": f"athlete {athlete.id}", "name": athlete.name, "password": None, "cost": 1}
    user = add_person(context.db, squad_id=context.squad_id, role=Role.ATHLETE, **about)  # type: ignore[arg-type]
    context.db.scalars(select(Membership).where(Membership.user_id == user.id)).one().athlete_id = athlete.id
    context.db.flush()
    return user


def own_accounts(db: Session) -> dict[int, int]:
    """Accounts of athletes with whose they are: what these wrote the athlete logged alone."""
    rows = db.execute(select(Membership.user_id, Membership.athlete_id).where(Membership.athlete_id.is_not(None)))
    return {user_id: athlete_id for user_id, athlete_id in rows if athlete_id is not None}


def _lacks_consent(athlete: Athlete, today: dt.date, rules: Rules) -> bool:
    return lacks_consent(athlete.born_on, athlete.consent, today, rules)


def pass_by(db: Session, token: str, now: dt.datetime) -> tuple[AthletePass, User]:
    """The pass of a link's token or a typed code, and whose account it opens; NotThere where it is good no more."""
    wanted = [digest(token), digest(plain_code(token))]
    row = db.scalars(select(AthletePass).where(AthletePass.token.in_(wanted))).first()
    member = db.scalars(select(Membership).where(Membership.athlete_id == row.athlete_id)).first() if row else None
    if row is None or member is None or not pass_holds(db, row, now):
        raise NotThere("pass")
    return row, member.user


def pass_holds(db: Session, row: AthletePass, now: dt.datetime) -> bool:
    """Whether it still opens anything: neither taken back nor over, the athlete here, a minor's guardian agreed."""
    athlete = db.get(Athlete, row.athlete_id)
    over = row.ended_at is not None or (row.until is not None and now > row.until)
    if athlete is None or not athlete.active or over:
        return False
    return not _lacks_consent(athlete, now.date(), rules_of(db, athlete.squad_id))


def pass_of(db: Session, pass_id: int | None) -> AthletePass | None:
    """A pass by its number."""
    return db.get(AthletePass, pass_id) if pass_id else None


def passes_of(context: WorkContext, athlete_id: int) -> list[AthletePass]:
    """Those of an athlete that hold now, the newest first."""
    rows = context.db.scalars(
        select(AthletePass).where(AthletePass.athlete_id == athlete_id).order_by(AthletePass.id.desc())
    )
    return [row for row in rows if pass_holds(context.db, row, context.now)]


def end_pass(context: WorkContext, athlete_id: int, pass_id: int) -> AthletePass:
    """Taken back: whoever came in with it is out at the next step."""
    require(context.actor, Act.KEEP_ATHLETES)
    athlete_of(context.db, context.squad_id, athlete_id)
    row = context.db.get(AthletePass, pass_id)
    if row is None or row.athlete_id != athlete_id:
        raise NotThere("pass")
    row.ended_at = row.ended_at or context.now
    note(context.db, context.actor, "pass_ended", athlete=athlete_id, session=row.session_id)
    context.db.flush()
    return row
