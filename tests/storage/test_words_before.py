"""What was stored under the words of before is found under the sport's, and what people typed is left as typed."""

import json
from pathlib import Path

from sqlalchemy import select

from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate
from backsquat.storage.models import Change, LibraryEntry, RuleChange, SetEntry

SIGNED = "1, '2026-12-01 08:00:00'"
SET = (
    "INSERT INTO set_entries (id, client_id, athlete_id, movement, family, done_on, effort, set_number, load_amount, "
    "load_unit, load_kg, supported, side, reps, reps_to_depth, depth_standard, fault, fault_breaking, trust, firm, "
    "withdrawn, standing, flags, faults, told, by_id, at, manner, carried_kg, pain, pain_region, pain_character) VALUES (1, 'x', 1, "
    "'back_squat', 'squat', '2026-10-05', 'easy', 1, '80', 'kg', 80, 0, '', 5, 5, 'd', '', 0, 2, 1, 0, 1, "
    f"'[\"gated\"]', '[]', '{{\"note\": \"easy\"}}', {SIGNED}, '', 0, 0, '', '')"
)


def before(path: Path) -> None:
    """A database of the revision before, with a row of each kind that said something in the words of then."""
    migrate(path, "repeats")
    with Database(path).writing() as db:
        run = db.connection().exec_driver_sql
        run("INSERT INTO squads (id, club, name) VALUES (1, 'a', 'b')")
        run("INSERT INTO users (id, sign_in, name, password_hash, active) VALUES (1, 'c', 'Coach', 'x', 1)")
        run(
            "INSERT INTO athletes (id, squad_id, name, born_on, position, newcomer, consent, active, by_id, at) "
            f"VALUES (1, 1, 'A', '2000-01-01', '', 0, 0, 1, {SIGNED})"
        )
        run(SET)
        run(f"INSERT INTO rule_changes (squad_id, name, value, by_id, at) VALUES (1, 'gate_grade', '2', {SIGNED})")
        for what, subject, data in (
            ("slot_moved", "slots", {"slot": 3, "slots": {"3": {"stack": 1, "school": "wave"}}, "kind": "easy"}),
            ("rule_changed", "rule", {"name": "gate_grade", "value": None}),
            ("room_changed", "room", {"stacks": [["lying_curl", "5"]], "name": "easy"}),
        ):
            run(
                "INSERT INTO changes (squad_id, what, subject, subject_id, before, facts, undone, again, by_id, at) VALUES "
                f"(1, ?, ?, 1, ?, '{{}}', 0, 0, {SIGNED})",
                (what, subject, json.dumps(data)),
            )
        entry = {"name": "stack", "slots": [{"school": "wave", "stack": 1, "loading": "stack"}]}
        run(
            "INSERT INTO library_entries (squad_id, kind, code, entry, retired, current, by_id, at) VALUES "
            f"(1, 'template', 'own', ?, 0, 1, {SIGNED})",
            (json.dumps(entry),),
        )


def test_codes_and_keys_move_and_what_people_typed_stays(tmp_path: Path) -> None:
    path = tmp_path / "old.sqlite3"
    before(path)
    migrate(path)
    with Database(path).reader() as db:
        one = db.scalars(select(SetEntry)).one()
        assert (one.effort.value, one.flags, one.notes) == ("deload", ["not_ready"], {"note": "easy"})
        assert [rule.name for rule in db.scalars(select(RuleChange))] == ["readiness_check_grade"]
        moved, rule, room = db.scalars(select(Change).order_by(Change.id)).all()
        assert rule.before == {"name": "readiness_check_grade", "value": None}
        assert (moved.what, moved.subject) == ("exercise_moved", "exercises")
        assert moved.before == {
            "exercise": 3,
            "exercises": {"3": {"superset": 1, "progression": "wave"}},
            "kind": "deload",
        }
        assert room.before == {"stacks": [["lying_curl", "5"]], "name": "easy"}, (
            "a machine's stack is none of two lifts"
        )
        entry = db.scalars(select(LibraryEntry)).one().entry
        assert entry == {"name": "stack", "exercises": [{"progression": "wave", "superset": 1, "loading": "stack"}]}
