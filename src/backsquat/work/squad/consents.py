"""Consents: a guardian's to lifting, and anybody's to pictures; given and withdrawn, each with who and when."""

from collections.abc import Sequence

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from backsquat.storage.models import Athlete, Consent, User
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require

LIFTING = "lifting"  # with a weight or a machine: what a minor needs it for
PICTURES = "pictures from the side"  # the athlete's own, a guardian's for a minor
GUARDIAN_MOST = 80


def set_consent(context: WorkContext, athlete: Athlete, given: bool, guardian: str = "") -> None:
    """Give or withdraw; nothing where it stands so already. The athlete's present state follows the record."""
    require(context.actor, Act.KEEP_ATHLETES)
    if given == athlete.consent:
        return
    athlete.consent = given
    context.db.flush()
    _record(context, athlete.id, LIFTING, given, guardian)


def _record(context: WorkContext, athlete_id: int, purpose: str, given: bool, given_by: str) -> None:
    if given:
        context.db.add(
            Consent(
                athlete_id=athlete_id,
                given_by=given_by.strip()[:GUARDIAN_MOST],
                purpose=purpose,
                given_on=context.today,
                by_id=context.actor.user_id,
                at=context.now,
            )
        )
    else:
        for row in context.db.scalars(_standing(purpose).where(Consent.athlete_id == athlete_id)):
            row.withdrawn_on, row.withdrawn_by_id = context.today, context.actor.user_id
    note(
        context.db,
        context.actor,
        "consent_given" if given else "consent_withdrawn",
        athlete=athlete_id,
        purpose=purpose,
    )
    context.db.flush()


def _standing(purpose: str) -> Select[Consent]:
    return select(Consent).where(Consent.purpose == purpose, Consent.withdrawn_on.is_(None))


def set_pictures(context: WorkContext, athlete: Athlete, given: bool, given_by: str = "") -> None:
    """Give or withdraw consent to pictures. Withdrawn, those there are must go: `work/technique` sees to it."""
    require(context.actor, Act.KEEP_ATHLETES)
    if given != bool(agreed_to_pictures(context.db, [athlete.id])):
        _record(context, athlete.id, PICTURES, given, given_by)


def agreed_to_pictures(db: Session, athlete_ids: Sequence[int]) -> dict[int, Consent]:
    """Of these athletes those with a standing consent to pictures, and the consent."""
    rows = db.scalars(_standing(PICTURES).where(Consent.athlete_id.in_(athlete_ids)))
    return {row.athlete_id: row for row in rows}


def consents_of(db: Session, athlete_id: int) -> list[tuple[Consent, str]]:
    """The record, the newest first, with who wrote it down."""
    rows = db.execute(
        select(Consent, User.name)
        .join(User, Consent.by_id == User.id)
        .where(Consent.athlete_id == athlete_id)
        .order_by(Consent.id.desc())
    )
    return [(row, name) for row, name in rows]
