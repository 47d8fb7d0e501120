"""the house: what older rows meant

Every block gets its sessions and their days. What was kept as JSON and steers planning moves to columns.
Working that was kept in words keeps its words ("as_written").
"""

from alembic import op

revision = "the_house_data"
down_revision = "the_house"
branch_labels = None
depends_on = None

EFFECT = (  # key in the old JSON, column, what an old row without it meant
    ("ladder", "ladder", "''"),
    ("share", "planning_max_share", "1.0"),
    ("steps", "steps", "0"),
    ("next_wave_steps", "next_wave_steps", "1"),
    ("hold", "hold", "0"),
    ("load_share", "load_share", "1.0"),
    ("load_steps", "load_steps", "0"),
    ("reps", "next_reps", "0"),
    ("keeps", "keeps", "0"),
)
PLACED = {
    "gate_open": "through the gate",
    "range_first": "range is missing",
    "pattern_first": "the pattern is missing",
    "shape_sound": "shape sound, not loaded yet",
    "shape_and_load": "shape sound and a weight held",
    "balance_or_hip": "balance or hip extension not there yet",
    "balance_sound": "balance and hips sound",
    "hinge_grade": "by the single-leg hinge screen",
    "brace": "by the brace screen",
    "bridge": "by the bridge hold",
}
CHANGES = (  # old subject, old what, new subject, new what
    ("stays", "stay_added", "assignments", "room_assigned"),
    ("stays", "stay_ended", "assignments", "assignment_ended"),
    ("slots", "course_changed", "slots", "setting_changed"),
)
KEYS = (("$.courses", "$.settings"), ("$.values.place", "$.values.position"))


def upgrade() -> None:
    op.execute(
        "INSERT INTO block_sessions (block_id, weekday, position, minutes) "
        "SELECT DISTINCT block_id, weekday, 0, 60 FROM block_slots ORDER BY block_id, weekday"
    )
    op.execute(
        "WITH RECURSIVE n (week) AS (SELECT 0 UNION ALL SELECT week + 1 FROM n WHERE week < 60) "
        "INSERT INTO session_days (session_id, week, held_on) "
        "SELECT s.id, n.week, date(b.first_week, '+' || (7 * n.week + s.weekday) || ' days') "
        "FROM block_sessions s JOIN blocks b ON b.id = s.block_id JOIN n ON n.week < b.weeks"
    )
    op.execute(
        "UPDATE block_slots SET session_id = (SELECT s.id FROM block_sessions s "
        "WHERE s.block_id = block_slots.block_id AND s.weekday = block_slots.weekday)"
    )
    op.execute("UPDATE set_entries SET standing = (replaced = 0 AND withdrawn = 0)")
    op.execute(
        "INSERT INTO return_weeks (absence_id, week, load_share, sets_share) "
        "SELECT a.id, w.key, json_extract(w.value, '$[0]'), json_extract(w.value, '$[1]') "
        "FROM absences a, json_each(a.weeks) w"
    )
    op.execute(
        "UPDATE cells SET target_kg = json_extract(inputs, '$.target_kg'), "
        "stands_in = CASE WHEN movement = '' THEN '' ELSE coalesce(json_extract(inputs, '$.why'), '') END, "
        "decided_on_id = json_extract(inputs, '$.decision_of'), "
        "by_ratio = coalesce(json_extract(inputs, '$.by_ratio'), 0), "
        "inputs = json_remove(inputs, '$.target_kg', '$.why', '$.decision_of', '$.by_ratio')"
    )
    op.execute(
        "UPDATE cells SET working = (SELECT json_group_array(json_object('code', 'as_written', 'facts', "
        "json_object('label', json_extract(value, '$.label'), 'words', json_extract(value, '$.words')), "
        "'output', json_extract(value, '$.output'), 'unit', coalesce(json_extract(value, '$.unit'), ''))) "
        "FROM json_each(cells.working)) WHERE working != '[]'"
    )
    set_columns = ", ".join(
        f"{column} = coalesce(json_extract(effect, '$.{key}'), {usual})" for key, column, usual in EFFECT
    )
    removed = ", ".join(f"'$.{key}'" for key, _, _ in EFFECT)
    op.execute(
        f"UPDATE decisions SET {set_columns}, following = json_remove(effect, {removed}), "
        "missing_reps = coalesce(json_extract(facts, '$.missing'), 0)"
    )
    for code, words in PLACED.items():
        op.execute(f"UPDATE rung_moves SET reason = 'screens:{code}' WHERE reason = 'screens: {words}'")
    for subject, what, new_subject, new_what in CHANGES:
        _changes(subject, what, new_subject, new_what)
    for old, new in KEYS:
        _key(old, new)


def downgrade() -> None:
    for old, new in KEYS:
        _key(new, old)
    for subject, what, new_subject, new_what in CHANGES:
        _changes(new_subject, new_what, subject, what)
    for code, words in PLACED.items():
        op.execute(f"UPDATE rung_moves SET reason = 'screens: {words}' WHERE reason = 'screens:{code}'")
    pairs = ", ".join(f"'$.{key}', {column}" for key, column, _ in EFFECT)
    op.execute(f"UPDATE decisions SET effect = json_set(following, {pairs})")
    op.execute(
        "UPDATE cells SET working = (SELECT json_group_array(json_object("
        "'label', coalesce(json_extract(value, '$.facts.label'), json_extract(value, '$.code')), "
        "'words', coalesce(json_extract(value, '$.facts.words'), ''), "
        "'output', CAST(json_extract(value, '$.output') AS TEXT), 'unit', json_extract(value, '$.unit'))) "
        "FROM json_each(cells.working)) WHERE working != '[]'"
    )
    op.execute(
        "UPDATE cells SET inputs = json_set(inputs, '$.target_kg', target_kg, '$.why', stands_in, "
        "'$.decision_of', decided_on_id, '$.by_ratio', json(CASE by_ratio WHEN 1 THEN 'true' ELSE 'false' END))"
    )
    op.execute(
        "UPDATE absences SET weeks = coalesce((SELECT json_group_array(json_array(w.load_share, w.sets_share)) "
        "FROM (SELECT * FROM return_weeks ORDER BY week) w WHERE w.absence_id = absences.id), '[]')"
    )
    op.execute("UPDATE set_entries SET replaced = (standing = 0 AND withdrawn = 0)")
    op.execute(
        "UPDATE block_slots SET weekday = (SELECT weekday FROM block_sessions s WHERE s.id = block_slots.session_id)"
    )
    for table in ("return_weeks", "session_days", "block_sessions"):
        op.execute(f"DELETE FROM {table}")


def _changes(subject: str, what: str, new_subject: str, new_what: str) -> None:
    op.execute(
        f"UPDATE changes SET subject = '{new_subject}', what = '{new_what}' "
        f"WHERE subject = '{subject}' AND what = '{what}'"
    )


def _key(old: str, new: str) -> None:
    op.execute(
        f"UPDATE changes SET before = json_remove(json_set(before, '{new}', json_extract(before, '{old}')), '{old}') "
        f"WHERE json_type(before, '{old}') IS NOT NULL"
    )
