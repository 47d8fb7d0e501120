"""know the athlete: what older rows meant

The family of a logged set stands beside it from now on, and who was let through the gate by the old tick
keeps that as an override with its person and day.
"""

from alembic import op

revision = "know_the_athlete_data"
down_revision = "know_the_athlete"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("UPDATE set_entries SET family = 'hinge' WHERE movement = 'romanian_deadlift'")
    op.execute(
        "INSERT INTO gate_overrides (athlete_id, gate, reason, ended, by_id, at) "
        "SELECT id, 'barbell', 'a sound squat was shown before there was a checklist', 0, by_id, at "
        "FROM athletes WHERE shown_sound = 1"
    )


def downgrade() -> None:
    op.execute("DELETE FROM gate_overrides")
