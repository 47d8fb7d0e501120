"""What stood in a database before sessions were a thing of their own is there afterwards, as it was meant."""

from pathlib import Path

from sqlalchemy import select

from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate
from backsquat.storage.models import ExerciseWeek, SetEntry


def test_supersets_spare_work_and_faults_of_before_stay_what_they_were(tmp_path: Path) -> None:
    """Until sessions were a thing of their own a superset stood on the exercise alone, and a set had one fault."""
    path = tmp_path / "old.sqlite3"
    migrate(path, "beliefs_say_a_maximum")
    database = Database(path)
    signed = "7, '2026-10-01 08:00:00'"
    with database.writing() as db:
        run = db.connection().exec_driver_sql
        run("INSERT INTO squads (id, club, name) VALUES (1, 'a', 'b')")
        run("INSERT INTO users (id, sign_in, name, password_hash, active) VALUES (7, 'c', 'Coach', 'x', 1)")
        run(
            "INSERT INTO blocks (id, squad_id, name, first_week, weeks, in_season, purpose, by_id, at) "
            f"VALUES (1, 1, 'B', '2026-10-05', 1, 0, '', {signed})"
        )
        run("INSERT INTO block_sessions (id, block_id, weekday, position, minutes) VALUES (1, 1, 0, 0, 60)")
        for exercise, superset, role in ((1, 0, "main"), (2, 4, "assistance"), (3, 4, "spare")):
            run(
                "INSERT INTO block_slots (id, block_id, session_id, session_from, position, movement, school, parameters, "
                "role, ladder, stack, variation, from_week, removed, moved) VALUES (?, 1, 1, 0, ?, 'back_squat', 'wave', "
                "'{}', ?, '', ?, '', 0, 0, 0)",
                (exercise, exercise, role, superset),
            )
            run(
                "INSERT INTO slot_weeks (slot_id, week, session_id, position) VALUES (?, 0, 1, ?)", (exercise, exercise)
            )
        run(
            "INSERT INTO athletes (id, squad_id, name, born_on, position, newcomer, consent, active, by_id, at) "
            f"VALUES (1, 1, 'A', '2000-01-01', '', 0, 0, 1, {signed})"
        )
        run(
            "INSERT INTO set_entries (client_id, athlete_id, movement, family, done_on, effort, set_number, load_amount, "
            "load_unit, load_kg, supported, side, reps, reps_to_depth, depth_standard, fault, fault_breaking, pain, "
            "pain_region, pain_character, trust, firm, withdrawn, standing, flags, by_id, at) VALUES ('x', 1, 'back_squat', "
            "'squat', '2026-10-05', 'work', 1, '80', 'kg', 80, 0, '', 5, 5, 'd', 'knees_in', 1, 0, '', '', 2, 1, 0, 1, '[]', "
            f"{signed})"
        )
    database.close()
    migrate(path)
    with Database(path).reader() as db:
        weeks = db.scalars(select(ExerciseWeek).order_by(ExerciseWeek.exercise_id)).all()
        assert [(one.superset, one.spare, one.circuit, one.rest_s) for one in weeks] == [
            (0, False, False, 0), (4, False, False, 0), (4, True, False, 0),
        ]  # fmt: skip
        entry = db.scalars(select(SetEntry)).one()
        assert entry.faults == ["knees_in"] and entry.notes == {} and entry.left_reps is None
