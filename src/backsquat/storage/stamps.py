"""Stamps: how a reader knows, for sure and at once, that nothing it read before has been written since.

Triggers in the database move them with every write, whoever writes and in whatever way: each athlete has a stamp for
the rows that carry their `athlete_id`; one (`OF_PLAN`) stands for the blocks with their exercises and days, which change
click by click, and one (`OF_ALL`) for every other table. A stamp is a new random number, so that one that was rolled
back is never met again; and it is read in the reader's own transaction, so that it belongs to the very state of the
data the reader sees.
"""

import json
from collections.abc import Collection, Iterator

from sqlalchemy import Connection, Table

from backsquat.storage.models import Base

OF_ALL, OF_PLAN = 0, -1  # beside the athletes' own ids
PLAN = {"block_sessions", "exercises", "blocks", "plan_versions", "session_days", "exercise_weeks"}
UNSTAMPED = {  # written by the way, or with every set: what is read of them is never kept
    "answers", "athlete_passes", "audit_lines", "changes", "messages", "one_time_links", "sign_ins", "week_answers",
}  # fmt: skip
TABLE = "stamps"  # beside the models: it says nothing about the squad, and goes into no archive
_MOVE = (
    "INSERT INTO stamps (subject, stamp) VALUES (%s, random()) "
    "ON CONFLICT (subject) DO UPDATE SET stamp = excluded.stamp;"
)
_THERE = "SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND name LIKE 'stamp\\_%' ESCAPE '\\'"
_OF = "SELECT subject, stamp FROM stamps WHERE subject IN (SELECT value FROM json_each(?))"
_WRITES = {"INSERT": ("NEW",), "DELETE": ("OLD",), "UPDATE": ("OLD", "NEW")}


def watch(connection: Connection) -> None:
    """See to it that every table's writes move their stamps: after a migration, which may have made tables again."""
    there = {str(name): str(sql) for name, sql in connection.exec_driver_sql(_THERE)}
    wanted = dict(_triggers())
    if there == wanted:
        return
    for name in there:
        connection.exec_driver_sql(f"DROP TRIGGER {name}")
    for sql in wanted.values():
        connection.exec_driver_sql(sql)
    connection.exec_driver_sql("UPDATE stamps SET stamp = random()")
    for subject in (OF_ALL, OF_PLAN):
        connection.exec_driver_sql(_MOVE % subject)


def _triggers() -> Iterator[tuple[str, str]]:
    """Name and SQL of each trigger, as the database keeps it."""
    for table in Base.metadata.sorted_tables:
        if table.name in UNSTAMPED:
            continue
        for write, rows in _WRITES.items():
            name = f"stamp_{table.name}_{write.lower()}"
            subject = str(OF_PLAN if table.name in PLAN else OF_ALL)
            subjects = [f"{row}.athlete_id" for row in rows] if of_athletes(table) else [subject]
            moves = " ".join(_MOVE % subject for subject in subjects)
            yield name, f"CREATE TRIGGER {name} AFTER {write} ON {table.name} BEGIN {moves} END"


def of_athletes(table: Table) -> bool:
    """Whether each row of a table is one athlete's, and moves theirs alone."""
    return "athlete_id" in table.c and not table.c.athlete_id.nullable


def stamps_of(connection: Connection, subjects: Collection[int]) -> dict[int, int]:
    """The stamps of these subjects; an athlete without rows yet has none."""
    found = connection.exec_driver_sql(_OF, (json.dumps(list(subjects)),))
    return dict(found.all())
