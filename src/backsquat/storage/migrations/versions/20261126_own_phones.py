"""athletes sign in on their own phones; what a device kept without a line is stored once"""

import sqlalchemy as sa
from alembic import op

revision = "own_phones"
down_revision = "sessions"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "athlete_passes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
        sa.Column("token", sa.String(), nullable=False),
        sa.Column("session_id", sa.Integer(), sa.ForeignKey("block_sessions.id"), nullable=True),
        sa.Column("week", sa.Integer(), nullable=False),
        sa.Column("until", sa.DateTime(), nullable=True),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.UniqueConstraint("token", name="uq_athlete_passes_token"),
    )
    op.create_index("ix_athlete_passes_athlete_id", "athlete_passes", ["athlete_id"])
    with op.batch_alter_table("memberships") as table:
        table.add_column(sa.Column("athlete_id", sa.Integer(), nullable=True))
        table.create_foreign_key("fk_memberships_athlete_id_athletes", "athletes", ["athlete_id"], ["id"])
        table.create_unique_constraint("uq_memberships_athlete_id", ["athlete_id"])
    with op.batch_alter_table("sign_ins") as table:
        table.add_column(sa.Column("pass_id", sa.Integer(), nullable=True))
        table.create_foreign_key("fk_sign_ins_pass_id_athlete_passes", "athlete_passes", ["pass_id"], ["id"])
    with op.batch_alter_table("session_acts") as table:
        table.add_column(sa.Column("client_id", sa.String(), nullable=True))
        table.create_unique_constraint("uq_session_acts_client_id", ["client_id"])


def downgrade() -> None:
    with op.batch_alter_table("session_acts") as table:
        table.drop_constraint("uq_session_acts_client_id")
        table.drop_column("client_id")
    with op.batch_alter_table("sign_ins") as table:
        table.drop_constraint("fk_sign_ins_pass_id_athlete_passes")
        table.drop_column("pass_id")
    with op.batch_alter_table("memberships") as table:
        table.drop_constraint("uq_memberships_athlete_id")
        table.drop_constraint("fk_memberships_athlete_id_athletes")
        table.drop_column("athlete_id")
    op.drop_table("athlete_passes")
