"""what the coach says of sessions nobody came to"""

import sqlalchemy as sa
from alembic import op

revision = "missed_sessions"
down_revision = "gates_have_scopes"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "missed_answers",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
        sa.Column("session_id", sa.Integer(), sa.ForeignKey("block_sessions.id"), nullable=False),
        sa.Column("week", sa.Integer(), nullable=False),
        sa.Column("answer", sa.String(), nullable=False),
        sa.Column("taken_back", sa.Boolean(), nullable=False),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_missed_answers_athlete_id_missed_answers_session_id", "missed_answers", ["athlete_id", "session_id"])


def downgrade() -> None:
    op.drop_table("missed_answers")
