"""Everything about one athlete: exported for them, or erased with a record of it.

Which rows are theirs is read from the tables themselves: every table with an `athlete_id`, and what hangs on those
rows. A table that comes later is taken along without anybody thinking of it.
"""

import base64
import datetime as dt
import json
import re
from collections.abc import Iterator
from decimal import Decimal
from enum import Enum
from typing import Any

from sqlalchemy import JSON, Column, String, Table, cast, delete, func, or_, select, update
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.rules import Rules
from backsquat.storage.archive import scopes
from backsquat.storage.database import overwrite_deleted
from backsquat.storage.models import Athlete, AuditLine, Base, Change, ColumnName, SignIn, User
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require
from backsquat.work.squad.athletes import archived_athletes, athlete_of
from backsquat.work.squad.columns import NAME_WORDS
from backsquat.work.squad.passes import own_accounts

YEAR_DAYS = 365.25
CODE = re.compile(r"[a-z0-9_]+")
ERASED = "an erased athlete"
KEEP_NAMES = ("athletes", "users", "audit_lines")  # others may be called alike; the log names athletes by number


def tables_of_athletes() -> list[Table]:
    """The tables with an athlete's rows, what hangs on others after what it hangs on."""
    return [table for table in Base.metadata.sorted_tables if "athlete_id" in table.c]


def _hanging(table: Table) -> Iterator[tuple[Table, Column[Any], Column[Any]]]:
    """Tables without an `athlete_id` whose rows name a row of this one: (table, its column, the column named)."""
    for other in Base.metadata.sorted_tables:
        if "athlete_id" not in other.c and other is not table:
            for key in other.foreign_keys:
                if key.column.table is table and not key.parent.nullable:
                    yield other, key.parent, key.column


def export_person(context: WorkContext, athlete_id: int) -> dict[str, Any]:
    """Everything kept about somebody, table by table, in plain values; leaves a line in the audit log."""
    require(context.actor, Act.EXPORT)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    note(context.db, context.actor, "exported", athlete=athlete.id)
    found: dict[str, Any] = {
        "made_at": context.now.isoformat(),
        "athlete": _rows(context.db, Athlete.__table__, athlete_id, "id"),
    }
    for table in tables_of_athletes():
        found[table.name] = _rows(context.db, table, athlete_id, "athlete_id")
        mine = select(table.c.id).where(table.c.athlete_id == athlete_id)
        for other, column, _ in _hanging(table):
            found[other.name] = [
                _plain(dict(row)) for row in context.db.execute(select(other).where(column.in_(mine))).mappings()
            ]
    lines = context.db.scalars(
        select(AuditLine).where(
            AuditLine.squad_id == context.squad_id, AuditLine.about["athlete"].as_integer() == athlete_id
        )
    )
    found["audit_lines"] = [{"at": line.at.isoformat(), "who": line.who, "what": line.what} for line in lines]
    return found


def _rows(db: Session, table: Any, athlete_id: int, column: str) -> list[dict[str, Any]]:
    rows = db.execute(select(table).where(table.c[column] == athlete_id)).mappings()
    return [_plain(dict(row)) for row in rows]


def _plain(row: dict[str, Any]) -> dict[str, Any]:
    def value(one: Any) -> Any:
        if isinstance(one, dt.date):
            return one.isoformat()
        if isinstance(one, Decimal):
            return str(one)
        if isinstance(one, bytes):
            return base64.b64encode(one).decode("ascii")
        return one.value if isinstance(one, Enum) else one

    return {name: value(one) for name, one in row.items()}


def erase_person(context: WorkContext, athlete_id: int, typed_name: str) -> int:
    """Delete everything about somebody for good; how many rows that was. The record keeps a number and no name.

    ImpossibleInput where the name typed to confirm it is another. Copies made before still hold the data
    until they are thrown away.
    """
    require(context.actor, Act.EXPORT)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    if typed_name.strip() != athlete.name:
        raise ImpossibleInput(Problem("name", "name_to_confirm", {"name": athlete.name}))
    name, count = athlete.name, 0
    overwrite_deleted(context.db)
    _close_phone(context.db, athlete_id)
    context.db.expunge(athlete)
    for table in reversed(tables_of_athletes()):
        mine = select(table.c.id).where(table.c.athlete_id == athlete_id)
        for other, column, _ in _hanging(table):
            count += _deleted(context.db, other, column.in_(mine))
        _unhook(context.db, table, mine)
        count += _deleted(context.db, table, table.c.athlete_id == athlete_id)
    count += _deleted(context.db, Athlete.__table__, Athlete.__table__.c.id == athlete_id)
    _unname(context.db, context.squad_id, athlete_id, name)
    note(context.db, context.actor, "erased", athlete=athlete_id, rows=count)
    context.db.expire_all()
    return count


def _close_phone(db: Session, athlete_id: int) -> None:
    """The athlete's own account opens nothing any more and names nobody; who wrote what keeps its number."""
    for user_id, owner in own_accounts(db).items():
        if owner == athlete_id:
            user = db.get_one(User, user_id)
            user.active, user.name, user.sign_in, user.sign_in_key = (
                False,
                ERASED,
                f"erased {user_id}",
                f"erased {user_id}",
            )
            db.execute(delete(SignIn).where(SignIn.user_id == user_id))
    db.flush()


def _deleted(db: Session, table: Any, condition: Any) -> int:
    count: int = db.execute(delete(table).where(condition)).rowcount  # type: ignore[attr-defined]
    return count


def _unhook(db: Session, table: Table, mine: Any) -> None:
    """Let no row name one of these that goes: rows of the same table, and those of others that may do without."""
    for other in Base.metadata.sorted_tables:
        for key in other.foreign_keys:
            if key.column.table is table and key.parent.nullable:
                db.execute(update(other).where(key.parent.in_(mine)).values({key.parent.name: None}))


def _unname(db: Session, squad_id: int, athlete_id: int, name: str) -> None:
    """Forget changes of the athlete's own facts, and take the name out of whatever text still says it."""
    mine = (Change.squad_id == squad_id, Change.subject == "athlete", Change.subject_id == athlete_id)
    db.execute(delete(Change).where(*mine))
    words = (ColumnName.squad_id == squad_id, ColumnName.list == NAME_WORDS, ColumnName.holds == str(athlete_id))
    db.execute(delete(ColumnName).where(*words))  # how the squad's lists wrote the name
    db.flush()
    said, mine_only = re.compile(rf"(?<!\w){re.escape(name)}(?!\w)"), scopes(squad_id)
    for table in Base.metadata.sorted_tables:
        here = mine_only.get(table.name, table.c.squad_id == squad_id if "squad_id" in table.c else None)
        if table.name in KEEP_NAMES or here is None:
            continue
        for column in (one for one in table.c if isinstance(one.type, String | JSON)):
            written = cast(column, String)
            spelled = or_(*(func.instr(written, one) > 0 for one in {name, json.dumps(name)[1:-1]}))
            for key, value in db.execute(select(table.c.id, column).where(here, spelled)).all():
                if (unnamed := _without(value, said)) != value:
                    db.execute(update(table).where(table.c.id == key).values({column.name: unnamed}))


def _without(found: Any, said: re.Pattern[str]) -> Any:
    """A text, or plain data, without the name where it stands as whole words; a code may be spelled like one, and stays."""
    if isinstance(found, str):
        return found if CODE.fullmatch(found) else said.sub(ERASED, found)
    if isinstance(found, list | tuple):
        return [_without(one, said) for one in found]
    if isinstance(found, dict):
        return {key: _without(one, said) for key, one in found.items()}
    return found


def due_for_erasure(db: Session, squad_id: int, today: dt.date, rules: Rules) -> dict[int, dt.date]:
    """Of those put away longer ago than is kept (rule `keep_years`): id → the day they were put away."""
    archived = archived_athletes(db, squad_id)
    if not archived:
        return {}
    put_away = db.execute(
        select(Change.subject_id, func.max(Change.at))
        .where(
            Change.squad_id == squad_id,
            Change.subject == "athlete",
            Change.what == "athlete_archived",
            Change.subject_id.in_([athlete.id for athlete in archived]),
        )
        .group_by(Change.subject_id)
    )
    last = today - dt.timedelta(days=rules.keep_years * YEAR_DAYS)
    return {athlete_id: at.date() for athlete_id, at in put_away if at.date() <= last}
