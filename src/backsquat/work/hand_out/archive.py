"""A whole squad handed out, and put back into an application in which there is none."""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.roles import Role
from backsquat.storage.archive import Tables, newest, put_rows, rows_of, schema
from backsquat.storage.keeping import Unsound
from backsquat.storage.models import Base, User
from backsquat.work.accounts.passwords import check_password, hasher
from backsquat.work.accounts.people import key_of
from backsquat.work.actor import Actor
from backsquat.work.audit import note, note_of
from backsquat.work.policy import Act, require
from backsquat.work.squad.first import is_empty


@dataclass(frozen=True)
class HandedOut:
    """A squad's rows by table, the revision of the schema they follow, and that schema for others to read."""

    tables: Tables
    revision: str
    schema: Mapping[str, Any]


def hand_out_squad(session: Session, actor: Actor) -> HandedOut:
    """Everything of the actor's squad, without what opens doors; leaves a line in the audit log, which is in it."""
    require(actor, Act.HAND_OUT)
    note(session, actor, "squad_handed_out")
    return HandedOut(rows_of(session.connection(), actor.squad_id), newest(), schema())


def put_back(
    session: Session,
    tables: Mapping[str, Sequence[Mapping[str, Any]]],
    revision: str,
    *,
    sign_in: str,
    password: str,
    now: dt.datetime,
    cost: int,
) -> User:
    """An archive's squad, and the head coach of it who opens it, with a password chosen now.

    Refused where a squad is here already; ImpossibleInput where the archive or the coach is no good.
    """
    if not is_empty(session):
        raise Refused("not_first")
    who = _coach_in(tables, sign_in)
    check_password(password, (str(who.get("sign_in", "")), str(who.get("name", ""))))
    try:
        put_rows(session.connection(), tables, revision)
        for mapper in Base.registry.mappers:  # what cannot be read must not come in
            for _ in session.scalars(select(mapper.class_)).unique():
                pass
    except Unsound as error:
        raise ImpossibleInput(Problem("file", "archive_unsound", {"what": str(error)})) from error
    except (KeyError, ValueError, ArithmeticError) as error:
        what = f"a value in it cannot be read: {error}; nothing was imported."
        raise ImpossibleInput(Problem("file", "archive_unsound", {"what": what})) from error
    coach = session.scalars(select(User).where(User.sign_in_key == key_of(sign_in))).one()
    coach.password_hash = hasher(cost).hash(password)
    note_of(session, now, "squad_put_back", {}, user_id=coach.id)
    return coach


def _coach_in(tables: Mapping[str, Any], sign_in: str) -> Mapping[str, Any]:
    """The row of the head coach who opens the archive, looked for before anything is put anywhere."""
    rows = {name: [row for row in tables.get(name) or () if isinstance(row, dict)] for name in ("users", "memberships")}
    coaches = [row.get("user_id") for row in rows["memberships"] if row.get("role") == Role.COACH.value]
    for row in rows["users"]:
        if row.get("sign_in_key") == key_of(sign_in) and row.get("active") is True and row.get("id") in coaches:
            return row
    raise ImpossibleInput(Problem("sign_in", "archive_coach"))
