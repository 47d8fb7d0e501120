"""the house: what the new columns stand for goes"""

from alembic import op

revision = "the_house_goes_clean"
down_revision = "the_house_data"
branch_labels = None
depends_on = None

GONE = {
    "block_slots": ("weekday INTEGER NOT NULL DEFAULT 0",),
    "set_entries": ("replaced BOOLEAN NOT NULL DEFAULT 0",),
    "absences": ("weeks JSON NOT NULL DEFAULT '[]'",),
    "decisions": ("effect JSON NOT NULL DEFAULT '{}'",),
}
ESTIMATE = "ix_set_entries_estimate ON set_entries (movement, athlete_id, done_on, firm, estimate_kg, trust)"


def upgrade() -> None:
    op.execute("DROP INDEX ix_set_entries_estimate")
    op.execute(f"CREATE INDEX {ESTIMATE} WHERE standing = 1 AND estimate_kg IS NOT NULL")
    for table, columns in GONE.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} DROP COLUMN {column.split()[0]}")


def downgrade() -> None:
    op.execute("DROP INDEX ix_set_entries_estimate")
    for table, columns in GONE.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ADD COLUMN {column}")
    op.execute(f"CREATE INDEX {ESTIMATE} WHERE replaced = 0 AND estimate_kg IS NOT NULL")
