"""a slot's day and order wait for publishing; what moves a plan is one history"""

import sqlalchemy as sa
from alembic import op

revision = "slots_have_drafts"
down_revision = "missed_sessions"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "slot_weeks",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("slot_id", sa.Integer(), sa.ForeignKey("block_slots.id"), nullable=False),
        sa.Column("week", sa.Integer(), nullable=False),
        sa.Column("session_id", sa.Integer(), sa.ForeignKey("block_sessions.id"), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.UniqueConstraint("slot_id", "week", name="uq_slot_weeks_slot_id_week"),
    )
    op.create_index("ix_slot_weeks_session_id_slot_weeks_week", "slot_weeks", ["session_id", "week"])
    # what was published stands on the floor where it stood
    op.execute(
        "INSERT INTO slot_weeks (slot_id, week, session_id, position)"
        " SELECT s.id, d.week, s.session_id, s.position FROM block_slots s"
        " JOIN session_days d ON d.session_id = s.session_id"
        " WHERE NOT s.removed AND EXISTS (SELECT 1 FROM plan_versions v WHERE v.block_id = s.block_id)"
    )
    nought = sa.text("0")
    op.add_column("block_slots", sa.Column("session_from", sa.Integer(), nullable=False, server_default=nought))
    op.add_column("block_slots", sa.Column("moved", sa.Boolean(), nullable=False, server_default=nought))
    op.add_column("changes", sa.Column("facts", sa.JSON(), nullable=False, server_default=sa.text("'{}'")))
    op.add_column("changes", sa.Column("again", sa.Boolean(), nullable=False, server_default=nought))
    op.create_index("ix_changes_subject_id_changes_subject", "changes", ["subject_id", "subject"])


def downgrade() -> None:
    op.drop_index("ix_changes_subject_id_changes_subject", "changes")
    for table, column in (("changes", "again"), ("changes", "facts"), ("block_slots", "moved")):
        op.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
    op.execute("ALTER TABLE block_slots DROP COLUMN session_from")
    op.drop_table("slot_weeks")
