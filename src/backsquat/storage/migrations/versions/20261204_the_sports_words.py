"""the sport's own words: exercise, progression, level, readiness check, superset, deload, notes of a set

Tables, columns, codes and the keys of what is stored as JSON, with all that stands in them. The lines of the audit log
stay as they were written: their digests hold them.
"""

import json
import re
from collections.abc import Callable
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "the_sports_words"
down_revision = "repeats"
branch_labels = None
depends_on = None

TABLES = (
    ("block_slots", "exercises"),
    ("slot_weeks", "exercise_weeks"),
    ("athlete_schools", "athlete_progressions"),
    ("rung_moves", "level_moves"),
    ("gate_overrides", "readiness_clearances"),
)
COLUMNS = (
    ("block_sessions", "stacks", "supersets"),
    ("exercise_weeks", "slot_id", "exercise_id"),
    ("exercise_weeks", "stack", "superset"),
    ("exercises", "school", "progression"),
    ("exercises", "stack", "superset"),
    ("session_acts", "slot_id", "exercise_id"),
    ("athlete_progressions", "slot_id", "exercise_id"),
    ("athlete_progressions", "school", "progression"),
    ("cells", "slot_id", "exercise_id"),
    ("set_entries", "told", "notes"),
    ("level_moves", "rung", "level"),
    ("readiness_clearances", "gate", "readiness_check"),
)
INDEXES = (  # name before, name, table, columns
    ("ix_slot_weeks_session_id_slot_weeks_week", "ix_exercise_weeks_session_id_exercise_weeks_week", "exercise_weeks",
     ("session_id", "week")),
    ("ix_block_slots_block_id", "ix_exercises_block_id", "exercises", ("block_id",)),
    ("ix_athlete_schools_slot_id_athlete_schools_athlete_id",
     "ix_athlete_progressions_exercise_id_athlete_progressions_athlete_id", "athlete_progressions",
     ("exercise_id", "athlete_id")),
    ("ix_rung_moves_athlete", "ix_level_moves_athlete", "level_moves", ("athlete_id", "ladder")),
    ("ix_gate_overrides_athlete_id", "ix_readiness_clearances_athlete_id", "readiness_clearances", ("athlete_id",)),
)  # fmt: skip
WORDS = {  # parts of a code or a key
    "slot": "exercise", "slots": "exercises", "school": "progression", "schools": "progressions",
    "rung": "level", "rungs": "levels", "gate": "readiness_check", "gates": "readiness_checks", "gated": "not_ready",
    "stack": "superset", "stacks": "supersets", "easy": "deload", "mend": "fix", "anew": "again",
}  # fmt: skip
WHOLE = {
    "gate_open": "readiness_check_passed", "gate_closed": "readiness_check_open", "stage_easy": "stage_much_spare", "unstack": "leave_superset",
    "told": "notes", "too_easy": "too_easy", "easy_to_learn": "easy_to_learn",
    "block_slots": "exercises", "taken_in": "imported", "log_taken_in": "log_imported", "easier rung": "easier level", "harder rung": "harder level",
}  # fmt: skip
TEXTS = (  # columns that hold a code
    ("rule_changes", "name"), ("milestones", "kind"), ("block_sessions", "supersets"), ("session_acts", "what"),
    ("cells", "kind"), ("cells", "state"), ("cells", "stands_in"), ("cells", "origin"), ("changes", "what"),
    ("changes", "subject"), ("set_entries", "effort"), ("decisions", "code"), ("decisions", "reason"),
    ("decisions", "would_change"), ("answers", "code"), ("level_moves", "way"), ("level_moves", "reason"),
)  # fmt: skip
DATA = (  # columns that hold JSON
    ("session_acts", "facts"), ("exercises", "parameters"), ("athlete_progressions", "parameters"),
    ("cells", "inputs"), ("cells", "working"), ("changes", "before"), ("changes", "facts"), ("set_entries", "flags"),
    ("decisions", "facts"), ("decisions", "evidence"), ("decisions", "following"), ("level_moves", "facts"),
)  # fmt: skip
RULES = {  # names of rules, which a change of one holds under "name"
    "gate_wedge_mm", "gate_grade", "gate_hold_s", "gate_counterbalance_share", "gate_sessions", "gate_weeks",
    "stack_rest_s", "stack_change_s", "stacks", "stack_second_share",
}  # fmt: skip
TYPED = {"note", "notes", "name", "words", "reason", "text", "title", "cue", "why"}  # keys whose values somebody typed


def upgrade() -> None:
    for before, now in TABLES:
        op.rename_table(before, now)
    for table, before, now in COLUMNS:
        op.execute(f"ALTER TABLE {table} RENAME COLUMN {before} TO {now}")
    for before, now, table, columns in INDEXES:
        op.drop_index(before)
        op.create_index(now, table, list(columns))
    _once_a_week("uq_slot_weeks_slot_id_week", "uq_exercise_weeks_exercise_id_week")
    for table, column in TEXTS:
        _rewritten(table, column, code_now)
    for table, column in DATA:
        _rewritten(table, column, lambda written: _written_as(written, code_now, values=True))
    # Of an entry of the library the keys alone: its values are names, texts and conventions of loading.
    _rewritten("library_entries", "entry", lambda written: _written_as(written, code_now, values=False))


def downgrade() -> None:
    for table, column in TEXTS:
        _rewritten(table, column, code_before)
    for table, column in DATA:
        _rewritten(table, column, lambda written: _written_as(written, code_before, values=True))
    _rewritten("library_entries", "entry", lambda written: _written_as(written, code_before, values=False))
    _once_a_week("uq_exercise_weeks_exercise_id_week", "uq_slot_weeks_slot_id_week")
    for before, now, _table, _columns in INDEXES:
        op.drop_index(now)
    for table, before, now in COLUMNS:
        op.execute(f"ALTER TABLE {table} RENAME COLUMN {now} TO {before}")
    for before, now in TABLES:
        op.rename_table(now, before)
    columns_before = {(table, now): before for table, before, now in COLUMNS}
    tables_before = {now: before for before, now in TABLES}
    for before, _now, table, columns in INDEXES:
        op.create_index(before, tables_before[table], [columns_before.get((table, one), one) for one in columns])


def _once_a_week(before: str, now: str) -> None:
    with op.batch_alter_table("exercise_weeks", recreate="always") as again:
        again.drop_constraint(before, type_="unique")
        again.create_unique_constraint(now, ["exercise_id", "week"])


def _rewritten(table: str, column: str, now: Callable[[str], str]) -> None:
    """Every different value of a column once: there are few of them beside the rows."""
    connection = op.get_bind()
    machines = " AND subject <> 'room'" if table == "changes" else ""  # a stack there is a machine's
    found = connection.execute(sa.text(f"SELECT DISTINCT {column} FROM {table} WHERE {column} IS NOT NULL{machines}"))
    for (was,) in found.all():
        if (is_now := now(was)) != was:
            rows = sa.text(f"UPDATE {table} SET {column} = :now WHERE {column} = :was{machines}")
            connection.execute(rows, {"now": is_now, "was": was})


def code_now(code: str) -> str:
    """A code or a key in today's words."""
    if code in WHOLE:
        return WHOLE[code]
    return "_".join(WORDS.get(part, part) for part in code.split("_"))


def code_before(code: str) -> str:
    """The same the other way, as far as a word has one meaning: a bare "level" may be one of pain."""
    whole = {now: before for before, now in WHOLE.items() if now != before}
    if code in whole and code != "exercises":
        return whole[code]
    if code == "level":
        return code
    parts = {now: before for before, now in WORDS.items() if before not in ("mend", "anew")}
    return re.sub(r"(?<![a-z])(" + "|".join(parts) + r")(?![a-z])", lambda found: parts[found[0]], code)


def _written_as(written: str, code_as: Callable[[str], str], *, values: bool) -> str:
    was = json.loads(written)
    now = _as(was, code_as, values)
    return written if now == was else json.dumps(now)


def _as(value: Any, code_as: Callable[[str], str], values: bool, key: str = "") -> Any:
    if isinstance(value, dict):
        return {code_as(name): _as(inner, code_as, values, name) for name, inner in value.items()}
    if isinstance(value, list):
        return [_as(inner, code_as, values, key) for inner in value]
    if not isinstance(value, str):
        return value
    typed = key in TYPED and value not in RULES | {code_now(rule) for rule in RULES}
    coded = values and not typed and value != "stack"  # the pin of a machine
    return code_as(value) if coded else value
