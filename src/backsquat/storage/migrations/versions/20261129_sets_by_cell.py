"""how many sets stand in a cell, and what was left of them, read from the index alone"""

from alembic import op

revision = "sets_by_cell"
down_revision = "own_days"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_index("ix_set_entries_cell", "set_entries")
    op.create_index("ix_set_entries_cell", "set_entries", ["cell_id", "standing", "set_number", "reserve_reps"])


def downgrade() -> None:
    op.drop_index("ix_set_entries_cell", "set_entries")
    op.create_index("ix_set_entries_cell", "set_entries", ["cell_id"])
