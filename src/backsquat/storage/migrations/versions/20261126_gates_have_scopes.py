"""gates have scopes: who was let through to any bar keeps that for pulls and thrusts; tests are found by an index"""

from alembic import op

revision = "gates_have_scopes"
down_revision = "the_house_goes_clean"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE INDEX ix_set_entries_tests ON set_entries (athlete_id, done_on) "
        "WHERE standing = 1 AND effort = 'test' AND estimate_kg IS NOT NULL"
    )
    for gate in ("pull", "thrust"):
        op.execute(
            "INSERT INTO gate_overrides (athlete_id, gate, reason, ended, by_id, at) "
            f"SELECT athlete_id, '{gate}', reason, ended, by_id, at FROM gate_overrides WHERE gate = 'barbell'"
        )


def downgrade() -> None:
    op.execute("DROP INDEX ix_set_entries_tests")
    op.execute("DELETE FROM gate_overrides WHERE gate IN ('pull', 'thrust')")
