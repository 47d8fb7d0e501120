"""sessions held on another day by one athlete alone"""

import sqlalchemy as sa
from alembic import op

revision = "own_days"
down_revision = "more_milestones"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "own_days",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("session_id", sa.Integer(), sa.ForeignKey("block_sessions.id"), nullable=False),
        sa.Column("week", sa.Integer(), nullable=False),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
        sa.Column("held_on", sa.Date(), nullable=False),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.UniqueConstraint("session_id", "week", "athlete_id"),
    )
    op.create_index("ix_own_days_athlete_id", "own_days", ["athlete_id"])
    op.create_index("ix_own_days_held_on", "own_days", ["held_on"])


def downgrade() -> None:
    op.drop_table("own_days")
