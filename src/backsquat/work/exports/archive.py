"""A whole squad handed out, and put back into an application in which there is none."""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.roles import Role
from backsquat.storage.archive import (
    Tables,
    checked_rows,
    empty_again,
    newest,
    put_rows,
    rows_by_people,
    rows_of,
    schema,
)
from backsquat.storage.keeping import Unsound
from backsquat.storage.models import AuditLine, Base, Squad, User
from backsquat.work.accounts.passwords import check_password, hasher
from backsquat.work.accounts.people import key_of
from backsquat.work.audit import note, note_of
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, may, require
from backsquat.work.squad.first import is_empty

PUT_BACK = "squad_put_back"  # the line of the audit log


@dataclass(frozen=True)
class Exported:
    """A squad's rows by table, the revision of the schema they follow, and that schema for others to read."""

    tables: Tables
    revision: str
    schema: Mapping[str, Any]


def export_squad(context: WorkContext) -> Exported:
    """Everything of the actor's squad, without what opens doors; leaves a line in the audit log, which is in it."""
    require(context.actor, Act.EXPORT)
    note(context.db, context.actor, "squad_handed_out")
    return Exported(rows_of(context.db.connection(), context.squad_id), newest(), schema())


@dataclass(frozen=True)
class ArchiveContents:
    """What an archive holds, told before anything of it is stored."""

    club: str
    squad: str
    athletes: int
    people: tuple[str, ...]  # who works with the squad: names that are invited again, with a role said then
    sets: int
    first_on: dt.date | None  # of the log
    last_on: dt.date | None
    blocks: int
    pictures: int


def contents_of(tables: Mapping[str, Sequence[Mapping[str, Any]]], revision: str, sign_in: str) -> ArchiveContents:
    """What this archive would bring for the coach who opens it, all of it read as strictly as when it is opened.

    ImpossibleInput where the archive or the coach is no good; writes nothing.
    """
    coach = _coach_in(tables, sign_in)
    found = _checked(tables, revision)
    squad = found["squads"][0]
    staff = {row["user_id"] for row in found["memberships"] if row["role"] != Role.ATHLETE} - {coach["id"]}
    days = sorted(row["done_on"] for row in found["set_entries"] if row["standing"])
    return ArchiveContents(
        club=squad["club"],
        squad=squad["name"],
        athletes=len(found["athletes"]),
        people=tuple(row["name"] for row in found["users"] if row["id"] in staff and row["active"]),
        sets=len(days),
        first_on=dt.date.fromisoformat(days[0]) if days else None,
        last_on=dt.date.fromisoformat(days[-1]) if days else None,
        blocks=len(found["blocks"]),
        pictures=len(found["stills"]),
    )


def open_archive(
    db: Session,
    tables: Mapping[str, Sequence[Mapping[str, Any]]],
    revision: str,
    *,
    sign_in: str,
    password: str,
    now: dt.datetime,
    cost: int,
) -> User:
    """An archive's squad, and the head coach of it who opens it, with a password chosen now; the others of it are names
    until that coach invites them.

    Refused where a squad is here already; ImpossibleInput where the archive or the coach is no good.
    """
    if not is_empty(db):
        raise Refused("not_first")
    who = _coach_in(tables, sign_in)
    check_password(password, (str(who.get("sign_in", "")), str(who.get("name", ""))))
    try:
        put_rows(db.connection(), _checked(tables, revision), who["id"])
        for mapper in Base.registry.mappers:  # what cannot be read must not come in
            for _ in db.scalars(select(mapper.class_)).unique():
                pass
    except Unsound as error:
        raise ImpossibleInput(Problem("file", "archive_unsound", {"what": str(error)})) from error
    except (KeyError, ValueError, ArithmeticError) as error:
        what = f"a value in it cannot be read: {error}; nothing was imported."
        raise ImpossibleInput(Problem("file", "archive_unsound", {"what": what})) from error
    coach = db.scalars(select(User).where(User.sign_in_key == key_of(sign_in))).one()
    coach.password_hash = hasher(cost).hash(password)
    db.flush()
    note_of(db, now, PUT_BACK, {"rows": rows_by_people(db.connection())}, user_id=coach.id)
    return coach


def _checked(tables: Mapping[str, Sequence[Mapping[str, Any]]], revision: str) -> Tables:
    try:
        return checked_rows(tables, revision)
    except Unsound as error:
        raise ImpossibleInput(Problem("file", "archive_unsound", {"what": str(error)})) from error


def came_in_whole(context: WorkContext) -> dt.datetime | None:
    """When this squad was opened from an archive, where it can still be taken out again as a whole: there is no other
    squad, and nobody has written anything since. None otherwise.
    """
    if not may(context.actor.role, Act.KEEP_PEOPLE) or context.db.scalar(select(func.count(Squad.id))) != 1:
        return None
    line = context.db.scalars(select(AuditLine).where(AuditLine.what == PUT_BACK).order_by(AuditLine.id.desc())).first()
    if line is None or line.about.get("rows") != rows_by_people(context.db.connection()):
        return None
    return line.at


def take_out_again(context: WorkContext) -> None:
    """Everything an archive brought, gone: the data folder is as empty as before it was opened.

    Refused once anybody has written something of their own.
    """
    require(context.actor, Act.KEEP_PEOPLE)
    if came_in_whole(context) is None:
        raise Refused("archive_used")
    empty_again(context.db.connection())
    context.db.expunge_all()


def _coach_in(tables: Mapping[str, Any], sign_in: str) -> Mapping[str, Any]:
    """The row of the head coach who opens the archive, looked for before anything is put anywhere."""
    rows = {name: [row for row in tables.get(name) or () if isinstance(row, dict)] for name in ("users", "memberships")}
    coaches = [row.get("user_id") for row in rows["memberships"] if row.get("role") == Role.COACH.value]
    for row in rows["users"]:
        if row.get("sign_in_key") == key_of(sign_in) and row.get("active") is True and row.get("id") in coaches:
            return row
    raise ImpossibleInput(Problem("sign_in", "archive_coach"))
