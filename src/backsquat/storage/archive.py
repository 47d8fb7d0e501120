"""One squad's rows out of the tables as plain values, and back into tables nobody has written in yet.

Which rows are a squad's is read from the tables themselves: those with its `squad_id`, and what hangs on them. A value
that is not there is left out of its row, so that a JSON null stays one. What opens doors stays behind: passwords,
second factors, sign-ins, links, passes, addresses of calendars; so does what waits to be sent. An archive of an older
schema is put into a file of that schema first and brought up to date there, by the same migrations as everybody's data.
"""

import base64
import datetime as dt
import json
import tempfile
from collections.abc import Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Annotated, Any

from alembic.script import ScriptDirectory
from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Field,
    StrictBool,
    StrictInt,
    StrictStr,
    TypeAdapter,
    ValidationError,
    create_model,
)
from sqlalchemy import Connection, RowMapping, Table, delete, func, inspect, literal, or_, select, type_coerce, union
from sqlalchemy.exc import DatabaseError
from sqlalchemy.types import NullType

from backsquat.core.roles import Role
from backsquat.storage.database import NUMBER_MOST, make_engine
from backsquat.storage.keeping import Unsound
from backsquat.storage.migrate import config, migrate
from backsquat.storage.models import Base
from backsquat.storage.stamps import TABLE as STAMPS

Tables = dict[str, list[dict[str, Any]]]
STAY_BEHIND = {"sign_ins", "one_time_links", "athlete_passes", "calendar_addresses", "messages"}
OF_THE_FILE = {"alembic_version", STAMPS}  # nobody's data: which schema it is, what was written when
BLANK = {"users": {"password_hash": "", "second_factor": "", "second_used": 0}}
NOT_TAKEN = {"post_addresses"}  # handed out, but not taken in: where something is sent is said again by whoever is here
YEARS = (1900, 2199)  # no day of an archive lies outside
ROWS_AT_ONCE = 5_000
_OF_THE_LOG = "SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND name LIKE 'audit%'"


def newest() -> str:
    """The revision of the schema that this program writes."""
    return str(ScriptDirectory.from_config(config()).get_current_head())


def rows_of(connection: Connection, squad_id: int) -> Tables:
    """Every row of a squad, and the people its rows name, without what they sign in with."""
    mine, found = scopes(squad_id), Tables()
    for table in Base.metadata.sorted_tables:
        if table.name not in STAY_BEHIND:
            raw = select(*(type_coerce(column, NullType()).label(column.name) for column in table.c))
            rows = connection.execute(raw.where(mine[table.name]).order_by(*table.primary_key)).mappings().all()
            found[table.name] = _as_kept(rows, _kinds(connection, table.name), BLANK.get(table.name, {}))
    return found


def scopes(squad_id: int) -> dict[str, Any]:
    """Table → the condition on its rows."""
    found: dict[str, Any] = {}
    for table in Base.metadata.sorted_tables:
        if table.name not in STAY_BEHIND | {"users"}:
            found[table.name] = _scope(table, squad_id, found)
    people = [
        select(key.parent).where(found[table.name], key.parent.is_not(None))
        for table in Base.metadata.sorted_tables
        if table.name in found
        for key in table.foreign_keys
        if key.column.table.name == "users"
    ]
    found["users"] = Base.metadata.tables["users"].c.id.in_(union(*people))
    return found


def _scope(table: Table, squad_id: int, known: Mapping[str, Any]) -> Any:
    if table.name == "squads":
        return table.c.id == squad_id
    if table.name == "audit_lines":  # signing in belongs to no squad
        members = Base.metadata.tables["memberships"].c
        here = select(members.user_id).where(members.squad_id == squad_id)
        return or_(table.c.squad_id == squad_id, table.c.squad_id.is_(None) & table.c.user_id.in_(here))
    if "squad_id" in table.c:
        return table.c.squad_id == squad_id
    key = next(
        key
        for key in sorted(table.foreign_keys, key=lambda one: one.parent.name)
        if not key.parent.nullable and key.column.table.name in known and key.column.table is not table
    )
    parent = key.column.table
    return key.parent.in_(select(parent.c.id).where(known[parent.name]))


def checked_rows(tables: Mapping[str, Sequence[Mapping[str, Any]]], revision: str) -> Tables:
    """An archive's rows as this program keeps them: read through the schema they were written in, and brought up to
    date. Nothing is written to anybody's data.

    Unsound, with one sentence, where the archive is not one of ours, of a newer program, or does not hold together.
    """
    if revision not in {script.revision for script in ScriptDirectory.from_config(config()).walk_revisions()}:
        raise Unsound("the archive was written by a newer Back Squat; update the program, then open it.")
    with tempfile.TemporaryDirectory(prefix="backsquat-") as folder:
        found = _up_to_date(Path(folder) / "archive.sqlite3", tables, revision)
    _of_one_squad(found)
    return found


def put_rows(connection: Connection, tables: Tables, coach_id: int) -> None:
    """Put checked rows into the tables of this connection, where nothing has been written yet, and this coach at their
    head.

    Nobody else gets a role by it: the others who worked with the squad are closed accounts of the least role, until
    they are invited (an empty hash tells them from those that were closed before, who are members no more). Unsound
    where something has been written meanwhile.
    """
    if connection.exec_driver_sql("SELECT 1 FROM audit_lines UNION SELECT 1 FROM users LIMIT 1").first():
        raise Unsound("this data folder is no longer empty; name an empty one in BACKSQUAT_DATA to open an archive.")
    connection.exec_driver_sql("PRAGMA defer_foreign_keys = ON")
    here = {row["id"] for row in tables["users"] if row["active"]}
    athletes = {row["user_id"] for row in tables["memberships"] if row["role"] == Role.ATHLETE}
    for table in Base.metadata.sorted_tables:  # parents first: a child without one makes each later row look for it
        blank = BLANK.get(table.name, {})  # whoever wrote the archive opens no door with it
        rows = [] if table.name in NOT_TAKEN else [row | blank for row in tables[table.name]]
        if table.name == "memberships":
            rows = [_as_named(row, coach_id) for row in rows if row["user_id"] in here or row["role"] == Role.ATHLETE]
        if table.name == "users":
            rows = [row | {"active": row["id"] == coach_id or row["id"] in athletes} for row in rows]
        _insert(connection, table.name, rows)


def _as_named(row: Mapping[str, Any], coach_id: int) -> dict[str, Any]:
    """A membership as it comes in: whose athlete an account is stays, what somebody may do does not."""
    if row["user_id"] == coach_id:
        return {name: value for name, value in row.items() if name != "athlete_id"} | {"role": Role.COACH.value}
    return dict(row) | ({} if row["role"] == Role.ATHLETE else {"role": Role.ASSISTANT.value})


def rows_by_people(connection: Connection) -> int:
    """How many rows there are that somebody signed: more of them, and somebody has worked here since."""
    signed = [table for table in Base.metadata.sorted_tables if "by_id" in table.c]
    counts = (select(func.count()).select_from(table).scalar_subquery() for table in signed)
    return int(connection.scalar(select(sum(counts, literal(0)))) or 0)


def empty_again(connection: Connection) -> None:
    """Take every row out of every table, the log's too: as before anything was there, and written over."""
    connection.exec_driver_sql("PRAGMA secure_delete = ON")
    connection.exec_driver_sql("PRAGMA defer_foreign_keys = ON")
    kept = connection.exec_driver_sql(_OF_THE_LOG).all()
    for name, _ in kept:
        connection.exec_driver_sql(f"DROP TRIGGER {name}")
    for table in reversed(Base.metadata.sorted_tables):
        connection.execute(delete(table))
    for _, sql in kept:
        connection.exec_driver_sql(sql)


def _of_one_squad(tables: Tables) -> None:
    """Unsound where there is more than one squad in it, or a row of another: what is not seen must not come in."""
    squads = [row["id"] for row in tables["squads"]]
    if len(squads) != 1:
        raise Unsound(f"the archive holds {len(squads)} squads where it must hold one; nothing was taken in.")
    for name, rows in tables.items():
        if any(row.get("squad_id", squads[0]) != squads[0] for row in rows):
            raise Unsound(f"the archive has rows of another squad in {name}; nothing was taken in.")


def _up_to_date(path: Path, tables: Mapping[str, Sequence[Mapping[str, Any]]], revision: str) -> Tables:
    migrate(path, revision)
    engine = make_engine(path, foreign_keys=False)
    try:
        with engine.begin() as connection:
            _checked(connection, tables)
            for name, rows in tables.items():
                _insert(connection, name, rows)
            if connection.exec_driver_sql("PRAGMA foreign_key_check").first():
                raise Unsound("the archive names rows that are not in it; nothing was taken in.")
        migrate(path)
        with engine.connect() as connection:
            names = [name for name in inspect(connection).get_table_names() if name not in OF_THE_FILE]
            return {name: _whole(connection, name) for name in names}
    except DatabaseError as error:
        raise Unsound(f"the archive does not hold together ({error.orig}); nothing was taken in.") from error
    finally:
        engine.dispose()


def _whole(connection: Connection, name: str) -> list[dict[str, Any]]:
    rows = connection.exec_driver_sql(f'SELECT * FROM "{name}"').mappings().all()  # noqa: S608 - a table's own name
    return _as_kept(rows, _kinds(connection, name), {})


def _insert(connection: Connection, name: str, rows: Sequence[Mapping[str, Any]]) -> None:
    kinds = _kinds(connection, name)
    columns, places = ", ".join(f'"{column}"' for column in kinds), ", ".join("?" for _ in kinds)
    for first in range(0, len(rows), ROWS_AT_ONCE):
        values = [
            tuple(_stored(row, name, kind) for name, kind in kinds.items()) for row in rows[first:][:ROWS_AT_ONCE]
        ]
        statement = f'INSERT INTO "{name}" ({columns}) VALUES ({places})'  # noqa: S608 - names of the schema
        connection.exec_driver_sql(statement, values)


def _stored(row: Mapping[str, Any], name: str, kind: str) -> Any:
    if name not in row:
        return None
    if kind == "BLOB":
        return base64.b64decode(row[name])
    return json.dumps(row[name]) if kind == "JSON" else row[name]


def _as_kept(rows: Sequence[RowMapping], kinds: Mapping[str, str], blank: Mapping[str, Any]) -> list[dict[str, Any]]:
    def value(name: str, one: Any) -> Any:
        if name in blank:
            return blank[name]
        if kinds[name] == "JSON":
            # SQLite gives a column declared JSON the affinity of numbers: a stored 0 comes back as one.
            return json.loads(one) if isinstance(one, str | bytes) else one
        if kinds[name] == "BLOB":
            return base64.b64encode(one).decode("ascii")
        return bool(one) if kinds[name] == "BOOLEAN" else one

    return [{name: value(name, one) for name, one in row.items() if one is not None} for row in rows]


def _kinds(connection: Connection, table: str) -> dict[str, str]:
    """Column → its declared type without a length."""
    rows = connection.exec_driver_sql(f'PRAGMA table_info("{table}")')
    return {row[1]: str(row[2]).upper().partition("(")[0] for row in rows}


def _day(text: str) -> str:
    return _in_range(dt.date.fromisoformat(text).year, text)


def _moment(text: str) -> str:
    return _in_range(dt.datetime.fromisoformat(text).year, text)


def _in_range(year: int, text: str) -> str:
    if not YEARS[0] <= year <= YEARS[1]:
        raise ValueError(f"a day between {YEARS[0]} and {YEARS[1]}")
    return text


def _words(text: str) -> str:
    """Text as it can be stored and shown: no half of a sign, nothing that stands for no sign at all."""
    text.encode("utf-8")
    if "\x00" in text:
        raise ValueError("a sign that is none")
    return text


def _pixels(text: str) -> str:
    base64.b64decode(text, validate=True)
    return text


Words = Annotated[StrictStr, AfterValidator(_words)]
Finite = Annotated[float, Field(strict=True, allow_inf_nan=False)]
TYPES: dict[str, Any] = {
    "INTEGER": Annotated[StrictInt, Field(ge=-NUMBER_MOST, le=NUMBER_MOST)],
    "FLOAT": Finite,
    "DOUBLE": Finite,
    "BOOLEAN": StrictBool,
    "DATE": Annotated[StrictStr, AfterValidator(_day), Field(json_schema_extra={"format": "date"})],
    "DATETIME": Annotated[StrictStr, AfterValidator(_moment), Field(json_schema_extra={"format": "date-time"})],
    "JSON": Any,
    "BLOB": Annotated[StrictStr, AfterValidator(_pixels), Field(json_schema_extra={"contentEncoding": "base64"})],
}


def _shape(connection: Connection) -> type[BaseModel]:
    """What an archive of this connection's schema must look like; also a JSON schema for whoever reads one."""
    tables: dict[str, Any] = {}
    for name in inspect(connection).get_table_names():
        columns: dict[str, Any] = {}
        for column in connection.exec_driver_sql(f'PRAGMA table_info("{name}")'):
            kind = TYPES.get(str(column[2]).upper().partition("(")[0], Words)
            columns[column[1]] = (kind, ...) if column[3] else (kind, None)
        row = create_model(f"row_{name}", __config__=ConfigDict(extra="forbid"), **columns)
        if name not in STAY_BEHIND | OF_THE_FILE:
            tables[name] = (list[row], Field(default_factory=list))  # type: ignore[valid-type]
    return create_model("tables", __config__=ConfigDict(extra="forbid"), **tables)


@cache
def schema() -> dict[str, Any]:
    """The JSON schema of the tables of an archive written by this program."""
    with tempfile.TemporaryDirectory(prefix="backsquat-") as folder:
        path = Path(folder) / "empty.sqlite3"
        migrate(path)
        engine = make_engine(path)
        try:
            with engine.connect() as connection:
                return _shape(connection).model_json_schema()
        finally:
            engine.dispose()


def _checked(connection: Connection, tables: Mapping[str, Any]) -> None:
    try:
        TypeAdapter(_shape(connection)).validate_python(dict(tables))
    except ValidationError as error:
        first = error.errors()[0]
        place = " → ".join(str(part) for part in first["loc"])
        raise Unsound(
            f"the archive is not as it should be at {place} ({first['msg']}); nothing was taken in."
        ) from None
