"""Sending: where people are written to, what waits, what was sent.

A message is for one person and is made for that person; it waits a little so that it can be taken back, is tried again
until it is delivered, and what was in it is forgotten then.
"""

import datetime as dt
import hashlib
import re
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.roles import STAFF, Role
from backsquat.storage.models import Membership, Message, PostAddress, User
from backsquat.work.actor import Actor
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, may, require
from backsquat.work.squad.athletes import squad_athletes

ADDRESS_MOST = 120
ADDRESS = re.compile(r"[^@\s<>,;\"]+@[^@\s<>,;\"]+\.[^@\s<>,;\".]+")
TAKE_BACK_S = 20  # a message waits so long before it goes
RETRY_FIRST_S, RETRY_MOST_S = 5, 600
GIVE_UP = 40  # tries: a good six hours
SHOWN = 60
ON_ITS_WAY = "on its way"


class MessageKind(StrEnum):
    """What is sent."""

    CARD = "card"  # an athlete's own sessions to come
    WALL = "wall"  # the wall sheet, for who runs the floor
    STOPS = "stops"  # open stops, for who sees health notes


@dataclass(frozen=True, order=True)
class To:
    """One person: an athlete or somebody of the staff."""

    athlete_id: int = 0
    user_id: int = 0


@dataclass(frozen=True)
class Addressee:
    """Somebody who can be written to."""

    to: To
    name: str
    role: Role
    address: str = ""
    born_on: dt.date | None = None


@dataclass(frozen=True)
class SaidMessage:
    """What a message says."""

    subject: str
    text: str
    file_name: str = ""
    file: str = ""
    same_as: str = ""  # what it is known again by, where the file names the moment it was made


@dataclass(frozen=True)
class Queued:
    """What became of each: messages that wait now, and who gets none and why."""

    waiting: tuple[Message, ...]
    has_it: tuple[str, ...]
    no_address: tuple[str, ...]


def people(context: WorkContext) -> list[Addressee]:
    """Athletes, then staff, each with where they are written to."""
    require(context.actor, Act.SEND)
    newest = select(func.max(PostAddress.id)).where(PostAddress.squad_id == context.squad_id)
    newest = newest.group_by(PostAddress.athlete_id, PostAddress.user_id)
    rows = context.db.scalars(select(PostAddress).where(PostAddress.id.in_(newest)))
    known = {To(row.athlete_id or 0, row.user_id or 0): row.address for row in rows}
    found = [
        Addressee(to := To(athlete_id=one.id), one.name, Role.ATHLETE, known.get(to, ""), one.born_on)
        for one in squad_athletes(context.db, context.squad_id)
    ]
    staff = context.db.execute(
        select(User, Membership.role)
        .join(Membership, Membership.user_id == User.id)
        .where(Membership.squad_id == context.squad_id, Membership.role.in_(STAFF), User.active)
        .order_by(User.id)
    )
    return found + [Addressee(to := To(user_id=user.id), user.name, role, known.get(to, "")) for user, role in staff]


def keep_addresses(context: WorkContext, typed: Mapping[To, str]) -> int:
    """Keep what has changed of the addresses; how many. ImpossibleInput names each that is none, nothing kept then."""
    require(context.actor, Act.SEND)
    known = {person.to: person for person in people(context)}
    changed = {
        to: said for to, text in typed.items() if to in known and (said := " ".join(text.split())) != known[to].address
    }
    bad = [to for to, said in changed.items() if said and (len(said) > ADDRESS_MOST or not ADDRESS.fullmatch(said))]
    if bad:
        raise ImpossibleInput(
            *(Problem(f"address-{to.athlete_id}-{to.user_id}", "no_address", {"name": known[to].name}) for to in bad)
        )
    for to, said in changed.items():
        context.db.add(
            PostAddress(
                squad_id=context.squad_id,
                athlete_id=to.athlete_id or None,
                user_id=to.user_id or None,
                address=said,
                by_id=context.actor.user_id,
                at=context.now,
            )
        )
    if changed:
        note(context.db, context.actor, "addresses_kept", number=len(changed))
    return len(changed)


def queue(
    context: WorkContext, kind: MessageKind, letters: Mapping[To, SaidMessage], really_now: dt.datetime
) -> Queued:
    """Let each wait to be sent to whom it was made for.

    Nobody gets what they have or what waits for them already; stops go to nobody who may not see health notes.
    """
    require(context.actor, Act.SEND)
    known = {person.to: person for person in people(context)}
    if kind is MessageKind.STOPS and any(not may(known[to].role, Act.TREAT) for to in letters):
        raise Refused("stops_not_theirs")
    had = {
        tuple(row)
        for row in context.db.execute(
            select(Message.athlete_id, Message.user_id, Message.digest).where(
                Message.squad_id == context.squad_id, Message.kind == kind.value, Message.taken_back_at.is_(None)
            )
        )
    }
    waiting, has_it, no_address = [], [], []
    for to, said in letters.items():
        person, digest = known[to], _digest(known[to].address, said)
        if not person.address:
            no_address.append(person.name)
        elif (to.athlete_id or None, to.user_id or None, digest) in had:
            has_it.append(person.name)
        else:
            waiting.append(_message(context.actor, kind, person, said, digest, really_now))
    context.db.add_all(waiting)
    if waiting:
        note(context.db, context.actor, f"sent_{kind.value}", number=len(waiting))
    return Queued(tuple(waiting), tuple(has_it), tuple(no_address))


def _message(
    actor: Actor, kind: MessageKind, person: Addressee, said: SaidMessage, digest: str, really_now: dt.datetime
) -> Message:
    return Message(
        squad_id=actor.squad_id,
        athlete_id=person.to.athlete_id or None,
        user_id=person.to.user_id or None,
        kind=kind.value,
        digest=digest,
        key=secrets.token_hex(16),
        address=person.address,
        subject=said.subject,
        text=said.text,
        file_name=said.file_name,
        file=said.file,
        due_at=really_now + dt.timedelta(seconds=TAKE_BACK_S),
        by_id=actor.user_id,
        at=actor.now,
    )


def _digest(address: str, said: SaidMessage) -> str:
    what = "\n".join((address, said.subject, said.text, said.file_name, said.same_as or said.file))
    return hashlib.sha256(what.encode()).hexdigest()


def messages_of(context: WorkContext) -> list[Message]:
    """The newest messages of the squad, without what is in them."""
    require(context.actor, Act.SEND)
    mine = select(Message).where(Message.squad_id == context.squad_id)
    return list(context.db.scalars(mine.order_by(Message.id.desc()).limit(SHOWN)))


def take_back(context: WorkContext, message_ids: Sequence[int]) -> int:
    """Messages that have not gone yet are not sent; how many. NotThere where one is not the squad's."""
    require(context.actor, Act.SEND)
    mine = Message.squad_id == context.squad_id, Message.id.in_(message_ids)
    rows = list(context.db.scalars(select(Message).where(*mine)))
    if len(rows) < len(set(message_ids)):
        raise NotThere("message")
    held = [row for row in rows if row.sent_at is None and row.taken_back_at is None and row.trouble != ON_ITS_WAY]
    for row in held:
        row.taken_back_at, row.text, row.file = context.now, "", ""
    if held:
        note(context.db, context.actor, "messages_taken_back", number=len(held))
    return len(held)


def due_messages(db: Session, now: dt.datetime) -> list[int]:
    """The ids of those to be sent now, oldest first."""
    open_ones = Message.sent_at.is_(None), Message.taken_back_at.is_(None), Message.tries < GIVE_UP
    return list(db.scalars(select(Message.id).where(*open_ones, Message.due_at <= now).order_by(Message.id)))


def set_out(db: Session, message_id: int, now: dt.datetime) -> Message | None:
    """A message is on its way from now on, and can no longer be taken back; None where there is nothing to send.

    Whatever becomes of it, it is due again later, so that one lost on the way is asked for once more.
    """
    row = db.get(Message, message_id)
    if row is None or row.sent_at is not None or row.taken_back_at is not None:
        return None
    row.tries += 1
    row.trouble = ON_ITS_WAY
    wait_s = min(RETRY_FIRST_S * 2 ** min(row.tries - 1, 10), RETRY_MOST_S)
    row.due_at = now + dt.timedelta(seconds=wait_s)
    return row


def arrived(db: Session, message_id: int, now: dt.datetime, trouble: str = "") -> None:
    """What became of a message that was on its way: taken, or what went wrong."""
    row = db.get(Message, message_id)
    if row is None:  # erased meanwhile
        return
    row.trouble = trouble
    if not trouble:
        row.sent_at, row.text, row.file = now, "", ""
