"""A guardian's consent: given and withdrawn, each with who and when."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.storage.models import Athlete, Consent, User
from backsquat.work.actor import Actor
from backsquat.work.audit import note
from backsquat.work.policy import Act, require

LIFTING = "lifting"  # with a weight or a machine: what a minor needs it for
GUARDIAN_MOST = 80


def set_consent(session: Session, actor: Actor, athlete: Athlete, given: bool, guardian: str = "") -> None:
    """Give or withdraw; nothing where it stands so already. The athlete's present state follows the record."""
    require(actor, Act.KEEP_ATHLETES)
    if given == athlete.consent:
        return
    athlete.consent = given
    session.flush()
    if given:
        session.add(
            Consent(
                athlete_id=athlete.id,
                given_by=guardian.strip()[:GUARDIAN_MOST],
                purpose=LIFTING,
                given_on=actor.today,
                by_id=actor.user_id,
                at=actor.now,
            )
        )
    else:
        for row in session.scalars(
            select(Consent).where(Consent.athlete_id == athlete.id, Consent.withdrawn_on.is_(None))
        ):
            row.withdrawn_on, row.withdrawn_by_id = actor.today, actor.user_id
    note(session, actor, "consent_given" if given else "consent_withdrawn", athlete=athlete.id, purpose=LIFTING)
    session.flush()


def consents_of(session: Session, athlete_id: int) -> list[tuple[Consent, str]]:
    """The record, the newest first, with who wrote it down."""
    rows = session.execute(
        select(Consent, User.name)
        .join(User, Consent.by_id == User.id)
        .where(Consent.athlete_id == athlete_id)
        .order_by(Consent.id.desc())
    )
    return [(row, name) for row, name in rows]
